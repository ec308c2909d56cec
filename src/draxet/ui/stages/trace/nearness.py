"""Compare: how near contours lie to the picture's edge, which lines of it none follows yet, and
whether they can be cut."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout

from draxet.geometry.arrays import NDArray, Points
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import colour_contours
from draxet.job.contour_records import ContourItem
from draxet.job.picture_records import Picture
from draxet.mend.find import contour_at
from draxet.progress import Progress
from draxet.record import record
from draxet.trace.closeness import Closeness, closeness_of_traced, follows
from draxet.trace.fitness import Fitness, fitness_of
from draxet.trace.inside import colour_inside
from draxet.trace.untraced import UntracedLine, untraced_lines
from draxet.ui.canvas.tool import ContourMark, CrossMark, MapMark, Mark, Pointer, Prompt, Tool
from draxet.ui.shell.fields import button, emptied, fact_row, field_row, label, set_part
from draxet.ui.shell.preparing import prepared_pixels
from draxet.ui.shell.session import Session
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.trace_settings import trace_settings
from draxet.units import format_area

__all__ = ["NearnessSlip", "NearnessTool", "take_colour"]

_LANE = "nearness"
_WORST = 8
_APART_PX = 1.5
_LEAST_PX = 12.0


@record(frozen=True, eq=False)
class _Answer:
    places: Points
    closeness: Closeness
    worst: tuple[tuple[float, float, float, str], ...]
    fitness: Fitness
    pixel: float
    untraced: tuple[UntracedLine, ...]
    lacking: tuple[Contour, ...]
    """The stretches of those lines, in job space."""


class NearnessTool(Tool):
    """Measures the contours that were traced from the picture in hand, as they are now; a click
    chooses one."""

    def __init__(self, session: Session) -> None:
        self.session, self.workers = session, session.workers
        self.answer: _Answer | None = None
        self.looked: tuple[float, float] | None = None
        self._of: object = None
        self.apart: float | None = None
        """How far from every contour a line of the picture counts as not traced, in mm; as exact as
        the work where None."""

    def apart_mm(self) -> float:
        picture = self.session.picture
        return (
            self.apart
            if self.apart is not None
            else max(
                _APART_PX * picture.pixel_size if picture else 0.0,
                self.session.job.exactness.tolerance,
            )
        )

    def set_apart(self, mm: float) -> None:
        self.apart = mm
        self.run()

    def prompt(self) -> Prompt:
        if self.workers.busy(_LANE):
            return Prompt("Compare: measuring …")
        if self.answer is None:
            return Prompt(
                "Compare: trace this picture first, or draw on it.",
                "then every place along its contours is compared with the picture",
            )
        return Prompt(
            "Compare: small dots are near, large ones far; broad dashes are not traced yet.",
            "a click chooses a contour",
        )

    def run(self) -> None:
        """Measure anew, where contours or picture are other ones than before."""
        session, picture = self.session, self.session.picture
        apart = self.apart_mm()
        items = [
            item
            for item in session.job.contours
            if picture and (item.picture == picture.id or _lies_on(picture, item.contour))
        ]
        known = {item.id for item in items}
        others = [item for item in session.job.contours if item.id not in known]
        state = (tuple(map(id, session.job.contours)), picture, apart)
        if state == self._of:
            return
        self._of = state
        if picture is None or not items:
            self.answer = None
            return
        self.workers.run(
            _LANE,
            self._work(picture, items, others, apart),
            self._done,
            lambda error: session.refused.emit(f"It could not be measured: {error}"),
        )
        session.tool_changed.emit()

    def _work(
        self,
        picture: Picture,
        items: list[ContourItem],
        others: list[ContourItem],
        apart: float,
    ) -> Callable[[Progress], _Answer | None]:
        """What a worker does to measure contours, with others that may follow the lines too."""
        settings, store = trace_settings(self.session), self.session.pictures
        ground, level, speck = settings.ground(picture), settings.level, settings.speck
        feature = self.session.job.smallest_feature

        def work(report: Progress) -> _Answer | None:
            report(0.1, "measuring")
            ready = store.of(picture)
            readied = ground.readied(np.asarray(ready.grey), level)
            values, used = readied.toned, readied.level
            judged = _judged(items, picture, values, used)
            if not judged:
                return None
            measured = _measured(judged, picture, values, used, ready.levels[0], feature)
            report(0.6, "looking for what is not traced")
            known = {each.id for each in judged}
            return _with_untraced(
                measured,
                judged + [item for item in items + others if item.id not in known],
                picture,
                readied.values,
                used,
                apart / picture.pixel_size,
                speck / picture.pixel_size**2,
            )

        return work

    def _done(self, answer: _Answer | None) -> None:
        self.answer = answer
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def press(self, at: Pointer) -> None:
        found = contour_at(self.session.shown_contours, at.x, at.y, 8 * at.pixel)
        self.session.select({found} if found else set())

    def put_away(self) -> None:
        self.workers.cancel(_LANE)

    def marks(self) -> list[Mark]:
        if self.answer is None:
            return []
        close, limit = self.answer.closeness, self.session.job.exactness.tolerance
        shares = np.where(close.found, np.abs(close.off) * self.answer.pixel / limit, 2.0)
        marks: list[Mark] = [MapMark(self.answer.places, shares)]
        if self.answer.lacking:
            marks.append(ContourMark(self.answer.lacking, "lacking"))
        if self.looked:
            marks.append(CrossMark(*self.looked))
        return marks


def _lies_on(picture: Picture, contour: Contour) -> bool:
    """Whether a contour's middle lies on a picture."""
    x0, y0, x1, y1 = contour.box
    x, y = picture.to_job.inverse().point((x0 + x1) / 2, (y0 + y1) / 2)
    return 0 <= x <= picture.width and 0 <= y <= picture.height


