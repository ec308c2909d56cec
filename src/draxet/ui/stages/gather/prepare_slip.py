"""Prepare: an ordered list of steps for the picture in hand, each of which can be switched off."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from PyQt6.QtWidgets import QCheckBox, QProgressBar, QPushButton, QVBoxLayout, QWidget

from draxet.gather.prepare import shrink_for
from draxet.job.picture_edits import set_steps
from draxet.job.steps import STEP_KINDS, PrepareStep, Shrink, StepKind
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    emptied,
    icon_button,
    label,
    menu_button,
    side_by_side,
)
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool
from draxet.ui.stages.gather.prepare_tools import CoverTool, add_step
from draxet.ui.stages.setting_rows import SettingRows
from draxet.ui.stages.slip import Slip

__all__ = ["PrepareSlip"]


class PrepareSlip(Slip):
    """The steps in their order, the settings of the one in hand, and how far slow ones are."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            tool.title or "Prepare",
            "Steps from the file to the picture you work with, done in this order. The file is never changed.",
        )
        self._at = -1
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self._settings = QVBoxLayout()
        self._settings.setSpacing(6)
        self.add_step = menu_button("Add a step", [(name, run) for name, run in self._kinds()])
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self._doing = label("", "quiet")
        self.stop = button("Cancel", "plain", self._stop)
        self.reset = button("Remove all steps", "plain", lambda: self._set("remove all steps", ()))
        self.chosen: QPushButton | None = None
        if isinstance(tool, CoverTool):
            self.chosen = button("Cover the chosen contours", "plain", tool.cover_chosen)
            self.add(self.chosen)
        self.body.addLayout(self._list)
        self.body.addLayout(self._settings)
        self.add(self.bar, self._doing, self.stop, side_by_side(self.add_step, self.reset))
        self._shown: object = None
        self._count = -1
        self._kinds_shown: list[type[StepKind]] = []
        self.asked: SettingRows | None = None
        session.messages.preparing_changed.connect(self.refresh)
        self.refresh()

    def _kinds(self) -> list[tuple[str, Callable[[], object]]]:
        offers = [offer for kind in STEP_KINDS for offer in kind.offers()]
        return [
            *((name, partial(add_step, self.session, kind)) for name, kind in offers),
            ("Shrink to what tracing needs", self._shrink),
        ]

    def _shrink(self) -> None:
        picture = self.session.selection.picture
        if picture is None:
            return
        factor = shrink_for(picture.pixel_size, self.session.job.exactness.tolerance)
        if factor < 1.05:
            size = self.length(picture.pixel_size, 3)
            self.session.messages.refused.emit(
                f"A pixel is {size} already: no finer than tracing needs for work exact to {self.length(self.session.job.exactness.tolerance)}."
            )
            return
        add_step(self.session, Shrink(factor))
        self.session.messages.announced.emit(
            f"A pixel is now {self.length(picture.pixel_size * factor, 3)}: half of what the work must hold, and contours lie within a quarter pixel"
        )

    def _stop(self) -> None:
        if self.session.selection.picture:
            self.session.messages.stop_preparing_asked.emit(self.session.selection.picture.id)

    def _set(self, words: str, steps: tuple[PrepareStep, ...], gesture: object = None) -> None:
        picture = self.session.selection.picture
        if picture and steps != picture.steps:
            self.session.edit(words, set_steps(self.session.job, picture.id, steps), gesture)

    def _steps(self) -> tuple[PrepareStep, ...]:
        return self.session.selection.picture.steps if self.session.selection.picture else ()

    def change(self, k: int, step: PrepareStep, gesture: object = None) -> None:
        """Another setting for step `k`."""
        steps = self._steps()
        self._set("change a step", (*steps[:k], step, *steps[k + 1 :]), gesture)

    def _move(self, k: int, by: int) -> None:
        steps = list(self._steps())
        to = min(max(k + by, 0), len(steps) - 1)
        steps.insert(to, steps.pop(k))
        self._at = to
        self._set("order the steps", tuple(steps))

    def _without(self, k: int) -> None:
        steps = self._steps()
        self._at = -1
        self._set("remove a step", (*steps[:k], *steps[k + 1 :]))

    def _take(self, k: int) -> None:
        self._at = k
        self.refresh()

    def refresh(self) -> None:
        picture, steps = self.session.selection.picture, self._steps()
        doing = self.session.preparing.get(picture.id) if picture else None
        for part in (self.bar, self._doing, self.stop):
            part.setVisible(doing is not None)
        if doing is not None:
            self.bar.setValue(round(100 * doing[0]))
            self._doing.setText(f"{doing[1]} …" if doing[1] else "")
        allow(self.reset, steps, "there are no steps yet")
        allow(self.add_step, picture, "choose a picture first")
        if len(steps) != self._count:
            self._at = (
                len(steps) - 1 if len(steps) > self._count >= 0 else min(self._at, len(steps) - 1)
            )
            self._count = len(steps)
        unit, pixel = self.session.job.unit, picture.pixel_size if picture else 1
        words = tuple((step.on, step.kind.words(unit, pixel)) for step in steps)
        self._show_steps((picture.id if picture else "", words, self._at), steps)

    def _show_steps(self, shown: tuple[object, ...], steps: Sequence[PrepareStep]) -> None:
        """The list of steps and the settings of the one in hand, where they are other ones."""
        if shown != self._shown:
            kept = (
                isinstance(self._shown, tuple)
                and [type(s.kind) for s in steps] == self._kinds_shown
                and self._shown[2] == self._at
            )
            self._shown, self._kinds_shown = shown, [type(s.kind) for s in steps]
            emptied(self._list)
            for k, step in enumerate(steps):
                self._list.addWidget(self._row(k, step))
            if not steps:
                self._list.addWidget(
                    label("No steps yet: it is as its file has it.", "quiet", wrap=True)
                )
            if not kept:
                emptied(self._settings)
                self.asked = None
                if 0 <= self._at < len(steps):
                    self.asked = SettingRows(
                        self.session, steps[self._at].kind, self._change_setting
                    )
                    self._settings.addWidget(self.asked)
            self._show_settings()

    def _show_settings(self) -> None:
        """Controls follow what undo brings back."""
        if self.asked is not None:
            self.asked.show_of(self._steps()[self._at].kind)

    def _row(self, k: int, step: PrepareStep) -> QWidget:
        picture = self.session.selection.picture
        pixel = picture.to_base.inverse().then(picture.to_job).scale if picture else 1.0
        on = QCheckBox()
        on.setChecked(step.on)
        on.setFixedWidth(px(24))
        words = step.kind.words(self.session.job.unit, pixel)
        on.setAccessibleName(f"Step {k + 1} on: {words}")
        on.clicked.connect(lambda state: self.change(k, replace(step, on=state)))
        name = button(words, "row", lambda: self._take(k))
        name.setCheckable(True)
        name.setChecked(k == self._at)
        name.setMinimumWidth(1)
        up = icon_button("up", LIGHT.quiet, "Earlier", lambda: self._move(k, -1))
        allow(up, k > 0, "it is the first step already")
        row = side_by_side(
            on,
            name,
            up,
            icon_button("remove", LIGHT.quiet, f"Remove step {k + 1}", lambda: self._without(k)),
            spacing=2,
        )
        if layout := row.layout():
            layout.setStretch(1, 1)  # type: ignore[attr-defined]
        return row

    def _change_setting(self, name: str, value: object, gesture: object) -> None:
        k = self._at
        step = self._steps()[k]
        self.change(k, replace(step, kind=replace(step.kind, **{name: value})), gesture)  # type: ignore[type-var]
