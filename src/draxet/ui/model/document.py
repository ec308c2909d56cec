"""The document: the job in force, its history, and where it lies on the disk. Every change of the
job goes through ``edit``, one step for one gesture."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from draxet.job.contour_records import ContourItem
from draxet.job.fixed import resized
from draxet.job.history import History
from draxet.job.lettering import settled
from draxet.job.operating import taken_up
from draxet.job.records import Job, begun_job
from draxet.job.sound import job_fault
from draxet.record import record
from draxet.ui.model.messages import Messages

__all__ = ["Document", "Looked", "looked_at"]


@record(frozen=True, eq=False)
class Looked:
    """A step that is to be taken from the job `before`: the `job` then, None where it is no step;
    what is wrong with it, and whether something is no ellipse any more."""

    words: str
    before: Job
    job: Job | None
    fault: str = ""
    ends_ellipse: bool = False


def looked_at(words: str, before: Job, job: Job, *, resizes: bool) -> Looked:
    """What an edit comes to."""
    if job == before:
        return Looked(words, before, None)
    job = taken_up(before, settled(before, job))
    if fault := job_fault(job, before) or ("" if resizes else resized(before, job)):
        return Looked(words, before, None, fault)
    return Looked(words, before, job, "", _no_ellipse_any_more(before, job))


class Document(QObject):
    """A job and its steps. `replaced` tells first what was in force before, `changed` then tells
    all; `ending` that another job follows."""

    replaced = pyqtSignal(object)
    changed = pyqtSignal()
    saved = pyqtSignal()
    ending = pyqtSignal()

    def __init__(self, messages: Messages, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._messages = messages
        self.history = History.of(begun_job())
        self.path: Path | None = None
        self._gesture: object = None

    @property
    def job(self) -> Job:
        return self.history.job

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to work on yet."""
        return not self.job.pictures and not self.job.contours

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
        self.take(looked_at(words, self.job, job, resizes=resizes), gesture)

    def take(self, found: Looked, gesture: object = None) -> None:
        """Take a step that was looked at already."""
        before, job, words = self.job, found.job, found.words
        if found.fault:
            self._messages.refused.emit(f"This cannot be done ({words}): {found.fault}.")
        if job is None:
            return
        goes_on = (
            gesture is not None
            and gesture == self._gesture
            and self.history.at
            and not self.history.redo_words
            and self.history.saved is not before
        )
        history = self.history
        self.go_to(history.with_last(job) if goes_on else history.after(words, job))
        self._gesture = gesture
        if found.ends_ellipse:
            words = "It is no ellipse any more: a contour of curves from now on"
            QTimer.singleShot(
                0, lambda: self._messages.announced.emit(words)
            )  # after what the tool says at its end

    def go_to(self, history: History) -> None:
        """Be at another step, or on another way."""
        before, self.history, self._gesture = self.job, history, None
        self.replaced.emit(before)
        self.changed.emit()

    def begin(self, job: Job, path: Path | None, *, saved: bool) -> None:
        """Be another job from now on, and say nothing of it yet."""
        self.history, self.path, self._gesture = History.of(job, saved=saved), path, None

    def note_saved(self, path: Path, job: Job) -> None:
        """`job` is on the disk at `path` now."""
        self.history, self.path = self.history.after_save(job), path
        self.saved.emit()
        self.changed.emit()


def _no_ellipse_any_more(before: Job, after: Job) -> bool:
    """Whether what was an ellipse is a contour of curves now."""
    if not any(item.ellipse is not None for item in before.contours):
        return False
    known = before.contour_by_id
    return any(
        item.ellipse is None and item.id in known and _was_ellipse(known[item.id], item)
        for item in after.contours
    )


def _was_ellipse(before: ContourItem, now: ContourItem) -> bool:
    return before.ellipse is not None and now.contour.circle_shape is None
