"""What all tools that draw share: their settings, and how what is drawn comes into the job."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.job.edits import add_contours, replace_contours
from draxet.job.asked import Asked
from draxet.job.ranges import OneOf, Within
from draxet.ui.shell.session import Session

__all__ = ["DrawSettings", "draw_settings", "put_contour"]


@dataclass
class DrawSettings:
    """How drawing goes on. by : what the next span is. Lengths in mm, smooth_px in pixels of the screen."""

    by: Annotated[str, OneOf(("line", "curve", "arc")), Asked("", choices=(("line", "straight"), ("curve", "curve"), ("arc", "arc")))] = "line"
    walk: Annotated[str, OneOf(("edges", "middles")), Asked("", choices=(("edges", "the edge"), ("middles", "the stroke's middle")))] = "edges"
    circle: Annotated[str, OneOf(("middle", "three")), Asked("", choices=(("middle", "by its middle"), ("three", "three places")))] = "middle"
    box: Annotated[str, OneOf(("corner", "middle")), Asked("", choices=(("corner", "from a corner"), ("middle", "from its middle")))] = "corner"
    rounding: Annotated[float, Within(0.0, 1e6), Asked("Rounding", "mm")] = 0.0
    sides: Annotated[int, Within(3, 200), Asked("Sides", slider=(3, 24))] = 6
    smooth_px: Annotated[float, Within(0.5, 20.0), Asked("Smoothing", " px", slider=(1, 20))] = 2.0

    def take_by(self, by: str) -> str:
        self.by = by
        return by


def draw_settings(session: Session) -> DrawSettings:
    """The session's settings for drawing."""
    return session.settings("draw", DrawSettings)


def put_contour(session: Session, words: str, contour: Contour, *, instead: str = "") -> str:
    """A drawn contour comes into the job, or takes another one's place; its id. An open one is no slit until that is said."""
    before = {item.id for item in session.job.contours}
    if instead:
        session.edit(words, replace_contours(session.job, {instead: contour}))
        return instead
    session.edit(words, add_contours(session.job, [contour]))
    new = [item.id for item in session.job.contours if item.id not in before]
    return new[-1] if new else ""
