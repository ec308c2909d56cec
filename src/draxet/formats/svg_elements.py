"""Elements of an SVG file: what they are called, whether they are meant, how they look, where their
views lie."""

from __future__ import annotations

import contextlib
import locale
import re
from collections.abc import Mapping
from typing import Any
from xml.etree.ElementTree import TreeBuilder

from draxet.formats.layer import FormatError
from draxet.formats.svg_paths import SubPath, numbers_of, parse_path
from draxet.geometry.affine import Affine
from draxet.geometry.spans import ARC
from draxet.progress import Cancelled, Progress

__all__ = [
    "LENGTH",
    "LOOKS",
    "PIXELS_OF",
    "element_called",
    "conditions_hold",
    "declared",
    "ellipse",
    "layer",
    "named",
    "painted",
    "parsed",
    "rules",
    "tag_of",
    "user_size",
    "view",
]

PIXELS_OF = {
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
LENGTH = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*([a-zA-Z%]*)\s*$")
LOOKS = ("display", "visibility", "fill", "stroke", "stroke-width")
_LEAST_PIECE, _PIECES = 1_000_000, 16
_LONGEST = 1_000_000
"""Of a style, in letters."""
_NOT_STILL = ("#Extensibility", "#Animation", "#AnimationEventsAttribute", "#Script", "#Cursor")


def parsed(data: bytes, name: str, report: Progress) -> Any:
    """A file's root element. It is taken in large pieces: the parser begins a long attribute anew
    with each.

    Raises
    ------
    FormatError : where it is no sound XML or holds entities. Cancelled : where `report` says so.
    """
    from defusedxml.common import DefusedXmlException  # slow to load
    from defusedxml.ElementTree import DefusedXMLParser

    parser = DefusedXMLParser(
        target=TreeBuilder(), forbid_dtd=False, forbid_entities=True, forbid_external=True
    )
    piece = max(_LEAST_PIECE, len(data) // _PIECES)
    try:
        for at in range(0, len(data), piece):
            report(0.1 * at / len(data), f"reading {name}")
            parser.feed(data[at : at + piece])
        return parser.close()
    except Cancelled:
        raise
    except DefusedXmlException as error:
        raise FormatError(
            f"{name} holds entities, which are not read for safety; save it as plain SVG"
        ) from error
    except Exception as error:  # the parser raises whatever its decoders raise
        raise FormatError(
            f"{name} is no SVG that can be read; save it again as plain SVG"
        ) from error


def painted(word: str) -> str:
    """A colour (#rrggbb) that a fill or a line is painted in; empty for none. What is no plain
    colour, as a pattern is none, counts as black."""
    from PIL import ImageColor  # slow to load

    if word in ("", "none", "transparent"):
        return ""
    try:
        r, g, b = ImageColor.getrgb(word)[:3]
    except ValueError:
        return "#000000"
    return f"#{r:02x}{g:02x}{b:02x}"


def tag_of(element: Any) -> str:
    return element.tag.rsplit("}", 1)[-1].lower() if isinstance(element.tag, str) else ""


def conditions_hold(element: Any) -> bool:
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


def named(element: Any, local: str) -> str:
    """An attribute by its name alone, whatever space of names it is in."""
    return next(
        (value for key, value in element.attrib.items() if key.rsplit("}", 1)[-1] == local), ""
    )


def element_called(element: Any, tag: str) -> str:
    return f"{tag} {element.get('id', '')}".strip()


def layer(element: Any, tag: str) -> str:
    """A layer's name: the label or id of the outermost group."""
    return (named(element, "label") or element.get("id") or "") if tag == "g" else ""


def ellipse(x: float, y: float, rx: float, ry: float) -> SubPath:
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


def view(element: Any, width: float, height: float) -> Affine:
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


def user_size(element: Any, width: float, height: float) -> tuple[float, float]:
    box = numbers_of(element.get("viewBox", ""))
    return (box[2], box[3]) if len(box) == 4 else (width, height)


def declared(style: str) -> dict[str, str]:
    pairs = (part.split(":", 1) for part in style[:_LONGEST].split(";") if ":" in part)
    return {
        name.strip().lower(): value.replace("!important", "").strip().lower()
        for name, value in pairs
        if name.strip().lower() in LOOKS
    }


def rules(sheet: str) -> Mapping[str, Mapping[str, str]]:
    """A style sheet's simple rules: for an element, a class or an id."""
    rules: dict[str, dict[str, str]] = {}
    for selectors, body in re.findall(
        r"([^{}]{1,2000})\{([^{}]{0,5000})\}",
        re.sub(r"/\*.*?\*/", "", sheet[:_LONGEST], flags=re.S),
    ):
        for selector in selectors.split(","):
            key = selector.strip()
            if re.fullmatch(r"[.#]?[\w-]+|\*", key):
                rules.setdefault(key if key[0] in ".#" else key.lower(), {}).update(declared(body))
    return rules
