"""What the slip of *Raise or sink* has besides its settings: the base, heights by colours and layers,
and what comes of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Protocol

from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget

from draxet.job.colour_words import colour_word
from draxet.job.operating import add_operation, set_operation
from draxet.job.operations import Operation, Raise
from draxet.job.records import Job
from draxet.job.remember import same
from draxet.job.sheet_records import Base
from draxet.job.sides import runs_of
from draxet.job.solid_base import base_of, set_base
from draxet.make.solids.solid_sheet import SolidSheet
from draxet.record import record
from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    emptied,
    fact_row,
    field_row,
    label,
)
from draxet.ui.look.icons import swatch
from draxet.ui.stages.make.more import Giving, machine_offer
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["raise_colour", "raise_rows"]

_MOST_COLOURS = 12
_COUNTS = {
    "thickness": ("box", "outline", "contour"),
    "margin": ("box", "outline"),
    "corner": ("box",),
    "origin": ("sheet", "box", "outline", "contour", "none"),
    "shape": ("sheet", "box", "outline", "contour", "none"),
}
"""Of which bases a setting counts."""


def raise_rows(slip: Slip, tool: Giving) -> Callable[[], None]:
    """Adds them; returns what brings them up to date."""
    session = slip.session
    parts = [_colour_rows(slip, tool), _base_rows(slip), _facts(slip)]
    see = button("See the bodies", "plain", lambda: session.messages.tool_asked.emit("bodies"))
    see.setToolTip("F3: turned as you like, cut open, with their sizes")
    slip.add(see)
    parts.append(machine_offer(slip, tool, "Take the layer printer"))

    def show() -> None:
        allow(
            see,
            any(isinstance(each, Raise) for each in session.job.operations),
            "nothing is raised or sunk yet",
        )
        for part in parts:
            part()

    return show


def _base_rows(slip: Slip) -> Callable[[], None]:
    """The base of the sheet in hand."""
    session = slip.session

    def change(name: str, value: object, gesture: object) -> None:
        job = session.job
        base = base_of(job, job.sheet)
        changed: Base = replace(base, **{name: value})  # type: ignore[arg-type]
        if name == "shape" and value == "contour":
            chosen = [i.id for i in session.selection.items if i.contour.closed]
            if len(chosen) != 1:
                session.messages.refused.emit(
                    "Base: choose one closed contour first, then that it is the base."
                )
                rows.show_of(base)
                return
            changed = replace(changed, contour=chosen[0])
        session.edit("change the base", set_base(job, changed), gesture)

    slip.add(label("Base", "section"))
    rows = slip.ask(base_of(session.job, session.job.sheet), change)

    def show() -> None:
        base = base_of(session.job, session.job.sheet)
        rows.show_of(base)
        for name, row in rows.rows.items():
            row.setVisible(base.shape in _COUNTS[name])

    return show


def _facts(slip: Slip) -> Callable[[], None]:
    """What is made on the sheet in hand, in numbers."""
    rows = {name: fact_row(name) for name in ("Bodies", "Size", "Volume")}
    slip.add(*(row for row, _ in rows.values()))

    def show() -> None:
        job = slip.session.job
        made = next(
            (
                each
                for run, each in zip(runs_of(job), slip.session.looked.products, strict=False)
                if run.sheet.id == job.sheet.id and isinstance(each, SolidSheet) and each.meshes
            ),
            None,
        )
        size = " × ".join(slip.length(each, 2).split(" ")[0] for each in made.size) if made else ""
        for name, said in (
            ("Bodies", ", ".join(dict.fromkeys(m.name for m in made.meshes)) if made else "–"),
            ("Size", f"{size} {job.unit}" if made else "–"),
            ("Volume", f"{made.volume / 1000:.3g} cm³" if made else "–"),
        ):
            rows[name][1].setText(said)
            rows[name][0].setVisible(made is not None)

    return show


def _kinds_of(job: Job) -> list[tuple[str, str, tuple[str, ...]]]:
    """What heights can be given by: a layer or a colour, which colour, and its closed contours on the
    sheet in hand."""
    found = dict[tuple[str, str], list[str]]()
    for item in job.layout.contours:
        if item.contour.closed and item.sheet == job.sheet.id:
            key = (item.layer, "") if item.layer else ("", item.colour)
            found.setdefault(key, []).append(item.id)
    return [
        (layer or colour_word(colour) or "no colour", colour, tuple(ids))
        for (layer, colour), ids in found.items()
    ]


def raise_colour(job: Job, like: Operation, name: str, ids: Sequence[str], height: float) -> Job:
    """The contours of a colour or a layer raised by a height of their own: by the operation that works
    just these, else by one like another."""
    mine = next(
        (
            each
            for each in job.operations
            if isinstance(each, Raise) and set(job.laid_operation(each).contours) == set(ids)
        ),
        None,
    )
    if mine is not None:
        return set_operation(job, mine.changed(height=height))
    made = like.changed(id="operation-0", name=name.capitalize(), height=height, stop="")
    return add_operation(job, made.with_contours(ids))


@record
class _Known:
    """What heights can be given by, and of what that was found."""

    goes_by: tuple[object, ...] = ()
    kinds: tuple[tuple[str, str, tuple[str, ...]], ...] = ()


class _Chosen(Protocol):
    @property
    def record(self) -> Operation: ...


def _colour_rows(slip: Slip, tool: _Chosen) -> Callable[[], None]:
    """A height for each colour or layer."""
    session = slip.session
    title = label("Height of each colour", "section")
    holder = QWidget()
    column = QVBoxLayout(holder)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(6)
    slip.add(title, holder)
    fields = list[Field]()
    shown, known = list[object](), _Known()

    def give(name: str, ids: tuple[str, ...], height: float) -> None:
        job = raise_colour(session.job, tool.record, name, ids, height)
        session.edit(f"raise {name} by {format_length(height, session.job.unit)}", job)
        session.tool_changed.emit()

    def make(kinds: Sequence[tuple[str, str, tuple[str, ...]]]) -> None:
        emptied(column)
        fields.clear()
        for name, colour, ids in kinds:
            field = slip.length_field(f"Height of {name}")
            field.setPlaceholderText("not yet")
            field.entered.connect(partial(give, name, ids))
            row = field_row(name, field, 110)
            if colour and (inner := row.layout()) is not None:
                patch = QLabel()
                patch.setPixmap(swatch(colour).pixmap(16, 16))
                inner.insertWidget(0, patch)  # type: ignore[attr-defined]
            column.addWidget(row)
            fields.append(field)

    def show() -> None:
        job = session.job
        state = (job.layout.contours, job.sheet.id)
        if not same(known.goes_by, state):
            known.goes_by, known.kinds = state, tuple(_kinds_of(job))
        kinds = known.kinds
        seen = 2 <= len(kinds) <= _MOST_COLOURS
        title.setVisible(seen)
        holder.setVisible(seen)
        if not seen:
            return
        if shown != [kinds]:
            shown[:] = [kinds]
            make(kinds)
        heights = {
            name: each.height
            for each in job.layout.operations
            if isinstance(each, Raise)
            for name in each.contours
        }
        for field, (_, _, ids) in zip(fields, kinds, strict=True):
            _show_height(field, {heights.get(name) for name in ids})

    return show


def _show_height(field: Field, heights: set[float | None]) -> None:
    """The height that contours have, where all have one."""
    height = next(iter(heights)) if len(heights) == 1 else None
    if height is None:
        if not field.isModified():
            field.empty()
    else:
        field.set_value(height)
