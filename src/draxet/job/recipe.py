"""Recipes: what a kind of operation is done with on a machine, in a material of a thickness."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields
from typing import Annotated, Any, TypeVar

from draxet.job.operations import OPERATION_KINDS, Operation
from draxet.job.ranges import Id, OneOf, Size, Text, Within, Words
from draxet.record import record

__all__ = ["RECIPES", "Recipe", "best_first", "recipe_like", "same_use"]

_KINDS = tuple(kind.__name__ for kind in OPERATION_KINDS)
_Kind = TypeVar("_Kind", bound=Operation)
_SETTINGS = ("feed", "power", "passes", "width", "depth", "spacing", "pass_depth", "pierce", "air")
"""What a recipe says of an operation that has it; 0 where it does not say."""


@record(frozen=True)
class Recipe:
    """machine : its id. kind : of operation. feed in mm/min, power in per cent, width (of a cut or
    a line), depth, spacing and pass_depth in mm, pierce in seconds; 0 where the operation's own
    stays. air : whether it is blown."""

    id: Id
    name: Words
    machine: Annotated[str, Text(100)]
    material: Words
    thickness: Size
    kind: Annotated[str, OneOf(_KINDS)]
    feed: Annotated[float, Within(0.0, 1e6)] = 0.0
    power: Annotated[float, Within(0.0, 100.0)] = 0.0
    passes: Annotated[int, Within(0, 100)] = 0
    width: Annotated[float, Within(0.0, 1000.0)] = 0.0
    depth: Annotated[float, Within(0.0, 1000.0)] = 0.0
    spacing: Annotated[float, Within(0.0, 1000.0)] = 0.0
    pass_depth: Annotated[float, Within(0.0, 1000.0)] = 0.0
    pierce: Annotated[float, Within(0.0, 60.0)] = 0.0
    air: bool = False

    def applied(self, operation: _Kind) -> _Kind:
        """An operation of its kind with what the recipe says."""
        has = {each.name for each in fields(operation)}  # type: ignore[arg-type]
        said: dict[str, Any] = {
            name: getattr(self, name) for name in _SETTINGS if name in has and getattr(self, name)
        }
        return operation.changed(**said, recipe=self.id)


def same_use(recipe: Recipe) -> tuple[object, ...]:
    """What two recipes have in common of which one takes the place of the other."""
    return recipe.name, recipe.machine, recipe.material, recipe.thickness, recipe.kind


def recipe_like(
    operation: Operation, number: int, name: str, machine: str, material: str, thickness: float
) -> Recipe:
    """A recipe of an operation's settings."""
    has = {each.name for each in fields(operation)}  # type: ignore[arg-type]
    said: dict[str, Any] = {key: getattr(operation, key) for key in _SETTINGS if key in has}
    return Recipe(
        f"recipe-{number}", name, machine, material, thickness, type(operation).__name__, **said
    )


def best_first(
    recipes: Sequence[Recipe], machine: str, material: str, thickness: float, kind: str
) -> list[Recipe]:
    """Those for a machine and a kind of operation: the same material first, then one like it, then
    the nearest thickness."""
    some = [recipe for recipe in recipes if recipe.machine == machine and recipe.kind == kind]
    return sorted(
        some,
        key=lambda recipe: (
            recipe.material.casefold() != material.casefold(),
            not set(recipe.material.casefold().split()) & set(material.casefold().split()),
            abs(recipe.thickness - thickness),
            recipe.name,
        ),
    )


_ROWS: tuple[tuple[str, str, float, str, dict[str, Any]], ...] = (
    ("plasma-table", "steel", 2.0, "CutThrough", {"feed": 3200.0, "width": 1.4}),
    ("plasma-table", "steel", 3.0, "CutThrough", {"feed": 2400.0, "width": 1.5}),
    ("plasma-table", "steel", 6.0, "CutThrough", {"feed": 1300.0, "width": 1.8, "pierce": 1.0}),
    (
        "desk-laser",
        "plywood",
        2.0,
        "CutThrough",
        {"feed": 900.0, "power": 85.0, "width": 0.15, "air": True},
    ),
    (
        "desk-laser",
        "plywood",
        3.0,
        "CutThrough",
        {"feed": 600.0, "power": 90.0, "width": 0.18, "air": True},
    ),
    ("desk-laser", "plywood", 3.0, "Score", {"feed": 3000.0, "power": 18.0, "width": 0.15}),
    ("desk-laser", "plywood", 3.0, "Engrave", {"feed": 9000.0, "power": 35.0, "spacing": 0.1}),
    ("gantry-router", "board", 3.0, "CutThrough", {"feed": 1500.0, "width": 3.175, "passes": 2}),
    ("gantry-router", "board", 3.0, "Pocket", {"feed": 1500.0, "depth": 1.5, "pass_depth": 1.0}),
    ("gantry-router", "board", 3.0, "Drill", {"feed": 300.0}),
    ("gantry-router", "plywood", 6.0, "CutThrough", {"feed": 1400.0, "width": 3.175, "passes": 3}),
    ("pen-plotter", "paper", 0.1, "Draw", {"feed": 6000.0, "width": 0.5}),
)
"""Machine, material, thickness in mm, kind of operation and its settings, of each that ships."""


def _shipped() -> tuple[Recipe, ...]:
    return tuple(
        Recipe(
            f"shipped-{k}",
            f"{material.capitalize()} {thickness:g} mm",
            machine,
            material,
            thickness,
            kind,
            **said,
        )
        for k, (machine, material, thickness, kind, said) in enumerate(_ROWS)
    )


RECIPES = _shipped()
"""Those for the simulated machines."""
