"""The bracket's drawing as it lay in the shed for years: its outline broken, overshot at the
corners and in places drawn twice.

The truth is that of ``bracket``; run as a script it draws ``worn.jpg`` beside itself.
"""

from __future__ import annotations

from pathlib import Path

import bracket
import cv2

from draxet.geometry.arc_length import ArcLength
from draxet.geometry.contour import Contour
from draxet.geometry.offset import offset_area
from draxet.geometry.pieces import piece

GAPS_MM = ((300.0, 2.2), (520.0, 1.6), (760.0, 2.6))
"""Where along the outline it is broken, and how far."""
OVERSHOT_MM = 3.0
DOUBLED_MM = 1.1
"""How far beside the line some of it was drawn again."""


def strokes() -> list[Contour]:
    """Pencil strokes in the part's mm: the outline in pieces, the window's sides drawn on over its
    corners, two stretches drawn twice."""
    outline, window, *holes = bracket.part()
    return [
        *_broken(outline),
        *_overshot(window),
        *holes,
        *_again(outline, 60.0, 95.0),
        *_again(holes[0], 10.0, 34.0),
    ]


def _broken(outline: Contour) -> list[Contour]:
    line = ArcLength(outline)
    ends = [(line.position(at), line.position(at + gap)) for at, gap in GAPS_MM]
    found = [piece(outline, stop, ends[(k + 1) % len(ends)][0]) for k, (_, stop) in enumerate(ends)]
    return [part for part in found if part is not None]


def _overshot(window: Contour) -> list[Contour]:
    """Its rounded half as one stroke, and the two sides and the top drawn on over the sharp
    corners."""
    x0, y0, x1, y1 = window.box
    line = ArcLength(window)
    rounded = [k for k in range(len(window.kinds)) if window.kinds[k]]
    lower = piece(window, float(min(rounded)), float(max(rounded) + 1))
    assert lower is not None and line.length > 0
    (ax, ay), (bx, by) = lower.nodes[0].tolist(), lower.nodes[-1].tolist()
    sides = [
        Contour.make([(ax, ay), (ax, y1 + OVERSHOT_MM)], closed=False),
        Contour.make([(bx, by), (bx, y1 + OVERSHOT_MM)], closed=False),
    ]
    return [
        lower,
        *sides,
        Contour.make([(x0 - OVERSHOT_MM, y1), (x1 + OVERSHOT_MM, y1)], closed=False),
    ]


def _again(contour: Contour, begin: float, end: float) -> list[Contour]:
    """A stretch of a contour once more, a little beside it."""
    (beside,) = offset_area([contour], -DOUBLED_MM)
    line = ArcLength(beside)
    part = piece(beside, line.position(begin), line.position(end))
    return [part] if part is not None else []


def main() -> None:
    cv2.imwrite(
        str(Path(__file__).resolve().parent / "worn.jpg"),
        bracket.draw(strokes()),
        [cv2.IMWRITE_JPEG_QUALITY, 90],
    )


if __name__ == "__main__":
    main()