def _judged(
    items: list[ContourItem], picture: Picture, values: NDArray[Any], level: float
) -> list[ContourItem]:
    """The contours that were traced from a picture, and of those drawn by hand the ones that follow
    it, with what they follow."""
    back = picture.to_job.inverse()
    found = []
    for item in items:
        if item.picture == picture.id and item.traced:
            found.append(item)
        elif way := follows(item.contour.transformed(back), values, level):
            found.append(replace(item, traced=way))
    return found


def _measured(
    items: list[ContourItem],
    picture: Picture,
    values: NDArray[Any],
    level: float,
    pixels: NDArray[Any],
    feature: float,
) -> _Answer:
    back = picture.to_job.inverse()
    whole = closeness_of_traced(
        [item.contour.transformed(back) for item in items],
        [item.traced or "edges" for item in items],
        values,
        level,
        pixels,
    )
    worst = tuple(
        (*picture.to_job.point(x, y), off, items[k].id)
        for x, y, off, k in whole.worst(_WORST, 12.0)
    )
    groups = [{"middles": "", "colours": item.colour}.get(item.traced, "ink") for item in items]
    return _Answer(
        picture.to_job.apply(whole.points),
        whole,
        worst,
        fitness_of([item.contour for item in items], feature, groups),
        picture.pixel_size,
        (),
        (),
    )


def _with_untraced(
    answer: _Answer,
    items: list[ContourItem],
    picture: Picture,
    values: NDArray[Any],
    level: float,
    apart_px: float,
    speck_px: float,
) -> _Answer:
    back = picture.to_job.inverse()
    contours = [item.contour.transformed(back) for item in items]
    lines = untraced_lines(
        contours,
        [item.traced or "edges" for item in items],
        values,
        level,
        apart_px,
        max(speck_px, _LEAST_PX),
    )
    stretches = tuple(
        Contour.make(picture.to_job.apply(run), closed=False)
        for line in lines
        for run in line.stretches
    )
    return replace(answer, untraced=tuple(lines), lacking=stretches)


def take_colour(session: Session) -> None:
    """The chosen contours take the picture's colour inside them."""
    picture = session.picture
    pixels = prepared_pixels(session, picture) if picture else None
    if picture is None or pixels is None:
        return
    back, job = picture.to_job.inverse(), session.job
    for item in session.chosen():
        if colour := colour_inside(item.contour.transformed(back), pixels):
            job = colour_contours(job, [item.id], colour)
    session.edit("take the picture's colour", job)


