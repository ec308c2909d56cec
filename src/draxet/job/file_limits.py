"""How large a job's file may be."""

from __future__ import annotations

import zipfile
from collections.abc import Sequence
from pathlib import Path

__all__ = [
    "LARGEST",
    "LARGEST_WORDS",
    "WANTED",
    "JobFileError",
    "look_at_sizes",
    "too_large",
    "words_fit",
]

LARGEST = 1_500_000_000
"""Bytes of all parts together."""

_LARGEST_PACKED = 100_000_000
"""Bytes that packed pictures may unpack to: Draxet packs none, as they come packed."""

_LARGEST_ARRAYS = 600_000_000
"""Bytes of all contours."""

LARGEST_WORDS = 200_000_000

_MOST_BRACKETS, _MOST_COMMAS = 2_500_000, 14_000_000

_MOST_PARTS = 20_000

WANTED = "is no Draxet job or is damaged; open a .draxet file or a copy of this one"


class JobFileError(ValueError):
    """A job file that cannot be read or written; the message is one sentence for people."""


def look_at_sizes(archive: zipfile.ZipFile, path: Path) -> None:
    """Refuse what would fill the memory."""
    infos = archive.infolist()
    if fault := too_large(
        [
            (info.filename, info.file_size, info.compress_type != zipfile.ZIP_STORED)
            for info in infos
        ]
    ):
        raise JobFileError(f"{path.name} is damaged: {fault}; open a copy of it")
    if any(
        info.flag_bits & 1 or info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
        for info in infos
    ):
        raise JobFileError(f"{path.name} {WANTED}")


def too_large(parts: Sequence[tuple[str, int, bool]]) -> str:
    """Whether parts (name, bytes, packed or not) are more than a job may hold, as words; nothing
    where they are not. How well they pack says nothing: even long contours may pack to almost
    nothing."""
    total = sum(size for _, size, _ in parts)
    pictures = sum(size for name, size, packed in parts if packed and name.startswith("pictures/"))
    arrays = sum(size for name, size, _ in parts if name.startswith("contours/"))
    fits = (
        len(parts) <= _MOST_PARTS
        and total <= LARGEST
        and pictures <= _LARGEST_PACKED
        and arrays <= _LARGEST_ARRAYS
    )
    return "" if fits else f"it would unpack to {total / 1e6:,.0f} MB in {len(parts)} parts"


def words_fit(data: bytes) -> bool:
    brackets, commas = data.count(b"[") + data.count(b"{"), data.count(b",")
    return len(data) <= LARGEST_WORDS and brackets <= _MOST_BRACKETS and commas <= _MOST_COMMAS
