"""What is set for what leaves, beside what each kind of file asks itself, and what is said of it."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.findings import count_words
from draxet.leaving.leaving_kind import LeftTogether
from draxet.record import record

__all__ = ["LeavingSettings", "told_of"]


@record
class LeavingSettings:
    """kinds : of files that leave, by their keys. purpose : what the job was for when they were
    offered last."""

    purpose: str = ""
    kinds: tuple[str, ...] = ("dxf",)
    only: Annotated[bool, Asked("Only the chosen contours")] = False


def told_of(left: LeftTogether, *, signed: bool) -> str:
    """What became of what was to leave."""
    if not left.matches:
        return f"What was written as {left.files[-1].file} does not match the job; nothing was kept, and what was there before is untouched."
    files = left.files[0].file if len(left.files) == 1 else count_words(len(left.files), "file")
    match = "it matches the job" if len(left.files) == 1 else "all match the job"
    return f"{files} handed off and read back: {match if signed else 'the sheet is not signed off by it'}"
