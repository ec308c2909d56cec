"""Runs into what must stay whole: into what is kept clear, into a part."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.geometry.nesting import area_of, as_polygon, nesting_depths
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.operations import Operation, Side
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import MOST_PLACES
from draxet.prove.run_lines import FINE, SLACK, LinesAtWork, width_of
from draxet.prove.run_twice import shorter_leads

__all__ = ["runs_into_a_part", "runs_into_what_is_kept_clear"]

_SPECK = 0.02
"""mm²: a smaller bite is none."""

_CORNERS = 400


def runs_into_what_is_kept_clear(
    job: Job, sheet: Sheet, program: Program, lines: LinesAtWork
) -> list[Finding]:
    """Work and travel that would come into an area that the machine keeps clear of."""
    machine = program.machine
    if not machine.keep_clear:
        return []
    widths = {operation.id: operation.broad for operation in job.operations}
    corner = np.array([sheet.x, sheet.y]) - np.array(sheet.origin_place)
    found = []
    tree = shapely.STRtree(lines.shapes)
    for number, area in enumerate(machine.keep_clear, 1):
        shape = as_polygon(area.outline, FINE)
        shape = shapely.transform(
            shape if shape.is_valid else shape.buffer(0), lambda points: points + corner
        )
        hit = _lines_within(program, lines, tree, shape, widths, area.height)
        if hit:
            found.append(_in_kept_clear(job, sheet, program, lines, number, shape, hit))
    return found


def _lines_within(
    program: Program,
    lines: LinesAtWork,
    tree: shapely.STRtree,
    shape: shapely.Polygon,
    widths: dict[str, float],
    height: float,
) -> list[int]:
    """Numbers of the lines that would come into an area so high: work with its width, and travel
    where that is not above it."""
    paths, works = lines.paths, lines.works
    near = tree.query(shape, predicate="dwithin", distance=max(widths.values(), default=0.0) / 2)
    return [
        k
        for k in near.tolist()
        if (works[k] or program.machine.safe_height <= height)
        and lines.shapes[k].distance(shape)
        < (width_of(program, int(paths[k]), widths) / 2 if works[k] else FINE)
    ]


def _in_kept_clear(
    job: Job,
    sheet: Sheet,
    program: Program,
    lines: LinesAtWork,
    number: int,
    shape: shapely.Polygon,
    hit: list[int],
) -> Finding:
    """That lines come into the area of that number."""
    machine, (x, y) = program.machine, sheet.origin_place
    worked = [k for k in hit if lines.works[k]]
    nearest = (
        shapely.shortest_line(lines.shapes[k], shape).coords[0]
        for k in (worked or hit)[:MOST_PLACES]
    )
    ids = dict.fromkeys(name for k in worked for name in program.ids[lines.paths[k]])
    height = machine.keep_clear[number - 1].height
    words = (
        f"{count_words(len(worked), 'line')} would run into area {number} that the {machine.name.lower()} keeps clear of"
        if worked
        else f"Travel would run into area {number} that is to be kept clear: it is {height:g} mm high, and the {machine.name.lower()} travels at {machine.safe_height:g} mm"
    )
    return Finding(
        f"keep-clear-{sheet.id}-{number}",
        words,
        Gravity.STOPS,
        "make",
        tuple(name for name in ids if name in job.contour_by_id),
        tuple((float(place[0] + x), float(place[1] + y)) for place in nearest),
    )


def runs_into_a_part(job: Job, sheet: Sheet, program: Program, lines: LinesAtWork) -> list[Finding]:
    """Cuts, with their leads, that take away from what is to stay."""
    cut = [
        (name, operation)
        for operation in job.operations
        if operation.side is not Side.ON
        for name in operation.contours
        if job.contour_by_id[name].sheet == sheet.id
    ]
    closed = [
        (name, operation) for name, operation in cut if job.contour_by_id[name].contour.closed
    ]
    if not closed:
        return []
    side = dict(closed)
    bites = _bites_of(job, sheet, program, lines, closed)
    if not bites:
        return []
    ids = list(dict.fromkeys(name for names, _ in bites for name in names))
    led = [side[name] for name in ids if side[name].lead > 0]
    words = f"The {'cut' if len(ids) == 1 else 'cuts'} of {count_words(len(ids), 'contour')}{', with the leads,' if led else ''} would take away from a part beside {'it' if len(ids) == 1 else 'them'}"
    mend = (
        partial(shorter_leads, ids=tuple(operation.id for operation in dict.fromkeys(led)))
        if led
        else None
    )
    return [
        Finding(
            f"cuts-in-{sheet.id}",
            words,
            Gravity.STOPS,
            "make",
            tuple(ids),
            tuple(place for _, place in bites[:MOST_PLACES]),
            mend,
            "Halve the leads" if led else "",
        )
    ]


def _bites_of(
    job: Job,
    sheet: Sheet,
    program: Program,
    lines: LinesAtWork,
    closed: list[tuple[str, Operation]],
) -> list[tuple[tuple[str, ...], tuple[float, float]]]:
    """Where cuts take away from what is to stay: the contours of each and a place."""
    side = dict(closed)
    paths = lines.paths.tolist()
    away = np.array(sheet.origin_place)
    mine = {operation.id for operation in side.values()}
    numbers = [number for number, name in enumerate(program.operations) if name in mine]
    cuts = set(program.path[np.isin(program.operation, numbers)].tolist())
    some = [
        k
        for k in np.flatnonzero(lines.works).tolist()
        if paths[k] in cuts and len(program.ids[paths[k]]) == 1 and program.ids[paths[k]][0] in side
    ]
    if not some:
        return []
    wide = np.array([side[program.ids[paths[k]][0]].width for k in some])
    swept = shapely.buffer(
        shapely.transform(lines.shapes[some], lambda points: points + away), wide / 2, quad_segs=4
    )
    kept = shapely.get_parts(shapely.buffer(shapely.get_parts(_kept(job, sheet, closed)), -SLACK))
    return [
        (tuple(program.ids[paths[some[k]]]), (bite.x, bite.y)) for k, bite in _bites(swept, kept)
    ]


def _bites(swept: Any, parts: Any) -> list[tuple[int, Any]]:
    """What takes away from which part, the most first: the number of what is swept, and a place in
    the bite."""
    part, some = shapely.STRtree(swept).query(
        parts, predicate="intersects"
    )  # so the parts, which may be large, are looked through quickly
    pieces = _small(parts[np.unique(part)])
    piece, mine = shapely.STRtree(swept[np.unique(some)]).query(pieces, predicate="intersects")
    one = np.unique(some)[mine]
    bites = shapely.intersection(swept[one], pieces[piece])
    size = np.bincount(one, weights=shapely.area(bites), minlength=len(swept))
    real = np.flatnonzero(size > _SPECK)
    largest = {
        int(one[k]): bites[k] for k in np.argsort(shapely.area(bites), kind="stable").tolist()
    }  # the last one of each counts
    return [
        (k, shapely.point_on_surface(largest[k]))
        for k in real[np.argsort(-size[real], kind="stable")].tolist()
    ]


def _small(areas: Any) -> Any:
    """The same areas parted into pieces with few corners, so that a bite costs no more out of a
    large one."""
    found = []
    while len(areas):
        few = shapely.get_num_coordinates(areas) <= _CORNERS
        found.append(areas[few])
        large = areas[~few]
        x0, y0, x1, y1 = shapely.bounds(large).T
        wide, x, y = x1 - x0 > y1 - y0, (x0 + x1) / 2, (y0 + y1) / 2
        halves = (
            shapely.box(x0, y0, np.where(wide, x, x1), np.where(wide, y1, y)),
            shapely.box(np.where(wide, x, x0), np.where(wide, y0, y), x1, y1),
        )
        cut = np.concatenate(
            [shapely.get_parts(shapely.intersection(large, half)) for half in halves]
        )
        areas = cut[shapely.get_dimensions(cut) == 2]
    return np.concatenate(found) if found else areas


def _kept(job: Job, sheet: Sheet, closed: Sequence[tuple[str, Operation]]) -> Any:
    """What is to stay: the parts that are cut out, or where only openings are cut the sheet round
    them."""
    shapes = [job.fitted.get(name, job.contour_by_id[name].contour) for name, _ in closed]
    depths = nesting_depths(shapes).tolist()
    if any(
        depth == 0 and operation.side is Side.OUTSIDE
        for depth, (_, operation) in zip(depths, closed, strict=True)
    ):
        return area_of(shapes)
    return shapely.box(sheet.x, sheet.y, sheet.x + sheet.width, sheet.y + sheet.height).difference(
        area_of(shapes)
    )
