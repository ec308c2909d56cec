"""What is wrong with the programs of a job: what they run into, what they cut that is to stay, and
what comes too late."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Ints, Points
from draxet.geometry.contour import places_on
from draxet.geometry.nesting import area_of, as_polygon, nesting_depths, polygons_of
from draxet.geometry.turning import way_points
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.make_edits import remove_order
from draxet.job.operating import remove_operation, set_operation
from draxet.job.operations import CutThrough, Side
from draxet.job.program import Program
from draxet.job.records import Job, Sheet
from draxet.job.sides import Run, mirror_of, runs_of, side_of
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["findings_of_run", "run_findings"]

_FINE = 0.01
_SLACK = 0.05
"""mm: so much of a neighbour may be touched untold."""
_SPECK = 0.02
"""mm²: a smaller bite is none."""
_MOST_PLACES = 200
_CORNERS = 400
_ON_IT = 0.025
"""mm: lines no farther apart lie on each other."""
_MEETS, _SHARE = 4.0, 0.02
"""mm, and of the shorter line: those that do so for no more than that only meet, cross or touch."""


def run_findings(job: Job, programs: Sequence[Program]) -> tuple[Finding, ...]:
    """The findings of a job's programs, one for each of its runs."""
    return tuple(
        finding
        for run, program in zip(runs_of(job), programs, strict=True)
        for finding in findings_of_run(job, run, program)
    )


