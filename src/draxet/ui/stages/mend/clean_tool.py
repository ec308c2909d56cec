"""Clean: gaps, overshoots, lines drawn twice and scraps are listed and shown; one, some or all are
mended."""

from __future__ import annotations

from dataclasses import astuple
from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.contour_pieces import put_all
from draxet.job.findings import count_words
from draxet.job.ranges import OneOf, Within
from draxet.job.records import Job
from draxet.mend.clean import Cleaning, cleaned, flaws_of
from draxet.mend.flaws import WORDS, Flaw, without_conflicts
from draxet.mend.gaps import MANNERS
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.controls.slip_parts import allow, button, fact_row, side_by_side
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, CrossMark, Mark, TagMark
from draxet.ui.stages.mend.narrowed_row import NarrowedRow
from draxet.ui.stages.mend.ticked_list import Found, TickedList
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = ["CleanSlip", "CleanTool"]

_LANE = "mending all"
_LIMIT = Within(0.0, 1e4)
_WAYS = (
    ("best", "what fits"),
    ("crossing", "crossing"),
    ("arc", "tangent arc"),
    ("straight", "straight"),
    ("together", "together"),
)


@record
class CleanSettings:
    """Limits in mm (mm² for scraps), 0 for a kind that is left alone. manner : how gaps are
    closed."""

    gaps: Annotated[float, _LIMIT, Asked("Gaps up to", "mm")] = 1.0
    manner: Annotated[str, OneOf(MANNERS), Asked("Closed by", choices=_WAYS)] = "best"
    overshoots: Annotated[float, _LIMIT, Asked("Overshoots up to", "mm")] = 1.0
    doubles: Annotated[float, _LIMIT, Asked("Lines twice within", "mm")] = 0.05
    scraps: Annotated[float, Within(0.0, 1e8), Asked("Scraps under", "mm²")] = 0.1

    @property
    def limits(self) -> Cleaning:
        gaps, overshoots, doubles, scraps = (
            value or None for value in (self.gaps, self.overshoots, self.doubles, self.scraps)
        )
        return Cleaning(gaps, overshoots, doubles, scraps, self.manner)


class CleanTool(PickTool):
    """Looks at the chosen contours, or at all, off the window's thread; contours meant as slits are
    left alone."""

    title = "Clean"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.hot: list[Flaw] = []
        self._flaws = Derived[tuple[list[str], list[Flaw]]](
            session, "clean", ([], []), "What is wrong could not be looked for", tool=self
        )

    @property
    def settings(self) -> CleanSettings:
        found: CleanSettings = self._session.desk.settings("clean", CleanSettings)
        return found

    @property
    def found(self) -> list[Flaw]:
        return self._flaws.value[1]

    def begin(self) -> None:
        self.look()

    def meant(self) -> list[str]:
        return [
            item.id for item in (self._session.selection.items or self._session.selection.pickable)
        ]

    def _contours(self, ids: list[str]) -> tuple[list[Contour], frozenset[int]]:
        by_id = self._session.layout.contour_by_id
        return [by_id[k].contour for k in ids], frozenset(
            n for n, k in enumerate(ids) if by_id[k].slit
        )

    def look(self) -> None:
        """What is wrong, where that is not known already."""
        ids, limits = self.meant(), self.settings.limits
        contours, slits = self._contours(ids)
        state = (self._session.layout.contours, ids, astuple(limits))
        if self._flaws.ask(state, lambda report: (ids, flaws_of(contours, limits, slits, report))):
            self.hot = []

    @property
    def busy(self) -> bool:
        return self._flaws.busy or self._session.workers.busy(_LANE)

    def put_away(self) -> None:
        self._session.workers.cancel(_LANE)

    def mend(self, flaws: list[Flaw]) -> None:
        """Some of what was found; of two that concern one contour the first."""
        can = [flaw for flaw in flaws if flaw.becomes]
        some = without_conflicts(can)
        job, ids = self._session.job, self._flaws.value[0]
        if not can and any(not flaw.is_meant for flaw in flaws):
            self._session.messages.refused.emit(
                "Clean: closed, that contour would cross itself; move its ends nearer to each other first."
            )
            return
        if not some or any(k not in job.layout.contour_by_id for k in ids):
            self._session.messages.refused.emit(
                "Clean: tick what is to be mended, or mend all; what is meant so is only listed."
            )
            return
        for flaw in some:
            job = _mended(job, ids, flaw)
        self._session.edit("mend", job)
        left = len(can) - len(some)
        self._session.messages.announced.emit(
            f"{count_words(len(some), 'thing')} mended"
            + (f"; {left} more on the same contours, look again" if left else "")
        )

    def mend_all(self) -> None:
        """Everything, and what comes up as it is mended, off the window's thread."""
        before, ids, limits = self._session.job, self.meant(), self.settings.limits
        contours, slits = self._contours(ids)

        def work(report: Progress) -> tuple[list[tuple[int, Contour]], list[Flaw]]:
            return cleaned(contours, limits, slits, report)

        def done(answer: tuple[list[tuple[int, Contour]], list[Flaw]]) -> None:
            now, flaws = answer
            if self._session.job is not before:
                return
            parts: dict[int, list[Contour]] = {}
            for origin, contour in now:
                parts.setdefault(origin, []).append(contour)
            job = put_all(before, {name: parts.get(k, []) for k, name in enumerate(ids)})
            self._session.edit("mend all", job)
            self._session.messages.announced.emit(
                f"{count_words(len(flaws), 'thing')} mended"
                if flaws
                else "There is nothing to mend"
            )
            self.look()

        self._session.workers.run(
            _LANE,
            work,
            done,
            lambda error: self._session.messages.refused.emit(f"It could not be mended: {error}"),
        )
        self._session.desk.view_changed.emit()

    def look_at(self, flaws: list[Flaw]) -> None:
        """Mark these alone, and bring a single one into sight."""
        self.hot = flaws
        if len(flaws) == 1:
            self._session.messages.place_asked.emit(*flaws[0].place)
        self._session.marks_changed.emit()

    def forget(self) -> None:
        super().forget()
        self._flaws.forget()
        self.hot = []

    def marks(self) -> list[Mark]:
        some = self.hot or [flaw for flaw in self.found if not flaw.is_meant]
        gone = tuple(contour for flaw in some for contour in flaw.outlines)
        marks: list[Mark] = [ContourMark(gone, "fault")] if gone else []
        marks += [CrossMark(*flaw.place) for flaw in some]
        if len(self.hot) == 1:
            flaw = self.hot[0]
            marks.append(
                ContourMark(
                    tuple(contour for made in flaw.becomes.values() for contour in made), "preview"
                )
            )
            marks.append(
                TagMark(*flaw.place, f"{WORDS[flaw.kind][0]}: {flaw.manner or 'listed only'}")
            )
        return marks + super().marks()


