"""What is in hand to be placed: the chosen contours, or else the picture in hand."""

from __future__ import annotations

from draxet.geometry.affine import Affine
from draxet.job.contour_moves import map_contours
from draxet.job.copies import place_copies
from draxet.job.find import picture_under
from draxet.job.picture_edits import copy_picture, map_picture, sized_with
from draxet.job.picture_records import Picture
from draxet.trueup.true import size_picture
from draxet.ui.model.session import Session

__all__ = ["InHand", "picture_at"]


def picture_at(session: Session, x: float, y: float) -> Picture | None:
    """The foremost visible picture under a place."""
    return picture_under(session.job.pictures, x, y)


class InHand:
    """Looks at the session each time it is asked."""

    def __init__(self, session: Session) -> None:
        self._session = session

    @property
    def is_contours(self) -> bool:
        return bool(self._session.selection.ids)

    @property
    def words(self) -> str:
        """What it is; empty where nothing is in hand."""
        count, picture = len(self._session.selection.ids), self._session.selection.picture
        return f"{count} contour{'s' * (count > 1)}" if count else picture.name if picture else ""

    @property
    def box(self) -> tuple[float, float, float, float] | None:
        boxes = [item.contour.box for item in self._session.selection.items]
        if boxes:
            return (
                min(b[0] for b in boxes),
                min(b[1] for b in boxes),
                max(b[2] for b in boxes),
                max(b[3] for b in boxes),
            )
        return self._session.selection.picture.box if self._session.selection.picture else None

    def place(self, anchor: tuple[float, float]) -> tuple[float, float]:
        """Where a place of its box (shares of width and height) lies in job space."""
        x0, y0, x1, y1 = self.box or (0, 0, 0, 0)
        return x0 + anchor[0] * (x1 - x0), y0 + anchor[1] * (y1 - y0)

    def may_move(self) -> bool:
        """Whether it is there and not locked; else that is said."""
        picture = self._session.selection.picture
        if self.box is None:
            self._session.messages.refused.emit(
                "There is nothing to place: bring in a picture, or choose contours in Mend."
            )
            return False
        if not self.is_contours and picture and picture.locked:
            self._session.messages.refused.emit(f"{picture.name} is locked; unlock it to move it.")
            return False
        return True

    def map(self, words: str, affine: Affine, gesture: object = None) -> None:
        """Move or turn it as one step."""
        if not self.may_move():
            return
        session = self._session
        if self.is_contours:
            session.edit_chosen(
                words, lambda job, ids: map_contours(job, ids, affine, by_hand=True), gesture
            )
        elif session.selection.picture:
            session.edit(
                words, map_picture(session.job, session.selection.picture.id, affine), gesture
            )

    def resize(self, affine: Affine, words: str = "set the size") -> None:
        """Another size, as one step; what has a fixed size is not resized, and that is said."""
        session, fixed = (
            self._session,
            sum(item.fixed for item in self._session.selection.items),
        )
        if fixed:
            session.messages.refused.emit(
                f"{fixed} of the contours {'has' if fixed == 1 else 'have'} a fixed size; free it in True up, Fixed size, to resize."
            )
        elif self.is_contours:
            session.edit_chosen(
                words,
                lambda job, ids: sized_with(map_contours(job, ids, affine, by_hand=True), ids),
            )
        elif session.selection.picture and self.may_move():
            session.edit(words, size_picture(session.job, session.selection.picture.id, affine))

    def copy(self, dx: float, dy: float) -> None:
        """One more of it, moved by (dx, dy) mm and in hand from now on."""
        session = self._session
        if self.is_contours:
            job, ids = place_copies(session.job, session.selection.ids, [Affine.moved(dx, dy)])
            session.edit("copy contours", job)
            session.selection.choose(ids)
        elif session.selection.picture:
            job, picture_id = copy_picture(session.job, session.selection.picture.id, dx, dy)
            session.edit("copy a picture", job)
            session.selection.choose_picture(picture_id)
