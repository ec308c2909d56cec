"""Where cuts begin and where tabs hold, where sewing begins and ends: clicked, and moved along by drag."""

from __future__ import annotations

import math
from typing import Annotated

from draxet.geometry.arc_length import ArcLength
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.find import contour_at
from draxet.job.findings import count_words
from draxet.job.make_edits import clear_spots, move_tab, put_start, put_tab, remove_tab, tab_shares
from draxet.job.ranges import OneOf
from draxet.job.spots import share_near
from draxet.record import record
from draxet.ui.controls.slip_parts import allow, button, fact_row, label
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Mark, Pointer, Prompt, SignMark, StartMark, TagMark, Tool
from draxet.ui.stages.picking import REACH
from draxet.ui.stages.slip import Slip

__all__ = ["SpotSlip", "SpotTool"]

_DRAGGED = 4.0
_MOST_SHOWN = 300
"""Of more contours only those that are chosen or beneath the pointer show their tabs."""


@record
class SpotSettings:
    """click : what a click on a contour puts there."""

    click: Annotated[
        str,
        OneOf(("start", "end", "tab")),
        Asked(
            "A click puts",
            choices=(("start", "the beginning"), ("end", "the end"), ("tab", "a tab")),
        ),
    ] = "start"


_Tab = tuple[str, int]
"""A contour, and which of its tabs."""


class SpotTool(Tool):
    """Says where the cuts of closed contours begin, and where tabs are."""

    title = "Starts and tabs"

    def __init__(self, session: Session) -> None:
        self.session = session
        self.chosen: _Tab | None = None
        self._over = ""
        self._pressed: Pointer | None = None
        self._dragged: float | None = None
        self._tabs_of: tuple[object, ...] = ()
        self._tabs: dict[str, tuple[tuple[float, float], ...]] = {}

    @property
    def settings(self) -> SpotSettings:
        return self.session.desk.settings("spots", SpotSettings)

    def prompt(self) -> Prompt:
        if self._dragged is not None:
            return Prompt(
                "Starts and tabs: let the tab go where it is to hold.",
                keys=(("Esc", "leave it where it was"),),
            )
        if self.chosen:
            return Prompt(
                "Starts and tabs: drag the tab along its contour.",
                keys=(("Del", "take it away"), ("Esc", "let go")),
            )
        if not self.session.job.begun_by:
            return Prompt(
                "Starts and tabs: nothing is cut through or sewn yet.", "give contours a cut first"
            )
        what = {
            "start": "where its work is to begin",
            "end": "where its sewing is to end",
            "tab": "where a tab is to hold",
        }[self.settings.click]
        return Prompt(f"Starts and tabs: click a contour {what}.", "tabs are dragged along")

    # --- the pointer

    def press(self, at: Pointer) -> None:
        self._pressed = at
        self.chosen = self._tab_at(at)
        self.session.tool_changed.emit()

    def move(self, at: Pointer) -> None:
        if self._pressed is None:
            self._over = self._cut_at(at)
        elif (
            self.chosen
            and self._stands()
            and (
                self._dragged is not None
                or math.hypot(at.x - self._pressed.x, at.y - self._pressed.y) > _DRAGGED * at.pixel
            )
        ):
            self._dragged = share_near(self._contour(self.chosen[0]), at.x, at.y)

    def release(self, at: Pointer) -> None:
        begun, self._pressed = self._pressed, None
        dragged, self._dragged = self._dragged, None
        if begun is None:
            return
        if self.chosen and dragged is not None and self._stands():
            self.session.edit("move a tab", move_tab(self.session.job, *self.chosen, dragged))
            self.session.tool_changed.emit()
        elif not self.chosen:
            self._put(at)

    def _put(self, at: Pointer) -> None:
        session, name = (
            self.session,
            contour_at(self.session.selection.pickable, at.x, at.y, REACH * at.pixel),
        )
        if why := self._refusal(name):
            session.messages.refused.emit(why)
        elif name is not None:
            share, what = share_near(self._contour(name), at.x, at.y), self.settings.click
            if what == "tab":
                session.edit("put a tab", put_tab(session.job, name, share))
            else:
                words = f"say where work {'begins' if what == 'start' else 'ends'}"
                session.edit(words, put_start(session.job, name, share, what))
            session.tool_changed.emit()

    def _refusal(self, name: str | None) -> str:
        """Why nothing can be put on a contour; empty where it can."""
        job, what = self.session.job, self.settings.click
        if name is None:
            return "There is no contour here; click on one that is cut through or sewn."
        operation = job.begun_by.get(name)
        if operation is None or (what == "tab" and name not in job.cut_of):
            return "This contour is not cut through, and has neither beginning nor tabs; give it a cut first."
        if what == "end":
            return (
                ""
                if operation.ends
                else "A cut ends where it begins; only what is sewn ends elsewhere: say where it begins."
            )
        if name not in job.cut_of:
            return ""
        if not self._contour(name).closed:
            return "An open line is cut from end to end; only a closed one can begin elsewhere or have tabs."
        if what == "start" and tab_shares(job, name) and not job.cut_of[name].tab_height:
            return "This cut is interrupted by tabs and begins after one of them; put the tab elsewhere, or give tabs a height."
        return ""

    def _contour(self, name: str) -> Contour:
        return self.session.layout.contour_by_id[name].contour

    def _cut_at(self, at: Pointer) -> str:
        name = contour_at(self.session.selection.pickable, at.x, at.y, REACH * at.pixel)
        return name if name in self.session.job.begun_by else ""

    def _stands(self) -> bool:
        """Whether the tab in hand is still there: the job may have become another meanwhile."""
        return (
            self.chosen is not None
            and self.chosen[0] in self.session.job.cut_of
            and self.chosen[1] < len(tab_shares(self.session.job, self.chosen[0]))
        )

    def tabs(self) -> dict[str, tuple[tuple[float, float], ...]]:
        """The places of the tabs of the contours that show theirs."""
        job = self.session.layout
        cut = job.cut_of
        shown = tuple(
            name
            for name in cut
            if len(cut) <= _MOST_SHOWN or name in self.session.selection.ids or name == self._over
        )
        state = (job.operations, job.contours, shown)
        if not self._tabs_of or any(
            a is not b and a != b for a, b in zip(state, self._tabs_of, strict=True)
        ):
            self._tabs_of = state
            self._tabs = {name: self._places(name, tab_shares(job, name)) for name in shown}
        return self._tabs

    def _places(self, name: str, shares: list[float]) -> tuple[tuple[float, float], ...]:
        measured = ArcLength(self._contour(name))
        places = [measured.place(share * measured.length).tolist() for share in shares]
        return tuple((float(x), float(y)) for x, y in places)

    def _tab_at(self, at: Pointer) -> _Tab | None:
        near = [
            (math.hypot(x - at.x, y - at.y), name, k)
            for name, places in self.tabs().items()
            for k, (x, y) in enumerate(places)
        ]
        away, name, k = min(near, default=(math.inf, "", 0))
        return (name, k) if away <= REACH * at.pixel else None

    # --- keys

    def remove(self) -> bool:
        if self.chosen is None or not self._stands():
            return False
        if len(tab_shares(self.session.job, self.chosen[0])) < 2:
            self.session.messages.refused.emit(
                "This is its last tab; to have none, set the number of tabs of its operation to 0."
            )
            return True
        self.session.edit("take a tab away", remove_tab(self.session.job, *self.chosen))
        self.forget()
        self.session.tool_changed.emit()
        return True

    def clear(self) -> None:
        """The chosen contours, or all, begin and are held as their operation has it."""
        session = self.session
        session.edit(
            "find starts and tabs anew",
            clear_spots(
                session.job,
                [
                    name
                    for name in session.job.begun_by
                    if not session.selection.ids or name in session.selection.ids
                ],
            ),
        )
        self.forget()
        session.tool_changed.emit()

    def cancel(self) -> bool:
        begun = self.chosen is not None
        self.forget()
        self.session.tool_changed.emit()
        return begun

    def forget(self) -> None:
        self.chosen, self._dragged, self._pressed = None, None, None

    def marks(self) -> list[Mark]:
        job, found = self.session.layout, list[Mark]()
        for operation in job.operations:
            for spot in operation.spots:
                if spot.what in ("start", "end") and spot.contour in job.contour_by_id:
                    measured = ArcLength(self._contour(spot.contour))
                    at = spot.share * measured.length
                    (x, y), way = measured.place(at).tolist(), measured.direction(at)
                    found.append(StartMark(x, y, math.atan2(way[1], way[0])))
                    if spot.what == "end":
                        found.append(TagMark(x, y, "end"))
        for name, places in self.tabs().items():
            for k, (x, y) in enumerate(places):
                mine = self.chosen == (name, k)
                if mine and self._dragged is not None:
                    ((x, y),) = self._places(name, [self._dragged])
                    found.append(TagMark(x, y, "tab"))
                found.append(SignMark(x, y, "tab", mine))
        return found