def findings_of_run(
    job: Job, run: Run, program: Program, report: Progress = Unwatched()
) -> tuple[Finding, ...]:
    """What is wrong with the program of a run.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    if not len(program):
        return ()
    seen, every, sheet, lines = (
        side_of(job, run),
        side_of(job, run, every=True),
        run.sheet,
        _lines_of(program),
    )
    looks: tuple[Callable[[], list[Finding]], ...] = (
        lambda: _into_what_is_kept_clear(seen, sheet, program, lines),
        lambda: _into_a_part(every, sheet, program, lines),
        lambda: _too_late(seen, program),
        lambda: _too_deep(seen, program),
        lambda: _twice(seen, sheet, program, lines),
    )
    here = list[Finding]()
    for number, look in enumerate(looks):
        report(number / len(looks), "looking at the program")
        here += look()
    return (
        *((_from_behind(finding, sheet) for finding in here) if run.back else here),
        *([_turned_over(job, run)] if run.back else ()),
    )


def _from_behind(finding: Finding, sheet: Sheet) -> Finding:
    """A finding of the back, with its places where they are on the face."""
    mirror = mirror_of(sheet)
    return replace(
        finding,
        kind=f"{finding.kind}-back",
        words=f"From the back: {finding.words}",
        places=tuple(mirror.point(x, y) for x, y in finding.places),
    )


def _turned_over(job: Job, run: Run) -> Finding:
    ids = tuple(
        name
        for operation in job.operations
        if operation.back
        for name in operation.contours
        if job.contour_by_id[name].sheet == run.sheet.id
    )
    words = f"{count_words(len(ids), 'contour')} of {run.sheet.name} {'is' if len(ids) == 1 else 'are'} worked from the back: a program of its own, mirrored, for the sheet turned over left to right"
    return Finding(f"back-{run.sheet.id}", words, Gravity.INFORMS, "make", ids)


@record(frozen=True, eq=False)
class _Lines:
    """The moves of a program as lines within 0.01 mm: each line's working moves as one, and each
    travel; with the numbers of their paths (-1 for travel), and whether they work."""

    shapes: Any
    paths: Ints
    works: Bools


def _lines_of(program: Program) -> _Lines:
    same = program.work[1:] & program.work[:-1] & (program.path[1:] == program.path[:-1])
    first = np.flatnonzero(np.append(True, ~same))
    line = np.cumsum(np.append(True, ~same)) - 1
    points, move = way_points(program.beginnings, program.to, program.centre, program.turn, _FINE)
    places, owner = (
        np.vstack([program.beginnings[first], points]),
        np.append(np.arange(len(first)), line[move]),
    )
    order = np.argsort(owner, kind="stable")
    return _Lines(
        shapely.linestrings(places[order], indices=owner[order]),
        program.path[first],
        program.work[first],
    )


def _into_what_is_kept_clear(
    job: Job, sheet: Sheet, program: Program, lines: _Lines
) -> list[Finding]:
    machine = program.machine
    if not machine.keep_clear:
        return []
    shapes, paths, works = lines.shapes, lines.paths.tolist(), lines.works.tolist()
    widths = {
        operation.id: float(getattr(operation, "width", getattr(operation, "diameter", 0.0)))
        for operation in job.operations
    }
    corner = np.array([sheet.x, sheet.y]) - np.array(sheet.origin_place)
    found = []
    tree = shapely.STRtree(shapes)
    for number, area in enumerate(machine.keep_clear, 1):
        shape = as_polygon(area.outline, _FINE)
        shape = shapely.transform(
            shape if shape.is_valid else shape.buffer(0), lambda points: points + corner
        )
        hit = [
            k
            for k in tree.query(
                shape, predicate="dwithin", distance=max(widths.values(), default=0.0) / 2
            ).tolist()
            if works[k] or machine.safe_height <= area.height
        ]
        hit = [
            k
            for k in hit
            if shapes[k].distance(shape)
            < (_width_of(program, paths[k], widths) / 2 if works[k] else _FINE)
        ]
        if not hit:
            continue
        worked = [k for k in hit if works[k]]
        away = np.array(sheet.origin_place)
        places = tuple(
            (float(x + away[0]), float(y + away[1]))
            for x, y in (
                shapely.shortest_line(shapes[k], shape).coords[0]
                for k in (worked or hit)[:_MOST_PLACES]
            )
        )
        ids = tuple(dict.fromkeys(name for k in worked for name in program.ids[paths[k]]))
        words = (
            f"{count_words(len(worked), 'line')} would run into area {number} that the {machine.name.lower()} keeps clear of"
            if worked
            else (
                f"Travel would run into area {number} that is to be kept clear: it is {area.height:g} mm high, and the {machine.name.lower()} travels at {machine.safe_height:g} mm"
            )
        )
        found.append(
            Finding(
                f"keep-clear-{sheet.id}-{number}",
                words,
                Gravity.STOPS,
                "make",
                tuple(name for name in ids if name in job.contour_by_id),
                places,
            )
        )
    return found


def _width_of(program: Program, path: int, widths: dict[str, float]) -> float:
    number = int(program.operation[np.flatnonzero(program.path == path)[0]]) if path >= 0 else -1
    return widths.get(program.operations[number], 0.0) if number >= 0 else 0.0


def _into_a_part(job: Job, sheet: Sheet, program: Program, lines: _Lines) -> list[Finding]:
    """Cuts, with their leads, that take away from what is to stay."""
    cut = [
        (name, operation)
        for operation in job.operations
        if isinstance(operation, CutThrough) and operation.side is not Side.ON
        for name in operation.contours
        if job.contour_by_id[name].sheet == sheet.id
    ]
    closed = [
        (name, operation) for name, operation in cut if job.contour_by_id[name].contour.closed
    ]
    if not closed:
        return []
    side = {name: operation for name, operation in closed}
    paths = lines.paths.tolist()
    away = np.array(sheet.origin_place)
    mine = {operation.id for _, operation in closed}
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
    ids, places = list[str](), list[tuple[float, float]]()
    for k, bite in _bites(
        swept,
        shapely.get_parts(shapely.buffer(shapely.get_parts(_kept(job, sheet, closed)), -_SLACK)),
    ):
        ids += program.ids[paths[some[k]]]
        places.append((bite.x, bite.y))
    if not ids:
        return []
    ids = list(dict.fromkeys(ids))
    led = [side[name] for name in ids if side[name].lead > 0]
    words = f"The {'cut' if len(ids) == 1 else 'cuts'} of {count_words(len(ids), 'contour')}{', with the leads,' if led else ''} would take away from a part beside {'it' if len(ids) == 1 else 'them'}"
    mend = (
        partial(_shorter_leads, ids=tuple(operation.id for operation in dict.fromkeys(led)))
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
            tuple(places[:_MOST_PLACES]),
            mend,
            "Halve the leads" if led else "",
        )
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


def _kept(job: Job, sheet: Sheet, closed: Sequence[tuple[str, CutThrough]]) -> Any:
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


def _twice(job: Job, sheet: Sheet, program: Program, lines: _Lines) -> list[Finding]:
    """Lines that are cut along another cut, all the way or for a stretch."""
    through = [
        number
        for number, name in enumerate(program.operations)
        if any(operation.id == name and operation.through for operation in job.operations)
    ]
    cuts = set(program.path[program.work & np.isin(program.operation, through)].tolist())
    paths = lines.paths.tolist()
    one_of = {
        paths[k]: k for k in np.flatnonzero(lines.works).tolist() if paths[k] in cuts
    }  # the last pass stands for all
    some = sorted(one_of.values())
    if len(some) < 2:
        return []
    mine = lines.shapes[some]
    names = [frozenset(program.ids[paths[k]]) for k in some]
    tree = shapely.STRtree(mine)
    first, second = tree.query(mine, predicate="dwithin", distance=_ON_IT)
    other = (first < second) & np.array(
        [names[a] != names[b] for a, b in zip(first.tolist(), second.tolist(), strict=True)],
        dtype=bool,
    )
    first, second = first[other], second[other]
    if not len(first):
        return []
    shared = shapely.intersection(
        mine[first], shapely.buffer(mine[second], _ON_IT, quad_segs=4, cap_style="flat")
    )
    along = shapely.length(shared)
    real = along > np.maximum(
        _MEETS, _SHARE * np.minimum(shapely.length(mine[first]), shapely.length(mine[second]))
    )
    away = np.array(sheet.origin_place)
    of_leads = [
        k
        for k in np.flatnonzero(real).tolist()
        if not all(_beside(job, names[n], shared[k], away) for n in (int(first[k]), int(second[k])))
    ]
    real[of_leads] = False
    if not real.any():
        return []
    lengths = shapely.length(mine)
    shorter = [
        int(a) if lengths[a] < lengths[b] else int(b)
        for a, b in zip(first[real], second[real], strict=True)
    ]
    twice = sorted(set(shorter))
    ids = tuple(
        dict.fromkeys(
            name for k in twice for name in program.ids[paths[some[k]]] if name in job.contour_by_id
        )
    )
    middles = shapely.get_coordinates(shapely.point_on_surface(shared[real]))
    places = tuple((float(x + away[0]), float(y + away[1])) for x, y in middles[:_MOST_PLACES])
    whole = all(along[real][n] > 0.98 * lengths[k] for n, k in enumerate(shorter))
    words = f"{count_words(len(twice), 'line')} would be cut twice: {'it lies' if len(twice) == 1 else 'they lie'} on another cut"
    words += "" if whole else f", over {along[real].sum():.0f} mm in all"
    mend = partial(_uncut, ids=frozenset(ids)) if whole else None
    return [
        Finding(
            f"cut-twice-{sheet.id}",
            words,
            Gravity.WARNS,
            "make",
            ids,
            places,
            mend,
            "Cut once" if whole else "",
        )
    ]


def _beside(job: Job, names: frozenset[str], stretch: Any, away: Points) -> bool:
    """Whether a stretch runs where a cut of some contours does, and not along a lead to it."""
    x, y = (
        shapely.get_coordinates(
            shapely.line_interpolate_point(shapely.get_parts(stretch)[0], 0.5, normalized=True)
        )[0]
        + away
    )
    for name in names & job.contour_by_id.keys():
        points = job.contour_by_id[name].contour.flattened(_FINE)
        wide = job.cut_of[name].width if name in job.cut_of else 0.0
        line = (
            shapely.LinearRing(points)
            if job.contour_by_id[name].contour.closed and len(points) > 2
            else shapely.LineString(points)
        )
        if line.distance(shapely.Point(x, y)) <= wide / 2 + 3 * _SLACK:
            return True
    return False


def _uncut(job: Job, ids: frozenset[str]) -> Job:
    """Contours taken out of the operations that cut them through."""
    for operation in job.operations:
        if operation.through and any(name in ids for name in operation.contours):
            left = [name for name in operation.contours if name not in ids]
            job = (
                set_operation(job, operation.with_contours(left))
                if left
                else remove_operation(job, operation.id)
            )
    return job


def _shorter_leads(job: Job, ids: Sequence[str]) -> Job:
    for operation in job.operations:
        if operation.id in ids and isinstance(operation, CutThrough):
            job = set_operation(
                job, replace(operation, lead=operation.lead / 2 if operation.lead > 0.2 else 0.0)
            )
    return job


def _too_late(job: Job, program: Program) -> list[Finding]:
    """What is worked in a part after that was cut out: it may have moved."""
    last: dict[str, int] = {}
    cut: dict[str, int] = {}
    through = np.isin(
        program.operation,
        [
            number
            for number, name in enumerate(program.operations)
            if any(operation.id == name and operation.through for operation in job.operations)
        ],
    )
    paths, at = np.unique(program.path[program.work][::-1], return_index=True)
    ends = np.flatnonzero(program.work)[::-1][at]  # the last move of each line
    for path, k in zip(paths.tolist(), ends.tolist(), strict=True):
        for name in program.ids[path]:
            last[name] = max(last.get(name, -1), k)
            if through[k]:
                cut[name] = max(cut.get(name, -1), k)
    names = [name for name in last if name in job.contour_by_id]
    closed = [
        name for name in cut if name in job.contour_by_id and job.contour_by_id[name].contour.closed
    ]
    if not closed:
        return []
    middles = places_on([job.contour_by_id[name].contour for name in names])
    around, inside = shapely.STRtree(np.atleast_1d(np.asarray(shapely.points(middles)))).query(
        polygons_of([job.contour_by_id[name].contour for name in closed], _FINE),
        predicate="contains",
    )
    late = list(
        dict.fromkeys(
            names[k]
            for n, k in zip(around.tolist(), inside.tolist(), strict=True)
            if names[k] != closed[n] and last[names[k]] > cut[closed[n]]
        )
    )
    if not late:
        return []
    by_hand = tuple(order.id for order in job.orders)
    words = f"{count_words(len(late), 'contour')} would be worked after the part round {'it' if len(late) == 1 else 'them'} was cut out{', as an order by hand says' if by_hand else ''}"
    places = tuple(
        (
            float(job.contour_by_id[name].contour.nodes[0][0]),
            float(job.contour_by_id[name].contour.nodes[0][1]),
        )
        for name in late[:_MOST_PLACES]
    )
    mend = partial(_without_orders, ids=by_hand) if by_hand else None
    return [
        Finding(
            "wrong-order",
            words,
            Gravity.STOPS,
            "make",
            tuple(late),
            places,
            mend,
            "Give the order up" if by_hand else "",
        )
    ]


def _with_tool(job: Job, operation_id: str, own: str, diameter: float) -> Job:
    operation = next(each for each in job.operations if each.id == operation_id)
    return set_operation(job, replace(operation, **{own: diameter}))  # type: ignore[type-var]


def _without_orders(job: Job, ids: Sequence[str]) -> Job:
    for name in ids:
        job = remove_order(job, name)
    return job


def _too_deep(job: Job, program: Program) -> list[Finding]:
    """Tools that the machine does not have, or that cannot reach so deep."""
    machine = program.machine
    if machine.kind != "router" or not machine.tools:
        return []
    found = []
    for number, name in enumerate(program.operations):
        moves = program.work & (program.operation == number)
        if not moves.any():
            continue
        operation = next(each for each in job.operations if each.id == name)
        own = next((field for field in ("width", "diameter") if hasattr(operation, field)), "")
        wide = float(getattr(operation, own or "spacing", 0.0))
        fitting = [tool for tool in machine.tools if abs(tool.diameter - wide) <= 0.01]
        deep = float(program.depth[moves].max())
        ids = tuple(each for each in operation.contours if each in job.contour_by_id)
        if not fitting:
            words = f"{operation.name} wants a tool of {wide:g} mm; the {machine.name.lower()} has {', '.join(f'{tool.diameter:g}' for tool in machine.tools)} mm"
            nearest = min(
                (tool.diameter for tool in machine.tools), key=lambda diameter: abs(diameter - wide)
            )
            mend = (
                partial(_with_tool, operation_id=name, own=own, diameter=nearest) if own else None
            )
            found.append(
                Finding(
                    f"tool-{name}",
                    words,
                    Gravity.STOPS if own else Gravity.WARNS,
                    "make",
                    ids,
                    (),
                    mend,
                    f"Take the one of {nearest:g} mm" if own else "",
                )
            )
        elif max(tool.longest for tool in fitting) < deep - 1e-9:
            words = f"{operation.name} goes {deep:g} mm deep; the longest tool of {wide:g} mm cuts {max(tool.longest for tool in fitting):g} mm"
            found.append(Finding(f"tool-{name}", words, Gravity.STOPS, "make", ids))
    return found
