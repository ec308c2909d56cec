"""Contours: chains of spans, closed or open.

A *contour* is *closed* where its last span ends at its first node; otherwise it is *open*. A *node*
is a point where spans meet or end: a *corner* where the direction jumps, *smooth* where it does
not.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import chain
from typing import Any

import numpy as np

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Bools, Floats, Ints, Points, frozen
from draxet.geometry.spans import ARC, CUBIC, LINE, Spans
from draxet.record import record

__all__ = [
    "SMOOTH_WITHIN",
    "Contour",
    "areas_of",
    "boxes_of",
    "joined_spans",
    "know_extremes",
    "lengths_of",
    "transformed_all",
]

_FIELDS = ("nodes", "kinds", "bulges", "handles", "closed")
SMOOTH_WITHIN = 4.0
"""Degrees up to which a change of direction at a node still counts as smooth."""


@record(frozen=True, eq=False)
class Contour:
    """`nodes` (m, 2), and for its n spans `kinds`, `bulges`, `handles` as in ``Spans``; n is m
    where closed, m - 1 where open.

    Span i runs from node i to node i + 1 (the last one of a closed contour to node 0). Arrays are
    read-only.
    """

    nodes: Points
    kinds: Ints
    bulges: Floats
    handles: Floats
    closed: bool

    def __getstate__(self) -> dict[str, Any]:
        """It without what was worked out of it, for a process apart."""
        return {name: getattr(self, name) for name in _FIELDS}

    @staticmethod
    def make(
        nodes: object,
        kinds: object = None,
        bulges: object = None,
        handles: object = None,
        *,
        closed: bool = True,
    ) -> Contour:
        """A contour from array-likes; what is left out means straight lines.

        Raises
        ------
        ValueError : where the arrays do not fit each other or hold what is no number.
        """
        points = frozen(nodes).reshape(-1, 2)
        count = len(points) if closed else len(points) - 1
        if count < 1:
            raise ValueError(
                f"a contour needs at least {1 if closed else 2} nodes, got {len(points)}"
            )
        contour = Contour(
            points,
            frozen(np.zeros(count) if kinds is None else kinds, np.int64),
            frozen(np.zeros(count) if bulges is None else bulges),
            frozen(np.zeros((count, 2, 2)) if handles is None else handles).reshape(-1, 2, 2),
            bool(closed),  # a NumPy truth value is no plain one
        )
        if not (len(contour.kinds) == len(contour.bulges) == len(contour.handles) == count):
            raise ValueError(
                f"a contour of {len(points)} nodes needs {count} spans, got {len(contour.kinds)}"
            )
        if not (
            np.isfinite(points).all()
            and np.isfinite(contour.bulges).all()
            and np.isfinite(contour.handles).all()
        ):
            raise ValueError("a contour's coordinates must be finite numbers")
        if count and not 0 <= contour.kinds.min() <= contour.kinds.max() <= CUBIC:
            raise ValueError(
                f"the kinds of spans must be {LINE}, {ARC} or {CUBIC}, got {contour.kinds.min()} to {contour.kinds.max()}"
            )
        return contour

    @staticmethod
    def many(
        nodes: Points, kinds: Ints, bulges: Floats, handles: Floats, begins: Ints
    ) -> list[Contour]:
        """Closed contours from one table of spans: contour k has those from ``begins[k]`` up to
        ``begins[k + 1]``.

        Raises
        ------
        ValueError : where the arrays hold what is no number.
        """
        if not (
            np.isfinite(nodes).all() and np.isfinite(bulges).all() and np.isfinite(handles).all()
        ):
            raise ValueError("a contour's coordinates must be finite numbers")
        whole = (
            frozen(nodes.copy()),
            frozen(kinds.copy(), np.int64),
            frozen(bulges.copy()),
            frozen(handles.copy()),
        )
        places = zip(begins[:-1].tolist(), begins[1:].tolist(), strict=True)
        return [
            Contour(whole[0][a:b], whole[1][a:b], whole[2][a:b], whole[3][a:b], True)
            for a, b in places
        ]

    @staticmethod
    def circle(x: float, y: float, radius: float) -> Contour:
        """A whole circle, anticlockwise, as two arcs."""
        return Contour.make([(x - radius, y), (x + radius, y)], [ARC, ARC], [1.0, 1.0])

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, Contour)
            and self.closed == other.closed
            and all(
                np.array_equal(a, b) for a, b in zip(self._arrays(), other._arrays(), strict=True)
            )
        )

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.closed, self.nodes.tobytes()))

    @property
    def as_bytes(self) -> bytes:
        """All that the contour is made of, but for whether it is closed."""
        return b"".join(array.tobytes() for array in self._arrays())

    def _arrays(self) -> tuple[Floats, Ints, Floats, Floats]:
        return self.nodes, self.kinds, self.bulges, self.handles

    @cached_property
    def spans(self) -> Spans:
        ends = np.roll(self.nodes, -1, axis=0) if self.closed else self.nodes[1:]
        return Spans(
            self.nodes if self.closed else self.nodes[:-1],
            ends,
            self.kinds,
            self.bulges,
            self.handles,
        )

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """Least x, least y, greatest x, greatest y."""
        boxes = self.span_boxes
        low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    @cached_property
    def extremes(self) -> tuple[float, float]:
        """How far from the axes a node or a handle lies at the most, and the greatest bulge; no
        number where one is none."""
        know_extremes([self])
        found: tuple[float, float] = self.__dict__["extremes"]
        return found

    @cached_property
    def span_boxes(self) -> Floats:
        """Extents (n, 4) of the spans."""
        return self.spans.boxes()

    @cached_property
    def length(self) -> float:
        return float(self.spans.lengths().sum())

    @cached_property
    def area(self) -> float:
        """Signed, over 0 where it runs anticlockwise; 0 for an open contour."""
        return float(self.spans.swept_areas().sum()) if self.closed else 0.0

    @cached_property
    def circle_shape(self) -> tuple[float, float, float] | None:
        """Centre x, y and radius where the contour is one whole circle."""
        if (
            not self.closed
            or not (self.kinds == ARC).all()
            or abs(abs(np.arctan(self.bulges).sum()) - np.pi / 2) > 1e-6
        ):
            return None
        if len(self.bulges) == 2 and abs(self.bulges[0]) == 1.0 == abs(self.bulges[1]):
            (x, y), (x1, y1) = self.nodes.tolist()  # two halves, as most are drawn
            return (x + x1) / 2, (y + y1) / 2, math.hypot(x1 - x, y1 - y) / 2
        shape = self.spans.arc_shapes()
        spread = np.ptp(shape.centres, axis=0).max() + np.ptp(shape.radii)
        if spread > 1e-6 * float(shape.radii[0]):
            return None
        return float(shape.centres[0, 0]), float(shape.centres[0, 1]), float(shape.radii[0])

    def corners(self) -> Bools:
        """Which nodes (m,) are corners; the ends of an open contour are."""
        leave, reach = self.spans.tangents()
        before = np.roll(reach, 1, axis=0) if self.closed else np.vstack([reach[:1] * 0, reach])
        after = leave if self.closed else np.vstack([leave, leave[:1] * 0])
        return np.asarray((before * after).sum(axis=1) < np.cos(np.radians(SMOOTH_WITHIN)))

    def flattened(self, tolerance: float) -> Points:
        """Points (k, 2) along the contour within `tolerance`; a closed one's first point is not
        repeated."""
        points, _ = self.spans.flattened(tolerance)
        return points if self.closed else np.vstack([points, self.nodes[-1:]])

    def transformed(self, affine: Affine) -> Contour:
        """The contour mapped. Arcs stay arcs where circles stay circles, and become cubics
        elsewhere."""
        if affine.is_similarity or not (self.kinds == ARC).any():
            mirrored = -1.0 if affine.determinant < 0 else 1.0
            handles = np.where(
                (self.kinds == CUBIC)[:, None, None], affine.apply(self.handles), 0.0
            )
            return Contour.make(
                affine.apply(self.nodes),
                self.kinds,
                self.bulges * mirrored,
                handles,
                closed=self.closed,
            )
        curves, owner = self.spans.as_cubics()
        kinds = np.where(self.kinds[owner] == LINE, LINE, CUBIC)
        moved = affine.apply(curves)
        handles = np.where((kinds == CUBIC)[:, None, None], moved[:, 1:3], 0.0)
        nodes = moved[:, 0] if self.closed else np.vstack([moved[:, 0], moved[-1:, 3]])
        return Contour.make(nodes, kinds, np.zeros(len(kinds)), handles, closed=self.closed)

    def reversed(self) -> Contour:
        """The same contour run the other way, a closed one from the same node."""
        nodes = self.nodes[::-1]
        return Contour.make(
            np.roll(nodes, 1, axis=0) if self.closed else nodes,
            self.kinds[::-1],
            -self.bulges[::-1],
            self.handles[::-1, ::-1],
            closed=self.closed,
        )


def transformed_all(contours: Sequence[Contour], affine: Affine) -> list[Contour]:
    """Many contours mapped at once by a map under which arcs stay arcs (``is_similarity``), each as
    ``Contour.transformed`` would have it."""
    if not contours:
        return []
    nodes, kinds, bulges, handles = _joined(contours)
    mirrored = -1.0 if affine.determinant < 0 else 1.0
    nodes = frozen(affine.apply(nodes))
    handles = frozen(np.where((kinds == CUBIC)[:, None, None], affine.apply(handles), 0.0))
    kinds, bulges = frozen(kinds, np.int64), frozen(bulges * mirrored)
    if not (np.isfinite(nodes).all() and np.isfinite(handles).all()):
        raise ValueError("a contour's coordinates must be finite numbers")
    made, node, span = list[Contour](), 0, 0
    for contour in contours:
        after, last = node + len(contour.nodes), span + len(contour.kinds)
        made.append(
            Contour(
                nodes[node:after],
                kinds[span:last],
                bulges[span:last],
                handles[span:last],
                contour.closed,
            )
        )
        node, span = after, last
    _take_extremes(made, nodes, bulges, handles)
    _take_over(made, contours, affine)
    return made


def _take_over(made: Sequence[Contour], contours: Sequence[Contour], affine: Affine) -> None:
    """What was mapped knows its box where that is the box of what it was, mapped, and the circle
    that it is."""
    for contour, before in zip(made, contours, strict=True):
        if "circle_shape" in before.__dict__:
            shape = before.circle_shape
            contour.__dict__["circle_shape"] = shape and (
                *affine.point(*shape[:2]),
                shape[2] * affine.scale,
            )
    if affine.b or affine.d or not all("box" in contour.__dict__ for contour in contours):
        return
    boxes = boxes_of(contours)
    xs = np.sort(affine.a * boxes[:, ::2] + affine.c, axis=1)
    ys = np.sort(affine.e * boxes[:, 1::2] + affine.f, axis=1)
    for contour, box in zip(made, np.dstack([xs, ys]).reshape(-1, 4).tolist(), strict=True):
        contour.__dict__["box"] = tuple(box)


def _joined(contours: Sequence[Contour]) -> tuple[Floats, Ints, Floats, Floats]:
    """Nodes, kinds, bulges and handles of many contours, one after the other."""
    return (
        np.concatenate([contour.nodes for contour in contours]),
        np.concatenate([contour.kinds for contour in contours]),
        np.concatenate([contour.bulges for contour in contours]),
        np.concatenate([contour.handles for contour in contours]),
    )


def boxes_of(contours: Sequence[Contour]) -> Floats:
    """Extents (n, 4) of many contours at once: least x, least y, greatest x, greatest y. Each
    contour knows its own afterwards."""
    new = [contour for contour in contours if "box" not in contour.__dict__]
    if new:
        spans, owner = joined_spans(new)
        boxes = spans.boxes()
        first = np.searchsorted(owner, np.arange(len(new)))
        for contour, box in zip(
            new,
            np.hstack(
                [np.minimum.reduceat(boxes[:, :2], first), np.maximum.reduceat(boxes[:, 2:], first)]
            ).tolist(),
            strict=True,
        ):
            contour.__dict__["box"] = tuple(box)
    sides = chain.from_iterable(contour.box for contour in contours)
    return np.fromiter(sides, np.float64, 4 * len(contours)).reshape(-1, 4)


def lengths_of(contours: Sequence[Contour]) -> Floats:
    """Lengths (n,) of many contours at once. Each contour knows its own afterwards."""
    new = [contour for contour in contours if "length" not in contour.__dict__]
    if new:
        spans, owner = joined_spans(new)
        for contour, length in zip(
            new, np.bincount(owner, spans.lengths(), minlength=len(new)).tolist(), strict=True
        ):
            contour.__dict__["length"] = length
    return np.array([contour.length for contour in contours])


def areas_of(contours: Sequence[Contour]) -> Floats:
    """Signed areas (n,) of many contours at once, 0 of open ones. Each contour knows its own
    afterwards."""
    new = [contour for contour in contours if "area" not in contour.__dict__]
    if new:
        spans, owner = joined_spans(new)
        swept = np.bincount(owner, spans.swept_areas(), minlength=len(new))
        for contour, area in zip(new, swept.tolist(), strict=True):
            contour.__dict__["area"] = area if contour.closed else 0.0
    return np.array([contour.area for contour in contours])


def know_extremes(contours: Sequence[Contour]) -> None:
    """Have many contours know theirs at once (``Contour.extremes``)."""
    new = [contour for contour in contours if "extremes" not in contour.__dict__]
    if new:
        nodes, _, bulges, handles = _joined(new)
        _take_extremes(new, nodes, bulges, handles)


def _take_extremes(
    contours: Sequence[Contour], nodes: Floats, bulges: Floats, handles: Floats
) -> None:
    """Contours know their extremes, from what all of them are made of."""
    first_node, first_span = (
        np.cumsum([0, *sizes[:-1]])
        for sizes in ([len(c.nodes) for c in contours], [len(c.kinds) for c in contours])
    )
    far = np.maximum(  # keeps what is no number, as max does not
        np.maximum.reduceat(np.abs(nodes).max(axis=1), first_node),
        np.maximum.reduceat(np.abs(handles).max(axis=(1, 2)), first_span),
    )
    bent = np.maximum.reduceat(np.abs(bulges), first_span)
    for contour, *extremes in zip(contours, far.tolist(), bent.tolist(), strict=True):
        contour.__dict__["extremes"] = tuple(extremes)


def know_circles(contours: Sequence[Contour]) -> None:
    """Have many contours know whether they are circles at once (``Contour.circle_shape``)."""
    new = [contour for contour in contours if "circle_shape" not in contour.__dict__]
    if not new:
        return
    kinds = np.concatenate([contour.kinds for contour in new])
    first = np.cumsum([0, *(len(contour.kinds) for contour in new[:-1])])
    arcs = np.logical_and.reduceat(kinds == ARC, first).tolist()
    for contour, only_arcs in zip(new, arcs, strict=True):
        if not only_arcs:
            contour.__dict__["circle_shape"] = None


def places_on(contours: Sequence[Contour]) -> Points:
    """A place on each contour (n, 2) that is none of its ends, which may lie on another one."""
    spans, owner = joined_spans(contours)
    middle = (
        np.searchsorted(owner, np.arange(len(contours)))
        + np.bincount(owner, minlength=len(contours)) // 2
    )
    return spans.at(middle, np.full(len(contours), 0.5))


def joined_spans(contours: Sequence[Contour]) -> tuple[Spans, Ints]:
    """The spans of many contours as one batch.

    Returns
    -------
    spans : all of them, contour after contour
    owner : (n,) which contour each belongs to
    """
    if not contours:
        empty = np.zeros((0, 2))
        return Spans(
            empty, empty, np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros((0, 2, 2))
        ), np.zeros(0, dtype=np.int64)
    sizes = np.array([len(contour.nodes) for contour in contours])
    counts = np.array([len(contour.kinds) for contour in contours])
    nodes = np.concatenate([contour.nodes for contour in contours])
    owner = np.repeat(np.arange(len(contours)), counts)
    first = (np.cumsum(sizes) - sizes)[owner]
    place = np.arange(len(owner)) - (np.cumsum(counts) - counts)[owner]
    ahead = (
        first + (place + 1) % sizes[owner]
    )  # a closed contour's last span ends in its first node
    spans = Spans(
        nodes[first + place],
        nodes[ahead],
        np.concatenate([contour.kinds for contour in contours]),
        np.concatenate([contour.bulges for contour in contours]),
        np.concatenate([contour.handles for contour in contours]),
    )
    return spans, owner
