"""What was worked out from some fields of a job is remembered until one of them changes."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum
from typing import Generic, TypeVar

from draxet.job.records import Job

__all__ = ["Remembered", "same"]

Result = TypeVar("Result")
_PLAIN = (int, float, str, bytes, bool, Enum, type(None), frozenset)


def same(one: object, other: object) -> bool:
    """Whether what is worked out from one is so for the other: they are the same object, equal
    plain values (numbers, words), or as many of such in a row."""
    if one is other:
        return True
    if type(one) is not type(other):
        return False
    if isinstance(one, (tuple, list)) and isinstance(other, (tuple, list)):
        return len(one) == len(other) and all(
            same(a, b) for a, b in zip(one, other, strict=True) if a is not b
        )
    return isinstance(one, _PLAIN) and one == other


class Remembered(Generic[Result]):
    """A function of a job, asked again only where one of the fields that it depends on is another
    one. What is known is answered at once, also while another thread works out something else;
    nobody waits for another one's work."""

    def __init__(self, work: Callable[[Job], Result], *fields: str) -> None:
        self._work, self._fields = work, fields
        self._last: tuple[tuple[object, ...], Result] | None = None

    def known(self, job: Job) -> bool:
        """Whether the answer for this job is there already."""
        return self._found(job) is not None

    def of(self, job: Job) -> Result:
        if (found := self._found(job)) is None:
            found = self._last = (self._values(job), self._work(job))
        return found[1]

    def _found(self, job: Job) -> tuple[tuple[object, ...], Result] | None:
        last = self._last
        return last if last is not None and same(last[0], self._values(job)) else None

    def _values(self, job: Job) -> tuple[object, ...]:
        return tuple(getattr(job, name) for name in self._fields)
