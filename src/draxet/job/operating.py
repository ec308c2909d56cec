"""Edits of what is done to contours: operations, machines and recipes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from draxet.job.entries import put, set_on
from draxet.job.layout import worked_name
from draxet.job.machine_kinds import Machine
from draxet.job.materials import machine_for
from draxet.job.operations import CutThrough, Operation, Side
from draxet.job.recipe import Recipe, same_use
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet

__all__ = [
    "add_operation",
    "add_recipes",
    "choose_machine",
    "give_operation",
    "move_operation",
    "remove_operation",
    "set_machine",
    "set_operation",
    "taken_up",
]


def give_operation(
    job: Job, name: str, ids: Sequence[str], side: Side, width: float, feed: float
) -> Job:
    """Contours cut by a new operation; they leave the one that cut them."""
    return add_operation(job, CutThrough("", name, tuple(ids), side, width, feed)) if ids else job


def add_operation(job: Job, operation: Operation) -> Job:
    """One more operation, with an id of its own; its contours leave others of its kind. With one a
    job is to be worked, whatever it was for before."""
    operation = _as_named(job, operation)
    made = replace(operation, id=f"operation-{job.next_id}")  # type: ignore[type-var]
    return replace(
        job,
        purpose=job.purpose if job.is_worked else "",
        sheets=tuple(_on_its_machine(job, sheet, made) for sheet in job.sheets),
        operations=(
            *(left for o in job.operations if (left := _left(o, operation)) is not None),
            made,
        ),
        next_id=job.next_id + 1,
    )


def taken_up(before: Job, after: Job) -> Job:
    """A job after an edit in which what closed is worked by the operation that takes it, if there is
    one and the sheet's machine does that."""
    takes = [operation for operation in after.operations if operation.takes]
    if not takes or after.contours is before.contours:
        return after
    able = [s for s in after.sheets if after.machine_of(s).can_do(takes[-1])]
    sheets = {sheet.id for sheet in able}
    was = {item.id for item in before.contours if item.contour.closed}
    new = [
        item.id
        for item in after.contours
        if item.contour.closed
        and item.id not in was
        and item.id not in after.worked
        and item.sheet in sheets
    ]
    more = (*takes[-1].contours, *new)
    return set_operation(after, takes[-1].with_contours(more)) if new else after


def _on_its_machine(job: Job, sheet: Sheet, operation: Operation) -> Sheet:
    """A sheet that is worked: from then on its machine goes no more by its material."""
    if sheet.machine or not job.has_work(operation, sheet):
        return sheet
    found = machine_for(job.every_machine, sheet.material, sheet.thickness)
    return replace(sheet, machine=found.id) if found else sheet


def _as_named(job: Job, operation: Operation) -> Operation:
    """An operation that names contours of the layout, naming what it works in their place."""
    if not job.placements:
        return operation
    names = tuple(dict.fromkeys(worked_name(job, name) for name in operation.contours))
    changes: dict[str, Any] = {"contours": names}
    if spots := operation.spots:
        named = (replace(spot, contour=worked_name(job, spot.contour)) for spot in spots)
        changes["spots"] = tuple(dict.fromkeys(named))
    return replace(operation, **changes)  # type: ignore[type-var]


def _left(before: Operation, new: Operation) -> Operation | None:
    """An operation as far as a new one of its kind leaves it."""
    return before.without(frozenset(new.contours)) if new.displaces(before) else before


def set_operation(job: Job, operation: Operation) -> Job:
    """An operation with other settings, in its place."""
    operation = _as_named(job, operation)
    return put(job, "operations", operation)


def remove_operation(job: Job, operation_id: str) -> Job:
    return replace(job, operations=tuple(o for o in job.operations if o.id != operation_id))


def move_operation(job: Job, operation_id: str, by: int) -> Job:
    """An operation so many places later (earlier where under 0)."""
    operations = list(job.operations)
    at = next(k for k, o in enumerate(operations) if o.id == operation_id)
    operations.insert(min(max(at + by, 0), len(operations) - 1), operations.pop(at))
    return (
        replace(job, operations=tuple(operations)) if tuple(operations) != job.operations else job
    )


def set_machine(job: Job, machine: Machine) -> Job:
    """A machine with other settings: in the place of an own one of its id, or of the one that
    ships."""
    others = tuple(each for each in job.machines if each.id != machine.id)
    return replace(job, machines=(*others, machine)) if machine not in job.machines else job


def add_recipes(job: Job, recipes: Sequence[Recipe]) -> Job:
    """More recipes, each with an id of its own; one of the same name, machine, material, thickness
    and kind gives way."""
    new = {same_use(recipe): recipe for recipe in recipes}
    kept = tuple(recipe for recipe in job.recipes if same_use(recipe) not in new)
    made = tuple(
        replace(recipe, id=f"recipe-{job.next_id + k}") for k, recipe in enumerate(new.values())
    )
    return replace(job, recipes=(*kept, *made), next_id=job.next_id + len(made))


def choose_machine(job: Job, sheet_id: str, machine_id: str) -> Job:
    """A sheet is worked on another machine."""
    return set_on(job, "sheets", (sheet_id,), machine=machine_id)
