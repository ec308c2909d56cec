"""Trim and extend: a click on a piece takes it away up to the crossings beside it, and the hole
that it leaves can be closed again; a click on an open end leads it on to the next line."""

from __future__ import annotations

import math

from draxet.geometry.contour import Contour
from draxet.geometry.pieces import position_near
from draxet.job.contour_edits import change_contours
from draxet.job.find import contour_at, numbers_near, numbers_touching
from draxet.job.findings import count_words
from draxet.job.layout_counts import counted
from draxet.mend.removal import Hole, Removal, closing, filled, removal
from draxet.mend.trim import end_is_meant, extended
from draxet.trace.walk import way_along
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.slip_parts import button, fact_row, label
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, SignMark, TagMark, Tool
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.picture_lines import lines_found
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["TrimSlip", "TrimTool"]

_END_REACH = 12.0


class TrimTool(Tool):
    """What would go, or be added, is shown beneath the pointer before it is done."""

    title = "Trim and extend"

    def __init__(self, session: Session) -> None:
        self.session = session
        self.manner = "straight"
        self._shown: tuple[Mark, ...] = ()
        self._pressed = False
        self._hole: Hole | None = None
        self._holds: object = None
        self._along = Derived[Contour | None](
            session,
            "along the picture",
            None,
            "The picture could not be followed",
            tool=self,
            keeps=False,
            told=self._told_along,
        )

    @property
    def hole(self) -> Hole | None:
        """What the last piece left open, for as long as the contours are what they were then."""
        return self._hole if self._holds is self.session.layout.contours else None

    def prompt(self) -> Prompt:
        if self.hole is not None:
            return Prompt(
                f"Trim: {format_length(self.hole.apart, self.session.job.unit, places=2)} are left open.",
                "or click the next piece",
                (("Enter", "close it"), ("Esc", "leave it open")),
            )
        return Prompt(
            "Trim: click the piece that is to go, or an open end to lead it on.",
            "up to the next crossing",
        )

    def _target(self, at: Pointer) -> tuple[str, bool | None] | None:
        """The contour under the pointer, and of an open one whether its end (or its start) is
        meant; None for the piece."""
        near, joint = [], self.session.job.exactness.tolerance
        for item in (
            self.session.selection.pickable[k]
            for k in numbers_near(
                self.session.selection.pickable, at.x, at.y, _END_REACH * at.pixel
            )
        ):
            if not item.contour.closed:
                x0, y0, x1, y1 = item.contour.box
                others = self._others(item.id, (x0 - joint, y0 - joint, x1 + joint, y1 + joint))
                for at_end, node in (
                    (False, item.contour.nodes[0]),
                    (True, item.contour.nodes[-1]),
                ):
                    away = math.hypot(float(node[0]) - at.x, float(node[1]) - at.y)
                    if away <= _END_REACH * at.pixel and end_is_meant(
                        item.contour, others, at.x, at.y, joint, at_end=at_end
                    ):
                        near.append((away, item.id, at_end))
        if near:
            _, name, at_end = min(near)
            return name, at_end
        found = contour_at(self.session.selection.pickable, at.x, at.y, REACH * at.pixel)
        return (found, None) if found else None

    def _others(
        self, contour_id: str, box: tuple[float, float, float, float] | None
    ) -> list[Contour]:
        """Contours that may meet it."""
        items = self.session.selection.catchable
        near = items if box is None else [items[k] for k in numbers_touching(items, box)]
        return [item.contour for item in near if item.id != contour_id]

    def press(self, at: Pointer) -> None:
        self._pressed = True

    def move(self, at: Pointer) -> None:
        target = self._target(at)
        self._shown = ()
        if target is None:
            return
        name, at_end = target
        contour = self.session.layout.contour_by_id[name].contour
        if at_end is None:
            found = removal(
                self.session.job,
                name,
                self._others(name, contour.box),
                position_near(contour, at.x, at.y),
            )
            self._shown = self._told_of(found) if found is not None else ()
        else:
            made = extended(contour, self._others(name, None), at_end=at_end)
            self._shown = (ContourMark((made,)),) if made is not None else ()

    def _told_of(self, found: Removal) -> tuple[Mark, ...]:
        """The piece, the ends that it would leave open, and what goes with it."""
        opened, bridges = len(found.opened), len(found.bridges)
        words = [format_length(found.gone.length, self.session.job.unit, places=2)]
        words += [f"leaves {count_words(opened, 'end')} open"] if opened else []
        words += (
            [f"{count_words(bridges, 'bridge')} {'goes' if bridges == 1 else 'go'} with it"]
            if bridges
            else []
        )
        x, y = found.gone.nodes[len(found.gone.nodes) // 2]
        return (
            ContourMark((found.gone,), "fault"),
            *(SignMark(*place, "open") for place in found.opened),
            TagMark(float(x), float(y), ", ".join(words)),
        )

    def release(self, at: Pointer) -> None:
        if not self._pressed:
            return
        self._pressed, self._shown = False, ()
        target = self._target(at)
        if target is None:
            self.session.messages.refused.emit(
                "Trim: there is no contour under the pointer; click on one."
            )
            return
        name, at_end = target
        contour = self.session.layout.contour_by_id[name].contour
        if at_end is not None:
            made = extended(contour, self._others(name, None), at_end=at_end)
            if made is None:
                self.session.messages.refused.emit("Trim: led on, this end meets nothing.")
            else:
                self.session.edit("extend", change_contours(self.session.job, {name: made}))
            return
        found = removal(
            self.session.job,
            name,
            self._others(name, contour.box),
            position_near(contour, at.x, at.y),
        )
        if found is None:
            self.session.messages.refused.emit(
                "Trim: nothing crosses this contour, so no piece of it can go; remove it in Pick."
            )
            return
        job, hole = found.done(self.session.job)
        self.session.edit("trim", job)
        self._hole, self._holds = hole, self.session.layout.contours
        self.session.tool_changed.emit()
        self.session.messages.flash([found.gone])
        self._look_along()

    # --- the hole that is left

    def set_manner(self, manner: str) -> None:
        """How the hole is closed: ``straight``, ``tangent`` or along the ``picture``."""
        self.manner = manner
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()
        self._look_along()

    def _look_along(self) -> None:
        """Have the way along the picture found, where that is wanted."""
        hole, picture = self.hole, self.session.selection.picture
        if hole is None or self.manner != "picture":
            return
        if picture is None:
            self.session.messages.refused.emit(
                "Trim: there is no picture to follow; close it straight or tangent."
            )
            return
        item = self.session.layout.contour_by_id[hole.first]
        find = lines_found(
            self.session, picture, item.traced if item.traced == "middles" else "edges"
        )
        tolerance = max(self.session.job.exactness.tolerance / picture.pixel_size, 0.05)
        self._along.ask(
            (hole, picture, tolerance),
            lambda report: way_along(find(report), hole.ends, picture.to_job, tolerance),
        )

    def _told_along(self) -> None:
        if self.hole is not None and self._along.value is None:
            self.session.messages.refused.emit(
                "Trim: no line of the picture leads from the one end to the other; close it straight or tangent."
            )
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def _closing(self) -> Contour | None:
        hole, by = self.hole, self._along.goes_by
        followed = self.manner == "picture" and by is not None and by[0] is hole
        along = self._along.value if followed else None
        if hole is None or (self.manner == "picture" and along is None):
            return None
        return closing(hole, self.manner, along)

    def close(self) -> None:
        """Close the hole as it is shown."""
        hole, by = self.hole, self._closing()
        if hole is None:
            self.session.messages.refused.emit("Trim: nothing is left open by the last piece.")
        elif by is None:
            self.session.messages.refused.emit(
                "Trim: the way along the picture is not found yet, or there is none."
            )
        else:
            self.session.edit("close what is left open", filled(self.session.job, hole, by))
            self._hole = None
            self.session.tool_changed.emit()

    def enter(self) -> bool:
        if self.hole is None:
            return False
        self.close()
        return True

    def cancel(self) -> bool:
        begun, self._pressed, self._hole = self._pressed or self.hole is not None, False, None
        self.session.tool_changed.emit()
        return begun

    def forget(self) -> None:
        self._pressed, self._shown, self._hole = False, (), None

    def marks(self) -> list[Mark]:
        by = self._closing()
        return [*([ContourMark((by,), "offer")] if by is not None else []), *self._shown]


class TrimSlip(Slip):
    """What is open and closed."""

    def __init__(self, session: Session, tool: TrimTool) -> None:
        super().__init__(
            session,
            "Trim and extend",
            "A click takes away the piece between two crossings. A click on an open end leads it on: a line straight on, an arc round its circle. Guides bound nothing, helper contours do.",
        )
        closed, self._closed = fact_row("Closed contours")
        opened, self._open = fact_row("Open contours")
        self._tool = tool
        apart, self._apart = fact_row("Ends apart")
        self.manner = Choice(
            (("straight", "straight"), ("tangent", "tangent"), ("picture", "the picture")),
            "How it is closed",
        )
        self.manner.chosen.connect(tool.set_manner)
        self.close_it = button("Close it", "main", tool.close)
        self._hole = (
            label("What the last piece left open", "section"),
            apart,
            label("Closed"),
            self.manner,
        )
        self.foot.add(self.close_it)
        self.add(*self._hole, label("In this job", "section"), closed, opened)
        self.refresh()

    def refresh(self) -> None:
        hole = self._tool.hole
        for part in (*self._hole, self.close_it):
            part.setVisible(hole is not None)
        self.foot.offer(self.close_it, f"Closes {self.length(hole.apart, 2)}" if hole else "")
        self._apart.setText(self.length(hole.apart, 2) if hole else "–")
        self.manner.set_value(self._tool.manner)
        closed, opened = counted(self.session.job)
        self._closed.setText(str(closed))
        self._open.setText(str(opened))
