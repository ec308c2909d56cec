"""Long work off the window's thread: a frozen request goes in, an answer comes back on the window's thread.

Work runs in *lanes*. In each lane the newest request wins: an older one is told to stop, and its answer is dropped. Work that
belongs to a job ends with it: nothing that was begun in one job lands in another. A task may hold tools and widgets; it is let go of
on the window's thread only, however it ends, as these must not be taken apart on another one.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from dataclasses import field
from itertools import count
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from draxet.cached import cached_property
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

    _ended = pyqtSignal()
    _stepped = pyqtSignal(int, float, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._newest: dict[str, _Task] = {}
        self._tasks: dict[int, _Task] = {}
        self._endings: deque[tuple[int, Any, Exception | None]] = deque()
        self._numbers = count()
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
        wait_ms: int = 0,
    ) -> None:
        """Run `work` in `lane`; afterwards call `done` with its answer or `failed` with its error.

        Parameters
        ----------
        of_job : whether it belongs to the open job and is given up with it. wait_ms : so long it waits, so that what answers a key is not held up by it.
        """
        self.cancel(lane)
        number = next(self._numbers)
        self._newest[lane] = self._tasks[number] = _Task(lane, work, done, failed, stepped, of_job)
        if wait_ms:
            QTimer.singleShot(wait_ms, lambda: self._submit(number))
        else:
            self._submit(number)

    def _submit(self, number: int) -> None:
        if number in self._tasks:  # not closed meanwhile
            self._pool.submit(self._perform, number)

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
        self._endings.clear()
        self._tasks.clear()

    def _perform(self, number: int) -> None:
        """On a worker's thread, which holds nothing of the task any more once its end is told."""
        self._endings.append((number, *self._worked_out(number, self._tasks[number])))
        self._ended.emit()

    def _worked_out(self, number: int, task: _Task) -> tuple[Any, Exception | None]:
        def report(share: float, words: str) -> None:
            if task.stop.is_set():
                raise Cancelled
            self._stepped.emit(number, share, words)

        try:
            report(0.0, "")
            return task.work(report), None
        except Exception as error:  # handed over to the window's thread, which tells people
            return None, error

    def _hand_over(self) -> None:
        if not self._endings:
            return  # closed meanwhile
        number, answer, error = self._endings.popleft()
        task = self._tasks.pop(number)
        if self._newest.get(task.lane) is not task:
            return
        del self._newest[task.lane]
        if error is None:
            task.done(answer)
        elif not isinstance(error, Cancelled):
            task.failed(error)

    def _pass_on(self, number: int, share: float, words: str) -> None:
        task = self._tasks.get(number)
        if task is not None and task.stepped and self._newest.get(task.lane) is task:
            task.stepped(share, words)
