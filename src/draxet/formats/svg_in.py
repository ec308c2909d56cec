"""SVG files from elsewhere: every visible shape as contours, lines, circular arcs and curves kept,
transforms applied.

What cannot be read is left out and said, shape by shape; one fault does not refuse a whole drawing.
"""

from __future__ import annotations

import contextlib
import io
import locale
import math
import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from draxet.formats.drawing import Drawing
from draxet.formats.layer import FormatError
from draxet.formats.svg_paths import SubPath, numbers_of, parse_path, parse_transform
from draxet.formats.table import ContourTable
from draxet.geometry.affine import Affine
from draxet.geometry.contour import boxes_of
from draxet.geometry.spans import ARC, LINE
from draxet.outside import OutsideError, sane
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["read_svg_drawing"]

_PX = {
    "": 1.0,
    "px": 1.0,
    "mm": 96 / 25.4,
    "cm": 96 / 2.54,
    "in": 96.0,
    "pt": 96 / 72,
    "pc": 16.0,
    "q": 96 / 101.6,
    "em": 16.0,
    "ex": 8.0,
}
_ABSOLUTE = ("mm", "cm", "in", "pt", "pc", "q")
_LARGEST = 200_000_000
_MOST_SHAPES, _MOST_NODES, _DEEPEST = 400_000, 3_000_000, 80
_EVERY = 500
_ENDLESS = 10
"""A drawing that links make so many times too large is refused before it is read."""
_NOT_STILL = ("#Extensibility", "#Animation", "#AnimationEventsAttribute", "#Script", "#Cursor")
_LENGTH = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*([a-zA-Z%]*)\s*$")
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
_LOOKS = ("display", "visibility", "fill", "stroke")


def read_svg_drawing(data: bytes, name: str, progress: Progress | None = None) -> Drawing:
    """Read an SVG file.

    Raises
    ------
    FormatError : where it is no sound SVG, holds entities, is too large or holds no shape.
    Cancelled : where `progress` says so.
    """
    if len(data) > _LARGEST:
        raise FormatError(f"{name} is over {_LARGEST // 1_000_000} MB; save it smaller")
    root = _parsed(data, name)
    if _tag(root) != "svg":
        raise FormatError(f"{name} is no SVG that can be read; save it again as plain SVG")
    reader = _Reader(root, name, progress or Unwatched())
    reader.read()
    return reader.drawing()


def _parsed(data: bytes, name: str) -> Any:
    from defusedxml.common import DefusedXmlException  # slow to load
    from defusedxml.ElementTree import parse

    try:
        return parse(
            io.BytesIO(data), forbid_dtd=False, forbid_entities=True, forbid_external=True
        ).getroot()
    except DefusedXmlException as error:
        raise FormatError(
            f"{name} holds entities, which are not read for safety; save it as plain SVG"
        ) from error
    except Exception as error:  # the parser raises whatever its decoders raise
        raise FormatError(
            f"{name} is no SVG that can be read; save it again as plain SVG"
        ) from error


def _tag(element: Any) -> str:
    return element.tag.rsplit("}", 1)[-1].lower() if isinstance(element.tag, str) else ""


def _conditions_hold(element: Any) -> bool:
    """Whether an element is to be drawn here: it wants no extension, no feature but those of still
    drawings, and a language that is spoken here or English (SVG 1.1, 5.8)."""
    extensions, features, languages = (
        element.get(name) for name in ("requiredExtensions", "requiredFeatures", "systemLanguage")
    )
    if extensions is not None or (
        features is not None
        and (
            not features.split()
            or any(feature.endswith(_NOT_STILL) for feature in features.split())
        )
    ):
        return False
    if languages is None:
        return True
    with contextlib.suppress(ValueError):  # a desktop may name a tongue that nobody knows
        spoken = (locale.getlocale()[0] or "en").split("_")[0].lower()
        return any(
            language.strip().split("-")[0].lower() in ("en", spoken)
            for language in languages.split(",")
        )
    return any(language.strip().split("-")[0].lower() == "en" for language in languages.split(","))


