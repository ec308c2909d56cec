"""Trace: a picture's edges become contours, seen on the picture before they are made."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QCheckBox, QProgressBar

from draxet.geometry.contour import Contour
from draxet.job.edits import retrace
from draxet.progress import Progress
from draxet.trace.edges import EdgeAnswer, EdgeRequest, trace_edges
from draxet.trace.levels import automatic_level
from draxet.ui.canvas.tool import ContourMark, Mark, Prompt, Tool
from draxet.ui.shell.fields import Choice, Field, SliderField, button, fact_row, field_row, label
from draxet.ui.shell.session import Session
from draxet.ui.shell.workers import Workers
from draxet.ui.stages.slip import Slip
from draxet.units import format_area, parse_area

__all__ = ["EdgesSlip", "EdgesTool"]

_LANE = "trace"
_WAIT_MS = 120
_TOLERANCE_PX = 0.35


class EdgesTool(Tool):
    """Proposes contours along the edges of the ink in the picture in hand; nothing is made until that is asked for."""

    def __init__(self, session: Session, workers: Workers) -> None:
        self.session, self.workers = session, workers
        self.level: float | None = None
        self.automatic = 128.0
        self.min_area = 2.0
        self.tolerance: float | None = None
        self.middles = False
        self.answer: EdgeAnswer | None = None
        self.offer: tuple[Contour, ...] = ()
        self.share, self.words = 0.0, ""
        self.picture_id = session.picture.id if session.picture else ""
        if session.picture:
            self.automatic = automatic_level(session.pictures.of(session.picture).grey)

    @property
    def tolerance_mm(self) -> float:
        picture = self.session.picture
        return self.tolerance or (_TOLERANCE_PX * picture.pixel_size if picture else 0.05)

    def prompt(self) -> Prompt:
        if self.session.picture is None:
            return Prompt("Edges: first choose a picture.", "in Gather")
        if self.workers.busy(_LANE):
            return Prompt("Edges: tracing …", "the window stays yours; change a setting or cancel at any time")
        return Prompt("Edges: look at the contours, then make them.", "they lie over the picture; hold Tab to see it alone")

    def run(self) -> None:
        """Trace with the settings as they are; the newest request wins."""
        picture = self.session.picture
        if picture is None:
            return
        pixel = picture.pixel_size
        grey = self.session.pictures.of(picture).grey
        request = EdgeRequest(grey, self.level, self.min_area / pixel**2, max(self.tolerance_mm / pixel, 0.05), self.middles)
        to_job = picture.to_job

        def work(report: Progress) -> tuple[EdgeAnswer, tuple[Contour, ...]]:
            answer = trace_edges(request, report)
            return answer, tuple(contour.transformed(to_job) for contour in answer.contours)

        self.picture_id = picture.id
        self.share, self.words = 0.0, "starting"
        self.workers.run(_LANE, work, self._done, self._failed, self._step)
        self.session.tool_changed.emit()

    def _done(self, result: tuple[EdgeAnswer, tuple[Contour, ...]]) -> None:
        self.answer, self.offer = result
        self.session.show_ink(None)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def _failed(self, error: Exception) -> None:
        self.session.tool_changed.emit()
        self.session.refused.emit(f"The picture could not be traced: {error}")

    def _step(self, share: float, words: str) -> None:
        self.share, self.words = share, words
        self.session.tool_changed.emit()

    def stop(self) -> None:
        """Give up the trace under way."""
        self.workers.cancel(_LANE)
        self.session.show_ink(None)
        self.session.tool_changed.emit()

    def make(self) -> None:
        """What is proposed becomes the job's contours, in place of earlier ones from this picture."""
        if not self.offer:
            self.session.refused.emit("There is nothing to make: no ink is darker than the threshold. Raise it.")
            return
        count = len(self.offer)
        job = retrace(self.session.job, self.picture_id, self.offer)
        self.offer = ()
        self.session.edit("trace the edges", job)
        self.session.said.emit(f"{count} closed contours made")
        self.session.tool_changed.emit()

    def cancel(self) -> bool:
        busy = self.workers.busy(_LANE)
        if busy:
            self.stop()
        return busy

    def put_away(self) -> None:
        self.stop()

    def marks(self) -> list[Mark]:
        return [ContourMark(self.offer, "offer")] if self.offer and self.session.ink_below is None else []


