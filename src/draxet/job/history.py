"""History: every state of a job with the words for the step that made it; undo and redo walk it."""

from __future__ import annotations

from dataclasses import replace

from draxet.job.records import Job
from draxet.record import record

__all__ = ["History"]


@record(frozen=True)
class History:
    """`states` holds (words, job) from the first on; `at` is the one in force; `saved` the one on
    disk."""

    states: tuple[tuple[str, Job], ...]
    at: int = 0
    saved: Job | None = None

    @staticmethod
    def of(job: Job, *, saved: bool = True) -> History:
        return History((("", job),), 0, job if saved else None)

    @property
    def job(self) -> Job:
        return self.states[self.at][1]

    @property
    def is_saved(self) -> bool:
        return self.job is self.saved

    @property
    def undo_words(self) -> str:
        """What undo would take back; empty where there is nothing."""
        return self.states[self.at][0] if self.at else ""

    @property
    def redo_words(self) -> str:
        return self.states[self.at + 1][0] if self.at + 1 < len(self.states) else ""

    def after(self, words: str, job: Job) -> History:
        """The history with one more step; what had been undone is gone."""
        if job is self.job:
            return self
        return replace(self, states=(*self.states[: self.at + 1], (words, job)), at=self.at + 1)

    def with_last(self, job: Job) -> History:
        """The history with another job for its last step: one gesture goes on and stays one
        step."""
        return replace(self, states=(*self.states[: self.at], (self.states[self.at][0], job)))

    def undone(self) -> History:
        return replace(self, at=max(0, self.at - 1))

    def redone(self) -> History:
        return replace(self, at=min(len(self.states) - 1, self.at + 1))

    def gone_to(self, at: int) -> History:
        """The history with another of its states in force."""
        return replace(self, at=min(max(at, 0), len(self.states) - 1))

    def after_save(self, job: Job | None = None) -> History:
        """The history with `job`, by default the one in force, on the disk."""
        return replace(self, saved=job or self.job)
