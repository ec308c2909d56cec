"""All recipes there are, with a field to search them by any of their words."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from draxet.job.recipe import Recipe
from draxet.ui.controls.fields import WordField
from draxet.ui.controls.slip_parts import allow, button, label
from draxet.ui.look.style import px
from draxet.units import format_speed

__all__ = ["RecipeChooser", "found_recipes"]


def found_recipes(recipes: Sequence[Recipe], words: str) -> list[Recipe]:
    """The recipes in whose words, machine, material, thickness and kind every one of some words
    stands."""
    wanted = words.casefold().split()
    return [
        recipe for recipe in recipes if all(word in _words_of(recipe).casefold() for word in wanted)
    ]


def _words_of(recipe: Recipe) -> str:
    return f"{recipe.name} {recipe.machine} {recipe.material} {recipe.thickness:g} mm {recipe.kind}"


class RecipeChooser(QDialog):
    """Choose one, or put those that are kept for all jobs away."""

    def __init__(
        self,
        parent: QWidget,
        recipes: Sequence[Recipe],
        kept: Sequence[Recipe],
        title: str,
        speeds: str,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Recipes")
        self.setMinimumSize(px(460), px(360))
        self._recipes, self._kept, self._speeds = list(recipes), list(kept), speeds
        self.put_away: list[Recipe] = []
        """Those that are no longer to be kept."""
        self.words = WordField("Find a recipe", 100)
        self.words.setPlaceholderText("a material, a thickness, a machine …")
        self.words.textChanged.connect(self._fill)
        self.list = QListWidget()
        self.list.setAccessibleName("Recipes")
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        self.list.currentRowChanged.connect(lambda _: self._tell())
        self.take = button("Take it", "main", self.accept)
        self.take.setDefault(True)
        self.away = button("No longer keep it", "plain", self._put_away)
        buttons = QHBoxLayout()
        buttons.addWidget(self.away)
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "plain", self.reject))
        buttons.addWidget(self.take)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(18, 16, 18, 16)
        rows.setSpacing(10)
        for widget in (label(title, "section"), self.words, self.list):
            rows.addWidget(widget)
        rows.addLayout(buttons)
        self._fill()

    @property
    def chosen(self) -> Recipe | None:
        item = self.list.currentItem()
        return item.data(Qt.ItemDataRole.UserRole) if item is not None else None

    def _fill(self) -> None:
        self.list.clear()
        for recipe in found_recipes(
            [each for each in self._recipes if each not in self.put_away], self.words.text()
        ):
            where = " · kept for all jobs" if recipe in self._kept else ""
            item = QListWidgetItem(
                f"{recipe.name} · {recipe.machine} · {format_speed(recipe.feed, self._speeds) if recipe.feed else 'own feed'}{where}"
            )
            item.setData(Qt.ItemDataRole.UserRole, recipe)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self._tell()

    def _tell(self) -> None:
        allow(self.take, self.chosen, "choose a recipe first")
        allow(self.away, self.chosen in self._kept, "only recipes that you kept are put away")

    def _put_away(self) -> None:
        if self.chosen is not None:
            self.put_away.append(self.chosen)
            self._fill()
