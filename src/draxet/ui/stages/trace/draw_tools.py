"""Drawing by hand: one contour of straight runs, arcs and curves as it goes; freehand strokes."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.catching import Caught
from draxet.geometry.contour import Contour
from draxet.geometry.drawn import Stop, arc_bulge, contour_of, direction_at_end, tangent_bulge
from draxet.geometry.fitting.chain import fit_chains
from draxet.geometry.fitting.fit_settings import FitSettings
from draxet.geometry.fitting.loops import resampled_open
from draxet.mend.arrange import with_ends
from draxet.ui.model.session import Session
from draxet.ui.model.tool import (
    ContourMark,
    CrossMark,
    LineMark,
    Mark,
    Pointer,
    Prompt,
    SignMark,
    Tool,
)
from draxet.ui.stages.caught import catch_settings, caught, caught_marks
from draxet.ui.stages.mirrored import symmetry
from draxet.ui.stages.trace.drawing_tool import (
    DrawingTool,
    DrawSettings,
    draw_settings,
    put_contour,
)
from draxet.ui.stages.want import Answer, Gesture, Place, Want, polar

__all__ = ["DrawTool", "FreehandTool"]

_CLOSE_PX = 9.0
_MODES = (("L", "straight"), ("U", "curve"), ("O", "arc"), ("I", "arc through"))
_BY = {"L": "line", "U": "curve", "O": "arc", "I": "through"}


class DrawTool(DrawingTool):
    """Click by click: straight runs, curves through places, arcs that go on tangent or through a
    place; the first stop closes it."""

    title = "Draw"

    @property
    def settings(self) -> DrawSettings:
        return draw_settings(self.session)

    def gesture(self) -> Gesture:
        mode = self.settings.by
        first = Answer(key="?")
        while first.key:
            first = yield Want("click where the contour begins", letters=_MODES)
            mode = self._mode(first, mode)
        stops, via = [Stop(*first.place, pull=first.pull, corner=first.shift)], None
        while True:
            answer = yield self._next(stops, mode, via)
            if answer.key == "end":
                break
            if answer.key:
                mode, via = self._mode(answer, mode), None
            elif mode == "through" and via is None:
                via = answer.place
            elif len(stops) > 2 and self._is_first(answer.place, stops):
                self._finish(_cornered(stops, answer.shift), mode, closed=True, via=via)
                return
            else:
                stops.append(self._stop(stops, mode, answer, via))
                via = None
        self._finish(stops, mode, closed=False)

    def _mode(self, answer: Answer, mode: str) -> str:
        return self.settings.take_by(_BY[answer.key]) if answer.key in _BY else mode

    def _next(self, stops: list[Stop], mode: str, via: Place | None) -> Want:
        at = stops[-1].place
        words = {
            "line": "click the next place",
            "curve": "click the next place of the curve, or drag its handle",
            "arc": "click where the arc ends",
            "through": "click where the arc ends"
            if via
            else "click a place that the arc goes through",
        }[mode]
        ends = "end it" if len(stops) > 1 else ""
        places = tuple(stop.place for stop in stops)
        return Want(
            words,
            ("length", "angle"),
            polar(at),
            lambda to: self._looks(stops, mode, to, via),
            at,
            "pull" if mode == "curve" else "next",
            ends,
            places,
            _MODES,
            keys=(("Shift", "a corner"),) if mode == "curve" else (),
        )

    @staticmethod
    def _stop(stops: list[Stop], mode: str, answer: Answer, via: Place | None = None) -> Stop:
        if mode == "through":
            bulge = arc_bulge(stops[-1].place, via, answer.place) if via else 0.0
            return Stop(*answer.place, "arc" if bulge else "line", bulge)
        if mode == "arc":
            way = direction_at_end(stops)
            if way is None:
                return Stop(*answer.place)  # nothing to go on from: a straight run
            return Stop(*answer.place, "arc", tangent_bulge(stops[-1].place, way, answer.place))
        return Stop(*answer.place, mode, pull=answer.pull, corner=answer.shift)

    def _is_first(self, place: Place, stops: list[Stop]) -> bool:
        return math.hypot(place[0] - stops[0].x, place[1] - stops[0].y) <= _CLOSE_PX * self._pixel

    def _looks(self, stops: list[Stop], mode: str, to: Place, via: Place | None) -> list[Mark]:
        marks: list[Mark] = [CrossMark(*via)] if via else []
        closing = len(stops) > 2 and self._is_first(to, stops)
        if closing:
            corner = self._pointer_at is not None and self._pointer_at.adds
            marks.append(ContourMark((_closed(_cornered(stops, corner), mode, via),)))
        elif to != stops[-1].place:
            marks.append(
                ContourMark(
                    (contour_of([*stops, self._stop(stops, mode, Answer(to, self._pull), via)]),)
                )
            )
        elif len(stops) > 1:
            marks.append(ContourMark((contour_of(stops),)))
        marks += [
            SignMark(stop.x, stop.y, "corner" if stop.corner or stop.by == "line" else "smooth")
            for stop in stops
        ]
        if len(stops) > 2:
            marks.append(SignMark(stops[0].x, stops[0].y, "smooth", hot=closing))
        return marks

    def _finish(
        self, stops: list[Stop], mode: str, *, closed: bool, via: Place | None = None
    ) -> None:
        if len(stops) < 2:
            return
        put_contour(
            self.session,
            "draw a contour",
            _closed(stops, mode, via) if closed else contour_of(stops),
        )


def _cornered(stops: list[Stop], corner: bool) -> list[Stop]:
    """The stops, with a corner at the first one where one is wanted or was."""
    return [replace(stops[0], corner=stops[0].corner or corner), *stops[1:]]


def _closed(stops: list[Stop], mode: str, via: Place | None = None) -> Contour:
    """The contour led back to its first stop in the way that is in hand."""
    if mode == "through":
        bulge = arc_bulge(stops[-1].place, via, stops[0].place) if via else 0.0
        return contour_of(stops, closed=True, last="arc" if bulge else "line", bulge=bulge)
    if mode == "arc":
        way = direction_at_end(stops)
        return contour_of(
            stops,
            closed=True,
            last="arc",
            bulge=tangent_bulge(stops[-1].place, way or (1.0, 0.0), stops[0].place),
        )
    return contour_of(stops, closed=True, last=mode)


class FreehandTool(Tool):
    """Strokes drawn with the button held, fitted as each ends; one that begins where the last ended
    goes on from it."""

    title = "Freehand"

    def __init__(self, session: Session) -> None:
        self.session = session
        self._stroke: list[Place] = []
        self._begun, self._over = Caught(0.0, 0.0), Caught(0.0, 0.0)
        self._pixel = 1.0
        self._last: str = ""

    def prompt(self) -> Prompt:
        if self._stroke:
            return Prompt("Freehand: let go where the stroke ends.", "near its beginning it closes")
        return Prompt(
            "Freehand: press and draw a stroke.",
            "one that begins at the last one's end goes on from it",
        )

    def press(self, at: Pointer) -> None:
        self._stroke, self._pixel = [(at.x, at.y)], at.pixel
        self._begun = self._over = self._caught(at)

    def _caught(self, at: Pointer) -> Caught:
        """What a stroke's beginning or end catches."""
        kinds = catch_settings(self.session).kinds
        return Caught(at.x, at.y) if at.free or not kinds else caught(self.session, at, kinds)

    def move(self, at: Pointer) -> None:
        self._over = self._caught(at)
        if (
            self._stroke
            and math.hypot(at.x - self._stroke[-1][0], at.y - self._stroke[-1][1]) >= 1.5 * at.pixel
        ):
            self._stroke.append((at.x, at.y))
            self.session.marks_changed.emit()

    def release(self, at: Pointer) -> None:
        stroke, self._stroke = self._stroke, []
        if len(stroke) < 4:
            return
        contour = self._fitted(np.array([*stroke, (at.x, at.y)]))
        contour = with_ends(
            contour,
            *(
                node if place.word == "free" else np.array(place.place)
                for node, place in (
                    (contour.nodes[0], self._begun),
                    (contour.nodes[-1], self._caught(at)),
                )
            ),
        )
        before = self.session.layout.contour_by_id.get(self._last)
        if (
            before is not None
            and not before.contour.closed
            and _near(before.contour.nodes[-1], contour.nodes[0], _CLOSE_PX * at.pixel)
        ):
            contour = _joined(before.contour, contour)
            if _near(contour.nodes[0], contour.nodes[-1], _CLOSE_PX * at.pixel):
                contour = _shut(contour)
            self._last = put_contour(self.session, "draw on", contour, instead=before.id)
            return
        if _near(contour.nodes[0], contour.nodes[-1], _CLOSE_PX * at.pixel):
            contour = _shut(contour)
        self._last = put_contour(self.session, "draw a stroke", contour)

    def _fitted(self, points: np.ndarray) -> Contour:
        """Curves and lines within a tolerance that the hand's own trembling gives: so many pixels
        of the screen."""
        scale = 1.0 / self._pixel
        chain = resampled_open(points * scale, np.array([0]), np.array([len(points)]), 1.0)
        tolerance = draw_settings(self.session).smooth_px
        fitted = fit_chains(
            chain,
            FitSettings(
                tolerance=tolerance,
                blur=2.0,
                corner_degrees=50.0,
                straight_rms=0.4 * tolerance,
                straight_bow=0.4 * tolerance,
                circles=False,
            ),
        )[0]
        return Contour.make(
            fitted.nodes / scale, fitted.kinds, fitted.bulges, fitted.handles / scale, closed=False
        )

    def cancel(self) -> bool:
        begun, self._stroke = bool(self._stroke), []
        return begun

    def forget(self) -> None:
        self._stroke = []

    def marks(self) -> list[Mark]:
        places = [Affine(), *symmetry(self.session).places()]
        laid = [[place.point(*at) for at in self._stroke] for place in places]
        return [
            *symmetry(self.session).marks(),
            *caught_marks(self._over),
            *(
                LineMark(*a, *b)
                for stroke in laid
                for a, b in zip(stroke[:-1], stroke[1:], strict=True)
            ),
        ]


def _near(a: np.ndarray, b: np.ndarray, reach: float) -> bool:
    return bool(np.hypot(*(a - b)) <= reach)


def _joined(first: Contour, second: Contour) -> Contour:
    """One open contour of two, the second moved so that it begins where the first ends."""
    move = first.nodes[-1] - second.nodes[0]
    nodes, handles = second.nodes + move, np.where(second.handles != 0, second.handles + move, 0.0)
    return Contour.make(
        np.vstack([first.nodes, nodes[1:]]),
        np.append(first.kinds, second.kinds),
        np.append(first.bulges, second.bulges),
        np.concatenate([first.handles, handles]),
        closed=False,
    )


def _shut(contour: Contour) -> Contour:
    """An open contour whose ends meet, closed: the last node gives way to the first."""
    if len(contour.kinds) < 2:
        return contour
    handles = contour.handles.copy()
    if handles[-1].any():
        handles[-1, 1] += contour.nodes[0] - contour.nodes[-1]
    return Contour.make(contour.nodes[:-1], contour.kinds, contour.bulges, handles, closed=True)
