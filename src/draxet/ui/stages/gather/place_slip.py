"""Where what is in hand lies, how large it is, and copies of it."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from draxet.geometry.affine import Affine
from draxet.job.picture_records import KnownLength, Picture
from draxet.trueup.true import BORDER_SPREAD, set_true_lengths
from draxet.ui.controls.fields import Anchors, Field
from draxet.ui.controls.slip_parts import allow, button, fact_row, field_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.model.tool import BoxMark, LineMark, Mark, Pointer, Prompt, Tool
from draxet.ui.stages.in_hand import InHand, picture_at
from draxet.ui.stages.slip import Slip
from draxet.units import format_length, format_number, parse_angle

__all__ = ["MovePicture", "PlaceSlip"]


class MovePicture(Tool):
    """Drag what is in hand to another place."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._what = InHand(session)
        self._held: tuple[tuple[float, float, float, float], float, float] | None = None
        self._to = (0.0, 0.0)

    def prompt(self) -> Prompt:
        if self._held:
            return Prompt(
                "Place: let go where it belongs.", keys=(("Esc", "leave it where it was"),)
            )
        step = format_length(self._session.desk.nudge_mm, self._session.job.unit)
        return Prompt(
            "Place: drag it, nudge it, or type numbers.",
            keys=(("Arrows", f"by {step}"), ("Shift", "ten times that"), ("Ctrl", "a tenth")),
        )

    def press(self, at: Pointer) -> None:
        if not self._what.is_contours:
            picture = picture_at(self._session, at.x, at.y)
            if picture is None:
                self._session.messages.refused.emit(
                    "There is no picture under the pointer; press on one and drag."
                )
                return
            self._session.selection.choose_picture(picture.id)
        box = self._what.box
        if box and self._what.may_move():
            self._held, self._to = (box, at.x, at.y), (at.x, at.y)

    def move(self, at: Pointer) -> None:
        self._to = (at.x, at.y)

    def release(self, at: Pointer) -> None:
        if self._held is None:
            return
        _, x, y = self._held
        self._held = None
        if abs(at.x - x) + abs(at.y - y) > 2 * at.pixel:
            self._what.map(f"move {self._kind}", Affine.moved(at.x - x, at.y - y))

    @property
    def _kind(self) -> str:
        return "contours" if self._what.is_contours else "a picture"

    def nudge(self, dx: float, dy: float) -> bool:
        self._what.map(f"move {self._kind}", Affine.moved(dx, dy), self._session.desk.nudge_gesture)
        return self._what.box is not None

    def cancel(self) -> bool:
        begun, self._held = self._held is not None, None
        return begun

    def marks(self) -> list[Mark]:
        if self._held is None:
            return []
        (x0, y0, x1, y1), x, y = self._held
        dx, dy = self._to[0] - x, self._to[1] - y
        return [LineMark(x, y, *self._to), BoxMark(x0 + dx, y0 + dy, x1 + dx, y1 + dy)]


