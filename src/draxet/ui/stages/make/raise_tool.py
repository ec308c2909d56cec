"""Raise or sink: areas become bodies; an outline that is open or crosses itself is shown where it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import close_contours
from draxet.job.contour_records import ContourItem
from draxet.job.findings import Finding
from draxet.job.operations import Raise
from draxet.ui.model.tool import ContourMark, Mark, Prompt, SignMark
from draxet.ui.stages.make.operations import OperationTool
from draxet.ui.stages.make.raise_rows import raise_rows
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["RaiseTool"]


class RaiseTool(OperationTool):
    """Closed contours raised on the sheet's base, or sunk into it."""

    kind = Raise
    open_ones: tuple[str, ...] = ()
    _meant: frozenset[str] = frozenset()
    crossed: tuple[str, ...] = ()
    """Contours that were to be raised and are open, that with the narrowest gap first, or cross
    themselves."""

    def more(self, slip: Slip) -> Callable[[], None]:
        return raise_rows(slip, self)

    def prompt(self) -> Prompt:
        if leaks := self.leaks:
            gap = format_length(self._gap(leaks[0]), self._session.job.unit)
            return Prompt(
                f"{self.title}: it is open here, by {gap}.",
                "the brass button closes it by a line",
                (("Esc", "leave it open"),),
            )
        return super().prompt()

    @property
    def leaks(self) -> Sequence[ContourItem]:
        """Those that still are open."""
        items = self._session.layout.contour_by_id
        return [items[n] for n in self.open_ones if n in items and not items[n].contour.closed]

    @staticmethod
    def _gap(item: ContourItem) -> float:
        begin, end = item.contour.nodes[0], item.contour.nodes[-1]
        return float(((begin - end) ** 2).sum() ** 0.5)

    def close(self) -> None:
        """Close what is open by lines, and give the operation after all."""
        ids = tuple(item.id for item in self.leaks)
        session, meant = self._session, self._meant
        session.edit("close by a line", close_contours(session.job, ids))
        self.open_ones = ()
        session.selection.choose(meant)
        super().give()

    @property
    def first(self) -> tuple[str, Callable[[], object]] | None:
        if leaks := self.leaks:
            return "Close it" if len(leaks) == 1 else f"Close the {len(leaks)}", self.close
        crossing = self._crossing(set(self.crossed))
        if crossing is not None and crossing.mend is not None:
            return crossing.mend_words, lambda: self._part(crossing)
        return None

    def _part(self, crossing: Finding) -> None:
        """Mend what crosses itself."""
        self.crossed = ()
        if crossing.mend is not None:
            session = self._session
            session.edit(crossing.mend_words.lower(), crossing.mend(session.job))

    def give(self) -> None:
        session = self._session
        chosen = session.selection.ids
        wanted = [i for i in session.layout.contours if not chosen or i.id in chosen]
        opened = sorted((i for i in wanted if not i.contour.closed and not i.slit), key=self._gap)
        if opened and (chosen or not any(i.contour.closed for i in wanted)):
            self.open_ones, self._meant = tuple(item.id for item in opened), chosen
            session.selection.choose(frozenset(self.open_ones))
            middle = opened[0].contour.nodes[[0, -1]].mean(axis=0)
            session.messages.place_asked.emit(float(middle[0]), float(middle[1]))
            session.tool_changed.emit()
            session.marks_changed.emit()
            return
        if crossing := self._crossing({i.id for i in wanted}):
            self.crossed = crossing.ids
            session.messages.place_asked.emit(*crossing.places[0])
            session.tool_changed.emit()
            session.messages.refused.emit(
                f"{self.title}: {crossing.words}. Part it there first, or choose others."
            )
            return
        self.open_ones = self.crossed = ()
        super().give()
        if opened:
            session.messages.announced.emit(
                f"{len(opened)} open {'one was' if len(opened) == 1 else 'ones were'} left out; choose {'it' if len(opened) == 1 else 'them'} to see where"
            )

    def _crossing(self, ids: set[str]) -> Finding | None:
        """What is known of those among contours that cross themselves."""
        return next(
            (
                each
                for each in self._session.looked.findings
                if each.kind == "crossed" and ids & set(each.ids)
            ),
            None,
        )

    def cancel(self) -> bool:
        begun = self.first is not None
        self.open_ones = self.crossed = ()
        if begun:
            self._session.tool_changed.emit()
        return begun or super().cancel()

    def marks(self) -> list[Mark]:
        found = super().marks()
        for item in self.leaks:
            begin, end = item.contour.nodes[0].tolist(), item.contour.nodes[-1].tolist()
            found += [SignMark(x, y, "open", hot=True) for x, y in (begin, end)]
            if begin != end:
                found.append(ContourMark((Contour.make([begin, end], closed=False),), "lacking"))
        return found
