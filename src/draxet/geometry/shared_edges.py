"""Shared edges: stretches that two closed contours have exactly in common, as areas of colour do.

Such a stretch is meant: both areas stay closed. Whatever follows it needs it once.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Bools, Ints
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.spans import Spans
from draxet.record import record

__all__ = ["Run", "SharedEdges", "shared_edges"]

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

    touching : (n,) which contours share a stretch with another one. own : what of those no other one has; together it bounds the
    areas as a whole. shared : every common stretch, once, from junction to junction.
    """

    touching: Bools
    own: tuple[Run, ...]
    shared: tuple[Run, ...]


def shared_edges(contours: Sequence[Contour]) -> SharedEdges:
    """Find common stretches: spans with the same ends and the same course, whichever way they run. Open contours share nothing.

    Cost grows as n log n with the spans.
    """
    spans, owner = joined_spans(contours)
    touching = np.zeros(len(contours), dtype=bool)
    if not len(spans):
        return SharedEdges(touching, (), ())
    closed = np.array([contour.closed for contour in contours])[owner]
    _, which = np.unique(_marks(spans), return_inverse=True)
    common = closed & (np.bincount(which[closed], minlength=int(which.max()) + 1)[which] > 1)
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
        tuple(Run(_joined(spans, run), tuple(dict.fromkeys(int(owner[k]) for k, _ in run))) for run in _runs(spans, own, through=True)),
        tuple(Run(_joined(spans, run), tuple(sorted({o for k, _ in run for o in owners[int(which[k])]}))) for run in _runs(spans, once, through=False)),
    )


def _marks(spans: Spans) -> Ints:
    """A number for each span, the same for those that run along the same line either way."""
    a, b = np.round(spans.starts / _SAME).astype(np.int64), np.round(spans.ends / _SAME).astype(np.int64)
    back = (a[:, 0] > b[:, 0]) | ((a[:, 0] == b[:, 0]) & (a[:, 1] > b[:, 1]))
    handles = np.round(spans.handles / _SAME).astype(np.int64)
    handles[back] = handles[back][:, ::-1]
    bulges = np.round(np.where(back, -spans.bulges, spans.bulges) / _SAME).astype(np.int64)
    columns = [*np.where(back[:, None], b, a).T, *np.where(back[:, None], a, b).T, spans.kinds, bulges, *handles.reshape(-1, 4).T]
    factors = np.random.default_rng(7).integers(1, 2**62, len(columns)) * 2 + 1
    with np.errstate(over="ignore"):
        marks = np.zeros(len(spans), dtype=np.int64)
        for column, factor in zip(columns, factors.tolist(), strict=True):
            marks = (marks ^ (marks >> 31)) * np.int64(-7046029254386353131) + column * np.int64(factor)
    return marks


def _runs(spans: Spans, index: Ints, *, through: bool) -> list[list[tuple[int, bool]]]:
    """Spans strung together end to end: lists of (span, whether it runs forwards).

    Parameters
    ----------
    through : whether runs go on through places where more than two spans meet.
    """
    places = np.round(np.concatenate([spans.starts[index], spans.ends[index]]) / _SAME).astype(np.int64)
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
    closed = bool(np.abs(starts[0] - last).max() <= _SAME) and (len(run) > 1 or bool(spans.kinds[index[0]]))
    handles = spans.handles[index].copy()
    handles[~forward] = handles[~forward][:, ::-1]
    nodes = starts if closed else np.vstack([starts, last[None]])
    return Contour.make(nodes, spans.kinds[index], np.where(forward, spans.bulges[index], -spans.bulges[index]), handles, closed=closed)