class PlaceSlip(Slip):
    """Size, place, turn and copies by number."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, "Place", "")
        self._what, self._anchor = InHand(session), (0.0, 0.0)
        self._lay_out_size()
        self._lay_out_place()
        self._lay_out_moves()
        for field in (self.dx, self.dy, self.turn):
            field.set_value(0.0)
        self.refresh()

    def _lay_out_size(self) -> None:
        self.wide, self.high = self.length_field("Width"), self.length_field("Height")
        self.wide.entered.connect(lambda mm: self._set_size(mm, along_x=True))
        self.high.entered.connect(lambda mm: self._set_size(mm, along_x=False))
        self.keep = QCheckBox("Keep the proportion")
        self.keep.setChecked(True)
        distortion, self._distortion = fact_row("Distortion")
        self.add(
            field_row("Width", self.wide), field_row("Height", self.high), self.keep, distortion
        )

    def _lay_out_place(self) -> None:
        self.anchors = Anchors("Place by")
        self.anchors.set_value(self._anchor)
        self.anchors.chosen.connect(self._by)
        self.place_x, self.place_y = (
            self.length_field(name, positive=False) for name in ("x", "y")
        )
        self.place_x.entered.connect(lambda mm: self._put(x=mm))
        self.place_y.entered.connect(lambda mm: self._put(y=mm))
        self.to_sheet = button("Align to the sheet", "plain", self._to_sheet)
        self.add(
            label("Place by", "section"),
            side_by_side(
                self.anchors,
                _two_rows(field_row("x", self.place_x, 110), field_row("y", self.place_y, 110)),
            ),
            self.to_sheet,
        )

    def _lay_out_moves(self) -> None:
        self.dx, self.dy = (
            self.length_field(name, positive=False) for name in ("Right by", "Up by")
        )
        self.move_button, self.copy_button = (
            button("Move", "plain", self._move),
            button("Copy", "plain", self._copy),
        )
        self.turn = Field(
            lambda text: parse_angle(text, what="Turn"),
            lambda v: f"{format_number(v, 3)}°",
            "Turn left by",
        )
        self.turn.refused.connect(self.session.messages.refused)
        self.turn.entered.connect(self._turn)
        self.step = self.length_field("Arrow keys move by")
        self.step.entered.connect(self._set_step)
        self.add(
            label("Move or copy by an exact distance", "section"),
            field_row("Right by", self.dx),
            field_row("Up by", self.dy),
        )
        self.add(
            side_by_side(self.move_button, self.copy_button),
            field_row("Turn left by", self.turn),
            field_row("Arrow keys move by", self.step, 96),
        )

    def _set_size(self, mm: float, *, along_x: bool) -> None:
        """With the proportion kept, a picture's typed width or height is a known length from border
        to border."""
        box, picture = self._what.box, self.session.selection.picture
        if box is None or not self._what.may_move():
            return
        now = box[2] - box[0] if along_x else box[3] - box[1]
        if now <= 0:
            self.session.messages.refused.emit(
                "A straight line has no size across it; type the other side."
            )
        elif (
            not self._what.is_contours
            and picture
            and self.keep.isChecked()
            and _lies_square(picture)
        ):
            self._set_known(picture, mm, along_x)
        else:
            x = 1.0 if not along_x and not self.keep.isChecked() else mm / now
            y = 1.0 if along_x and not self.keep.isChecked() else mm / now
            self._what.resize(
                Affine.scaled(x, y).about((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
            )

    def _set_known(self, picture: Picture, mm: float, along_x: bool) -> None:
        x, y = picture.width / 2, picture.height / 2
        along_columns = along_x == (abs(picture.to_job.a) > abs(picture.to_job.d))
        ends = ((0.0, y), (2 * x, y)) if along_columns else ((x, 0.0), (x, 2 * y))
        known = KnownLength(*ends, mm, BORDER_SPREAD, BORDER_SPREAD)
        self.session.edit(
            "set the picture's size", set_true_lengths(self.session.job, picture.id, [known])
        )
        self.session.messages.fit_asked.emit()

    def _by(self, x: float, y: float) -> None:
        self._anchor = (x, y)
        self.refresh()

    def _put(self, x: float | None = None, y: float | None = None) -> None:
        (ox, oy), (ax, ay) = self.session.job.sheet.origin_place, self._what.place(self._anchor)
        self._what.map(
            "place by number",
            Affine.moved(
                ox + x - ax if x is not None else 0.0, oy + y - ay if y is not None else 0.0
            ),
        )

    def _to_sheet(self) -> None:
        sheet, (ax, ay) = self.session.job.sheet, self._what.place(self._anchor)
        to = sheet.x + self._anchor[0] * sheet.width, sheet.y + self._anchor[1] * sheet.height
        self._what.map("align to the sheet", Affine.moved(to[0] - ax, to[1] - ay))

    def _distance(self) -> tuple[float, float] | None:
        dx, dy = self.dx.try_read(), self.dy.try_read()
        if dx is None or dy is None:
            return None
        if dx == dy == 0:
            self.session.messages.refused.emit("Type how far first: right by, up by, or both.")
            return None
        return dx, dy

    def _move(self) -> None:
        if by := self._distance():
            self._what.map("move by an exact distance", Affine.moved(*by))

    def _copy(self) -> None:
        if by := self._distance():
            self._what.copy(*by)

    def _turn(self, degrees: float) -> None:
        if degrees:
            self._what.map(
                "turn by an angle", Affine.turned(degrees).about(*self._what.place((0.5, 0.5)))
            )
            self.turn.set_value(0.0)

    def _set_step(self, mm: float) -> None:
        self.session.desk.nudge_mm = mm
        self.session.tool_changed.emit()

    def refresh(self) -> None:
        box, picture = self._what.box, self.session.selection.picture
        what = self._what.words
        self.about.setText(
            f"All here is done to {what}."
            if what
            else "Nothing is in hand: bring in a picture first."
        )
        for control in (
            self.wide,
            self.high,
            self.place_x,
            self.place_y,
            self.to_sheet,
            self.move_button,
            self.copy_button,
            self.turn,
        ):
            allow(control, box, "choose a picture or contours first")
        self.step.set_value(self.session.desk.nudge_mm)
        if box is None:
            return
        self.wide.set_value(box[2] - box[0])
        self.high.set_value(box[3] - box[1])
        (ox, oy), (ax, ay) = self.session.job.sheet.origin_place, self._what.place(self._anchor)
        self.place_x.set_value(ax - ox)
        self.place_y.set_value(ay - oy)
        share = 0.0 if self._what.is_contours or picture is None else picture.distortion
        self._distortion.setText(f"{100 * share:.2f} %" if share > 5e-5 else "none")
        self._distortion.setProperty("part", "brass" if share > 5e-5 else "value")
        if style := self._distortion.style():
            style.polish(self._distortion)


def _lies_square(picture: Picture) -> bool:
    """Whether the picture's sides lie level and upright."""
    m = picture.to_job
    return min(abs(m.a) + abs(m.e), abs(m.b) + abs(m.d)) < 1e-6 * (abs(m.a) + abs(m.b))


def _two_rows(first: QWidget, second: QWidget) -> QWidget:
    made = QWidget()
    rows = QVBoxLayout(made)
    rows.setContentsMargins(0, 0, 0, 0)
    rows.setSpacing(4)
    rows.addWidget(first)
    rows.addWidget(second)
    return made
