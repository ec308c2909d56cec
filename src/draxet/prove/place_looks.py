"""Looks at where contours lie: on their sheet, within a limit, within reach of the machine."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats
from draxet.geometry.nesting import as_polygon
from draxet.job.contour_records import ContourItem
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.limit_edits import limit_room
from draxet.job.records import Job
from draxet.prove.look_places import boxes_of_items, ids_and_middles

__all__ = [
    "beyond_limit",
    "beyond_the_limit",
    "near_the_rim",
    "out_of_reach",
    "outside_the_sheet",
    "pictures_beyond_reach",
]

_LIMIT_FINE = 0.02

_ON_RIM = 1e-3


def outside_the_sheet(job: Job) -> list[Finding]:
    if not job.contours:
        return []
    boxes, frame = boxes_of_items(job.contours), _frames(job)
    outside = (boxes[:, :2] < frame[:, :2] - 1e-6).any(axis=1) | (
        boxes[:, 2:] > frame[:, 2:] + 1e-6
    ).any(axis=1)
    found = [job.contours[k] for k in np.flatnonzero(outside).tolist()]
    if not found:
        return []
    cut = any(item.id in job.worked for item in found)
    words = f"{count_words(len(found), 'contour')} outside the {'sheet' if len(job.sheets) == 1 else 'sheets'}"
    return [
        Finding(
            "outside-sheet",
            words,
            Gravity.STOPS if cut else Gravity.WARNS,
            "prove",
            *ids_and_middles(found),
        )
    ]


def near_the_rim(job: Job) -> list[Finding]:
    """Contours that leave an edge of their sheet thinner than the smallest feature; what lies on
    the rim itself, or beyond, leaves none."""
    if not job.contours:
        return []
    boxes, frame = boxes_of_items(job.contours), _frames(job)
    room = np.hstack([boxes[:, :2] - frame[:, :2], frame[:, 2:] - boxes[:, 2:]])
    thin = (room > _ON_RIM) & (room < job.smallest_feature)
    found = [job.contours[k] for k in np.flatnonzero(thin.any(axis=1)).tolist()]
    if not found:
        return []
    words = f"{count_words(len(found), 'contour')} nearer to the rim of the sheet than the smallest feature, {job.smallest_feature:g} mm: {room[thin].min():.2f} mm"
    return [Finding("near-rim", words, Gravity.WARNS, "prove", *ids_and_middles(found))]


def beyond_the_limit(job: Job) -> list[Finding]:
    beyond = beyond_limit(job)
    if not beyond or job.limit is None:
        return []
    found = [job.contour_by_id[contour] for contour in beyond]
    return [
        Finding(
            "outside-limit",
            f"{count_words(len(found), 'contour')} outside the limit: {job.limit.name}",
            Gravity.STOPS,
            "prove",
            *ids_and_middles(found),
        )
    ]


def _within(items: Sequence[ContourItem], boxes: Floats, room: Any, x: float, y: float) -> Bools:
    """Which contours lie wholly in a room that is counted from a place, as their boxes are."""
    room = (room if room.is_valid else shapely.make_valid(room)).buffer(1e-6)
    shapely.prepare(room)
    inside: Bools = shapely.contains(room, shapely.box(*boxes.T))
    for k in np.flatnonzero(~inside).tolist():
        inside[k] = bool(
            room.contains(shapely.MultiPoint(items[k].contour.flattened(_LIMIT_FINE) - (x, y)))
        )
    return inside


def out_of_reach(job: Job) -> list[Finding]:
    """Contours with an operation that the sheet's machine cannot get to."""
    found, names = list[ContourItem](), list[str]()
    for sheet in job.sheets:
        machine = job.machine_of(sheet)
        here = [item for item in job.contours if item.sheet == sheet.id and item.id in job.worked]
        if not here or machine.reach is None:
            continue
        boxes = boxes_of_items(here) - np.array([sheet.x, sheet.y, sheet.x, sheet.y])
        far = ~_within(here, boxes, as_polygon(machine.reach, _LIMIT_FINE), sheet.x, sheet.y)
        beyond = [here[k] for k in np.flatnonzero(far).tolist()]
        found += beyond
        names += [machine.name] if beyond else []
    if not found:
        return []
    return [
        Finding(
            "out-of-reach",
            f"{count_words(len(found), 'contour')} out of the reach of the {names[0].lower()}",
            Gravity.STOPS,
            "make",
            *ids_and_middles(found),
        )
    ]


def pictures_beyond_reach(job: Job) -> list[Finding]:
    """Pictures that lie on a sheet as large as nothing that its machine reaches."""
    found = []
    for picture in job.pictures:
        x0, y0, x1, y1 = picture.box
        name = job.sheet_under(picture.box)
        sheet = next((each for each in job.sheets if each.id == name), job.sheet)
        machine = job.machine_of(sheet)
        if machine.reach is None:
            continue
        a, b, c, d = machine.reach.box
        wide, high = x1 - x0, y1 - y0
        if wide <= c - a + 1e-6 and high <= d - b + 1e-6:
            continue
        words = f"{picture.name} is {wide:.0f} × {high:.0f} mm as it lies; the {machine.name.lower()} reaches {c - a:g} × {d - b:g} mm"
        at = ((picture.id,), (picture.middle,))
        found.append(Finding(f"picture-reach-{picture.id}", words, Gravity.WARNS, "gather", *at))
    return found


def beyond_limit(job: Job) -> tuple[str, ...]:
    """Contours of the sheet in hand that do not lie wholly within the machine's limit."""
    if job.limit is None:
        return ()
    sheet = job.sheet
    here = [item for item in job.contours if item.sheet == sheet.id]
    if not here:
        return ()
    boxes = boxes_of_items(here) - np.array([sheet.x, sheet.y, sheet.x, sheet.y])
    inside = _within(here, boxes, limit_room(job.limit), sheet.x, sheet.y)
    return tuple(here[k].id for k in np.flatnonzero(~inside).tolist())


def _frames(job: Job) -> Floats:
    """For each contour the box (4,) of its sheet."""
    frames = {sheet.id: sheet.box for sheet in job.sheets}
    return np.array(
        [frames.get(item.sheet, job.sheets[0].box) for item in job.contours], dtype=np.float64
    )
