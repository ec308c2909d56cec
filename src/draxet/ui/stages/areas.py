"""A box dragged on a picture."""

from __future__ import annotations

from draxet.job.picture_records import Picture
from draxet.ui.model.session import Session
from draxet.ui.model.tool import BoxMark, Mark, Pointer, TagMark, Tool
from draxet.ui.stages.in_hand import picture_at
from draxet.units import format_length

__all__ = ["AreaTool", "begun_on"]


def begun_on(session: Session, at: Pointer) -> Picture | None:
    """The picture that something is begun on, in hand from now on; where there is none, that is
    said."""
    picture = picture_at(session, at.x, at.y)
    if picture is None:
        session.messages.refused.emit(
            "There is no picture under the pointer; begin on the picture."
        )
    else:
        session.selection.choose_picture(picture.id)
    return picture


class AreaTool(Tool):
    """Press at one corner of a box, drag to the other; works on the picture beneath the pointer."""

    title = ""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._from: Pointer | None = None
        self._to: Pointer | None = None

    def cancel(self) -> bool:
        begun, self._from = self._from is not None, None
        return begun

    def marks(self) -> list[Mark]:
        if self._from and self._to:
            return [BoxMark(self._from.x, self._from.y, self._to.x, self._to.y), *self._size_tag()]
        return []

    def _size_tag(self) -> list[Mark]:
        assert self._from and self._to
        unit = self.session.job.unit
        wide, high = (
            format_length(abs(v), unit, places=1)
            for v in (self._to.x - self._from.x, self._to.y - self._from.y)
        )
        return [
            TagMark(
                (self._from.x + self._to.x) / 2, min(self._from.y, self._to.y), f"{wide} × {high}"
            )
        ]

    def move(self, at: Pointer) -> None:
        self._to = at

    def press(self, at: Pointer) -> None:
        if begun_on(self.session, at):
            self._from = self._to = at

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        picture = self.session.selection.picture
        if begun is None or picture is None:
            return
        if min(abs(at.x - begun.x), abs(at.y - begun.y)) < 4 * at.pixel:
            self.session.messages.refused.emit(
                f"{self.title}: press at one corner and drag to the other."
            )
            return
        self.boxed(picture, begun, at)

    def boxed(self, picture: Picture, a: Pointer, b: Pointer) -> None:
        """A box was dragged."""
        raise NotImplementedError
