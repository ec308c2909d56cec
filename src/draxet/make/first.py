"""What an operation is like before anybody said anything: by the recipe for its sheet, else with
the cut width and the feed of the machine."""

from __future__ import annotations

from dataclasses import replace

from draxet.job.operations import CutThrough, Draw, Operation
from draxet.job.recipe import best_first
from draxet.job.records import Job

__all__ = ["first_of"]

_SAME = 1e-6


def first_of(kind: type[Operation], job: Job) -> Operation:
    """An operation of a kind without contours, for the sheet in hand."""
    sheet, machine, made = job.sheet, job.machine_of(job.sheet), kind()
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
        made = replace(made, feed=min(made.feed, machine.most_feed))  # type: ignore[type-var]
    if isinstance(made, (CutThrough, Draw)) and not made.recipe:
        return replace(made, width=machine.cut_width)
    return made
