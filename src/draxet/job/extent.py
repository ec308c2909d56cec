"""How far all of a layout reaches, without laying it out: by the outermost places of each part."""

from __future__ import annotations

import numpy as np
import shapely

from draxet.cached import kept_on_the_first
from draxet.geometry.arrays import Points
from draxet.job.find import drawn_boxes
from draxet.job.layout import map_of, members_of
from draxet.job.place_types import Box
from draxet.job.records import Job

__all__ = ["extent_of", "placement_boxes"]

_FINE = 1e-4
"""mm: how near to arcs and curves those places are."""


def placement_boxes(job: Job) -> list[Box]:
    """The box of all that each placement lays."""
    found = np.zeros((len(job.placements), 4))
    for part in {placement.part for placement in job.placements}:
        at = [k for k, placement in enumerate(job.placements) if placement.part == part]
        maps = np.array([map_of(job, job.placements[k]).to_tuple() for k in at])
        x, y = _outermost(job, part).T
        for first, (a, b, c) in ((0, maps[:, :3].T), (1, maps[:, 3:].T)):
            places = np.outer(a, x) + np.outer(b, y) + c[:, None]
            found[at, first], found[at, first + 2] = places.min(axis=1), places.max(axis=1)
    return [(x0, y0, x1, y1) for x0, y0, x1, y1 in found.tolist()]


@kept_on_the_first
def extent_of(job: Job) -> Box | None:
    """The box round all contours of the layout; None where there is none."""
    if not job.contours:
        return None
    laid = np.array(placement_boxes(job)).reshape(-1, 4)
    boxes = np.concatenate([drawn_boxes(job), laid])
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    return x0, y0, x1, y1


def _outermost(job: Job, part: str) -> Points:
    """The corners (n, 2) of the hull of a part's contours."""
    points = np.concatenate([item.contour.flattened(_FINE) for item in members_of(job, part)])
    return shapely.get_coordinates(shapely.MultiPoint(points).convex_hull)
