"""Falls or stays: shown while editing, from every cut at its real width; drop-outs are marked as
wanted, or pointed out as what is kept."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from draxet.job.contour_records import DropOut
from draxet.job.fallout import Fallout, Piece
from draxet.job.findings import count_words
from draxet.job.layout_names import drawn_ids
from draxet.ui.controls.slip_parts import fact_row, label
from draxet.ui.model.falling import Falling, FallSettings, holds
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.stages.slip import Slip

__all__ = ["FallSlip", "FallTool"]

_SHOWN = 400


class FallTool(Tool):
    """Shows it, and takes what is meant."""

    title = "Falls or stays"
    shows_falls = True

    def __init__(self, session: Session) -> None:
        self.session, self.falling = session, session.single(Falling)
        self._hot: Piece | None = None

    @property
    def settings(self) -> FallSettings:
        return self.falling.settings

    @property
    def fallout(self) -> Fallout:
        return self.falling.fallout

    def begin(self) -> None:
        self.falling.follow()
        self.look()

    def look(self) -> None:
        self.falling.look()

    def prompt(self) -> Prompt:
        unwanted = len(self.fallout.unwanted)
        if not self.fallout.pieces:
            return Prompt(
                "Falls or stays: looking …"
                if self.falling.busy
                else "Falls or stays: no closed contour bounds anything."
            )
        if self.settings.click == "kept":
            return Prompt(
                "Falls or stays: click what stays in the hand.", "the same again takes it back"
            )
        return Prompt(
            f"Falls or stays: {count_words(unwanted, 'piece')} would fall out."
            if unwanted
            else "Falls or stays: nothing falls that is not meant to.",
            "click a piece that is meant to fall",
        )

    def move(self, at: Pointer) -> None:
        hot = self.falling.piece_at(at.x, at.y) if len(self.fallout.pieces) <= _SHOWN else None
        if hot is not self._hot:
            self._hot = hot
            self.session.marks_changed.emit()

    def release(self, at: Pointer) -> None:
        piece = self.falling.piece_at(at.x, at.y)
        if piece is None:
            self.session.messages.refused.emit("There is no piece here: click inside one.")
        elif self.settings.click == "kept":
            was = [place for place in self.settings.kept if holds(piece, *place)]
            self.settings.kept = (
                tuple(place for place in self.settings.kept if place not in was)
                if was
                else (*self.settings.kept, piece.place)
            )
            self.look()
        elif not piece.falls:
            self.session.messages.refused.emit(
                "This piece stays; only one that falls can be meant to fall."
            )
        else:
            job = self.session.job
            held = {e.id for e in self.session.layout.drop_outs if holds(piece, e.x, e.y)}
            left = tuple(each for each in job.drop_outs if each.id not in drawn_ids(held))
            meant = (
                left if piece.wanted else (*left, DropOut(f"drop-out-{job.next_id}", *piece.place))
            )
            self.session.edit(
                "a piece that may fall" if not piece.wanted else "a piece that must not fall",
                replace(job, drop_outs=meant, next_id=job.next_id + 1),
            )
            self.look()

    def forget(self) -> None:
        self._hot = None
        self.look()

    def marks(self) -> list[Mark]:
        marks = list(self.falling.marks())
        if self._hot is not None and self._hot in self.fallout.pieces:
            words = (
                "stays"
                if not self._hot.falls
                else "meant to fall"
                if self._hot.wanted
                else "falls out"
            )
            marks.append(TagMark(*self._hot.place, f"{words}, {self._hot.area:.0f} mm²"))
        return marks


class FallSlip(Slip):
    """How many pieces stay, fall and hang by a thread."""

    def __init__(self, session: Session, tool: FallTool) -> None:
        super().__init__(
            session,
            "Falls or stays",
            "From every cut at its real width, slits too. What lies between an outermost contour and its openings stays, and of what a cut parts there the largest; or what you click.",
        )
        self._tool = tool
        self.asked = self.ask(tool.settings, self._set, ("width", "click"))
        rows = {
            name: fact_row(name)
            for name in ("Stays", "Falls out", "Meant to fall", "Hangs by a thread", "Thin walls")
        }
        self.facts = {name: value for name, (_, value) in rows.items()}
        self.add(
            *(row for row, _ in rows.values()),
            label(
                "Threads and thin walls are narrower than the smallest feature of Gather, Limits.",
                "quiet",
                wrap=True,
            ),
        )
        self.refresh()

    def _set(self, name: str, value: Any, gesture: object) -> None:
        if name == "width":
            self._tool.falling.set_width(value)
        else:
            setattr(self._tool.settings, name, value)
        self._tool.look()
        self.session.tool_changed.emit()

    def refresh(self) -> None:
        tool = self._tool
        tool.look()
        self.asked.show_of(tool.settings)
        pieces = tool.fallout.pieces
        for name, count in (
            ("Stays", sum(not p.falls for p in pieces)),
            ("Falls out", len(tool.fallout.unwanted)),
            ("Meant to fall", sum(p.wanted for p in pieces)),
            ("Hangs by a thread", sum(len(p.threads) for p in pieces)),
            ("Thin walls", sum(len(p.walls) for p in pieces)),
        ):
            self.facts[name].setText(str(count))
