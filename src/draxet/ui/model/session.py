"""The session: the history in force, what is chosen, which stage is open and which tool is in hand.

It holds and tells; it computes nothing. Every change of the job goes through ``edit``, one step for
one gesture.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar
from weakref import WeakSet

from PyQt6.QtCore import QObject, QTimer

from draxet.cached import cached_property
from draxet.geometry.contour import Contour
from draxet.job.codec import written
from draxet.job.codec_parts import Parts
from draxet.job.contour_records import ContourItem
from draxet.job.fixed import resized
from draxet.job.history import History
from draxet.job.layout import items_named, members_of
from draxet.job.layout_names import laid_name
from draxet.job.lettering import settled
from draxet.job.operating import taken_up
from draxet.job.records import Job
from draxet.job.sound import job_fault
from draxet.ui.model.desk import Desk, read_desk, read_kept
from draxet.ui.model.looked import Looked
from draxet.ui.model.picture_store import PictureStore
from draxet.ui.model.session_lists import SessionLists
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import Tool
from draxet.ui.model.workers import Workers

if TYPE_CHECKING:
    from draxet.geometry.catching import Catcher
    from draxet.leaving.leaving_kind import LeftTogether

__all__ = ["Session"]

_Kept = TypeVar("_Kept")

_Single = TypeVar("_Single")


class Session(SessionLists):
    """What the window shows. Signals tell of each kind of change."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.workers = Workers(self)
        self.path: Path | None = None
        self.stage = Stage.GATHER
        self.tool: Tool | None = None
        self.tool_id = ""
        self.pictures = PictureStore()
        self.strengths = {stage: stage.strength for stage in Stage}
        self.ink_below: float | None = None
        self.left: LeftTogether | None = None
        """What was handed off last."""
        self.looked = Looked()
        self.derived: WeakSet[Any] = WeakSet()
        """All that is worked out and shown (``Derived``)."""
        self.is_reading = False
        self.offered_program: tuple[str, str] | None = None
        """The name and the text of a program that came in and is to be rehearsed."""
        self.visited_end = -1
        self.hands_empty = False
        """Whether the picture in hand was laid down: its slip is not wanted."""
        self.preparing: dict[str, tuple[float, str]] = {}
        """Pictures that are being made ready: how far, and doing what."""
        self._gesture: object = None
        self.nudge_mm = 1.0
        self.nudge_gesture: object = None
        """The same for all moves of one arrow key that is held."""
        self.view: tuple[float, float, float] | None = None
        self._settings: dict[str, Any] = {}
        self._singles: dict[type[Any], Any] = {}
        self._settings_read: Mapping[str, Any] = {}
        self.shows_inks = True
        """Whether contours are shown filled with their colour, and lines as broad as they are."""
        self.shows_falls = False
        """Whether what falls is shown whatever tool is in hand."""
        self.beside = False
        """Whether pictures are shown beside the contours; where they lie does not change."""

    @cached_property
    def catcher(self) -> Catcher:
        """Made when something is first to be caught."""
        from draxet.geometry.catching import Catcher  # not needed to show a window

        return Catcher()

    def single(self, kind: type[_Single]) -> _Single:
        """What there is one of in a session, made with it when it is first asked for."""
        if kind not in self._singles:
            self._singles[kind] = kind(self)  # type: ignore[call-arg]
        found: _Single = self._singles[kind]
        return found

    def show_inks(self, shown: bool) -> None:
        """Show fills and line widths, or contours alone."""
        self.shows_inks = shown
        self.view_changed.emit()

    def hide(self, ids: frozenset[str]) -> None:
        """Show all contours but these; what is hidden is not chosen."""
        self.hidden = ids & self.layout.contour_by_id.keys()
        self.select(self.selection - self.hidden)
        self.view_changed.emit()

    def edit(self, words: str, job: Job, gesture: object = None, *, resizes: bool = False) -> None:
        """Take a step: `job` is in force from now on, and undo takes it back.

        Parameters
        ----------
        gesture : where given and the same as for the step before, both are one step (a slider being
        moved). resizes : whether pieces of fixed size may
            take another one.

        A job that is not sound is refused, and the one before stays; one that is the same is no
        step.
        """
        if job == self.job:
            return
        job = taken_up(self.job, settled(self.job, job))
        if fault := job_fault(job, self.job) or ("" if resizes else resized(self.job, job)):
            self.refused.emit(f"This cannot be done ({words}): {fault}.")
            return
        round_before = (
            any(item.ellipse is not None for item in self.job.contours) and self.job.contour_by_id
        )
        if (
            gesture is not None
            and gesture == self._gesture
            and self.history.at
            and not self.history.redo_words
            and self.history.saved is not self.job
        ):
            self._set_history(self.history.with_last(job))
        else:
            self._set_history(self.history.after(words, job))
        self._gesture = gesture
        if round_before and any(
            item.ellipse is None
            and item.id in round_before
            and _was_ellipse(round_before[item.id], item)
            for item in self.job.contours
        ):
            words = "It is no ellipse any more: a contour of curves from now on"
            QTimer.singleShot(
                0, lambda: self.announced.emit(words)
            )  # after what the tool says at its end

    def go_to_step(self, at: int) -> None:
        """Back or on to a step of the history."""
        if at != self.history.at:
            self._set_history(self.history.gone_to(at))
            self._forget()

    def undo(self) -> None:
        if self.tool is not None and self.tool.step_back():
            return
        words = self.history.undo_words
        before = self.job
        self._set_history(self.history.undone())
        self._forget()
        if words:
            self._flash_gone(before)
            self.announced.emit(f"Taken back: {words}")

    def redo(self) -> None:
        words = self.history.redo_words
        self._set_history(self.history.redone())
        self._forget()
        if words:
            self.announced.emit(f"Done again: {words}")

    def _forget(self) -> None:
        if self.tool is not None:
            self.tool.forget()
            self.marks_changed.emit()

    def _flash_gone(self, before: Job) -> None:
        gone = set(_gone(before, self.job))
        if gone:
            self.flash([item.contour for item in items_named(before, gone)])

    def start(
        self,
        job: Job,
        path: Path | None,
        *,
        saved: bool = True,
        desk: Mapping[str, Any] | None = None,
    ) -> None:
        """Work on another job from now on, on a desk as it was left; everything of the one before
        ends here."""
        self.put_tool_away()
        self.job_ending.emit()
        for each in list(self.derived):
            each.forget()
        laid = read_desk(desk or {})
        self.history, self.path, self.selection, self.picture_id, self.left = (
            History.of(job, saved=saved),
            path,
            frozenset(),
            laid.picture,
            None,
        )
        self.pictures, self.ink_below, self.beside, self._gesture = (
            PictureStore(),
            None,
            False,
            None,
        )
        self.hands_empty, self.visited_end, self.hidden = False, -1, frozenset()
        self.stage, self.nudge_mm, self.strengths = (
            Stage.numbered(laid.stage),
            laid.nudge_mm,
            {stage: stage.strength for stage in Stage}
            | dict(zip(Stage, laid.strengths, strict=False)),
        )
        tools = (desk or {}).get("tools")
        self._settings, self._settings_read = {}, tools if isinstance(tools, dict) else {}
        self.job_changed.emit()
        self.stage_changed.emit()
        self.selection_changed.emit()
        self.view_changed.emit()
        if laid.view:
            self.view_asked.emit(*laid.view)
        else:
            self.fit_asked.emit()

    def say_reading(self, words: str, share: float) -> None:
        """How far the file is that is being read; no words where none is."""
        self.is_reading = bool(words)
        self.reading.emit(words, share)

    def take_looked(self, looked: Looked) -> None:
        """What was worked out from the job."""
        if (
            looked.work is not self.looked.work
            or looked.findings != self.looked.findings
            or looked.products is not self.looked.products
        ):
            self.looked = looked
            self.looked_changed.emit()

    def settings(self, name: str, kind: type[_Kept]) -> _Kept:
        """A tool's settings (a record with a default for every field), kept with the job from one
        time in hand to the next."""
        if name not in self._settings:
            self._settings[name] = read_kept(kind, self._settings_read.get(name, {}))
        found: _Kept = self._settings[name]
        return found

    def offer_program(self, name: str, text: str) -> None:
        """A program came in: it is rehearsed."""
        self.offered_program = (name, text)
        self.open_stage(Stage.PROVE)
        self.tool_asked.emit("rehearse")

    def has_kept(self, name: str) -> bool:
        """Whether a tool's settings were kept with the job."""
        return name in self._settings or name in self._settings_read

    def keep(self, name: str, record: object) -> None:
        """Other settings in the place of a tool's, where those are a record that cannot change."""
        self._settings[name] = record

    def desk(self) -> dict[str, Any]:
        """How the desk is left, as what JSON can hold."""
        desk = Desk(
            int(self.stage),
            self.view,
            tuple(self.strengths[stage] for stage in Stage),
            self.picture_id,
            self.nudge_mm,
        )
        kept = {name: written(type(each), each, Parts()) for name, each in self._settings.items()}
        return {**written(Desk, desk, Parts()), "tools": {**self._settings_read, **kept}}

    def note_saved(self, path: Path, job: Job) -> None:
        """`job` is on the disk at `path` now."""
        self.history, self.path = self.history.after_save(job), path
        self.saved.emit()
        self.job_changed.emit()

    def _set_history(self, history: History) -> None:
        before, self.history, self._gesture = self.history.job, history, None
        gone = frozenset(_gone(before, self.job))
        if gone or _lacks_picture(before, self.job):
            self._forget()  # the tool in hand may hold what is no more
        if self.selection & gone:
            self.select(self.selection - gone)
        self.job_changed.emit()
        self.marks_changed.emit()

    def select(self, ids: frozenset[str] | set[str]) -> None:
        self.selection = frozenset(ids)
        self.selection_changed.emit()
        self.marks_changed.emit()

    def choose_picture(self, picture_id: str) -> None:
        self.picture_id, self.hands_empty = picture_id, False
        self.selection_changed.emit()

    def open_stage(self, stage: Stage) -> None:
        if stage != self.stage:
            self.leaving.emit()
            self.put_tool_away()
            left, self.stage = self.stage, stage
            self.stage_changed.emit()
            if left == Stage.GATHER:
                self._tell_of_gather()

    def _tell_of_gather(self) -> None:
        """What was found wrong with what was brought in is told as that is left."""
        found = [each for each in self.looked.findings if each.stage == "gather"]
        if found:
            self.refused.emit(f"{found[0].words}.")

    def lay_down(self) -> None:
        """Esc with no tool in hand: leave contours and picture alone as well."""
        if self.selection:
            self.select(frozenset())
        elif not self.hands_empty:
            self.hands_empty = True
            self.selection_changed.emit()

    def take_tool(self, tool_id: str, tool: Tool | None) -> None:
        """Take a tool in hand, or none."""
        self.put_tool_away()
        self.tool_id, self.tool = tool_id, tool
        self.hands_empty = self.hands_empty and tool is None
        self.tool_changed.emit()
        self.marks_changed.emit()

    def put_tool_away(self) -> None:
        """Have no tool in hand, and say nothing of it yet: another one or another stage follows."""
        if self.tool is not None:
            self.stop_tool()
            self.tool.put_away()
        self.tool_id, self.tool = "", None

    def stop_tool(self) -> bool:
        """Stop what is being worked out for the tool in hand; whether anything was."""
        return any([each.stop() for each in list(self.derived) if each.tool is self.tool])

    @property
    def shows_work(self) -> bool:
        """Whether the canvas shows the work: also while contours are made, where what closes is
        worked at once."""
        takes = any(operation.takes for operation in self.job.operations)
        return self.stage.shows("work") or (takes and self.stage.shows("inks"))

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


def _lacks_picture(before: Job, after: Job) -> bool:
    return before.pictures is not after.pictures and bool(
        before.picture_by_id.keys() - after.picture_by_id.keys()
    )


def _gone(before: Job, after: Job) -> Iterator[str]:
    """The contours of one job's layout that are not in another's."""
    names = ("contours", "parts", "placements")
    if all(getattr(before, name) is getattr(after, name) for name in names):
        return
    drawn = {item.id: item.part for item in after.contours}
    for item in before.contours:
        if item.id not in drawn:
            yield item.id
    for placement in before.placements:
        now = after.placement_by_id.get(placement.id)
        left = {item.id for item in members_of(after, now.part)} if now else set()
        for item in members_of(before, placement.part):
            if item.id not in left:
                yield laid_name(placement.id, item.id)


def _was_ellipse(before: ContourItem, now: ContourItem) -> bool:
    return before.ellipse is not None and now.contour.circle_shape is None
