"""How the small things on a sheet are shown: an entry of ``SIGNS`` for each kind of placed things
that is shown by marks."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Any

from draxet.job.contour_records import Bridge, Point
from draxet.job.records import Job
from draxet.job.sheet_records import Guide, MeasureNote
from draxet.record import record
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import LineMark, Mark, SignMark, TagMark

__all__ = ["SIGNS", "PlacedSign", "View", "guide_line", "signed_things"]


@record(frozen=True)
class View:
    """What is seen: a camera, and the width and height of the canvas in its pixels."""

    camera: Camera
    width: int
    height: int


@record(frozen=True, eq=False)
class PlacedSign:
    """How a kind of things is shown, and under which name stages show it (all, where it has none). Marks that rest do not hang on the view,
    and are painted anew only where such a thing changes."""

    marks: Callable[[Any, View], Sequence[Mark]]
    name: str = ""
    rests: bool = True


def guide_line(x: float, y: float, angle: float, view: View) -> LineMark:
    """A guide as far as the view shows it."""
    turn, camera = math.radians(angle), view.camera
    cx, cy = camera.job(view.width / 2, view.height / 2)
    far = (view.width + view.height) / camera.zoom
    along = (cx - x) * math.cos(turn) + (cy - y) * math.sin(turn)
    px, py = x + along * math.cos(turn), y + along * math.sin(turn)
    dx, dy = far * math.cos(turn), far * math.sin(turn)
    return LineMark(px - dx, py - dy, px + dx, py + dy, "guide")


def _note_marks(note: MeasureNote, view: View) -> list[Mark]:
    """How a kept measurement is shown."""
    places = note.places
    if note.kind == "radius":
        import numpy as np  # not needed to show a window

        from draxet.trueup.measures import circle_through

        x, y, _ = circle_through(np.array(places))
        return [
            LineMark(x, y, *places[0], "note"),
            TagMark((x + places[0][0]) / 2, (y + places[0][1]) / 2, note.words, "note"),
        ]
    marks: list[Mark] = [LineMark(*a, *b, "note") for a, b in zip(places, places[1:], strict=False)]
    if note.kind == "area":
        marks.append(LineMark(*places[-1], *places[0], "note"))
    x, y = (sum(p[k] for p in places) / len(places) for k in (0, 1))
    return [*marks, TagMark(x, y, note.words, "note")]


SIGNS: dict[type, PlacedSign] = {
    MeasureNote: PlacedSign(_note_marks, "measurements", rests=False),
    Guide: PlacedSign(
        lambda guide, view: [guide_line(guide.x, guide.y, guide.angle, view)], rests=False
    ),
    Point: PlacedSign(lambda point, view: [SignMark(point.x, point.y, "point")]),
    Bridge: PlacedSign(
        lambda bridge, view: [SignMark(bridge.x, bridge.y, "bridge")],
        "bridges",
    ),
}


def signed_things(
    job: Job, stage: Stage, *, rests: bool, but: frozenset[type] = frozenset()
) -> Iterator[tuple[PlacedSign, tuple[Any, ...]]]:
    """The lists of a job that are shown by marks in a stage, of those at rest or the others, but
    for some kinds, each with how."""
    for things in tuple(vars(job).values()):  # a worker may come to know more of it meanwhile
        kind = type(things[0]) if isinstance(things, tuple) and things else type(None)
        sign = SIGNS.get(kind)
        if sign and sign.rests is rests and stage.shows(sign.name) and kind not in but:
            yield sign, things
