"""True up: a line made level or upright, and lengths measured."""

from __future__ import annotations

import math

from draxet.job.records import Picture
from draxet.trueup.pick import Pick
from draxet.trueup.true import level_picture, measure
from draxet.ui.canvas.tool import Prompt
from draxet.ui.shell.fields import Choice, button, fact_row, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.picks import TwoPicks
from draxet.ui.stages.slip import Slip

__all__ = ["LevelLine", "LevelSlip", "MeasureSlip", "MeasureTool"]


class LevelLine(TwoPicks):
    """Two places on a line that is level or upright in reality."""

    title = "Level a line"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.upright: bool | None = None

    def after(self) -> Prompt:
        return Prompt("Level a line: is it level or upright in reality?", "say so on the right, then turn the picture")

    @property
    def looks_upright(self) -> bool:
        if not self.done or self.picture is None:
            return False
        (ax, ay), (bx, by) = (self.picture.to_job.point(pick.x, pick.y) for pick in self.picks)
        return abs(by - ay) > abs(bx - ax)

    def turn(self, *, upright: bool) -> None:
        if not self.done or self.picture is None:
            self.session.refused.emit("Pick both ends of the line on the picture first.")
            return
        job = level_picture(self.session.job, self.picture_id, self.picks[0], self.picks[1], upright=upright)
        self.picks = []
        self.session.edit("level the picture", job)
        self.session.tool_changed.emit()

    def tag(self, picture: Picture, picks: list[Pick]) -> str:
        (ax, ay), (bx, by) = (picture.to_job.point(pick.x, pick.y) for pick in picks)
        tilt = math.degrees(math.atan2(by - ay, bx - ax)) % 180
        off = min((tilt, tilt - 180, tilt - 90), key=abs)
        return f"{abs(off):.2f}° off {'upright' if 45 < tilt < 135 else 'level'}"


class LevelSlip(Slip):
    """What the line is in reality."""

    def __init__(self, session: Session, tool: LevelLine) -> None:
        super().__init__(session, "Level a line", "Pick two points on one straight line of the drawing, the longer the better.")
        self._tool = tool
        self.choice = Choice((("level", "level"), ("upright", "upright")), "What the line is in reality")
        self.choice.chosen.connect(lambda key: setattr(tool, "upright", key == "upright"))
        length, self._length = fact_row("Line on the picture")
        self.turn = button("Turn the picture", "main", self._apply)
        self.add(label("In reality this line is"), self.choice, length, self.turn)
        self.refresh()

    def _apply(self) -> None:
        self._tool.turn(upright=self._upright())
        self._tool.upright = None

    def _upright(self) -> bool:
        return self._tool.looks_upright if self._tool.upright is None else self._tool.upright

    def refresh(self) -> None:
        picks = self._tool.picks
        self.choice.set_value("upright" if self._upright() else "level")
        self.turn.setEnabled(self._tool.done)
        self._length.setText(f"{math.hypot(picks[1].x - picks[0].x, picks[1].y - picks[0].y):.1f} px" if len(picks) == 2 else "–")


class MeasureTool(TwoPicks):
    """The length between two places, and how far it can be trusted."""

    title = "Measure"


class MeasureSlip(Slip):
    """What was measured."""

    def __init__(self, session: Session, tool: MeasureTool) -> None:
        super().__init__(session, "Measure", "Two points on the picture.")
        self._tool = tool
        length, self._length = fact_row("Length")
        trust, self._trust = fact_row("Trust")
        self._note = label("", "brass", wrap=True)
        self.add(length, trust, self._note)
        self.refresh()

    def refresh(self) -> None:
        picture, picks = self._tool.picture, self._tool.picks
        self._length.setText("–")
        self._trust.setText("–")
        self._note.setText("")
        if picture and len(picks) == 2:
            measured = measure(picture, picks[0], picks[1])
            self._length.setText(self.length(measured.length, 2))
            self._trust.setText(f"± {self.length(measured.trust, 2)}")
            if not picture.known_lengths:
                self._note.setText("The picture is not to scale yet: this is its size on the sheet, not the real one.")
