"""The shapes of an SVG file as contours, with how they look, and what is to be said of what was
left out."""

from __future__ import annotations

import math
from collections import Counter
from typing import Any

import numpy as np

from draxet.formats.drawing import Drawing
from draxet.formats.layer import FormatError
from draxet.formats.svg_elements import (
    LENGTH,
    LOOKS,
    PIXELS_OF,
    declared,
    element_called,
    ellipse,
    painted,
    rules,
    tag_of,
)
from draxet.formats.svg_paths import SubPath, numbers_of, parse_path
from draxet.formats.table import ContourTable
from draxet.geometry.affine import Affine
from draxet.geometry.contour import boxes_of
from draxet.geometry.spans import LINE
from draxet.outside import sane
from draxet.record import record

__all__ = ["Around", "SvgShapes"]


@record(frozen=True)
class Around:
    """What holds for what stands inside an element: its map to the page in pixels, layer, looks,
    and the size that % is of."""

    to_page: Affine = Affine()
    layer: str = ""
    looks: tuple[tuple[str, str], ...] = ()
    size: tuple[float, float] = (100.0, 100.0)
    depth: int = 0


class SvgShapes:
    """Shapes that are gathered one after the other."""

    def __init__(self, root: Any, name: str) -> None:
        self.name, self.table = name, ContourTable()
        self.left: Counter[str] = Counter()
        self.rules = rules(
            "\n".join(element.text or "" for element in root.iter() if tag_of(element) == "style")
        )
        self.page = (0.0, 0.0, 0.0, 0.0)
        self.pixel_mm: float | None = None
        self.seen_outside = False
        self.first_damage = ""
        self.shapes = 0

    def _shape(self, element: Any, tag: str, around: Around) -> None:
        looks = dict(around.looks)
        if looks.get("visibility") in ("hidden", "collapse"):
            self.left["hidden"] += 1
            return
        if looks.get("fill") in ("none", "transparent") and looks.get("stroke", "none") in (
            "none",
            "transparent",
        ):
            self.left["unpainted"] += 1
            return
        try:
            paths, whole = self._paths(element, tag, around)
        except FormatError:
            raise
        except (ValueError, OverflowError, ZeroDivisionError) as error:
            self._damage(element, tag, error)
            return
        if not whole:
            self._damage(element, tag, "its data end at a fault")
        self.shapes += 1
        paint = (
            self.shapes,
            painted(looks.get("fill", "black")),
            painted(looks.get("stroke", "")),
            self._breadth(looks.get("stroke-width", ""), around),
        )
        for path in paths:
            if path.has_size:
                self.table.add(
                    path.nodes,
                    path.kinds,
                    path.bulges,
                    path.handles,
                    closed=path.closed,
                    layer=around.layer,
                    to=around.to_page,
                    name=element_called(element, tag),
                    paint=paint,
                )
            else:
                self.left["no size"] += 1

    def _step(self, spans: int) -> None:
        """Part of a shape was read."""

    def _damage(self, element: Any, tag: str, why: object) -> None:
        self._damaged(element_called(element, tag), why)

    def _damaged(self, name: str, why: object) -> None:
        self.left["damaged"] += 1
        self.first_damage = self.first_damage or f"{name}: {why}"

    def _paths(self, element: Any, tag: str, around: Around) -> tuple[list[SubPath], bool]:
        if tag == "path":
            return parse_path(element.get("d", ""), self._step)
        if tag in ("polyline", "polygon"):
            n = numbers_of(element.get("points", ""), self._step)
            path = SubPath([(n[0], n[1])]) if len(n) > 1 else SubPath([(0.0, 0.0)])
            for k in range(2, len(n) - 1, 2):
                path.to((n[k], n[k + 1]))
            if tag == "polygon" or (len(path.nodes) > 2 and path.nodes[0] == path.nodes[-1]):
                path.close()
            return [path], len(n) % 2 == 0
        if tag == "line":
            x0, y0, x1, y1 = (
                self._length(element, side, around, k % 2)
                for k, side in enumerate(("x1", "y1", "x2", "y2"))
            )
            path = SubPath([(x0, y0)])
            path.to((x1, y1))
            return [path], True
        if tag == "rect":
            return [self._rectangle(element, around)], True
        radius = self._length(element, "r", around, 2)
        rx, ry = (
            (radius, radius)
            if tag == "circle"
            else (self._length(element, "rx", around, 0), self._length(element, "ry", around, 1))
        )
        return [
            ellipse(
                self._length(element, "cx", around, 0),
                self._length(element, "cy", around, 1),
                rx,
                ry,
            )
        ], True

    def _rectangle(self, element: Any, around: Around) -> SubPath:
        x, y = self._length(element, "x", around, 0), self._length(element, "y", around, 1)
        w, h = self._length(element, "width", around, 0), self._length(element, "height", around, 1)
        if w <= 0 or h <= 0:
            return SubPath([(x, y)])
        rx, ry = (
            self._length(element, "rx", around, 0, -1.0),
            self._length(element, "ry", around, 1, -1.0),
        )
        rx, ry = (rx if rx >= 0 else max(ry, 0.0)), (ry if ry >= 0 else max(rx, 0.0))
        rx, ry = min(rx, w / 2), min(ry, h / 2)
        if rx <= 0 or ry <= 0:
            return SubPath(
                [(x, y), (x + w, y), (x + w, y + h), (x, y + h)],
                [LINE] * 4,
                [0.0] * 4,
                [(0.0, 0.0, 0.0, 0.0)] * 4,
                True,
            )
        words = f"M{x + rx!r} {y!r}H{x + w - rx!r}A{rx!r} {ry!r} 0 0 1 {x + w!r} {y + ry!r}V{y + h - ry!r}A{rx!r} {ry!r} 0 0 1 {x + w - rx!r} {y + h!r}"
        return parse_path(
            f"{words}H{x + rx!r}A{rx!r} {ry!r} 0 0 1 {x!r} {y + h - ry!r}V{y + ry!r}A{rx!r} {ry!r} 0 0 1 {x + rx!r} {y!r}Z"
        )[0][0]

    def _length(
        self, element: Any, name: str, around: Around, axis: int, default: float = 0.0
    ) -> float:
        """A length in user units; `axis` 0 for shares of the width, 1 of the height, 2 of the
        diagonal."""
        words = element.get(name)
        if words is None:
            return default
        found = LENGTH.match(words)
        if not found:
            raise ValueError(f"{name} must be a length, got {words[:40]!r}")
        unit = found[2].lower()
        if unit == "%":
            whole = around.size[axis] if axis < 2 else math.hypot(*around.size) / math.sqrt(2)
            return sane(found[1], name) / 100 * whole
        if unit not in PIXELS_OF:
            raise ValueError(f"{name} must be a length, got {words[:40]!r}")
        return sane(found[1], name) * PIXELS_OF[unit]

    def _breadth(self, words: str, around: Around) -> float:
        """How broad a line is on the page; 0 where that is not said, or cannot be read."""
        try:
            breadth = self._length({"broad": words}, "broad", around, 2)
        except ValueError:
            breadth = 0.0
        return max(breadth, 0.0) * around.to_page.scale

    def _looks(
        self, element: Any, before: tuple[tuple[str, str], ...]
    ) -> tuple[tuple[str, str], ...]:
        """How the element is painted: what it takes over, its attributes, the style sheet's rules,
        its own style, in this order."""
        tag, found = tag_of(element), {name: value for name, value in before if name != "display"}
        for name in LOOKS:
            if (value := element.get(name)) is not None:
                found[name] = value.strip().lower()
        if self.rules:
            for key in (
                tag,
                "*",
                *(f".{each}" for each in (element.get("class") or "").split()),
                f"#{element.get('id')}",
            ):
                found.update(self.rules.get(key, {}))
        if style := element.get("style"):
            found.update(declared(style))
        return tuple(found.items())

    def drawing(self) -> Drawing:
        w, h = self.page[2:]
        made, sound = self.table.contours(Affine(1, 0, 0, 0, -1, h))
        for k in np.flatnonzero(~sound).tolist():
            self._damaged(self.table.names[k], "its numbers are greater than anybody can mean")
        kept: list[int] = []
        aside: list[int] = []
        boxes = boxes_of(made)
        out = (
            (boxes[:, 0] > w) | (boxes[:, 2] < 0) | (boxes[:, 1] > h) | (boxes[:, 3] < 0)
            if w > 0 and h > 0
            else np.zeros(len(made), dtype=bool)
        )
        for k in np.flatnonzero(sound).tolist():
            (aside if out[k] else kept).append(k)
        if not kept:  # a page that shows nothing is no page to go by
            kept, aside = aside, []
        remarks = self._remarks()
        words = (
            f"{len(aside)} shape{'s' * (len(aside) > 1)} outside the page left out" if aside else ""
        )
        if not kept:
            raise FormatError(
                f"{self.name} holds no shape that can be cut"
                + (f" ({remarks[0]})" if remarks else "")
            )
        layers = self.table.layers
        return Drawing(
            tuple(made[k] for k in kept),
            self.pixel_mm,
            tuple(remarks),
            tuple(layers[k] for k in kept),
            tuple(made[k] for k in aside),
            tuple(layers[k] for k in aside),
            words,
            tuple(self.table.paints[k] for k in kept),
        )

    def _remarks(self) -> list[str]:
        words = {
            "text": ("text", "texts", "left out; turn text into outlines first"),
            "picture": ("picture", "pictures", "left out"),
            "hidden": ("hidden shape", "hidden shapes", "left out"),
            "unpainted": ("shape", "shapes", "without fill and line left out"),
            "no size": ("shape", "shapes", "of no size left out"),
            "damaged": (
                "damaged shape",
                "damaged shapes",
                f"left out or cut short at the fault ({self.first_damage})",
            ),
            "link": ("link", "links", "that lead nowhere left out"),
            "too deeply nested": ("group", "groups", "too deeply nested left out"),
            "foreign": ("foreign part", "foreign parts", "left out"),
        }
        remarks = [
            f"{count} {words[what][count > 1]} {words[what][2]}"
            for what, count in self.left.items()
            if count
        ]
        return remarks + ["links to other files left out"] * self.seen_outside
