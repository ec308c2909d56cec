"""What a sheet is made of, as far as its name tells: which machine goes by it, and what must not be
done to it."""

from __future__ import annotations

import re
from functools import lru_cache

from draxet.job.machine_kinds import Machine
from draxet.job.recipe import RECIPES, Recipe

__all__ = ["is_alike", "is_metal", "is_near", "machine_for", "must_not_burn", "words_apart"]

_METALS = frozenset(
    "steel stainless iron aluminium aluminum brass copper bronze titanium zinc tin metal hardox corten".split()
)
_OTHERS = frozenset(
    "plywood ply wood birch oak beech pine spruce poplar bamboo veneer mdf hdf hardboard chipboard board cardboard card paper acrylic perspex plastic pvc vinyl polycarbonate abs petg polypropylene foam cork leather felt cloth cotton denim linen rubber stone slate glass".split()
)
_BURNS = _OTHERS - frozenset("stone slate glass pvc vinyl polycarbonate abs".split())
_BURNT_BADLY = {
    "pvc": "gives off chlorine, which harms lungs and machine",
    "vinyl": "gives off chlorine, which harms lungs and machine",
    "polycarbonate": "chars, catches fire and gives off harmful fumes",
    "abs": "melts, catches fire and gives off harmful fumes",
    "polystyrene": "catches fire",
    "styrofoam": "catches fire",
    "ptfe": "gives off fluorine",
    "teflon": "gives off fluorine",
    "fibreglass": "gives off harmful dust and fumes",
    "fiberglass": "gives off harmful dust and fumes",
    "carbon": "gives off harmful dust, and its resin burns",
}
_NEAR = 0.25
"""Of a thickness: so far off a recipe's own may be to be near."""
_THIN = 6.0
"""mm: what burns and is no thicker goes on a beam where no recipe says otherwise."""


def _words(material: str) -> frozenset[str]:
    return frozenset(re.findall(r"[a-z]+", material.casefold()))


def is_metal(material: str) -> bool | None:
    """Whether it is metal; None where its name does not tell."""
    words = _words(material)
    metal, other = bool(words & _METALS), bool(words & _OTHERS)
    return None if metal == other else metal


def must_not_burn(material: str) -> str:
    """What comes of burning it, where that must not be; else empty."""
    words = _words(material)
    return next((why for word, why in _BURNT_BADLY.items() if word in words), "")


def is_alike(one: str, other: str) -> bool:
    """Whether two names say the same material, or one says it more closely than the other."""
    a, b = _words(one), _words(other)
    return one.casefold() == other.casefold() or bool(a and b and (a <= b or b <= a))


def is_near(recipe: Recipe, material: str, thickness: float) -> bool:
    """Whether a recipe is for a material of a thickness (mm), or for what is like it."""
    return (
        is_alike(recipe.material, material)
        and abs(recipe.thickness - thickness) <= _NEAR * thickness
    )


def words_apart(wanted: str, thickness: float, material: str, thick: float) -> str:
    """How a recipe's material and thickness differ from those that are wanted, in words; empty where
    they do not."""
    found = []
    if material.casefold() != wanted.casefold():
        found.append(f"for {material}")
    if abs(thick - thickness) > 1e-6:
        found.append(
            f"{abs(thick - thickness):.3g} mm {'thicker' if thick > thickness else 'thinner'}"
        )
    return ", ".join(found)


def machine_for(machines: tuple[Machine, ...], material: str, thickness: float) -> Machine | None:
    """The machine that goes by a material of a thickness (mm): one that ships with a recipe to cut
    what is like it, else by whether that is metal, or burns; None where nobody can tell."""
    fits, metal, burns = _told_by(material, thickness)
    by_id = {machine.id: machine for machine in machines}
    for name in fits:
        if name in by_id:
            return by_id[name]
    if metal:
        return next((each for each in machines if each.traits.parts_metal), None)
    if metal is None:
        return None
    if burns:
        return next((each for each in machines if each.traits.has_power), None)
    return next((each for each in machines if each.traits.lowers), None)


@lru_cache(256)
def _told_by(material: str, thickness: float) -> tuple[tuple[str, ...], bool | None, bool]:
    """The machines of recipes that ship to cut what is like a material, the nearest first; whether it is
    metal, and whether it burns well in that thickness."""
    near = [
        recipe
        for recipe in RECIPES
        if recipe.kind == "CutThrough" and is_near(recipe, material, thickness)
    ]
    near.sort(key=lambda recipe: abs(recipe.thickness - thickness))
    burns = bool(_words(material) & _BURNS) and thickness <= _THIN and not must_not_burn(material)
    return tuple(recipe.machine for recipe in near), is_metal(material), burns
