"""What was worked out from some fields of a job is remembered until one of them changes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from draxet.job.records import Job

__all__ = ["Remembered"]

Result = TypeVar("Result")


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
        return (
            last
            if last is not None
            and all(a is b for a, b in zip(last[0], self._values(job), strict=True))
            else None
        )

    def _values(self, job: Job) -> tuple[object, ...]:
        return tuple(getattr(job, name) for name in self._fields)
