"""Looks at stitches: beyond the hoop, too long for the machine, too short, too dense; what is too small
to be sewn, what leaks, and where cloth shows."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from draxet.job.contour_edits import close_contours
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.operating import set_machine, set_operation
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sewing_threads import apart
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import MOST_PLACES, ids_and_middles

__all__ = ["stitches_out_of_range"]

_FINE, _GRID = 0.02, 0.1
_ROOM = 0.7
"""mm that a stitch of a row may be longer than is set."""
_THREAD, _GAP, _BARE = 0.05, 0.5, 0.1
"""mm that thread covers beyond what is filled, half of how wide gaps are told, and the least mm² of
them."""
_UNLIKE, _FEW = 20.0, 3
_OF_TIE = 4
"""Needle points at each end of a block that hold the thread."""
_TIES = 0.05
"""Of all stitches so many may be short: those that hold the thread, and turns."""


def stitches_out_of_range(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Stitches longer than the machine sews, many shorter ones, and things of which none is sewn."""
    machine, plan, found = product.machine, product.plan, list[Finding]()
    longest, short, number = dict[int, float](), 0, 0
    for block in plan.blocks:
        lengths = np.hypot(*np.diff(block.points, axis=0).T)
        longest[block.of] = max(longest.get(block.of, 0.0), float(lengths.max(initial=0.0)))
        short += int((lengths < machine.shortest).sum())
        number += len(lengths)
    for words, gravity, key, of in (
        (
            f"longer than the {machine.longest:g} mm that the machine sews",
            Gravity.STOPS,
            "long",
            [k for k, most in longest.items() if most > machine.longest + 0.05],
        ),
        (
            "too small to be sewn",
            Gravity.WARNS,
            "unsewn",
            [
                k
                for k in range(len(plan.things))
                if k not in longest or _is_scrap(plan.things[k], machine.cut_width)
            ],
        ),
    ):
        names = [name for k in of for name in product.ids[k]]
        items = [job.contour_by_id[name] for name in names if name in job.contour_by_id]
        if items:
            said = count_words(len(of), "area")
            what = f"{said} with stitches {words}" if key == "long" else f"{said} {words}"
            mend = partial(_stitches_of, length=machine.longest - _ROOM) if key == "long" else None
            found.append(
                Finding(
                    f"stitches-{key}-{sheet.id}",
                    what,
                    gravity,
                    "make",
                    *ids_and_middles(items),
                    mend,
                    f"Stitches of {machine.longest - _ROOM:g} mm" if mend else "",
                )
            )
    found += [
        *_beyond_the_hoop(sheet, product),
        *_too_dense(sheet, product),
        *_leaks(job, sheet),
        *_bare_cloth(job, sheet, product),
        *_too_broad(job, sheet, product),
        *_by_hand(sheet, product),
        *_other_colours(job, sheet, product),
    ]
    if number and short > _TIES * number + 20:
        found.append(
            Finding(
                f"stitches-short-{sheet.id}",
                f"{short} stitches are shorter than {machine.shortest:g} mm",
                Gravity.WARNS,
                "make",
            )
        )
    return found


def _beyond_the_hoop(sheet: Sheet, product: Any) -> list[Finding]:
    """Needle points that the machine does not get to, as rows are longer than what they fill."""
    reach = product.machine.reach
    if reach is None or not len(product):
        return []
    off = np.array(sheet.origin_place) - (sheet.x, sheet.y)
    points = np.vstack([block.points for block in product.plan.blocks]) + off
    hoop = shapely.buffer(shapely.Polygon(reach.flattened(_FINE)), _FINE)
    beyond = points[~shapely.contains_xy(hoop, points[:, 0], points[:, 1])]
    if not len(beyond):
        return []
    words = f"{count_words(len(beyond), 'needle point')} beyond the hoop of the {product.machine.name.lower()}"
    places = tuple((float(x), float(y)) for x, y in beyond[:MOST_PLACES] + (sheet.x, sheet.y))
    kind, moved = f"stitches-beyond-{sheet.id}", _hoop_over(points, product.machine)
    if moved is None:
        words += ": it is too large for it"
        return [Finding(kind, words, Gravity.STOPS, "make", places=places)]
    mend = partial(set_machine, machine=moved)
    return [
        Finding(
            kind,
            words,
            Gravity.STOPS,
            "make",
            (),
            places,
            mend,
            "Put the hoop with its middle there",
        )
    ]


