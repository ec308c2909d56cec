"""Closed contours that cross themselves or each other: on one side of a crossing what is inside is
outside, so a cut beside the line would part the wrong thing."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Ints, NDArray, Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import polygons_of
from draxet.job.contour_pieces import put_all
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.prove.look_places import MOST_PLACES

__all__ = ["Crossed", "crossing_each_other"]

_FINE = 0.01
_THIN = 0.01
"""mm: a loop that is narrower in the mean is none."""
_OVERLAP = 0.02
"""mm: what two contours both bound, and what each bounds alone, is broader than twice that where
they cross; narrower it is an edge that they share."""
_MOST_PAIRS = 1_000_000
"""Where more lie over each other nobody looks."""

_Places = tuple[tuple[float, float], ...]


class Crossed:
    """Finds them; what was looked at once is not looked at again."""

    def __init__(self) -> None:
        self._known: dict[Contour, _Places] = {}

    def __call__(self, job: Job) -> list[Finding]:
        closed = [item for item in job.contours if item.contour.closed]
        self._learn(item.contour for item in closed)
        found = [item for item in closed if self._known[item.contour]]
        if not found:
            return []
        ids, one = tuple(item.id for item in found), len(found) == 1
        places = tuple(place for item in found for place in self._known[item.contour])[:MOST_PLACES]
        worked = _cut_beside(job) | {
            name
            for operation in job.operations
            if operation.wants == "closed"
            for name in operation.contours
        }
        words = f"{count_words(len(found), 'contour')} {'crosses itself' if one else 'cross themselves'}: what is inside is not sure{', and the cut would be wrong' if worked & set(ids) else ''}"
        gravity = Gravity.STOPS if worked & set(ids) else Gravity.WARNS
        return [
            Finding(
                "crossed",
                words,
                gravity,
                "mend",
                ids,
                places,
                partial(_apart, ids=ids),
                "Part it where it crosses" if one else "Part them where they cross",
            )
        ]

    def _learn(self, contours: Iterable[Contour]) -> None:
        """What is known of these contours, and no longer of others."""
        some = list(dict.fromkeys(contours))
        new = [contour for contour in some if contour not in self._known]
        fresh = dict.fromkeys(new, _Places())
        for k in np.flatnonzero(~shapely.is_valid(polygons_of(new, _FINE))).tolist() if new else ():
            fresh[new[k]] = _crossing_places(new[k])
        self._known = {
            contour: fresh[contour] if contour in fresh else self._known[contour]
            for contour in some
        }


def crossing_each_other(job: Job) -> list[Finding]:
    """Contours that are cut beside their lines and lie half in one another."""
    beside = _cut_beside(job)
    items = [item for item in job.contours if item.id in beside and item.contour.closed]
    if len(items) < 2:
        return []
    one, other, meets = _overlapping(polygons_of([item.contour for item in items], _FINE))
    if not len(one):
        return []
    pairs = zip(one.tolist(), other.tolist(), strict=True)
    ids = tuple(dict.fromkeys(items[k].id for pair in pairs for k in pair))
    words = f"{count_words(len(ids), 'contour')} that are cut cross each other: join them, or take one out of the other, in Regions"
    places = tuple((float(x), float(y)) for x, y in meets[:MOST_PLACES])
    return [Finding("crossing", words, Gravity.WARNS, "mend", ids, places)]


def _overlapping(shapes: NDArray[Any]) -> tuple[Ints, Ints, Points]:
    """Numbers of the shapes that lie half in one another, pair by pair, and a place (n, 2) of each
    pair where their outlines meet."""
    tree = shapely.STRtree(shapes)
    one, other = tree.query(shapes)
    one, other = one[one < other], other[one < other]
    if len(one) > _MOST_PAIRS:
        return one[:0], other[:0], np.zeros((0, 2))
    sound = shapely.is_valid(shapes)
    near = sound[one] & sound[other]
    one, other = one[near], other[near]
    shapely.prepare(shapes)
    a, b = shapes[one], shapes[other]
    over = shapely.intersects(a, b)  # what is sooner known leaves few to be looked at closely
    for outer, inner in ((a, b), (b, a)):
        over[over] = ~shapely.contains_properly(outer[over], inner[over])
    over[over] = shapely.overlaps(a[over], b[over])
    a, b = shapes[one[over]], shapes[other[over]]
    parts = (shapely.intersection(a, b), shapely.difference(a, b), shapely.difference(b, a))
    crossed = np.logical_and.reduce(
        [~shapely.is_empty(shapely.buffer(part, -_OVERLAP)) for part in parts]
    )
    outlines = shapely.boundary(a[crossed]), shapely.boundary(b[crossed])
    meets = shapely.get_coordinates(shapely.point_on_surface(shapely.intersection(*outlines)))
    return one[over][crossed], other[over][crossed], np.asarray(meets)


def _cut_beside(job: Job) -> set[str]:
    """The contours beside whose lines a cut runs."""
    return {
        name
        for operation in job.operations
        if operation.side is not Side.ON
        for name in operation.contours
    }


def _crossing_places(contour: Contour) -> _Places:
    """Where a closed contour crosses itself; none where it only touches itself, or runs there and
    back."""
    from draxet.geometry.arrangement import arrangement_of
    from draxet.geometry.crossings import self_crossings

    found = arrangement_of([contour])
    turns = {region.winding for region in found.regions if region.thin > _THIN}
    if turns <= {0, 1} or turns <= {0, -1}:
        return ()
    places = [(float(x), float(y)) for x, y in self_crossings(contour.spans).points]
    x, y = contour.nodes[0].tolist()
    return tuple(places) or ((x, y),)


def _apart(job: Job, ids: Iterable[str]) -> Job:
    """Each of some contours in the place of which the outlines and openings of what it goes round
    stand, whichever way; without crossings."""
    from draxet.geometry.arrangement import arrangement_of

    pieces = {}
    for name in ids:
        found = arrangement_of([job.layout.contour_by_id[name].contour])
        pieces[name] = found.outline_of(
            k for k, region in enumerate(found.regions) if region.winding and region.thin > _THIN
        )
    return put_all(job, pieces)
