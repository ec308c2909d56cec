"""Looks at how contours are made: with or without an operation, by which recipe, with which tool."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import shapely

from draxet.job.bridge_edits import remove_bridges
from draxet.job.bridges import cuts_held, cuts_of
from draxet.job.contour_records import ContourItem
from draxet.job.copies import apart_in_work
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.layout import worked_name
from draxet.job.materials import is_near, words_apart
from draxet.job.operating import remove_operation, set_operation
from draxet.job.operations import Operation
from draxet.job.recipe import Recipe, best_first
from draxet.job.records import Job
from draxet.job.twice import on_edges_of
from draxet.prove.look_places import HAIR, MOST_PLACES, boxes_of_items, ids_and_middles

__all__ = [
    "contours_without_operation",
    "cut_and_filled",
    "filled_frames",
    "idle_bridges",
    "other_recipe",
    "unfit_operations",
    "unheard_stops",
    "unreached_corners",
]

_FRAMED = 3
"""A frame and what is in it are so many contours at the least."""
_LEFT_OVER = 0.02
"""Of the square of a tool's diameter: so much of a pocket may stay in its corners untold."""


def contours_without_operation(job: Job) -> list[Finding]:
    left = [item for item in job.contours if item.id not in job.worked]
    done = [item for item in job.contours if item.id in job.worked] if left else []
    if done:  # the edge of a neighbour, which is worked once
        twins = {item.id for item in on_edges_of(left, done)}
        left = [item for item in left if item.id not in twins]
    if not left:
        return []
    return [
        Finding(
            "no-operation",
            f"{count_words(len(left), 'contour')} without an operation will not be worked",
            Gravity.WARNS,
            "make",
            *ids_and_middles(left),
        )
    ]


def unfit_operations(job: Job) -> list[Finding]:
    """Operations that the sheet's machine cannot do, and contours that an operation cannot be done
    to."""
    found = []
    for operation in job.operations:
        items = [job.contour_by_id[name] for name in operation.contours]
        wrong = [
            item
            for item in items
            for sheet in job.sheets
            if sheet.id == item.sheet and not job.machine_of(sheet).can_do(operation)
        ]
        if wrong:
            sheet = next(sheet for sheet in job.sheets if sheet.id == wrong[0].sheet)
            words = f"The {job.machine_of(sheet).name.lower()} cannot {operation.acts.lower()}: {operation.name} is for another machine"
            found.append(
                Finding(
                    f"unfit-{operation.id}",
                    words,
                    Gravity.STOPS,
                    "make",
                    *ids_and_middles(wrong),
                    partial(remove_operation, operation_id=operation.id),
                    "Remove it",
                )
            )
        for why, ids in operation.wrong_with([(item.id, item.contour) for item in items]).items():
            bad = [job.contour_by_id[name] for name in ids]
            words = f"{operation.name}: {count_words(len(bad), 'contour')} {why}"
            mend = partial(_without_contours, operation_id=operation.id, ids=frozenset(ids))
            found.append(
                Finding(
                    f"wrong-{operation.id}",
                    words,
                    Gravity.STOPS,
                    "make",
                    *ids_and_middles(bad),
                    mend,
                    "Take them out of it" if len(bad) > 1 else "Take it out of it",
                )
            )
    return found


def _no_recipe(job: Job, operation: Operation, items: Sequence[ContourItem]) -> list[Finding]:
    """An operation without a recipe, where there is one for the machine, the material and the
    thickness of its sheet."""
    sheet = next((sheet for sheet in job.sheets if items and sheet.id == items[0].sheet), job.sheet)
    best = best_first(
        job.every_recipe,
        job.machine_of(sheet).id,
        sheet.material,
        sheet.thickness,
        type(operation).__name__,
    )
    fits = [recipe for recipe in best if is_near(recipe, sheet.material, sheet.thickness)]
    what = f"{sheet.material}, {sheet.thickness:g} mm"
    if not fits:
        return [
            Finding(
                f"no-recipe-{operation.id}",
                f"{operation.name} goes by no recipe, and there is none for {what}: try it on a coupon",
                Gravity.INFORMS,
                "make",
                *ids_and_middles(items),
            )
        ]
    near = fits[0]
    apart = words_apart(sheet.material, sheet.thickness, near.material, near.thickness)
    words = (
        f"{operation.name} goes by no recipe, and there is none for {what}; near is {near.name} ({apart})"
        if apart
        else f"{operation.name} goes by no recipe; there is one for {what}: {near.name}"
    )
    return [
        Finding(
            f"no-recipe-{operation.id}",
            words,
            Gravity.INFORMS,
            "make",
            *ids_and_middles(items),
            partial(_by_recipe, operation_id=operation.id, recipe=near),
            "Take it",
        )
    ]


