"""Match points: pairs of places, from a picture or from contours to where they belong."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout

from draxet.geometry.arrays import Points
from draxet.geometry.pairs import Freedom, PairFit, fit_pairs
from draxet.job.contour_moves import map_contours
from draxet.job.findings import count_words
from draxet.job.records import Job
from draxet.trueup.true import match_picture
from draxet.ui.controls.fields import Choice
from draxet.ui.controls.slip_parts import (
    button,
    emptied,
    fact_row,
    icon_button,
    label,
    side_by_side,
)
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ArrowMark, CrossMark, LineMark, Mark, Pointer
from draxet.ui.stages.picks import PickGesture, SureWant, sure
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.sure_places import SurePlace
from draxet.ui.stages.want import Gesture
from draxet.units import format_length

__all__ = ["MatchSlip", "MatchTool"]

_ARROW_PX = 46.0


class MatchTool(PickGesture):
    """Pairs: first a place on what moves, then where that place belongs; Enter moves it."""

    title = "Match points"

    def __init__(self, session: Session) -> None:
        self.freedom = Freedom.RIGID
        self.sources: list[SurePlace] = []
        self.targets: list[SurePlace] = []
        self._begun: list[int] = []
        """After how many answers each pair begins."""
        super().__init__(session)

    def gesture(self) -> Gesture:
        self.sources, self.targets, self._begun = [], [], []
        while True:
            begun = len(self._answers)
            source = yield from self.take(self._source())
            if source.key:
                break
            self._begun.append(begun)
            self.sources.append(sure(source))
            self.targets.append(sure((yield from self.take(self._target()))))
        job = self._moved()
        if isinstance(job, Job):
            self.sources, self.targets = [], []
            self.session.edit("match points", job)
            self.session.tool_changed.emit()

    def _source(self) -> SureWant:
        words = (
            "pick the next place of what moves, or move it"
            if self.targets
            else "pick a place on what is to move"
        )
        nothing = (
            "There is no picture under the pointer. To move contours, choose them in Mend first."
        )
        return SureWant(
            words,
            ends="move it" if self.targets else "",
            look=self._look_at_mover,
            nothing=nothing,
            shows=self._marks_under,
            unfinished=self._unfinished,
        )

    def _target(self) -> SureWant:
        def look(at: Pointer, edge: bool) -> SurePlace:
            return self.sure_place(at, without=self._mover_id, edge=edge)

        return SureWant(
            "pick where that place belongs",
            hint="on a contour, on another picture, or anywhere with Alt",
            look=look,
            shows=self._marks_under,
        )

    def _look_at_mover(self, at: Pointer, edge: bool) -> SurePlace | None:
        place = self.sure_place(
            at,
            contours=self.moves_contours,
            only="" if self.moves_contours else self._mover_id,
            edge=edge,
        )
        return place if self.moves_contours or place.picture else None

    @property
    def moves_contours(self) -> bool:
        return bool(self.session.selection.ids)

    @property
    def waits_for_target(self) -> bool:
        return len(self.sources) > len(self.targets)

    @property
    def mover(self) -> str:
        """What moves, in words."""
        count, picture = (
            len(self.session.selection.ids),
            self.session.job.picture_by_id.get(self._mover_id),
        )
        return (
            f"{count} chosen contour{'s' * (count > 1)}"
            if count
            else picture.name
            if picture
            else "the picture you pick first"
        )

    @property
    def _mover_id(self) -> str:
        return next((place.picture for place in self.sources), "")

    def without(self, k: int) -> None:
        """Take a pair back."""
        ends = [*self._begun[1:], len(self._answers) - self.waits_for_target]
        self.play([*self._answers[: self._begun[k]], *self._answers[ends[k] :]])

    def set_freedom(self, key: str) -> None:
        self.freedom = Freedom(key)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def _pairs(self) -> tuple[Points, Points]:
        count = len(self.targets)
        sources, targets = self.sources[:count], self.targets
        return np.array([(p.x, p.y) for p in sources]).reshape(-1, 2), np.array(
            [(p.x, p.y) for p in targets]
        ).reshape(-1, 2)

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
        while self.targets and not self.wants_key("Enter"):
            self.step_back()  # a place that belongs nowhere yet, half of a corner
        if self.wants_key("Enter"):
            self.key("Enter")
        else:
            self.session.messages.refused.emit(
                "Pick at least one pair: a place of what moves, and where it belongs."
            )

    def _unfinished(self) -> str:
        moved = self._moved()
        return moved if isinstance(moved, str) else ""

    def _moved(self) -> Job | str:
        """The job with it moved, or why it cannot be."""
        session, (sources, targets) = self.session, self._pairs()
        try:
            if self.moves_contours:
                fixed = sum(item.fixed for item in session.selection.items)
                fit = fit_pairs(sources, targets, self.freedom)
                if fixed and abs(fit.affine.scale - 1) > 1e-9:
                    return f"{fixed} of the contours {'has' if fixed == 1 else 'have'} a fixed size and would be resized; match them without size."
                return map_contours(session.job, session.selection.ids, fit.affine, by_hand=True)
            mover = session.job.picture_by_id.get(self._mover_id)
            picks = [place.pick for place in self.sources if place.pick]
            if mover is None or len(picks) < len(targets):
                return "What was to be moved is not there any more; press Esc and pick on what is to move now."
            back = mover.to_job.inverse()
            spreads = [
                (a.spread.mapped(back), b.spread)
                for a, b in zip(self.sources, self.targets, strict=False)
            ]
            return match_picture(
                session.job,
                mover.id,
                np.array([(pick.x, pick.y) for pick in picks[: len(targets)]]),
                targets,
                self.freedom,
                spreads,
            )
        except ValueError as error:
            return str(error)

    def _marks_under(self, under: SurePlace | None) -> list[Mark]:
        marks: list[Mark] = [
            CrossMark(source.x, source.y, source.directions) for source in self.sources
        ]
        for source, target in zip(self.sources, self.targets, strict=False):
            marks += [
                LineMark(source.x, source.y, target.x, target.y, "note"),
                CrossMark(target.x, target.y, target.directions),
            ]
        fit = self.fit()
        if fit is not None and len(self.targets) > 1:
            marks += self._arrows(fit)
        if under and self.waits_for_target:
            marks.append(LineMark(self.sources[-1].x, self.sources[-1].y, under.x, under.y))
        return marks

    def _arrows(self, fit: PairFit) -> list[Mark]:
        """What is left over at each pair, all as much too long as shows the greatest one well."""
        greatest = float(fit.distances.max())
        times = _ARROW_PX * self._pixel / max(greatest, 1e-12)
        marks: list[Mark] = []
        for k, (target, rest, away) in enumerate(
            zip(self.targets, fit.rest, fit.distances, strict=True)
        ):
            if away > 1e-6:
                words = format_length(float(away), self.session.job.unit, places=2)
                dx, dy = -float(rest[0]) * times, -float(rest[1]) * times
                marks.append(
                    ArrowMark(
                        target.x,
                        target.y,
                        target.x + dx,
                        target.y + dy,
                        words,
                        "fault" if k == fit.worst and fit.odd else "hand",
                    )
                )
        return marks


class MatchSlip(Slip):
    """What moves, what it may do, and the pairs with what is left over at each."""

    def __init__(self, session: Session, tool: MatchTool) -> None:
        super().__init__(
            session,
            "Match points",
            "One pair moves; two move and turn; three and more give the best fit of all.",
        )
        self._tool = tool
        mover, self._mover = fact_row("Moves")
        self.freedom = Choice(
            (
                (Freedom.RIGID.value, "stays"),
                (Freedom.SIZE.value, "may change"),
                (Freedom.STRETCH.value, "stretch too"),
            ),
            "Its size",
        )
        self.freedom.chosen.connect(tool.set_freedom)
        self.add(
            mover, label("Its size"), self.freedom, label("Pairs and what is left over", "section")
        )
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        mean, self._mean = fact_row("Left over, in the mean")
        turn, self._turn = fact_row("Size becomes")
        self._advice = label("", "brass", wrap=True)
        self.go = button("Move it", "main", tool.apply)
        self.add(mean, turn, self._advice)
        self.foot.add(self.go)
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
                remove = icon_button(
                    "remove",
                    LIGHT.quiet,
                    f"Take pair {k + 1} back",
                    lambda k=k: tool.without(k),  # type: ignore[misc]
                )
                self._list.addWidget(
                    side_by_side(
                        label(f"{k + 1}", "quiet"),
                        label(away + (" ?" if odd else ""), "fault" if odd else "value"),
                        remove,
                    )
                )
            if not tool.targets:
                self._list.addWidget(label("None yet.", "quiet"))
        self._mean.setText(self.length(fit.mean, 3) if fit and len(tool.targets) > 1 else "–")
        self._turn.setText(
            f"{100 * fit.affine.scale:.3f} %"
            if fit and tool.freedom is not Freedom.RIGID
            else "as it is"
        )
        self._advise(fit)
        self.foot.offer(
            self.go,
            f"Moved by {count_words(len(tool.targets), 'pair')}",
            "" if tool.targets else "Pick a place, then where it belongs",
        )

    def _advise(self, fit: PairFit | None) -> None:
        words, count = "", len(self._tool.targets)
        if fit is not None and fit.odd and fit.worst is not None:
            words = (
                f"Pair {fit.worst + 1} does not go with the others: look at it, or take it back."
            )
        elif fit is None and count:
            words = "The pairs lie on one another or on one line; pick another one off it."
        elif self._tool.freedom is Freedom.STRETCH and count < 3:
            words = "A stretch needs three pairs that are not in line."
        elif (
            count == 2
            and fit is not None
            and self._tool.freedom is Freedom.RIGID
            and fit.mean > 1e-6
        ):
            words = "The two distances differ: its size would have to change to fit both."
        self._advice.setText(words)
        self._advice.setVisible(bool(words))
