"""Shapes by two or three places: circle, arc, box, polygon, slot."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.drawn import arc_bulge, regular_polygon, slot, three_point_circle
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC
from draxet.ui.model.tool import ContourMark, LineMark, Mark, TagMark
from draxet.ui.stages.trace.drawing_tool import (
    DrawingTool,
    DrawSettings,
    draw_settings,
    put_contour,
)
from draxet.ui.stages.want import Gesture, Place, Want, polar

__all__ = [
    "ArcTool",
    "BoxTool",
    "CircleTool",
    "PlaceOf",
    "PolygonTool",
    "Shape",
    "SlotTool",
    "sized",
]

PlaceOf = Callable[[Mapping[str, float], Place], Place]


class Shape(DrawingTool):
    """A shape that is whole after a few places."""

    def begin(self) -> None:
        self.settings.shape = self.title.lower()

    @property
    def settings(self) -> DrawSettings:
        return draw_settings(self.session)

    def put(self, contour: Contour | None, ellipse: Affine | None = None) -> None:
        """Into the job; a shape without size is refused."""
        if contour is None or contour.length <= 0:
            self.session.messages.refused.emit(
                f"{self.title}: it has no size; click farther apart."
            )
            return
        put_contour(self.session, f"draw: {self.title.lower()}", contour, ellipse=ellipse)

    @staticmethod
    def preview_marks(contour: Contour | None, *tags: TagMark) -> list[Mark]:
        return [ContourMark((contour,)), *tags] if contour is not None else []


class CircleTool(Shape):
    """By its middle and radius, by two places across from each other, or by three."""

    title = "Circle"

    def gesture(self) -> Gesture:
        if self.settings.circle == "three":
            yield from self._through_three()
            return
        if self.settings.circle == "two":
            yield from self._across_two()
            return
        middle = (yield Want("click its middle")).place
        edge = yield Want(
            "click how far it reaches",
            ("radius",),
            _around(middle),
            lambda at: self._round(middle, at),
            middle,
        )
        self.put(_circle(middle, math.dist(middle, edge.place)))

    def _round(self, middle: Place, at: Place) -> list[Mark]:
        radius = math.dist(middle, at)
        return self.preview_marks(_circle(middle, radius), TagMark(*at, f"r {self.length(radius)}"))

    def _across_two(self) -> Gesture:
        a = (yield Want("click a place on it")).place
        b = yield Want(
            "click the place across",
            ("diameter", "angle"),
            _diameter(a),
            lambda at: self.preview_marks(
                _circle_on(a, at), TagMark(*at, f"⌀ {self.length(math.dist(a, at))}")
            ),
            a,
            back=(a,),
        )
        self.put(_circle_on(a, b.place))

    def _through_three(self) -> Gesture:
        a = (yield Want("click a first place on it")).place
        b = (
            yield Want(
                "click a second place on it", marks=lambda at: [LineMark(*a, *at)], back=(a,)
            )
        ).place
        c = (
            yield Want(
                "click a third place on it",
                marks=lambda at: self.preview_marks(_through(a, b, at)),
                back=(a, b),
            )
        ).place
        self.put(_through(a, b, c))


class ArcTool(Shape):
    """From one end to the other, through a third place."""

    title = "Arc"

    def gesture(self) -> Gesture:
        a = (yield Want("click where it begins")).place
        b = (
            yield Want(
                "click where it ends",
                ("length", "angle"),
                polar(a),
                lambda at: [LineMark(*a, *at)],
                a,
                back=(a,),
            )
        ).place
        through = (
            yield Want(
                "click a place that it goes through",
                marks=lambda at: self.preview_marks(_arc(a, at, b)),
                back=(a, b),
            )
        ).place
        self.put(_arc(a, through, b))


class BoxTool(Shape):
    """From corner to corner, or from the middle to a corner; with rounded corners where a rounding
    is set."""

    title = "Box"

    def gesture(self) -> Gesture:
        centred = self.settings.box == "middle"
        first = (yield Want("click its middle" if centred else "click one corner")).place
        second = yield Want(
            "click the corner across" if not centred else "click a corner",
            ("width", "height"),
            sized(first, centred),
            lambda at: self._looks(first, at, centred),
            back=(first,),
        )
        self.put(self._box(first, second.place, centred))

    def _looks(self, first: Place, at: Place, centred: bool) -> list[Mark]:
        made = self._box(first, at, centred)
        wide, high = (abs(at[k] - first[k]) * (2 if centred else 1) for k in (0, 1))
        return self.preview_marks(
            made,
            TagMark(
                (first[0] + at[0]) / 2,
                min(first[1], at[1]),
                f"{self.length(wide)} × {self.length(high)}",
            ),
        )

    def _box(self, first: Place, second: Place, centred: bool) -> Contour | None:
        low = (2 * first[0] - second[0], 2 * first[1] - second[1]) if centred else first
        x0, x1, y0, y1 = (
            min(low[0], second[0]),
            max(low[0], second[0]),
            min(low[1], second[1]),
            max(low[1], second[1]),
        )
        if x1 <= x0 or y1 <= y0:
            return None
        rounding = min(self.settings.rounding, (x1 - x0) / 2, (y1 - y0) / 2)
        whole = rounding * (1 - 1e-12)  # half the side just fits
        return rounded_polygon([(x0, y0, whole), (x1, y0, whole), (x1, y1, whole), (x0, y1, whole)])


class PolygonTool(Shape):
    """By its middle and one corner; the number of sides is on the slip, or typed."""

    title = "Polygon"

    def gesture(self) -> Gesture:
        middle = (yield Want("click its middle")).place
        corner = yield Want(
            "click one corner",
            ("radius", "sides"),
            _around(middle),
            lambda at: self.preview_marks(self._polygon(middle, at, self.settings.sides)),
            middle,
        )
        self.put(
            self._polygon(
                middle, corner.place, int(corner.numbers.get("sides", self.settings.sides))
            )
        )

    @staticmethod
    def _polygon(middle: Place, corner: Place, sides: int) -> Contour | None:
        radius = math.dist(middle, corner)
        return (
            regular_polygon(
                *middle, sides, radius, math.atan2(corner[1] - middle[1], corner[0] - middle[0])
            )
            if radius > 0
            else None
        )


class SlotTool(Shape):
    """By the middles of its two ends and its width."""

    title = "Slot"

    def gesture(self) -> Gesture:
        a = (yield Want("click the middle of one end")).place
        b = (
            yield Want(
                "click the middle of the other end",
                ("length", "angle"),
                polar(a),
                lambda at: [LineMark(*a, *at)],
                a,
                back=(a,),
            )
        ).place
        side = yield Want(
            "click how broad it is",
            ("width",),
            _broad(a, b),
            lambda at: self.preview_marks(_slot(a, b, at)),
        )
        self.put(_slot(a, b, side.place))


def _around(middle: Place) -> PlaceOf:
    """The place in the pointer's direction at a typed radius."""

    def place(numbers: Mapping[str, float], at: Place) -> Place:
        away = math.dist(middle, at)
        radius = numbers.get("radius", away)
        share = radius / away if away else 0.0
        return (
            (middle[0] + (at[0] - middle[0]) * share, middle[1] + (at[1] - middle[1]) * share)
            if away
            else (middle[0] + radius, middle[1])
        )

    return place


