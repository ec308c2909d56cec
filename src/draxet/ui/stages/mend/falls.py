"""Falls or stays: shown while editing, from every cut at its real width; drop-outs are marked as wanted, or pointed out as what is kept."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.findings import count_words
from draxet.job.ranges import Coordinate, Count, OneOf, Size
from draxet.job.falls import Fallout, Falls, Piece
from draxet.ui.canvas.tool import AreaMark, CrossMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.look.tokens import LIGHT
from draxet.ui.shell.fields import fact_row, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.slip import Slip

__all__ = ["FallSlip", "FallTool"]

_LANE = "falls"
_SHOWN = 400


@dataclass
class FallSettings:
    """width : of cuts that no operation says, in mm. click : what a click marks. kept : places of what stays in the hand."""

    width: Annotated[Size, Asked("Cut width", "mm")] = 1.5
    click: Annotated[str, OneOf(("wanted", "kept")), Asked("A click marks", choices=(("wanted", "meant to fall"), ("kept", "what is kept")))] = "wanted"
    kept: Annotated[tuple[tuple[Coordinate, Coordinate], ...], Count(0, 1000)] = ()


class FallTool(Tool):
    """Keeps up with the job, off the window's thread."""

    title = "Falls or stays"

    def __init__(self, session: Session) -> None:
        self.session = session
        self.fallout = Fallout(())
        self._falls = Falls()
        self._hot: Piece | None = None
        self._of: tuple[object, ...] = ()

    @property
    def settings(self) -> FallSettings:
        found: FallSettings = self.session.settings("falls", FallSettings)
        return found

    def begin(self) -> None:
        self.look()

    def look(self) -> None:
        """Work out what falls, where that is not known already."""
        job, s, items = self.session.job, self.settings, self.session.shown_contours
        state = (items, job.operations, job.bridges, job.drop_outs, job.smallest_feature, s.width, s.kept)
        if len(self._of) == len(state) and all(a is b or a == b for a, b in zip(state[2:], self._of[2:], strict=True)) and items is self._of[0] and job.operations is self._of[1]:
            return
        self._of = state

        def done(fallout: Fallout) -> None:
            if self._of is state:
                self.fallout, self._hot = fallout, None
                self.session.tool_changed.emit()
                self.session.marks_changed.emit()

        self.session.workers.run(
            _LANE, lambda report: self._falls.of(job, items, s.width, job.smallest_feature, s.kept), done,
            lambda error: self.session.refused.emit(f"What falls could not be worked out: {error}"),
        )  # fmt: skip

    @property
    def busy(self) -> bool:
        return self.session.workers.busy(_LANE)

    def prompt(self) -> Prompt:
        unwanted = len(self.fallout.unwanted)
        if not self.fallout.pieces:
            return Prompt("Falls or stays: looking …" if self.busy else "Falls or stays: no closed contour bounds anything.")
        if self.settings.click == "kept":
            return Prompt("Falls or stays: click what stays in the hand.", "the same again takes it back")
        return Prompt(f"Falls or stays: {count_words(unwanted, 'piece')} would fall out." if unwanted else "Falls or stays: nothing falls that is not meant to.", "click a piece that is meant to fall")

    def _piece_at(self, at: Pointer) -> Piece | None:
        from draxet.geometry.winding import winds

        inside = [p for p in self.fallout.pieces if winds(Contour.make(p.rings[0]), at.x, at.y) and not any(winds(Contour.make(ring), at.x, at.y) for ring in p.rings[1:])]
        return inside[0] if inside else None

    def move(self, at: Pointer) -> None:
        hot = self._piece_at(at) if len(self.fallout.pieces) <= _SHOWN else None
        if hot is not self._hot:
            self._hot = hot
            self.session.marks_changed.emit()

    def release(self, at: Pointer) -> None:
        piece = self._piece_at(at)
        if piece is None:
            self.session.refused.emit("There is no piece here: click inside one.")
        elif self.settings.click == "kept":
            was = [place for place in self.settings.kept if self._holds(piece, place)]
            self.settings.kept = tuple(place for place in self.settings.kept if place not in was) if was else (*self.settings.kept, piece.place)
            self.look()
        elif not piece.falls:
            self.session.refused.emit("This piece stays; only one that falls can be meant to fall.")
        else:
            job = self.session.job
            left = tuple(place for place in job.drop_outs if not self._holds(piece, place))
            places = left if piece.wanted else (*left, piece.place)
            self.session.edit("a piece that may fall" if not piece.wanted else "a piece that must not fall", replace(job, drop_outs=places))
            self.look()

    @staticmethod
    def _holds(piece: Piece, place: tuple[float, float]) -> bool:
        from draxet.geometry.winding import winds

        return winds(Contour.make(piece.rings[0]), *place) and not any(winds(Contour.make(ring), *place) for ring in piece.rings[1:])

    def put_away(self) -> None:
        self.session.workers.cancel(_LANE)

    def forget(self) -> None:
        self._of = ()
        self.look()

    def marks(self) -> list[Mark]:
        marks: list[Mark] = []
        for piece in self.fallout.pieces[:_SHOWN]:
            rings = tuple(Contour.make(ring) for ring in piece.rings)
            marks.append(AreaMark(rings, (LIGHT.falls if piece.wanted else LIGHT.coral_wash) if piece.falls else LIGHT.stays))
            if piece.falls and not piece.wanted:
                marks.append(CrossMark(*piece.place))
            marks += [CrossMark(*place) for place in piece.threads]
            marks += [mark for wall in piece.walls[:_SHOWN] for mark in (CrossMark(wall.x, wall.y), TagMark(wall.x, wall.y, f"{wall.left:.2f} mm"))]
        if self._hot is not None:
            words = "stays" if not self._hot.falls else "meant to fall" if self._hot.wanted else "falls out"
            marks.append(TagMark(*self._hot.place, f"{words}, {self._hot.area:.0f} mm²"))
        return marks


class FallSlip(Slip):
    """How many pieces stay, fall and hang by a thread."""

    def __init__(self, session: Session, tool: FallTool) -> None:
        super().__init__(session, "Falls or stays", "From every cut at its real width, slits too. What is in the outermost contour stays, and of what a cut parts the largest; or what you click.")
        self._tool = tool
        self.asked = self.ask_of(tool, ("width", "click"))
        rows = {name: fact_row(name) for name in ("Stays", "Falls out", "Meant to fall", "Hangs by a thread", "Thin walls")}
        self.facts = {name: value for name, (_, value) in rows.items()}
        self.add(*(row for row, _ in rows.values()), label("Threads and thin walls are narrower than the smallest feature of Gather, Limits.", "quiet", wrap=True))
        self.refresh()

    def refresh(self) -> None:
        tool = self._tool
        tool.look()
        self.asked.show_of(tool.settings)
        pieces = tool.fallout.pieces
        for name, count in (
            ("Stays", sum(not p.falls for p in pieces)), ("Falls out", len(tool.fallout.unwanted)), ("Meant to fall", sum(p.wanted for p in pieces)),
            ("Hangs by a thread", sum(len(p.threads) for p in pieces)), ("Thin walls", sum(len(p.walls) for p in pieces)),
        ):  # fmt: skip
            self.facts[name].setText(str(count))
