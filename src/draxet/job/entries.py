"""Entries of a job's lists that are to be otherwise."""

from __future__ import annotations

from collections.abc import Callable, Container
from dataclasses import replace
from typing import Any

from draxet.job.records import Job

__all__ = ["changed", "put", "set_on"]


def changed(job: Job, field: str, ids: Container[str], change: Callable[[Any], Any]) -> Job:
    """A job in which some entries of a field are what a function makes of them."""
    entries: Any = tuple(change(each) if each.id in ids else each for each in getattr(job, field))
    return replace(job, **{field: entries})


def set_on(job: Job, field: str, ids: Container[str], **values: Any) -> Job:
    """A job in which some entries of a field have other values."""
    return changed(job, field, ids, lambda each: replace(each, **values))


def put(job: Job, field: str, entry: Any) -> Job:
    """A job with another entry in the place of that of the same id."""
    return changed(job, field, (entry.id,), lambda _: entry)
