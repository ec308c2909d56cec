"""Checks before the job leaves: each says what is wrong and which contours to look at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from draxet.job.records import Job

__all__ = ["Check", "checks_of", "open_ends"]


@dataclass(frozen=True)
class Check:
    """Something to look at: words for people and the contours meant."""

    words: str
    contours: tuple[str, ...] = ()


def open_ends(job: Job) -> list[tuple[str, float, float]]:
    """Every end of every open contour: its contour's id and its place."""
    ends = []
    for item in job.contours:
        if not item.contour.closed:
            for x, y in (item.contour.nodes[0], item.contour.nodes[-1]):
                ends.append((item.id, float(x), float(y)))
    return ends


def checks_of(job: Job) -> list[Check]:
    """What stands between the job and the machine, gravest first; empty where nothing does."""
    found = []
    unsized = [picture.name for picture in job.pictures if not picture.known_lengths]
    if unsized and job.contours:
        found.append(Check(f"The size of {unsized[0]} is not known: nothing says that the contours are to scale"))
    opened = tuple(item.id for item in job.contours if not item.contour.closed and item.id in job.operation_of)
    if opened:
        found.append(Check(f"{_count(len(opened), 'open contour')} would be cut as {'a slit' if len(opened) == 1 else 'slits'}", opened))
    left = tuple(item.id for item in job.contours if item.id not in job.operation_of)
    if left:
        found.append(Check(f"{_count(len(left), 'contour')} without an operation will not leave", left))
    outside = _outside(job)
    if outside:
        found.append(Check(f"{_count(len(outside), 'contour')} outside the sheet", outside))
    return found


def _outside(job: Job) -> tuple[str, ...]:
    if not job.contours:
        return ()
    boxes = np.array([item.contour.box for item in job.contours])
    out = (boxes[:, :2] < -1e-6).any(axis=1) | (boxes[:, 2] > job.sheet.width + 1e-6) | (boxes[:, 3] > job.sheet.height + 1e-6)
    return tuple(job.contours[k].id for k in np.flatnonzero(out).tolist())


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"
