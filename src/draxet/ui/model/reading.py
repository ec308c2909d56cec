"""Files that are being read, off the window's thread: how far they are, and how they are given
up."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from draxet.progress import Progress
from draxet.ui.model.session import Session

__all__ = ["Reading"]


class Reading:
    """What reads files for the window; it ends with the job that it was begun in."""

    def __init__(self, session: Session) -> None:
        self._session, self._workers = session, session.workers
        self._lanes: list[str] = []
        self._turns: list[str] = []
        self._waiting: dict[str, Callable[[], None]] = {}
        """What has been read and waits for its turn."""
        session.document.ending.connect(self._end_job)
        session.messages.stop_asked.connect(self.stop)

    def read(
        self,
        lane: str,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None],
        *,
        in_turn: bool = False,
    ) -> None:
        """Read a file off the window's thread; how far it is stands in the top line, and Esc stops
        it.

        Parameters
        ----------
        in_turn : whether it is handed over only after those that were asked for before it in this
        way.
        """
        if lane not in self._lanes:
            self._lanes.append(lane)
        if in_turn:
            self._turns.append(lane)
        if not self._session.messages.is_reading:
            self._session.messages.say_reading("reading", 0.0)

        def ended(answer: Any) -> None:
            self._hand_over(lane, lambda: done(answer))

        def failed(error: Exception) -> None:
            self._hand_over(lane, lambda: self.refuse(error))

        self._workers.run(
            lane,
            work,
            ended,
            failed,
            lambda share, words: self._session.messages.say_reading(words or "reading", share),
        )

    def _hand_over(self, lane: str, take: Callable[[], None]) -> None:
        if lane not in self._turns:
            self._leave(lane)
            take()
            return
        self._waiting[lane] = take
        while self._turns and self._turns[0] in self._waiting:
            first = self._turns.pop(0)
            self._leave(first)
            self._waiting.pop(first)()

    def _leave(self, lane: str) -> None:
        self._lanes.remove(lane)
        if not self._lanes:
            self._session.messages.say_reading("", 0.0)

    def stop(self) -> None:
        """Give up files that are being read."""
        for lane in self._lanes:
            self._workers.cancel(lane)
        if self._lanes:
            self._session.messages.announced.emit(
                "Stopped reading; what was still being read is not brought in"
            )
        self._end_job()

    def _end_job(self) -> None:
        self._lanes, self._turns, self._waiting = [], [], {}
        self._session.messages.say_reading("", 0.0)

    def refuse(self, error: Exception) -> None:
        """Say why a file could not be read."""
        self._session.messages.refused.emit(
            str(error) if isinstance(error, ValueError) else f"The file could not be read: {error}"
        )
