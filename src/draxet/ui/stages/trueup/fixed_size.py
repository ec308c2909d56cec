"""Pieces of fixed size."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox

from draxet.geometry.affine import Affine
from draxet.job.contour_edits import change_contours, fix_size
from draxet.job.findings import count_words
from draxet.job.picture_edits import sized_with
from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_parts import allow, button, fact_row, field_row
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool
from draxet.ui.stages.slip import Slip

__all__ = ["FixedSlip"]


class FixedSlip(Slip):
    """Both sizes of what is chosen, and its lock."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Fixed size",
            "For a die or a bought part: exactly so large, and never resized. One side typed alone keeps the proportion.",
        )
        chosen, self._chosen = fact_row("Chosen")
        self._shown: tuple[float, float, float, float] | None = None
        self.wide, self.high = self.length_field("Fixed width"), self.length_field("Fixed height")
        self.wide.entered.connect(lambda mm: self._keep_proportion(self.high, mm, 0))
        self.high.entered.connect(lambda mm: self._keep_proportion(self.wide, mm, 1))
        self._typed: set[int] = set()
        """Which sides were typed: 0 the width, 1 the height."""
        self.lock = QCheckBox("Its size is locked")
        self.lock.clicked.connect(self._lock)
        self.go = button("Set and lock", "main", self._set)
        self.add(
            chosen,
            field_row("Width", self.wide),
            field_row("Height", self.high),
            self.lock,
        )
        self.foot.add(self.go)
        self.refresh()

    def _box(self) -> tuple[float, float, float, float] | None:
        boxes = [item.contour.box for item in self.session.selection.items]
        return (
            (
                min(b[0] for b in boxes),
                min(b[1] for b in boxes),
                max(b[2] for b in boxes),
                max(b[3] for b in boxes),
            )
            if boxes
            else None
        )

    def _keep_proportion(self, other: Field, mm: float, side: int) -> None:
        """Where one side alone is typed, the other one goes with it."""
        self._typed.add(side)
        box = self._box()
        if box is None or len(self._typed) == 2:
            return
        sides = box[2] - box[0], box[3] - box[1]
        if sides[side] > 0:
            other.set_value(sides[1 - side] * mm / sides[side])

    def _set(self) -> None:
        box, wide, high = self._box(), self.wide.try_read(), self.high.try_read()
        if box is None or wide is None or high is None:
            return
        x0, y0, x1, y1 = box
        if x1 - x0 <= 0 or y1 - y0 <= 0:
            self.session.messages.refused.emit(
                "A straight line has no size across it; choose a contour that has width and height."
            )
            return
        affine = Affine.scaled(wide / (x1 - x0), high / (y1 - y0)).about(
            (x0 + x1) / 2, (y0 + y1) / 2
        )
        job = change_contours(
            self.session.job,
            {item.id: item.contour.transformed(affine) for item in self.session.selection.items},
        )
        job = sized_with(
            fix_size(job, self.session.selection.ids, True), self.session.selection.ids
        )
        self.session.edit("fix the size", job, resizes=True)

    def _lock(self, on: bool) -> None:
        self.session.edit(
            "lock the size" if on else "free the size",
            fix_size(self.session.job, self.session.selection.ids, on),
        )

    def refresh(self) -> None:
        chosen, box = self.session.selection.items, self._box()
        self._chosen.setText(count_words(len(chosen), "contour") if chosen else "none")
        for control in (self.wide, self.high, self.lock):
            allow(control, box, "choose contours first")
        self.foot.offer(
            self.go,
            f"{count_words(len(chosen), 'contour')} get that size, which then stays",
            "" if box else "Choose contours in Mend first",
        )
        self.lock.setChecked(bool(chosen) and all(item.fixed for item in chosen))
        if box and box != self._shown:
            self._typed.clear()
            self.wide.set_value(box[2] - box[0])
            self.high.set_value(box[3] - box[1])
        self._shown = box
