"""SVG files from elsewhere: every visible shape as contours, lines, circular arcs and curves kept,
transforms applied.

What cannot be read is left out and said, shape by shape; one fault does not refuse a whole drawing.
"""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from draxet.formats.drawing import Drawing
from draxet.formats.layer import FormatError
from draxet.formats.svg_elements import (
    LENGTH,
    PIXELS_OF,
    conditions_hold,
    layer,
    named,
    parsed,
    tag_of,
    user_size,
    view,
)
from draxet.formats.svg_paths import numbers_of, parse_transform
from draxet.formats.svg_shapes import Around, SvgShapes
from draxet.geometry.affine import Affine
from draxet.outside import OutsideError, sane
from draxet.progress import Progress, Unwatched

__all__ = ["read_svg_drawing"]

_ABSOLUTE = ("mm", "cm", "in", "pt", "pc", "q")
_LARGEST = 200_000_000
_MOST_SHAPES, _MOST_NODES, _DEEPEST = 400_000, 3_000_000, 80
_MOST_OF_ONE = 1_000_000
_EVERY = 500
_NOT_DRAWN = (
    "defs",
    "symbol",
    "clippath",
    "mask",
    "pattern",
    "marker",
    "lineargradient",
    "radialgradient",
    "filter",
    "metadata",
    "title",
    "desc",
    "style",
    "script",
    "foreignobject",
)
_SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
_KNOWN = (*_SHAPES, "g", "a", "svg", "use", "switch", "text", "image")


def read_svg_drawing(data: bytes, name: str, progress: Progress | None = None) -> Drawing:
    """Read an SVG file.

    Raises
    ------
    FormatError : where it is no sound SVG, holds entities, is too large or holds no shape.
    Cancelled : where `progress` says so.
    """
    if len(data) > _LARGEST:
        raise FormatError(f"{name} is over {_LARGEST // 1_000_000} MB; save it smaller")
    report = progress or Unwatched()
    root = parsed(data, name, report)
    if tag_of(root) != "svg":
        raise FormatError(f"{name} is no SVG that can be read; save it again as plain SVG")
    reader = _Reader(root, name, report)
    reader.read()
    return reader.drawing()


