"""What all ways of tracing share: work off the window's thread, and contours proposed before they
are made."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import astuple
from typing import Any

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour, boxes_of
from draxet.job.contour_edits import remove_contours, retrace
from draxet.job.contour_records import ContourItem
from draxet.job.find import contour_at, contours_in
from draxet.job.findings import count_words
from draxet.job.picture_records import Picture
from draxet.job.records import Job
from draxet.job.remember import same
from draxet.progress import Progress
from draxet.record import record
from draxet.trace.closeness import Closeness
from draxet.trace.fitness import fitness_of
from draxet.trace.left_out import LeftOut, are_left_out, exchanged
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import BoxMark, ContourMark, Mark, Pointer, Prompt, Tool
from draxet.ui.stages.trace.area import area_marks
from draxet.ui.stages.trace.proposal import Proposal
from draxet.ui.stages.trace_settings import trace_settings

__all__ = ["TraceTool", "grey_source"]

_REACH = 8.0
_NOTHING = Proposal(())
_APART = frozenset({"left_out", "adds", "way"})
"""Settings that a trace does not go by."""


@record(frozen=True)
class _Made:
    """What was made last: the jobs before and after it, and the offer that it was made of."""

    before: Job
    after: Job
    offer: Proposal


class TraceTool(Tool):
    """Proposes contours for the picture in hand; nothing is made until that is asked for."""

    title, step = "", ""
    nothing = "Nothing was found to trace: no ink is darker than the threshold, or all of it is smaller than the smallest speck."

    def __init__(self, session: Session) -> None:
        self.session = session
        self.settings = trace_settings(session)
        self.traced = Derived[Proposal](
            session,
            "trace",
            _NOTHING,
            "The picture could not be traced",
            tool=self,
            told=self._told,
            stepped=session.tool_changed.emit,
        )
        self.offer = _NOTHING
        """What is offered of what was traced: all of it, until it is made."""
        self.picture_id = session.selection.picture.id if session.selection.picture else ""
        self._made: _Made | None = None
        self._parted: tuple[Proposal, tuple[LeftOut, ...], tuple[Proposal, Proposal]] = (
            self.offer,
            (),
            (self.offer, self.offer),
        )
        self._from: Pointer | None = None
        self._to: Pointer | None = None

    @property
    def is_stale(self) -> bool:
        """Whether the picture in hand is another one, or lies or looks otherwise, than when it was
        traced."""
        by = self.traced.goes_by
        return by is not None and not same(by[0], _looks(self.session.selection.picture))

    @property
    def is_traced(self) -> bool:
        """Whether a trace came to its end."""
        return self.traced.value is not _NOTHING

    def begin(self) -> None:
        self.run()

    def prompt(self) -> Prompt:
        if self.session.selection.picture is None:
            return Prompt(f"{self.title}: first choose a picture.", "in Gather")
        if self.traced.busy:
            return Prompt(
                f"{self.title}: tracing …",
                "the window stays yours; change a setting or cancel at any time",
            )
        if self.offer.contours:
            return Prompt(
                f"{self.title}: click or box what is not wanted, then make contours.",
                "the same again brings it back",
            )
        return Prompt(
            f"{self.title}: change a setting to trace again.",
            "nothing is made until you ask for it",
        )

    def work(self, picture: Picture) -> Callable[[Progress], Proposal]:
        """The frozen request for a trace of the picture, as something a worker can do."""
        raise NotImplementedError

    def run(self) -> None:
        """Trace with the settings as they are; the newest request wins."""
        picture = self.session.selection.picture
        if picture is None:
            return
        self.settings.way = self.title.lower()
        self.picture_id = picture.id
        if not self.traced.busy and not self.is_traced:
            self.traced.forget()  # it was given up
        if not self.traced.ask(self._goes_by(picture), self.work(picture)) and not self.traced.busy:
            self._told()  # it is known already, and offered again
        self.session.tool_changed.emit()

    def _goes_by(self, picture: Picture) -> tuple[object, ...]:
        job, settings = self.session.job, vars(self.settings)
        return (
            _looks(picture),
            tuple(value for name, value in settings.items() if name not in _APART),
            job.exactness.tolerance,
            job.smallest_feature,
            job.unit,
            bool(picture.known_lengths),
        )

    def _told(self) -> None:
        self.offer = self.traced.value
        self.session.desk.show_ink(None)
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()
        if not self.offer.contours:
            self.session.messages.refused.emit(self.nothing)

    def stop(self) -> None:
        """Give up the trace under way."""
        self.session.stop_tool()

    def stopped(self) -> None:
        self.session.desk.show_ink(None)

    def parted_offer(self) -> tuple[Proposal, Proposal]:
        """What is kept of the proposal, and what was left out of it; worked out once."""
        places = self.settings.left_out
        if self._parted[0] is not self.offer or self._parted[1] is not places:
            self._parted = (self.offer, places, self._part(places))
        return self._parted[2]

    def _part(self, places: tuple[LeftOut, ...]) -> tuple[Proposal, Proposal]:
        picture = self.session.job.picture_by_id.get(self.picture_id)
        left = (
            are_left_out(self.offer.contours, picture, places)
            if picture
            else np.zeros(0, dtype=bool)
        )
        if not left.any():
            return self.offer, self.offer.only([])
        return self.offer.only(np.flatnonzero(~left).tolist()), self.offer.only(
            np.flatnonzero(left).tolist()
        )

    def take_all_back(self) -> None:
        """Nothing of this picture is left out any more."""
        self.settings.left_out = tuple(
            place for place in self.settings.left_out if place.picture != self.picture_id
        )
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def press(self, at: Pointer) -> None:
        self._from = self._to = at

    def move(self, at: Pointer) -> None:
        self._to = at

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        if begun is None or not self.offer.contours:
            return
        items = [ContourItem(str(k), contour) for k, contour in enumerate(self.offer.contours)]
        drawn = abs(at.x - begun.x) + abs(at.y - begun.y) > 3 * at.pixel
        if drawn:
            numbers = [int(k) for k in contours_in(items, begun.x, begun.y, at.x, at.y)]
        else:
            found = contour_at(items, at.x, at.y, _REACH * at.pixel)
            numbers = [int(found)] if found is not None else []
        box = (min(begun.x, at.x), min(begun.y, at.y), max(begun.x, at.x), max(begun.y, at.y))
        if numbers:
            self._exchange(numbers, box if drawn else None)
        else:
            self.session.messages.refused.emit(
                "There is no proposed contour; click on one, or drag a box round those that are not wanted."
            )

    def _exchange(self, numbers: list[int], box: tuple[float, float, float, float] | None) -> None:
        """Leave contours out, or bring them back where all of them were."""
        picture = self.session.job.picture_by_id.get(self.picture_id)
        if picture is None:
            return
        self.settings.left_out, back = exchanged(
            self.settings.left_out, self.offer.contours, picture, numbers, box
        )
        words = count_words(len(numbers), "contour")
        self.session.tool_changed.emit()
        self.session.messages.announced.emit(
            f"{words} brought back" if back else f"{words} left out: not made with the others"
        )

    def make(self) -> None:
        """What is proposed becomes the job's contours, in place of earlier ones from this
        picture."""
        if self.is_stale:
            self.run()
            self.session.messages.refused.emit(
                "The picture has changed since it was traced; it is traced anew, look at it again."
            )
            return
        kept, _ = self.parted_offer()
        if not kept.contours:
            self.session.messages.refused.emit(
                "All contours were left out; bring some back."
                if self.offer.contours
                else self.nothing
            )
            return
        before = self.session.job
        area = self.settings.area
        within = (
            (
                min(x for x, _ in area),
                min(y for _, y in area),
                max(x for x, _ in area),
                max(y for _, y in area),
            )
            if area
            else None
        )
        offered = kept.contours, kept.colours, kept.traced
        job = retrace(before, self.picture_id, *offered, within, adds=self.settings.adds)
        made = len({item.id for item in job.contours} - {item.id for item in before.contours})
        by_hand = sum(item.by_hand and item.picture == self.picture_id for item in job.contours)
        opened = sum(not contour.closed for contour in kept.contours)
        offer = self.offer
        self.offer = Proposal((), level=offer.level)
        self.session.edit(self.step, job)
        self._made = _Made(before, self.session.job, offer)
        self.session.tool_changed.emit()
        words = f"{count_words(made, 'contour')} made" + (
            f", {opened} of them open" if opened else ", all closed" if made > 1 else ", closed"
        )
        self.session.messages.announced.emit(
            words + (f"; {by_hand} changed by hand kept" if by_hand else "")
        )

    def start_over(self) -> None:
        """Remove what was traced from this picture, and leave nothing out of it any more; the
        picture stays."""
        self.take_all_back()
        ids = [item.id for item in self.session.job.contours if item.picture == self.picture_id]
        if ids:
            self.session.messages.flash([self.session.layout.contour_by_id[k].contour for k in ids])
            self.session.edit("start over", remove_contours(self.session.job, ids))
        self.run()

    def forget(self) -> None:
        """Contours that are no longer made are offered again, until they are made again."""
        made = self._made
        if made and self.session.job is made.before and not self.offer.contours:
            self.offer = made.offer
        elif made and self.session.job is made.after and self.offer is made.offer:
            self.offer = Proposal((), level=made.offer.level)
        self.session.tool_changed.emit()

    def cancel(self) -> bool:
        begun, self._from = self._from is not None, None
        return begun

    def put_away(self) -> None:
        self.stopped()

    def marks(self) -> list[Mark]:
        marks: list[Mark] = area_marks(self.settings)
        if self.offer.contours and self.session.desk.ink_below is None:
            kept, left = self.parted_offer()
            marks += [
                ContourMark(kept.contours, "offer"),
                *([ContourMark(left.contours, "aside")] if left.contours else []),
            ]
        if self._from and self._to:
            marks.append(BoxMark(self._from.x, self._from.y, self._to.x, self._to.y))
        return marks

    def proposal(
        self,
        contours: Sequence[Contour],
        picture: Picture,
        closeness: Closeness | None,
        level: float | None = None,
        facts: Sequence[tuple[str, str]] = (),
        colours: Sequence[str] = (),
        traced: Sequence[str] = (),
    ) -> Proposal:
        """Contours in picture space as a proposal in job space; for workers."""
        placed = tuple(contour.transformed(picture.to_job) for contour in contours)
        boxes_of(placed)  # of all at once: each knows its own now
        groups = [
            {"middles": "", "colours": colours[k] if colours else ""}.get(way, "ink")
            for k, way in enumerate(traced)
        ]
        fitness = (
            fitness_of(placed, self.session.job.smallest_feature, groups)
            if placed and picture.known_lengths
            else None
        )
        return Proposal(
            placed, tuple(colours), level, tuple(facts), closeness, fitness, tuple(traced)
        )


def _looks(picture: Picture | None) -> object:
    """What of a picture a trace depends on."""
    return (picture.id, *astuple(picture.to_job), picture.square, picture.steps) if picture else ()


def grey_source(session: Session, picture: Picture) -> Callable[[], NDArray[Any]]:
    """Gets the picture's grey pixels; for workers, as that may take its time."""
    store = session.pictures
    return lambda: np.asarray(store.of(picture).grey)
