"""Looks at bodies: too thin, too near, held by a point alone, loose, sunk through, larger than the
machine has room for."""

from __future__ import annotations

from functools import partial
from typing import Any

import shapely

from draxet.geometry.narrow_places import near_places, thin_places, touching_places
from draxet.job.contour_edits import close_contours
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.operating import choose_machine
from draxet.job.operations import Raise, Turn
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import MOST_PLACES

__all__ = ["bodies_amiss"]

_LEVEL = 1e-3
"""mm: a level that is nearer to a layer's end lies there."""


def bodies_amiss(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """What is wrong with the bodies of a sheet."""
    return [
        *_open(job, sheet),
        *_without_axis(job, sheet),
        *_over_the_axis(job, sheet, product),
        *_beyond_the_room(job, sheet, product),
        *_narrow(job, sheet, product),
        *_touching(sheet, product),
        *_deeper_than_the_base(sheet, product),
        *_outside_the_base(sheet, product),
        *_loose(sheet, product),
        *_between_layers(sheet, product),
    ]


def _open(job: Job, sheet: Sheet) -> list[Finding]:
    """What is to be raised or sunk and bounds no area."""
    items = [
        job.contour_by_id[name]
        for operation in job.operations
        if isinstance(operation, Raise)
        for name, contour in job.worked_on(operation, sheet)
        if not contour.closed
    ]
    if not items:
        return []
    ids, one = tuple(item.id for item in items), len(items) == 1
    ends = [item.contour.nodes[[0, -1]].mean(axis=0).tolist() for item in items]
    return [
        Finding(
            f"bodies-leak-{sheet.id}",
            f"{count_words(len(items), 'outline')} that {'is' if one else 'are'} raised or sunk {'is' if one else 'are'} open, and {'becomes' if one else 'become'} no body",
            Gravity.STOPS,
            "mend",
            ids,
            tuple((float(x), float(y)) for x, y in ends[:MOST_PLACES]),
            partial(close_contours, ids=ids),
            "Close with a line",
        )
    ]


def _without_axis(job: Job, sheet: Sheet) -> list[Finding]:
    """What is to be turned about a guide that is not there, or led along a path that is not on its
    sheet."""
    guides, found = {guide.id for guide in job.guides}, list[Finding]()
    here = {item.id for item in job.contours if item.sheet == sheet.id}
    turning = [each for each in job.operations if isinstance(each, Turn)]
    lost = [each for each in turning if not here.issuperset(each.goes_by)]
    for key, words, some in (
        (
            "axis",
            "no axis to turn about: choose a guide in Turn",
            [each for each in turning if each.axis not in guides and not each.is_shaft],
        ),
        (
            "path",
            f"a path that is not on {sheet.name}: choose another in Turn",
            [each for each in lost if not each.is_shaft],
        ),
        (
            "shaft-by",
            f"an outline on top or a curve that is not on {sheet.name}: choose another in Turn",
            [each for each in lost if each.is_shaft],
        ),
    ):
        ids = tuple(name for each in some for name, _ in job.worked_on(each, sheet))
        if ids:
            has = "has" if len(ids) == 1 else "have"
            said = f"{count_words(len(ids), 'profile')} {has} {words}"
            found.append(Finding(f"bodies-{key}-{sheet.id}", said, Gravity.STOPS, "make", ids))
    return found


def _over_the_axis(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Profiles that reach over their axis, or would run into themselves along their path; shafts by
    no curve that rises."""
    turning = [each for each in job.operations if isinstance(each, Turn)]
    up = {name for each in turning if each.is_shaft for name in each.contours}
    led = {name for each in turning if each.path for name in each.contours} - up
    found = list[Finding]()
    for key, verbs, words, some in (
        (
            "over",
            ("reaches", "reach"),
            "over the axis: what is turned lies on one side of it",
            [o for o in product.crossed if o[0] not in led | up],
        ),
        (
            "bend",
            ("runs", "run"),
            "into itself in a tight bend of its path",
            [o for o in product.crossed if o[0] in led],
        ),
        (
            "shaft",
            ("becomes", "become"),
            "no shaft: the curve must rise all the way and leave something, and outlines must not run into themselves",
            [o for o in product.crossed if o[0] in up],
        ),
    ):
        if some:
            ids, places = zip(*some, strict=True)
            said = f"{count_words(len(some), 'profile')} {verbs[len(some) > 1]} {words}"
            at = _placed(sheet, list(places))
            found.append(
                Finding(f"bodies-{key}-{sheet.id}", said, Gravity.STOPS, "make", tuple(ids), at)
            )
    return found


def _beyond_the_room(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Bodies that the machine has no room for, be they turned by a right angle."""
    machine, size = product.machine, product.size
    if not machine.has("box_z") or _has_room(machine, size):
        return []
    said = " × ".join(f"{each:.4g}" for each in size)
    has = f"{machine.box_x:g} × {machine.box_y:g} × {machine.box_z:g}"
    others = (each for each in job.every_machine if each.has("box_z"))
    other = next((each for each in others if _has_room(each, size)), None)
    return [
        Finding(
            f"bodies-room-{sheet.id}",
            f"{sheet.name} comes to {said} mm, and the {machine.name.lower()} has room for {has} mm",
            Gravity.STOPS,
            "make",
            (),
            _placed(
                sheet,
                [((product.box[0] + product.box[2]) / 2, (product.box[1] + product.box[3]) / 2)],
            ),
            partial(choose_machine, sheet_id=sheet.id, machine_id=other.id) if other else None,
            f"Take the {other.name.lower()}" if other else "",
        )
    ]


def _has_room(machine: Any, size: tuple[float, ...]) -> bool:
    room = (*sorted((machine.box_x, machine.box_y)), machine.box_z)
    wide = (*sorted(size[:2]), size[2])
    return all(a <= b + 1e-6 for a, b in zip(wide, room, strict=True))


def _placed(sheet: Sheet, places: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    x, y = sheet.origin_place
    return tuple((a + x, b + y) for a, b in places[:MOST_PLACES])


def _narrow(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    whole, smallest, found = product.work, job.smallest_feature, list[Finding]()
    for key, places in (
        ("thin", thin_places(whole, smallest)),
        ("near", near_places(whole, smallest)),
    ):
        if places:
            one = len(places) == 1
            noun = "wall" if key == "thin" else "gap"
            words = f"{count_words(len(places), noun)} {'is' if one else 'are'} {'thinner' if key == 'thin' else 'narrower'} than the smallest feature of {smallest:g} mm"
            found.append(
                Finding(
                    f"bodies-{key}-{sheet.id}",
                    words,
                    Gravity.WARNS,
                    "make",
                    (),
                    _placed(sheet, places),
                )
            )
    return found


def _touching(sheet: Sheet, product: Any) -> list[Finding]:
    places = touching_places(product.work)
    if not places:
        return []
    words = f"Areas meet in a point alone at {count_words(len(places), 'place')}: what is raised there holds by an edge of no breadth"
    return [
        Finding(
            f"bodies-touch-{sheet.id}", words, Gravity.WARNS, "make", (), _placed(sheet, places)
        )
    ]


def _deeper_than_the_base(sheet: Sheet, product: Any) -> list[Finding]:
    """What is sunk deeper than the base is thick goes through, which may be meant."""
    deep = [
        k
        for k, each in enumerate(product.raised)
        if each.sunk
        and product.thickness
        and (each.low < -1e-9 or (each.from_below and each.high > product.thickness + 1e-9))
    ]
    if not deep:
        return []
    ids = tuple(dict.fromkeys(name for k in deep for name in product.ids[k]))
    at = [(p.x, p.y) for p in (shapely.point_on_surface(product.raised[k].area) for k in deep)]
    words = f"{count_words(len(deep), 'area')} {'is' if len(deep) == 1 else 'are'} sunk deeper than the base of {product.thickness:g} mm: {'it goes' if len(deep) == 1 else 'they go'} through"
    return [
        Finding(f"bodies-deep-{sheet.id}", words, Gravity.INFORMS, "make", ids, _placed(sheet, at))
    ]


def _outside_the_base(sheet: Sheet, product: Any) -> list[Finding]:
    """What is sunk where nothing is."""
    lost = []
    for k, each in enumerate(product.raised):
        before = [other for other in product.raised[:k] if not other.sunk]
        if each.sunk and not any(
            shapely.intersects(other.area, each.area)
            and other.low < each.high
            and other.high > each.low
            for other in before
        ):
            lost.append(k)
    if not lost:
        return []
    ids = tuple(dict.fromkeys(name for k in lost for name in product.ids[k]))
    at = [(p.x, p.y) for p in (shapely.point_on_surface(product.raised[k].area) for k in lost)]
    words = f"{count_words(len(lost), 'area')} {'is' if len(lost) == 1 else 'are'} sunk where there is nothing to sink {'it' if len(lost) == 1 else 'them'} into: give the sheet a base, or raise something beneath first"
    return [
        Finding(f"bodies-nothing-{sheet.id}", words, Gravity.STOPS, "make", ids, _placed(sheet, at))
    ]


def _loose(sheet: Sheet, product: Any) -> list[Finding]:
    """How many pieces there are that nothing joins."""
    count = product.pieces
    if count < 2:
        return []
    words = f"{sheet.name} comes to {count} pieces that nothing joins"
    return [Finding(f"bodies-loose-{sheet.id}", words, Gravity.INFORMS, "make")]


def _between_layers(sheet: Sheet, product: Any) -> list[Finding]:
    """Levels that no layer of the machine ends at."""
    machine = product.machine
    if not machine.has("layer"):
        return []
    levels = sorted({end for each in product.raised for end in (each.low, each.high) if end > 0})
    off = [
        level
        for level in levels
        if abs(level / machine.layer - round(level / machine.layer)) * machine.layer > _LEVEL
    ]
    if not off:
        return []
    near = round(off[0] / machine.layer) * machine.layer
    more = f", and {len(off) - 1} more" if len(off) > 1 else ""
    words = f"{off[0]:.4g} mm is no whole number of layers of {machine.layer:g} mm: it comes out {near:.4g} mm high{more}"
    return [Finding(f"bodies-layers-{sheet.id}", words, Gravity.INFORMS, "make")]