def _named(element: Any, local: str) -> str:
    """An attribute by its name alone, whatever space of names it is in."""
    return next(
        (value for key, value in element.attrib.items() if key.rsplit("}", 1)[-1] == local), ""
    )


@record(frozen=True)
class _Around:
    """What holds for what stands inside an element: its map to the page in pixels, layer, looks,
    and the size that % is of."""

    to_page: Affine = Affine()
    layer: str = ""
    looks: tuple[tuple[str, str], ...] = ()
    size: tuple[float, float] = (100.0, 100.0)
    depth: int = 0


class _Reader:
    def __init__(self, root: Any, name: str, report: Progress) -> None:
        self.root, self.name, self.report = root, name, report
        self.table = ContourTable()
        self.left: Counter[str] = Counter()
        self.visited = 0
        self.by_id = {element.get("id"): element for element in root.iter() if element.get("id")}
        self.rules = _rules(
            "\n".join(element.text or "" for element in root.iter() if _tag(element) == "style")
        )
        self.page = (0.0, 0.0, 0.0, 0.0)
        self.pixel_mm: float | None = None
        self.seen_outside = False
        self.first_damage = ""

    # --- walking

    def read(self) -> None:
        """FormatError where it is too large, or its page is none."""
        try:
            self._read()
        except OutsideError as error:
            raise FormatError(f"{self.name}: {error}") from error

    def _read(self) -> None:
        size, states_length = self._page_size()
        self.pixel_mm = 25.4 / 96 if states_length else None
        if self._visits(self.root, {}) > _ENDLESS * _MOST_SHAPES:
            raise self._too_much()
        to_page = _view(self.root, *size)
        self.page = (0.0, 0.0, *size) if size[0] > 0 and size[1] > 0 else (0.0, 0.0, 0.0, 0.0)
        self._inside(
            self.root,
            _Around(to_page, "", self._looks(self.root, ()), _user_size(self.root, *size)),
        )

    def _visits(self, element: Any, known: dict[Any, int], depth: int = 0) -> int:
        """About how many elements reading one comes past, those that links lead to again for each
        link."""
        if element not in known:
            known[element] = 0  # for a link that leads back here
            target = (
                self.by_id.get(_named(element, "href").strip()[1:])
                if _tag(element) == "use"
                else None
            )
            inside = [child for child in element if _tag(child) not in _NOT_DRAWN] + [target] * (
                target is not None
            )
            known[element] = 1 + sum(
                self._visits(each, known, depth + 1) for each in inside if depth <= _DEEPEST
            )
        return known[element]

    def _too_much(self) -> FormatError:
        return FormatError(
            f"{self.name} would be over {_MOST_SHAPES:,} shapes or {_MOST_NODES:,} nodes; save it simpler"
        )

    def _page_size(self) -> tuple[tuple[float, float], bool]:
        """Width and height in pixels, and whether the file states a real length."""
        box = numbers_of(self.root.get("viewBox", ""))
        whole = (box[2], box[3]) if len(box) == 4 and min(box[2:]) > 0 else (0.0, 0.0)
        found = [_LENGTH.match(self.root.get(side, "")) for side in ("width", "height")]
        units = [match[2].lower() if match else "%" for match in found]
        sides = [
            sane(match[1], "the page's size") * _PX[unit] if match and unit in _PX else 0.0
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

    def _inside(self, element: Any, around: _Around) -> None:
        if around.depth > _DEEPEST:
            self.left["too deeply nested"] += 1
            return
        for child in self._shown_of(element) if _tag(element) == "switch" else element:
            self._element(child, around)

    def _shown_of(self, switch: Any) -> list[Any]:
        """The one child of a switch that is drawn: the first that is known and whose conditions
        hold."""
        known = []
        for child in switch:
            if _tag(child) in _KNOWN:
                known.append(child)
            else:
                self.left["foreign"] += bool(_tag(child)) and (
                    _tag(child) == "foreignobject" or _tag(child) not in _NOT_DRAWN
                )
        return [child for child in known if _conditions_hold(child)][:1]

    def _visit(self) -> None:
        """One more element; too many are refused."""
        self.visited += 1
        if self.visited % _EVERY == 0:
            share = min(1.0, self.visited / max(len(self.by_id), 20_000))
            self.report(0.1 + 0.8 * share, f"reading {self.name}")
        if self.visited > _MOST_SHAPES or self.table.nodes > _MOST_NODES:
            raise self._too_much()

    def _elsewhere(self, element: Any, tag: str, inner: _Around) -> None:
        """A drawing within the drawing, or what stands elsewhere in it."""
        try:
            there = self._nested(element, inner) if tag == "svg" else self._use(element, inner)
        except (ValueError, OverflowError, ZeroDivisionError) as error:
            self._damage(element, tag, error)
            return
        if there is not None:
            (self._inside if there[1] else self._element)(*there[0])

    def _element(self, element: Any, around: _Around) -> None:
        tag = _tag(element)
        self.left["foreign"] += tag == "foreignobject"
        if not tag or tag in _NOT_DRAWN or not _conditions_hold(element):
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
            layer=around.layer or _layer(element, tag),
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
            self.seen_outside |= not _named(element, "href").startswith(("#", "data:"))

    def _nested(self, element: Any, around: _Around) -> tuple[tuple[Any, _Around], bool]:
        """What stands inside an inner picture, and what holds there."""
        x, y = self._length(element, "x", around, 0), self._length(element, "y", around, 1)
        width = self._length(element, "width", around, 0, around.size[0])
        height = self._length(element, "height", around, 1, around.size[1])
        to_page = _view(element, width, height).then(Affine.moved(x, y)).then(around.to_page)
        return (
            element,
            replace(around, to_page=to_page, size=_user_size(element, width, height)),
        ), True

    def _use(self, element: Any, around: _Around) -> tuple[tuple[Any, _Around], bool] | None:
        """What a link leads to, what holds there, and whether its inside is meant; None where it
        leads nowhere."""
        where = _named(element, "href").strip()
        target = self.by_id.get(where[1:]) if where.startswith("#") else None
        self.seen_outside |= bool(where) and not where.startswith("#")
        if target is None or around.depth > _DEEPEST:
            self.left["link"] += 1
            return None
        x, y = self._length(element, "x", around, 0), self._length(element, "y", around, 1)
        there = replace(around, to_page=Affine.moved(x, y).then(around.to_page))
        if _tag(target) in ("symbol", "svg"):
            width = self._length(element, "width", around, 0, around.size[0])
            height = self._length(element, "height", around, 1, around.size[1])
            inside = replace(
                there,
                to_page=_view(target, width, height).then(there.to_page),
                size=_user_size(target, width, height),
                looks=self._looks(target, there.looks),
            )
            return (target, inside), True
        return (target, there), False

    # --- shapes

    def _shape(self, element: Any, tag: str, around: _Around) -> None:
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
        except (ValueError, OverflowError, ZeroDivisionError) as error:
            self._damage(element, tag, error)
            return
        if not whole:
            self._damage(element, tag, "its data end at a fault")
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
                    name=_called(element, tag),
                )
            else:
                self.left["no size"] += 1

    def _damage(self, element: Any, tag: str, why: object) -> None:
        self._damaged(_called(element, tag), why)

    def _damaged(self, name: str, why: object) -> None:
        self.left["damaged"] += 1
        self.first_damage = self.first_damage or f"{name}: {why}"

    def _paths(self, element: Any, tag: str, around: _Around) -> tuple[list[SubPath], bool]:
        if tag == "path":
            return parse_path(element.get("d", ""))
        if tag in ("polyline", "polygon"):
            n = numbers_of(element.get("points", ""))
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
            _ellipse(
                self._length(element, "cx", around, 0),
                self._length(element, "cy", around, 1),
                rx,
                ry,
            )
        ], True

    def _rectangle(self, element: Any, around: _Around) -> SubPath:
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
        self, element: Any, name: str, around: _Around, axis: int, default: float = 0.0
    ) -> float:
        """A length in user units; `axis` 0 for shares of the width, 1 of the height, 2 of the
        diagonal."""
        words = element.get(name)
        if words is None:
            return default
        found = _LENGTH.match(words)
        if not found:
            raise ValueError(f"{name} must be a length, got {words[:40]!r}")
        unit = found[2].lower()
        if unit == "%":
            whole = around.size[axis] if axis < 2 else math.hypot(*around.size) / math.sqrt(2)
            return sane(found[1], name) / 100 * whole
        if unit not in _PX:
            raise ValueError(f"{name} must be a length, got {words[:40]!r}")
        return sane(found[1], name) * _PX[unit]

    def _looks(
        self, element: Any, before: tuple[tuple[str, str], ...]
    ) -> tuple[tuple[str, str], ...]:
        """How the element is painted: what it takes over, its attributes, the style sheet's rules,
        its own style, in this order."""
        tag, found = _tag(element), {name: value for name, value in before if name != "display"}
        for name in _LOOKS:
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
            found.update(_declared(style))
        return tuple(found.items())

    # --- the answer

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


