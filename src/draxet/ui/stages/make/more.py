"""What the slip of one kind of operation has besides its settings, and which of its settings count
on a machine."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Protocol

from PyQt6.QtGui import QAction

from draxet.job.findings import count_words
from draxet.job.machine_kinds import Cutter, Machine, counts_on
from draxet.job.operating import choose_machine, set_operation
from draxet.job.operations import Operation
from draxet.job.sides import runs_of
from draxet.make.screw_holes import SCREWS, with_holes
from draxet.make.stitching.stitched_sheet import StitchedSheet
from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    fact_row,
    field_row,
    label,
    menu_button,
    side_by_side,
)
from draxet.ui.model.session import Session
from draxet.ui.stages.make.colourings_page import ColouringsPage
from draxet.ui.stages.make.threads_menu import threads_menu
from draxet.ui.stages.slip import Slip
from draxet.units import UnitError, format_number

__all__ = [
    "Giving",
    "cutters_menu",
    "dots_an_inch",
    "hole_sizes",
    "is_asked",
    "machine_offer",
    "thread_facts",
]

_INCH = 25.4


class Giving(Protocol):
    """The tool that gives operations, as far as it is needed here."""

    @property
    def record(self) -> Operation: ...

    def change(self, name: str, value: object, gesture: object = None) -> None: ...


def is_asked(name: str, operation: Operation, machine: Machine) -> bool:
    """Whether a setting counts for an operation as it is, on a machine."""
    if not counts_on(machine.traits, name) or (name == "air" and not machine.has_air):
        return False
    return operation.asks(name, lowered=machine.traits.lowers)


def dots_an_inch(slip: Slip, tool: Giving) -> Callable[[], None]:
    """How far lines lie apart, as so many of them an inch; returns what brings it up to date."""

    def read(text: str) -> float:
        try:
            dots = float(text.lower().removesuffix("dpi").strip().replace(",", "."))
        except ValueError:
            dots = 0.0
        if not 1 <= dots <= 25_400:
            raise UnitError(f"Dots an inch must be from 1 to 25400, got {text.strip()[:40]!r}")
        return dots

    field = Field(read, lambda dots: format_number(dots, 1), "Dots an inch")
    field.refused.connect(slip.session.messages.refused)
    field.entered.connect(lambda dots: tool.change("spacing", _INCH / dots))
    slip.add(field_row("Dots an inch", field, 110))

    def show() -> None:
        field.set_value(_INCH / tool.record.broad)

    return show


def thread_facts(slip: Slip, tool: Giving) -> Callable[[], None]:
    """What is sewn on the sheet in hand, in numbers; returns what brings it up to date."""
    rows = {name: fact_row(name) for name in ("Stitches", "Threads", "Trims", "Thread")}
    slip.add(*(row for row, _ in rows.values()))
    threads = threads_menu(slip)
    colourings = button("Colourings …", "plain", lambda: ColouringsPage(slip, slip.session).open())
    colourings.setToolTip("Other threads and cloths beside each other")
    traced = button(
        "Trace its colours", "plain", lambda: slip.session.messages.tool_asked.emit("colours")
    )
    slip.add(colourings, traced)
    offer = machine_offer(slip, tool, "Take the stitcher")

    def show() -> None:
        job = slip.session.job
        machine = job.machine_of(job.sheet)
        fits = machine.can_do(tool.record)
        plan = next(
            (
                each.plan
                for run, each in zip(runs_of(job), slip.session.looked.products, strict=False)
                if run.sheet.id == job.sheet.id and isinstance(each, StitchedSheet) and len(each)
            ),
            None,
        )
        for name, said in (
            ("Stitches", f"{len(plan):,}".replace(",", " ") if plan else "–"),
            ("Threads", _few(plan.thread_names) if plan else "–"),
            ("Trims", str(plan.trims) if plan else "–"),
            ("Thread", f"{plan.thread_mm / 1000:.2f} m" if plan else "–"),
        ):
            rows[name][0].setVisible(fits)
            rows[name][1].setText(said)
        threads(fits)
        colourings.setVisible(fits)
        traced.setVisible(bool(job.pictures) and not job.contours)
        allow(colourings, plan, "there are no stitches yet")
        offer()

    return show


def machine_offer(slip: Slip, tool: Giving, words: str) -> Callable[[], None]:
    """A button by which a machine is taken that can do it, seen where the sheet's cannot; returns what
    brings it up to date."""
    taken = menu_button(words, [])
    slip.add(taken)

    def choose(machine: Machine) -> None:
        job = slip.session.job
        slip.session.edit(
            f"choose the {machine.name}", choose_machine(job, job.sheet.id, machine.id)
        )

    def show() -> None:
        job = slip.session.job
        fits = job.machine_of(job.sheet).can_do(tool.record)
        taken.setVisible(not fits)
        menu = taken.menu()
        if menu is not None and not fits:
            menu.clear()
            for each in job.every_machine:
                if each.can_do(tool.record):
                    menu.addAction(each.name, partial(choose, each))

    return show


def _few(names: Sequence[str]) -> str:
    return ", ".join(names[:3]) + (f" + {len(names) - 3}" if len(names) > 3 else "")


def cutters_menu(slip: Slip, tool: Giving) -> Callable[[], None]:
    """The tools that the machine holds, by name and breadth; returns what brings it up to date."""
    made, shown = menu_button("Tool", []), list[object]()
    slip.add(made)

    def show() -> None:
        job, record = slip.session.job, tool.record
        cutters = job.machine_of(job.sheet).cutters if record.broad_by != "spacing" else ()
        made.setVisible(bool(cutters))
        taken = next((c.name for c in cutters if abs(c.diameter - record.broad) <= 0.01), "")
        made.setText(f"Tool: {taken or f'none of {record.broad:g} mm here'}".replace("&", "&&"))
        menu = made.menu()
        if menu is None or shown == [cutters]:
            return
        shown[:] = [cutters]
        menu.clear()
        for cutter in cutters:
            action = QAction(_told(cutter).replace("&", "&&"), menu)
            action.triggered.connect(partial(tool.change, record.broad_by, cutter.diameter))
            menu.addAction(action)

    return show


def _told(cutter: Cutter) -> str:
    """A tool by its name and, where that does not say it, how broad it is; and how deep it cuts."""
    size = f"{cutter.diameter:g}"
    broad = "" if size in cutter.name else f" · {size} mm"
    return f"{cutter.name}{broad} · cuts {cutter.longest:g} mm deep"


def hole_sizes(slip: Slip, tool: Giving) -> Callable[[], None]:
    """The sizes that screws want."""
    buttons = []
    for words, sizes in (
        ("For a thread", [(screw.name, screw.core) for screw in SCREWS]),
        ("To pass", [(screw.name, screw.free) for screw in SCREWS]),
    ):
        made = menu_button(
            words,
            [
                (f"{name} · {size:g} mm", partial(_set_holes, slip.session, tool, size))
                for name, size in sizes
            ],
        )
        made.setToolTip(
            "The chosen circles, or those of the operation in hand, become as wide as that screw wants them, about their middles"
        )
        buttons.append(made)
    slip.add(label("Set the holes to a screw's"), side_by_side(*buttons))
    return lambda: None


def _set_holes(session: Session, tool: Giving, size: float) -> None:
    record, job = tool.record, session.job
    ids = [item.id for item in job.layout.contours if item.id in session.selection.ids] or list(
        record.contours
    )
    changed, count = with_holes(job, ids, size)
    if not count:
        session.messages.refused.emit(
            "Set the holes: there is no circle among what is chosen; choose the holes first."
        )
        return
    if record.contours:
        changed = set_operation(changed, record.changed(diameter=size))
    session.edit(f"set {count_words(count, 'hole')} to {size:g} mm", changed)
    tool.change("diameter", size)
    session.messages.announced.emit(
        f"{count_words(count, 'hole')} {'is' if count == 1 else 'are'} {size:g} mm wide now"
    )
