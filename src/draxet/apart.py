"""A process for work that cannot be stopped within a library: it is told to stop, and where it does
not it is ended, with nothing else lost.

``python -m draxet.apart`` waits for frames on its standard input, each a letter, a length and a
pickle: a task is the name of a module and a function with its arguments, long tuples among them in
pieces (so that whoever sends them is never held up), and its answer comes back likewise. Only the
program that started it speaks to it.
"""

from __future__ import annotations

import importlib
import io
import os
import pickle
import queue
import resource
import struct
import sys
import threading
from collections.abc import Iterator
from typing import IO, Any

from draxet.progress import Cancelled, Progress

__all__ = ["HEAD", "frames_of", "main", "plainly", "put_together"]

HEAD = struct.Struct("<cQ")
_PIECE = 200
"""Entries of a long tuple that go in one frame."""
_MOST_BYTES = 6 << 30
"""Of memory, in all that the process may ask for."""
_NICE = 4


def frames_of(values: tuple[Any, ...]) -> Iterator[tuple[bytes, bytes]]:
    """Values as frames: ``A`` for each value, and before it ``P`` for each piece of a long tuple,
    of which the value is then the last piece."""
    for value in values:
        if type(value) is tuple:
            while len(value) > _PIECE:
                yield b"P", pickle.dumps(value[:_PIECE], protocol=5)
                value = value[_PIECE:]
        yield b"A", pickle.dumps(value, protocol=5)


def put_together(values: list[Any], pieces: list[Any], kind: bytes, data: bytes) -> None:
    """Take in a frame of ``frames_of``."""
    value = pickle.loads(data)
    if kind == b"P":
        pieces.extend(value)
        return
    values.append((*pieces, *value) if pieces else value)
    pieces.clear()


def plainly(report: Progress, module: str, name: str, *arguments: Any) -> Any:
    """Any function of a module, which knows of no progress; a list that it answers with is a tuple
    here, which may go in pieces."""
    answer = getattr(importlib.import_module(module), name)(*arguments)
    return tuple(answer) if isinstance(answer, list) else answer


class _Voice:
    """Writes frames, one whole after the other."""

    def __init__(self, out: IO[bytes]) -> None:
        self._out, self._lock = out, threading.Lock()

    def say(self, kind: bytes, data: bytes = b"") -> None:
        with self._lock:
            self._out.write(HEAD.pack(kind, len(data)) + data)
            self._out.flush()


def _listen(source: IO[bytes], tasks: queue.Queue[tuple[Any, ...]], stop: threading.Event) -> None:
    """Hear what comes while work goes on; where nobody speaks any more, the process ends."""
    values, pieces = list[Any](), list[Any]()
    while len(head := source.read(HEAD.size)) == HEAD.size:
        kind, size = HEAD.unpack(head)
        data = source.read(size)
        if kind == b"S":
            stop.set()
        elif kind == b"G":
            stop.clear()
            tasks.put(tuple(values))
            values, pieces = [], []
        else:
            put_together(values, pieces, kind, data)
    os._exit(0)


def main() -> None:
    """Do one task after the other."""
    voice = _Voice(io.FileIO(os.dup(1), "wb"))
    os.dup2(2, 1)  # what a library prints goes elsewhere
    os.environ["OPENBLAS_NUM_THREADS"] = "1"
    os.nice(_NICE)
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, resource.getrlimit(resource.RLIMIT_AS)[1]))
    tasks: queue.Queue[tuple[Any, ...]] = queue.Queue()
    stop = threading.Event()
    threading.Thread(target=_listen, args=(sys.stdin.buffer, tasks, stop), daemon=True).start()

    def report(share: float, words: str) -> None:
        if stop.is_set():
            raise Cancelled
        voice.say(b"R", pickle.dumps((share, words)))

    while True:
        module, name, *arguments = tasks.get()
        try:
            answer = getattr(importlib.import_module(module), name)(report, *arguments)
            for kind, data in frames_of((answer,)):
                voice.say(kind, data)
            voice.say(b"E")
        except MemoryError:
            voice.say(b"X", pickle.dumps(MemoryError()))
        except Exception as error:  # whatever it is, the one who asked is told
            voice.say(b"X", _error(error))


def _error(error: Exception) -> bytes:
    try:
        data = pickle.dumps(error)
        pickle.loads(data)
        return data
    except Exception:  # an error that cannot travel
        return pickle.dumps(RuntimeError(f"{type(error).__name__}: {error}"))


if __name__ == "__main__":
    main()
