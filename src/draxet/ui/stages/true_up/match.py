"""Match points: pairs of places, from a picture or from contours to where they belong."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout

from draxet.geometry.arrays import Points
from draxet.geometry.pairs import Freedom, PairFit, fit_pairs
from draxet.job.edits import map_contours
from draxet.trueup.true import match_picture
from draxet.ui.canvas.tool import ArrowMark, CrossMark, LineMark, MagnifierMark, Mark, Pointer, Prompt, Tool
from draxet.ui.look.tokens import LIGHT
from draxet.ui.shell.fields import Choice, button, emptied, fact_row, icon_button, label, side_by_side
from draxet.ui.shell.session import Session
from draxet.ui.stages.picks import HINT, KEYS, sure_words
from draxet.ui.stages.places import Place, PlaceMaker
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["MatchSlip", "MatchTool"]

_ARROW_PX = 46.0


class MatchTool(Tool):
    """Takes pairs: first a place on what moves, then where that place belongs."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.finder = PlaceMaker(session)
        self.freedom = Freedom.RIGID
        self.sources: list[Place] = []
        self.targets: list[Place] = []
        self.hover: Place | None = None
        self._pixel = 1.0

    @property
    def moves_contours(self) -> bool:
        return bool(self.session.selection)

    @property
    def waits_for_target(self) -> bool:
        return len(self.sources) > len(self.targets)

    @property
    def mover(self) -> str:
        """What moves, in words."""
        count, picture = len(self.session.selection), self.session.job.picture_by_id.get(self._mover_id)
        return f"{count} chosen contour{'s' * (count > 1)}" if count else picture.name if picture else "the picture you pick first"

    @property
    def _mover_id(self) -> str:
        return next((place.picture for place in self.sources), "")

    def prompt(self) -> Prompt:
        if corner := self.finder.prompt("Match points"):
            return corner
        if self.waits_for_target:
            return Prompt("Match points: pick where that place belongs.", "on a contour, on another picture, or anywhere with Alt")
        if self.targets:
            return Prompt("Match points: pick the next place of what moves, or move it.", keys=(("Enter", "move it"), ("Esc", "take the last pick back")))
        return Prompt("Match points: pick a place on what is to move.", HINT, KEYS)

    def _at(self, at: Pointer, *, take: bool) -> Place | None:
        look = self.finder.take if take else self.finder.look
        if self.waits_for_target:
            return look(at, without=self._mover_id)
        return look(at, contours=self.moves_contours, only="" if self.moves_contours else self._mover_id)

    def press(self, at: Pointer) -> None:
        self._pixel = at.pixel
        place = self._at(at, take=True)
        if place is None:
            self.session.tool_changed.emit()
            return
        if not self.waits_for_target and not self.moves_contours and not place.picture:
            self.session.refused.emit("There is no picture under the pointer. To move contours, choose them in Mend first.")
            return
        (self.targets if self.waits_for_target else self.sources).append(place)
        self.hover = None
        self.session.tool_changed.emit()

    def move(self, at: Pointer) -> None:
        self._pixel = at.pixel
        self.hover = self._at(at, take=False)

    def letter(self, key: str) -> bool:
        if key == "C":
            self.finder.toggle_corner()
        return key == "C"

    def enter(self) -> bool:
        self.apply()
        return True

    def cancel(self) -> bool:
        begun = self.finder.cancel() or bool(self.sources)
        if self.waits_for_target:
            self.sources.pop()
        elif self.targets:
            self.targets.pop()
        self.session.tool_changed.emit()
        return begun

    def forget(self) -> None:
        self.sources, self.targets, self.hover = [], [], None
        self.finder.cancel()
        self.session.tool_changed.emit()

    def without(self, k: int) -> None:
        """Take a pair back."""
        del self.sources[k], self.targets[k]
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def set_freedom(self, key: str) -> None:
        self.freedom = Freedom(key)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def _pairs(self) -> tuple[Points, Points]:
        count = len(self.targets)
        sources, targets = self.sources[:count], self.targets
        return np.array([(p.x, p.y) for p in sources]).reshape(-1, 2), np.array([(p.x, p.y) for p in targets]).reshape(-1, 2)

    def fit(self) -> PairFit | None:
        """What the pairs say; None where they say nothing yet."""
        if not self.targets:
            return None
        try:
            return fit_pairs(*self._pairs(), self.freedom)
        except ValueError:
            return None

    def apply(self) -> None:
        """Move it."""
        session = self.session
        if not self.targets:
            session.refused.emit("Pick at least one pair: a place of what moves, and where it belongs.")
            return
        sources, targets = self._pairs()
        try:
            if self.moves_contours:
                fixed = sum(item.fixed for item in session.chosen())
                fit = fit_pairs(sources, targets, self.freedom)
                if fixed and abs(fit.affine.scale - 1) > 1e-9:
                    session.refused.emit(f"{fixed} of the contours {'has' if fixed == 1 else 'have'} a fixed size and would be resized; match them without size.")
                    return
                job = map_contours(session.job, session.selection, fit.affine, by_hand=True)
            else:
                pixels = np.array([place.pixel for place in self.sources[: len(targets)]])
                mover = session.job.picture_by_id.get(self._mover_id)
                if mover is None:
                    self.forget()
                    session.refused.emit("The picture that was to be moved is not in the job any more; pick on another one.")
                    return
                back = mover.to_job.inverse()
                spreads = [(a.spread.mapped(back), b.spread) for a, b in zip(self.sources, self.targets, strict=False)]
                job = match_picture(session.job, self._mover_id, pixels, targets, self.freedom, spreads)
        except ValueError as error:
            session.refused.emit(str(error))
            return
        self.sources, self.targets = [], []
        session.edit("match points", job)
        session.tool_changed.emit()
        session.marks_changed.emit()

    def marks(self) -> list[Mark]:
        marks = self.finder.marks(self._pixel)
        for k, source in enumerate(self.sources):
            marks.append(CrossMark(source.x, source.y, source.directions))
            if k < len(self.targets):
                target = self.targets[k]
                marks += [LineMark(source.x, source.y, target.x, target.y, "note"), CrossMark(target.x, target.y, target.directions)]
        fit = self.fit()
        if fit is not None and len(self.targets) > 1:
            marks += self._arrows(fit)
        if self.hover:
            if self.waits_for_target:
                marks.append(LineMark(self.sources[-1].x, self.sources[-1].y, self.hover.x, self.hover.y))
            marks += [CrossMark(self.hover.x, self.hover.y, self.hover.directions), MagnifierMark(self.hover.x, self.hover.y, sure_words(self.hover.on, self.hover.spread, self.session.job.unit), self.hover.directions)]
        return marks

    def _arrows(self, fit: PairFit) -> list[Mark]:
        """What is left over at each pair, all as much too long as shows the greatest one well."""
        greatest = float(fit.distances.max())
        times = _ARROW_PX * self._pixel / max(greatest, 1e-12)
        marks: list[Mark] = []
        for k, (target, rest, away) in enumerate(zip(self.targets, fit.rest, fit.distances, strict=True)):
            if away > 1e-6:
                words = format_length(float(away), self.session.job.unit, places=2)
                dx, dy = -float(rest[0]) * times, -float(rest[1]) * times
                marks.append(ArrowMark(target.x, target.y, target.x + dx, target.y + dy, words, "fault" if k == fit.worst and fit.odd else "hand"))
        return marks


