"""Contours are picked by a click or a box."""

from __future__ import annotations

from draxet.geometry.contour import Contour
from draxet.job.edits import remove_contours
from draxet.job.grouping import with_whole_groups
from draxet.mend.find import contour_at, contours_in
from draxet.ui.canvas.tool import BoxMark, Mark, Pointer, Prompt, Tool
from draxet.ui.shell.session import Session

__all__ = ["REACH", "PickTool", "remove_chosen"]

REACH = 8.0
"""Pixels of the screen within which something is picked."""


def remove_chosen(session: Session) -> None:
    """Remove the chosen contours; what goes flashes."""
    gone = [item.contour for item in session.chosen()]
    if gone:
        session.edit(f"remove {len(gone)} contour{'s' * (len(gone) > 1)}", remove_contours(session.job, session.selection))
        session.flash(gone)


class PickTool(Tool):
    """Click or box contours."""

    title = "Pick"

    def __init__(self, session: Session) -> None:
        self._session = session
        self._from: Pointer | None = None
        self._to: Pointer | None = None

    def prompt(self) -> Prompt:
        if not self._session.job.contours:
            return Prompt(f"{self.title}: there are no contours yet.", "trace a picture first")
        return Prompt(f"{self.title}: click or box contours.", keys=(("Shift", "add"), ("Ctrl+A", "all")))

    def press(self, at: Pointer) -> None:
        self._from = self._to = at

    def move(self, at: Pointer) -> None:
        self._to = at

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        if begun is None:
            return
        if abs(at.x - begun.x) + abs(at.y - begun.y) > 3 * at.pixel:
            self.boxed(begun, at)
        else:
            found = contour_at(self._session.pickable, at.x, at.y, REACH * at.pixel)
            self.take({found} if found else set(), at.adds, alone=at.free)

    def boxed(self, a: Pointer, b: Pointer) -> None:
        """A box was dragged."""
        self.take(set(contours_in(self._session.pickable, a.x, a.y, b.x, b.y)), b.adds, alone=b.free)

    def forget(self) -> None:
        self._from = self._to = None

    def take(self, ids: set[str], adds: bool, *, alone: bool = False) -> None:
        """Choose contours and the groups that they stand in (not where they are meant `alone`), in exchange for those that were, or in
        addition."""
        whole = frozenset(ids) if alone else with_whole_groups(self._session.job, ids)
        self._session.select(self._session.selection ^ whole if adds else whole)

    def cancel(self) -> bool:
        begun = self._from is not None or bool(self._session.selection)
        if self._from is None:
            self._session.select(frozenset())
        self._from = None
        return begun

    def marks(self) -> list[Mark]:
        return [BoxMark(self._from.x, self._from.y, self._to.x, self._to.y)] if self._from and self._to else []
