"""Lists of threads in CSV files: in each row a name and a colour, as #rrggbb or as three numbers."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence

from draxet.job.sewing_threads import Thread
from draxet.make.rows import RowError

__all__ = ["read_threads"]

_MOST, _LONGEST = 2000, 60
_HEX = re.compile(r"#?([0-9a-fA-F]{6})")


def read_threads(text: str, name: str) -> list[Thread]:
    """The threads of a file's text; a first row without a colour names the columns, and what else
    stands in a row becomes part of the thread's name.

    Raises
    ------
    RowError : where a row has no colour, or there is none.
    """
    try:
        delimiter = csv.Sniffer().sniff(text[:4000], ",;\t").delimiter
    except csv.Error:
        delimiter = ","
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=delimiter))
    except csv.Error as error:
        raise RowError(f"{name} is no sound CSV: {error}") from error
    found = list[Thread]()
    for number, row in enumerate(rows, 1):
        cells = [cell.strip() for cell in row]
        if not any(cells):
            continue
        thread = _thread(cells)
        if thread is None and number == 1:
            continue
        if thread is None:
            raise RowError(
                f"{name}, row {number}: a colour like #cf4a3c or three numbers from 0 to 255 were wanted, got {', '.join(cells)[:60]!r}"
            )
        found.append(thread)
    if not 0 < len(found) <= _MOST:
        raise RowError(
            f"{name} holds {len(found) or 'no'} threads; each row must have a name and a colour, {_MOST} rows at the most"
        )
    return found


def _thread(cells: Sequence[str]) -> Thread | None:
    for k, cell in enumerate(cells):
        three = cells[k : k + 3]
        if len(three) == 3 and all(c.isdigit() and int(c) < 256 for c in three):
            if k == 0 and len(cells) > 3 and _is_three(cells[1:4]):
                continue  # the first number is the thread's own
            colour = "#{:02x}{:02x}{:02x}".format(*map(int, three))
            return _named([*cells[:k], *cells[k + 3 :]], colour)
        if (match := _HEX.fullmatch(cell)) and (cell.startswith("#") or len(cells) > 1):
            return _named([*cells[:k], *cells[k + 1 :]], f"#{match[1].lower()}")
    return None


def _is_three(cells: Sequence[str]) -> bool:
    return all(c.isdigit() and int(c) < 256 for c in cells)


def _named(words: Sequence[str], colour: str) -> Thread:
    return Thread(" ".join(filter(None, words))[:_LONGEST].strip() or colour, colour)
