"""True up: a line made level, upright, or laid at an angle."""

from __future__ import annotations

import math

from draxet.job.picture_records import Picture
from draxet.trueup.pick import Pick
from draxet.trueup.true import level_picture, level_trust
from draxet.ui.controls.fields import Choice, Field
from draxet.ui.controls.slip_parts import button, fact_row, field_row, label
from draxet.ui.model.session import Session
from draxet.ui.stages.picks import TwoPicks
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.want import Answer, Gesture
from draxet.units import format_number, parse_angle

__all__ = ["LevelLine", "LevelSlip"]


class LevelLine(TwoPicks):
    """Two places on a line that is level or upright in reality."""

    title = "Level a line"

    def __init__(self, session: Session) -> None:
        self.lies: str = ""
        """What the line is in reality: ``level``, ``upright``, ``angle``; empty for what it is
        nearest to."""
        self.angle = 45.0
        super().__init__(session)

    def conclude(self) -> Gesture:
        yield self.after(
            "is it level or upright in reality?",
            "say so on the right, or type its angle; then turn the picture",
            "choice",
        )
        picture, picks = self.session.job.picture_by_id.get(self.picture_id), self.picks
        if picture is None:
            return
        angle = {"level": 0.0, "upright": 90.0, "angle": self.angle}[self.reality]
        self.picks, self.lies = [], ""
        self.session.edit(
            "level the picture",
            level_picture(self.session.job, picture.id, picks[0], picks[1], angle=angle),
        )
        self.session.tool_changed.emit()

    @property
    def looks_upright(self) -> bool:
        if not self.done or self.picture is None:
            return False
        (ax, ay), (bx, by) = (self.picture.to_job.point(pick.x, pick.y) for pick in self.picks)
        return abs(by - ay) > abs(bx - ax)

    def turn(self) -> None:
        """Turn the picture by what the line is in reality."""
        if self.done:
            self.answer(Answer(key="turn"))
        else:
            self.session.messages.refused.emit("Pick both ends of the line on the picture first.")

    @property
    def reality(self) -> str:
        return self.lies or ("upright" if self.looks_upright else "level")

    def tag(self, picture: Picture, picks: list[Pick]) -> str:
        (ax, ay), (bx, by) = (picture.to_job.point(pick.x, pick.y) for pick in picks)
        tilt = math.degrees(math.atan2(by - ay, bx - ax)) % 180
        off = min((tilt, tilt - 180, tilt - 90), key=abs)
        return f"{abs(off):.2f}° off {'upright' if 45 < tilt < 135 else 'level'}"


class LevelSlip(Slip):
    """What the line is in reality."""

    def __init__(self, session: Session, tool: LevelLine) -> None:
        super().__init__(
            session,
            "Level a line",
            "Pick two points on one straight line of the drawing, the longer the better.",
        )
        self._tool = tool
        self.choice = Choice(
            (("level", "level"), ("upright", "upright"), ("angle", "at an angle")),
            "What the line is in reality",
        )
        self.choice.chosen.connect(self._say)
        self.angle = Field(
            lambda text: parse_angle(text, what="Angle"),
            lambda v: f"{format_number(v, 3)}°",
            "Angle from level",
        )
        self.angle.refused.connect(session.messages.refused)
        self.angle.entered.connect(self._set_angle)
        length, self._length = fact_row("Line on the picture")
        off, self._off = fact_row("Turn within")
        self.turn = button("Turn the picture", "main", tool.turn)
        self.angle_row = field_row("Angle from level", self.angle)
        self.add(label("In reality this line is"), self.choice, self.angle_row, length, off)
        self.foot.add(self.turn)
        self.refresh()

    def _say(self, key: str) -> None:
        self._tool.lies = key
        self.refresh()

    def _set_angle(self, degrees: float) -> None:
        self._tool.angle = degrees

    def refresh(self) -> None:
        picks = self._tool.picks
        self.choice.set_value(self._tool.reality)
        self.angle_row.setVisible(self._tool.reality == "angle")
        self.angle.set_value(self._tool.angle)
        self.foot.offer(
            self.turn,
            f"The line becomes {self._tool.reality}"
            if self._tool.reality != "angle"
            else f"The line then lies at {format_number(self._tool.angle, 3)}°",
            "" if self._tool.done else "Pick two places on one straight line",
        )
        pixels = (
            math.hypot(picks[1].x - picks[0].x, picks[1].y - picks[0].y) if len(picks) == 2 else 0.0
        )
        self._length.setText(f"{pixels:.1f} px" if pixels else "–")
        self._off.setText(f"± {level_trust(*picks):.3f}°" if pixels else "–")