def _hoop_over(points: Any, machine: Any) -> Any:
    """The machine with its hoop over needle points; None where they do not go into it."""
    low, high = points.min(axis=0), points.max(axis=0)
    corner = (low + high) / 2 - (machine.hoop_x / 2, machine.hoop_y / 2)
    moved = replace(machine, at_x=round(float(corner[0]), 1), at_y=round(float(corner[1]), 1))
    hoop = shapely.buffer(shapely.Polygon(moved.reach.flattened(_FINE)), _GRID)
    return moved if shapely.contains_xy(hoop, points[:, 0], points[:, 1]).all() else None


def _leaks(job: Job, sheet: Sheet) -> list[Finding]:
    """What is to be filled and is open, though its ends nearly meet."""
    items = [
        job.contour_by_id[name]
        for operation in job.operations
        if isinstance(operation, Stitch)
        for name, contour in job.worked_on(operation, sheet)
        if operation.is_leak(contour)
    ]
    if not items:
        return []
    ids = tuple(item.id for item in items)
    ends = [item.contour.nodes[[0, -1]].mean(axis=0).tolist() for item in items]
    what = "an area is" if len(items) == 1 else f"{len(items)} areas are"
    words = f"{what[0].upper()}{what[1:]} open, and run along instead of filled"
    places = tuple((float(x), float(y)) for x, y in ends[:MOST_PLACES])
    mend = partial(close_contours, ids=ids)
    return [
        Finding(
            f"stitches-leak-{sheet.id}",
            words,
            Gravity.STOPS,
            "mend",
            ids,
            places,
            mend,
            "Close with a line",
        )
    ]


