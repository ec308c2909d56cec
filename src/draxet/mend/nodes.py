"""Nodes, handles and spans of a contour: moved, added, removed, made corners or smooth, straight,
arcs or curves.

Every function gives a new contour and leaves what it is not about as it was: a line stays a line,
an arc an arc.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.crossings import parts_of
from draxet.geometry.spans import ARC, CUBIC, LINE, Spans

__all__ = [
    "bend_span",
    "deviation_between",
    "make_corners",
    "make_kind",
    "make_smooth",
    "make_symmetrical",
    "move_handle",
    "move_node",
    "place_node",
    "split_span",
    "square_handles",
    "swell_span",
]

_SAMPLES = 48
_LEAST_REACH = 0.05
"""Of its length, that a handle keeps at the least."""
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
    return move_node(
        contour, node, x - float(contour.nodes[node, 0]), y - float(contour.nodes[node, 1])
    )


def move_handle(
    contour: Contour, span: int, end: int, dx: float, dy: float, *, alone: bool = False
) -> Contour:
    """A contour with the handle at the start (`end` 0) or end (1) of a curve moved. Where the node
    there is smooth, the handle of the curve beyond it turns along and keeps its length, unless
    `alone`."""
    handles = contour.handles.copy()
    handles[span, end] += (dx, dy)
    node = (span + end) % len(contour.nodes)
    before, after = _beside(contour, node)
    other = before if end == 0 else after
    if (
        not alone
        and other is not None
        and other != span
        and contour.kinds[other] == CUBIC
        and not contour.corners()[node]
    ):
        way = contour.nodes[node] - handles[span, end]
        size = float(np.hypot(*way))
        if size > 0:
            reach = float(np.hypot(*(contour.handles[other, 1 - end] - contour.nodes[node])))
            handles[other, 1 - end] = contour.nodes[node] + way / size * reach
    return Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )


def bend_span(contour: Contour, span: int, t: float, dx: float, dy: float) -> Contour:
    """A contour with the place at parameter `t` of a span drawn by (dx, dy): a line moves along
    with both its nodes, an arc takes another bulge through the place, a curve bends by both its
    handles. Where a node was smooth it stays so: the handle of a curve beyond it turns along, and
    beside a line or an arc the curve's own handle keeps its direction, so that the place goes as
    near as it can."""
    if contour.kinds[span] == LINE:
        moved = move_node(contour, span, dx, dy)
        return move_node(moved, (span + 1) % len(contour.nodes), dx, dy)
    beyond = [_beyond(contour, span, end) for end in (0, 1)]
    if contour.kinds[span] == ARC:
        place = contour.spans.at(np.array([span]), np.array([t]))[0] + (dx, dy)
        return _turned_along(_with_bulge(contour, span, place), span, beyond)
    weight = min(max(t, 0.1), 0.9)
    near, far = 3 * (1 - weight) ** 2 * weight, 3 * (1 - weight) * weight**2
    ends = np.array([contour.spans.starts[span], contour.spans.ends[span]])
    handles = contour.handles.copy()
    ways = [  # in which a handle may go: along what is fixed beyond the node, or any way
        np.eye(2)
        if other is None or contour.kinds[other] == CUBIC
        else _unit(handles[span, end] - ends[end])[None]
        for end, other in enumerate(beyond)
    ]
    goes = np.vstack([near * ways[0], far * ways[1]]).T
    share = np.linalg.lstsq(goes, np.array([dx, dy]), rcond=None)[0]
    for end, found in enumerate(np.split(share, [len(ways[0])])):
        moved_by = found @ ways[end]
        if len(ways[end]) == 1:  # it stays on its side of the node
            reach = handles[span, end] - ends[end]
            least = (_LEAST_REACH - 1.0) * float(np.hypot(*reach))
            moved_by = ways[end][0] * max(float(found[0]), least)
        handles[span, end] += moved_by
    bent = Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )
    return _turned_along(bent, span, beyond)


def _unit(way: Points) -> Points:
    return np.asarray(way / max(float(np.hypot(*way)), 1e-300))


def _beyond(contour: Contour, span: int, end: int) -> int | None:
    """The span beyond the smooth node at the start (0) or end (1) of a span; None at a corner or an
    end."""
    node = (span + end) % len(contour.nodes)
    other = _beside(contour, node)[end]
    smooth = other is not None and other != span and not contour.corners()[node]
    return other if smooth else None


def _turned_along(contour: Contour, span: int, beyond: Sequence[int | None]) -> Contour:
    """A contour in which the handles of curves beyond a span's ends go on in its direction, as long as
    they were."""
    handles, tangents = contour.handles.copy(), contour.spans.tangents()
    for end, other in enumerate(beyond):
        if other is not None and contour.kinds[other] == CUBIC:
            node = contour.nodes[(span + end) % len(contour.nodes)]
            reach = float(np.hypot(*(handles[other, 1 - end] - node)))
            handles[other, 1 - end] = node + (1 if end else -1) * reach * tangents[end][span]
    return Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )


def _with_bulge(contour: Contour, span: int, place: Points) -> Contour:
    start, end = contour.spans.starts[span], contour.spans.ends[span]
    chord = end - start
    long = float(np.hypot(*chord))
    across = float(chord[0] * (place - start)[1] - chord[1] * (place - start)[0]) / long
    along = float((place - start) @ chord) / long
    # the bulge of the arc through the ends and this place: half the chord over what the angle at
    # the place leaves
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
        for whole, part in (
            (contour.kinds, parts.kinds),
            (contour.bulges, parts.bulges),
            (contour.handles, parts.handles),
        )
    )
    return Contour.make(nodes, kinds, bulges, handles, closed=contour.closed)


def make_smooth(contour: Contour, nodes: Iterable[int]) -> Contour:
    """A contour that runs on smoothly through some nodes: handles beside them are laid along one
    direction, that of a line or an arc where there is one, else the mean of both. What is straight
    beside a straight span stays a corner."""
    result = contour
    for node in sorted({k % len(contour.nodes) for k in nodes}):
        result = _smooth_at(result, node)
    return result


def _smooth_at(contour: Contour, node: int) -> Contour:
    before, after = _beside(contour, node)
    if (
        before is None
        or after is None
        or (contour.kinds[before] != CUBIC and contour.kinds[after] != CUBIC)
    ):
        return contour
    leave, reach = contour.spans.tangents()
    into, out = reach[before], leave[after]
    way = (
        into
        if contour.kinds[before] != CUBIC
        else out
        if contour.kinds[after] != CUBIC
        else into + out
    )
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
    return Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )


def make_corners(contour: Contour, nodes: Iterable[int]) -> Contour:
    """A contour that breaks at some nodes: each handle there is drawn a third of the way towards
    the next node."""
    handles = contour.handles.copy()
    for node in {k % len(contour.nodes) for k in nodes}:
        for span, end in zip(_beside(contour, node), (1, 0), strict=True):
            if span is not None and contour.kinds[span] == CUBIC:
                far = contour.spans.starts[span] if end == 1 else contour.spans.ends[span]
                handles[span, end] = contour.nodes[node] + (far - contour.nodes[node]) * _THIRD
    return Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )


_SIXTH = float(np.tan(np.pi / 12))
"""The bulge of a sixth of a circle."""


def make_kind(contour: Contour, spans: Sequence[int], kind: int) -> Contour:
    """A contour of which some spans are lines, arcs or curves from now on. A line becomes a curve
    that lies where it lay, and an arc of a sixth of a circle, outwards of a closed contour; between
    curves and arcs its handles take their directions. A curve becomes the arc through its middle."""
    kinds, bulges, handles = contour.kinds.copy(), contour.bulges.copy(), contour.handles.copy()
    every = contour.spans
    for span in spans:
        start, end = every.starts[span], every.ends[span]
        if kind == CUBIC and kinds[span] != CUBIC:
            part, _ = every.take(np.array([span])).as_cubics()
            handles[span] = part[0, 1:3] if len(part) == 1 else _handles_of(every, span)
        bulges[span] = bulges[span] if kind == ARC and kinds[span] == ARC else 0.0
        if kind == ARC and kinds[span] == CUBIC:
            bulges[span] = _bulge_through(
                start, every.at(np.array([span]), np.array([0.5]))[0], end
            )
        if kind == ARC and kinds[span] == LINE:
            bulges[span] = _SIXTH if contour.area >= 0 else -_SIXTH
        if kind != CUBIC:
            handles[span] = 0.0
        kinds[span] = kind if kind != ARC or bulges[span] else LINE
    return Contour.make(contour.nodes, kinds, bulges, handles, closed=contour.closed)


def _handles_of(spans: Spans, span: int) -> Points:
    """Handles of one cubic for a whole arc, by its directions and the usual length for its
    sweep."""
    one = spans.take(np.array([span]))
    leave, reach = one.tangents()
    shape = one.arc_shapes()
    long = 4 / 3 * np.tan(np.abs(shape.sweep) / 4) * shape.radii
    return np.stack([one.starts[0] + leave[0] * long, one.ends[0] - reach[0] * long])


def _bulge_through(start: Points, middle: Points, end: Points) -> float:
    chord = end - start
    long = float(chord @ chord)
    return (
        -2 * float(chord[0] * (middle - start)[1] - chord[1] * (middle - start)[0]) / long
        if long
        else 0.0
    )


def deviation_between(one: Contour, other: Contour) -> float:
    """How far two contours lie apart at the most, in mm, as samples of the first tell."""
    a = one.spans
    points = a.at(
        np.repeat(np.arange(len(a)), _SAMPLES), np.tile(np.linspace(0, 1, _SAMPLES), len(a))
    )
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
    """A contour that runs on smoothly through some nodes between two curves, with handles of the
    same length on both sides."""
    result = make_smooth(contour, nodes)
    handles = result.handles.copy()
    for node in {k % len(result.nodes) for k in nodes}:
        before, after = _beside(result, node)
        if (
            before is None
            or after is None
            or result.kinds[before] != CUBIC
            or result.kinds[after] != CUBIC
        ):
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
    """A contour whose handles at some nodes are level or upright, whichever is nearer; their
    lengths stay."""
    handles = contour.handles.copy()
    for node in {k % len(contour.nodes) for k in nodes}:
        for span, end in zip(_beside(contour, node), (1, 0), strict=True):
            if span is not None and contour.kinds[span] == CUBIC:
                way = handles[span, end] - contour.nodes[node]
                main = int(abs(way[1]) > abs(way[0]))
                squared = np.zeros(2)
                squared[main] = np.sign(way[main]) * np.hypot(*way)
                handles[span, end] = contour.nodes[node] + squared
    return Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )


def swell_span(contour: Contour, span: int, t: float, dx: float, dy: float) -> Contour:
    """A contour of which one curve bulges more or less, its tangents held: both handles grow by one
    factor, so that the place at parameter `t` comes as near as can be to where it is drawn by (dx,
    dy). Lines and arcs as ``bend_span`` has them."""
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
    return Contour.make(
        contour.nodes, contour.kinds, contour.bulges, handles, closed=contour.closed
    )
