"""The session: the history in force, what is chosen, which stage is open and which tool is in hand.

It holds and tells; it computes nothing. Every change of the job goes through ``edit``, one step for one gesture.
"""

from __future__ import annotations

from enum import IntEnum
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.geometry.contour import Contour
from draxet.job.history import History
from draxet.job.records import ContourItem, Job, Picture
from draxet.ui.canvas.pictures import PictureStore
from draxet.ui.canvas.tool import Tool

if TYPE_CHECKING:
    from draxet.prove.handoff import ReadBack

__all__ = ["Session", "Stage"]


class Stage(IntEnum):
    """The stages in the order of the work."""

    GATHER = 1
    TRUE_UP = 2
    TRACE = 3
    MEND = 4
    MAKE = 5
    PROVE = 6

    @property
    def words(self) -> str:
        return self.name.replace("_", " ").capitalize()


_STRENGTHS = {Stage.GATHER: 1.0, Stage.TRUE_UP: 1.0, Stage.TRACE: 0.55, Stage.MEND: 0.22, Stage.MAKE: 0.0, Stage.PROVE: 0.0}


class Session(QObject):
    """What the window shows. Signals tell of each kind of change."""

    job_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    stage_changed = pyqtSignal()
    tool_changed = pyqtSignal()
    marks_changed = pyqtSignal()
    view_changed = pyqtSignal()
    said = pyqtSignal(str)
    refused = pyqtSignal(str)
    flashed = pyqtSignal(object)
    number_typed = pyqtSignal(str)
    fit_asked = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History.of(Job())
        self.path: Path | None = None
        self.stage = Stage.GATHER
        self.tool: Tool | None = None
        self.tool_id = ""
        self.pictures = PictureStore()
        self.strengths = dict(_STRENGTHS)
        self.selection: frozenset[str] = frozenset()
        self.picture_id = ""
        self.ink_below: float | None = None
        self.read_back: ReadBack | None = None
        self._gesture: object = None
        self.nudge_mm = 1.0
        self.kept: dict[str, object] = {}
        """Settings of tools, kept from one time in hand to the next."""
        self.beside = False
        """Whether pictures are shown beside the contours; where they lie does not change."""

    @property
    def job(self) -> Job:
        return self.history.job

    @property
    def picture(self) -> Picture | None:
        """The picture in hand: the chosen one, else the last."""
        by_id = self.job.picture_by_id
        return by_id.get(self.picture_id) or (self.job.pictures[-1] if self.job.pictures else None)

    def chosen(self) -> list[ContourItem]:
        return [item for item in self.job.contours if item.id in self.selection]

    def edit(self, words: str, job: Job, gesture: object = None) -> None:
        """Take a step: `job` is in force from now on, and undo takes it back.

        Parameters
        ----------
        gesture : where given and the same as for the step before, both are one step (a slider being moved).
        """
        if gesture is not None and gesture == self._gesture and self.history.at and not self.history.redo_words and self.history.saved is not self.job:
            self._set_history(self.history.with_last(job))
        else:
            self._set_history(self.history.after(words, job))
        self._gesture = gesture

    def undo(self) -> None:
        words = self.history.undo_words
        before = self.job
        self._set_history(self.history.undone())
        self._forget()
        if words:
            self._flash_gone(before)
            self.said.emit(f"Taken back: {words}")

    def redo(self) -> None:
        words = self.history.redo_words
        self._set_history(self.history.redone())
        self._forget()
        if words:
            self.said.emit(f"Done again: {words}")

    def _forget(self) -> None:
        if self.tool is not None:
            self.tool.forget()
            self.marks_changed.emit()

    def _flash_gone(self, before: Job) -> None:
        gone = [item.contour for item in before.contours if item.id not in self.job.contour_by_id]
        if gone:
            self.flash(gone)

    def start(self, job: Job, path: Path | None, *, saved: bool = True) -> None:
        """Work on another job from now on."""
        self.history, self.path, self.selection, self.picture_id, self.read_back = History.of(job, saved=saved), path, frozenset(), "", None
        self.take_tool("", None)
        self.kept = {}  # what was set for one job's pictures means nothing to another's
        self.job_changed.emit()
        self.selection_changed.emit()
        self.fit_asked.emit()

    def note_saved(self, path: Path) -> None:
        self.history, self.path = self.history.after_save(), path
        self.job_changed.emit()

    def _set_history(self, history: History) -> None:
        self.history, self._gesture = history, None
        kept = self.selection & self.job.contour_by_id.keys()
        if kept != self.selection:
            self.select(kept)
        self.job_changed.emit()
        self.marks_changed.emit()

    def select(self, ids: frozenset[str] | set[str]) -> None:
        self.selection = frozenset(ids)
        self.selection_changed.emit()
        self.marks_changed.emit()

    def choose_picture(self, picture_id: str) -> None:
        self.picture_id = picture_id
        self.selection_changed.emit()

    def open_stage(self, stage: Stage) -> None:
        if stage != self.stage:
            self.take_tool("", None)
            self.stage = stage
            self.stage_changed.emit()
            self.view_changed.emit()

    def take_tool(self, tool_id: str, tool: Tool | None) -> None:
        """Take a tool in hand, or none."""
        if self.tool is not None:
            self.tool.put_away()
        self.tool_id, self.tool = tool_id, tool
        self.tool_changed.emit()
        self.marks_changed.emit()

    @property
    def strength(self) -> float:
        return self.strengths[self.stage]

    def set_strength(self, strength: float) -> None:
        self.strengths[self.stage] = strength
        self.view_changed.emit()

    def set_beside(self, beside: bool) -> None:
        self.beside = beside
        self.view_changed.emit()
        self.fit_asked.emit()

    def show_ink(self, below: float | None) -> None:
        """Show what is darker than `below` as ink over the picture in hand, or nothing."""
        self.ink_below = below
        self.view_changed.emit()

    def flash(self, contours: list[Contour]) -> None:
        """Show for a moment what has gone."""
        self.flashed.emit(tuple(contours))
