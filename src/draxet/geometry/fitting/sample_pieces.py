"""Pieces: the intervals of samples that become spans, and the breaks between them.

A *piece* is an interval of samples that becomes one span; a *break* is the sample at which one
piece ends and the next begins. A break is *sharp* where a corner stands. Pieces are tables (arrays,
one row each) in the order of their samples.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, crosses, dots, norms, rows
from draxet.geometry.fitting.fillets import fit_fillets
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.intervals import Intervals
from draxet.geometry.fitting.loop_corners import meeting_points, tip_room
from draxet.geometry.fitting.loops import Unrolled
from draxet.geometry.fitting.straight_runs import StraightRuns
from draxet.geometry.spans import ARC, LINE
from draxet.record import record

__all__ = ["OPEN", "Pieces", "first_pieces", "place_breaks", "unit", "with_fillets"]

_MOST_GROWN = 16
_SIDE = 8
"""A piece's direction at an end is told by fewer samples than this."""
_MOVED_BY_BLUR = 0.8
"""Blur of standard deviation 1 moves the samples at a tip so far away from either side at the most;
from a right angle's, 0.54."""
_SURE = 1.5
"""Where two straight runs meet is surer than where curves do: a tip may lie so many times as far
away."""
_END_OFF = 0.2
"""The given end of an open chain may lie so much farther than the tolerance off a line that runs on
to it."""
OPEN = -1
"""Kind of a piece that has no shape yet."""


@record(frozen=True)
class Pieces:
    """k pieces, loop by loop: samples `first`..`last`, `kind` (LINE, ARC, CUBIC or open), and their
    ends.

    `starts`, `ends` (k, 2) are where the span begins and ends; `leave`, `reach` (k, 2) its
    directions there; `sharp`, `sharp_end` (k,) say that a corner stands there. `bulge` (k,),
    `handles` (k, 2, 2) as in ``Spans``. `held`, `held_end` (k,) say that a line beside it gives the
    direction there. `cut` (k,) is the sample at which a piece that nothing fitted was halved into
    this one and its neighbour, or -1.
    """

    first: Ints
    last: Ints
    loop: Ints
    kind: Ints
    sharp: Bools
    sharp_end: Bools
    starts: Points
    ends: Points
    leave: Points
    reach: Points
    bulge: Floats
    handles: Floats
    held: Bools
    held_end: Bools
    cut: Ints

    @staticmethod
    def concatenated(parts: list[Pieces]) -> Pieces:
        """Several tables as one, one after the other."""
        return Pieces(
            *(np.concatenate([getattr(part, name) for part in parts]) for name in _FIELDS)
        )

    @staticmethod
    def joined(parts: list[Pieces]) -> Pieces:
        """Several tables as one, in the order of their samples."""
        whole = Pieces.concatenated(parts)
        return whole.take(np.argsort(whole.first, kind="stable"))

    def __len__(self) -> int:
        return len(self.first)

    @property
    def size(self) -> Ints:
        return self.last - self.first

    def take(self, index: Ints | Bools) -> Pieces:
        """The pieces of these numbers, or for which a flag (k,) stands."""
        if index.dtype == bool:
            if index.all():
                return self
            index = np.flatnonzero(index)
        return Pieces(*(getattr(self, name).take(index, axis=0) for name in _FIELDS))

    def before(self) -> Ints:
        """(k,) the piece before each one, round its loop."""
        k = np.arange(len(self.first))
        new = (
            np.append(True, self.loop[1:] != self.loop[:-1]) if len(k) else np.zeros(0, dtype=bool)
        )
        begins = np.flatnonzero(new)
        finals = np.append(begins[1:], len(k)) - 1
        back = k - 1
        back[begins] = finals
        return back

    def after(self) -> Ints:
        before = self.before()
        onward = np.empty_like(before)
        onward[before] = np.arange(len(before))
        return onward


_FIELDS = tuple(Pieces.__dataclass_fields__)


def first_pieces(
    loops: Unrolled, corner: Bools, runs: StraightRuns, settings: FitSettings
) -> Pieces:
    """Straight runs as line pieces and what lies between them, cut at corners, as open pieces."""
    first, last = _grown_to_corners(loops, corner, runs, settings)
    label = np.full(len(loops.points), -1, dtype=np.int64)  # of the step from sample i to i + 1
    for k, (a, b) in enumerate(zip(first.tolist(), last.tolist(), strict=True)):
        label[a:b] = k
    cut = np.append(True, label[1:] != label[:-1]) | corner
    cut[loops.firsts] = cut[loops.lasts] = True
    final = np.zeros(len(cut), dtype=bool)
    final[loops.lasts] = True
    cuts = np.flatnonzero(cut)
    begins, ends = cuts[:-1][~final[cuts[:-1]]], cuts[1:][~final[cuts[:-1]]]
    line = label[begins]
    straight, count = line >= 0, len(begins)
    leave = np.zeros((count, 2))
    leave[straight] = runs.direction[line[straight]]
    starts, finals = loops.points[begins].copy(), loops.points[ends].copy()
    for places in (starts, finals):
        places[straight] = _dropped(places[straight], runs.middle[line[straight]], leave[straight])
    kind = np.where(straight, LINE, OPEN)
    return Pieces(
        begins,
        ends,
        loops.owner[begins],
        kind,
        corner[begins],
        corner[ends],
        starts,
        finals,
        leave,
        leave.copy(),
        np.zeros(count),
        np.zeros((count, 2, 2)),
        np.zeros(count, dtype=bool),
        np.zeros(count, dtype=bool),
        np.full(count, -1),
    )


