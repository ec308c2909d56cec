"""Prepare: an ordered list of steps for the picture in hand, each of which can be switched off."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QProgressBar, QVBoxLayout, QWidget

from draxet.gather.prepare import shrink_for
from draxet.job.edits import set_steps
from draxet.job.steps import CHANNELS, Contrast, EdgeMarks, EvenLight, Flip, GreyBy, Invert, LineArt, PrepareStep, Shrink, Specks, StepKind, Turn
from draxet.ui.look.tokens import LIGHT
from draxet.ui.shell.fields import Choice, SliderField, button, emptied, icon_button, label, menu_button, side_by_side
from draxet.ui.shell.preparing import Preparing
from draxet.ui.shell.session import Session
from draxet.ui.stages.prepare_tools import PrepareTool, step_words
from draxet.ui.stages.slip import Slip

__all__ = ["PrepareSlip"]


class PrepareSlip(Slip):
    """The steps in their order, the settings of the one in hand, and how far slow ones are."""

    def __init__(self, session: Session, tool: PrepareTool, preparing: Preparing) -> None:
        super().__init__(session, tool.title, "Steps from the file to the picture you work with, done in this order. The file is never changed.")
        self._tool, self._preparing, self._at = tool, preparing, -1
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self._settings = QVBoxLayout()
        self._settings.setSpacing(6)
        self.add_step = menu_button("Add a step", [(name, run) for name, run in self._kinds()])
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self._doing = label("", "quiet")
        self.stop = button("Cancel", "plain", self._stop)
        self.reset = button("As it came", "plain", lambda: self._set("take a picture as it came", ()))
        self.body.addLayout(self._list)
        self.body.addLayout(self._settings)
        self.add(self.bar, self._doing, self.stop, side_by_side(self.add_step, self.reset))
        self._shown: object = None
        self._count = -1
        self._kinds_shown: list[type[StepKind]] = []
        preparing.changed.connect(self.refresh)
        self.refresh()

    def _kinds(self) -> list[tuple[str, Callable[[], object]]]:
        kinds: list[tuple[str, StepKind]] = [
            ("Even out light and paper", EvenLight()), ("Drop specks", Specks()), ("Drop marks at the edge", EdgeMarks()), ("Contrast", Contrast()),
            ("Grey by channel", GreyBy("red")), ("Exchange dark and light", Invert()), ("Line art from a photo", LineArt()),
            ("Quarter turn left", Turn(1)), ("Quarter turn right", Turn(3)), ("Flip left to right", Flip(True)), ("Flip top to bottom", Flip(False)),
        ]  # fmt: skip
        return [*((name, lambda kind=kind: self._tool.add(kind)) for name, kind in kinds), ("Shrink to what tracing needs", self._shrink)]

    def _shrink(self) -> None:
        picture = self.session.picture
        if picture is None:
            return
        factor = shrink_for(picture.pixel_size, self.session.job.exactness.tolerance)
        if factor < 1.05:
            size = self.length(picture.pixel_size, 3)
            self.session.refused.emit(f"A pixel is {size} already: no finer than tracing needs for work exact to {self.length(self.session.job.exactness.tolerance)}.")
            return
        self._tool.add(Shrink(factor))
        self.session.said.emit(f"A pixel is now {self.length(picture.pixel_size * factor, 3)}: half of what the work must hold, and contours lie within a quarter pixel")

    def _stop(self) -> None:
        if self.session.picture:
            self._preparing.cancel(self.session.picture.id)

    def _set(self, words: str, steps: tuple[PrepareStep, ...], gesture: object = None) -> None:
        picture = self.session.picture
        if picture and steps != picture.steps:
            self.session.edit(words, set_steps(self.session.job, picture.id, steps), gesture)

    def _steps(self) -> tuple[PrepareStep, ...]:
        return self.session.picture.steps if self.session.picture else ()

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
        picture, steps = self.session.picture, self._steps()
        busy = bool(picture and self._preparing.busy(picture.id))
        for part in (self.bar, self._doing, self.stop):
            part.setVisible(busy)
        self.bar.setValue(round(100 * self._preparing.share))
        self._doing.setText(f"{self._preparing.words} …" if self._preparing.words else "")
        self.reset.setEnabled(bool(steps))
        self.add_step.setEnabled(picture is not None)
        if len(steps) != self._count:
            self._at = len(steps) - 1 if len(steps) > self._count >= 0 else min(self._at, len(steps) - 1)
            self._count = len(steps)
        shown = (picture.id if picture else "", tuple((s.on, step_words(s.kind, self.session.job.unit, picture.pixel_size if picture else 1)) for s in steps), self._at)
        if shown != self._shown:
            kept = isinstance(self._shown, tuple) and [type(s.kind) for s in steps] == self._kinds_shown and self._shown[2] == self._at
            self._shown, self._kinds_shown = shown, [type(s.kind) for s in steps]
            emptied(self._list)
            for k, step in enumerate(steps):
                self._list.addWidget(self._row(k, step))
            if not steps:
                self._list.addWidget(label("No steps yet: it is as it came.", "quiet", wrap=True))
            if not kept:
                emptied(self._settings)
                if 0 <= self._at < len(steps):
                    self._settings_of(self._at, steps[self._at])

    def _row(self, k: int, step: PrepareStep) -> QWidget:
        picture = self.session.picture
        pixel = picture.to_base.inverse().then(picture.to_job).scale if picture else 1.0
        on = QCheckBox()
        on.setChecked(step.on)
        on.setFixedWidth(22)
        words = step_words(step.kind, self.session.job.unit, pixel)
        on.setAccessibleName(f"Step {k + 1} on: {words}")
        on.clicked.connect(lambda state: self.change(k, replace(step, on=state)))
        name = button(words, "row", lambda: self._take(k))
        name.setCheckable(True)
        name.setChecked(k == self._at)
        name.setMinimumWidth(1)
        up = icon_button("up", LIGHT.quiet, "Earlier", lambda: self._move(k, -1))
        up.setEnabled(k > 0)
        row = side_by_side(on, name, up, icon_button("remove", LIGHT.quiet, f"Remove step {k + 1}", lambda: self._without(k)), spacing=2)
        if layout := row.layout():
            layout.setStretch(1, 1)  # type: ignore[attr-defined]
        return row

    def _settings_of(self, k: int, step: PrepareStep) -> None:
        kind = step.kind
        match kind:
            case Specks():
                self._slider(k, "Specks up to", 1, 60, kind.size, lambda v: Specks(round(v)), " px")
            case EdgeMarks():
                self._slider(k, "Marks within", 4, 400, kind.reach, lambda v: EdgeMarks(round(v)), " px")
            case Contrast():
                self._slider(k, "Contrast", 0, 100, kind.amount, lambda v: Contrast(round(v)))
            case Shrink():
                self._slider(k, "Pixels made one", 1, 20, kind.factor, lambda v: Shrink(max(v, 1.0)))
            case LineArt():
                self._slider(k, "Strength: how faint an edge still counts", 0, 100, kind.strength, lambda v: replace(self._line_art(k), strength=round(v)))
                self._slider(k, "Detail", 0, 100, kind.detail, lambda v: replace(self._line_art(k), detail=round(v)))
            case GreyBy():
                for some in (CHANNELS[:3], CHANNELS[3:]):
                    choice = Choice(tuple((name, name) for name in some), "Grey by")
                    if kind.channel in some:
                        choice.set_value(kind.channel)
                    choice.chosen.connect(lambda name: self._grey_by(k, name))
                    self._settings.addWidget(choice)

    def _grey_by(self, k: int, channel: str) -> None:
        self._shown = None  # both rows of choices are made anew
        self.change(k, replace(self._steps()[k], kind=GreyBy(channel)))

    def _line_art(self, k: int) -> LineArt:
        kind = self._steps()[k].kind
        assert isinstance(kind, LineArt)
        return kind

    def _slider(self, k: int, words: str, low: int, high: int, value: float, made: Callable[[float], StepKind], suffix: str = "") -> None:
        slider = SliderField(low, high, words, suffix)
        slider.set_value(value)
        slider.field.refused.connect(self.session.refused)
        slider.moved.connect(lambda v: self.change(k, replace(self._steps()[k], kind=made(v)), slider.gesture))
        self._settings.addWidget(label(words))
        self._settings.addWidget(slider)
