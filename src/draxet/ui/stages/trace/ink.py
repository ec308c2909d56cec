"""Trace: edges of ink and middles of strokes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtWidgets import QCheckBox

from draxet.job.picture_records import Picture
from draxet.progress import Progress
from draxet.trace.closeness import closeness_of_traced
from draxet.trace.edges import EdgeRequest, trace_edges
from draxet.trace.levels import automatic_level
from draxet.trace.middles import MiddleRequest, trace_middles
from draxet.ui.controls.fields import SliderField
from draxet.ui.controls.slip_parts import field_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.stages.trace.proposal import Proposal
from draxet.ui.stages.trace.trace_slip import TraceSlip
from draxet.ui.stages.trace.tracing import TraceTool, grey_source
from draxet.units import format_length

__all__ = ["EdgesSlip", "EdgesTool", "MiddlesSlip", "MiddlesTool"]

_FOLLOWED = "The light is uneven here: automatic follows it."


class EdgesTool(TraceTool):
    """Contours along the edges of the ink."""

    title, step = "Edges", "trace the edges"

    def work(self, picture: Picture) -> Callable[[Progress], Proposal]:
        s, pixel, grey = self.settings, picture.pixel_size, grey_source(self.session, picture)
        level, speck, tolerance = (
            s.level,
            s.speck / pixel**2,
            s.tolerance_px(picture, self.session.job),
        )
        middles, ground, corners, true, rim = (
            s.middles,
            s.ground(picture),
            s.corner_degrees,
            s.true_shapes,
            s.keep_rim,
        )

        def work(report: Progress) -> Proposal:
            answer = trace_edges(
                EdgeRequest(grey(), level, speck, tolerance, middles, ground, corners, true, rim),
                report,
            )
            report(0.92, "measuring how near they lie")
            close = closeness_of_traced(
                answer.contours, answer.traced, answer.values, answer.level, answer.values
            )
            facts = [
                ("Open strokes left out", str(answer.left_out)),
                ("True shapes", answer.trued),
                ("Rim", str(answer.rims)),
                *_light(answer.light_followed),
            ]
            return self.proposal(
                answer.contours, picture, close, answer.level, facts, traced=answer.traced
            )

        return work


class MiddlesTool(TraceTool):
    """One contour along the middle of each stroke; open ends are slits."""

    title, step = "Middles", "trace the middles"
    nothing = "No stroke was found: no ink is darker than the threshold, or every stroke is shorter than the shortest one to keep."

    def work(self, picture: Picture) -> Callable[[Progress], Proposal]:
        s, pixel, grey = self.settings, picture.pixel_size, grey_source(self.session, picture)
        level, tolerance, ground = (
            s.level,
            s.tolerance_px(picture, self.session.job),
            s.ground(picture),
        )
        shortest, gap, unit = s.min_length / pixel, s.join_gap / pixel, self.session.job.unit
        solids, least = s.solids, s.speck / pixel**2

        def work(report: Progress) -> Proposal:
            answer = trace_middles(
                MiddleRequest(grey(), level, shortest, gap, tolerance, ground, solids, least),
                report,
            )
            report(0.92, "measuring how near they lie")
            close = closeness_of_traced(
                answer.contours,
                answer.traced,
                answer.values,
                answer.level,
                answer.values,
                answer.solids,
            )
            widths = sorted(answer.widths)
            words = "–"
            if widths:
                low, high = (
                    format_length(widths[int(k * (len(widths) - 1))] * pixel, unit, places=2)
                    for k in (0.05, 0.95)
                )
                words = low if low == high else f"{low.removesuffix(f' {unit}')} … {high}"
            return self.proposal(
                answer.contours,
                picture,
                close,
                answer.level,
                [("Strokes are wide", words), *_light(answer.light_followed)],
                traced=answer.traced,
            )

        return work


def _light(followed: bool) -> list[tuple[str, str]]:
    return [("Light", _FOLLOWED)] if followed else []


class _LevelSlip(TraceSlip):
    """Kind of picture, threshold, detail and smoothness."""

    def __init__(self, session: Session, tool: TraceTool, title: str, about: str) -> None:
        super().__init__(session, tool, title, about)
        self.threshold = SliderField(0, 255, "Threshold")
        self.threshold.moved.connect(self._level_moved)
        self.threshold.field.refused.connect(session.messages.refused)
        self.auto, self.local = QCheckBox("automatic"), QCheckBox("follows the light")
        self.auto.setToolTip("midway between ink and paper as they are in this picture")
        self.local.setToolTip(
            "for uneven light: midway between ink and paper as they are at each place"
        )
        self.auto.clicked.connect(self._auto_clicked)
        self.local.clicked.connect(self._local_clicked)
        self.add(
            self.preset_button(),
            label("Threshold"),
            self.threshold,
            side_by_side(self.auto, self.local),
        )
        self._light = label("", "quiet", wrap=True)
        self.add(self._light)
        self.shape = self.ask(self.settings, self.set, ("detail", "smoothness"))

    def _level_moved(self, value: float) -> None:
        self.settings.local, self.settings.level = (
            self.settings.local or self._followed(),
            value,
        )  # the level that is moved is one of the followed light
        if not self.settings.local:
            self.session.desk.show_ink(value)
        self.again()

    def _auto_clicked(self, on: bool) -> None:
        if not on:
            self._level_moved(self.tool.offer.level or 128.0)
            return
        self.settings.level = None
        self.again()

    def _followed(self) -> bool:
        return self.settings.level is None and dict(self.tool.offer.facts).get("Light") == _FOLLOWED

    def _local_clicked(self, on: bool) -> None:
        picture = self.session.selection.picture
        plain = (
            not on
            and picture is not None
            and self._followed()
            and self.session.pictures.ready(picture)
        )
        self.settings.local = on  # levels of one kind mean nothing to the other
        self.settings.level = (
            automatic_level(np.asarray(self.session.pictures.of(picture).grey))
            if plain and picture
            else None
        )
        self.again()

    def refresh(self) -> None:
        s = self.settings
        shown = s.level if s.level is not None else self.tool.offer.level
        self.threshold.set_value(128.0 if shown is None else shown)
        self.auto.setChecked(s.level is None)
        self.local.setChecked(s.local or self._followed())
        self._light.setText(_FOLLOWED if self._followed() else "")
        self._light.setVisible(self._followed())
        self.shape.show_of(s)
        super().refresh()


class EdgesSlip(_LevelSlip):
    """Settings of tracing by edges, and what they give."""

    def __init__(self, session: Session, tool: EdgesTool) -> None:
        super().__init__(session, tool, "Edges", "Contours along the edges of the ink.")
        self.tolerance = self.length_field("Tolerance")
        self.tolerance.entered.connect(lambda value: self.set("tolerance", value))
        self._trued = label("", "quiet", wrap=True)
        self.add(field_row("Tolerance", self.tolerance, 110))
        self.asked = self.ask(
            self.settings, self.set, ("speck", "middles", "true_shapes", "keep_rim")
        )
        self.add(self._trued)
        self.add_outcome("Open strokes left out")
        self.refresh()

    def refresh(self) -> None:
        s, picture = self.settings, self.session.selection.picture
        self.asked.show_of(s)
        if picture:
            self.tolerance.set_value(s.tolerance_px(picture, self.session.job) * picture.pixel_size)
        self.facts["Open strokes left out"][0].setVisible(s.middles)
        self.asked.rows["keep_rim"].setVisible(
            s.keep_rim or dict(self.tool.offer.facts).get("Rim", "0") != "0"
        )
        words = dict(self.tool.offer.facts).get("True shapes", "")
        self._trued.setText(words)
        self._trued.setVisible(bool(words))
        super().refresh()


class MiddlesSlip(_LevelSlip):
    """Settings of tracing by middles, and what they give."""

    def __init__(self, session: Session, tool: MiddlesTool) -> None:
        super().__init__(
            session,
            tool,
            "Middles",
            "One contour along the middle of each stroke, straight through crossings, open ends as slits; dots and filled shapes as outlines.",
        )
        self.asked = self.ask(
            self.settings, self.set, ("min_length", "join_gap", "solids", "speck")
        )
        self.add_outcome("Strokes are wide")
        self.refresh()

    def refresh(self) -> None:
        self.asked.show_of(self.settings)
        self.asked.rows["speck"].setVisible(self.settings.solids)
        super().refresh()
