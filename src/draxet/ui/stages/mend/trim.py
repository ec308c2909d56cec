"""Trim and extend: a click on a piece takes it away up to the crossings beside it; a click on an open end leads it on to the next line."""

from __future__ import annotations

import math

from draxet.geometry.contour import Contour
from draxet.geometry.pieces import position_near
from draxet.job.edits import change_contours
from draxet.mend.ends import put_parts
from draxet.mend.find import contour_at
from draxet.mend.trim import extended, piece_between, trimmed
from draxet.ui.canvas.tool import ContourMark, Mark, Pointer, Prompt, Tool
from draxet.ui.shell.fields import fact_row
from draxet.ui.shell.session import Session
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.slip import Slip

__all__ = ["TrimSlip", "TrimTool"]

_END_REACH = 12.0


class TrimTool(Tool):
    """What would go, or be added, is shown beneath the pointer before it is done."""

    title = "Trim and extend"

    def __init__(self, session: Session) -> None:
        self.session = session
        self._shown: tuple[Mark, ...] = ()
        self._pressed = False
        self._looked: tuple[object, ...] = ()

    def prompt(self) -> Prompt:
        return Prompt("Trim: click the piece that is to go, or an open end to lead it on.", "up to the next crossing")

    def _target(self, at: Pointer) -> tuple[str, bool | None] | None:
        """The contour under the pointer, and of an open one whether its end (or its start) is meant; None for the piece."""
        near = []
        for item in self.session.pickable:
            if not item.contour.closed:
                for at_end, node in ((False, item.contour.nodes[0]), (True, item.contour.nodes[-1])):
                    away = math.hypot(float(node[0]) - at.x, float(node[1]) - at.y)
                    if away <= _END_REACH * at.pixel:
                        near.append((away, item.id, at_end))
        if near:
            _, name, at_end = min(near)
            return name, at_end
        found = contour_at(self.session.pickable, at.x, at.y, REACH * at.pixel)
        return (found, None) if found else None

    def _others(self, contour_id: str, box: tuple[float, float, float, float] | None) -> list[Contour]:
        """Contours that may meet it."""
        found = [item.contour for item in self.session.catchable if item.id != contour_id]
        if box is None:
            return found
        return [c for c in found if c.box[0] <= box[2] and c.box[2] >= box[0] and c.box[1] <= box[3] and c.box[3] >= box[1]]

    def press(self, at: Pointer) -> None:
        self._pressed = True

    def move(self, at: Pointer) -> None:
        target = self._target(at)
        self._shown = ()
        if target is None:
            return
        name, at_end = target
        contour = self.session.job.contour_by_id[name].contour
        if at_end is None:
            gone = piece_between(contour, self._others(name, contour.box), position_near(contour, at.x, at.y))
            self._shown = (ContourMark((gone,), "fault"),) if gone is not None else ()
        else:
            made = extended(contour, self._others(name, None), at_end=at_end)
            self._shown = (ContourMark((made,)),) if made is not None else ()

    def release(self, at: Pointer) -> None:
        if not self._pressed:
            return
        self._pressed, self._shown = False, ()
        target = self._target(at)
        if target is None:
            self.session.refused.emit("Trim: there is no contour under the pointer; click on one.")
            return
        name, at_end = target
        contour = self.session.job.contour_by_id[name].contour
        if at_end is not None:
            made = extended(contour, self._others(name, None), at_end=at_end)
            if made is None:
                self.session.refused.emit("Trim: led on, this end meets nothing.")
            else:
                self.session.edit("extend", change_contours(self.session.job, {name: made}))
            return
        position = position_near(contour, at.x, at.y)
        left = trimmed(contour, self._others(name, contour.box), position)
        if left is None:
            self.session.refused.emit("Trim: nothing crosses this contour, so no piece of it can go; remove it in Pick.")
            return
        gone = piece_between(contour, self._others(name, contour.box), position)
        job, _ = put_parts(self.session.job, name, left)
        self.session.edit("trim", job)
        if gone is not None:
            self.session.flash([gone])

    def cancel(self) -> bool:
        pressed, self._pressed = self._pressed, False
        return pressed

    def forget(self) -> None:
        self._pressed, self._shown = False, ()

    def marks(self) -> list[Mark]:
        return list(self._shown)


class TrimSlip(Slip):
    """What is open and closed."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, "Trim and extend", "A click takes away the piece between two crossings. A click on an open end leads it on: a line straight on, an arc round its circle. Guides bound nothing, helper contours do.")
        closed, self._closed = fact_row("Closed contours")
        opened, self._open = fact_row("Open contours")
        self.add(closed, opened)
        self.refresh()

    def refresh(self) -> None:
        opened = sum(not item.contour.closed for item in self.session.job.contours)
        self._closed.setText(str(len(self.session.job.contours) - opened))
        self._open.setText(str(opened))
