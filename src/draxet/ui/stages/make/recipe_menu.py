"""The recipes that fit an operation, the machine and the sheet: a menu, and the way to all
others."""

from __future__ import annotations

from functools import partial
from typing import ClassVar, Protocol

from PyQt6.QtGui import QAction

from draxet.files import reason
from draxet.job.operations import Operation
from draxet.job.recipe import Recipe, best_first, same_use
from draxet.ui.controls.questions import ask_name
from draxet.ui.controls.slip_parts import menu_button
from draxet.ui.model.session import Session
from draxet.ui.model.shelf import kept_recipes, put_away_recipes
from draxet.ui.stages.make.recipe_chooser import RecipeChooser
from draxet.units import format_speed

__all__ = ["RecipeMenu"]

_MOST = 30


class _Taking(Protocol):
    """The tool that takes a recipe, as far as it is needed here."""

    kind: ClassVar[type[Operation]]

    @property
    def record(self) -> Operation: ...

    def take_recipe(self, recipe: Recipe) -> None: ...

    def keep_recipe(self, name: str) -> None: ...


class RecipeMenu:
    """A button with the recipes that fit, the nearest first."""

    def __init__(self, session: Session, tool: _Taking) -> None:
        self._session, self._tool = session, tool
        self.button = menu_button("Recipe", [])
        self._kept = kept_recipes()
        self._shown: object = None

    def every(self) -> tuple[Recipe, ...]:
        """Those of the job and those that ship, then what else is kept for all jobs."""
        here = self._session.job.every_recipe
        known = {same_use(recipe) for recipe in here}
        return (*here, *(recipe for recipe in self._kept if same_use(recipe) not in known))

    def refresh(self) -> None:
        """Offer what fits now."""
        job, tool = self._session.job, self._tool
        sheet, machine, every = job.sheet, job.machine_of(job.sheet), self.every()
        state = (
            machine.speeds,
            every,
            machine.id,
            sheet.material,
            sheet.thickness,
            tool.record.recipe,
        )
        if state == self._shown:
            return
        self._shown = state
        fitting = best_first(every, machine.id, sheet.material, sheet.thickness, tool.kind.__name__)
        menu = self.button.menu()
        assert menu is not None
        menu.clear()
        for recipe in fitting[:_MOST]:
            action = QAction(
                f"{recipe.name} · {format_speed(recipe.feed, machine.speeds)}".replace("&", "&&"),
                menu,
            )
            action.triggered.connect(partial(tool.take_recipe, recipe))
            menu.addAction(action)
        menu.addSeparator()
        for words, act in (
            ("Find a recipe …", self.find),
            ("Keep these settings as a recipe …", self._ask_name),
        ):
            action = QAction(words, menu)
            action.triggered.connect(act)
            menu.addAction(action)
        taken = next((recipe.name for recipe in every if recipe.id == tool.record.recipe), "")
        self.button.setText((taken or f"{len(fitting)} for this machine").replace("&", "&&"))

    def _ask_name(self) -> None:
        sheet = self._session.job.sheet
        name = ask_name(
            self.button,
            "Keep a recipe",
            "What is it called?",
            f"{sheet.material.capitalize()} {sheet.thickness:g} mm, own",
            "Keep it",
        )
        if name:
            self._tool.keep_recipe(name)
            self._kept = kept_recipes()
            self.refresh()

    def find(self) -> None:
        """All recipes for operations of this kind, to be searched."""
        kind, session = self._tool.kind, self._session
        speeds = session.job.machine_of(session.job.sheet).speeds
        chooser = RecipeChooser(
            self.button,
            [recipe for recipe in self.every() if recipe.kind == kind.__name__],
            self._kept,
            f"Recipes to {self._tool.record.acts.lower()}",
            speeds,
        )
        wanted = chooser.exec()
        if chooser.put_away:
            try:
                put_away_recipes(chooser.put_away)
            except OSError as error:
                session.messages.refused.emit(
                    f"The recipes could not be put away: {reason(error)}."
                )
            self._kept = kept_recipes()
        if wanted and chooser.chosen is not None:
            self._tool.take_recipe(chooser.chosen)
        self.refresh()
