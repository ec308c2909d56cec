"""Shared edges: stretches that two closed contours have exactly in common, with an area on either
side, as areas of colour do.

Such a stretch is meant: both areas stay closed. Whatever follows it needs it once. What has its
area on the same side was drawn twice.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Bools, Ints
from draxet.geometry.contour import Contour, areas_of, joined_spans
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.spans import Spans
from draxet.record import record

__all__ = ["Run", "SharedEdges", "clockwise_within", "equal_outlines", "shared_edges"]

_SAME = 1e-6
"""mm to which coordinates are equal."""


@record(frozen=True)
class Run:
    """A contour made of stretches of others, and which ones (numbers, each once, in order)."""

    contour: Contour
    of: tuple[int, ...]


@record(frozen=True)
class SharedEdges:
    """What closed contours have in common.

    touching : (n,) which contours share a stretch with another one. own : what of those no other
    one has; together it bounds the
    areas as a whole. shared : every common stretch, once, from junction to junction.
    """

    touching: Bools
    own: tuple[Run, ...]
    shared: tuple[Run, ...]


def shared_edges(
    contours: Sequence[Contour],
    outside: Sequence[bool] | None = None,
    family: Sequence[int] | None = None,
) -> SharedEdges:
    """Find common stretches: spans with the same ends and the same course, whichever way they run,
    with an area on either side. Open contours share nothing.

    Parameters
    ----------
    outside : which contours bound a hole, and so have their area outside as well; without it, those
    that run clockwise within another one. family : a
        number for each contour; a hole and what fills it are of one family.

    Cost grows as n log n with the spans.
    """
    spans, owner = joined_spans(contours)
    touching = np.zeros(len(contours), dtype=bool)
    if not len(spans):
        return SharedEdges(touching, (), ())
    closed = np.array([contour.closed for contour in contours])[owner]
    marks, back = _marks(spans)
    _, which = np.unique(marks, return_inverse=True)
    common = closed & (np.bincount(which[closed], minlength=int(which.max()) + 1)[which] > 1)
    if common.any():
        holes = clockwise_within(contours) if outside is None else np.asarray(outside, dtype=bool)
        families = np.zeros(len(contours), np.int64) if family is None else np.asarray(family)
        common &= _on_both_sides(contours, owner, which, back, common, holes, families)
    if not common.any():
        return SharedEdges(touching, (), ())
    touching[owner[common]] = True
    owners: dict[int, set[int]] = defaultdict(set)
    for k in np.flatnonzero(common).tolist():
        owners[int(which[k])].add(int(owner[k]))
    in_common = np.flatnonzero(common)
    once = in_common[np.unique(which[in_common], return_index=True)[1]]
    own = np.flatnonzero(~common & touching[owner])
    return SharedEdges(
        touching,
        tuple(
            Run(_joined(spans, run), tuple(dict.fromkeys(int(owner[k]) for k, _ in run)))
            for run in _runs(spans, own, through=True)
        ),
        tuple(
            Run(
                _joined(spans, run),
                tuple(sorted({o for k, _ in run for o in owners[int(which[k])]})),
            )
            for run in _runs(spans, once, through=False)
        ),
    )


def _on_both_sides(
    contours: Sequence[Contour],
    owner: Ints,
    which: Ints,
    back: Bools,
    common: Bools,
    outside: Bools,
    family: Ints,
) -> Bools:
    """Of spans that several have, those that have an area on either side."""
    turns = np.array([contour.area for contour in contours]) > 0
    left = turns[owner] ^ back  # of the line as it is marked
    found = np.zeros(len(which), dtype=bool)
    index, count = np.flatnonzero(common), int(which.max()) + 1
    cases = [
        (left, index),
        *(
            (left ^ outside[owner], index[family[owner[index]] == each])
            for each in np.unique(family[owner[index]]).tolist()
        ),
    ]
    for side, mine in cases:
        here, there = (
            np.bincount(which[mine[of[mine]]], minlength=count) > 0 for of in (side, ~side)
        )
        found |= (here & there)[which]
    return found


def clockwise_within(contours: Sequence[Contour]) -> Bools:
    """Which closed contours run clockwise and lie within another one (n,): the holes, where areas
    were made with theirs."""
    back: Bools = areas_of(contours) < 0
    return back & (nesting_depths(contours) > 0) if back.any() else back


def equal_outlines(contours: Sequence[Contour]) -> list[tuple[int, ...]]:
    """Which contours are one outline, or one open line, whichever way they run and wherever they
    begin: the numbers of each such group of two and more."""
    spans, owner = joined_spans(contours)
    if not len(spans):
        return []
    marks, _ = _marks(spans)
    order = np.lexsort([marks, owner])
    first = np.searchsorted(owner[order], np.arange(len(contours)))
    groups: dict[bytes, list[int]] = defaultdict(list)
    for k, part in enumerate(np.split(marks[order], first[1:])):
        groups[part.tobytes() + bytes([contours[k].closed])].append(k)
    return [tuple(group) for group in groups.values() if len(group) > 1]


def _marks(spans: Spans) -> tuple[Ints, Bools]:
    """A number for each span, the same for those that run along the same line either way; and which
    of them run it backwards."""
    a, b = (
        np.round(spans.starts / _SAME).astype(np.int64),
        np.round(spans.ends / _SAME).astype(np.int64),
    )
    back = (a[:, 0] > b[:, 0]) | ((a[:, 0] == b[:, 0]) & (a[:, 1] > b[:, 1]))
    handles = np.round(spans.handles / _SAME).astype(np.int64)
    handles[back] = handles[back][:, ::-1]
    bulges = np.round(np.where(back, -spans.bulges, spans.bulges) / _SAME).astype(np.int64)
    columns = [
        *np.where(back[:, None], b, a).T,
        *np.where(back[:, None], a, b).T,
        spans.kinds,
        bulges,
        *handles.reshape(-1, 4).T,
    ]
    factors = np.random.default_rng(7).integers(1, 2**62, len(columns)) * 2 + 1
    with np.errstate(over="ignore"):
        marks = np.zeros(len(spans), dtype=np.int64)
        for column, factor in zip(columns, factors.tolist(), strict=True):
            marks = (marks ^ (marks >> 31)) * np.int64(-7046029254386353131) + column * np.int64(
                factor
            )
    return marks, back


def _runs(spans: Spans, index: Ints, *, through: bool) -> list[list[tuple[int, bool]]]:
    """Spans strung together end to end: lists of (span, whether it runs forwards).

    Parameters
    ----------
    through : whether runs go on through places where more than two spans meet.
    """
    places = np.round(np.concatenate([spans.starts[index], spans.ends[index]]) / _SAME).astype(
        np.int64
    )
    _, place = np.unique(places, axis=0, return_inverse=True)
    count = len(index)
    ends = np.stack([place.ravel()[:count], place.ravel()[count:]], axis=1).tolist()
    at: dict[int, list[int]] = defaultdict(list)
    for k, (a, b) in enumerate(ends):
        at[a].append(k)
        at[b].append(k)
    left = set(range(count))

    def onward(node: int) -> int | None:
        if not through and len(at[node]) != 2:
            return None
        return next((k for k in at[node] if k in left), None)

    def walk(k: int, node: int) -> list[tuple[int, bool]]:
        """From span k on, begun at `node`."""
        way = []
        following: int | None = k
        while following is not None:
            left.discard(following)
            forward = ends[following][0] == node
            way.append((following, forward))
            node = ends[following][1 if forward else 0]
            following = onward(node)
        return way

    runs = []
    begins = [] if through else [(k, node) for node, ks in at.items() if len(ks) != 2 for k in ks]
    for k, node in begins:
        if k in left:
            runs.append(walk(k, node))
    for k in range(count):
        if k in left:
            runs.append(walk(k, ends[k][0]))
    return [[(int(index[k]), forward) for k, forward in run] for run in runs]


def _joined(spans: Spans, run: list[tuple[int, bool]]) -> Contour:
    index = np.array([k for k, _ in run])
    forward = np.array([f for _, f in run])
    starts = np.where(forward[:, None], spans.starts[index], spans.ends[index])
    last = spans.ends[index[-1]] if forward[-1] else spans.starts[index[-1]]
    closed = bool(np.abs(starts[0] - last).max() <= _SAME) and (
        len(run) > 1 or bool(spans.kinds[index[0]])
    )
    handles = spans.handles[index].copy()
    handles[~forward] = handles[~forward][:, ::-1]
    nodes = starts if closed else np.vstack([starts, last[None]])
    return Contour.make(
        nodes,
        spans.kinds[index],
        np.where(forward, spans.bulges[index], -spans.bulges[index]),
        handles,
        closed=closed,
    )
