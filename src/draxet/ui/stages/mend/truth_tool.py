"""True shapes: what is nearly level, square, equal, round … is listed with what it would move; some
or all of it is taken."""

from __future__ import annotations

from typing import Annotated

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.spans import Spans
from draxet.job.asked import Asked
from draxet.job.findings import count_words
from draxet.job.ranges import Length
from draxet.job.records import Job
from draxet.mend.truth_record import Truth
from draxet.mend.truths import MOST_CONTOURS, all_taken, taken, truths_of
from draxet.record import record
from draxet.ui.controls.slip_parts import allow, button, fact_row, field_row, label, side_by_side
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, CrossMark, Mark, TagMark
from draxet.ui.stages.mend.narrowed_row import NarrowedRow
from draxet.ui.stages.mend.ticked_list import Found, TickedList
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = ["TruthSlip", "TruthTool"]

_LANE = "taking all truths"
_SHOWN = 60


@record
class TruthSettings:
    """most : how far anything may move, in mm; None for twice what the work must hold."""

    most: Annotated[Length, Asked("Move at most", "mm")] | None = None


class TruthTool(PickTool):
    """Looks at the chosen contours, or at all, off the window's thread."""

    title = "True shapes"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.hot: list[Truth] = []
        self._truths = Derived[list[Truth]](
            session, "truths", [], "True shapes could not be looked for", tool=self
        )
        self._marked: tuple[object, object, list[Mark]] = (None, None, [])

    @property
    def found(self) -> list[Truth]:
        return self._truths.value

    @property
    def most(self) -> float:
        found: TruthSettings = self._session.desk.settings("truths", TruthSettings)
        return found.most if found.most is not None else 2 * self._session.job.exactness.tolerance

    def set_most(self, most: float) -> None:
        self._session.desk.settings("truths", TruthSettings).most = most
        self.look()

    def meant(self) -> list[str]:
        return [
            item.id for item in (self._session.selection.items or self._session.selection.pickable)
        ]

    def begin(self) -> None:
        self.look()

    def look(self) -> None:
        """What is nearly so, where that is not known already."""
        job, ids, most = self._session.job, self.meant(), self.most
        state = (job.layout.contours, ids, most)
        if self._truths.ask(state, lambda report: truths_of(job, ids, most, report)):
            self.hot = []

    @property
    def busy(self) -> bool:
        return self._truths.busy or self._session.workers.busy(_LANE)

    def put_away(self) -> None:
        self._session.workers.cancel(_LANE)

    def take_these(self, truths: list[Truth]) -> None:
        """Some of what was found becomes exactly so, what moves least first."""
        job: Job = self._session.job
        for truth in sorted(truths, key=lambda each: each.moves):
            job = taken(job, truth)
        self._take(job, len(truths))

    def take_all(self) -> None:
        """All of it, and what follows from it."""
        before, ids, most, kinds = (
            self._session.job,
            self.meant(),
            self.most,
            frozenset(truth.kind for truth in self.found),
        )

        def done(answer: tuple[Job, int]) -> None:
            if self._session.job is before:
                self._take(*answer)

        self._session.workers.run(
            _LANE,
            lambda report: all_taken(before, ids, most, kinds, report),
            done,
            lambda error: self._session.messages.refused.emit(
                f"True shapes could not be taken: {error}"
            ),
        )
        self._session.desk.view_changed.emit()

    def _take(self, job: Job, count: int) -> None:
        if count:
            self._session.edit("make true", job)
            self._session.messages.announced.emit(f"{count_words(count, 'thing')} made true")
        self.look()

    def forget(self) -> None:
        super().forget()
        self._truths.forget()
        self.hot = []

    def look_at(self, truths: list[Truth]) -> None:
        """Mark these alone."""
        self.hot = truths
        self._session.marks_changed.emit()

    def marks(self) -> list[Mark]:
        some = self.hot or self.found
        if (
            self._marked[0] is not some or self._marked[1] is not self._session.job
        ):  # worked out once, not in each frame
            self._marked = (
                some,
                self._session.job,
                [mark for truth in some[:_SHOWN] for mark in self._mark(truth)],
            )
        marks = list(self._marked[2])
        if len(self.hot) == 1:
            marks.append(TagMark(*self.hot[0].place, self.hot[0].words))
        return marks + super().marks()

    def _mark(self, truth: Truth) -> list[Mark]:
        by_id = self._session.layout.contour_by_id
        if any(k not in by_id for k in truth.ids):
            return []
        contour = by_id[truth.ids[0]].contour
        if truth.spans and max(truth.spans) < len(contour.kinds):
            return [
                ContourMark(
                    tuple(_contour_of_span(contour.spans.take(np.array([k]))) for k in truth.spans),
                    "hand",
                )
            ]
        if self.hot:
            return [ContourMark(tuple(by_id[k].contour for k in truth.ids), "hand")]
        return [CrossMark(*truth.place)]


def _contour_of_span(span: Spans) -> Contour:
    return Contour.make(
        [span.starts[0], span.ends[0]], span.kinds, span.bulges, span.handles, closed=False
    )


class TruthSlip(Slip):
    """A row for each way of being nearly true, its list unfolded below, and the buttons."""

    def __init__(self, session: Session, tool: TruthTool) -> None:
        super().__init__(
            session,
            "True shapes",
            "Of the chosen contours, or of all: what is nearly so, and how far it would move. Nothing moves before you take it.",
        )
        self._tool = tool
        self.narrowed = NarrowedRow(session)
        self.add(self.narrowed)
        self.most = self.length_field("Move at most")
        self.most.entered.connect(tool.set_most)
        row, self._count = fact_row("Nearly true")
        self.take = button("Take the ticked", "main", self._take)
        self.all = button("Take all", "plain", tool.take_all)
        self.list = TickedList(tool.look_at)
        self.add(field_row("Move at most", self.most, 110), row)
        self._few = label(
            f"Only the first {MOST_CONTOURS} contours are looked at; choose those that you mean.",
            "brass",
            wrap=True,
        )
        self.add(self._few)
        self.add(self.list)
        self.foot.add(side_by_side(self.take, self.all))
        self.list.ticks_changed.connect(self.refresh)
        self._shown: object = None
        self.refresh()

    def _take(self) -> None:
        ticked: list[Truth] = self.list.ticked()
        if not ticked:
            self.session.messages.refused.emit(
                "True shapes: tick what is to be made true, or take all."
            )
            return
        self._tool.take_these(ticked)

    def refresh(self) -> None:
        tool = self._tool
        tool.look()
        self.narrowed.refresh()
        self.most.set_value(tool.most)
        self._count.setText(
            "looking …" if tool.busy else str(len(tool.found)) if tool.found else "nothing"
        )
        self._few.setVisible(len(tool.meant()) > MOST_CONTOURS)
        allow(
            self.all,
            tool.found and not tool.busy,
            "still looking" if tool.busy else "nothing is nearly true",
        )
        if self._shown is not tool.found:
            self._shown = tool.found
            greatest = {
                truth.words: self.length(truth.moves, 3) for truth in tool.found
            }  # the last one moves farthest
            self.list.show_found(
                [
                    Found(
                        truth.words,
                        f"moves {self.length(truth.moves, 3)}",
                        f"to {greatest[truth.words]}",
                        truth,
                    )
                    for truth in tool.found
                ]
            )
        ticked = len(self.list.ticked())
        self.foot.offer(
            self.take,
            f"{ticked} of {len(tool.found)} ticked" if ticked else "None is ticked yet",
            "" if tool.found else "Looking …" if tool.busy else "Nothing is nearly true",
        )
