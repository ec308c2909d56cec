"""Gather: choosing and placing pictures."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtWidgets import QCheckBox, QLineEdit

from draxet.geometry.affine import Affine
from draxet.job.edits import lock_picture, map_picture, note_picture, set_sheet, set_tones
from draxet.job.records import KnownLength, Picture, Sheet, Tones
from draxet.trueup.true import set_true_lengths
from draxet.ui.canvas.tool import BoxMark, LineMark, Mark, Pointer, Prompt, Tool
from draxet.ui.shell.fields import Choice, SliderField, button, fact_row, field_row, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.slip import Slip

__all__ = ["GatherSlip", "MovePicture", "PrepareSlip", "PrepareTool", "picture_at"]


_BORDER_SPREAD = 0.3
"""Standard deviation, in pixels, of a picture's border."""


def picture_at(session: Session, x: float, y: float) -> Picture | None:
    """The foremost visible picture under a place."""
    for picture in reversed(session.job.pictures):
        px, py = picture.to_job.inverse().point(x, y)
        if picture.visible and 0 <= px <= picture.width and 0 <= py <= picture.height:
            return picture
    return None


class MovePicture(Tool):
    """Drag a picture to another place."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._held: tuple[Picture, float, float] | None = None
        self._to = (0.0, 0.0)

    def prompt(self) -> Prompt:
        if self._held:
            return Prompt("Move a picture: let go where it belongs.", "Esc to leave it where it was")
        return Prompt("Move a picture: drag it, or use the arrow keys.", "1 mm · Shift 10 mm · Ctrl 0.1 mm · contours traced from it go with it")

    def press(self, at: Pointer) -> None:
        picture = picture_at(self._session, at.x, at.y)
        if picture is None:
            self._session.refused.emit("There is no picture under the pointer; press on one and drag.")
            return
        self._session.choose_picture(picture.id)
        if not self._is_locked(picture):
            self._held, self._to = (picture, at.x, at.y), (at.x, at.y)

    def move(self, at: Pointer) -> None:
        self._to = (at.x, at.y)

    def release(self, at: Pointer) -> None:
        if self._held is None:
            return
        picture, x, y = self._held
        self._held = None
        if abs(at.x - x) + abs(at.y - y) > 2 * at.pixel:
            self._session.edit("move a picture", map_picture(self._session.job, picture.id, Affine.moved(at.x - x, at.y - y)))

    def nudge(self, dx: float, dy: float) -> bool:
        picture = self._session.picture
        if picture is not None and not self._is_locked(picture):
            self._session.edit("move a picture", map_picture(self._session.job, picture.id, Affine.moved(dx, dy)))
        return picture is not None

    def _is_locked(self, picture: Picture) -> bool:
        if picture.locked:
            self._session.refused.emit(f"{picture.name} is locked; unlock it on the right to move it.")
        return picture.locked

    def cancel(self) -> bool:
        begun, self._held = self._held is not None, None
        return begun

    def marks(self) -> list[Mark]:
        if self._held is None:
            return []
        picture, x, y = self._held
        dx, dy = self._to[0] - x, self._to[1] - y
        corners = [picture.to_job.point(px, py) for px in (0, picture.width) for py in (0, picture.height)]
        low, high = (min(c[0] for c in corners), min(c[1] for c in corners)), (max(c[0] for c in corners), max(c[1] for c in corners))
        return [LineMark(x, y, *self._to), BoxMark(low[0] + dx, low[1] + dy, high[0] + dx, high[1] + dy)]


class GatherSlip(Slip):
    """The picture in hand and the sheet."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Gather", "Choose, drop or paste the picture to work from.")
        size, self._size = fact_row("Picture")
        dpi, self._dpi = fact_row("Its own resolution")
        self._wide, self._high = self.length_field("Picture width"), self.length_field("Picture height")
        self._wide.entered.connect(lambda mm: self._set_size(mm, along_x=True))
        self._high.entered.connect(lambda mm: self._set_size(mm, along_x=False))
        self._lock = QCheckBox("Locked: not moved by hand")
        self._lock.clicked.connect(self._set_lock)
        self._from, self._use = (self._note_field(name) for name in ("Came from", "May be used for"))
        self.add(size, dpi, field_row("Width", self._wide), field_row("Height", self._high), self._lock)
        self.add(field_row("Came from", self._from), field_row("May be used for", self._use))
        self.add(label("Sheet", "section"))
        self._width, self._height = self.length_field("Sheet width"), self.length_field("Sheet height")
        self.add(field_row("Width", self._width), field_row("Height", self._height))
        self._width.entered.connect(lambda mm: self._resize(width=mm))
        self._height.entered.connect(lambda mm: self._resize(height=mm))
        self.refresh()

    def _note_field(self, name: str) -> QLineEdit:
        field = QLineEdit()
        field.setAccessibleName(name)
        field.setMaxLength(300)
        field.editingFinished.connect(self._set_notes)
        return field

    def _set_notes(self) -> None:
        picture = self.session.picture
        if picture and (self._from.text(), self._use.text()) != (picture.came_from, picture.may_be_used):
            self.session.edit("note where a picture is from", note_picture(self.session.job, picture.id, self._from.text(), self._use.text()))

    def _set_lock(self, locked: bool) -> None:
        picture = self.session.picture
        if picture:
            words = "lock a picture" if locked else "unlock a picture"
            self.session.edit(words, lock_picture(self.session.job, picture.id, locked))

    def _set_size(self, mm: float, *, along_x: bool) -> None:
        """A typed width or height is a known length from border to border; the proportion stays."""
        picture = self.session.picture
        if picture:
            x, y = picture.width / 2, picture.height / 2
            ends = ((0.0, y), (2 * x, y)) if along_x else ((x, 0.0), (x, 2 * y))
            known = KnownLength(*ends, mm, _BORDER_SPREAD, _BORDER_SPREAD)
            self.session.edit("set the picture's size", set_true_lengths(self.session.job, picture.id, [known]))
            self.session.fit_asked.emit()

    def _resize(self, width: float | None = None, height: float | None = None) -> None:
        old = self.session.job.sheet
        sheet = Sheet(old.id, old.name, width or old.width, height or old.height, old.thickness, old.material)
        if sheet != old:
            self.session.edit("set the sheet's size", set_sheet(self.session.job, sheet))

    def refresh(self) -> None:
        picture, sheet = self.session.picture, self.session.job.sheet
        self._width.set_value(sheet.width)
        self._height.set_value(sheet.height)
        self._size.setText(f"{picture.width:,} × {picture.height:,} px".replace(",", " ") if picture else "none yet")
        self._dpi.setText("–" if picture is None else f"{picture.dpi:g} dpi" if picture.dpi else "not stated")
        for control in (self._wide, self._high, self._lock, self._from, self._use):
            control.setEnabled(picture is not None)
        if picture:
            self._wide.set_value(picture.width * picture.pixel_size)
            self._high.set_value(picture.height * picture.pixel_size)
            self._lock.setChecked(picture.locked)
            for field, words in ((self._from, picture.came_from), (self._use, picture.may_be_used)):
                if not field.hasFocus():
                    field.setText(words)


