"""What stands between a job and the machine: a list of looks at the job, each of which answers with
findings.

Another look is one more function and one line in ``LOOKS``, or in ``LONG_LOOKS``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from draxet.job.findings import Finding
from draxet.job.layout import LAID_FIELDS
from draxet.job.records import Job
from draxet.job.remember import Remembered
from draxet.progress import Progress, Unwatched
from draxet.prove.crossed import Crossed, crossing_each_other
from draxet.prove.fit_looks import passes_too_deep, pierced_edges, unchosen_machine, unfit_material
from draxet.prove.holding_looks import WhatHolds
from draxet.prove.making_looks import (
    contours_without_operation,
    cut_and_filled,
    idle_bridges,
    other_recipe,
    unfit_operations,
    unheard_stops,
    unreached_corners,
)
from draxet.prove.place_looks import beyond_the_limit, near_the_rim, out_of_reach, outside_the_sheet
from draxet.prove.shape_looks import (
    contours_drawn_twice,
    open_contours,
    pictures_without_size,
    too_small_details,
    vanishing_contours,
    words_out_of_place,
)

__all__ = ["LONG_FIELDS", "LONG_LOOKS", "LOOKS", "Look", "Watch", "findings_of", "gravest_first"]

Look = Callable[[Job], list[Finding]]

LOOKS: tuple[tuple[Look | type, tuple[str, ...]], ...] = (
    (pictures_without_size, ("pictures", "contours")),
    (open_contours, ("contours", "operations")),
    (Crossed, ("contours", "operations")),
    (contours_drawn_twice, ("contours",)),
    (words_out_of_place, ("contours", "letterings")),
    (contours_without_operation, ("contours", "operations")),
    (outside_the_sheet, ("contours", "sheets", "operations")),
    (near_the_rim, ("contours", "sheets", "smallest_feature")),
    (beyond_the_limit, ("contours", "limit", "sheets", "sheet_id")),
    (too_small_details, ("contours", "smallest_feature")),
    (vanishing_contours, ("contours", "operations", "bridges", "fits")),
    (out_of_reach, ("contours", "operations", "sheets", "machines")),
    (other_recipe, ("contours", "operations", "sheets", "sheet_id", "recipes", "machines")),
    (unchosen_machine, ("contours", "operations", "sheets", "machines", "points")),
    (unfit_material, ("contours", "operations", "sheets", "machines", "points")),
    (pierced_edges, ("contours", "operations", "sheets", "machines")),
    (passes_too_deep, ("contours", "operations", "sheets", "machines", "points")),
    (unfit_operations, ("contours", "operations", "sheets", "machines")),
    (unheard_stops, ("contours", "operations", "sheets", "machines", "points")),
    (cut_and_filled, ("contours", "operations")),
    (idle_bridges, ("contours", "operations", "bridges", "fits")),
)
"""Each look, and the fields of the job that it depends on; of a class each watch makes one of its
own, which remembers."""

LONG_LOOKS: tuple[tuple[Look | type, tuple[str, ...]], ...] = (
    (WhatHolds, ("contours", "operations", "bridges", "fits", "drop_outs", "smallest_feature")),
    (unreached_corners, ("contours", "operations")),
    (crossing_each_other, ("contours", "operations")),
)
"""Likewise those that may take long even in a small job."""

LONG_FIELDS = tuple(
    dict.fromkeys((*(name for _, fields in LONG_LOOKS for name in fields), *LAID_FIELDS))
)
"""The fields of a job that long looks go by."""


class Watch:
    """Findings of a job, looked for anew only where what they depend on has changed."""

    def __init__(self, looks: Sequence[tuple[Look | type, tuple[str, ...]]] = LOOKS) -> None:
        self._looks = [
            Remembered(
                _at_layout(look() if isinstance(look, type) else look), *fields, *LAID_FIELDS
            )
            for look, fields in looks
        ]

    def known(self, job: Job) -> bool:
        """Whether nothing need be looked for."""
        return all(look.known(job) for look in self._looks)

    def of(self, job: Job, report: Progress = Unwatched()) -> tuple[Finding, ...]:
        """All findings, the gravest first. Cancelled where `report` says so."""
        found = list[Finding]()
        for number, look in enumerate(self._looks):
            report(number / len(self._looks), "looking for what is wrong")
            found += look.of(job)
        return gravest_first(found)


def _at_layout(look: Look) -> Look:
    return lambda job: look(job.layout)


def gravest_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings in the order in which they are listed."""
    return tuple(sorted(findings, key=lambda finding: -finding.gravity))


def findings_of(job: Job) -> tuple[Finding, ...]:
    """What stands between the job and the machine, gravest first; empty where nothing does."""
    return Watch((*LOOKS, *LONG_LOOKS)).of(job)
