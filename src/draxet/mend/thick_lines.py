"""Lines of a width as outlines, with no more nodes than their shape wants."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.offset import thick_line
from draxet.geometry.spans import CUBIC
from draxet.mend.simplify import simplified

__all__ = ["thick_lines"]


def thick_lines(lines: Sequence[Contour], widths: Sequence[float], within: float) -> list[Contour]:
    """The outlines of lines of these widths in mm. Those of lines and arcs are exact; of curves
    they lie within `within` mm, and none crosses itself."""
    return [
        _simpler(outline, line, min(within, width / 4))
        for line, width in zip(lines, widths, strict=True)
        for outline in thick_line(line, width)
    ]


def _simpler(outline: Contour, line: Contour, within: float) -> Contour:
    if not (line.kinds == CUBIC).any():
        return outline
    made, _ = simplified(outline, within)
    return (
        made
        if made is outline or shapely.LinearRing(made.flattened(within / 10)).is_simple
        else outline
    )
