"""Long work off the window's thread: a frozen request goes in, an answer comes back on the window's thread.

Work runs in *lanes*. In each lane the newest request wins: an older one is told to stop, and its answer is dropped. Work that
belongs to a job ends with it: nothing that was begun in one job lands in another.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import field
from functools import cached_property
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.progress import Cancelled, Progress
from draxet.record import record

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

__all__ = ["Workers"]


@record(eq=False)
class _Task:
    lane: str
    work: Callable[[Progress], Any]
    done: Callable[[Any], None]
    failed: Callable[[Exception], None]
    stepped: Callable[[float, str], None] | None
    of_job: bool
    stop: threading.Event = field(default_factory=threading.Event)


class Workers(QObject):
    """Runs tasks and hands their answers over; owned by the window."""

    _ended = pyqtSignal(object, object, object)
    _stepped = pyqtSignal(object, float, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._newest: dict[str, _Task] = {}
        self._ended.connect(self._hand_over)
        self._stepped.connect(self._pass_on)

    @cached_property
    def _pool(self) -> ThreadPoolExecutor:
        from concurrent.futures import ThreadPoolExecutor  # slow to load, and not needed before the first work

        return ThreadPoolExecutor(max_workers=2, thread_name_prefix="draxet")

    def run(
        self,
        lane: str,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        stepped: Callable[[float, str], None] | None = None,
        *,
        of_job: bool = True,
    ) -> None:
        """Run `work` in `lane`; afterwards call `done` with its answer or `failed` with its error.

        Parameters
        ----------
        of_job : whether it belongs to the open job and is given up with it.
        """
        self.cancel(lane)
        task = _Task(lane, work, done, failed, stepped, of_job)
        self._newest[lane] = task
        self._pool.submit(self._perform, task)

    def cancel(self, lane: str) -> None:
        """Tell the lane's work to stop; neither of its calls will come."""
        if task := self._newest.pop(lane, None):
            task.stop.set()

    def end_job(self) -> None:
        """Give up everything that belongs to the job that is open."""
        for lane in [name for name, task in self._newest.items() if task.of_job]:
            self.cancel(lane)

    def busy(self, lane: str | None = None) -> bool:
        return bool(self._newest) if lane is None else lane in self._newest

    def close(self) -> None:
        """Stop everything and wait for the threads to end."""
        for lane in list(self._newest):
            self.cancel(lane)
        if "_pool" in self.__dict__:
            self._pool.shutdown(wait=True)

    def _perform(self, task: _Task) -> None:
        def report(share: float, words: str) -> None:
            if task.stop.is_set():
                raise Cancelled
            self._stepped.emit(task, share, words)

        answer: Any = None
        error: Exception | None = None
        try:
            report(0.0, "")
            answer = task.work(report)
        except Cancelled:
            return
        except Exception as caught:  # handed over to the window's thread, which tells people
            error = caught
        if not task.stop.is_set():
            self._ended.emit(task, answer, error)

    def _hand_over(self, task: _Task, answer: Any, error: Exception | None) -> None:
        if self._newest.get(task.lane) is not task:
            return
        del self._newest[task.lane]
        if error is None:
            task.done(answer)
        else:
            task.failed(error)

    def _pass_on(self, task: _Task, share: float, words: str) -> None:
        if task.stepped and self._newest.get(task.lane) is task:
            task.stepped(share, words)
