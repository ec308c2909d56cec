"""Edits of a great many contours are worked out by a worker: one after the other, each of the job that
is in force then. What is asked for meanwhile waits; Esc and undo let all of it go."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable

from draxet.files import reason
from draxet.job.extent import extent_of
from draxet.job.layout_counts import counted, span_count, unworked
from draxet.job.records import Job
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.model.document import Document, Looked, looked_at
from draxet.ui.model.messages import Messages
from draxet.ui.model.workers import Workers

__all__ = ["LargeEdits", "MANY"]

MANY = 1500
"""Contours that are changed, or told of, within a few milliseconds."""
_LANE = "edit"


@record(frozen=True, eq=False)
class _Edit:
    words: str
    make: Callable[[Job], Job]
    gesture: object
    done: Callable[[], object]


class LargeEdits:
    """Those of a session that wait, and the one that is being worked out."""

    def __init__(self, document: Document, messages: Messages, workers: Workers) -> None:
        self._document, self._messages, self._workers = document, messages, workers
        self._waiting: deque[_Edit] = deque()
        self.asked: list[Callable[[Job], object]] = [
            counted,
            span_count,
            unworked,
            extent_of,
            lambda job: job.contour_by_id,
            lambda job: job.opened,
        ]
        """What everybody asks of a job, and a job keeps: known before it is in force."""
        document.ending.connect(self._waiting.clear)

    def edit(
        self,
        words: str,
        make: Callable[[Job], Job],
        gesture: object = None,
        *,
        many: bool,
        done: Callable[[], object] = lambda: None,
    ) -> None:
        """Take a step that makes another job of the one in force: at once, or by a worker where it
        concerns `many`, or where another one waits. done : is called once it is taken."""
        if not many and not self._waiting:
            self._document.edit(words, make(self._document.job), gesture)
            done()
            return
        self._waiting.append(_Edit(words, make, gesture, done))
        if len(self._waiting) == 1:
            self._messages.announced.emit(f"{words.capitalize()} … (Esc: leave it)")
            self._begin()

    def know(self, job: Job) -> None:
        """Work out what everybody asks of a job; by a worker, before it is in force."""
        for each in self.asked:
            each(job)

    def stop(self) -> bool:
        """Let all of them go; whether there were any."""
        was = bool(self._waiting)
        self._waiting.clear()
        self._workers.cancel(_LANE)
        return was

    def _begin(self) -> None:
        first, before = self._waiting[0], self._document.job

        def work(report: Progress) -> Looked:
            made = first.make(before)
            report(0.5, first.words)
            found = looked_at(first.words, before, made, resizes=False)
            if found.job is not None:
                self.know(found.job)
            return found

        self._workers.run(_LANE, work, self._done, self._refuse)

    def _done(self, found: Looked) -> None:
        if self._document.job is not found.before:
            self._begin()  # of what is in force now
            return
        edit = self._waiting.popleft()
        self._document.take(found, edit.gesture)
        edit.done()
        if self._waiting:
            self._begin()

    def _refuse(self, error: Exception) -> None:
        edit = self._waiting.popleft()
        self._messages.refused.emit(f"This cannot be done ({edit.words}): {reason(error)}")
        if self._waiting:
            self._begin()
