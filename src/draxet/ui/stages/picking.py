"""Contours are picked by a click or a box."""

from __future__ import annotations

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import remove_for_good
from draxet.job.find import contour_at, contours_in, contours_within
from draxet.job.part_edits import with_whole_parts
from draxet.ui.model.large_edits import MANY
from draxet.ui.model.session import Session
from draxet.ui.model.tool import BoxMark, ContourMark, Mark, Pointer, Prompt, Tool

__all__ = ["REACH", "PickTool", "remove_chosen"]

REACH = 8.0
"""Pixels of the screen within which something is picked."""


def remove_chosen(session: Session) -> None:
    """Remove the chosen contours; what goes flashes."""
    gone = [item.contour for item in session.selection.items]
    if gone:
        session.edit_chosen(
            f"remove {len(gone)} contour{'s' * (len(gone) > 1)}",
            remove_for_good,
        )
        if len(gone) <= MANY:
            session.messages.flash(gone)


class PickTool(Tool):
    """Click or box contours."""

    title = "Pick"

    def __init__(self, session: Session) -> None:
        self._session = session
        self._from: Pointer | None = None
        self._to: Pointer | None = None
        self._round: list[tuple[float, float]] = []
        self.lasso = False
        """Whether a drag draws a line round what is chosen, in place of a box."""

    def prompt(self) -> Prompt:
        if not self._session.job.contours:
            return Prompt(f"{self.title}: there are no contours yet.", "trace a picture first")
        return Prompt(
            f"{self.title}: click or box contours.", keys=(("Shift", "add"), ("Ctrl+A", "all"))
        )

    @property
    def holds(self) -> bool:
        return self._from is not None

    def press(self, at: Pointer) -> None:
        self._from = self._to = at
        self._round = [(at.x, at.y)]

    def move(self, at: Pointer) -> None:
        self._to = at
        if (
            self._from is not None
            and self.lasso
            and max(abs(at.x - self._round[-1][0]), abs(at.y - self._round[-1][1])) >= 2 * at.pixel
        ):
            self._round.append((at.x, at.y))

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        if begun is None:
            return
        if abs(at.x - begun.x) + abs(at.y - begun.y) > 3 * at.pixel:
            if self.lasso:
                self.rounded(self._round, at)
            else:
                self.boxed(begun, at)
        else:
            found = contour_at(self._session.selection.pickable, at.x, at.y, REACH * at.pixel)
            self.take({found} if found else set(), at.adds, alone=at.free)

    def boxed(self, a: Pointer, b: Pointer) -> None:
        """A box was dragged."""
        self.take(
            set(contours_in(self._session.selection.pickable, a.x, a.y, b.x, b.y)),
            b.adds,
            alone=b.free,
        )

    def rounded(self, line: list[tuple[float, float]], at: Pointer) -> None:
        """A line was drawn round."""
        if len(line) > 2:
            self.take(
                set(contours_within(self._session.selection.pickable, line)), at.adds, alone=at.free
            )

    def forget(self) -> None:
        self._from = self._to = None

    def take(self, ids: set[str], adds: bool, *, alone: bool = False) -> None:
        """Choose contours and the parts that they belong to (not where they are meant `alone`), in
        exchange for those that were, or in addition."""
        whole = frozenset(ids) if alone else with_whole_parts(self._session.job, ids)
        self._session.selection.choose(self._session.selection.ids ^ whole if adds else whole)

    def cancel(self) -> bool:
        begun = self._from is not None or bool(self._session.selection.ids)
        if self._from is None:
            self._session.selection.choose(frozenset())
        self._from = None
        return begun

    def marks(self) -> list[Mark]:
        if not (self._from and self._to):
            return []
        if self.lasso:
            return (
                [ContourMark((Contour.make(self._round, closed=True),), "offer")]
                if len(self._round) > 2
                else []
            )
        return [BoxMark(self._from.x, self._from.y, self._to.x, self._to.y)]
