"""The stop-sign bracket of the demo job: its true geometry, and the pencil drawing of it made from
that.

Run as a script it draws ``bracket.jpg`` and writes ``bracket.json`` (the truth) beside itself; the
seed is fixed.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from draxet.geometry.affine import Affine  # noqa: E402
from draxet.geometry.contour import Contour  # noqa: E402
from draxet.geometry.shapes import rounded_polygon  # noqa: E402

PAPER_MM = (400.0, 370.0)
DPI = 200.0
SKEW_DEGREES = 1.7
PENCIL_MM = 0.45
SEED = 20_26
WRITTEN = {"width": 240.0, "height": 264.0, "window width": 84.0}
HOLES = ((206.0, 226.0, 17.0), (44.0, 30.0, 11.0), (124.0, 30.0, 11.0))
_ORIGIN = Affine.moved(70.0, 60.0)
_OVER = 4


def part() -> list[Contour]:
    """The bracket in mm, its lower left corner in the origin: outline, window and three holes."""
    outline = rounded_polygon(
        [
            (0, 0, 24),
            (168, 0, 24),
            (168, 140, 30),
            (240, 170, 26),
            (240, 264, 40),
            (140, 264, 50),
            (96, 222, 0),
            (0, 222, 30),
        ]
    )
    window = rounded_polygon([(40, 60, 14), (124, 60, 14), (124, 130, 0), (40, 130, 0)])
    return [outline, window, *(Contour.circle(*hole) for hole in HOLES)]


def paper_to_pixels() -> Affine:
    """From mm on the paper (y up from its lower left) to pixels of the scan (y down), askew."""
    scale = DPI / 25.4
    skewed = Affine.turned(SKEW_DEGREES).about(PAPER_MM[0] / 2, PAPER_MM[1] / 2)
    return skewed.then(Affine(scale, 0, 0, 0, -scale, PAPER_MM[1] * scale))


def part_to_pixels() -> Affine:
    return _ORIGIN.then(paper_to_pixels())


def draw(strokes: Sequence[Contour] | None = None) -> np.ndarray[Any, Any]:
    """The scan (rows, columns) of uint8: the part with its dimensions, or other pencil strokes (in
    the part's mm) alone."""
    rng = np.random.default_rng(SEED)
    width, height = (round(side * DPI / 25.4) for side in PAPER_MM)
    lines, thin = (
        np.zeros((height * _OVER, width * _OVER), np.uint8),
        np.zeros((height * _OVER, width * _OVER), np.uint8),
    )
    for contour in part() if strokes is None else strokes:
        _stroke(lines, contour.flattened(0.005), PENCIL_MM, closed=contour.closed)
    if strokes is None:
        _dimensions(thin)
    ink = 0.72 * _scanned(lines, (width, height)) + 0.5 * _scanned(thin, (width, height))
    coarse = cv2.resize(
        rng.normal(0, 1, (height // 6, width // 6)).astype(np.float32),
        (width, height),
        interpolation=cv2.INTER_CUBIC,
    )
    grain = rng.normal(0, 1, (height, width)).astype(np.float32)
    ink = np.clip(ink, 0, 0.75) * (1 + 0.10 * cv2.GaussianBlur(grain, (0, 0), 0.7) + 0.04 * coarse)
    light = (
        240
        - 12 * np.linspace(0, 1, width)[None]
        - 7 * np.linspace(0, 1, height)[:, None]
        + 1.5 * coarse
    )
    return np.clip(light * (1 - ink) + rng.normal(0, 2.5, (height, width)), 0, 255).astype(np.uint8)


def _stroke(
    canvas: np.ndarray[Any, Any], points_mm: np.ndarray[Any, Any], width_mm: float, *, closed: bool
) -> None:
    """A pencil line on the oversized, straight canvas."""
    at = (
        Affine(1, 0, 0, 0, -1, PAPER_MM[1]).apply(_ORIGIN.apply(np.asarray(points_mm, float)))
        * DPI
        / 25.4
        * _OVER
        - 0.5
    )
    thickness = max(1, round(width_mm * DPI / 25.4 * _OVER))
    cv2.polylines(
        canvas, [np.round(at * 16).astype(np.int32)], closed, 255, thickness, cv2.LINE_AA, 4
    )


def _dimensions(canvas: np.ndarray[Any, Any]) -> None:
    for x0, y0, x1, y1, words in (
        (0, -28, 240, -28, "240"),
        (276, 0, 276, 264, "264"),
        (40, 148, 124, 148, "84"),
    ):
        _stroke(canvas, np.array([(x0, y0), (x1, y1)]), 0.3, closed=False)
        level = y0 == y1
        for x, y, sense in ((x0, y0, 1), (x1, y1, -1)):
            head = np.array([(sense * 5, 1.2), (0, 0), (sense * 5, -1.2)])
            _stroke(canvas, (head if level else head[:, ::-1]) + (x, y), 0.3, closed=False)
        _write(
            canvas,
            (x0 + x1) / 2 - (10 if level else -4),
            (y0 + y1) / 2 + (3 if level else -4),
            words,
        )
    for x, y0, y1 in ((0, 18, -33), (240, 166, -33), (40, 134, 153), (124, 134, 153)):
        _stroke(canvas, np.array([(x, y0 if y0 > 100 else -4), (x, y1)]), 0.3, closed=False)
    for y, x0 in ((0, 176), (264, 222)):
        _stroke(canvas, np.array([(x0, y), (281, y)]), 0.3, closed=False)


def _write(canvas: np.ndarray[Any, Any], x: float, y: float, words: str) -> None:
    at = Affine(1, 0, 0, 0, -1, PAPER_MM[1]).point(*_ORIGIN.point(x, y))
    place = tuple(round(v * DPI / 25.4 * _OVER) for v in at)
    cv2.putText(
        canvas,
        words,
        place,
        cv2.FONT_HERSHEY_SIMPLEX | cv2.FONT_ITALIC,
        9.0,
        255,
        round(0.4 * DPI / 25.4 * _OVER),
        cv2.LINE_AA,
    )


def _scanned(canvas: np.ndarray[Any, Any], size: tuple[int, int]) -> np.ndarray[Any, Any]:
    """The oversized canvas turned askew and brought to the scan's pixels, blurred as a scanner
    does."""
    soft = cv2.GaussianBlur(canvas, (0, 0), 0.55 * _OVER)
    straight = Affine(
        1 / _OVER, 0, 0.5 / _OVER, 0, 1 / _OVER, 0.5 / _OVER
    )  # canvas index to straight pixels
    to_paper = Affine(25.4 / DPI, 0, 0, 0, -25.4 / DPI, PAPER_MM[1])
    whole = straight.then(to_paper).then(paper_to_pixels()).then(Affine.moved(-0.5, -0.5))
    matrix = np.array(whole.to_tuple()).reshape(2, 3)
    return cv2.warpAffine(soft, matrix, size, flags=cv2.INTER_LINEAR).astype(np.float32) / 255


def main() -> None:
    here = Path(__file__).resolve().parent
    cv2.imwrite(str(here / "bracket.jpg"), draw(), [cv2.IMWRITE_JPEG_QUALITY, 90])
    truth = {
        "written_mm": WRITTEN,
        "holes_mm": HOLES,
        "pixels_from_part_mm": part_to_pixels().to_tuple(),
        "dpi": DPI,
        "skew_degrees": SKEW_DEGREES,
    }
    (here / "bracket.json").write_text(json.dumps(truth, indent=1) + "\n")


if __name__ == "__main__":
    main()
