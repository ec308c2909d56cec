"""Edits of bridges: functions from a job to a job."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from draxet.job.contour_records import Bridge
from draxet.job.entries import put
from draxet.job.layout import as_worked
from draxet.job.layout_names import drawn_ids
from draxet.job.records import Job

__all__ = ["add_bridges", "change_bridge", "remove_bridges"]


def add_bridges(job: Job, bridges: Sequence[Bridge]) -> Job:
    """More bridges, each with an id of its own."""
    new = tuple(
        replace(as_worked(job, bridge), id=f"bridge-{job.next_id + k}")
        for k, bridge in enumerate(bridges)
    )
    return replace(job, bridges=(*job.bridges, *new), next_id=job.next_id + len(new))


def change_bridge(job: Job, bridge: Bridge) -> Job:
    """Another bridge in the place of that of the same id."""
    own = as_worked(job, bridge)
    return put(job, "bridges", own)


def remove_bridges(job: Job, ids: Iterable[str]) -> Job:
    gone = drawn_ids(ids)
    return replace(job, bridges=tuple(bridge for bridge in job.bridges if bridge.id not in gone))
