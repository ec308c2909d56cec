"""Edits of the base on which areas are raised, and into which they are sunk."""

from __future__ import annotations

from dataclasses import replace

from draxet.job.records import Job
from draxet.job.sheet_records import Base, Sheet

__all__ = ["base_of", "set_base", "thickness_of"]


def base_of(job: Job, sheet: Sheet) -> Base:
    """The base of a sheet; none of one that has none."""
    return next((base for base in job.bases if base.sheet == sheet.id), Base(sheet.id))


def thickness_of(base: Base, sheet: Sheet) -> float:
    """How thick a base is, in mm; 0 where there is none."""
    if base.shape == "none" or (base.shape == "contour" and not base.contour):
        return 0.0
    return sheet.thickness if base.shape == "sheet" else base.thickness


def set_base(job: Job, base: Base) -> Job:
    """The job with another base in the place of a sheet's."""
    others = tuple(each for each in job.bases if each.sheet != base.sheet)
    return job if base in job.bases else replace(job, bases=(*others, base))
