"""Make: contours are given operations; each kind has a tool, and all of them show what there is, in
order."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any, ClassVar

from PyQt6.QtGui import QAction

from draxet.files import reason
from draxet.job.choosing import chosen_by
from draxet.job.findings import count_words
from draxet.job.layout_counts import count_where
from draxet.job.operating import (
    add_operation,
    add_recipes,
    set_operation,
)
from draxet.job.operations import CutThrough, Draw, Drill, Engrave, Operation, Pocket, Score
from draxet.job.recipe import Recipe, recipe_like, same_use
from draxet.make.cutting_through import CutError, give_cut
from draxet.make.first import first_of
from draxet.ui.controls.slip_parts import (
    button,
    label,
    menu_button,
)
from draxet.ui.model.session import Session
from draxet.ui.model.shelf import keep_recipes
from draxet.ui.stages.make.more import dots_an_inch, hole_sizes, is_asked
from draxet.ui.stages.make.operation_list import OperationList
from draxet.ui.stages.make.recipe_menu import RecipeMenu
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = [
    "CutTool",
    "DrawTool",
    "DrillTool",
    "EngraveTool",
    "OperationSlip",
    "OperationTool",
    "PocketTool",
    "ScoreTool",
]

_ABOUT: dict[type[Operation], str] = {
    CutThrough: "Openings are cut inside, outlines outside, so that the part keeps its size.",
    Score: "Along the line, not through.",
    Engrave: "Areas hatched by lines; every second of nested contours is left out.",
    Pocket: "Areas cleared to a depth by a round tool.",
    Drill: "Holes at the middles of circles.",
    Draw: "Along the line, with a pen.",
}


class OperationTool(PickTool):
    """Contours are chosen, and given an operation of the tool's kind; one that is there can be
    taken in hand and changed."""

    kind: ClassVar[type[Operation]] = CutThrough

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.title = self.kind.title
        self.changing = ""
        """The id of the operation that is changed, or empty."""

    def more(self, slip: Slip) -> Callable[[], None]:
        """Add what stands in the slip besides its settings; returns what brings that up to date."""
        return lambda: None

    @property
    def record(self) -> Operation:
        """The operation that is changed, or what the next one will be like."""
        operations = self._session.job.operations
        found = next(
            (
                each
                for each in operations
                if each.id == self.changing and isinstance(each, self.kind)
            ),
            None,
        )
        if found is not None:
            return found
        if not self._session.has_kept(self._kept):
            self._session.keep(self._kept, first_of(self.kind, self._session.job))
        return self._session.settings(self._kept, self.kind)

    @property
    def _kept(self) -> str:
        sheet = self._session.job.sheet
        return (
            f"next {self.kind.__name__} on {sheet.machine}, {sheet.material} {sheet.thickness:g} mm"
        )

    def change(self, name: str, value: object, gesture: object = None) -> None:
        """Another setting, of the operation in hand or of the next one."""
        record: Any = self.record
        changed: Any = replace(record, **{name: value})
        self._session.keep(
            self._kept, replace(changed, id="operation-0", name=self.kind.title, contours=())
        )
        if record.id == self.changing:
            self._session.edit(
                f"change {record.name.lower()}", set_operation(self._session.job, changed), gesture
            )
        self._session.tool_changed.emit()

    def take_recipe(self, recipe: Recipe) -> None:
        """What a recipe says, for the operation in hand or the next one."""
        record, session = self.record, self._session
        if recipe not in session.job.every_recipe:  # from the shelf
            session.edit(f"take the recipe {recipe.name} over", add_recipes(session.job, [recipe]))
            recipe = next(
                each for each in session.job.recipes if same_use(each) == same_use(recipe)
            )
        changed = recipe.applied(record)
        session.keep(
            self._kept,
            replace(changed, id="operation-0", name=self.kind.title, contours=()),  # type: ignore[type-var]
        )
        if record.id == self.changing:
            session.edit(f"take the recipe {recipe.name}", set_operation(session.job, changed))
        session.tool_changed.emit()

    def keep_recipe(self, name: str) -> None:
        """The settings as a recipe for the sheet's machine, material and thickness, in this job and
        for others."""
        session, sheet = self._session, self._session.job.sheet
        machine = session.job.machine_of(sheet).id
        made = recipe_like(
            self.record, session.job.next_id, name, machine, sheet.material, sheet.thickness
        )
        session.edit("keep a recipe", add_recipes(session.job, [made]))
        try:
            keep_recipes([made])
        except OSError as error:
            session.refused.emit(
                f"{name} is kept in this job, but not for others: {reason(error)}."
            )
            return
        session.announced.emit(
            f"Kept as {name}; every job offers it where that machine works that material"
        )

    def take_in_hand(self, operation: Operation) -> None:
        """Change an operation that is there; its contours are chosen."""
        self._session.select(frozenset(self._session.job.laid_operation(operation).contours))
        if isinstance(operation, self.kind):
            self.changing = operation.id if self.changing != operation.id else ""
        self._session.tool_changed.emit()

    def cancel(self) -> bool:
        begun, self.changing = bool(self.changing), ""
        return super().cancel() or begun

    def give(self) -> None:
        """Give the operation to the chosen contours, or to all that it can be given to."""
        session, record = self._session, self.record
        job, chosen = session.job, session.selection
        items = [
            (item.id, item.contour)
            for item in job.layout.contours
            if not chosen or item.id in chosen
        ]
        wrong = record.wrong_with(items)
        bad = {name for ids in wrong.values() for name in ids}
        if chosen and wrong:
            (why, ids), *_ = wrong.items()
            session.refused.emit(
                f"{self.title}: {count_words(len(ids), 'contour')} of the chosen {why}; choose others, or mend it first."
            )
            session.select(frozenset(ids))
            return
        ids = [name for name, _ in items if name not in bad]
        if not ids and not record.stands:
            session.refused.emit(f"{self.title}: there is no contour that it can be given to.")
            return
        self.changing = ""
        session.edit(f"give {record.title.lower()}", add_operation(job, record.with_contours(ids)))
        self._stop_no_more()

    def _stop_no_more(self) -> None:
        """A stop is of one operation: the next one has none."""
        record: Any = self._session.settings(self._kept, self.kind)
        self._session.keep(self._kept, replace(record, stop=""))


class CutTool(OperationTool):
    """Openings inside, outlines outside, open ones on the line."""

    kind = CutThrough

    def give(self) -> None:
        session, record = self._session, self.record
        job = session.job
        ids = [
            item.id
            for item in job.layout.contours
            if not session.selection or item.id in session.selection
        ]
        try:
            made = give_cut(job, ids, record.width, record.feed)
        except CutError as error:
            session.refused.emit(str(error))
            return
        new = {operation.id for operation in made.operations} - {
            operation.id for operation in job.operations
        }
        first = next((each.id for each in made.operations if each.id in new), "")
        for operation in made.operations:
            if operation.id in new:
                made = set_operation(
                    made,
                    record.changed(
                        id=operation.id,
                        name=operation.name,
                        contours=operation.contours,
                        side=operation.side,
                        stop=record.stop if operation.id == first else "",
                    ),
                )
        session.edit("give a cut", made)
        self._stop_no_more()


class ScoreTool(OperationTool):
    """Scoring."""

    kind = Score


class EngraveTool(OperationTool):
    """Engraving areas."""

    kind = Engrave

    def more(self, slip: Slip) -> Callable[[], None]:
        return dots_an_inch(slip, self)


class PocketTool(OperationTool):
    """Clearing pockets."""

    kind = Pocket


class DrillTool(OperationTool):
    """Drilling circles."""

    kind = Drill

    def more(self, slip: Slip) -> Callable[[], None]:
        return hole_sizes(slip, self)


class DrawTool(OperationTool):
    """Drawing with a pen."""

    kind = Draw


class OperationSlip(Slip):
    """The settings of an operation, and the operations there are."""

    def __init__(self, session: Session, tool: OperationTool) -> None:
        super().__init__(session, tool.title, _ABOUT[tool.kind])
        self._tool = tool
        self.choose = menu_button("Choose by …", [])
        self.add(self.choose)
        self.asked = self.ask(tool.record, tool.change)
        self._more = tool.more(self)
        self.recipes = RecipeMenu(session, tool)
        self.add(label("Recipe for this machine and sheet"), self.recipes.button)
        self.give = button("", "main", self.apply)
        self._changing = label("", "brass", wrap=True)
        self.add(self._changing, label("Operations, in order", "section"))
        self.foot.add(self.give)
        self._list = OperationList(session, tool.take_in_hand)
        self.add(self._list)
        self._shared = label("", "quiet", wrap=True)
        self.add(self._shared)
        menu = self.choose.menu()
        assert menu is not None
        menu.aboutToShow.connect(self.fill_choices)
        self.refresh()

    def fill_choices(self) -> None:
        """What may be chosen together now."""
        menu = self.choose.menu()
        assert menu is not None
        menu.clear()
        for words, ids in chosen_by(self.session.layout):
            action = QAction(f"{words} · {len(ids)}".replace("&", "&&"), menu)
            action.triggered.connect(partial(self.session.select, ids))
            menu.addAction(action)

    def apply(self) -> None:
        """Give the chosen contours, or all where none is chosen, the operation."""
        if self.asked.read():
            self._tool.give()

    def refresh(self) -> None:
        tool, chosen, job = self._tool, len(self.session.selection), self.session.job
        self.asked.show_of(tool.record)
        for name, row in self.asked.rows.items():
            row.setVisible(is_asked(name, tool.record, job.machine_of(job.sheet)))
        self._more()
        self.choose.setEnabled(bool(job.contours))
        self.recipes.refresh()
        changing = next((each.name for each in job.operations if each.id == tool.changing), "")
        self._changing.setText(
            f"{changing} is changed as you type; Esc lets it go." if changing else ""
        )
        self._changing.setVisible(bool(changing))
        acts = tool.kind.acts
        self.give.setText(
            f"{acts} the {chosen} chosen"
            if chosen > 1
            else f"{acts} the chosen one"
            if chosen
            else f"{acts} everything"
        )
        laid = count_where(job, lambda item: True)
        self.foot.offer(
            self.give,
            f"{count_words(chosen or laid, 'contour')} on {job.machine_of(job.sheet).name}",
            "" if laid else "There are no contours yet",
        )
        shared = sum(work.shared for work in self.session.looked.work)
        self._shared.setText(
            f"{count_words(shared, 'shared edge')} of areas {'is' if shared == 1 else 'are'} cut once, on the line."
        )
        self._shared.setVisible(shared > 0)
        self._list.refresh()
