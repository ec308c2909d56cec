"""What all ways of tracing share: work off the window's thread, and contours proposed before they are made."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QProgressBar

from draxet.geometry.contour import Contour
from draxet.job.edits import remove_contours, retrace
from draxet.job.records import Job, Picture
from draxet.progress import Progress
from draxet.trace.closeness import Closeness
from draxet.trace.fitness import Fitness, fitness_of
from draxet.trace.ground import PRESETS
from draxet.ui.canvas.tool import ContourMark, Mark, Prompt, Tool
from draxet.ui.shell.fields import SliderField, button, fact_row, label, menu_button
from draxet.ui.shell.session import Session
from draxet.ui.stages.findings import FindingRows
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.area import area_marks
from draxet.ui.stages.trace.settings import trace_settings
from draxet.units import format_area, parse_area

__all__ = ["Proposal", "TraceSlip", "TraceTool", "grey_source"]

LANE = "trace"
_WAIT_MS = 120


@dataclass(frozen=True)
class Proposal:
    """What a trace gives: contours in job space, a colour (#rrggbb) for each where they have any, what it says of itself, how near
    it lies to the picture, whether it can be cut, what each contour follows (as in ``ContourItem``), the colours it went by, and why
    it may be no good."""

    contours: tuple[Contour, ...]
    colours: tuple[str, ...] = ()
    level: float | None = None
    facts: tuple[tuple[str, str], ...] = ()
    closeness: Closeness | None = None
    fitness: Fitness | None = None
    traced: tuple[str, ...] = ()
    palette: tuple[tuple[int, int, int], ...] = ()
    warning: str = ""


@dataclass(frozen=True)
class _Made:
    """What was made last: the jobs before and after it, and the offer that it was made of."""

    before: Job
    after: Job
    offer: Proposal


class TraceTool(Tool):
    """Proposes contours for the picture in hand; nothing is made until that is asked for."""

    title, step = "", ""
    nothing = "Nothing was found to trace: no ink is darker than the threshold, or all of it is smaller than the smallest speck."

    def __init__(self, session: Session) -> None:
        self.session, self.workers = session, session.workers
        self.settings = trace_settings(session)
        self.offer = Proposal(())
        self.share, self.words = 0.0, ""
        self.picture_id = session.picture.id if session.picture else ""
        self._of: object = None
        self._made: _Made | None = None

    @property
    def is_stale(self) -> bool:
        """Whether the picture in hand is another one, or lies or looks otherwise, than when it was traced."""
        return self._of is not None and self._of != _looks(self.session.picture)

    def begin(self) -> None:
        self.run()

    def prompt(self) -> Prompt:
        if self.session.picture is None:
            return Prompt(f"{self.title}: first choose a picture.", "in Gather")
        if self.workers.busy(LANE):
            return Prompt(f"{self.title}: tracing …", "the window stays yours; change a setting or cancel at any time")
        return Prompt(f"{self.title}: look at the contours, then make them.", "they lie over the picture; hold Tab to see it alone")

    def work(self, picture: Picture) -> Callable[[Progress], Proposal]:
        """The frozen request for a trace of the picture, as something a worker can do."""
        raise NotImplementedError

    def run(self) -> None:
        """Trace with the settings as they are; the newest request wins."""
        picture = self.session.picture
        if picture is None:
            return
        self.picture_id, self._of = picture.id, _looks(picture)
        self.share, self.words = 0.0, "starting"
        self.workers.run(LANE, self.work(picture), self._done, self._failed, self._step)
        self.session.tool_changed.emit()

    def _done(self, offer: Proposal) -> None:
        self.offer = offer
        self.session.show_ink(None)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()
        if not offer.contours:
            self.session.refused.emit(self.nothing)

    def _failed(self, error: Exception) -> None:
        self.session.tool_changed.emit()
        self.session.refused.emit(f"The picture could not be traced: {error}")

    def _step(self, share: float, words: str) -> None:
        self.share, self.words = share, words
        self.session.tool_changed.emit()

    def stop(self) -> None:
        """Give up the trace under way."""
        self.workers.cancel(LANE)
        self.session.show_ink(None)
        self.session.tool_changed.emit()

    def make(self) -> None:
        """What is proposed becomes the job's contours, in place of earlier ones from this picture."""
        if self.is_stale:
            self.run()
            self.session.refused.emit("The picture has changed since it was traced; it is traced anew, look at it again.")
            return
        if not self.offer.contours:
            self.session.refused.emit(self.nothing)
            return
        before = self.session.job
        area = self.settings.area
        within = (min(x for x, _ in area), min(y for _, y in area), max(x for x, _ in area), max(y for _, y in area)) if area else None
        job = retrace(before, self.picture_id, self.offer.contours, self.offer.colours, self.offer.traced, within)
        made = len({item.id for item in job.contours} - {item.id for item in before.contours})
        kept = sum(item.by_hand and item.picture == self.picture_id for item in job.contours)
        opened = sum(not contour.closed for contour in self.offer.contours)
        offer = self.offer
        self.offer = Proposal((), level=offer.level)
        self.session.edit(self.step, job)
        self._made = _Made(before, self.session.job, offer)
        self.session.tool_changed.emit()
        words = f"{made} contours made" + (f", {opened} of them open" if opened else ", all closed")
        self.session.said.emit(words + (f"; {kept} changed by hand kept" if kept else ""))

    def start_over(self) -> None:
        """Remove what was traced from this picture; the picture stays."""
        ids = [item.id for item in self.session.job.contours if item.picture == self.picture_id]
        if ids:
            self.session.flash([self.session.job.contour_by_id[k].contour for k in ids])
            self.session.edit("start over", remove_contours(self.session.job, ids))
        self.run()

    def forget(self) -> None:
        """Contours that are no longer made are offered again, until they are made again."""
        made = self._made
        if made and self.session.job is made.before and not self.offer.contours:
            self.offer = made.offer
        elif made and self.session.job is made.after and self.offer is made.offer:
            self.offer = Proposal((), level=made.offer.level)
        self.session.tool_changed.emit()

    def cancel(self) -> bool:
        busy = self.workers.busy(LANE)
        if busy:
            self.stop()
        return busy

    def put_away(self) -> None:
        self.stop()

    def marks(self) -> list[Mark]:
        marks: list[Mark] = area_marks(self.settings)
        if self.offer.contours and self.session.ink_below is None:
            marks.append(ContourMark(self.offer.contours, "offer"))
        return marks

    def proposal(
        self, contours: Sequence[Contour], picture: Picture, closeness: Closeness | None, level: float | None = None,
        facts: Sequence[tuple[str, str]] = (), colours: Sequence[str] = (), traced: Sequence[str] = (),
    ) -> Proposal:  # fmt: skip
        """Contours in picture space as a proposal in job space; for workers."""
        placed = tuple(contour.transformed(picture.to_job) for contour in contours)
        groups = [{"middles": "", "colours": colours[k] if colours else ""}.get(way, "ink") for k, way in enumerate(traced)]
        fitness = fitness_of(placed, self.session.job.smallest_feature, groups) if placed and picture.known_lengths else None
        return Proposal(placed, tuple(colours), level, tuple(facts), closeness, fitness, tuple(traced))


def _looks(picture: Picture | None) -> object:
    """What of a picture a trace depends on."""
    return (picture.id, picture.to_job, picture.square, picture.steps) if picture else ()


class TraceSlip(Slip):
    """Settings, what they give, and the buttons that all ways of tracing have."""

    def __init__(self, session: Session, tool: TraceTool, title: str, about: str) -> None:
        super().__init__(session, title, about)
        self.tool, self.settings = tool, tool.settings
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_WAIT_MS)
        self._later.timeout.connect(tool.run)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self._doing = label("", "quiet")
        self.make = button("Make contours", "main", tool.make)
        self.stop = button("Cancel", "plain", tool.stop)
        self.over = button("Start over", "plain", tool.start_over)
        self.facts: dict[str, Any] = {}

    def preset_button(self) -> Any:
        self.preset = menu_button("Ink", [(f"{p.name.capitalize()}: {p.words}", lambda name=p.name: self._preset(name)) for p in PRESETS.values()])  # type: ignore[misc]
        return self.preset

    def _preset(self, name: str) -> None:
        self.settings.take_preset(name, self.session.picture)
        self.again()

    def slider(self, name: str, words: str, low: int = 0, high: int = 100) -> SliderField:
        made = SliderField(low, high, words)
        made.moved.connect(lambda value: self.set(name, value))
        made.field.refused.connect(self.session.refused)
        return made

    def speck_field(self) -> Any:
        from draxet.ui.shell.fields import Field

        made = Field(lambda text: parse_area(text, self.session.job.unit, what="Smallest speck"), lambda v: format_area(v, self.session.job.unit), "Smallest speck")
        made.refused.connect(self.session.refused)
        made.entered.connect(lambda value: self.set("speck", value))
        return made

    def set(self, name: str, value: object) -> None:
        """Another setting; the trace follows soon after."""
        setattr(self.settings, name, value)
        if name == "detail":
            self.settings.tolerance = None
        self.again()

    def again(self) -> None:
        self._later.start()
        self.refresh()

    def add_outcome(self, *names: str) -> None:
        """Progress, facts and buttons, at the foot of the slip."""
        self.add(self.bar, self._doing)
        for name in (*names, "Contours", "Nodes", "Greatest deviation"):
            row, value = fact_row(name)
            self.facts[name] = (row, value)
            self.add(row)
        self._verdict = FindingRows(self.session, "")
        self.add(self._verdict, self.make, self.stop, self.over)

    def fact(self, name: str, words: str) -> None:
        self.facts[name][1].setText(words)

    def leave(self) -> None:
        self._later.stop()

    def refresh(self) -> None:
        if self.tool.is_stale and not self._later.isActive():
            self.tool.offer = Proposal(())  # it lies where the picture lay
            self._later.start()
        tool, offer, picture = self.tool, self.tool.offer, self.session.picture
        busy = tool.workers.busy(LANE)
        for part in (self.bar, self._doing, self.stop):
            part.setVisible(busy)
        self._doing.setText(tool.words)
        self.bar.setValue(round(100 * tool.share))
        self.make.setEnabled(bool(offer.contours) and not busy)
        self.over.setEnabled(any(item.picture == tool.picture_id for item in self.session.job.contours))
        if hasattr(self, "preset"):
            self.preset.setText(f"Kind of picture: {self.settings.preset}")
        count, opened = len(offer.contours), sum(not c.closed for c in offer.contours)
        self.fact("Contours", f"{count} · {opened} open" if count else "–")
        self.fact("Nodes", f"{sum(len(c.nodes) for c in offer.contours):,}".replace(",", " ") if count else "–")
        close = offer.closeness
        if close is not None and count and picture:
            self.fact("Greatest deviation", f"{close.greatest:.2f} px · {self.length(close.greatest * picture.pixel_size, 3)}")
        else:
            self.fact("Greatest deviation", "–")
        for name, words in offer.facts:
            if name in self.facts:
                self.fact(name, words)
        self._verdict.show_findings(offer.fitness.findings if offer.fitness else ())


def grey_source(session: Session, picture: Picture) -> Callable[[], NDArray[Any]]:
    """Gets the picture's grey pixels; for workers, as that may take its time."""
    store = session.pictures
    return lambda: np.asarray(store.of(picture).grey)
