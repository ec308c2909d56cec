"""What the pointer catches, for all tools: among what is drawn, guides, points and sheets, by the
kinds that are switched on."""

from __future__ import annotations

import math
from typing import Annotated

from draxet.geometry.catching import KINDS, Caught, Surroundings
from draxet.job.ranges import Count, OneOf
from draxet.job.sheet_records import Guide
from draxet.record import record
from draxet.ui.model.session import Session
from draxet.ui.model.tool import CrossMark, Mark, Pointer, TagMark
from draxet.ui.stages.mirrored import symmetry

__all__ = ["REACH", "CatchSettings", "catch_settings", "caught", "caught_marks"]

REACH = 9.0
"""Pixels of the screen within which something is caught."""
_MOST_GUIDES = 40
Place = tuple[float, float]


@record
class CatchSettings:
    """What is caught: whether anything is, and which kinds are switched off."""

    on: bool = True
    off: Annotated[tuple[Annotated[str, OneOf((*KINDS, "picture"))], ...], Count(0, 20)] = ()

    @property
    def kinds(self) -> frozenset[str]:
        return (
            frozenset(kind for kind in (*KINDS, "picture") if kind not in self.off)
            if self.on
            else frozenset()
        )


def catch_settings(session: Session) -> CatchSettings:
    return session.desk.settings("catching", CatchSettings)


def caught(
    session: Session,
    at: Pointer,
    kinds: frozenset[str],
    back: tuple[Place, ...] = (),
    start: Place | None = None,
    *,
    without: frozenset[str] = frozenset(),
    more: tuple[Place, ...] = (),
) -> Caught:
    """The best place near the pointer; ``free`` where there is none.

    Parameters
    ----------
    kinds : what is caught. back : places set before, to be level with. start : where one comes
    from, to be square to or touch. without : contours that are not caught. more : places that are.
    """
    job = session.layout
    edges = tuple(edge for sheet in job.sheets for edge in _edges(*sheet.box))
    guides = (
        *((guide.x, guide.y, math.radians(guide.angle)) for guide in job.guides),
        *symmetry(session).lines_by(at.x, at.y),
    )
    points = (*_crossings(job.guides), *((point.x, point.y) for point in job.points), *more)
    session.catcher.show(session.selection.catchable)
    return session.catcher.catch(
        at.x,
        at.y,
        REACH * at.pixel,
        Surroundings(points, guides, edges, back, start),
        kinds,
        without,
    )


def caught_marks(found: Caught) -> list[Mark]:
    """What is caught, in a word."""
    if found.word == "free":
        return []
    directions = () if found.direction is None else (found.direction,)
    return [
        CrossMark(found.x, found.y, directions),
        TagMark(found.x, found.y, found.word, "note"),
    ]


def _crossings(guides: tuple[Guide, ...]) -> tuple[Place, ...]:
    """Where guides cross each other."""
    found = []
    lines = [(guide.x, guide.y, math.radians(guide.angle)) for guide in guides[:_MOST_GUIDES]]
    for k, (x, y, a) in enumerate(lines):
        for px, py, b in lines[k + 1 :]:
            across = math.sin(b - a)
            if abs(across) > 1e-9:
                t = ((px - x) * math.sin(b) - (py - y) * math.cos(b)) / across
                found.append((x + t * math.cos(a), y + t * math.sin(a)))
    return tuple(found)


def _edges(
    x0: float, y0: float, x1: float, y1: float
) -> tuple[tuple[float, float, float, float], ...]:
    return (x0, y0, x1, y0), (x1, y0, x1, y1), (x1, y1, x0, y1), (x0, y1, x0, y0)
