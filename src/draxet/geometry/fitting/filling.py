"""Open pieces become arcs and cubics: halved until they hold the tolerance, then joined where one
span does for two.

While breaks are still sought, a cubic is free to choose its directions at breaks between curves.
Once the breaks stand, both neighbours take the mean of their directions there, so that the contour
runs on smoothly.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, crosses, norms, rows
from draxet.geometry.fitting.cubics import fit_cubics, rough_distances
from draxet.geometry.fitting.fill_shapes import SMALLEST, arcs_of, cubics_of, curled, folded
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.intervals import Chords, Intervals
from draxet.geometry.fitting.loops import Unrolled
from draxet.geometry.fitting.sample_pieces import OPEN, Pieces, unit
from draxet.geometry.spans import ARC, CUBIC, LINE

__all__ = ["filled"]


_ROUGH_FROM = 12
"""Samples from which on a rough look at a piece is worth its time."""

_HOPELESS = 3.0
"""So many tolerances off at a rough look, and hardly any piece turns out to hold."""

_SHORT_SIDE = 10
"""Samples of a side between two corners of which all but the middle ones may be rounded."""

_BLURRED = 10.0
"""A piece no longer than so many standard deviations of the blur has been rounded all along."""

_SHORT_RUN = 24
"""A straight run of fewer samples may turn out to be part of a wide arc."""

_STRAIGHT = 1e-6
"""An arc of a smaller bulge is a line."""

_MOVED = 0.5
"""A break is moved by so many tolerances at the most from its sample: more, and the parabola there
has cut across a kink."""

_ROUNDS = 8

_LAST_ROUNDS = 2

_FRAME = 4

_FRAME_STEPS = np.arange(-_FRAME, _FRAME + 1)[:, None]

_FRAME_PLACE, _FRAME_SLOPE = (
    np.stack(
        [
            np.linalg.pinv(
                np.vander(np.clip(_FRAME_STEPS[:, 0], -reach, reach), 3, increasing=True)
            )[k]
            for reach in range(_FRAME + 1)
        ]
    )
    for k in (0, 1)
)
"""How much each of nine samples counts for place and direction of a parabola through those within a
reach of 0 to 4."""


def filled(pieces: Pieces, loops: Unrolled, settings: FitSettings) -> Pieces:
    """All pieces with a shape; breaks that turn out to be needless are gone."""
    line = pieces.kind == LINE
    held = replace(
        pieces,
        held=line[pieces.before()] & ~pieces.sharp,
        held_end=line[pieces.after()] & ~pieces.sharp_end,
    )
    done = [held.take(~(held.kind == OPEN))]
    work = held.take(held.kind == OPEN)
    while len(work):
        bad, at = _hopeless(work, loops, settings)
        if (likely := np.flatnonzero(~bad)).size:
            some = work.take(likely)
            shaped, good, at[likely] = _shaped(some, loops, settings, _between_known(some))
            done.append(shaped.take(good))
            bad[likely] = ~good
        work = _halved(work.take(bad), at[bad], loops, settings)
    return _smoothed(_with_pairs_joined(Pieces.joined(done), loops, settings), loops, settings)


def _between_known(work: Pieces) -> Bools:
    """Which pieces lie between lines or corners: an arc there is an arc in truth."""
    return (work.sharp | work.held) & (work.sharp_end | work.held_end)


def _within(work: Pieces, loops: Unrolled, settings: FitSettings) -> Floats:
    """How far a free curve may lie from its samples: no less than what blur does to those of a
    short piece beside a corner."""
    long = loops.along[work.last] - loops.along[work.first]
    blurred = (work.sharp | work.sharp_end | work.held | work.held_end) & (
        long <= _BLURRED * settings.blur
    )
    return np.where(blurred, settings.tolerance, settings.curves)


def _core(work: Pieces) -> tuple[Ints, Ints]:
    """The samples that count: without those that the blur has rounded beside a corner."""
    inset = np.where(work.size >= 8, 2, np.where(work.size >= 5, 1, 0))
    return work.first + inset * work.sharp, work.last - inset * work.sharp_end


def _hopeless(work: Pieces, loops: Unrolled, settings: FitSettings) -> tuple[Bools, Ints]:
    """Which pieces no span will fit, as a rough look says, and where each is farthest off."""
    first, last = _core(work)
    bad, at = (
        (work.starts == work.ends).all(axis=1) & (work.size >= SMALLEST),
        (work.first + work.last) // 2,
    )
    if (
        whole := np.flatnonzero(bad)
    ).size:  # a loop in one piece is parted where it is farthest from its start
        part = Intervals.of(loops.points, work.first[whole], work.last[whole])
        at[whole] = (
            work.first[whole]
            + part.greatest(norms(part.points - part.each(work.starts[whole].T).T))[1]
        )
    long = np.flatnonzero((work.size >= _ROUGH_FROM) & ~bad)
    if long.size:
        off, place = rough_distances(
            loops.points, first[long], last[long], work.starts[long], work.ends[long]
        )
        bad[long] = off > _HOPELESS * settings.curves
        at[long] = first[long] + place
    return bad, at


def _shaped(
    work: Pieces, loops: Unrolled, settings: FitSettings, known: Bools
) -> tuple[Pieces, Bools, Ints]:
    """Each piece as the simplest span that fits it, whether that holds, and the sample where it is
    farthest off.

    `known` (k,) says which pieces, where they are arcs, are shapes of their own and no parts of
    free curves.
    """
    first, last = _core(work)
    chords = Chords.of(
        Intervals.of(loops.points, first, last, thinned=True), work.starts, work.ends
    )
    chord = norms(work.ends - work.starts)
    arcs = arcs_of(work, chords, chord, known, settings)
    small = work.size < SMALLEST
    wanted = ~arcs.holds & ~small
    cubics = cubics_of(work, chords, wanted)
    close = np.flatnonzero(wanted & (cubics.off <= _within(work, loops, settings)))
    bad = close[
        folded(work, close, cubics.handles[close], loops, settings) | curled(work, cubics)[close]
    ]
    arc, cubic = arcs.holds.copy(), np.zeros(len(work), dtype=bool)
    arc[bad] = arcs.nearly[bad]
    cubic[close], cubic[bad] = True, False
    line = (
        small
        | _short_sides(work, loops, settings)
        | (arc & ((arcs.flat & work.sharp & work.sharp_end) | (np.abs(arcs.bulge) < _STRAIGHT)))
    )
    kind = np.where(line, LINE, np.where(arc, ARC, CUBIC))
    good = (line | arc | cubic) & ((chord > 1e-9) | small)
    shaped = replace(
        work,
        kind=kind,
        bulge=np.where(kind == ARC, arcs.bulge, 0.0),
        handles=np.where((kind == CUBIC)[:, None, None], cubics.handles, 0.0),
        leave=np.where((kind == ARC)[:, None], arcs.leave, cubics.leave),
        reach=np.where((kind == ARC)[:, None], arcs.reach, cubics.reach),
    )
    return shaped, np.asarray(good), first + cubics.at


def _short_sides(work: Pieces, loops: Unrolled, settings: FitSettings) -> Bools:
    """Which pieces are short sides between two corners: blur has rounded all of their samples but
    those in the middle."""
    short = work.sharp & work.sharp_end & (work.size <= _SHORT_SIDE)
    chord, off = (
        work.ends - work.starts,
        rows(loops.points, (work.first + work.last) // 2) - work.starts,
    )
    return np.asarray(short & (np.abs(crosses(chord, off)) <= settings.tolerance * norms(chord)))


def _halved(work: Pieces, at: Ints, loops: Unrolled, settings: FitSettings) -> Pieces:
    """Each piece as two, parted at sample `at` or as near to it as leaves both a fair share."""
    share = np.maximum(2, (2 * work.size) // 5)
    share = np.minimum(share, work.size // 2)
    at = np.clip(at, work.first + share, work.last - share)
    node, direction = _local_frames(
        loops.points,
        at,
        np.minimum(_FRAME, np.minimum(at - work.first, work.last - at)),
        _MOVED * settings.curves,
    )
    free = np.zeros(len(work), dtype=bool)
    left = replace(work, last=at, ends=node, reach=direction, sharp_end=free, held_end=free, cut=at)
    right = replace(work, first=at, starts=node, leave=direction, sharp=free, held=free, cut=at)
    return Pieces.concatenated([left, right])


def _local_frames(points: Points, at: Ints, reach: Ints, most: float) -> tuple[Points, Points]:
    """Place and direction (k, 2) of the contour at samples `at`, from a parabola through the
    samples round each; the place lies no farther than `most` from the sample."""
    here = rows(points, at)
    local = rows(points, at + np.clip(_FRAME_STEPS, -reach, reach)) - here
    place, direction = (
        (rows(weights, reach).T[..., None] * local).sum(axis=0)
        for weights in (_FRAME_PLACE, _FRAME_SLOPE)
    )
    return here + place * np.minimum(1.0, most / np.maximum(norms(place), 1e-12))[:, None], unit(
        direction
    )


def _with_pairs_joined(pieces: Pieces, loops: Unrolled, settings: FitSettings) -> Pieces:
    """Neighbours that one arc or cubic does for become one, over and over; later only beside what
    is new."""
    new = np.ones(len(pieces), dtype=bool)
    for _ in range(_ROUNDS):
        bendable = (pieces.kind != LINE) | (pieces.size < _SHORT_RUN)
        pair = (
            bendable[:-1]
            & bendable[1:]
            & (pieces.loop[:-1] == pieces.loop[1:])
            & ~pieces.sharp_end[:-1]
            & (new[:-1] | new[1:])
        )
        pair &= (pieces.cut[:-1] != pieces.cut[1:]) | (
            pieces.cut[1:] < 0
        )  # of two halves it is known that no one span fits
        left = np.flatnonzero(pair)
        if not left.size:
            break
        a, b = pieces.take(left), pieces.take(left + 1)
        both = replace(
            a,
            last=b.last,
            ends=b.ends,
            reach=b.reach,
            sharp_end=b.sharp_end,
            held_end=b.held_end,
            cut=np.full(len(left), -1),
        )
        likely = np.flatnonzero(~_hopeless(both, loops, settings)[0])
        left, both = left[likely], both.take(likely)
        known = _between_known(both) | (pieces.kind[left] == LINE) | (pieces.kind[left + 1] == LINE)
        shaped, good, _ = _shaped(both, loops, settings, known)
        taken = np.flatnonzero(good & (both.size >= SMALLEST))
        taken = taken[_every_second_in_a_row(left[taken])]
        if not taken.size:
            break
        keep = np.ones(len(pieces), dtype=bool)
        keep[left[taken]] = keep[left[taken] + 1] = False
        pieces = Pieces.joined([pieces.take(keep), shaped.take(taken)])
        new = np.isin(pieces.first, shaped.first[taken])
    return pieces


def _every_second_in_a_row(places: Ints) -> Bools:
    """Of rising whole numbers, those at an even place of their row of neighbours: no two that are
    left touch."""
    begins = np.append(True, np.diff(places) > 1)[: len(places)]
    start = np.maximum.accumulate(np.where(begins, np.arange(len(places)), 0))
    return np.asarray((np.arange(len(places)) - start) % 2 == 0)


def _smoothed(pieces: Pieces, loops: Unrolled, settings: FitSettings) -> Pieces:
    """Cubics take shared directions at smooth breaks: an arc's own beside arcs, else the mean of
    both sides."""
    back, onward = pieces.before(), pieces.after()
    cubic, arc = pieces.kind == CUBIC, pieces.kind == ARC
    mean = unit(pieces.leave + pieces.reach[back])
    soft = cubic & ~pieces.sharp & ~pieces.held
    leave = np.where(
        (soft & arc[back])[:, None],
        pieces.reach[back],
        np.where((soft & cubic[back])[:, None], mean, pieces.leave),
    )
    soft_end = cubic & ~pieces.sharp_end & ~pieces.held_end
    reach = np.where(
        (soft_end & arc[onward])[:, None],
        pieces.leave[onward],
        np.where((soft_end & cubic[onward])[:, None], mean[onward], pieces.reach),
    )
    again = np.flatnonzero(soft | soft_end)
    if not again.size:
        return pieces
    part = pieces.take(again)
    fitted, off, _ = fit_cubics(
        Chords.of(Intervals.of(loops.points, *_core(part), thinned=True), part.starts, part.ends),
        leave[again],
        reach[again],
        _LAST_ROUNDS,
        part.handles,
    )
    sound = (off <= 1.6 * settings.curves) & ~folded(pieces, again, fitted, loops, settings)
    handles = pieces.handles.copy()
    handles[again[sound]] = fitted[sound]
    return replace(pieces, handles=handles)