def _grown_to_corners(
    loops: Unrolled, corner: Bools, runs: StraightRuns, settings: FitSettings
) -> tuple[Ints, Ints]:
    """Runs drawn out to a corner, or to where the next run meets them, over the few samples that
    blur has rounded."""
    first, last, within = runs.first.copy(), runs.last.copy(), settings.join_within
    if not len(first):
        return first, last
    hard = corner.copy()
    hard[loops.firsts] = hard[loops.lasts] = True
    at = np.flatnonzero(hard)
    following, preceding = (
        at[np.searchsorted(at, last)],
        at[np.searchsorted(at, first, side="right") - 1],
    )
    reach = np.where(corner, within, 0)
    to_end, to_begin = following - last <= reach[following], first - preceding <= reach[preceding]
    to_end |= corner[following] & _runs_on(loops, runs, last, following - last, 1, settings)
    to_begin |= corner[preceding] & _runs_on(loops, runs, first, first - preceding, -1, settings)
    to_end &= _leads_to(loops, following, runs, settings)
    to_begin &= _leads_to(loops, preceding, runs, settings)
    last[to_end], first[to_begin] = following[to_end], preceding[to_begin]
    gap = first[1:] - last[:-1]
    close = (
        (loops.owner[first[1:]] == loops.owner[last[:-1]])
        & (gap > 0)
        & (gap <= within)
        & ~to_end[:-1]
        & ~to_begin[1:]
    )
    half = np.flatnonzero(close)
    middle = (last[half] + first[half + 1] + 1) // 2
    turn = np.arccos(np.clip(dots(runs.direction[half], runs.direction[half + 1]), -1, 1))
    room = np.minimum(tip_room(turn, settings.blur), 3.0)
    _, met = meeting_points(
        loops.points[middle],
        runs.middle[half],
        runs.direction[half],
        runs.middle[half + 1],
        runs.direction[half + 1],
        room,
    )
    last[half[met]], first[half[met] + 1] = middle[met], middle[met]
    return first, last


def _runs_on(
    loops: Unrolled, runs: StraightRuns, at: Ints, gap: Ints, sense: int, settings: FitSettings
) -> Bools:
    """Whether the few samples from a run's end to the next corner lie on its line too, those
    rounded by the tip's blur aside."""
    steps = np.arange(1, _MOST_GROWN + 1)
    counted = steps <= (gap - settings.join_within)[:, None]
    index = np.clip(at[:, None] + sense * steps, 0, len(loops.points) - 1)
    off = rows(loops.points, index) - runs.middle[:, None]
    away = np.abs(crosses(runs.direction[:, None], off))
    return np.asarray((gap <= _MOST_GROWN) & ((away <= settings.tolerance) | ~counted).all(axis=1))


def _leads_to(loops: Unrolled, at: Ints, runs: StraightRuns, settings: FitSettings) -> Bools:
    """Whether each run's line passes a corner's sample as near as the tip's blur may have moved it,
    or the one beside it; an open chain's end is no tip."""
    away = np.abs(crosses(runs.direction, rows(loops.points, at) - runs.middle))
    return np.asarray(
        away
        <= settings.tolerance
        + np.where(loops.loose[at], _END_OFF, _MOVED_BY_BLUR * settings.blur + 1)
    )


def _dropped(points: Points, middle: Points, direction: Points) -> Points:
    """The feet of `points` on lines."""
    along = dots(points - middle, direction)
    return np.asarray(middle + along[:, None] * direction)


def place_breaks(pieces: Pieces, loops: Unrolled, settings: FitSettings) -> Pieces:
    """Gives every break its place and its directions: at corners and between lines where the sides
    meet."""
    back = pieces.before()
    leave, reach = _side_directions(pieces, loops)
    own, other = pieces.kind == LINE, pieces.kind[back] == LINE
    at = loops.points[pieces.first]
    both_lines = own & other
    hard = pieces.sharp | both_lines
    p = np.where(other[:, None], pieces.ends[back], _inner(pieces, loops, back, from_end=True))
    q = np.where(
        own[:, None], pieces.starts, _inner(pieces, loops, np.arange(len(back)), from_end=False)
    )
    angle = np.arccos(np.clip(dots(reach[back], leave), -1, 1))
    room = tip_room(angle, settings.blur) * np.where(both_lines, _SURE, 1.0)
    place, met = meeting_points(at, p, reach[back], q, leave, room)
    node = at.copy()
    node[own & ~other] = pieces.starts[own & ~other]
    node[other & ~own] = pieces.ends[back][other & ~own]
    node[both_lines] = (pieces.starts[both_lines] + pieces.ends[back][both_lines]) / 2
    node[hard & met] = place[hard & met]
    soft = ~hard
    shared = np.where(
        own[:, None], leave, np.where(other[:, None], reach[back], unit(leave + reach[back]))
    )
    leave = np.where(soft[:, None], shared, leave)
    reach_before = np.where(soft[:, None], shared, reach[back])
    new_reach = np.empty_like(reach)
    new_reach[back] = reach_before
    ends = np.empty_like(node)
    ends[back] = node
    hard_end = np.empty_like(hard)
    hard_end[back] = hard
    return replace(
        pieces, starts=node, ends=ends, leave=leave, reach=new_reach, sharp=hard, sharp_end=hard_end
    )


