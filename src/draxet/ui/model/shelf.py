"""The shelf: recipes and machines that people keep beyond one job, in two small files of their own
folder."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from draxet.files import write_whole
from draxet.job.machine_kinds import Machine
from draxet.job.recipe import Recipe, same_use
from draxet.make.machine_files import machines_as_json, read_machines
from draxet.make.recipes import read_recipes, recipes_as_json
from draxet.make.rows import RowError

__all__ = ["keep_machine", "keep_recipes", "kept_machines", "kept_recipes", "put_away_recipes"]

_Kept = TypeVar("_Kept", Recipe, Machine)


def _file(name: str) -> Path:
    from platformdirs import user_config_path  # slow to load

    return Path(user_config_path("draxet")) / f"{name}.json"


def _read(name: str, read: Callable[[str, str], list[_Kept]]) -> list[_Kept]:
    """What a file holds; nothing where it is not there or cannot be read."""
    try:
        return read(_file(name).read_text("utf-8"), f"{name}.json")
    except (OSError, UnicodeDecodeError, RowError):
        return []


def _write(name: str, text: str) -> None:
    path = _file(name)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, text.encode())


def kept_recipes() -> list[Recipe]:
    """The recipes on the shelf."""
    return _read("recipes", read_recipes)


def keep_recipes(recipes: Sequence[Recipe]) -> None:
    """Put recipes on the shelf; one for the same use and of the same name gives way.

    Raises
    ------
    OSError : where the folder cannot be written.
    """
    new = {same_use(recipe) for recipe in recipes}
    _write(
        "recipes",
        recipes_as_json(
            [*(recipe for recipe in kept_recipes() if same_use(recipe) not in new), *recipes]
        ),
    )


def put_away_recipes(recipes: Sequence[Recipe]) -> None:
    """Take recipes off the shelf.

    Raises
    ------
    OSError : where the folder cannot be written.
    """
    gone = {same_use(recipe) for recipe in recipes}
    _write(
        "recipes",
        recipes_as_json([recipe for recipe in kept_recipes() if same_use(recipe) not in gone]),
    )


def kept_machines() -> list[Machine]:
    """The machines on the shelf."""
    return _read("machines", read_machines)


def keep_machine(machine: Machine) -> None:
    """Put a machine on the shelf; one of the same name gives way.

    Raises
    ------
    OSError : where the folder cannot be written.
    """
    _write(
        "machines",
        machines_as_json(
            [*(each for each in kept_machines() if each.name != machine.name), machine]
        ),
    )