def _bare_cloth(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Where cloth shows in a narrow gap between two areas."""
    things = [thing for thing in product.plan.things if thing.is_area]
    if len(things) < 2:
        return []
    sewn = [shapely.buffer(each.shape, each.fill.overlap + _THREAD, quad_segs=2) for each in things]
    belongs = _words_of(job, product)
    whole = shapely.union_all(sewn)
    shut = shapely.buffer(shapely.buffer(whole, _GAP, quad_segs=2), -_GAP - _FINE, quad_segs=2)
    tree = shapely.STRtree(sewn)
    bare = [
        part
        for part in shapely.get_parts(shapely.difference(shut, whole))
        if shapely.area(part) > _BARE
        and _are_neighbours(
            [
                belongs[k]
                for k in tree.query(shapely.buffer(part, 2 * _FINE), predicate="intersects")
            ]
        )
    ]
    if not bare:
        return []
    most = max(2 * shapely.area(part) / shapely.length(part) for part in bare)
    words = (
        f"Cloth shows in {count_words(len(bare), 'gap')} between areas, about {most:.1f} mm wide"
    )
    off = np.array(sheet.origin_place)
    at = [shapely.get_coordinates(shapely.point_on_surface(part))[0] + off for part in bare]
    places = tuple((float(x), float(y)) for x, y in at[:MOST_PLACES])
    over = round(max(each.fill.overlap for each in things) + most / 2 + _THREAD, 1)
    mend = partial(_stitches_of, overlap=over)
    return [
        Finding(
            f"stitches-bare-{sheet.id}",
            words,
            Gravity.WARNS,
            "make",
            (),
            places,
            mend,
            f"Areas {over:g} mm broader",
        )
    ]


def _words_of(job: Job, product: Any) -> list[str]:
    """Of each area the lettering that it belongs to, or nothing."""
    parts = {each.part for each in job.letterings}
    found = list[str]()
    for thing, ids in zip(product.plan.things, product.ids, strict=True):
        item = job.contour_by_id.get(ids[0])
        if thing.is_area:
            found.append(item.part if item is not None and item.part in parts else "")
    return found


def _are_neighbours(words: Sequence[str]) -> bool:
    """Whether these are several areas, and not letters of the same words alone."""
    return len(words) > 1 and (len(set(words)) > 1 or not words[0])


def _too_broad(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Satin across more than the machine sews in one stitch."""
    longest = product.machine.longest
    satin = {name for each in _all_of(job, "satin") for name in each.contours}
    broad = [
        (mm, names)
        for mm, names in product.breadths_of_satin()
        if mm > longest and not satin.isdisjoint(names)
    ]
    if not broad:
        return []
    most = max(mm for mm, _ in broad)
    items = [
        job.contour_by_id[name] for _, names in broad for name in names if name in job.contour_by_id
    ]
    how = f"{most:.0f} mm broad" if math.isfinite(most) else "no column at all"
    words = f"Satin over {count_words(len(broad), 'area')} too broad for it, {how}: the machine sews {longest:g} mm in one stitch"
    mend = _as_suits
    return [
        Finding(
            f"stitches-broad-{sheet.id}",
            words,
            Gravity.WARNS,
            "make",
            *ids_and_middles(items),
            mend,
            "Areas as suits them",
        )
    ]


def _by_hand(sheet: Sheet, product: Any) -> list[Finding]:
    """What the stitcher does not do by itself."""
    machine, plan = product.machine, product.plan
    threads, said = len(set(plan.colours)), list[str]()
    if 1 < machine.needles < threads:
        said.append(f"{threads} threads for {machine.needles} needles")
    if not machine.trims_itself and plan.trims:
        said.append(f"{count_words(plan.trims, 'thread')} to be cut by hand")
    kind, words = f"stitches-hand-{sheet.id}", " and ".join(said)
    return [Finding(kind, words, Gravity.INFORMS, "make")] if said else []


def _other_colours(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Colours to which no thread comes near."""
    found, ids = dict[str, str](), list[str]()
    for thing, names in zip(product.plan.things, product.ids, strict=True):
        drawn = job.contour_by_id[names[0]].colour if names[0] in job.contour_by_id else ""
        if drawn and apart(drawn, thing.colour) > _UNLIKE:
            found[drawn] = thing.thread
            ids += names
    if not found:
        return []
    pairs = ", ".join(f"{thread} for {drawn}" for drawn, thread in list(found.items())[:_FEW])
    words = f"No thread is near {count_words(len(found), 'colour')}: sewn with {pairs}"
    items = [job.contour_by_id[name] for name in ids if name in job.contour_by_id]
    kind = f"stitches-colours-{sheet.id}"
    return [Finding(kind, words, Gravity.INFORMS, "make", *ids_and_middles(items))]


def _stitches_of(job: Job, **settings: float) -> Job:
    """All that is stitched, by other settings."""
    for operation in job.operations:
        if isinstance(operation, Stitch):
            job = set_operation(job, operation.changed(**settings))
    return job


def _all_of(job: Job, way: str) -> list[Stitch]:
    return [each for each in job.operations if isinstance(each, Stitch) and each.way == way]


def _as_suits(job: Job) -> Job:
    """What is all satin sewn as suits it."""
    for each in _all_of(job, "satin"):
        job = set_operation(job, each.changed(way="suited"))
    return job


def _too_dense(sheet: Sheet, product: Any) -> list[Finding]:
    """Places where more needle points lie within 1 mm² than the cloth stands."""
    if not len(product):
        return []
    points = np.vstack([block.points[_OF_TIE:-_OF_TIE] for block in product.plan.blocks])
    cells, counts = np.unique(np.floor(points).astype(int), axis=0, return_counts=True)
    dense = cells[counts > product.machine.densest]
    if not len(dense):
        return []
    words = f"{counts.max()} needle points within 1 mm²; the cloth stands {product.machine.densest:g}: sew rows farther apart"
    places = tuple((float(x), float(y)) for x, y in dense[:MOST_PLACES] + 0.5 + sheet.origin_place)
    return [Finding(f"stitches-dense-{sheet.id}", words, Gravity.WARNS, "make", places=places)]


def _is_scrap(thing: Any, thread: float) -> bool:
    """Whether an area is no larger than one stitch of a thread is broad."""
    return bool(thing.is_area and shapely.area(thing.shape) < thread * thread)
