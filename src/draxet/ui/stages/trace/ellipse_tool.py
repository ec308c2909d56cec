"""Ellipses: by the middle and two half axes, by a box, or by places along the edge."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import partial

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import unit_ellipse
from draxet.mend.forms import ellipse_through
from draxet.ui.model.tool import CrossMark, LineMark, Mark
from draxet.ui.stages.trace.primitives import PlaceOf, Shape, sized
from draxet.ui.stages.want import Gesture, Place, Want, polar

__all__ = ["EllipseTool"]

_EDGE_PLACES = 5


class EllipseTool(Shape):
    """By its middle, the end of one half axis, and how broad it is across; by its box; or by places
    along its edge."""

    title = "Ellipse"

    def gesture(self) -> Gesture:
        if self.settings.ellipse == "box":
            yield from self._in_box()
            return
        if self.settings.ellipse == "edge":
            yield from self._along_edge()
            return
        middle = (yield Want("click its middle")).place
        tip = (
            yield Want(
                "click the end of one half axis",
                ("length", "angle"),
                polar(middle),
                lambda at: [LineMark(*middle, *at)],
                middle,
            )
        ).place
        across = yield Want(
            "click how far it reaches across",
            ("length",),
            _across(middle, tip),
            lambda at: self.preview_marks(_ellipse(middle, tip, at)),
        )
        laid = _ellipse_map(middle, tip, across.place)
        self.put(
            _ellipse(middle, tip, across.place),
            laid if laid is not None and not laid.is_similarity else None,
        )

    def _in_box(self) -> Gesture:
        first = (yield Want("click one corner of its box")).place
        second = yield Want(
            "click the corner across",
            ("width", "height"),
            sized(first, centred=False),
            lambda at: self.preview_marks(_in_box(first, at)),
            back=(first,),
        )
        self._put_laid(_box_map(first, second.place))

    def _along_edge(self) -> Gesture:
        places = list[Place]()
        while True:
            found = ellipse_through(np.array(places)) if len(places) >= _EDGE_PLACES else None
            left = _EDGE_PLACES - len(places)
            answer = yield Want(
                "click a place on its edge"
                if left <= 0
                else f"click {left} more places on its edge",
                marks=partial(self._edge_marks, tuple(places)),
                back=tuple(places),
                ends="take it" if found is not None else "",
                hint=f"off by {self.length(found.off)} at the most" if found is not None else "",
            )
            if answer.key == "end" and found is not None:
                break
            if not answer.key:
                places.append(answer.place)
        self._put_laid(found.ellipse)
        self.session.messages.announced.emit(
            f"The places lie off the ellipse by {self.length(found.off)} at the most"
        )

    def _edge_marks(self, places: tuple[Place, ...], at: Place) -> list[Mark]:
        found = (
            ellipse_through(np.array([*places, at])) if len(places) + 1 >= _EDGE_PLACES else None
        )
        crosses: list[Mark] = [CrossMark(*place) for place in places]
        return [*crosses, *self.preview_marks(found.contour if found is not None else None)]

    def _put_laid(self, laid: Affine | None) -> None:
        contour = _laid(laid) if laid is not None else None
        self.put(contour, laid if laid is not None and not laid.is_similarity else None)


def _across(middle: Place, tip: Place) -> PlaceOf:
    def place(numbers: Mapping[str, float], at: Place) -> Place:
        long = math.dist(middle, tip) or 1.0
        x, y = -(tip[1] - middle[1]) / long, (tip[0] - middle[0]) / long
        off = numbers.get("length", (at[0] - middle[0]) * x + (at[1] - middle[1]) * y)
        return middle[0] + off * x, middle[1] + off * y

    return place


def _laid(laid: Affine) -> Contour:
    """The ellipse of a map from the unit circle."""
    if laid.is_similarity:
        return Contour.circle(laid.c, laid.f, laid.scale)
    return unit_ellipse().transformed(laid)


def _box_map(a: Place, b: Place) -> Affine | None:
    wide, high = abs(b[0] - a[0]) / 2, abs(b[1] - a[1]) / 2
    if not (wide and high):
        return None
    return Affine.scaled(wide, high).then(Affine.moved((a[0] + b[0]) / 2, (a[1] + b[1]) / 2))


def _in_box(a: Place, b: Place) -> Contour | None:
    laid = _box_map(a, b)
    return _laid(laid) if laid is not None else None


def _ellipse(middle: Place, tip: Place, at: Place) -> Contour | None:
    laid = _ellipse_map(middle, tip, at)
    return _laid(laid) if laid is not None else None


def _ellipse_map(middle: Place, tip: Place, at: Place) -> Affine | None:
    """The map from the unit circle to the ellipse; None where it has no size."""
    long = math.dist(middle, tip)
    if long <= 0:
        return None
    off = (
        abs(
            (at[0] - middle[0]) * -(tip[1] - middle[1]) + (at[1] - middle[1]) * (tip[0] - middle[0])
        )
        / long
    )
    if off <= 0:
        return None
    turn = math.degrees(math.atan2(tip[1] - middle[1], tip[0] - middle[0]))
    return Affine.scaled(long, off).then(Affine.turned(turn)).then(Affine.moved(*middle))