class NearnessSlip(Slip):
    """Summary, the worst places, and the verdict on cutting."""

    def __init__(self, session: Session, tool: NearnessTool) -> None:
        super().__init__(
            session,
            "Compare",
            "The contours against the picture's own edge, all along, and the picture's lines against the contours.",
        )
        self._tool = tool
        self.apart = self.length_field("Farther than")
        self.apart.entered.connect(tool.set_apart)
        lines, self._lines = fact_row("Lines without a contour")
        self.next_line = button("Show the next one", "plain", self._go_to_next)
        self._next = 0
        self.add(
            label("Not traced yet", "section"),
            field_row("Farther than", self.apart, 110),
            lines,
            self.next_line,
            label("How near", "section"),
        )
        mean, self._mean = fact_row("On average")
        greatest, self._greatest = fact_row("Greatest")
        none, self._none = fact_row("No edge there")
        self.add(mean, greatest, none, label("The worst places", "section"))
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        self.add(label("Fit for cutting?", "section"))
        self._facts = {
            name: fact_row(name)
            for name in ("Contours · nodes", "Shortest span", "Narrowest place", "Smallest contour")
        }
        self.add(*(row for row, _ in self._facts.values()))
        self._verdict = FindingRows(session, "Fit for cutting.")
        self.colour = button("Take the picture's colour", "plain", lambda: take_colour(session))
        self.add(self._verdict, self.colour)
        self._shown: object = None
        self.refresh()

    def go_to(self, x: float, y: float) -> None:
        """Bring a place into the middle and mark it."""
        self._tool.looked = (x, y)
        self.session.place_asked.emit(x, y)
        self.session.marks_changed.emit()

    def _go_to_next(self) -> None:
        """From one line that is not traced to the next, the longest first."""
        answer, picture = self._tool.answer, self.session.picture
        if answer is not None and answer.untraced and picture is not None:
            self.go_to(
                *picture.to_job.point(*answer.untraced[self._next % len(answer.untraced)].place)
            )
            self._next += 1

    def _show_untraced(self, answer: _Answer | None) -> None:
        self.apart.set_value(self._tool.apart_mm())
        lines = answer.untraced if answer else ()
        pixel = answer.pixel if answer else 1.0
        long, area = (
            sum(line.long for line in lines) * pixel,
            sum(line.area for line in lines) * pixel**2,
        )
        self._lines.setText(
            f"{len(lines)} · {self.length(long, 1)} · {format_area(area, self.session.job.unit)}"
            if lines
            else "none"
            if answer
            else "–"
        )
        set_part(self._lines, part="brass" if lines else "value")
        self.next_line.setEnabled(bool(lines))

    def refresh(self) -> None:
        self._tool.run()
        answer = self._tool.answer
        self._show_untraced(answer)
        self.colour.setEnabled(bool(self.session.selection))
        if answer is self._shown and answer is not None:
            return
        self._shown = answer
        emptied(self._list)
        if answer is None:
            for value in (
                self._mean,
                self._greatest,
                self._none,
                *(value for _, value in self._facts.values()),
            ):
                value.setText("–")
            self._verdict.hide()
            return
        close, pixel, fit = answer.closeness, answer.pixel, answer.fitness
        self._mean.setText(f"{close.mean:.2f} px · {self.length(close.mean * pixel, 3)}")
        self._greatest.setText(
            f"{close.greatest:.2f} px · {self.length(close.greatest * pixel, 3)}"
        )
        self._none.setText(f"{100 * (1 - close.found.mean()):.1f} %" if len(close.found) else "–")
        self._list_worst(answer)
        values = (
            f"{fit.contours:,} · {fit.nodes:,}".replace(",", " "),
            self._size(fit.shortest),
            self._size(fit.narrowest),
            self._size(fit.smallest_hole),
        )
        for (_, value), words in zip(self._facts.values(), values, strict=True):
            value.setText(words)
        self._verdict.show()
        self._verdict.show_findings(fit.findings)

    def _list_worst(self, answer: _Answer) -> None:
        """Places that lie farthest off, to go to."""
        for k, (x, y, off, contour) in enumerate(answer.worst, start=1):
            words = (
                f"{k}   {off:.2f} px · {self.length(off * answer.pixel, 3)}"
                if np.isfinite(off)
                else f"{k}   no edge of the picture here"
            )
            self._list.addWidget(
                button(words, "row", lambda x=x, y=y, contour=contour: self._choose(x, y, contour))  # type: ignore[misc]
            )

    def _size(self, mm: float) -> str:
        return self.length(mm, 2) if np.isfinite(mm) else "wide enough"

    def _choose(self, x: float, y: float, contour: str) -> None:
        self.session.select({contour})
        self.go_to(x, y)