class MatchSlip(Slip):
    """What moves, what it may do, and the pairs with what is left over at each."""

    def __init__(self, session: Session, tool: MatchTool) -> None:
        super().__init__(session, "Match points", "One pair moves; two move and turn; three and more give the best fit of all.")
        self._tool = tool
        mover, self._mover = fact_row("Moves")
        self.freedom = Choice(((Freedom.RIGID.value, "stays"), (Freedom.SIZE.value, "may change"), (Freedom.STRETCH.value, "stretch too")), "Its size")
        self.freedom.chosen.connect(tool.set_freedom)
        self.add(mover, label("Its size"), self.freedom, label("Pairs and what is left over", "section"))
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        mean, self._mean = fact_row("Left over, in the mean")
        turn, self._turn = fact_row("Size becomes")
        self._advice = label("", "brass", wrap=True)
        self.go = button("Move it", "main", tool.apply)
        self.add(mean, turn, self._advice, self.go)
        self._shown: object = None
        self.refresh()

    def refresh(self) -> None:
        tool, fit = self._tool, self._tool.fit()
        self._mover.setText(tool.mover if len(tool.mover) < 26 else f"{tool.mover[:24]}…")
        self.freedom.set_value(tool.freedom.value)
        shown = (tuple(tool.targets), tool.freedom, self.session.job.unit)
        if shown != self._shown:
            self._shown = shown
            emptied(self._list)
            for k in range(len(tool.targets)):
                away = self.length(float(fit.distances[k]), 3) if fit else "–"
                odd = fit is not None and fit.odd and fit.worst == k
                remove = icon_button("remove", LIGHT.quiet, f"Take pair {k + 1} back", lambda k=k: tool.without(k))  # type: ignore[misc]
                self._list.addWidget(side_by_side(label(f"{k + 1}", "quiet"), label(away + (" ?" if odd else ""), "fault" if odd else "value"), remove))
            if not tool.targets:
                self._list.addWidget(label("None yet.", "quiet"))
        self._mean.setText(self.length(fit.mean, 3) if fit and len(tool.targets) > 1 else "–")
        self._turn.setText(f"{100 * fit.affine.scale:.3f} %" if fit and tool.freedom is not Freedom.RIGID else "as it is")
        self._advise(fit)
        self.go.setEnabled(bool(tool.targets))

    def _advise(self, fit: PairFit | None) -> None:
        words, count = "", len(self._tool.targets)
        if fit is not None and fit.odd and fit.worst is not None:
            words = f"Pair {fit.worst + 1} does not go with the others: look at it, or take it back."
        elif fit is None and count:
            words = "The pairs lie on one another or on one line; pick another one off it."
        elif self._tool.freedom is Freedom.STRETCH and count < 3:
            words = "A stretch needs three pairs that are not in line."
        elif count == 2 and fit is not None and self._tool.freedom is Freedom.RIGID and fit.mean > 1e-6:
            words = "The two distances differ: its size would have to change to fit both."
        self._advice.setText(words)
        self._advice.setVisible(bool(words))
