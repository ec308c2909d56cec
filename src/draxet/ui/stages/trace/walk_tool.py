"""Edge walk: between two clicks the contour follows the picture's edge, or the middle of its
strokes."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Ints, Points
from draxet.geometry.catching import Caught
from draxet.geometry.contour import Contour
from draxet.trace.walk import Reach, WalkMap, fitted_walk, reach_from, walk_to
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, SignMark
from draxet.ui.stages.picture_lines import lines_found
from draxet.ui.stages.trace.drawing_tool import (
    DrawingTool,
    DrawSettings,
    draw_settings,
    put_contour,
)
from draxet.ui.stages.trace_settings import trace_settings
from draxet.ui.stages.want import Gesture, Place, Want

__all__ = ["WalkTool"]

_SNAP = 14.0
"""Pixels of the screen within which the picture's line is walked on to."""
_CLOSE_PX = 9.0
_ASIDE = 4.0
"""A pixel beside the click counts so many times one along the way."""


class WalkTool(DrawingTool):
    """Click along an edge: the contour keeps to it from click to click; the start closes it, Enter
    ends it."""

    title = "Edge walk"

    def __init__(self, session: Session) -> None:
        self._known_lines = Derived[WalkMap | None](
            session,
            "walk",
            None,
            "The picture's lines could not be found",
            tool=self,
            keeps=False,
            told=self._tell_found,
        )
        self._reaches: dict[tuple[int, ...], Reach] = {}
        super().__init__(session)

    @property
    def lines(self) -> WalkMap | None:
        return self._known_lines.value

    @property
    def settings(self) -> DrawSettings:
        return draw_settings(self.session)

    def begin(self) -> None:
        self.look()

    def look(self) -> None:
        """Have the lines of the picture in hand found, off the window's thread, where they are not
        those that are known."""
        picture, way = self.session.selection.picture, self.settings.walk
        if picture is None:
            return
        state = (picture.source, picture.page, picture.steps, picture.square, way)
        if self._known_lines.ask(state, lines_found(self.session, picture, way)):
            self._reaches = {}

    def _tell_found(self) -> None:
        if self.lines is None:
            self.session.messages.refused.emit(
                "The picture has no line to walk along: no ink is darker than the threshold."
            )
        self._told()

    def prompt(self) -> Prompt:
        if self._known_lines.busy:
            return Prompt("Edge walk: finding the picture's lines …")
        return super().prompt()

    # --- the gesture

    def gesture(self) -> Gesture:
        first = yield Want("click on an edge where the contour begins")
        trail = [first.place]
        while True:
            answer = yield self._next(trail)
            if answer.key == "end":
                break
            closing = len(trail) > 1 and self._is_first(answer.place, trail)
            trail.append(trail[0] if closing else answer.place)
            if closing:
                break
        self._finish(trail)

    def _next(self, trail: list[Place]) -> Want:
        ends = "end it" if len(trail) > 1 else ""
        return Want(
            "click farther along the edge",
            marks=lambda at: self._looks(trail, at),
            start=trail[-1],
            ends=ends,
            back=tuple(trail),
        )

    def _is_first(self, place: Place, trail: list[Place]) -> bool:
        return math.dist(place, trail[0]) <= _CLOSE_PX * self._pixel

    def _looks(self, trail: list[Place], at: Place) -> list[Mark]:
        to = trail[0] if len(trail) > 1 and self._is_first(at, trail) else at
        points = self._walked([*trail, to])
        marks: list[Mark] = (
            [ContourMark((Contour.make(points, closed=False),))]
            if len(points) > 1 and np.ptp(points, axis=0).max() > 0
            else []
        )
        return marks + [SignMark(x, y, "smooth") for x, y in trail]

    def _finish(self, trail: list[Place]) -> None:
        picture = self.session.selection.picture
        if len(trail) < 2 or picture is None:
            return
        closed = trail[-1] == trail[0] and len(trail) > 2
        points = self._walked(trail)
        back = picture.to_job.inverse()
        tolerance = max(trace_settings(self.session).tolerance_px(picture, self.session.job), 0.05)
        contour = fitted_walk(back.apply(points), tolerance, closed=closed)
        put_contour(self.session, "walk along an edge", contour.transformed(picture.to_job))
        lost = sum(way is None for way in self._ways(trail))
        if lost:
            self.session.messages.announced.emit(
                f"Drawn; the edge was lost on {lost} of {len(trail) - 1} stretches, which are straight"
            )

    # --- along the lines

    def _walked(self, trail: list[Place]) -> Points:
        """The way through places in job space, (n, 2); straight where no line leads on."""
        picture = self.session.selection.picture
        parts = [np.array([trail[0]])]
        for place, way in zip(trail[1:], self._ways(trail), strict=True):
            lead = way is not None and self.lines is not None and picture is not None
            parts.append(
                picture.to_job.apply(self.lines.points[way]) if lead else np.array([place])  # type: ignore[union-attr]
            )
        return np.vstack(parts)

    def _ways(self, trail: list[Place]) -> list[Ints | None]:
        """The lines' points from each place to the next; None where no line leads on. What was
        walked is not walked again."""
        ways: list[Ints | None] = []
        gone: list[int] = []
        used = np.zeros(0, dtype=np.int64)
        for k, (a, b) in enumerate(zip(trail[:-1], trail[1:], strict=True)):
            before = ways[k - 1] if k else None
            start = int(before[-1]) if before is not None else self._point(a)
            gone.append(-1 if start is None else start)
            way = None
            if self.lines is not None and start is not None:
                key = tuple(gone)
                if key not in self._reaches:
                    self._reaches[key] = reach_from(self.lines, start, used)
                end = (
                    int(ways[0][0])
                    if ways and b == trail[0] and ways[0] is not None
                    else self._end(self._reaches[key], b)
                )
                way = walk_to(self._reaches[key], end) if end is not None and end != start else None
            if way is not None:
                used = np.concatenate([used, way])
            ways.append(way)
        return ways

    def _end(self, reach: Reach, place: Place) -> int | None:
        """Of the line's points that a place may stand for, the one to which the way is shortest:
        the same edge of a stroke, not the other."""
        picture = self.session.selection.picture
        if self.lines is None or picture is None:
            return None
        at = np.array(picture.to_job.inverse().point(*place))
        near = np.array(
            self.lines.tree.query_ball_point(at, _SNAP * self._pixel / picture.pixel_size),
            dtype=np.int64,
        )
        if not near.size:
            return None
        away = np.hypot(*(self.lines.points[near] - at).T)
        return int(near[np.argmin(reach.far[near] + _ASIDE * away)])

    def _point(self, place: Place) -> int | None:
        """The line's point that a place stands for; None where it lies off every line."""
        picture = self.session.selection.picture
        if self.lines is None or picture is None:
            return None
        index, away = self.lines.nearest(*picture.to_job.inverse().point(*place))
        return index if away * picture.pixel_size <= _SNAP * self._pixel else None

    def _catch(self, at: Pointer, *, at_once: bool = False) -> Caught:
        """The picture's line first; Alt held, or far from it, as every tool does."""
        picture = self.session.selection.picture
        if not at.free and picture is not None and self.lines is not None:
            index, away = self.lines.nearest(*picture.to_job.inverse().point(at.x, at.y))
            if away * picture.pixel_size <= _SNAP * at.pixel:
                return Caught(
                    *picture.to_job.point(*self.lines.points[index].tolist()), "picture line"
                )
        return Caught(at.x, at.y) if at.free else super()._catch(at, at_once=at_once)
