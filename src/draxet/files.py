"""Writing files so that nothing is lost: whole or not at all, through links, with the mode they had, and no litter left.

A file is written under a name of its own beside its place and renamed into it. While it is being written it is locked; one
that is not locked was left by a program that was killed, and is swept when the same file is next written.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import stat
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

__all__ = ["plain_words", "reason", "write_whole"]

_OLD_LEFTOVER = r"[a-z0-9_]{8}"
"""What the first version put behind ``.name.`` while it wrote."""


def plain_words(text: str, most: int = 300) -> str:
    """Text that can be written anywhere: what is no letter (half a character, control codes) replaced, at most `most` long."""
    clean = text.encode("utf-8", "replace").decode("utf-8")
    return "".join(c if c.isprintable() else "\ufffd" if ord(c) > 127 else " " for c in clean)[:most]


def reason(error: BaseException) -> str:
    """Why something failed, in a few words for people."""
    if isinstance(error, OSError):
        return error.strerror or str(error) or type(error).__name__
    if isinstance(error, MemoryError):
        return "the memory does not suffice"
    return str(error) or type(error).__name__


def write_whole(path: Path, write: bytes | Callable[[BinaryIO], None], before_it_counts: Callable[[Path], None] | None = None) -> None:
    """Write a file so that it is there whole or not at all.

    Parameters
    ----------
    path : where; a link is followed, what it points at is written.
    write : the bytes, or what writes them to an open file.
    before_it_counts : looks at the written file before it takes its place; where it raises, the one before stays.

    Raises
    ------
    OSError : where the disk refuses, or the file there is write-protected; what was there before is untouched.
    """
    place = Path(os.path.realpath(path))
    old = os.stat(place) if place.exists() else None
    if old is not None and not stat.S_ISREG(old.st_mode):
        raise OSError(22, "what is there is no file")
    if old is not None and not old.st_mode & 0o222:
        raise PermissionError(13, "the file is write-protected")
    _sweep(place)
    beside = place.parent / f".draxet-{_mark(place)}-{os.urandom(4).hex()}.part"
    handle = os.open(beside, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
    try:
        with os.fdopen(handle, "w+b") as file:
            with contextlib.suppress(OSError):  # some network file systems have no locks
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            file.write(write) if isinstance(write, bytes) else write(file)
            file.flush()
            if old is not None:
                _like(file.fileno(), old)
            os.fsync(file.fileno())
            if before_it_counts is not None:
                before_it_counts(beside)
            os.replace(beside, place)
    except BaseException:
        with contextlib.suppress(OSError):
            os.unlink(beside)
        raise
    _settle(place.parent)


def _like(handle: int, old: os.stat_result) -> None:
    """The mode and, where that is allowed, the owner that the file had."""
    with contextlib.suppress(OSError):
        os.fchown(handle, old.st_uid, old.st_gid)
    os.fchmod(handle, old.st_mode & 0o7777)


def _settle(folder: Path) -> None:
    """Have the rename itself on the disk."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _mark(place: Path) -> str:
    import hashlib  # slow to load

    return hashlib.sha256(os.fsencode(place.name)).hexdigest()[:12]


def _sweep(place: Path) -> None:
    """Remove what killed programs left of earlier attempts at the same file."""
    ours = re.compile(rf"\.draxet-{_mark(place)}-[0-9a-f]{{8}}\.part|\.{re.escape(place.name)}\.{_OLD_LEFTOVER}")
    with contextlib.suppress(OSError):
        for entry in os.scandir(place.parent):
            if ours.fullmatch(entry.name) and entry.is_file(follow_symlinks=False):
                _remove_unlocked(entry.path)


def _remove_unlocked(path: str) -> None:
    with contextlib.suppress(OSError):
        handle = os.open(path, os.O_RDWR | os.O_NOFOLLOW | os.O_CLOEXEC)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            os.unlink(path)
        finally:
            os.close(handle)
