"""Pieces of contours: from one position to another, joined end to end, begun elsewhere.

A *position* on a contour is the number of a span plus the parameter on it: 2.5 is half way along
the third span.
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.crossings import crossings, parts_of, self_crossings
from draxet.geometry.spans import CUBIC, Spans

__all__ = [
    "SAME_END",
    "begun_at",
    "closed_up",
    "joined",
    "opened_at",
    "piece",
    "place_at",
    "position_near",
    "positions_of_crossings",
    "split_at",
    "strung",
]

_PROBES = 33
"""So many places along a span, and the nearest of them is gone on from."""
_NEAR = 1e-7
SAME_END = 1e-6
"""mm: ends so near lie on each other."""


def position_near(contour: Contour, x: float, y: float) -> float:
    """The position on a contour that is nearest to a place."""
    spans, probes = contour.spans, np.linspace(0.0, 1.0, _PROBES)
    which = np.repeat(np.arange(len(spans)), len(probes))
    away = np.hypot(*(spans.at(which, np.tile(probes, len(spans))) - (x, y)).T)
    best = int(away.argmin())
    t, _ = nearest_on(
        spans, which[best : best + 1], np.array([[x, y]]), probes[best % len(probes)][None]
    )
    return float(which[best]) + float(t[0])


def place_at(contour: Contour, position: float) -> Points:
    """The place (2,) at a position."""
    span = min(int(position), len(contour.kinds) - 1)
    found: Points = contour.spans.at(np.array([span]), np.array([position - span]))
    return found.reshape(2)


def piece(contour: Contour, begin: float, end: float) -> Contour | None:
    """The open piece from one position to another; on a closed contour on over its start where
    `end` is no greater. None where it has no length."""
    count = len(contour.kinds)
    if contour.closed and end <= begin + _NEAR:
        end += count
    if end - begin <= _NEAR:
        return None
    first, last = int(np.floor(begin + _NEAR)), int(np.ceil(end - _NEAR))
    numbers = np.arange(first, last)
    start: Floats = np.zeros(len(numbers))
    stop: Floats = np.ones(len(numbers))
    start[0], stop[-1] = max(begin - first, 0.0), min(end - (last - 1), 1.0)
    start[0] = 0.0 if start[0] < _NEAR else start[0]
    stop[-1] = 1.0 if stop[-1] > 1 - _NEAR else stop[-1]
    return _of_spans(parts_of(contour.spans, numbers % count, start, stop))


def _of_spans(spans: Spans) -> Contour:
    handles = np.where((spans.kinds == CUBIC)[:, None, None], spans.handles, 0.0)
    return Contour.make(
        np.vstack([spans.starts, spans.ends[-1:]]), spans.kinds, spans.bulges, handles, closed=False
    )


def split_at(contour: Contour, position: float) -> list[Contour]:
    """A closed contour opened there, an open one in two; itself where that is its end."""
    if contour.closed:
        return [opened_at(contour, position)]
    parts = [piece(contour, 0.0, position), piece(contour, position, float(len(contour.kinds)))]
    return [part for part in parts if part is not None]


def opened_at(contour: Contour, position: float) -> Contour:
    """A closed contour as an open one that begins and ends at a position."""
    found = piece(contour, position % len(contour.kinds), position % len(contour.kinds))
    assert found is not None
    return found


def begun_at(contour: Contour, position: float) -> Contour:
    """A closed contour of the same shape whose first node lies at a position."""
    opened = opened_at(contour, position)
    return Contour.make(opened.nodes[:-1], opened.kinds, opened.bulges, opened.handles)


def closed_up(contour: Contour) -> Contour:
    """An open contour closed: its last node gives way to the first where they lie on each other,
    else a line leads back."""
    if contour.closed or len(contour.kinds) < 2:
        return contour
    if np.hypot(*(contour.nodes[0] - contour.nodes[-1])) <= SAME_END:
        return Contour.make(contour.nodes[:-1], contour.kinds, contour.bulges, contour.handles)
    return Contour.make(
        contour.nodes,
        np.append(contour.kinds, 0),
        np.append(contour.bulges, 0.0),
        np.concatenate([contour.handles, np.zeros((1, 2, 2))]),
    )


def joined(one: Contour, other: Contour) -> Contour:
    """One open contour of two, led from the end of the first to the end of the second that is
    nearer by a line where they do not meet; whichever ends are nearest to each other are joined."""
    ways = [(a, b) for a in (one.reversed(), one) for b in (other, other.reversed())]
    first, second = min(
        ways, key=lambda way: float(np.hypot(*(way[0].nodes[-1] - way[1].nodes[0])))
    )
    apart = float(np.hypot(*(first.nodes[-1] - second.nodes[0])))
    bridge = apart > 1e-9
    nodes = np.vstack([first.nodes, second.nodes if bridge else second.nodes[1:]])
    gap = [0] if bridge else []
    kinds = np.concatenate([first.kinds, np.array(gap, dtype=first.kinds.dtype), second.kinds])
    bulges = np.concatenate([first.bulges, np.zeros(len(gap)), second.bulges])
    handles = np.concatenate([first.handles, np.zeros((len(gap), 2, 2)), second.handles])
    return Contour.make(nodes, kinds, bulges, handles, closed=False)


def strung(one: Contour, other: Contour) -> Contour:
    """One open contour of two, the second going on where the first ends."""
    return Contour.make(
        np.vstack([one.nodes, other.nodes[1:]]),
        np.concatenate([one.kinds, other.kinds]),
        np.concatenate([one.bulges, other.bulges]),
        np.concatenate([one.handles, other.handles]),
        closed=False,
    )


def positions_of_crossings(contour: Contour, others: Spans) -> Floats:
    """The positions, in order, at which a contour meets other spans and itself."""
    found = [np.zeros(0)]
    if len(others):
        met = crossings(contour.spans, others)
        found.append(met.first + met.t)
    own = self_crossings(contour.spans)
    found += [own.first + own.t, own.second + own.u]
    count = len(contour.kinds)
    every = np.sort(np.concatenate(found) % count if contour.closed else np.concatenate(found))
    return every[np.concatenate([[True], np.diff(every) > _NEAR])] if len(every) else every
