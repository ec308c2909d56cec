"""Records in small JSON files of a format of our own, read back with what is wrong told by the
number of its row."""

from __future__ import annotations

import json
from typing import Any, TypeVar

from draxet.job.codec import read_record
from draxet.job.codec_parts import CodecError, InWords
from draxet.job.value_faults import fault_of

__all__ = ["RowError", "read_row", "rows_of"]

_Record = TypeVar("_Record")


class RowError(ValueError):
    """A file of records that cannot be read; the message is one sentence for people."""


def rows_of(text: str, name: str, kind: str, what: str) -> list[Any]:
    """The rows of a file's text whose format is `kind`, which it holds as `what`.

    Raises
    ------
    RowError : where it is no such file.
    """
    try:
        words = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RowError(f"{name} is no sound JSON; export {what} again") from error
    if (
        not isinstance(words, dict)
        or words.get("format") != kind
        or not isinstance(words.get(what), list)
    ):
        raise RowError(f"{name} holds no {what}; it must be a file that was exported as {what}")
    rows: list[Any] = words[what]
    return rows


def read_row(hint: type[_Record], row: Any, name: str, where: str) -> _Record:
    """A sound record of a row.

    Raises
    ------
    RowError : where it is none.
    """
    try:
        found: _Record = read_record(hint, row, InWords(), where, _refuse, fault_of)
    except (CodecError, TypeError) as error:
        raise RowError(f"{name}: {error}") from error
    if fault := fault_of(hint, found, where):
        raise RowError(f"{name}: {fault}")
    return found


def _refuse(what: str, why: str) -> None:
    raise CodecError(why)
