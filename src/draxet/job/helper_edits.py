"""Edits of helper contours, which are drawn by and never sent anywhere."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from draxet.job.contour_edits import filled_parts, remove_contours
from draxet.job.copies import made_own
from draxet.job.records import Job

__all__ = ["free_helpers", "make_helpers"]


def make_helpers(job: Job, ids: Iterable[str]) -> Job:
    """Contours become helper contours: they lose their operation, and are drawn by from now on."""
    some = list(ids)
    job, names = made_own(job, (name for name in some if "/" in name))
    own = frozenset(names.get(name, name) for name in some)
    moved = tuple(replace(item, part="") for item in job.contours if item.id in own)
    numbers = {item.id: f"contour-{job.next_id + k}" for k, item in enumerate(moved)}
    left = remove_contours(job, own)
    taken = left.contour_by_id.keys() & own  # where a placement took a part's place
    moved = tuple(
        replace(item, id=numbers[item.id]) if item.id in taken else item for item in moved
    )
    return replace(
        left, helpers=(*left.helpers, *moved), next_id=left.next_id + (len(moved) if taken else 0)
    )


def free_helpers(job: Job, ids: Iterable[str] | None = None) -> Job:
    """Helper contours, or all of them, are contours like others again."""
    some = frozenset(item.id for item in job.helpers) if ids is None else frozenset(ids)
    freed = tuple(item for item in job.helpers if item.id in some)
    if not freed:
        return job
    helpers = tuple(item for item in job.helpers if item.id not in some)
    found = replace(job, contours=(*job.contours, *freed), helpers=helpers)
    return replace(found, parts=filled_parts(found))
