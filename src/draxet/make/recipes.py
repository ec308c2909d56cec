"""Recipes as files: JSON and CSV, written and read back; what is wrong with a row is said with its
number."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import fields
from typing import Any

from draxet.job.codec import written
from draxet.job.codec_parts import Parts
from draxet.job.recipe import Recipe
from draxet.make.rows import RowError, read_row, rows_of

__all__ = ["read_recipes", "recipes_as_csv", "recipes_as_json"]

_FORMAT = "draxet recipes"
_NAMES = tuple(each.name for each in fields(Recipe))
_NUMBERS = ("thickness", "feed", "power", "width", "depth", "spacing", "pass_depth", "pierce")
_MOST = 10_000


def recipes_as_json(recipes: Sequence[Recipe]) -> str:
    return json.dumps(
        {"format": _FORMAT, "recipes": [written(Recipe, recipe, Parts()) for recipe in recipes]},
        ensure_ascii=False,
        indent=1,
    )


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
    RowError : where it is neither, or a value is out of its range.
    """
    rows = (
        rows_of(text, name, _FORMAT, "recipes")
        if text.lstrip()[:1] in ("{", "[")
        else _from_csv(text, name)
    )
    if len(rows) > _MOST:
        raise RowError(f"{name} holds {len(rows):,} recipes, {_MOST:,} can be read; take fewer")
    return [read_row(Recipe, row, name, f"recipe {number}") for number, row in enumerate(rows, 1)]


def _from_csv(text: str, name: str) -> list[Any]:
    try:
        rows = list(csv.DictReader(io.StringIO(text)))
    except csv.Error as error:
        raise RowError(f"{name} is no sound CSV: {error}") from error
    lacking = [
        wanted
        for wanted in ("name", "machine", "material", "thickness", "kind")
        if rows and wanted not in rows[0]
    ]
    if not rows or lacking:
        raise RowError(
            f"{name} holds no recipes; its first line must name the columns {', '.join(_NAMES)}"
        )
    found = []
    for number, row in enumerate(rows, 1):
        made: dict[str, Any] = {
            key: value for key, value in row.items() if key in _NAMES and value not in (None, "")
        }
        made.setdefault("id", f"recipe-{number}")
        for key in (*_NUMBERS, "passes"):
            if key in made:
                try:
                    made[key] = int(made[key]) if key == "passes" else float(made[key])
                except ValueError as error:
                    raise RowError(
                        f"{name}: {key} in row {number} must be a number, got {made[key][:40]!r}"
                    ) from error
        if "air" in made:
            if made["air"] not in ("True", "False", "1", "0", "true", "false"):
                raise RowError(
                    f"{name}: air in row {number} must be True or False, got {made['air'][:40]!r}"
                )
            made["air"] = made["air"] in ("True", "1", "true")
        found.append(made)
    return found
