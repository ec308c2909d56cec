"""What an operation is like before anybody said anything: by the recipe for its sheet, else with
the cut width and the feed of the machine."""

from __future__ import annotations

from typing import TypeVar

from draxet.job.operations import Operation
from draxet.job.recipe import best_first
from draxet.job.records import Job

__all__ = ["first_of"]

_SAME = 1e-6
_LEAST_LEAD = 3.0
"""mm: so far beside the part a pierce is at the least."""
_Kind = TypeVar("_Kind", bound=Operation)


def first_of(kind: type[_Kind], job: Job) -> _Kind:
    """An operation of a kind without contours, for the sheet in hand."""
    sheet, machine = job.sheet, job.machine_of(job.sheet)
    made = kind()
    for recipe in best_first(
        job.every_recipe, machine.id, sheet.material, sheet.thickness, kind.__name__
    ):
        if (
            recipe.material.casefold() == sheet.material.casefold()
            and abs(recipe.thickness - sheet.thickness) < _SAME
        ):
            made = recipe.applied(made)
            break
    else:
        made = made.changed(feed=min(made.feed, machine.most_feed))
    if made.as_broad_as_machine and not made.recipe:
        made = made.changed(width=machine.cut_width)
    if made.through and machine.traits.pierces:
        made = made.changed(lead=max(2 * made.width, _LEAST_LEAD))
    most = machine.takes_at_once(made.broad)
    if made.through and machine.traits.lowers and made.deepest_pass(sheet.thickness) > most:
        made = made.changed(pass_depth=most)
    return made