def _by_recipe(job: Job, operation_id: str, recipe: Recipe) -> Job:
    return set_operation(
        job, recipe.applied(next(each for each in job.operations if each.id == operation_id))
    )


def other_recipe(job: Job) -> list[Finding]:
    """Operations whose recipe is gone, or was made for another thickness than their sheet has."""
    recipes = {recipe.id: recipe for recipe in job.every_recipe}
    thickness = {sheet.id: sheet.thickness for sheet in job.sheets}
    found = []
    for operation in job.operations:
        items = [job.contour_by_id[name] for name in operation.contours]
        by_hand = any(
            not job.machine_of(sheet).runs_program
            for sheet in job.sheets
            if any(item.sheet == sheet.id for item in items)
        )
        if operation.waits or by_hand:
            continue
        if not operation.recipe:
            found += _no_recipe(job, operation, items)
            continue
        recipe = recipes.get(operation.recipe)
        if recipe is None:
            found.append(
                Finding(
                    f"recipe-{operation.id}",
                    f"The recipe of {operation.name} is not in this job",
                    Gravity.INFORMS,
                    "make",
                    *ids_and_middles(items),
                )
            )
            continue
        off = [
            item
            for item in items
            if abs(thickness.get(item.sheet, recipe.thickness) - recipe.thickness) > 1e-6
        ]
        if off:
            words = f"{operation.name} goes by the recipe {recipe.name}, made for {recipe.thickness:g} mm; its sheet is {thickness[off[0].sheet]:g} mm thick"
            thick = thickness[off[0].sheet]
            gravity = Gravity.INFORMS if is_near(recipe, recipe.material, thick) else Gravity.WARNS
            found.append(
                Finding(f"recipe-{operation.id}", words, gravity, "make", *ids_and_middles(off))
            )
    return found


def unheard_stops(job: Job) -> list[Finding]:
    """Operations that begin with a stop on a machine that knows none."""
    found = []
    for sheet in job.sheets:
        machine = job.machine_of(sheet)
        some = [each for each in job.operations if each.stop and job.has_work(each, sheet)]
        if not some or machine.dialect.stop.strip():
            continue
        words = f"{some[0].name} begins with a stop, but the {machine.name.lower()} has no word for it: it would go on"
        found.append(Finding(f"no-stop-{sheet.id}", words, Gravity.STOPS, "make"))
    return found


def cut_and_filled(job: Job) -> list[Finding]:
    """Contours whose area is engraved or cleared, and that are cut through as well: what is filled
    would fall out."""
    filled = {
        name
        for operation in job.operations
        if operation.wants == "closed"
        for name in operation.contours
    }
    found = []
    for operation in job.operations:
        both = [
            job.contour_by_id[name]
            for name in operation.contours
            if operation.through and name in filled
        ]
        if both:
            words = f"{operation.name} cuts out {count_words(len(both), 'area')} that {'is' if len(both) == 1 else 'are'} to be filled"
            mend = partial(
                _without_contours,
                operation_id=operation.id,
                ids=frozenset(item.id for item in both),
            )
            found.append(
                Finding(
                    f"cut-and-filled-{operation.id}",
                    words,
                    Gravity.WARNS,
                    "make",
                    *ids_and_middles(both),
                    mend,
                    "Take them out of the cut" if len(both) > 1 else "Take it out of the cut",
                )
            )
    return found


