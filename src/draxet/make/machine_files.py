"""Machines as files: JSON, written and read back."""

from __future__ import annotations

import json
from collections.abc import Sequence

from draxet.job.codec import written
from draxet.job.codec_parts import InWords
from draxet.job.machine_kinds import AnyMachine, Machine
from draxet.job.machine_kinds.earlier_machines import machine_from_6
from draxet.make.rows import RowError, read_row, rows_of

__all__ = ["machines_as_json", "read_machines"]

_FORMAT = "draxet machines"
_MOST = 1000


def machines_as_json(machines: Sequence[Machine]) -> str:
    return json.dumps(
        {
            "format": _FORMAT,
            "machines": [written(AnyMachine, machine, InWords()) for machine in machines],
        },
        ensure_ascii=False,
        indent=1,
    )


def read_machines(text: str, name: str) -> list[Machine]:
    """The machines of a file's text.

    Raises
    ------
    RowError : where it holds none, or a value is out of its range.
    """
    rows = rows_of(text, name, _FORMAT, "machines")
    if len(rows) > _MOST:
        raise RowError(f"{name} holds {len(rows):,} machines, {_MOST:,} can be read; take fewer")
    return [
        read_row(AnyMachine, machine_from_6(row), name, f"machine {number}")
        for number, row in enumerate(rows, 1)
    ]
