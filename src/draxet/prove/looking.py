"""What stands between a job and the machine: a list of looks at the job, each of which answers with
findings.

Another look is one more function and one line in ``LOOKS``, or in ``LONG_LOOKS``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from draxet.job.findings import Finding
from draxet.job.layout import LAID_FIELDS
from draxet.job.records import PURPOSES, Job
from draxet.job.remember import Remembered
from draxet.progress import Progress, Unwatched
from draxet.prove.crossed import Crossed, crossing_each_other
from draxet.prove.fit_looks import passes_too_deep, pierced_edges, unchosen_machine, unfit_material
from draxet.prove.holding_looks import WhatHolds
from draxet.prove.making_looks import (
    contours_without_operation,
    cut_and_filled,
    filled_frames,
    idle_bridges,
    other_recipe,
    unfit_operations,
    unheard_stops,
    unreached_corners,
)
from draxet.prove.place_looks import (
    beyond_the_limit,
    near_the_rim,
    out_of_reach,
    outside_the_sheet,
    pictures_beyond_reach,
)
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

_WORK, _SCALED = ("", "work"), ("", "work", "drawing")
"""What a job is for where it is worked; and where its size matters."""

LOOKS: tuple[tuple[Look | type, tuple[str, ...], tuple[str, ...]], ...] = (
    (pictures_without_size, ("pictures", "contours"), _SCALED),
    (pictures_beyond_reach, ("pictures", "sheets", "sheet_id", "machines"), _WORK),
    (open_contours, ("contours", "operations"), _WORK),
    (Crossed, ("contours", "operations"), _WORK),
    (contours_drawn_twice, ("contours",), _SCALED),
    (words_out_of_place, ("contours", "letterings"), PURPOSES),
    (contours_without_operation, ("contours", "operations"), _WORK),
    (outside_the_sheet, ("contours", "sheets", "operations"), PURPOSES),
    (near_the_rim, ("contours", "sheets", "smallest_feature"), _WORK),
    (beyond_the_limit, ("contours", "limit", "sheets", "sheet_id"), PURPOSES),
    (too_small_details, ("contours", "smallest_feature"), _WORK),
    (vanishing_contours, ("contours", "operations", "bridges", "fits"), _WORK),
    (out_of_reach, ("contours", "operations", "sheets", "machines"), _WORK),
    (other_recipe, ("contours", "operations", "sheets", "sheet_id", "recipes", "machines"), _WORK),
    (unchosen_machine, ("contours", "operations", "sheets", "machines", "points"), _WORK),
    (unfit_material, ("contours", "operations", "sheets", "machines", "points"), _WORK),
    (pierced_edges, ("contours", "operations", "sheets", "machines"), _WORK),
    (passes_too_deep, ("contours", "operations", "sheets", "machines", "points"), _WORK),
    (unfit_operations, ("contours", "operations", "sheets", "machines"), _WORK),
    (unheard_stops, ("contours", "operations", "sheets", "machines", "points"), _WORK),
    (cut_and_filled, ("contours", "operations"), _WORK),
    (filled_frames, ("contours", "operations", "sheets"), _WORK),
    (idle_bridges, ("contours", "operations", "bridges", "fits"), _WORK),
)
"""Each look, the fields of the job that it depends on, and for what a job is that it is of use to;
of a class each watch makes one of its own, which remembers."""

LONG_LOOKS: tuple[tuple[Look | type, tuple[str, ...], tuple[str, ...]], ...] = (
    (
        WhatHolds,
        ("contours", "operations", "bridges", "fits", "drop_outs", "smallest_feature"),
        _WORK,
    ),
    (unreached_corners, ("contours", "operations"), _WORK),
    (crossing_each_other, ("contours", "operations"), _WORK),
)
"""Likewise those that may take long even in a small job."""

LONG_FIELDS = tuple(
    dict.fromkeys(
        (*(name for _, fields, _ in LONG_LOOKS for name in fields), "purpose", *LAID_FIELDS)
    )
)
"""The fields of a job that long looks go by."""


class Watch:
    """Findings of a job, looked for anew only where what they depend on has changed."""

    def __init__(
        self, looks: Sequence[tuple[Look | type, tuple[str, ...], tuple[str, ...]]] = LOOKS
    ) -> None:
        self._looks = [
            Remembered(
                _at_layout(look() if isinstance(look, type) else look, purposes),
                *fields,
                "purpose",
                *LAID_FIELDS,
            )
            for look, fields, purposes in looks
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


def _at_layout(look: Look, purposes: tuple[str, ...]) -> Look:
    return lambda job: look(job.layout) if job.purpose in purposes else []


def gravest_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings in the order in which they are listed."""
    return tuple(sorted(findings, key=lambda finding: -finding.gravity))


def findings_of(job: Job) -> tuple[Finding, ...]:
    """What stands between the job and the machine, gravest first; empty where nothing does."""
    return Watch((*LOOKS, *LONG_LOOKS)).of(job)
