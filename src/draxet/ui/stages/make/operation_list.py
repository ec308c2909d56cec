"""The operations that there are, in order, as the slips of all of them show them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.job.findings import count_words
from draxet.job.operating import move_operation, remove_operation, set_operation
from draxet.job.operations import Operation, Side
from draxet.job.records import Job
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.slip_parts import allow, button, icon_button, label, side_by_side
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.units import format_speed

__all__ = ["OperationList"]

_LONGEST_NAME = 24
_AT_ONCE = 8
"""Rows that are made within one event; the rest of many follow it."""


class OperationList(QWidget):
    """A row for each, by which it is taken in hand, done earlier or removed."""

    def __init__(
        self,
        session: Session,
        take_in_hand: Callable[[Operation], None],
        in_hand: Callable[[], Sequence[Operation]],
    ) -> None:
        super().__init__()
        self._session, self._take_in_hand, self._in_hand = session, take_in_hand, in_hand
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(10)
        self._none = label("None yet. Click contours, or take all of them.", "quiet", wrap=True)
        self._rows.addWidget(self._none)
        self._wanted: list[tuple[Operation, str, bool, bool]] = []
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._make_some)

    def refresh(self) -> None:
        """Show those of the job; rows above the first that is another one stay."""
        job, before, held = self._session.job, self._wanted, self._in_hand()
        self._wanted = [
            (operation, self._works(operation), number > 0, operation in held)
            for number, operation in enumerate(job.operations)
        ]
        stay = 0
        for one, other in zip(self._wanted[: self._made], before, strict=False):
            if one != other:
                break
            stay += 1
        while self._made > stay:
            item = self._rows.takeAt(self._made)
            row = item.widget() if item else None
            if row is not None:
                row.hide()
                row.deleteLater()
        self._none.setVisible(not job.operations)
        self._make_some()

    @property
    def _made(self) -> int:
        """How many rows there are."""
        return self._rows.count() - 1

    def _make_some(self) -> None:
        for row in self._wanted[self._made :][:_AT_ONCE]:
            self._rows.addWidget(self._row(*row))
        if self._made < len(self._wanted):
            self._later.start(0)

    def _works(self, operation: Operation) -> str:
        if operation.waits:
            return "waits for words"
        job = self._session.job
        count = count_words(len(job.laid_operation(operation).contours), "contour")
        speed = operation.pace_words or format_speed(
            operation.feed, job.machine_of(job.sheet).speeds
        )
        return f"{count} · {speed}{' · after a stop' if operation.stop else ''}"

    def _row(self, operation: Operation, works: str, is_later: bool, is_held: bool) -> QWidget:
        made = QWidget()
        rows = QVBoxLayout(made)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        short = (
            operation.name
            if len(operation.name) <= _LONGEST_NAME
            else f"{operation.name[: _LONGEST_NAME - 1]}…"
        )
        name = button(short, "row", partial(self._take_in_hand, operation))
        name.setCheckable(True)
        name.setChecked(is_held)
        name.setToolTip(
            f"{operation.name}: its contours are chosen; of the tool's own kind its settings are shown and changed"
        )
        rows.addWidget(side_by_side(name, *self._buttons(operation, is_later)))
        rows.addWidget(label(works, "quiet"))
        if operation.through:
            side = Choice(
                [(s.value, s.value) for s in (Side.INSIDE, Side.ON, Side.OUTSIDE)],
                f"Side of {operation.name}",
            )
            side.set_value(operation.side.value)
            side.chosen.connect(lambda key: self._set_side(operation, Side(key)))
            rows.addWidget(side)
        return made

    def _buttons(self, operation: Operation, is_later: bool) -> tuple[QWidget, QWidget]:
        """That which does it earlier, and that which removes it."""
        away = icon_button(
            "remove",
            LIGHT.quiet,
            f"Remove {operation.name}",
            lambda: self._edit(
                "remove an operation", remove_operation(self._session.job, operation.id)
            ),
        )
        earlier = icon_button(
            "up",
            LIGHT.quiet,
            f"{operation.name} earlier",
            lambda: self._edit(
                "do it earlier", move_operation(self._session.job, operation.id, -1)
            ),
        )
        allow(earlier, is_later, "it is the first already")
        return earlier, away

    def _edit(self, words: str, job: Job) -> None:
        self._session.edit(words, job)
        self._session.tool_changed.emit()

    def _set_side(self, operation: Operation, side: Side) -> None:
        if side is not operation.side:
            self._session.edit(
                "change the side of a cut",
                set_operation(self._session.job, operation.changed(side=side)),
            )
