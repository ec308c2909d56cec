"""Known lengths: one, or several fitted together, give a picture its size."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from draxet.job.picture_records import KnownLength, Picture
from draxet.trueup.lengths import LengthFit, fit_lengths
from draxet.trueup.pick import Pick
from draxet.trueup.true import known_length, measured_again, set_true_lengths, trust_of
from draxet.ui.controls.slip_parts import allow, button, emptied, fact_row, field_row, label
from draxet.ui.look.icons import icon
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.model.tool import LineMark, Mark, TagMark
from draxet.ui.stages.picks import TwoPicks
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.want import Answer, Gesture
from draxet.units import format_length

__all__ = [
    "KnownLengthSlip",
    "KnownLengthTool",
    "LengthSlip",
    "SeveralLengthsSlip",
    "SeveralLengthsTool",
]


class KnownLengthTool(TwoPicks):
    """Two places and the real length between them give the picture its size."""

    title = "Known length"
    step = "set the picture's size"

    def kept(self) -> tuple[KnownLength, ...]:
        """Known lengths that stay beside the new one."""
        return ()

    def conclude(self) -> Gesture:
        answer = yield self.after(
            "type the real length between the two",
            "any unit: 240 · 9 7/16 in · 2' 0 1/8\" · then Enter",
            "number",
        )
        picture, picks = self.session.job.picture_by_id.get(self.picture_id), self.picks
        if picture is None:
            return
        known = known_length(picture, picks[0], picks[1], answer.numbers["length"])
        job = set_true_lengths(
            self.session.job,
            picture.id,
            [*self.kept(), known],
            unstretched=picture.unstretched and bool(self.kept()),
        )
        self.picks = []
        self.session.edit(self.step, job)
        self.session.tool_changed.emit()
        self.session.messages.fit_asked.emit()

    def tag(self, picture: Picture, picks: list[Pick]) -> str:
        return f"{math.hypot(picks[1].x - picks[0].x, picks[1].y - picks[0].y):.1f} px"

    def set_size(self, mm: float) -> bool:
        """Apply the real length; whether that could be done."""
        if not self.done:
            self.session.messages.refused.emit(
                "Pick both ends of the known length on the picture first."
            )
            return False
        self.answer(Answer(numbers={"length": mm}))
        return True


class LengthSlip(Slip):
    """A slip with a field for the real length, which digits typed over the canvas go to."""

    def __init__(self, session: Session, tool: KnownLengthTool, title: str, about: str) -> None:
        super().__init__(session, title, about)
        self._tool = tool
        self.real = self.length_field("Real length")
        self.real.setPlaceholderText("type it")
        self.real.returnPressed.connect(self.apply)
        session.messages.number_typed.connect(self._typed)

    def _typed(self, text: str) -> None:
        if self.session.tool is self._tool:
            self.real.setFocus()
            self.real.setText(text)
            self.real.setModified(True)
            self.refresh()

    def apply(self) -> None:
        """Set the size by what is typed."""
        mm = self.real.try_read()
        if mm is not None and self._tool.set_size(mm):
            self.real.empty()
            self.refresh()
            self.session.messages.canvas_asked.emit()


class KnownLengthSlip(LengthSlip):
    """The real length, what it gives, and the length measured again."""

    def __init__(self, session: Session, tool: KnownLengthTool) -> None:
        super().__init__(session, tool, "Known length", "Two points on the picture, one real size.")
        pixels, self._pixels = fact_row("On the picture")
        becomes, self._becomes = fact_row("Picture becomes")
        pixel, self._pixel = fact_row("One pixel is")
        trust, self._trust = fact_row("Trust")
        self._advice = label("", "brass", wrap=True)
        self._again = label("", "sound", wrap=True)
        self._set = button("Set the size", "main", self.apply)
        self.add(
            field_row("Real length", self.real),
            pixels,
            label("Gives", "section"),
            becomes,
            pixel,
            trust,
            self._advice,
        )
        self.add(button("Pick again", "plain", self._restart), self._again)
        self.foot.add(self._set)
        self.real.textEdited.connect(lambda _: self.refresh())
        self.refresh()

    def _restart(self) -> None:
        self.real.empty()
        self._tool.play(())

    def _wanted(self) -> float | None:
        try:
            return self.real._read(self.real.text())
        except ValueError:
            return None

    def refresh(self) -> None:
        picture, picks, wanted = self._tool.picture, self._tool.picks, self._wanted()
        self.foot.offer(
            self._set,
            f"The line becomes {self.length(wanted)}" if wanted else "Type its real length",
            "" if self._tool.done else "Pick both ends of a length that you know",
        )
        pixels = (
            math.hypot(picks[1].x - picks[0].x, picks[1].y - picks[0].y) if len(picks) == 2 else 0.0
        )
        self._pixels.setText(f"{pixels:.1f} px" if pixels else "–")
        ready = bool(picture and pixels and wanted)
        for fact in (self._becomes, self._pixel, self._trust):
            fact.setText("–")
        self._advice.hide()
        if ready and picture and wanted:
            size = wanted / pixels
            spread = 2 * known_length(picture, picks[0], picks[1], wanted).deviation * size
            self._becomes.setText(
                f"{self.length(picture.width * size, 1)} × {self.length(picture.height * size, 1)}"
            )
            self._pixel.setText(self.length(size, 4))
            self._trust.setText(f"± {self.length(spread, 2)} in {self.length(wanted)}")
            if pixels < 0.4 * max(picture.width, picture.height):
                self._advice.show()
                self._advice.setText(
                    f"A line across the picture would bring this to ± {self.length(spread * pixels / max(picture.width, picture.height), 2)}."
                )
        again = _again(self, picture)
        self._again.setText(again)
        self._again.setVisible(bool(again))


def _again(slip: Slip, picture: Picture | None) -> str:
    if picture is None or not picture.known_lengths:
        return ""
    known, result = picture.known_lengths[-1], measured_again(picture)[-1]
    off = result.length - known.length
    return f"Measured again: {slip.length(result.length, 2)} ± {slip.length(result.trust, 2)}, off by {slip.length(abs(off), 3)}."


class SeveralLengthsTool(KnownLengthTool):
    """Known lengths, one after the other, in any directions; the best fit of all is the picture's
    size."""

    title = "Several lengths"
    step = "add a known length"

    def kept(self) -> tuple[KnownLength, ...]:
        return self.picture.known_lengths if self.picture else ()

    def change(self, words: str, known: Sequence[KnownLength], *, unstretched: bool) -> None:
        """Fit the picture to other known lengths, or with its stretch taken out."""
        picture = self.session.selection.picture
        if picture is not None:
            self.session.edit(
                words,
                set_true_lengths(
                    self.session.job, picture.id, known, unstretched=unstretched and len(known) > 1
                ),
            )
            self.session.messages.fit_asked.emit()

    def marks(self) -> list[Mark]:
        picture = self.session.selection.picture
        if picture is None or not picture.known_lengths:
            return super().marks()
        shown: list[Mark] = []
        odd = fit_lengths(picture.known_lengths, unstretched=picture.unstretched).odd
        for known, is_odd in zip(picture.known_lengths, odd.tolist(), strict=True):
            a, b = picture.to_job.point(*known.first), picture.to_job.point(*known.second)
            words = format_length(known.length, self.session.job.unit) + (" ?" if is_odd else "")
            shown += [
                LineMark(*a, *b, "fault" if is_odd else "hand"),
                TagMark((a[0] + b[0]) / 2, (a[1] + b[1]) / 2, words),
            ]
        return shown + super().marks()


class SeveralLengthsSlip(LengthSlip):
    """The known lengths with their differences, the odd one out, stretch, and how far the scale can
    be trusted."""

    _tool: SeveralLengthsTool

    def __init__(self, session: Session, tool: SeveralLengthsTool) -> None:
        super().__init__(
            session,
            tool,
            "Several lengths",
            "Pick both ends, type the real length, Enter; then the next. In two directions they show a stretched scan.",
        )
        self.add(
            field_row("Real length", self.real), label("Known lengths and differences", "section")
        )
        self._list = QVBoxLayout()
        self._list.setSpacing(4)
        self.body.addLayout(self._list)
        stretch, self._stretch = fact_row("Stretch found")
        trust, self._trust = fact_row("Trust, level · upright")
        self._advice = label("", "brass", wrap=True)
        self.unstretch = QCheckBox("Correct the stretch")
        self.unstretch.clicked.connect(self._unstretch)
        self.add(stretch, trust, self._advice, self.unstretch)
        self._shown: object = None
        self.refresh()

    def _unstretch(self, on: bool) -> None:
        picture = self.session.selection.picture
        if picture:
            self._tool.change(
                "correct the stretch" if on else "leave the stretch as it is",
                picture.known_lengths,
                unstretched=on,
            )

    def _without(self, k: int) -> None:
        picture = self.session.selection.picture
        if picture:
            self._tool.change(
                "remove a known length",
                picture.known_lengths[:k] + picture.known_lengths[k + 1 :],
                unstretched=picture.unstretched,
            )

    def refresh(self) -> None:
        picture = self.session.selection.picture
        state = (
            (picture.id, picture.known_lengths, picture.unstretched, self.session.job.unit)
            if picture
            else None
        )
        if state == self._shown:
            return
        self._shown = state
        emptied(self._list)
        known = picture.known_lengths if picture else ()
        fit = fit_lengths(known, unstretched=picture.unstretched) if picture and known else None
        for k, each in enumerate(known):
            assert fit is not None
            self._list.addWidget(
                self._row(
                    k,
                    each.length,
                    float(fit.differences[k]),
                    float(fit.weights[k]),
                    bool(fit.odd[k]),
                )
            )
        if not known:
            self._list.addWidget(label("None yet.", "quiet"))
        allow(self.unstretch, len(known) > 1, "at least two lengths are wanted")
        self.unstretch.setChecked(bool(picture and picture.unstretched))
        self._stretch.setText(
            f"{100 * fit.stretch:.2f} % ± {200 * fit.stretch_spread:.2f}"
            if fit and len(known) > 1
            else "–"
        )
        if fit and picture:
            level, upright = (
                trust_of(picture, 100.0, *way) or 0.0 for way in ((1.0, 0.0), (0.0, 1.0))
            )
            self._trust.setText(f"± {level:.2f} · {upright:.2f} %")
        else:
            self._trust.setText("–")
        self._advise(fit, len(known), bool(picture and picture.unstretched))

    def _advise(self, fit: LengthFit | None, count: int, unstretched: bool) -> None:
        words = ""
        if fit is not None and fit.odd.any():
            words = f"Length {int(fit.odd.argmax()) + 1} does not go with the others: look at it, or remove it."
        elif fit is not None and fit.is_stretched and not unstretched:
            words = f"The scan is stretched by {100 * fit.stretch:.2f} %: correct the stretch."
        elif count == 1:
            words = "A second length, in another direction, shows whether the scan is stretched."
        self._advice.setText(words)
        self._advice.setVisible(bool(words))

    def _row(self, k: int, length: float, off: float, weight: float, odd: bool) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label(f"{k + 1}", "quiet"))
        row.addWidget(label(self.length(length), "value"), 1)
        size = self.length(abs(off), 2)
        sign = "" if size == self.length(0.0) else "+" if off > 0 else "−"
        row.addWidget(label(f"{sign}{size}", "fault" if odd else "value"))
        row.addWidget(label(f"{100 * weight:.0f} %", "quiet"))
        away = button("", "icon", lambda: self._without(k))
        away.setIcon(icon("remove", LIGHT.quiet))
        away.setAccessibleName(f"Remove known length {k + 1}")
        away.setFixedSize(px(26), px(26))
        row.addWidget(away)
        return made
