"""Make: contours are given operations; each kind has a tool, and all of them show what there is, in
order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import fields, replace
from functools import partial
from typing import Any, ClassVar

from PyQt6.QtGui import QAction

from draxet.files import reason
from draxet.job.choosing import chosen_by
from draxet.job.findings import count_words
from draxet.job.layout_counts import counted
from draxet.job.operating import (
    add_operation,
    add_recipes,
    set_operation,
)
from draxet.job.operations import (
    CutThrough,
    Draw,
    Drill,
    Engrave,
    Operation,
    Pocket,
    Raise,
    Score,
    Stitch,
    Turn,
)
from draxet.job.recipe import Recipe, recipe_like, same_use
from draxet.job.records import Job
from draxet.make.cutting_through import CutError, give_cut
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    label,
    menu_button,
)
from draxet.ui.look.icons import swatch
from draxet.ui.model.next_operation import keep_next, next_operation
from draxet.ui.model.session import Session
from draxet.ui.model.shelf import keep_recipes
from draxet.ui.stages.make.more import (
    cutters_menu,
    dots_an_inch,
    hole_sizes,
    is_asked,
)
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
    Raise: "Areas become bodies: raised on the base, or sunk into it. Openings stay openings; what is given later takes the place of what lies under it.",
    Turn: "Profiles go round an axis, which is a guide, or along a path, and become bodies; shafts go up from outlines. An open profile is closed to the axis.",
    Stitch: "Areas are sewn with thread in their colours, narrow ones from side to side, lines are run along: what lies under first.",
}


class OperationTool(PickTool):
    """Contours are chosen, and given an operation of the tool's kind. What was just given is in
    hand, and so is one that is taken so: its settings change it, until others are chosen."""

    kind: ClassVar[type[Operation]] = CutThrough

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.title = self.kind.title
        self._taken: tuple[frozenset[str], frozenset[str]] = (frozenset(), frozenset())
        """Ids of the operations in hand, and what was chosen as they were taken."""

    def more(self, slip: Slip) -> Callable[[], None]:
        """Add what stands in the slip besides its settings; returns what brings that up to date."""
        return lambda: None

    @property
    def nothing_yet(self) -> str:
        """Why nothing can be given where nothing is drawn."""
        return "There are no contours yet"

    @property
    def first(self) -> tuple[str, Callable[[], object]] | None:
        """What has to be done before it can be given, for a button, and what does it."""
        return None

    @property
    def in_hand(self) -> tuple[Operation, ...]:
        """The operations that are changed."""
        ids, chosen = self._taken
        now = self._session.selection.ids
        if not ids or (now is not chosen and now != chosen):
            return ()
        operations = self._session.job.operations
        return tuple(each for each in operations if each.id in ids and isinstance(each, self.kind))

    def _hold(self, ids: Iterable[str]) -> None:
        self._taken = frozenset(ids), self._session.selection.ids

    @property
    def record(self) -> Operation:
        """The operation that is changed, or what the next one will be like."""
        if self.in_hand:
            return self.in_hand[0]
        return next_operation(self._session, self.kind)

    def change(self, name: str, value: object, gesture: object = None) -> None:
        """Another setting, of the operations in hand (a stop of the first of them) and of the next
        one."""
        self._put(f"change {self.record.name.lower()}", {name: value}, gesture)

    def _put(self, words: str, values: dict[str, object], gesture: object = None) -> None:
        session, in_hand, record = self._session, self.in_hand, self.record
        next_one: Any = record.changed(id="operation-0", name=self.kind.title, contours=())
        of_next = values | ({"stop": ""} if in_hand else {})
        keep_next(session, replace(next_one, **of_next))
        job = session.job
        for number, each in enumerate(in_hand):
            mine = {k: value for k, value in values.items() if k != "stop" or not number}
            job = set_operation(job, each.changed(**mine))
        if in_hand:
            session.edit(words, job, gesture)
        session.tool_changed.emit()

    def take_recipe(self, recipe: Recipe) -> None:
        """What a recipe says, for the operation in hand or the next one."""
        record, session = self.record, self._session
        if recipe not in session.job.every_recipe:  # from the shelf
            session.edit(f"take the recipe {recipe.name} over", add_recipes(session.job, [recipe]))
            recipe = next(
                each for each in session.job.recipes if same_use(each) == same_use(recipe)
            )
        applied: Any = recipe.applied(record)
        values = {
            each.name: getattr(applied, each.name)
            for each in fields(applied)
            if getattr(applied, each.name) != getattr(record, each.name)
        }
        self._put(f"take the recipe {recipe.name}", values)

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
            session.messages.refused.emit(
                f"{name} is kept in this job, but not for others: {reason(error)}."
            )
            return
        session.messages.announced.emit(
            f"Kept as {name}; every job offers it where that machine works that material"
        )

    def take_in_hand(self, operation: Operation) -> None:
        """Change an operation that is there; its contours are chosen."""
        self._session.selection.choose(
            frozenset(self._session.job.laid_operation(operation).contours)
        )
        if isinstance(operation, self.kind):
            is_held = operation.id in {each.id for each in self.in_hand}
            self._hold([] if is_held else [operation.id])
        self._session.tool_changed.emit()

    def cancel(self) -> bool:
        begun = bool(self.in_hand)
        self._hold([])
        return super().cancel() or begun

    def give(self) -> None:
        """Give the operation to the chosen contours, or to all that it can be given to."""
        session, record = self._session, self.record
        job, chosen = session.job, session.selection.ids
        items = [
            (item.id, item.contour)
            for item in job.layout.contours
            if not chosen or item.id in chosen
        ]
        wrong = record.wrong_with(items)
        bad = {name for ids in wrong.values() for name in ids}
        if chosen and wrong:
            (why, ids), *_ = wrong.items()
            session.messages.refused.emit(
                f"{self.title}: {count_words(len(ids), 'contour')} of the chosen {why}; choose others, or mend it first."
            )
            session.selection.choose(frozenset(ids))
            return
        ids = [name for name, _ in items if name not in bad]
        if not ids and not record.stands:
            session.messages.refused.emit(
                f"{self.title}: there is no contour that it can be given to."
            )
            return
        self._give(
            f"give {record.title.lower()}",
            lambda job, there: add_operation(
                job, record.with_contours([name for name in ids if name in there])
            ),
            ids,
        )

    def _give(
        self, words: str, make: Callable[[Job, frozenset[str]], Job], ids: Sequence[str]
    ) -> None:
        """Take the step, to some contours, and what it made in hand; a stop is of one operation, the
        next one has none."""
        session = self._session
        before = {operation.id for operation in session.job.operations}

        def hold() -> None:
            if session.tool is not self:
                return
            kept: Any = next_operation(session, self.kind)
            keep_next(session, replace(kept, stop="", **({"takes": False} if kept.takes else {})))
            self._hold({each.id for each in session.job.operations} - before)
            session.tool_changed.emit()

        session.edit_chosen(words, make, ids=ids, done=hold)


class CutTool(OperationTool):
    """Openings inside, outlines outside, open ones on the line."""

    kind = CutThrough

    def give(self) -> None:
        session, record = self._session, self.record
        job = session.job
        ids = [
            item.id
            for item in job.layout.contours
            if not session.selection.ids or item.id in session.selection.ids
        ]
        try:
            self._give(
                "give a cut",
                lambda now, there: _cut_given(now, [k for k in ids if k in there], record),
                ids,
            )
        except CutError as error:
            session.messages.refused.emit(str(error))


def _cut_given(job: Job, ids: Sequence[str], record: Operation) -> Job:
    """A job in which contours are cut as a record says: openings inside, outlines outside."""
    made = give_cut(job, ids, record.width, record.feed)
    known = {operation.id for operation in job.operations}
    new = [operation for operation in made.operations if operation.id not in known]
    for number, operation in enumerate(new):
        made = set_operation(
            made,
            record.changed(
                id=operation.id,
                name=operation.name,
                contours=operation.contours,
                side=operation.side,
                stop="" if number else record.stop,
            ),
        )
    return made


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


def _named(operations: Sequence[Operation]) -> str:
    names = [each.name for each in operations]
    return f"{' and '.join(names)} {'are' if len(names) > 1 else 'is'}"


class OperationSlip(Slip):
    """The settings of an operation, and the operations there are."""

    def __init__(self, session: Session, tool: OperationTool) -> None:
        super().__init__(session, tool.title, _ABOUT[tool.kind])
        self._tool = tool
        self.choose = menu_button("Choose by …", [])
        self.add(self.choose)
        self.asked = self.ask(tool.record, tool.change)
        self._more, self._cutters = tool.more(self), cutters_menu(self, tool)
        self.recipes = RecipeMenu(session, tool)
        if not tool.kind.adds:  # what is built up goes by no power, speed or tool
            self.add(label("Recipe for this machine and sheet"), self.recipes.button)
        self.give = button("", "main", self.apply)
        self._changing = label("", "brass", wrap=True)
        self.add(self._changing, label("Operations, in order", "section"))
        self.foot.add(self.give)
        self._list = OperationList(session, tool.take_in_hand, lambda: tool.in_hand)
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
        for words, ids, colour in chosen_by(self.session.layout):
            action = QAction(f"{words} · {len(ids)}".replace("&", "&&"), menu)
            if colour:
                action.setIcon(swatch(colour))
            action.triggered.connect(partial(self.session.selection.choose, ids))
            menu.addAction(action)

    def apply(self) -> None:
        """Give the chosen contours, or all where none is chosen, the operation."""
        if self.asked.read():
            (self._tool.first or ("", self._tool.give))[1]()

    def _has_all(self, in_hand: Sequence[Operation]) -> bool:
        """Whether what would be given one has one that is in hand."""
        if not in_hand:
            return False
        job, chosen = self.session.job, self.session.selection.ids
        worked = {name for each in in_hand for name in job.laid_operation(each).contours}
        wanted = chosen or {item.id for item in job.layout.contours}
        return wanted <= worked

    def refresh(self) -> None:
        tool, chosen, job = self._tool, len(self.session.selection.ids), self.session.job
        self.asked.show_of(tool.record)
        for name, row in self.asked.rows.items():
            row.setVisible(is_asked(name, tool.record, job.machine_of(job.sheet)))
        self._more()
        self._cutters()
        allow(self.choose, job.contours, "there are no contours yet")
        self.recipes.refresh()
        held = tool.in_hand
        them = "them" if len(held) > 1 else "it"
        self._changing.setText(
            f"{_named(held)} changed as you type; Esc lets {them} go." if held else ""
        )
        self._changing.setVisible(bool(held))
        acts, laid = tool.record.acts, sum(counted(job))
        first = tool.first
        self.give.setText(
            first[0]
            if first
            else f"{acts} the {chosen} chosen"
            if chosen > 1
            else f"{acts} the chosen one"
            if chosen
            else f"{acts} everything"
            if laid or not tool.record.takes
            else f"{acts} what closes next"
        )
        self.foot.offer(
            self.give,
            f"{count_words(chosen or laid, 'contour')} on {job.machine_of(job.sheet).name}",
            ""
            if first
            else tool.nothing_yet
            if not laid and not tool.record.takes
            else f"{_named(held)} in hand: what you type changes {them}. Choose others for the next one"
            if self._has_all(held)
            else "",
        )
        shared = sum(work.shared for work in self.session.looked.work)
        self._shared.setText(
            f"{count_words(shared, 'shared edge')} of areas {'is' if shared == 1 else 'are'} cut once, on the line."
        )
        self._shared.setVisible(shared > 0)
        self._list.refresh()
