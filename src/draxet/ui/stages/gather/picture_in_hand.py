"""The picture in hand."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QCheckBox

from draxet.job.picture_edits import change_picture, order_picture
from draxet.ui.controls.fields import SliderField, WordField
from draxet.ui.controls.slip_parts import allow, button, fact_row, field_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.stages.slip import Slip

__all__ = ["GatherSlip"]


_NONE = "choose a picture first"


class GatherSlip(Slip):
    """The picture in hand: its name, size, order, strength and notes."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Gather", "Choose, drop or paste the picture to work from.")
        self.name, self.came_from, self.use = (
            WordField(name) for name in ("Picture name", "Came from", "May be used for")
        )
        size, self._size = fact_row("Pixels")
        dpi, self._dpi = fact_row("Its own resolution")
        self.strength = SliderField(0, 100, "This picture's strength", " %")
        self.lock = QCheckBox("Locked: not moved by hand")
        self.forward, self.back = (
            button("Forward", "plain", lambda: self._order(1)),
            button("Back", "plain", lambda: self._order(-1)),
        )
        self.lock_all = button("Lock all", "plain", self._lock_all)
        self.add(
            field_row("Name", self.name, 168),
            size,
            dpi,
            label("This picture's strength"),
            self.strength,
            self.lock,
        )
        self.add(side_by_side(self.forward, self.back, self.lock_all))
        self.add(field_row("Came from", self.came_from), field_row("May be used for", self.use))
        self._listen()
        self.refresh()

    def _listen(self) -> None:
        """Take what is entered."""
        self.name.entered.connect(
            lambda words: self._change("rename a picture", name=words) if words else self.refresh()
        )
        self.came_from.entered.connect(
            lambda words: self._change("note where a picture is from", came_from=words)
        )
        self.use.entered.connect(
            lambda words: self._change("note what a picture may be used for", may_be_used=words)
        )
        self.lock.clicked.connect(
            lambda on: self._change("lock a picture" if on else "unlock a picture", locked=on)
        )
        self.strength.moved.connect(
            lambda value: self._change(
                "fade a picture", self.strength.gesture, strength=value / 100
            )
        )
        self.strength.field.refused.connect(self.session.messages.refused)

    def _change(self, words: str, gesture: object = None, **changes: Any) -> None:
        picture = self.session.selection.picture
        if picture and any(getattr(picture, name) != value for name, value in changes.items()):
            self.session.edit(
                words, change_picture(self.session.job, picture.id, **changes), gesture
            )

    def _order(self, forward: int) -> None:
        picture = self.session.selection.picture
        if picture:
            self.session.edit(
                "order the pictures", order_picture(self.session.job, picture.id, forward)
            )

    def _lock_all(self) -> None:
        job, lock = (
            self.session.job,
            not all(picture.locked for picture in self.session.job.pictures),
        )
        for picture in job.pictures:
            job = change_picture(job, picture.id, locked=lock)
        self.session.edit("lock all pictures" if lock else "unlock all pictures", job)

    def refresh(self) -> None:
        picture, pictures = self.session.selection.picture, self.session.job.pictures
        for control in (self.name, self.came_from, self.use, self.strength, self.lock):
            allow(control, picture, _NONE)
        at = pictures.index(picture) if picture else 0
        allow(
            self.forward,
            picture is not None and at < len(pictures) - 1,
            _NONE if picture is None else "no other picture lies before it",
        )
        allow(self.back, at > 0, _NONE if picture is None else "no other picture lies behind it")
        allow(self.lock_all, len(pictures) > 1, "there is one picture at the most")
        self.lock_all.setText(
            "Unlock all" if pictures and all(p.locked for p in pictures) else "Lock all"
        )
        self._size.setText(
            f"{picture.width:,} × {picture.height:,}".replace(",", " ") if picture else "none yet"
        )
        self._dpi.setText(
            "–" if picture is None else f"{picture.dpi:g} dpi" if picture.dpi else "not stated"
        )
        self.name.set_value(picture.name if picture else "")
        self.came_from.set_value(picture.came_from if picture else "")
        self.use.set_value(picture.may_be_used if picture else "")
        self.lock.setChecked(bool(picture and picture.locked))
        self.strength.set_value(100 * picture.strength if picture else 100)
