"""``draxet mend``: a drawing from elsewhere, an SVG or DXF, is looked at and made clean. Without
options nothing is changed."""

from __future__ import annotations

import argparse
import json
from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from draxet.files import reason, same_file, write_whole
from draxet.formats.layer import FormatError, Layer, Page
from draxet.gather.drawings import read_drawing
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.leaving import drawing_format
from draxet.mend.clean import Cleaning, cleaned, flaws_of
from draxet.mend.doubles import united
from draxet.mend.flaws import WORDS, Flaw
from draxet.progress import Unwatched
from draxet.units import parse_area, parse_length

__all__ = ["add_mend", "run_mend"]

_LOOKED = Cleaning(1.0, 1.0, 0.05, 0.1)
"""Limits within which flaws are told that nobody asked to have mended."""
_CURVES_WITHIN = 0.002


def add_mend(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser(
        "mend",
        help="make a drawing clean: gaps, overshoots, lines drawn twice",
        description=__doc__,
    )
    parser.add_argument("drawing", type=Path, metavar="IN.svg|IN.dxf")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.svg|OUT.dxf")
    parser.add_argument(
        "--close-gaps",
        metavar="LENGTH",
        help="open ends no farther apart are joined, where they point at each other",
    )
    parser.add_argument(
        "--trim",
        nargs="?",
        const="1 mm",
        metavar="LENGTH",
        help="ends that go past a crossing by no more are trimmed to it (1 mm)",
    )
    parser.add_argument(
        "--drop-doubles",
        nargs="?",
        const="0.05 mm",
        metavar="LENGTH",
        help="of lines that lie on each other within this one stays (0.05 mm)",
    )
    parser.add_argument("--drop-under", metavar="AREA", help="contours smaller than this go")
    parser.add_argument(
        "--unite",
        action="store_true",
        help="closed contours of a layer that overlap become one outline",
    )
    parser.add_argument("--json", action="store_true", help="print what was found and done as JSON")


def run_mend(options: argparse.Namespace) -> int:
    """Mend as the options say; ValueError with one sentence where that cannot be done."""
    kind, limits = drawing_format(options.output), _limits(options)
    contours, layers, remarks = _read(options.drawing)
    if same_file(options.output, options.drawing):
        raise ValueError(
            f"the output must be another file than the drawing, got {options.output} for both"
        )
    found = flaws_of(contours, _LOOKED)
    by_layer: dict[str, list[Contour]] = {}
    done: list[Flaw] = []
    if any(
        value is not None
        for value in (limits.gaps, limits.overshoots, limits.doubles, limits.scraps)
    ):
        now, done = cleaned(contours, limits)
    else:
        now = list(enumerate(contours))
    for origin, contour in now:
        by_layer.setdefault(layers[origin], []).append(contour)
    if options.unite:
        by_layer = {name: united(some) for name, some in by_layer.items()}
    made = [contour for some in by_layer.values() for contour in some]
    high = max((contour.box[3] for contour in made), default=1.0)
    wide = max((contour.box[2] for contour in made), default=1.0)
    data = kind.write(
        [Layer(name, tuple(some)) for name, some in by_layer.items()],
        Page(max(wide, 1.0), max(high, 1.0), _CURVES_WITHIN),
        Unwatched(),
    )
    try:
        write_whole(options.output, data)
    except OSError as error:
        raise ValueError(f"{options.output} could not be written: {reason(error)}") from error
    _report(options, made, found, done, remarks, united_from=len(now) if options.unite else 0)
    return 0


def _limits(options: argparse.Namespace) -> Cleaning:
    def length(text: str | None, name: str) -> float | None:
        return None if text is None else parse_length(text, positive=True, what=name)

    under = (
        None if options.drop_under is None else parse_area(options.drop_under, what="--drop-under")
    )
    return Cleaning(
        length(options.close_gaps, "--close-gaps"),
        length(options.trim, "--trim"),
        length(options.drop_doubles, "--drop-doubles"),
        under,
    )


def _read(path: Path) -> tuple[list[Contour], list[str], list[str]]:
    """Contours in mm, the layer of each, and what is to be said of the file."""
    try:
        data = path.read_bytes()
    except (OSError, ValueError) as error:
        raise ValueError(f"{path} could not be read: {reason(error)}") from error
    try:
        drawing = read_drawing(data, path.name)
    except FormatError as error:
        raise ValueError(str(error)) from error
    remarks = [*([drawing.aside_words] if drawing.aside else []), *drawing.remarks]
    if drawing.unit_mm is None:
        remarks.append(f"{path.name} does not say its unit; it was taken as millimetres")
    to_mm = Affine.scaled(drawing.unit_mm or 1.0)
    contours = [contour.transformed(to_mm) for contour in drawing.contours]
    return contours, list(drawing.layers) or ["contours"] * len(contours), remarks


def _report(
    options: argparse.Namespace,
    made: Sequence[Contour],
    found: Sequence[Flaw],
    done: Sequence[Flaw],
    remarks: Sequence[str],
    united_from: int,
) -> None:
    closed = sum(contour.closed for contour in made)
    facts: dict[str, Any] = {
        "contours": len(made),
        "closed": closed,
        "open": len(made) - closed,
        "found": {
            kind: {
                "count": count,
                "greatest_mm": round(max(f.size for f in found if f.kind == kind), 4),
            }
            for kind, count in Counter(f.kind for f in found).items()
        },
        "done": {
            kind: {
                "count": count,
                "greatest_mm": round(max(f.size for f in done if f.kind == kind), 4),
            }
            for kind, count in Counter(f.kind for f in done).items()
        },
        "united_from": united_from,
        "remarks": list(remarks),
    }
    if options.json:
        print(json.dumps(facts, allow_nan=False))
        return
    words = [
        f"{count} {WORDS[kind][count != 1]}"
        for kind, count in Counter(f.kind for f in (done or found)).items()
    ]
    said = (
        ("mended: " if done else "found: ") + ", ".join(words)
        if words
        else "nothing wrong was found"
    )
    print(f"{options.output}: {len(made)} contours, {len(made) - closed} open; {said}")
    for remark in remarks:
        print(remark)