def _called(element: Any, tag: str) -> str:
    return f"{tag} {element.get('id', '')}".strip()


def _layer(element: Any, tag: str) -> str:
    """A layer's name: the label or id of the outermost group."""
    return (_named(element, "label") or element.get("id") or "") if tag == "g" else ""


def _ellipse(x: float, y: float, rx: float, ry: float) -> SubPath:
    if rx <= 0 or ry <= 0:
        return SubPath([(x, y)])
    if abs(rx - ry) <= 1e-9 * rx:
        return SubPath(
            [(x - rx, y), (x + rx, y)], [ARC, ARC], [1.0, 1.0], [(0.0, 0.0, 0.0, 0.0)] * 2, True
        )
    (path,), _ = parse_path(
        f"M{x - rx!r} {y!r}A{rx!r} {ry!r} 0 0 1 {x + rx!r} {y!r}A{rx!r} {ry!r} 0 0 1 {x - rx!r} {y!r}Z"
    )
    return path


def _view(element: Any, width: float, height: float) -> Affine:
    """From an element's own units to those of what it stands in, by its viewBox and
    preserveAspectRatio."""
    box = numbers_of(element.get("viewBox", ""))
    if len(box) != 4 or not (box[2] > 0 and box[3] > 0 and width > 0 and height > 0):
        return Affine()
    sx, sy = width / box[2], height / box[3]
    fit = element.get("preserveAspectRatio", "xMidYMid meet").split()
    place = fit[0] if fit and fit[0] != "defer" else (fit[1] if len(fit) > 1 else "xMidYMid")
    if place == "none":
        return Affine.moved(-box[0], -box[1]).then(Affine.scaled(sx, sy))
    scale = max(sx, sy) if "slice" in fit else min(sx, sy)
    share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    dx = share.get(place[1:4], 0.5) * (width - scale * box[2])
    dy = share.get(place[5:8], 0.5) * (height - scale * box[3])
    return Affine.moved(-box[0], -box[1]).then(Affine.scaled(scale)).then(Affine.moved(dx, dy))


def _user_size(element: Any, width: float, height: float) -> tuple[float, float]:
    box = numbers_of(element.get("viewBox", ""))
    return (box[2], box[3]) if len(box) == 4 else (width, height)


def _declared(style: str) -> dict[str, str]:
    pairs = (part.split(":", 1) for part in style.split(";") if ":" in part)
    return {
        name.strip().lower(): value.replace("!important", "").strip().lower()
        for name, value in pairs
        if name.strip().lower() in _LOOKS
    }


def _rules(sheet: str) -> Mapping[str, Mapping[str, str]]:
    """A style sheet's simple rules: for an element, a class or an id."""
    rules: dict[str, dict[str, str]] = {}
    for selectors, body in re.findall(
        r"([^{}]{1,2000})\{([^{}]{0,5000})\}",
        re.sub(r"/\*.*?\*/", "", sheet[:1_000_000], flags=re.S),
    ):
        for selector in selectors.split(","):
            key = selector.strip()
            if re.fullmatch(r"[.#]?[\w-]+|\*", key):
                rules.setdefault(key if key[0] in ".#" else key.lower(), {}).update(_declared(body))
    return rules