def _without_contours(job: Job, operation_id: str, ids: frozenset[str]) -> Job:
    job = apart_in_work(job, ids)
    operation = next(each for each in job.operations if each.id == operation_id)
    gone = {worked_name(job, name) for name in ids}
    left = [name for name in operation.contours if name not in gone]
    return (
        set_operation(job, operation.with_contours(left))
        if left
        else remove_operation(job, operation_id)
    )


def filled_frames(job: Job) -> list[Finding]:
    """Contours that are filled although they hold all else on their sheet, and nothing parts what
    they hold from it: a frame that was meant to be cut."""
    found = []
    for operation in job.operations:
        if operation.wants != "closed" or operation.through or operation.adds:
            continue
        for sheet in job.sheets:
            here = [item for item in job.contours if item.sheet == sheet.id]
            frame = _frame_of(here)
            if frame is None or frame.id not in operation.contours or frame.id in job.cut_of:
                continue
            words = f"{operation.name} fills the outermost contour of {sheet.name} as well, with all that lies in it, and no part comes loose: is it the frame, to be cut?"
            mend = partial(_without_contours, operation_id=operation.id, ids=frozenset((frame.id,)))
            kind = f"filled-frame-{operation.id}-{sheet.id}"
            at = ids_and_middles([frame])
            found.append(Finding(kind, words, Gravity.WARNS, "make", *at, mend, "Do not fill it"))
    return found


def _frame_of(items: Sequence[ContourItem]) -> ContourItem | None:
    """The one contour whose box holds all others, where there are at least two of these."""
    if len(items) < _FRAMED:
        return None
    boxes = boxes_of_items(items)
    outer = np.hstack([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)])
    holds = np.flatnonzero((np.abs(boxes - outer) < HAIR).all(axis=1))
    frame = items[holds[0]] if len(holds) == 1 else None
    return frame if frame is not None and frame.contour.closed else None


def idle_bridges(job: Job) -> list[Finding]:
    """Bridges that hold nothing, as their contour is gone or was moved."""
    idle = (
        [
            effect
            for effect in cuts_held(cuts_of(job, job.contours, HAIR), job.bridges).effects
            if effect.shape is None
        ]
        if job.bridges
        else []
    )
    if not idle:
        return []
    words = f"{count_words(len(idle), 'bridge')} {'holds' if len(idle) == 1 else 'hold'} nothing: {idle[0].lost}"
    mend = partial(remove_bridges, ids=tuple(effect.bridge.id for effect in idle))
    return [
        Finding(
            "idle-bridge",
            words,
            Gravity.WARNS,
            "mend",
            (),
            tuple(effect.place for effect in idle[:MOST_PLACES]),
            mend,
            "Remove them" if len(idle) > 1 else "Remove it",
        )
    ]


def unreached_corners(job: Job) -> list[Finding]:
    """Pockets that have no room for their tool, and what of them it cannot get to."""
    found = []
    for operation in job.operations:
        if not operation.clears:
            continue
        items = [
            job.contour_by_id[name]
            for name in operation.contours
            if job.contour_by_id[name].contour.closed
        ]
        contours, wide = [item.contour for item in items], operation.broad
        left = operation.unreached(contours) if items else None
        if left is None or left.area < _LEFT_OVER * wide**2:
            continue
        if not operation.has_room(contours):
            words = f"{operation.name}: no room for a tool of {wide:g} mm; take a thinner one"
            found.append(
                Finding(
                    f"no-room-{operation.id}", words, Gravity.STOPS, "make", *ids_and_middles(items)
                )
            )
            continue
        parts = sorted(shapely.get_parts(left), key=lambda part: -part.area)[:MOST_PLACES]
        words = f"{operation.name}: {left.area:.1f} mm² of corners cannot be reached by a tool of {wide:g} mm"
        found.append(
            Finding(
                f"unreached-{operation.id}",
                words,
                Gravity.INFORMS,
                "make",
                tuple(item.id for item in items),
                tuple((part.centroid.x, part.centroid.y) for part in parts),
            )
        )
    return found