def _inner(pieces: Pieces, loops: Unrolled, index: Ints, *, from_end: bool) -> Points:
    """A sample of each piece beside its break, out of reach of the tip's blur."""
    size = pieces.last[index] - pieces.first[index]
    inset = np.minimum(3, size // 3)
    return np.asarray(
        loops.points[np.where(from_end, pieces.last[index] - inset, pieces.first[index] + inset)]
    )


def _side_directions(pieces: Pieces, loops: Unrolled) -> tuple[Points, Points]:
    """Directions in which each piece leaves its start and reaches its end: a line's own, else from
    its samples there."""
    size = pieces.last - pieces.first
    near, far = np.minimum(2 * pieces.sharp, size // 3), np.minimum(_SIDE - 1, size)
    near_end = np.minimum(2 * pieces.sharp_end, size // 3)
    leave = _away_from(loops.points, pieces.first, near, far, 1)
    reach = -_away_from(loops.points, pieces.last, near_end, far, -1)
    line = (pieces.kind == LINE)[:, None]
    return np.where(line, pieces.leave, leave), np.where(line, pieces.reach, reach)


def _side_weights() -> tuple[Ints, Floats]:
    """For stretches of samples from `near` to `far` places off, in row ``near * _SIDE + far``: six
    of them, and how much each counts for the slope at place 0 of a parabola through them (of a
    line, where the stretch is short)."""
    steps, weights = np.zeros((_SIDE * _SIDE, 6), dtype=np.int64), np.zeros((_SIDE * _SIDE, 6))
    for near in range(_SIDE):
        for far in range(max(near, 1), _SIDE):
            at = np.rint(np.linspace(near, far, 6)).astype(np.int64)
            basis = np.vander(at, 3 if far - near >= 5 else 2, increasing=True).astype(np.float64)
            steps[near * _SIDE + far], weights[near * _SIDE + far] = at, np.linalg.pinv(basis)[1]
    return steps, weights


_SIDE_STEPS, _SIDE_SLOPES = _side_weights()


def _away_from(points: Points, at: Ints, near: Ints, far: Ints, sense: int) -> Points:
    """Direction at sample `at` of a parabola through the samples near..far places on, in the
    `sense` 1 or -1, by least squares."""
    here = rows(points, at)
    steps, weights = (
        rows(_SIDE_STEPS, near * _SIDE + far).T,
        rows(_SIDE_SLOPES, near * _SIDE + far).T,
    )
    slope = (weights[..., None] * (rows(points, at + sense * steps) - here)).sum(axis=0)
    chord = rows(points, at + sense * far) - here
    facing = dots(slope, chord) > 0.5 * norms(slope) * norms(chord)
    return unit(np.where(facing[:, None], slope, chord))


def unit(vectors: Points) -> Points:
    return np.asarray(vectors / np.maximum(norms(vectors), 1e-12)[:, None])


def with_fillets(pieces: Pieces, loops: Unrolled, settings: FitSettings) -> Pieces:
    """Open pieces between two lines that an arc tangent to both fits become that arc, and the lines
    end on it."""
    back, onward = pieces.before(), pieces.after()
    line = pieces.kind == LINE
    gap = np.flatnonzero(
        (pieces.kind == OPEN)
        & line[back]
        & line[onward]
        & ~pieces.sharp
        & ~pieces.sharp_end
        & (back != onward)
    )
    if not gap.size:
        return pieces
    part = Intervals.of(loops.points, pieces.first[gap], pieces.last[gap])
    before, behind = back[gap], onward[gap]
    fit = fit_fillets(
        part, pieces.starts[before], pieces.leave[before], pieces.ends[behind], pieces.leave[behind]
    )
    good = fit.worst <= settings.tolerance
    gap, before, behind = gap[good], before[good], behind[good]
    starts, ends, kind, bulge = (
        pieces.starts.copy(),
        pieces.ends.copy(),
        pieces.kind.copy(),
        pieces.bulge.copy(),
    )
    leave, reach = pieces.leave.copy(), pieces.reach.copy()
    starts[gap] = ends[before] = fit.starts[good]
    ends[gap] = starts[behind] = fit.ends[good]
    leave[gap], reach[gap] = pieces.leave[before], pieces.leave[behind]
    kind[gap], bulge[gap] = ARC, fit.bulges[good]
    return replace(
        pieces, starts=starts, ends=ends, kind=kind, bulge=bulge, leave=leave, reach=reach
    )
