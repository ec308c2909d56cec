"""An order by hand, and parts that go into one another: contours are clicked one after the
other."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Annotated

from PyQt6.QtWidgets import QVBoxLayout

from draxet.job.asked import Asked
from draxet.job.contour_ties import Fit, Order
from draxet.job.find import contour_at
from draxet.job.findings import count_words
from draxet.job.make_edits import add_fit, order_by_hand, remove_fit, remove_order
from draxet.job.ranges import Within
from draxet.record import record
from draxet.ui.controls.slip_parts import button, emptied, icon_button, label, side_by_side
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["FitSlip", "FitTool", "OrderSlip", "OrderTool"]

_MOST_NUMBERS = 200


class _Clicks(Tool):
    """Contours clicked one after the other; each once."""

    enough = 2

    def __init__(self, session: Session) -> None:
        self.session = session
        self.clicked: list[str] = []
        self._over = ""

    def fits(self, name: str) -> str:
        """Why a contour cannot be the next one; empty where it can."""
        return "it was clicked already" if name in self.clicked else ""

    def press(self, at: Pointer) -> None:
        name = contour_at(self.session.selection.pickable, at.x, at.y, REACH * at.pixel)
        if name is None:
            self.session.messages.refused.emit(
                f"{self.title}: there is no contour here; click on one."
            )
        elif why := self.fits(name):
            self.session.messages.refused.emit(f"{self.title}: {why}; click another one.")
        else:
            self.clicked.append(name)
            self.went_on()
            self.session.tool_changed.emit()

    def went_on(self) -> None:
        """One more was clicked."""

    def move(self, at: Pointer) -> None:
        self._over = contour_at(self.session.selection.pickable, at.x, at.y, REACH * at.pixel) or ""

    def wants_key(self, key: str) -> bool:
        return key == "Backspace" and bool(self.clicked)

    def key(self, key: str) -> None:
        self.step_back()

    def step_back(self) -> bool:
        if not self.clicked:
            return False
        self.clicked.pop()
        self.session.tool_changed.emit()
        return True

    def cancel(self) -> bool:
        begun = bool(self.clicked)
        self.forget()
        self.session.tool_changed.emit()
        return begun

    def forget(self) -> None:
        self.clicked, self._over = [], ""

    def numbered(self, ids: tuple[str, ...], manner: str) -> list[Mark]:
        """The numbers of contours in a row, at their middles."""
        found = list[Mark]()
        for number, name in enumerate(ids, 1):
            if name in self.session.layout.contour_by_id:
                x0, y0, x1, y1 = self.session.layout.contour_by_id[name].contour.box
                found.append(TagMark(float(x0 + x1) / 2, float(y0 + y1) / 2, str(number), manner))
        return found

    def marks(self) -> list[Mark]:
        by_id = self.session.layout.contour_by_id
        lit = [by_id[name].contour for name in (*self.clicked, self._over) if name in by_id]
        return [ContourMark(tuple(lit), "hand")] if lit else []


class OrderTool(_Clicks):
    """Contours worked one right after the other."""

    title = "Order by hand"

    def prompt(self) -> Prompt:
        if len(self.clicked) < self.enough:
            return Prompt(
                f"Order by hand: click what is worked {'next' if self.clicked else 'first'}.",
                "what is not said is ordered by the shortest way",
                (("Backspace", "take back the last"),) if self.clicked else (),
            )
        return Prompt(
            "Order by hand: click what is worked next.",
            keys=(
                ("Enter", "keep the order"),
                ("Backspace", "take back the last"),
                ("Esc", "give it up"),
            ),
        )

    def fits(self, name: str) -> str:
        return super().fits(name) or (
            "" if name in self.session.job.worked else "this contour has no operation"
        )

    def enter(self) -> bool:
        if len(self.clicked) < self.enough:
            return False
        ids = tuple(self.clicked)
        self.forget()
        self.session.edit(
            f"order {count_words(len(ids), 'contour')} by hand",
            order_by_hand(self.session.job, ids),
        )
        self.session.tool_changed.emit()
        return True

    def marks(self) -> list[Mark]:
        found = super().marks()
        if sum(len(order.contours) for order in self.session.layout.orders) <= _MOST_NUMBERS:
            for order in self.session.layout.orders:
                found += self.numbered(order.contours, "note")
        return [*found, *self.numbered(tuple(self.clicked), "hand")]


class OrderSlip(Slip):
    """The orders there are."""

    def __init__(self, session: Session, tool: OrderTool) -> None:
        super().__init__(
            session,
            tool.title,
            "Two or more contours, one right after the other. Engraving still goes before cutting; an opening that would come after its part is told.",
        )
        self._tool = tool
        self.keep = button("", "main", self.apply)
        self.foot.add(self.keep)
        self.add(label("Orders by hand", "section"))
        self._list = QVBoxLayout()
        self.body.addLayout(self._list)
        self._shown: object = None
        self.refresh()

    def apply(self) -> None:
        """Keep the order that was clicked."""
        if not self._tool.enter():
            self.session.messages.refused.emit("Order by hand: click at least two contours first.")

    def refresh(self) -> None:
        count = len(self._tool.clicked)
        self.keep.setText(f"Keep the order of {count}" if count > 1 else "Keep the order")
        self.foot.offer(
            self.keep,
            f"{count} contours, one right after the other",
            "" if count > 1 else "Click at least two contours",
        )
        orders = self.session.job.orders
        if self._shown == orders:
            return
        self._shown = orders
        emptied(self._list)
        for number, order in enumerate(orders, 1):
            show = button(
                f"{number} · {count_words(len(order.contours), 'contour')}",
                "row",
                partial(self._choose, order),
            )
            away = icon_button(
                "remove", LIGHT.quiet, f"Give order {number} up", partial(self._give_up, order)
            )
            self._list.addWidget(side_by_side(show, away))
        if not orders:
            self._list.addWidget(
                label("None: everything is ordered by the shortest way.", "quiet", wrap=True)
            )

    def _choose(self, order: Order) -> None:
        self.session.selection.choose(frozenset(order.contours))

    def _give_up(self, order: Order) -> None:
        self.session.edit("give an order up", remove_order(self.session.job, order.id))
        self.session.tool_changed.emit()


@record
class FitSettings:
    """clearance : how much is left all round, in mm."""

    clearance: Annotated[
        float, Within(-5.0, 20.0), Asked("Clearance all round", "mm", tip="Under 0 for a press fit")
    ] = 0.1


class FitTool(_Clicks):
    """A part and the opening that takes it."""

    title = "Fit"

    @property
    def settings(self) -> FitSettings:
        return self.session.desk.settings("fit", FitSettings)

    def prompt(self) -> Prompt:
        if self.clicked:
            return Prompt(
                "Fit: click the opening that takes the part.",
                "it is cut so much wider all round",
                (("Esc", "give it up"),),
            )
        return Prompt("Fit: click the part that goes in.")

    def fits(self, name: str) -> str:
        return super().fits(name) or (
            "" if self.session.layout.contour_by_id[name].contour.closed else "this contour is open"
        )

    def went_on(self) -> None:
        if len(self.clicked) == 2:
            (part, opening), clearance = self.clicked, self.settings.clearance
            self.forget()
            self.session.edit(
                "fit a part in an opening", add_fit(self.session.job, part, opening, clearance)
            )

    def marks(self) -> list[Mark]:
        job, found = self.session.layout, super().marks()
        for fit in job.fits:
            if fit.part in job.contour_by_id and fit.opening in job.contour_by_id:
                x0, y0, x1, y1 = job.contour_by_id[fit.opening].contour.box
                found.append(
                    TagMark(
                        float(x0 + x1) / 2,
                        float(y0 + y1) / 2,
                        f"fit {format_length(fit.clearance, job.unit)}",
                        "note",
                    )
                )
                found.append(
                    ContourMark(
                        (job.fitted[fit.opening],) if fit.opening in job.fitted else (), "preview"
                    )
                )
        return found


class FitSlip(Slip):
    """The clearance, and the fits there are."""

    def __init__(self, session: Session, tool: FitTool) -> None:
        super().__init__(
            session,
            tool.title,
            "Only what is cut changes: the opening grows by the clearance, the drawing stays as it is.",
        )
        self._tool = tool

        def change(name: str, value: object, gesture: object) -> None:
            setattr(tool.settings, name, value)
            session.tool_changed.emit()

        self.asked = self.ask(tool.settings, change)
        self.add(label("Fits", "section"))
        self._list = QVBoxLayout()
        self.body.addLayout(self._list)
        self._shown: object = None
        self.refresh()

    def refresh(self) -> None:
        self.asked.show_of(self._tool.settings)
        fits = self.session.job.fits
        if self._shown == (fits, self.session.job.unit):
            return
        self._shown = (fits, self.session.job.unit)
        emptied(self._list)
        for fit in fits:
            show = button(
                f"{self.length(fit.clearance)} all round", "row", partial(self._choose, fit)
            )
            again = icon_button(
                "onward", LIGHT.quiet, "Give it the clearance above", partial(self._set, fit)
            )
            away = icon_button(
                "remove", LIGHT.quiet, "Give the fit up", partial(self._give_up, fit)
            )
            self._list.addWidget(side_by_side(show, again, away))
        if not fits:
            self._list.addWidget(label("None yet.", "quiet"))

    def _choose(self, fit: Fit) -> None:
        self.session.selection.choose(frozenset((fit.part, fit.opening)))

    def _set(self, fit: Fit) -> None:
        job, clearance = self.session.job, self._tool.settings.clearance
        changed = tuple(
            replace(each, clearance=clearance) if each.id == fit.id else each for each in job.fits
        )
        self.session.edit("set a clearance", replace(job, fits=changed))
        self.session.tool_changed.emit()

    def _give_up(self, fit: Fit) -> None:
        self.session.edit("give a fit up", remove_fit(self.session.job, fit.id))
        self.session.tool_changed.emit()
