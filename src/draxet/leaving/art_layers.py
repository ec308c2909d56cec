"""What is drawn on a sheet as it is to be looked at: areas in their colours, lines as broad as they
are meant, whatever it is worked by."""

from __future__ import annotations

from typing import Any

from draxet.formats.drawn_marks import Area, Line
from draxet.formats.layer import Layer
from draxet.geometry.shared_edges import shared_edges
from draxet.job.coloured_areas import outlines_with_holes
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job

__all__ = ["art_layers"]

_INK, _HAIR = "#000000", 0.25
"""The colour of what has none, and mm that a line is broad of which nobody said."""
_LED_ON = 0.2
"""mm that the edge which two areas share is broad under the one in front, so that nothing shines
through between them."""
_FILLED, _LINES = "As it looks, not for cutting", "All contours as lines"


def art_layers(job: Job, *, filled: bool = True) -> list[Layer]:
    """One layer with all that is drawn on the sheet in hand, the rearmost first: closed contours as
    areas where these are to be `filled`."""
    items = [item for item in job.layout.contours if item.sheet == job.sheet.id]
    bound = [item for item in items if filled and item.contour.closed and not item.line]
    groups = outlines_with_holes([i.contour for i in bound], [i.colour for i in bound])
    of = {k: number for number, group in enumerate(groups) for k in group}
    marks: list[tuple[int, int, Any]] = []  # by where it lies in the stack
    place = {item.id: number for number, item in enumerate(items)}
    for group in groups:
        at = place[bound[group[0]].id]
        contours = tuple(bound[k].contour for k in group)
        marks.append((at, 0, Area(contours, _colour(bound[group[0]]))))
    holes = {k for group in groups for k in group[1:]}
    outside = [k in holes for k in range(len(bound))]
    for run in shared_edges([item.contour for item in bound], outside).shared:
        behind = min(run.of, key=lambda k: place[bound[groups[of[k]][0]].id])
        if len({of[k] for k in run.of}) > 1:
            first = bound[groups[of[behind]][0]]
            line = Line(run.contour, _LED_ON, _colour(first))
            marks.append((place[first.id], 1, line))
    for item in items:
        if item.line or not (filled and item.contour.closed):
            plain = not item.line and not item.colour
            line = Line(item.contour, item.line or _HAIR, _colour(item))
            marks.append((place[item.id], 0, item.contour if plain else line))
    ordered = sorted(marks, key=lambda mark: mark[:2])
    name = _FILLED if filled else _LINES
    return [Layer(name, tuple(mark for _, _, mark in ordered))] if ordered else []


def _colour(item: ContourItem) -> str:
    return (item.colour or _INK).lower()
