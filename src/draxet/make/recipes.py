"""Recipes as files: JSON and CSV, written and read back; what is wrong with a row is said with its number."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import fields
from typing import Any

from draxet.job.codec import CodecError, Parts, read_record, written
from draxet.job.recipe import Recipe
from draxet.job.sound import fault_of

__all__ = ["RecipeError", "read_recipes", "recipes_as_csv", "recipes_as_json"]

_FORMAT = "draxet recipes"
_NAMES = tuple(each.name for each in fields(Recipe))
_NUMBERS = ("thickness", "feed", "power", "width", "depth", "spacing")
_MOST = 10_000


class RecipeError(ValueError):
    """A file of recipes that cannot be read; the message is one sentence for people."""


def recipes_as_json(recipes: Sequence[Recipe]) -> str:
    return json.dumps({"format": _FORMAT, "recipes": [written(Recipe, recipe, Parts()) for recipe in recipes]}, ensure_ascii=False, indent=1)


def recipes_as_csv(recipes: Sequence[Recipe]) -> str:
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\n")
    rows.writerow(_NAMES)
    rows.writerows([getattr(recipe, name) for name in _NAMES] for recipe in recipes)
    return text.getvalue()


def read_recipes(text: str, name: str) -> list[Recipe]:
    """The recipes of a file's text, JSON or CSV by its first letter.

    Raises
    ------
    RecipeError : where it is neither, or a value is out of its range.
    """
    rows = _from_json(text, name) if text.lstrip()[:1] in ("{", "[") else _from_csv(text, name)
    if len(rows) > _MOST:
        raise RecipeError(f"{name} holds {len(rows):,} recipes, {_MOST:,} can be read; take fewer")
    found = []
    for number, row in enumerate(rows, 1):
        try:
            recipe = read_record(Recipe, row, Parts(), f"recipe {number}", _refuse, fault_of)
        except (CodecError, TypeError) as error:
            raise RecipeError(f"{name}: {error}") from error
        if fault := fault_of(Recipe, recipe, f"recipe {number}"):
            raise RecipeError(f"{name}: {fault}")
        found.append(recipe)
    return found


def _refuse(what: str, why: str) -> None:
    raise CodecError(why)


def _from_json(text: str, name: str) -> list[Any]:
    try:
        words = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RecipeError(f"{name} is no sound JSON; export recipes again") from error
    if not isinstance(words, dict) or words.get("format") != _FORMAT or not isinstance(words.get("recipes"), list):
        raise RecipeError(f"{name} holds no recipes; it must be a file that was exported as recipes")
    rows: list[Any] = words["recipes"]
    return rows


def _from_csv(text: str, name: str) -> list[Any]:
    try:
        rows = list(csv.DictReader(io.StringIO(text)))
    except csv.Error as error:
        raise RecipeError(f"{name} is no sound CSV: {error}") from error
    lacking = [wanted for wanted in ("name", "machine", "material", "thickness", "kind") if rows and wanted not in rows[0]]
    if not rows or lacking:
        raise RecipeError(f"{name} holds no recipes; its first line must name the columns {', '.join(_NAMES)}")
    found = []
    for number, row in enumerate(rows, 1):
        made: dict[str, Any] = {key: value for key, value in row.items() if key in _NAMES and value not in (None, "")}
        made.setdefault("id", f"recipe-{number}")
        for key in (*_NUMBERS, "passes"):
            if key in made:
                try:
                    made[key] = int(made[key]) if key == "passes" else float(made[key])
                except ValueError as error:
                    raise RecipeError(f"{name}: {key} in row {number} must be a number, got {made[key][:40]!r}") from error
        found.append(made)
    return found
