"""Recipes and machines come from files and go into them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TypeVar

from draxet.files import reason, write_whole
from draxet.job.findings import count_words
from draxet.job.machine_kinds import Machine
from draxet.job.operating import add_recipes, set_machine
from draxet.make.machine_files import machines_as_json, read_machines
from draxet.make.recipes import read_recipes, recipes_as_csv, recipes_as_json
from draxet.ui.controls.chooser import ask_where, chosen_file, text_of_file
from draxet.ui.model.shelf import keep_machine, keep_recipes, kept_machines
from draxet.ui.stages.slip import Slip

__all__ = ["MachineFiles"]

_Row = TypeVar("_Row")


class MachineFiles(Slip):
    """A slip that reads and writes them, and keeps them for other jobs."""

    _shown: object
    _kept: list[Machine]

    def _ask_recipes(self) -> None:
        if path := chosen_file(self, "Recipes", "*.json *.csv"):
            self.read_recipes(path)

    def _ask_machines(self) -> None:
        if path := chosen_file(self, "Machines", "*.json"):
            self.read_machines(path)

    def _rows_of(self, path: Path, read: Callable[[str, str], list[_Row]]) -> list[_Row]:
        """The records of a file; none, and refused in words, where it cannot be read."""
        try:
            return read(text_of_file(path), path.name)
        except ValueError as error:
            self.session.messages.refused.emit(f"{error}.")
            return []

    def read_recipes(self, path: Path) -> None:
        """Take over the recipes of a file, for this job and for others."""
        found = self._rows_of(path, read_recipes)
        if not found:
            return
        self.session.edit("take recipes over", add_recipes(self.session.job, found))
        self._put_on_shelf(
            partial(keep_recipes, found), f"{count_words(len(found), 'recipe')} taken over"
        )

    def read_machines(self, path: Path) -> None:
        """Take over the machines of a file."""
        found = self._rows_of(path, read_machines)
        if not found:
            return
        job = self.session.job
        for machine in found:
            job = set_machine(
                replace(job, next_id=job.next_id + 1), replace(machine, id=f"machine-{job.next_id}")
            )
        self.session.edit(f"take {count_words(len(found), 'machine')} over", job)
        self.session.messages.announced.emit(f"{count_words(len(found), 'machine')} taken over")

    def _put_on_shelf(self, put: Callable[[], None], words: str) -> None:
        try:
            put()
        except OSError as error:
            self.session.messages.refused.emit(
                f"It could not be kept for other jobs: {reason(error)}."
            )
            return
        self._kept = kept_machines()
        self.session.messages.announced.emit(words)
        self._shown = None
        self.refresh()

    def _keep(self) -> None:
        """The machine is offered in every job from now on."""
        self._put_on_shelf(
            partial(keep_machine, self.machine), f"{self.machine.name} is kept: every job offers it"
        )

    def _ask_where(self, what: str, write: Callable[[Path], None]) -> None:
        path = ask_where(self, f"{what} to a file", Path(f"{what.lower()}.json"), "json", what)
        if path is not None:
            write(path)

    def write_recipes(self, path: Path) -> None:
        """Write all recipes that there are; as CSV where the path ends so."""
        recipes = self.session.job.every_recipe
        self._write(
            path,
            recipes_as_csv(recipes) if path.suffix.lower() == ".csv" else recipes_as_json(recipes),
            count_words(len(recipes), "recipe"),
        )

    def write_machines(self, path: Path) -> None:
        """Write all machines that there are."""
        machines = self.session.job.every_machine
        self._write(path, machines_as_json(machines), count_words(len(machines), "machine"))

    def _write(self, path: Path, text: str, what: str) -> None:
        try:
            write_whole(path, text.encode())
        except OSError as error:
            self.session.messages.refused.emit(
                f"{path.name} could not be written: {reason(error)}."
            )
            return
        self.session.messages.announced.emit(f"{what} written to {path.name}")

    @property
    def machine(self) -> Machine:
        return self.session.job.machine_of(self.session.job.sheet)
