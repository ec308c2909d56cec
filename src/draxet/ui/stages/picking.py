"""Contours are picked by a click or a box; nodes of chosen ones are dragged where a tool has them."""

from __future__ import annotations

from draxet.geometry.contour import Contour
from draxet.job.edits import change_contours, remove_contours
from draxet.mend.find import contour_at, contours_in, node_at
from draxet.mend.nodes import move_node
from draxet.ui.canvas.tool import BoxMark, ContourMark, Mark, Pointer, Prompt, SignMark, Tool
from draxet.ui.shell.session import Session

__all__ = ["PickTool", "remove_chosen"]

_REACH = 8.0
_MOST_NODES = 4000


def remove_chosen(session: Session) -> None:
    """Remove the chosen contours; what goes flashes."""
    gone = [item.contour for item in session.chosen()]
    if gone:
        session.edit(f"remove {len(gone)} contour{'s' * (len(gone) > 1)}", remove_contours(session.job, session.selection))
        session.flash(gone)


class PickTool(Tool):
    """Click or box contours; drag a node of a chosen one, where there are `nodes`."""

    title, nodes = "Pick", False

    def __init__(self, session: Session) -> None:
        self._session = session
        self._node: tuple[str, int] | None = None
        self._hot: tuple[str, int] | None = None
        self._from: Pointer | None = None
        self._to: Pointer | None = None
        self._moved: Contour | None = None

    def prompt(self) -> Prompt:
        if self._node:
            return Prompt(f"{self.title}: let the node go where it belongs.", keys=(("Esc", "leave it where it was"),))
        if not self._session.job.contours:
            return Prompt(f"{self.title}: there are no contours yet.", "trace a picture first")
        if self.nodes:
            return Prompt(f"{self.title}: click or box contours, or drag a node.", keys=(("Shift", "add"), ("Del", "remove")))
        return Prompt(f"{self.title}: click or box contours.", keys=(("Shift", "add"), ("Ctrl+A", "all")))

    def press(self, at: Pointer) -> None:
        self._from = self._to = at
        if self.nodes and not at.adds:
            self._node = node_at(self._session.chosen(), at.x, at.y, _REACH * at.pixel)

    def move(self, at: Pointer) -> None:
        self._to = at
        if self._node and self._from:
            item = self._session.job.contour_by_id.get(self._node[0])
            if item is None or self._node[1] >= len(item.contour.nodes):
                self.forget()
                return
            self._moved = move_node(item.contour, self._node[1], at.x - self._from.x, at.y - self._from.y)
        elif self._from is None and self.nodes:
            self._hot = node_at(self._session.chosen(), at.x, at.y, _REACH * at.pixel)

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        node, self._node = self._node, None
        moved, self._moved = self._moved, None
        if begun is None:
            return
        dragged = abs(at.x - begun.x) + abs(at.y - begun.y) > 3 * at.pixel
        if node and moved and dragged:
            self._session.edit("move a node", change_contours(self._session.job, {node[0]: moved}))
        elif dragged and not node:
            self._take(set(contours_in(self._session.shown_contours, begun.x, begun.y, at.x, at.y)), at.adds)
        elif not node:
            found = contour_at(self._session.shown_contours, at.x, at.y, _REACH * at.pixel)
            self._take({found} if found else set(), at.adds)

    def forget(self) -> None:
        self._from = self._to = self._node = self._hot = self._moved = None

    def _take(self, ids: set[str], adds: bool) -> None:
        self._session.select(self._session.selection ^ ids if adds else ids)

    def cancel(self) -> bool:
        begun = self._from is not None or bool(self._session.selection)
        if self._from is None:
            self._session.select(frozenset())
        self._from = self._node = self._moved = None
        return begun

    def hidden(self) -> frozenset[str]:
        return frozenset({self._node[0]}) if self._node and self._moved else frozenset()

    def marks(self) -> list[Mark]:
        marks: list[Mark] = []
        chosen = self._session.chosen()
        if self._moved:
            marks.append(ContourMark((self._moved,)))
        if self.nodes and sum(len(item.contour.nodes) for item in chosen) <= _MOST_NODES:
            for item in chosen:
                contour = self._moved if self._moved and self._node and item.id == self._node[0] else item.contour
                for k, ((x, y), corner) in enumerate(zip(contour.nodes.tolist(), contour.corners().tolist(), strict=True)):
                    marks.append(SignMark(x, y, "corner" if corner else "smooth", (item.id, k) in (self._node, self._hot)))
        if self._from and self._to and not self._node:
            marks.append(BoxMark(self._from.x, self._from.y, self._to.x, self._to.y))
        return marks
