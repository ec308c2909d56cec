"""Contours drawn twice: one outline, or one line, that stands in the job once more. Edges that
areas of colour share are none of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.shared_edges import clockwise_within, equal_outlines
from draxet.job.contour_edits import remove_contours
from draxet.job.contour_records import ContourItem
from draxet.job.copies import made_own
from draxet.job.records import Job

__all__ = ["drawn_twice", "holes_of", "kept_once", "on_edges_of"]

_FINE = 0.01
"""mm: so exactly lines are compared."""


def holes_of(items: Sequence[ContourItem]) -> Bools:
    """Which contours bound a hole that others may fill (n,): of areas of a colour every second one
    of nested ones, else those that run clockwise within another one, as Regions makes them."""
    holes = clockwise_within([item.contour for item in items])
    for colour in {item.colour for item in items if item.colour}:
        some = [k for k, item in enumerate(items) if item.colour == colour]
        holes[some] = nesting_depths([items[k].contour for k in some]) % 2 == 1
    return holes


def drawn_twice(items: Sequence[ContourItem]) -> list[tuple[int, ...]]:
    """Contours that are one outline, or one line, and bound the same area: the numbers of each such
    group."""
    groups = equal_outlines([item.contour for item in items]) if len(items) > 1 else []
    if not groups:
        return []
    holes = holes_of(items)
    found = []
    for group in groups:
        one_kind = len({bool(items[k].colour) for k in group}) == 1  # all areas of colour, or none
        sides: dict[bool, list[int]] = {}
        for k in group:
            sides.setdefault(one_kind and bool(holes[k]), []).append(k)
        found += [tuple(some) for some in sides.values() if len(some) > 1]
    return found


def on_edges_of(items: Sequence[ContourItem], others: Sequence[ContourItem]) -> list[ContourItem]:
    """Those of them whose line runs all along lines of others, as that of an area of colour does
    between its neighbours."""
    if not items or not others:
        return []
    known = _places(np.vstack([other.contour.nodes for other in others]))
    some = [each for each in items if _places(each.contour.nodes) <= known]
    if not some:
        return []
    lines = [_line(other.contour) for other in others]
    tree = shapely.STRtree(lines)
    found = []
    for item in some:
        line = _line(item.contour)
        near = [lines[k] for k in tree.query(line.buffer(2 * _FINE))]
        if shapely.union_all(near).buffer(2 * _FINE).covers(line):
            found.append(item)
    return found


def _line(contour: Contour) -> shapely.LineString:
    points = contour.flattened(_FINE)
    return shapely.LineString(np.vstack([points, points[:1]]) if contour.closed else points)


def _places(nodes: Points) -> set[complex]:
    at = np.round(nodes, 4)
    return set((at[:, 0] + 1j * at[:, 1]).tolist())


def kept_once(job: Job, ids: Sequence[str]) -> Job:
    """Of contours of the layout that were drawn twice the first one is left; it takes over what is done to the
    others, and their colour where it has none."""
    job, own = made_own(job, [name for name in ids if "/" in name])
    some = {own.get(name, name) for name in ids}
    items = [item for item in job.contours if item.id in some]
    first: dict[str, str] = {}
    colours: dict[str, str] = {}
    for group in drawn_twice(items):
        kept = items[group[0]]
        first |= {items[k].id: kept.id for k in group[1:]}
        colours[kept.id] = kept.colour or next(
            (items[k].colour for k in group if items[k].colour), ""
        )
    contours = tuple(
        replace(item, colour=colours[item.id])
        if colours.get(item.id, item.colour) != item.colour
        else item
        for item in job.contours
    )
    taken, operations = set[tuple[type, str]](), []
    for operation in job.operations:  # of one kind the first that works any of them
        names = [
            name
            for name in dict.fromkeys(first.get(name, name) for name in operation.contours)
            if (type(operation), name) not in taken
        ]
        taken |= {(type(operation), name) for name in names}
        operations.append(
            operation if tuple(names) == operation.contours else operation.with_contours(names)
        )
    return remove_contours(
        replace(
            job, contours=contours, operations=tuple(each for each in operations if each.stands)
        ),
        first,
    )