class SpotSlip(Slip):
    """What a click puts, how many were put by hand, and the way back."""

    def __init__(self, session: Session, tool: SpotTool) -> None:
        super().__init__(
            session,
            tool.title,
            "Without a word of yours work begins where the way is shortest, and tabs are spread evenly, clear of corners.",
        )

        def change(name: str, value: object, gesture: object) -> None:
            setattr(tool.settings, name, value)
            session.tool_changed.emit()

        self._tool = tool
        self.asked = self.ask(tool.settings, change)
        starts, self._starts = fact_row("Begun by hand")
        tabs, self._tabs = fact_row("Contours with tabs by hand")
        self.clear = button("", "plain", tool.clear)
        self.add(
            starts,
            tabs,
            self.clear,
            label(
                "A place goes along with its contour. Number, width and height of tabs are those of the cut.",
                "quiet",
                wrap=True,
            ),
        )
        self.refresh()

    def refresh(self) -> None:
        self.asked.show_of(self._tool.settings)
        spots = [spot for operation in self.session.job.operations for spot in operation.spots]
        held = {spot.contour for spot in spots if spot.what == "tab"}
        self._starts.setText(str(sum(spot.what in ("start", "end") for spot in spots)))
        self._tabs.setText(str(len(held)))
        chosen = len(self.session.selection.ids)
        self.clear.setText(
            f"Leave {count_words(chosen, 'chosen contour')} as they come"
            if chosen
            else "Leave all as they come"
        )
        allow(self.clear, spots, "none was set by hand")