class _Reader(SvgShapes):
    def __init__(self, root: Any, name: str, report: Progress) -> None:
        super().__init__(root, name)
        self.root, self.report = root, report
        self.visited, self.whole, self.share = 0, 1, 0.1
        self.by_id = {element.get("id"): element for element in root.iter() if element.get("id")}

    def read(self) -> None:
        """FormatError where it is too large, or its page is none."""
        try:
            self._read()
        except OutsideError as error:
            raise FormatError(f"{self.name}: {error}") from error

    def _read(self) -> None:
        size, states_length = self._page_size()
        self.pixel_mm = 25.4 / 96 if states_length else None
        self.whole = self._visits(self.root, {})
        if self.whole > _MOST_SHAPES:
            raise self._too_much()
        to_page = view(self.root, *size)
        self.page = (0.0, 0.0, *size) if size[0] > 0 and size[1] > 0 else (0.0, 0.0, 0.0, 0.0)
        self._inside(
            self.root,
            Around(to_page, "", self._looks(self.root, ()), user_size(self.root, *size)),
        )

    def _visits(self, element: Any, known: dict[Any, int], depth: int = 0) -> int:
        """How many elements reading one comes past, those that links lead to again for each
        link."""
        if element not in known:
            known[element] = 0  # for a link that leads back here
            inside: list[Any] = []
            if depth <= _DEEPEST and dict(self._looks(element, ())).get("display") != "none":
                inside = [child for child in element if tag_of(child) not in _NOT_DRAWN]
                target = self.by_id.get(named(element, "href").strip()[1:])
                if tag_of(element) == "use" and target is not None:
                    inside = [target]
            known[element] = 1 + sum(self._visits(each, known, depth + 1) for each in inside)
        return known[element]

    def _too_much(self) -> FormatError:
        return FormatError(
            f"{self.name} would be over {_MOST_SHAPES:,} shapes or {_MOST_NODES:,} nodes; save it simpler"
        )

    def _page_size(self) -> tuple[tuple[float, float], bool]:
        """Width and height in pixels, and whether the file states a real length."""
        box = numbers_of(self.root.get("viewBox", ""))
        whole = (box[2], box[3]) if len(box) == 4 and min(box[2:]) > 0 else (0.0, 0.0)
        found = [LENGTH.match(self.root.get(side, "")) for side in ("width", "height")]
        units = [match[2].lower() if match else "%" for match in found]
        sides = [
            sane(match[1], "the page's size") * PIXELS_OF[unit]
            if match and unit in PIXELS_OF
            else 0.0
            for match, unit in zip(found, units, strict=True)
        ]
        if sides[0] <= 0 < sides[1] and whole[1]:
            sides[0] = sides[1] * whole[0] / whole[1]
        if sides[1] <= 0 < sides[0] and whole[0]:
            sides[1] = sides[0] * whole[1] / whole[0]
        width, height = (
            side if side > 0 and math.isfinite(side) else other
            for side, other in zip(sides, whole, strict=True)
        )
        return (width, height), any(unit in _ABSOLUTE for unit in units)

    def _inside(self, element: Any, around: Around) -> None:
        if around.depth > _DEEPEST:
            self.left["too deeply nested"] += 1
            return
        for child in self._shown_of(element) if tag_of(element) == "switch" else element:
            self._element(child, around)

    def _shown_of(self, switch: Any) -> list[Any]:
        """The one child of a switch that is drawn: the first that is known and whose conditions
        hold."""
        known = []
        for child in switch:
            if tag_of(child) in _KNOWN:
                known.append(child)
            else:
                self.left["foreign"] += bool(tag_of(child)) and (
                    tag_of(child) == "foreignobject" or tag_of(child) not in _NOT_DRAWN
                )
        return [child for child in known if conditions_hold(child)][:1]

    def _visit(self) -> None:
        """One more element; too many are refused."""
        self.visited += 1
        if self.visited % _EVERY == 0:
            self.share = 0.1 + 0.8 * min(1.0, self.visited / max(self.whole, 1))
            self.report(self.share, f"reading {self.name}")
        if self.visited > _MOST_SHAPES or self.table.nodes > _MOST_NODES:
            raise self._too_much()

    def _step(self, spans: int) -> None:
        self.report(self.share, f"reading {self.name}")
        if spans > _MOST_OF_ONE:
            raise FormatError(
                f"{self.name} has a shape of over {_MOST_OF_ONE:,} nodes; save it simpler"
            )

    def _elsewhere(self, element: Any, tag: str, inner: Around) -> None:
        """A drawing within the drawing, or what stands elsewhere in it."""
        try:
            there = self._nested(element, inner) if tag == "svg" else self._use(element, inner)
        except (ValueError, OverflowError, ZeroDivisionError) as error:
            self._damage(element, tag, error)
            return
        if there is not None:
            (self._inside if there[1] else self._element)(*there[0])

    def _element(self, element: Any, around: Around) -> None:
        tag = tag_of(element)
        self.left["foreign"] += tag == "foreignobject"
        if not tag or tag in _NOT_DRAWN or not conditions_hold(element):
            return
        self._visit()
        looks = self._looks(element, around.looks)
        if dict(looks).get("display") == "none":
            self.left["hidden"] += tag in _SHAPES or tag in ("g", "use", "svg", "a")
            return
        try:
            placed = parse_transform(element.get("transform", "")).then(around.to_page)
        except (OutsideError, OverflowError) as error:
            self._damage(element, tag, error)
            return
        inner = replace(
            around,
            to_page=placed,
            looks=looks,
            depth=around.depth + 1,
            layer=around.layer or layer(element, tag),
        )
        if tag in ("g", "a", "switch"):
            self._inside(element, inner)
        elif tag in ("svg", "use"):
            self._elsewhere(element, tag, inner)
        elif tag in _SHAPES:
            self._shape(element, tag, inner)
        elif tag == "text":
            self.left["text"] += 1
        elif tag == "image":
            self.left["picture"] += 1
            self.seen_outside |= not named(element, "href").startswith(("#", "data:"))

    def _nested(self, element: Any, around: Around) -> tuple[tuple[Any, Around], bool]:
        """What stands inside an inner picture, and what holds there."""
        x, y = self._length(element, "x", around, 0), self._length(element, "y", around, 1)
        width = self._length(element, "width", around, 0, around.size[0])
        height = self._length(element, "height", around, 1, around.size[1])
        to_page = view(element, width, height).then(Affine.moved(x, y)).then(around.to_page)
        return (
            element,
            replace(around, to_page=to_page, size=user_size(element, width, height)),
        ), True

    def _use(self, element: Any, around: Around) -> tuple[tuple[Any, Around], bool] | None:
        """What a link leads to, what holds there, and whether its inside is meant; None where it
        leads nowhere."""
        where = named(element, "href").strip()
        target = self.by_id.get(where[1:]) if where.startswith("#") else None
        self.seen_outside |= bool(where) and not where.startswith("#")
        if target is None or around.depth > _DEEPEST:
            self.left["link"] += 1
            return None
        x, y = self._length(element, "x", around, 0), self._length(element, "y", around, 1)
        there = replace(around, to_page=Affine.moved(x, y).then(around.to_page))
        if tag_of(target) in ("symbol", "svg"):
            width = self._length(element, "width", around, 0, around.size[0])
            height = self._length(element, "height", around, 1, around.size[1])
            inside = replace(
                there,
                to_page=view(target, width, height).then(there.to_page),
                size=user_size(target, width, height),
                looks=self._looks(target, there.looks),
            )
            return (target, inside), True
        return (target, there), False

    # --- shapes

    # --- the answer
