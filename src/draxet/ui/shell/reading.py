"""Files that are being read, off the window's thread: how far they are, and how they are given up."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from draxet.progress import Progress
from draxet.ui.shell.session import Session
from draxet.ui.shell.workers import Workers

__all__ = ["Reading"]


class Reading:
    """What reads files for the window; it ends with the job that it was begun in."""

    def __init__(self, session: Session, workers: Workers) -> None:
        self._session, self._workers = session, workers
        self._lanes: list[str] = []
        session.job_ending.connect(self._end_job)
        session.stop_asked.connect(self.stop)

    def read(self, lane: str, work: Callable[[Progress], Any], done: Callable[[Any], None]) -> None:
        """Read a file off the window's thread; how far it is stands in the top line, and Esc stops it."""
        if lane not in self._lanes:
            self._lanes.append(lane)

        def ended(answer: Any) -> None:
            self._leave(lane)
            done(answer)

        def failed(error: Exception) -> None:
            self._leave(lane)
            self.refuse(error)

        self._workers.run(lane, work, ended, failed, lambda share, words: self._session.say_reading(words, share))

    def _leave(self, lane: str) -> None:
        self._lanes.remove(lane)
        if not self._lanes:
            self._session.say_reading("", 0.0)

    def stop(self) -> None:
        """Give up files that are being read."""
        for lane in self._lanes:
            self._workers.cancel(lane)
        if self._lanes:
            self._session.said.emit("Stopped reading; nothing was brought in")
        self._lanes = []
        self._session.say_reading("", 0.0)

    def _end_job(self) -> None:
        self._lanes = []
        self._session.say_reading("", 0.0)

    def refuse(self, error: Exception) -> None:
        """Say why a file could not be read."""
        self._session.refused.emit(str(error) if isinstance(error, ValueError) else f"The file could not be read: {error}")
