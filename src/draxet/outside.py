"""Numbers from outside: what files and people say is held against what anybody can mean before
anything is worked out of it."""

from __future__ import annotations

from typing import Any

import numpy as np

__all__ = ["FARTHEST", "GREATEST", "OutsideError", "are_sane", "sane"]

FARTHEST = 1e8
"""mm: 100 km, farther than any workshop reaches."""
GREATEST = 1e9
"""Of any number."""


class OutsideError(ValueError):
    """A number that nobody can mean; the message is one sentence that says which."""


def sane(value: float | str, what: str, most: float = GREATEST) -> float:
    """A number, or a word that is one.

    Raises
    ------
    OutsideError : where it is none, is not finite or is greater than `most`; `what` names its line,
    its entity or its field.
    """
    try:
        number = float(value)
    except (ValueError, OverflowError):
        number = float("nan")
    if not abs(number) <= most:
        shown = str(value)
        raise OutsideError(
            f"{what} must be a number of at most {most:g}, got {shown if len(shown) <= 30 else f'{shown[:29]}…'}"
        )
    return number


def are_sane(values: Any, most: float = GREATEST) -> Any:
    """Which of many numbers are finite and not greater than `most`; an array of truth values of the
    same shape."""
    with np.errstate(invalid="ignore"):
        return np.abs(np.asarray(values, dtype=np.float64)) <= most
