"""The processes in which work is done that nobody could stop in this one: begun when they are first
needed, and ended with the window, or with a task that does not stop when it is told to."""

from __future__ import annotations

import os
import pickle
import select
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import draxet
from draxet.apart import HEAD, frames_of, put_together
from draxet.progress import Cancelled, Progress

__all__ = ["Aside"]

_MOST_IDLE = 2
_LOOK_S = 0.05
_PATIENCE_S = 0.12
"""So long a task that was told to stop has for it."""


class Aside:
    """Hands tasks to processes, one at a time to each; to be called by workers."""

    def __init__(self) -> None:
        self._idle: list[_Process] = []
        self._all: set[_Process] = set()
        self._lock = threading.Lock()
        self._closed = False

    def call(self, report: Progress, work: Callable[..., Any], *arguments: Any) -> Any:
        """The answer of `work`, a function of a module that takes a progress and then the
        arguments, all of which can be pickled.

        Raises
        ------
        Cancelled : where `report` says so, within 200 ms.
        MemoryError : where it asked for more memory than it may have. Else whatever the work
        raises.
        """
        report(0.0, "")
        process = self._taken()
        try:
            answer = process.answer(report, work, arguments)
        except BaseException:
            self._given_back(process)
            raise
        self._given_back(process)
        return answer

    def _taken(self) -> _Process:
        with self._lock:
            if self._closed:
                raise Cancelled
            process = self._idle.pop() if self._idle else _Process()
            self._all.add(process)
            return process

    def _given_back(self, process: _Process) -> None:
        with self._lock:
            if process.is_sound and len(self._idle) < _MOST_IDLE and not self._closed:
                self._idle.append(process)
                return
            self._all.discard(process)
        process.end()

    def close(self) -> None:
        """End all of them, whatever they do."""
        with self._lock:
            self._closed = True
            some, self._all, self._idle = list(self._all), set(), []
        for process in some:
            process.end()


class _Process:
    """One process; sound for as long as it does what it is told."""

    def __init__(self) -> None:
        place = str(Path(draxet.__file__).resolve().parent.parent)
        way = os.pathsep.join([place, *filter(None, [os.environ.get("PYTHONPATH", "")])])
        environment = {**os.environ, "PYTHONPATH": way}
        self._process = subprocess.Popen(
            [sys.executable, "-m", "draxet.apart"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            env=environment,
            bufsize=0,
        )
        self.is_sound = True
        self._heard = bytearray()

    def answer(self, report: Progress, work: Callable[..., Any], arguments: tuple[Any, ...]) -> Any:
        self.is_sound = False  # until it has answered
        try:
            for kind, data in frames_of((work.__module__, work.__qualname__, *arguments)):
                report(0.0, "")
                self._say(kind, data)
            self._say(b"G")
            return self._heard_out(report)
        except Cancelled:
            self._stop()
            raise
        except (OSError, EOFError) as error:
            raise MemoryError(
                "the work ended by itself; it may have been too large for the memory"
            ) from error

    def _say(self, kind: bytes, data: bytes = b"") -> None:
        assert self._process.stdin is not None
        view = memoryview(HEAD.pack(kind, len(data)) + data)
        while view:
            view = view[self._process.stdin.write(view) :]

    def _heard_out(self, report: Progress) -> Any:
        values, pieces, share, words = list[Any](), list[Any](), 0.0, ""
        while True:
            report(share, words)
            frame = self._frame(_LOOK_S)
            if frame is None:
                continue
            kind, data = frame
            if kind == b"R":
                share, words = pickle.loads(data)
            elif kind == b"E":
                self.is_sound = True
                return values[0]
            elif kind == b"X":
                self.is_sound = True
                raise pickle.loads(data)
            else:
                put_together(values, pieces, kind, data)

    def _frame(self, wait: float) -> tuple[bytes, bytes] | None:
        """The next frame; None where none has come whole within that time."""
        if (frame := self._whole()) is not None:
            return frame
        assert self._process.stdout is not None
        if select.select([self._process.stdout], [], [], wait)[0]:
            data = self._process.stdout.read(1 << 20)
            if not data:
                raise EOFError
            self._heard += data
        return self._whole()

    def _whole(self) -> tuple[bytes, bytes] | None:
        if len(self._heard) < HEAD.size:
            return None
        kind, size = HEAD.unpack_from(self._heard)
        if len(self._heard) < HEAD.size + size:
            return None
        data = bytes(self._heard[HEAD.size : HEAD.size + size])
        del self._heard[: HEAD.size + size]
        return kind, data

    def _stop(self) -> None:
        """Tell it to stop, and wait a moment: one that does is as good as before."""
        until = time.monotonic() + _PATIENCE_S
        try:
            self._say(b"S")
            while (left := until - time.monotonic()) > 0:
                frame = self._frame(left)
                if frame is not None and frame[0] in b"EX":
                    self.is_sound = True
                    return
        except (OSError, EOFError):
            return

    def end(self) -> None:
        self.is_sound = False
        self._process.kill()
        self._process.wait()
        for end in (self._process.stdin, self._process.stdout):
            if end is not None:
                end.close()
