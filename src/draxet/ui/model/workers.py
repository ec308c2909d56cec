"""Long work off the window's thread: a frozen request goes in, an answer comes back on the window's
thread.

Work runs in *lanes*. In each lane the newest request wins: an older one is told to stop, and its
answer is dropped. Work that belongs to a job ends with it: nothing that was begun in one job lands
in another. A task may hold tools and widgets; it is let go of on the window's thread only, however
it ends, as these must not be taken apart on another one.

Two tasks run at a time. One that was told to stop and has not yet is not waited for: neither by the
next ones nor by a window that closes. What writes to the disk for people (saving, keeping copies)
has a thread of its own. What no report can stop, or takes long, is done in a process apart; a task
that waits for one holds up no other.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import field
from functools import partial
from itertools import count
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from draxet.cached import cached_property
from draxet.geometry.contour import Contour
from draxet.progress import Cancelled, Progress
from draxet.record import record
from draxet.ui.model.size import many

if TYPE_CHECKING:
    from draxet.ui.model.aside import Aside

__all__ = ["Workers"]

_AT_ONCE = 2
_PATIENCE_S = 0.2
"""So long a window that closes waits for work that was told to stop."""
_OFTEN_S = 0.04
"""How far the same work is, is passed on no more often than that."""
_RUN_ON: list[Any] = []
"""Tasks that ran on when their window closed: not to be taken apart on their threads."""


@record(eq=False)
class _Task:
    lane: str
    work: Callable[[Progress], Any]
    done: Callable[[Any], None]
    failed: Callable[[Exception], None]
    stepped: Callable[[float, str], None] | None
    of_job: bool
    saves: bool = False
    stop: threading.Event = field(default_factory=threading.Event)


class _Line:
    """Tasks by their numbers, waiting for threads; those that were told to stop take up no
    place."""

    def __init__(self, perform: Callable[[int], None], at_once: int) -> None:
        self._perform, self._at_once = perform, at_once
        self._waiting: deque[tuple[int, threading.Event]] = deque()
        self._running: dict[int, threading.Event] = {}
        self._away: set[int] = set()
        self._free = 0
        self._changed = threading.Condition()
        self._closed = False

    def add(self, number: int, stop: threading.Event) -> None:
        with self._changed:
            self._waiting.append((number, stop))
            self._man()

    def given_up(self) -> None:
        """A task was told to stop: another one may begin in its place."""
        with self._changed:
            self._man()

    @contextmanager
    def away(self, number: int) -> Iterator[None]:
        """While a task waits for a process, another one may run in its place."""
        with self._changed:
            self._away.add(number)
            self._man()
        try:
            yield
        finally:
            with self._changed:
                self._away.discard(number)

    @property
    def _room(self) -> int:
        return self._at_once - sum(
            not stop.is_set() and number not in self._away for number, stop in self._running.items()
        )

    def _man(self) -> None:
        """See to threads for what waits."""
        for _ in range(min(len(self._waiting), self._room) - self._free):
            self._free += 1
            threading.Thread(target=self._work, name="draxet", daemon=True).start()
        self._changed.notify_all()

    def _work(self) -> None:
        while (number := self._next()) is not None:
            self._perform(number)
            with self._changed:
                del self._running[number]
                self._free += 1
                self._changed.notify_all()

    def _next(self) -> int | None:
        """What a free thread does next; None where it is not needed any more."""
        with self._changed:
            while not self._closed and not self._waiting:
                self._changed.wait()
            self._free -= 1
            if self._closed or self._room <= 0:
                self._changed.notify_all()
                return None
            number, self._running[number] = self._waiting.popleft()
            return number

    def close(self, patience: float | None) -> list[int]:
        """Begin nothing more, and wait so many seconds for what runs, or until it ends; the numbers
        of what runs on."""
        with self._changed:
            self._closed = True
            self._waiting.clear()
            self._changed.notify_all()
            self._changed.wait_for(lambda: not self._running, patience)
            return list(self._running)


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
        self._closed, self._telling = False, threading.Lock()
        """A thread tells nothing once this is closed: it may be taken apart at that very moment."""
        self._line, self._saving = _Line(self._perform, _AT_ONCE), _Line(self._perform, 1)
        self._own = threading.local()
        """The number of the task that a thread is at."""
        self._ended.connect(self._hand_over)
        self._stepped.connect(self._pass_on)

    @cached_property
    def _aside(self) -> Aside:
        from draxet.ui.model.aside import Aside  # not needed to show a window

        return Aside()

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
        saves: bool = False,
        owner: QObject | None = None,
    ) -> None:
        """Run `work` in `lane`; afterwards call `done` with its answer or `failed` with its error.

        Parameters
        ----------
        of_job : whether it belongs to the open job and is given up with it. wait_ms : so long it
        waits, so that what answers a key is not held up by it. saves : whether it
            writes what people do not want to lose: it waits for nothing but its like. owner : with
            what it ends: a widget that asked for it and shows its answer.
        """
        self.cancel(lane)
        if self._closed:
            return  # what a timer asks for after the window was closed
        number = next(self._numbers)
        self._newest[lane] = self._tasks[number] = _Task(
            lane, work, done, failed, stepped, of_job, saves
        )
        if owner is not None:
            owner.destroyed.connect(partial(self._end_with_owner, number, lane))
        if wait_ms:
            QTimer.singleShot(wait_ms, lambda: self._submit(number))
        else:
            self._submit(number)

    def ended_if_long(
        self,
        report: Progress,
        contours: Sequence[Contour],
        work: Callable[..., Any],
        *arguments: Any,
    ) -> Any:
        """The answer of a function of a module that reports nothing, done in a process apart where
        so many contours may keep it busy for long; to be called by a worker."""
        return self.apart_plainly(report, work, *arguments) if many(contours) else work(*arguments)

    def apart_plainly(self, report: Progress, work: Callable[..., Any], *arguments: Any) -> Any:
        """As ``apart``, of a function that takes no progress."""
        from draxet.apart import plainly

        return self.apart(report, plainly, work.__module__, work.__qualname__, *arguments)

    def apart(self, report: Progress, work: Callable[..., Any], *arguments: Any) -> Any:
        """The answer of a function of a module that takes a progress and then the arguments, done
        in a process apart, which is ended where it does not stop; to be called by a worker."""
        with self._line.away(self._own.number):
            return self._aside.call(report, work, *arguments)

    def _submit(self, number: int) -> None:
        if task := self._tasks.get(number):  # not closed meanwhile
            (self._saving if task.saves else self._line).add(number, task.stop)

    def cancel(self, lane: str) -> None:
        """Tell the lane's work to stop; neither of its calls will come."""
        if task := self._newest.pop(lane, None):
            task.stop.set()
            (self._saving if task.saves else self._line).given_up()

    def _end_with_owner(self, number: int, lane: str) -> None:
        task = self._tasks.get(number)
        if task is not None and self._newest.get(lane) is task:
            self.cancel(lane)

    def end_job(self) -> None:
        """Give up everything that belongs to the job that is open."""
        for lane in [name for name, task in self._newest.items() if task.of_job]:
            self.cancel(lane)

    def busy(self, lane: str | None = None) -> bool:
        return bool(self._newest) if lane is None else lane in self._newest

    def close(self) -> None:
        """Stop everything, and wait for what is being saved; what does not stop soon is left to
        itself."""
        with self._telling:
            self._closed = True
        for lane in list(self._newest):
            self.cancel(lane)
        self._saving.close(None)
        if "_aside" in self.__dict__:
            self._aside.close()
        _RUN_ON.extend(self._tasks[number] for number in self._line.close(_PATIENCE_S))
        self._endings.clear()
        self._tasks.clear()

    def _perform(self, number: int) -> None:
        """On a worker's thread, which holds nothing of the task any more once its end is told."""
        self._own.number = number
        task = self._tasks.get(number)
        if task is not None:
            self._endings.append((number, *self._worked_out(number, task)))
            del task
            self._tell(lambda: self._ended.emit())

    def _tell(self, tell: Callable[[], None]) -> None:
        """On a worker's thread."""
        with self._telling:
            if not self._closed:
                tell()

    def _worked_out(self, number: int, task: _Task) -> tuple[Any, Exception | None]:
        told, said = 0.0, ""

        def report(share: float, words: str) -> None:
            nonlocal told, said
            if task.stop.is_set():
                raise Cancelled
            if task.stepped and (words != said or time.monotonic() - told > _OFTEN_S):
                told, said = time.monotonic(), words
                self._tell(lambda: self._stepped.emit(number, share, words))

        try:
            report(0.0, "")
            return task.work(report), None
        except Exception as error:  # handed over to the window's thread, which tells people
            return None, error

    def _hand_over(self) -> None:
        if not self._endings:
            return  # closed meanwhile
        number, answer, error = self._endings.popleft()
        task = self._tasks.pop(number, None)
        if task is None:
            return  # closed meanwhile
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
