"""Nodes, handles and spans of a contour: moved, added, removed, made corners or smooth, straight, arcs or curves.

Every function gives a new contour and leaves what it is not about as it was: a line stays a line, an arc an arc.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, norms
from draxet.geometry.contour import Contour
from draxet.geometry.crossings import nearest_on, parts_of
from draxet.geometry.fitting.cubics import fit_cubics
from draxet.geometry.fitting.intervals import Chords, Intervals
from draxet.geometry.spans import ARC, CUBIC, LINE, Spans

__all__ = [
    "bend_span", "deviation_between", "make_corners", "make_kind", "make_smooth", "make_symmetrical", "move_handle",
    "move_node", "place_node", "remove_nodes", "split_span", "square_handles", "swell_span",
]  # fmt: skip

_SAMPLES = 48
_THIRD = 1 / 3


def move_node(contour: Contour, node: int, dx: float, dy: float) -> Contour:
    """A contour with one node moved. Arcs keep their sweep; handles at the node move with it."""
    nodes, handles = contour.nodes.copy(), contour.handles.copy()
    nodes[node] += (dx, dy)
    before, after = _beside(contour, node)
    if after is not None and contour.kinds[after] == CUBIC:
        handles[after, 0] += (dx, dy)
    if before is not None and contour.kinds[before] == CUBIC:
        handles[before, 1] += (dx, dy)
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def place_node(contour: Contour, node: int, x: float, y: float) -> Contour:
    """A contour with one node at a place."""
    return move_node(contour, node, x - float(contour.nodes[node, 0]), y - float(contour.nodes[node, 1]))


def move_handle(contour: Contour, span: int, end: int, dx: float, dy: float, *, alone: bool = False) -> Contour:
    """A contour with the handle at the start (`end` 0) or end (1) of a curve moved. Where the node there is smooth, the handle of the
    curve beyond it turns along and keeps its length, unless `alone`."""
    handles = contour.handles.copy()
    handles[span, end] += (dx, dy)
    node = (span + end) % len(contour.nodes)
    before, after = _beside(contour, node)
    other = before if end == 0 else after
    if not alone and other is not None and other != span and contour.kinds[other] == CUBIC and not contour.corners()[node]:
        way = contour.nodes[node] - handles[span, end]
        size = float(np.hypot(*way))
        if size > 0:
            reach = float(np.hypot(*(contour.handles[other, 1 - end] - contour.nodes[node])))
            handles[other, 1 - end] = contour.nodes[node] + way / size * reach
    return Contour.make(contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def bend_span(contour: Contour, span: int, t: float, dx: float, dy: float) -> Contour:
    """A contour with the place at parameter `t` of a span drawn by (dx, dy): a line moves along with both its nodes, an arc takes
    another bulge through the place, a curve bends by both its handles."""
    if contour.kinds[span] == LINE:
        moved = move_node(contour, span, dx, dy)
        return move_node(moved, (span + 1) % len(contour.nodes), dx, dy)
    place = contour.spans.at(np.array([span]), np.array([t]))[0] + (dx, dy)
    if contour.kinds[span] == ARC:
        return _with_bulge(contour, span, place)
    weight = min(max(t, 0.1), 0.9)
    near, far = 3 * (1 - weight) ** 2 * weight, 3 * (1 - weight) * weight**2
    share = np.array([near, far]) / (near * near + far * far)
    handles = contour.handles.copy()
    handles[span] += share[:, None] * np.array([[dx, dy]])
    return Contour.make(contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def _with_bulge(contour: Contour, span: int, place: Points) -> Contour:
    start, end = contour.spans.starts[span], contour.spans.ends[span]
    chord = end - start
    long = float(np.hypot(*chord))
    across = float(chord[0] * (place - start)[1] - chord[1] * (place - start)[0]) / long
    along = float((place - start) @ chord) / long
    # the bulge of the arc through the ends and this place: half the chord over what the angle at the place leaves
    a, b = along * (long - along), across
    seen = np.arctan2(long * abs(b), b * b - a)
    bulges = contour.bulges.copy()
    bulges[span] = -np.sign(b) * np.tan((np.pi - seen) / 2) if b else 0.0
    kinds = contour.kinds.copy()
    kinds[span] = ARC if bulges[span] else LINE
    return Contour.make(contour.nodes, kinds, bulges, contour.handles, closed=contour.closed)


def split_span(contour: Contour, span: int, t: float) -> Contour:
    """A contour with one node more, at parameter `t` of a span; its shape stays."""
    which, begin, end = np.array([span, span]), np.array([0.0, t]), np.array([t, 1.0])
    parts = parts_of(contour.spans, which, begin, end)
    nodes = np.insert(contour.nodes, span + 1, parts.ends[0], axis=0)
    kinds, bulges, handles = (
        np.concatenate([whole[:span], part, whole[span + 1 :]])
        for whole, part in ((contour.kinds, parts.kinds), (contour.bulges, parts.bulges), (contour.handles, parts.handles))
    )
    return Contour.make(nodes, kinds, bulges, handles, closed=contour.closed)


def remove_nodes(contour: Contour, nodes: Iterable[int]) -> Contour | None:
    """A contour without some nodes; what lay between those that stay becomes one span, fitted to it: a line where all of it was
    straight, else the nearest curve. None where fewer than two nodes would be left, or one for a closed one.

    An open contour's own ends go with the spans beside them.
    """
    gone = {k % len(contour.nodes) for k in nodes}
    stay = [k for k in range(len(contour.nodes)) if k not in gone]
    if len(stay) < 2:
        return None
    pairs = list(zip(stay, [*stay[1:], stay[0]], strict=True)) if contour.closed else list(zip(stay[:-1], stay[1:], strict=True))
    kinds, bulges, handles = [], [], []
    for a, b in pairs:
        spans = [(a + k) % len(contour.kinds) for k in range((b - a) % len(contour.nodes) or len(contour.nodes))]
        kind, bulge, handle = _one_span(contour, np.array(spans))
        kinds.append(kind)
        bulges.append(bulge)
        handles.append(handle)
    return Contour.make(contour.nodes[stay], kinds, bulges, handles, closed=contour.closed)


def _one_span(contour: Contour, spans: Ints) -> tuple[int, float, Points]:
    """The one span that comes nearest to several that follow each other."""
    none = np.zeros((2, 2))
    some = contour.spans.take(spans)
    if len(spans) == 1:
        return int(some.kinds[0]), float(some.bulges[0]), some.handles[0]
    samples = np.vstack([some.at(np.repeat(np.arange(len(spans)), _SAMPLES), np.tile(np.arange(_SAMPLES) / _SAMPLES, len(spans))), some.ends[-1:]])
    start, end = samples[0], samples[-1]
    chord = end - start
    long = float(np.hypot(*chord))
    off = np.abs(chord[0] * (samples - start)[:, 1] - chord[1] * (samples - start)[:, 0]) / max(long, 1e-300)
    if (some.kinds == LINE).all() or off.max() <= 1e-6 * max(long, 1.0):
        return LINE, 0.0, none
    whole = _same_circle(some)
    if whole is not None:
        return ARC, whole, none
    leave, reach = some.tangents()[0][:1], some.tangents()[1][-1:]
    scale = len(samples) / max(norms(np.diff(samples, axis=0)).sum(), 1e-300)  # samples about one apart, as fits want them
    part = Chords.of(Intervals.of(samples * scale, np.array([0]), np.array([len(samples) - 1])), samples[:1] * scale, samples[-1:] * scale)
    fitted, off, _ = fit_cubics(part, leave, reach, 12)
    before = _before_it_was_split(some)
    if before is not None and _off(samples, start, before, end) <= float(off[0]) / scale:
        return CUBIC, 0.0, before
    return CUBIC, 0.0, fitted[0] / scale


def _before_it_was_split(spans: Spans) -> Points | None:
    """Handles of the one cubic of which two are halves, by the lengths of their handles in the middle; None where they cannot be."""
    if len(spans) != 2 or (spans.kinds != CUBIC).any():
        return None
    near, far = float(norms(spans.ends[0] - spans.handles[0, 1])), float(norms(spans.handles[1, 0] - spans.starts[1]))
    if min(near, far) <= 1e-12 * max(near, far, 1e-300):
        return None
    t = near / (near + far)
    return np.stack([spans.starts[0] + (spans.handles[0, 0] - spans.starts[0]) / t, spans.ends[1] + (spans.handles[1, 1] - spans.ends[1]) / (1 - t)])


def _off(samples: Points, start: Points, handles: Points, end: Points) -> float:
    """How far samples lie from a cubic at the most."""
    cubic = Spans(start[None], end[None], np.array([CUBIC]), np.zeros(1), handles[None])
    _, off = nearest_on(cubic, np.zeros(len(samples), dtype=np.int64), samples, np.linspace(0, 1, len(samples)))
    return float(off.max())


def _same_circle(spans: Spans) -> float | None:
    """The bulge of the one arc that arcs of one circle make together; None where they are none, or more than most of a circle."""
    if not (spans.kinds == ARC).all() or (spans.bulges == 0).any():
        return None
    shape = spans.arc_shapes()
    if np.ptp(shape.centres, axis=0).max() + np.ptp(shape.radii) > 1e-6 * shape.radii[0]:
        return None
    sweep = float(shape.sweep.sum())
    return float(np.tan(sweep / 4)) if abs(sweep) < 6.2 else None


def make_smooth(contour: Contour, nodes: Iterable[int]) -> Contour:
    """A contour that runs on smoothly through some nodes: handles beside them are laid along one direction, that of a line or an arc
    where there is one, else the mean of both. What is straight beside a straight span stays a corner."""
    result = contour
    for node in sorted({k % len(contour.nodes) for k in nodes}):
        result = _smooth_at(result, node)
    return result


def _smooth_at(contour: Contour, node: int) -> Contour:
    before, after = _beside(contour, node)
    if before is None or after is None or (contour.kinds[before] != CUBIC and contour.kinds[after] != CUBIC):
        return contour
    leave, reach = contour.spans.tangents()
    into, out = reach[before], leave[after]
    way = into if contour.kinds[before] != CUBIC else out if contour.kinds[after] != CUBIC else into + out
    size = float(np.hypot(*way))
    if size < 1e-9:
        way, size = np.array([-into[1], into[0]]), 1.0
    way = way / size
    handles = contour.handles.copy()
    for span, end, sign in ((before, 1, -1.0), (after, 0, 1.0)):
        if contour.kinds[span] == CUBIC:
            long = float(np.hypot(*(handles[span, end] - contour.nodes[node])))
            chord = float(np.hypot(*(contour.spans.ends[span] - contour.spans.starts[span])))
            handles[span, end] = contour.nodes[node] + sign * way * (long or chord * _THIRD)
    return Contour.make(contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def make_corners(contour: Contour, nodes: Iterable[int]) -> Contour:
    """A contour that breaks at some nodes: each handle there is drawn a third of the way towards the next node."""
    handles = contour.handles.copy()
    for node in {k % len(contour.nodes) for k in nodes}:
        for span, end in zip(_beside(contour, node), (1, 0), strict=True):
            if span is not None and contour.kinds[span] == CUBIC:
                far = contour.spans.starts[span] if end == 1 else contour.spans.ends[span]
                handles[span, end] = contour.nodes[node] + (far - contour.nodes[node]) * _THIRD
    return Contour.make(contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def make_kind(contour: Contour, spans: Sequence[int], kind: int) -> Contour:
    """A contour of which some spans are lines, arcs or curves from now on. A line becomes a curve that lies where it lay; between curves
    and arcs its handles take their directions. A curve becomes the arc through its middle."""
    kinds, bulges, handles = contour.kinds.copy(), contour.bulges.copy(), contour.handles.copy()
    every = contour.spans
    for span in spans:
        start, end = every.starts[span], every.ends[span]
        if kind == CUBIC and kinds[span] != CUBIC:
            part, _ = every.take(np.array([span])).as_cubics()
            handles[span] = part[0, 1:3] if len(part) == 1 else _handles_of(every, span)
        bulges[span] = bulges[span] if kind == ARC and kinds[span] == ARC else 0.0
        if kind == ARC and kinds[span] == CUBIC:
            bulges[span] = _bulge_through(start, every.at(np.array([span]), np.array([0.5]))[0], end)
        if kind != CUBIC:
            handles[span] = 0.0
        kinds[span] = kind if kind != ARC or bulges[span] else LINE
    return Contour.make(contour.nodes, kinds, bulges, handles, closed=contour.closed)


def _handles_of(spans: Spans, span: int) -> Points:
    """Handles of one cubic for a whole arc, by its directions and the usual length for its sweep."""
    one = spans.take(np.array([span]))
    leave, reach = one.tangents()
    shape = one.arc_shapes()
    long = 4 / 3 * np.tan(np.abs(shape.sweep) / 4) * shape.radii
    return np.stack([one.starts[0] + leave[0] * long, one.ends[0] - reach[0] * long])


def _bulge_through(start: Points, middle: Points, end: Points) -> float:
    chord = end - start
    long = float(chord @ chord)
    return -2 * float(chord[0] * (middle - start)[1] - chord[1] * (middle - start)[0]) / long if long else 0.0


def deviation_between(one: Contour, other: Contour) -> float:
    """How far two contours lie apart at the most, in mm, as samples of the first tell."""
    a = one.spans
    points = a.at(np.repeat(np.arange(len(a)), _SAMPLES), np.tile(np.linspace(0, 1, _SAMPLES), len(a)))
    best: Floats = np.full(len(points), np.inf)
    for k in range(len(other.kinds)):
        which = np.full(len(points), k)
        for begin in (0.15, 0.5, 0.85):
            _, off = nearest_on(other.spans, which, points, np.full(len(points), begin))
            best = np.minimum(best, off)
    return float(best.max())


def _beside(contour: Contour, node: int) -> tuple[int | None, int | None]:
    """The spans before and after a node; None at an open end."""
    count = len(contour.kinds)
    after = node if node < count else None
    before = (node - 1) % count if contour.closed or node else None
    return before, after


def make_symmetrical(contour: Contour, nodes: Iterable[int]) -> Contour:
    """A contour that runs on smoothly through some nodes between two curves, with handles of the same length on both sides."""
    result = make_smooth(contour, nodes)
    handles = result.handles.copy()
    for node in {k % len(result.nodes) for k in nodes}:
        before, after = _beside(result, node)
        if before is None or after is None or result.kinds[before] != CUBIC or result.kinds[after] != CUBIC:
            continue
        at = result.nodes[node]
        into, out = handles[before, 1] - at, handles[after, 0] - at
        long = (float(np.hypot(*into)) + float(np.hypot(*out))) / 2
        for span, end, way in ((before, 1, into), (after, 0, out)):
            size = float(np.hypot(*way))
            if size > 0:
                handles[span, end] = at + way / size * long
    return Contour.make(result.nodes, result.kinds, result.bulges, handles, closed=result.closed)


def square_handles(contour: Contour, nodes: Iterable[int]) -> Contour:
    """A contour whose handles at some nodes are level or upright, whichever is nearer; their lengths stay."""
    handles = contour.handles.copy()
    for node in {k % len(contour.nodes) for k in nodes}:
        for span, end in zip(_beside(contour, node), (1, 0), strict=True):
            if span is not None and contour.kinds[span] == CUBIC:
                way = handles[span, end] - contour.nodes[node]
                main = int(abs(way[1]) > abs(way[0]))
                squared = np.zeros(2)
                squared[main] = np.sign(way[main]) * np.hypot(*way)
                handles[span, end] = contour.nodes[node] + squared
    return Contour.make(contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def swell_span(contour: Contour, span: int, t: float, dx: float, dy: float) -> Contour:
    """A contour of which one curve bulges more or less, its tangents held: both handles grow by one factor, so that the place at
    parameter `t` comes as near as can be to where it is drawn by (dx, dy). Lines and arcs as ``bend_span`` has them."""
    if contour.kinds[span] != CUBIC:
        return bend_span(contour, span, t, dx, dy)
    weight = min(max(t, 0.1), 0.9)
    start, end = contour.spans.starts[span], contour.spans.ends[span]
    arms = contour.handles[span] - np.array([start, end])
    reach = 3 * (1 - weight) ** 2 * weight * arms[0] + 3 * (1 - weight) * weight**2 * arms[1]
    size = float(reach @ reach)
    grown = 1.0 + (float(np.array([dx, dy]) @ reach) / size if size > 1e-18 else 0.0)
    handles = contour.handles.copy()
    handles[span] = np.array([start, end]) + arms * max(grown, 0.02)
    return Contour.make(contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)
