"""Writing files so that nothing is lost: whole or not at all, through links, with the mode they
had, and no litter left.

A file is written under a name of its own beside its place and renamed into it. While it is being
written it is locked; one that is not locked was left by a program that was killed, and is swept
when the same file is next written.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import shutil
import stat
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import BinaryIO

__all__ = ["plain_words", "reason", "same_file", "write_together", "write_whole"]

_OLD_LEFTOVER = r"[a-z0-9_]{8}"
"""What the first version put behind ``.name.`` while it wrote."""


def plain_words(text: str, most: int = 300) -> str:
    """Text that can be written anywhere: what is no letter (half a character, control codes)
    replaced, at most `most` long."""
    clean = text.encode("utf-8", "replace").decode("utf-8")
    return "".join(c if c.isprintable() else "\ufffd" if ord(c) > 127 else " " for c in clean)[
        :most
    ]


def reason(error: BaseException) -> str:
    """Why something failed, in a few words for people."""
    if isinstance(error, OSError):
        return error.strerror or str(error) or type(error).__name__
    if isinstance(error, MemoryError):
        return "the memory does not suffice"
    return str(error) or type(error).__name__


def same_file(a: Path, b: Path) -> bool:
    """Whether two paths lead to one file that is there."""
    try:
        return a.exists() and b.exists() and a.samefile(b)
    except (OSError, ValueError):
        return False


def write_whole(
    path: Path,
    write: bytes | Callable[[BinaryIO], None],
    before_it_counts: Callable[[Path], None] | None = None,
) -> None:
    """Write a file so that it is there whole or not at all.

    Parameters
    ----------
    path : where; a link is followed, what it points at is written.
    write : the bytes, or what writes them to an open file.
    before_it_counts : looks at the written file before it takes its place; where it raises, the one
    before stays.

    Raises
    ------
    OSError : where the disk refuses, or the file there is write-protected; what was there before is
    untouched.
    """
    with contextlib.ExitStack() as held:
        _put_together([(path, _staged(path, write, held, before_it_counts))])


def write_together(
    files: Sequence[tuple[Path, bytes, Callable[[Path], None] | None]],
) -> None:
    """Write several files (see ``write_whole``) so that all of them are there or none is.

    Raises
    ------
    OSError : as `write_whole`; its ``filename`` is that of the one that was refused. What was there
    before is untouched.
    """
    staged = list[tuple[Path, Path]]()
    with contextlib.ExitStack() as held:
        try:
            for path, data, look in files:
                staged.append((path, _staged(path, data, held, look)))
        except BaseException as error:
            for _, beside in staged:
                _forget(beside)
            if isinstance(error, OSError):
                error.filename = str(path)
            raise
        _put_together(staged)


def _staged(
    path: Path,
    write: bytes | Callable[[BinaryIO], None],
    held: contextlib.ExitStack,
    before_it_counts: Callable[[Path], None] | None = None,
) -> Path:
    """A file beside the place where it is to be, whole and on the disk, and locked for as long as
    it is `held`."""
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
        file = held.enter_context(os.fdopen(handle, "w+b"))
        with contextlib.suppress(OSError):  # some network file systems have no locks
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        file.write(write) if isinstance(write, bytes) else write(file)
        file.flush()
        if old is not None:
            _like(file.fileno(), old)
        os.fsync(file.fileno())
        if before_it_counts is not None:
            before_it_counts(beside)
    except BaseException:
        _forget(beside)
        raise
    return beside


def _put_together(staged: Sequence[tuple[Path, Path]]) -> None:
    """Files that lie beside their places put there; where the disk refuses one, those that were
    there before come back."""
    places = [(Path(os.path.realpath(path)), beside) for path, beside in staged]
    kept = {place: _kept_aside(place) for place, _ in places} if len(places) > 1 else {}
    done = list[Path]()
    try:
        for place, beside in places:
            os.replace(beside, place)
            done.append(place)
    except BaseException:
        for place in done:
            before = kept.get(place)
            os.replace(before, place) if before else _forget(place)
        for _, beside in places[len(done) :]:
            _forget(beside)
        raise
    finally:
        for before in kept.values():
            if before is not None:
                _forget(before)
    for folder in {place.parent for place, _ in places}:
        _settle(folder)


def _kept_aside(place: Path) -> Path | None:
    """Another name of a file that is about to be replaced; None where there is none."""
    if not place.exists():
        return None
    beside = place.parent / f".draxet-{_mark(place)}-{os.urandom(4).hex()}.part"
    try:
        os.link(place, beside)
    except OSError:  # some file systems know no second name
        shutil.copy2(place, beside)
    return beside


def _forget(path: Path) -> None:
    with contextlib.suppress(OSError):
        os.unlink(path)


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
    ours = re.compile(
        rf"\.draxet-{_mark(place)}-[0-9a-f]{{8}}\.part|\.{re.escape(place.name)}\.{_OLD_LEFTOVER}"
    )
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