class PrepareTool(Tool):
    """Nothing to click: the slip prepares the picture in hand, and the canvas shows it at once."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def prompt(self) -> Prompt:
        return Prompt("Prepare: choose what is to be done on the right.", "the file itself is never changed; every step can be switched off")


class PrepareSlip(Slip):
    """Quarter turns, flips and tones of the picture in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Prepare", "For a clearer trace. Nothing here changes the file that came in.")
        turns = Choice((("left", "turn left"), ("right", "turn right")), "Quarter turn")
        flips = Choice((("across", "flip across"), ("upright", "flip upright")), "Flip")
        for choice in (turns, flips):
            choice.act_only()
        turns.chosen.connect(lambda key: self._map("turn a picture", Affine.turned(90 if key == "left" else -90)))
        flips.chosen.connect(lambda key: self._map("flip a picture", Affine.scaled(-1, 1) if key == "across" else Affine.scaled(1, -1)))
        self.even = QCheckBox("Even out light and paper")
        self.even.clicked.connect(lambda on: self._tone(even_light=on))
        self.invert = QCheckBox("Exchange dark and light")
        self.invert.clicked.connect(lambda on: self._tone(invert=on))
        self.contrast = SliderField(0, 100, "Contrast")
        self.contrast.moved.connect(lambda value: self._tone(contrast=round(value)))
        self.specks = SliderField(0, 30, "Specks up to", " px")
        self.specks.moved.connect(lambda value: self._tone(specks=round(value)))
        for field in (self.contrast.field, self.specks.field):
            field.refused.connect(session.refused)
        self.reset = button("As it came", "plain", lambda: self._tone(even_light=False, invert=False, contrast=0, specks=0))
        self.add(turns, flips, self.even, label("Drop specks up to"), self.specks, label("Contrast"), self.contrast, self.invert, self.reset)
        self.refresh()

    def _map(self, words: str, affine: Affine) -> None:
        picture = self.session.picture
        if picture:
            middle = picture.to_job.point(picture.width / 2, picture.height / 2)
            self.session.edit(words, map_picture(self.session.job, picture.id, affine.about(*middle)))

    def _tone(self, **changes: Any) -> None:
        picture = self.session.picture
        if picture:
            tones = replace(picture.tones, **changes)
            if tones != picture.tones:
                self.session.edit("prepare a picture", set_tones(self.session.job, picture.id, tones))

    def refresh(self) -> None:
        picture = self.session.picture
        tones = picture.tones if picture else Tones()
        self.even.setChecked(tones.even_light)
        self.invert.setChecked(tones.invert)
        self.contrast.set_value(tones.contrast)
        self.specks.set_value(tones.specks)
        self.reset.setEnabled(tones != Tones())
