"""Work that was not saved: copies kept while it goes on, found again after a crash, and a last
resort that shares no code with saving.

A *kept copy* is a job file of its own for each open job. While its program lives, a lock beside it
says so; one without a living program was left behind. A *rescue* is written when something
unforeseen has happened. It holds plain names and values by the records' fields, so that neither a
fault in the job file's code nor another Python takes the work along; reading one allows nothing
else.
"""

from __future__ import annotations

import contextlib
import dataclasses
import fcntl
import io
import os
import pickle
import time
from collections.abc import Mapping
from enum import Enum
from pathlib import Path
from typing import Any

import numpy as np

from draxet.job.codec_parts import Parts
from draxet.job.file import JobFileError, OpenedJob, job_of, open_job, save_job
from draxet.job.old_versions import VERSION, words_of_now
from draxet.job.records import Job
from draxet.record import record

__all__ = ["Keeper", "LeftBehind", "left_behind", "read_left", "rescue"]

_COPY, _RESCUE, _LOCK = ".draxet", ".rescue", ".lock"


class Keeper:
    """Holds the place of one open job's kept copy."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._lock: int | None = None
        self.place: Path | None = None

    def keep(self, job: Job, desk: Mapping[str, Any]) -> None:
        """Write the copy. JobFileError or OSError where that fails."""
        save_job(job, self.claim(), desk)

    def claim(self, place: Path | None = None) -> Path:
        """A place of its own from now on, or one that was left behind."""
        if self.place is None or place is not None:
            self._folder.mkdir(parents=True, exist_ok=True)
            self.place = (
                place.with_suffix(_COPY)
                if place
                else self._folder / f"{os.urandom(8).hex()}{_COPY}"
            )
            self._lock = _locked(self.place.with_suffix(_LOCK))
        return self.place

    def drop(self) -> None:
        """The copy is not needed any more: the job was saved or given up."""
        if self.place is not None:
            for ending in (_COPY, _RESCUE, _LOCK):
                with contextlib.suppress(OSError):
                    self.place.with_suffix(ending).unlink()
        if self._lock is not None:
            os.close(self._lock)
        self.place = self._lock = None


def _locked(path: Path) -> int | None:
    """An open, locked file; None where another program holds it."""
    handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle


@record(frozen=True)
class LeftBehind:
    """A copy whose program ended without saving or giving up its job; `written` in seconds since
    1970."""

    place: Path
    written: float

    def drop(self) -> None:
        for ending in (_COPY, _RESCUE, _LOCK):
            with contextlib.suppress(OSError):
                self.place.with_suffix(ending).unlink()


def left_behind(folder: Path) -> list[LeftBehind]:
    """What was left behind, the newest first; of a copy and a rescue of one job the one that was
    written last."""
    newest: dict[str, LeftBehind] = {}
    with contextlib.suppress(OSError):
        for entry in sorted(folder.iterdir()):
            if entry.suffix in (_COPY, _RESCUE) and _is_orphan(entry.with_suffix(_LOCK)):
                found = LeftBehind(entry, entry.stat().st_mtime)
                if entry.stem not in newest or newest[entry.stem].written < found.written:
                    newest[entry.stem] = found
    return sorted(newest.values(), key=lambda left: -left.written)


def _is_orphan(lock: Path) -> bool:
    if not lock.exists():
        return True
    handle = _locked(lock)
    if handle is None:
        return False
    os.close(handle)
    return True


def rescue(job: Job, folder: Path, name: str = "") -> Path:
    """Write a job as a last resort. OSError where not even that can be done."""
    folder.mkdir(parents=True, exist_ok=True)
    place = folder / f"{name or f'{time.time_ns():x}'}{_RESCUE}"
    place.write_bytes(pickle.dumps({"version": VERSION, **_plain(job)}, protocol=5))
    return place


def _plain(value: Any) -> Any:
    """Names and values alone, none of which a Python writes otherwise than another."""
    if dataclasses.is_dataclass(value):
        return {
            "kind": type(value).__name__,
            **{each.name: _plain(getattr(value, each.name)) for each in dataclasses.fields(value)},
        }
    if isinstance(value, np.ndarray):
        return value.tolist()
    if isinstance(value, np.generic):
        return value.item()
    if isinstance(value, Enum):
        return value.value
    return (
        [_plain(each) for each in value]
        if isinstance(value, (tuple, list, set, frozenset))
        else value
    )


def read_left(place: Path) -> OpenedJob:
    """A kept copy or a rescue.

    Raises
    ------
    JobFileError : where it cannot be read.
    """
    if place.suffix == _COPY:
        return open_job(place)
    try:
        words = _Plain(io.BytesIO(place.read_bytes())).load()
        return job_of(words_of_now(words, words.pop("version", 4)), _Files())
    except Exception as error:  # unpickling raises whatever it meets
        raise JobFileError(f"what was kept of the job in {place.name} cannot be read") from error


class _Files(Parts):
    """Files stand where they belong."""

    def file(self, name: Any, where: str) -> bytes:
        return name if isinstance(name, bytes) else super().file(name, where)


class _Plain(pickle.Unpickler):
    """Reads plain values and refuses everything else."""

    def find_class(self, module: str, name: str) -> Any:
        raise pickle.UnpicklingError(f"{module}.{name} has no place in a job")
