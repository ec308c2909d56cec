"""Checks before the job leaves: each says what is wrong and which contours to look at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from draxet.job.records import Job

__all__ = ["Check", "beyond_limit", "checks_of", "open_ends"]


_LIMIT_FINE = 0.02


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
        found.append(Check(f"{_count(len(outside), 'contour')} outside the {'sheet' if len(job.sheets) == 1 else 'sheets'}", outside))
    beyond = beyond_limit(job)
    if beyond and job.limit:
        found.append(Check(f"{_count(len(beyond), 'contour')} outside the limit: {job.limit.name}", beyond))
    small = _too_small(job)
    if small:
        found.append(Check(f"{_count(len(small), 'contour')} smaller than the smallest feature, {job.smallest_feature:g} mm", small))
    return found


def _outside(job: Job) -> tuple[str, ...]:
    if not job.contours:
        return ()
    boxes = np.array([item.contour.box for item in job.contours])
    inside = np.zeros(len(boxes), dtype=bool)
    for x0, y0, x1, y1 in (sheet.box for sheet in job.sheets):
        inside |= (boxes[:, :2] >= np.array([x0, y0]) - 1e-6).all(axis=1) & (boxes[:, 2:] <= np.array([x1, y1]) + 1e-6).all(axis=1)
    return tuple(job.contours[k].id for k in np.flatnonzero(~inside).tolist())


def beyond_limit(job: Job) -> tuple[str, ...]:
    """Contours of the sheet in hand that do not lie wholly within the machine's limit."""
    if job.limit is None:
        return ()
    sheet = job.sheet
    room = shapely.Polygon(job.limit.outline.flattened(_LIMIT_FINE) + (sheet.x, sheet.y)).buffer(1e-6)
    x0, y0, x1, y1 = sheet.box
    found = []
    for item in job.contours:
        a, b, c, d = item.contour.box
        here = len(job.sheets) == 1 or (x0 <= (a + c) / 2 <= x1 and y0 <= (b + d) / 2 <= y1)
        if here and not room.contains(shapely.MultiPoint(item.contour.flattened(_LIMIT_FINE))):
            found.append(item.id)
    return tuple(found)


def _too_small(job: Job) -> tuple[str, ...]:
    """Closed contours whose width or height is under the smallest feature."""
    least = job.smallest_feature
    boxes = [(item.id, *item.contour.box) for item in job.contours if item.contour.closed]
    return tuple(contour for contour, x0, y0, x1, y1 in boxes if min(x1 - x0, y1 - y0) < least)


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"
