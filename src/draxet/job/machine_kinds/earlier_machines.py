"""Machines as earlier versions of job files knew them, and told them in words."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from draxet.job.machine_kinds.machine_kind import LACKING, Machine

__all__ = ["machine_from_6", "machine_told", "renamed_machine", "told_before"]

_BEFORE_6 = {"cutters": "tools", "cutter_change": "tool_change"}
"""What fields of machines were called before version 6."""
_KINDS_OF_6 = {
    "laser": "Laser",
    "router": "Router",
    "plasma": "Plasma",
    "pen": "Pen",
    "saw": "HandSaw",
}
_ALL_HAD = (
    "id",
    "name",
    "kind",
    "reach_x",
    "reach_y",
    "most_feed",
    "travel",
    "acceleration",
    "cut_width",
)
"""What machines of every kind had first, then what is in ``LACKING``, in that order."""
_SINCE = (", stop='M0'", ", stop=''", ", a_pass=0.0")
"""How fields that came later stand in words, where they ask for nothing."""


def renamed_machine(words: Any) -> Any:
    """A machine's plain values, its fields called as they are now."""
    if not isinstance(words, dict):
        return words
    now = {before: name for name, before in _BEFORE_6.items()}
    return {now.get(name, name): value for name, value in words.items()}


def machine_from_6(words: Any) -> Any:
    """A machine of version 6 or before, as one of a kind: what its kind lacks is not looked at."""
    kind = words.get("kind") if isinstance(words, dict) else None
    if not isinstance(kind, str):
        return words
    return {**renamed_machine(words), "kind": _KINDS_OF_6.get(kind, kind)}


def machine_told(machine: Machine) -> str:
    """What of a machine tells whether work has changed, in the words of version 5: what was handed
    off then stays so. Fields that came later are told where they ask for something."""
    values = {name: getattr(machine, name, 0.0) for name in (*_ALL_HAD, *LACKING)}
    values |= {"name": "", "outline": None, "keep_clear": ()}
    for field in fields(machine):
        if field.name not in values and getattr(machine, field.name) != field.default:
            values[field.name] = getattr(machine, field.name)
    told = ", ".join(f"{name}={value!r}" for name, value in values.items())
    return told_before(f"Machine({told})")


def told_before(told: str) -> str:
    """Records in words, as they were before they had other fields."""
    for since in _SINCE:
        told = told.replace(since, "")
    for name, before in _BEFORE_6.items():
        told = told.replace(f"{name}=", f"{before}=")
    return told
