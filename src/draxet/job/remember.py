"""What was worked out from some fields of a job is remembered until one of them changes."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from draxet.job.records import Job

__all__ = ["Remembered"]

Result = TypeVar("Result")


class Remembered(Generic[Result]):
    """A function of a job, asked again only where one of the fields that it depends on is another one."""

    def __init__(self, work: Callable[[Job], Result], *fields: str) -> None:
        self._work, self._fields = work, fields
        self._lock = threading.Lock()
        self._of: tuple[object, ...] | None = None
        self._result: Result | None = None

    def known(self, job: Job) -> bool:
        """Whether the answer for this job is there already."""
        return self._of is not None and all(a is b for a, b in zip(self._of, self._values(job), strict=True))

    def of(self, job: Job) -> Result:
        with self._lock:
            if not self.known(job):
                self._result = self._work(job)
                self._of = self._values(job)
            return self._result  # type: ignore[return-value]

    def _values(self, job: Job) -> tuple[object, ...]:
        return tuple(getattr(job, name) for name in self._fields)
