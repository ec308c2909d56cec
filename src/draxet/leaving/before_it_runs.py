"""The list for whoever runs the machine."""

from __future__ import annotations

from pathlib import Path

from draxet.leaving.leaving_kind import Leaving, LeavingKind, ReadBack
from draxet.make.operator import operators_list
from draxet.progress import Progress

__all__ = ["LIST"]


def _text(leaving: Leaving, path: Path) -> str:
    job, sheet, machine = leaving.job, leaving.run.sheet, leaving.machine
    lines = [
        f"{job.name}, {sheet.name}: before it runs on the {machine.name.lower()}",
        "",
        *(f"[ ] {words}" for words in operators_list(job, sheet)),
    ]
    return "\n".join(lines) + "\n"


def _read_back(text: str, path: Path, report: Progress) -> ReadBack:
    found = path.read_text("utf-8")
    return ReadBack(found == text, f"{found.count('[ ]')} things to tick")


LIST = LeavingKind(
    "list",
    "Operator's list",
    " - before it runs.txt",
    _text,
    lambda text, report: text.encode(),
    _read_back,
)
