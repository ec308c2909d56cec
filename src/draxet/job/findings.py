"""Findings: what is wrong, how grave it is, where, and where there is one the mend.

One kind of answer for open ends, limits, fitness for cutting and all else that people must look at.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import field
from enum import IntEnum

from draxet.job.records import Job
from draxet.record import record

__all__ = ["Finding", "Gravity", "count_words"]


class Gravity(IntEnum):
    """`INFORMS`: good to know. `WARNS`: look at it before the machine runs. `STOPS`: what leaves
    would be wrong."""

    INFORMS = 1
    WARNS = 2
    STOPS = 3


@record(frozen=True)
class Finding:
    """Something to look at.

    kind : a stable word. words : a sentence for people, without a full stop. stage : where it is
    mended, by its folder's name (``trueup``, ``mend``, ``make``, ``prove`` …). ids : the contours
    or pictures meant. places : where to look, in job space.
    mend : a job in which it is put right, and `mend_words` for a button.
    """

    kind: str
    words: str
    gravity: Gravity
    stage: str
    ids: tuple[str, ...] = ()
    places: tuple[tuple[float, float], ...] = ()
    mend: Callable[[Job], Job] | None = field(default=None, compare=False, repr=False)
    mend_words: str = ""


def count_words(number: int, what: str) -> str:
    """A number of things, in the singular where it is one."""
    return f"{number} {what}{'' if number == 1 else 's'}"