def sized(first: Place, centred: bool) -> PlaceOf:
    """The corner at a typed width and height, on the pointer's side."""

    def place(numbers: Mapping[str, float], at: Place) -> Place:
        out = []
        for k, name in enumerate(("width", "height")):
            off = at[k] - first[k]
            size = numbers[name] / (2 if centred else 1) if name in numbers else abs(off)
            out.append(first[k] + math.copysign(size, off))
        return out[0], out[1]

    return place


def _broad(a: Place, b: Place) -> PlaceOf:
    def place(numbers: Mapping[str, float], at: Place) -> Place:
        if "width" not in numbers:
            return at
        long = math.dist(a, b) or 1.0
        return b[0] - (b[1] - a[1]) / long * numbers["width"] / 2, b[1] + (
            b[0] - a[0]
        ) / long * numbers["width"] / 2

    return place


def _circle(middle: Place, radius: float) -> Contour | None:
    return Contour.circle(*middle, radius) if radius > 0 else None


def _through(a: Place, b: Place, c: Place) -> Contour | None:
    found = three_point_circle(a, b, c)
    return Contour.circle(*found) if found else None


def _arc(a: Place, through: Place, b: Place) -> Contour | None:
    bulge = arc_bulge(a, through, b)
    return Contour.make([a, b], [ARC], [bulge], closed=False) if bulge else None


def _diameter(start: Place) -> PlaceOf:
    along = polar(start)

    def place(numbers: Mapping[str, float], at: Place) -> Place:
        length = {"length": numbers["diameter"]} if "diameter" in numbers else {}
        return along({**numbers, **length}, at)

    return place


def _circle_on(a: Place, b: Place) -> Contour | None:
    return _circle(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), math.dist(a, b) / 2)


def _slot(a: Place, b: Place, at: Place) -> Contour | None:
    long = math.dist(a, b)
    if long <= 0:
        return None
    off = abs((at[0] - a[0]) * (b[1] - a[1]) - (at[1] - a[1]) * (b[0] - a[0])) / long
    return slot(a, b, 2 * off) if off > 0 else None