class EdgesSlip(Slip):
    """Threshold, smallest speck, tolerance, and what they give."""

    def __init__(self, session: Session, tool: EdgesTool) -> None:
        super().__init__(session, "Edges", "Contours along the edges of the ink.")
        self._tool = tool
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_WAIT_MS)
        self._later.timeout.connect(tool.run)
        self.threshold = SliderField(0, 255, "Threshold")
        self.threshold.moved.connect(self._level_moved)
        self.threshold.field.refused.connect(session.refused)
        self.auto = QCheckBox("automatic")
        self.auto.setToolTip("midway between ink and paper as they are in this picture")
        self.auto.clicked.connect(self._auto_clicked)
        self.speck = Field(lambda text: parse_area(text, session.job.unit, what="Smallest speck"), lambda v: format_area(v, session.job.unit), "Smallest speck")
        self.speck.refused.connect(session.refused)
        self.speck.entered.connect(lambda value: self._set("min_area", value))
        self.tolerance = self.length_field("Tolerance")
        self.tolerance.entered.connect(lambda value: self._set("tolerance", value))
        self.lines = Choice((("edges", "both edges"), ("middle", "the middle")), "Drawn lines")
        self.lines.chosen.connect(lambda key: self._set("middles", key == "middle"))
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self._doing = label("", "quiet")
        found, self._found = fact_row("Contours")
        nodes, self._nodes = fact_row("Nodes")
        opened, self._open = fact_row("Open")
        left, self._left = fact_row("Open strokes left out")
        self._left_row = left
        self.make = button("Make contours", "main", tool.make)
        self.stop = button("Cancel", "plain", tool.stop)
        self.add(label("Threshold"), self.threshold, self.auto, field_row("Smallest speck", self.speck), field_row("Tolerance", self.tolerance))
        self.add(label("A drawn line gives"), self.lines, self.bar, self._doing, found, nodes, opened, left, self.make, self.stop)
        self.refresh()

    def _level_moved(self, value: float) -> None:
        self._tool.level = value
        self._tool.session.show_ink(value)
        self._later.start()
        self.refresh()

    def _auto_clicked(self, on: bool) -> None:
        self._tool.level = None if on else self._tool.automatic
        self._later.start()
        self.refresh()

    def _set(self, name: str, value: object) -> None:
        setattr(self._tool, name, value)
        self._later.start()

    def refresh(self) -> None:
        tool = self._tool
        busy = tool.workers.busy(_LANE)
        self.threshold.set_value(tool.automatic if tool.level is None else tool.level)
        self.auto.setChecked(tool.level is None)
        self.speck.set_value(tool.min_area)
        self.tolerance.set_value(tool.tolerance_mm)
        self.lines.set_value("middle" if tool.middles else "edges")
        self.bar.setVisible(busy)
        self._doing.setVisible(busy)
        self._doing.setText(tool.words)
        self.bar.setValue(round(100 * tool.share))
        self.stop.setVisible(busy)
        self.make.setEnabled(bool(tool.offer) and not busy)
        offer = tool.offer
        self._found.setText(str(len(offer)) if offer else "–")
        self._nodes.setText(str(sum(len(c.nodes) for c in offer)) if offer else "–")
        self._open.setText(str(sum(not c.closed for c in offer)) if offer else "–")
        self._left_row.setVisible(tool.middles)
        self._left.setText(str(tool.answer.left_out) if tool.answer and offer else "–")
