"""The session: the document, what of it is chosen, the desk and what is said, and the tool in hand
with what is worked out meanwhile.

It holds and tells; it computes nothing. The four that it holds know nothing of it, nor of each other
but what stands before them.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar
from weakref import WeakSet

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.cached import cached_property
from draxet.job.layout import items_named, members_of
from draxet.job.layout_names import laid_name
from draxet.job.records import Job
from draxet.ui.model.desk import Desk
from draxet.ui.model.document import Document
from draxet.ui.model.large_edits import MANY, LargeEdits
from draxet.ui.model.looked import Looked
from draxet.ui.model.messages import Messages
from draxet.ui.model.picture_store import PictureStore
from draxet.ui.model.selection import Selection
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import Tool
from draxet.ui.model.workers import Workers

if TYPE_CHECKING:
    from draxet.geometry.catching import Catcher
    from draxet.leaving.leaving_kind import LeftTogether

__all__ = ["Session"]

_Single = TypeVar("_Single")
_LARGER = 4
"""A job of so many times as many contours is as long in changing a few."""


class Session(QObject):
    """What the window shows. Signals tell of the tool in hand and of what was looked for."""

    tool_changed = pyqtSignal()
    marks_changed = pyqtSignal()
    looked_changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.messages = Messages(self)
        self.document = Document(self.messages, self)
        self.selection = Selection(self.document, self)
        self.desk = Desk(self)
        self.workers = Workers(self)
        self.large_edits = LargeEdits(self.document, self.messages, self.workers)
        self.tool: Tool | None = None
        self.tool_id = ""
        self.pictures = PictureStore()
        self.left: LeftTogether | None = None
        """What was handed off last."""
        self.looked = Looked()
        self.derived: WeakSet[Any] = WeakSet()
        """All that is worked out and shown (``Derived``)."""
        self.offered_program: tuple[str, str] | None = None
        """The name and the text of a program that came in and is to be rehearsed."""
        self.visited_end = -1
        self.preparing: dict[str, tuple[float, str]] = {}
        """Pictures that are being made ready: how far, and doing what."""
        self._singles: dict[type[Any], Any] = {}
        self.document.replaced.connect(self._let_go)
        self.document.changed.connect(self.marks_changed)
        self.selection.changed.connect(self.marks_changed)

    @property
    def job(self) -> Job:
        return self.document.job

    @property
    def layout(self) -> Job:
        """The job as it lies, with all that placements lay."""
        return self.document.job.layout

    def edit(self, words: str, job: Job, gesture: object = None, *, resizes: bool = False) -> None:
        """Take a step (``Document.edit``)."""
        self.document.edit(words, job, gesture, resizes=resizes)

    def edit_chosen(
        self,
        words: str,
        make: Callable[[Job, frozenset[str]], Job],
        gesture: object = None,
        *,
        ids: Collection[str] | None = None,
        done: Callable[[], object] = lambda: None,
    ) -> None:
        """Take a step that changes all that is chosen, or some by their ids; of a great many by a worker
        (``LargeEdits``), and so in a very large job. Those that are gone until it is their turn are left
        out. done : is called once it is taken."""
        meant, asked = self.selection.ids if ids is None else frozenset(ids), self.job
        many = max(len(meant), len(asked.contours) // _LARGER) > MANY

        def made(job: Job) -> Job:
            if job is asked:
                return make(job, meant)
            there = meant & job.layout.contour_by_id.keys()
            return make(job, there) if there or not meant else job

        self.large_edits.edit(words, made, gesture, many=many, done=done)

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

    def go_to_step(self, at: int) -> None:
        """Back or on to a step of the history."""
        history = self.document.history
        if at != history.at:
            self.document.go_to(history.gone_to(at))
            self._forget()

    def undo(self) -> None:
        if self.large_edits.stop() or (self.tool is not None and self.tool.step_back()):
            return
        before, history = self.job, self.document.history
        self.document.go_to(history.undone())
        self._forget()
        if history.undo_words:
            gone = set(_gone(before, self.job))
            if 0 < len(gone) <= MANY:
                self.messages.flash([item.contour for item in items_named(before, gone)])
            self.messages.announced.emit(f"Taken back: {history.undo_words}")

    def redo(self) -> None:
        history = self.document.history
        self.document.go_to(history.redone())
        self._forget()
        if history.redo_words:
            self.messages.announced.emit(f"Done again: {history.redo_words}")

    def _forget(self) -> None:
        if self.tool is not None:
            self.tool.forget()
            self.marks_changed.emit()

    def _let_go(self, before: Job) -> None:
        """Hold no more what is no more."""
        gone = frozenset(_gone(before, self.job))
        if gone or _lacks_picture(before, self.job):
            self._forget()
        if self.selection.ids & gone:
            self.selection.choose(self.selection.ids - gone)

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
        self.document.ending.emit()
        for each in list(self.derived):
            each.forget()
        laid = self.desk.begin(desk or {})
        self.document.begin(job, path, saved=saved)
        self.selection.begin(laid.picture)
        self.pictures, self.left, self.visited_end = PictureStore(), None, -1
        self.document.changed.emit()
        self.desk.stage_changed.emit()
        self.selection.changed.emit()
        self.desk.view_changed.emit()
        if laid.view:
            self.messages.view_asked.emit(*laid.view)
        else:
            self.messages.fit_asked.emit()

    def take_looked(self, looked: Looked) -> None:
        """What was worked out from the job."""
        if (
            looked.work is not self.looked.work
            or looked.findings != self.looked.findings
            or looked.products is not self.looked.products
        ):
            self.looked = looked
            self.looked_changed.emit()

    def offer_program(self, name: str, text: str) -> None:
        """A program came in: it is rehearsed."""
        self.offered_program = (name, text)
        self.open_stage(Stage.PROVE)
        self.messages.tool_asked.emit("rehearse")

    def open_stage(self, stage: Stage) -> None:
        if stage != self.desk.stage:
            self.messages.leaving.emit()
            self.put_tool_away()
            left, self.desk.stage = self.desk.stage, stage
            self.desk.stage_changed.emit()
            if left == Stage.GATHER:
                self._tell_of_gather()

    def _tell_of_gather(self) -> None:
        """What was found wrong with what was brought in is told as that is left."""
        found = [each for each in self.looked.findings if each.stage == "gather"]
        if found:
            self.messages.refused.emit(f"{found[0].words}.")

    def take_tool(self, tool_id: str, tool: Tool | None) -> None:
        """Take a tool in hand, or none."""
        self.put_tool_away()
        self.tool_id, self.tool = tool_id, tool
        if tool is not None:
            self.selection.hands_empty = False
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
        was = any([each.stop() for each in list(self.derived) if each.tool is self.tool])
        if was and self.tool is not None:
            self.tool.stopped()
            self.tool_changed.emit()
        return was

    @property
    def shows_work(self) -> bool:
        """Whether the canvas shows the work: also while contours are made, where what closes is
        worked at once."""
        takes = any(operation.takes for operation in self.job.operations)
        stage = self.desk.stage
        return stage.shows("work") or (takes and stage.shows("inks"))


def _lacks_picture(before: Job, after: Job) -> bool:
    return before.pictures is not after.pictures and bool(
        before.picture_by_id.keys() - after.picture_by_id.keys()
    )


def _gone(before: Job, after: Job) -> Iterator[str]:
    """The contours of one job's layout that are not in another's."""
    names = ("contours", "parts", "placements")
    if all(getattr(before, name) is getattr(after, name) for name in names):
        return
    yield from before.contour_by_id.keys() - after.contour_by_id.keys()
    for placement in before.placements:
        now = after.placement_by_id.get(placement.id)
        left = {item.id for item in members_of(after, now.part)} if now else set()
        for item in members_of(before, placement.part):
            if item.id not in left:
                yield laid_name(placement.id, item.id)