def _mended(job: Job, ids: list[str], flaw: Flaw) -> Job:
    return put_all(job, {ids[number]: parts for number, parts in flaw.becomes.items()})


class CleanSlip(Slip):
    """The limits, the list, and the buttons."""

    def __init__(self, session: Session, tool: CleanTool) -> None:
        super().__init__(
            session,
            "Clean",
            "Of the chosen contours, or of all. Nothing is changed before you say so; slits stay open.",
        )
        self._tool = tool
        self.narrowed = NarrowedRow(session)
        self.add(self.narrowed)
        self.asked = self.ask_of(tool)
        row, self._count = fact_row("Found")
        self.list = TickedList(tool.look_at)
        self.take = button("Mend the ticked", "main", lambda: tool.mend(self.list.ticked()))
        self.all = button("Mend all", "plain", tool.mend_all)
        self.add(row, self.list)
        self.foot.add(side_by_side(self.take, self.all))
        self.list.ticks_changed.connect(self.refresh)
        self._shown: object = None
        self.refresh()

    def refresh(self) -> None:
        tool = self._tool
        tool.look()
        self.narrowed.refresh()
        self.asked.show_of(tool.settings)
        self._count.setText(
            "looking …" if tool.busy else str(len(tool.found)) if tool.found else "nothing"
        )
        allow(
            self.all,
            any(not flaw.is_meant for flaw in tool.found) and not tool.busy,
            "still looking" if tool.busy else "nothing is to be mended",
        )
        if self._shown is not tool.found:
            self._shown = tool.found
            greatest: dict[str, float] = {}
            for flaw in tool.found:
                greatest[flaw.kind] = max(greatest.get(flaw.kind, 0.0), flaw.size)
            self.list.show_found(
                [
                    Found(
                        WORDS[f.kind][1],
                        f"{self.length(f.size, 3)}{f', {f.manner}' if f.manner else ''}",
                        f"to {self.length(greatest[f.kind], 1)}",
                        f,
                    )
                    for f in tool.found
                ]
            )
        ticked = len(self.list.ticked())
        self.foot.offer(
            self.take,
            f"{ticked} of {len(tool.found)} ticked" if ticked else "None is ticked yet",
            "" if tool.found else "Looking …" if tool.busy else "Nothing is to be mended",
        )
