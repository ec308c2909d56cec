"""Compare: how near contours lie to the picture's edge, which lines of it none follows yet, and
whether they can be cut."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from draxet.geometry.arrays import NDArray, Points
from draxet.geometry.contour import Contour
from draxet.job.contour_records import ContourItem
from draxet.job.find import contour_at
from draxet.job.picture_records import Picture
from draxet.progress import Progress
from draxet.record import record
from draxet.trace.closeness import Closeness, closeness_of_traced, follows
from draxet.trace.fitness import Fitness, fitness_of
from draxet.trace.untraced import UntracedLine, untraced_lines
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, CrossMark, MapMark, Mark, Pointer, Prompt, Tool
from draxet.ui.stages.trace_settings import trace_settings

__all__ = ["Answer", "NearnessTool"]

_WORST = 8

_APART_PX = 1.5

_LEAST_PX = 12.0


@record(frozen=True, eq=False)
class Answer:
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
        self._near = Derived[Answer | None](
            session, "nearness", None, "It could not be measured", tool=self
        )
        self.looked: tuple[float, float] | None = None
        self.apart: float | None = None
        """How far from every contour a line of the picture counts as not traced, in mm; as exact as
        the work where None."""

    @property
    def answer(self) -> Answer | None:
        return self._near.value

    def apart_mm(self) -> float:
        picture = self.session.selection.picture
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
        if self._near.busy:
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
        session, picture = self.session, self.session.selection.picture
        apart = self.apart_mm()
        items = [
            item
            for item in session.layout.contours
            if picture and (item.picture == picture.id or _lies_on(picture, item.contour))
        ]
        known = {item.id for item in items}
        others = [item for item in session.layout.contours if item.id not in known]
        state = (session.layout.contours, picture, apart)
        if picture is not None and items:
            self._near.ask(state, self._work(picture, items, others, apart))
        else:
            self._near.take(state, None)

    def _work(
        self,
        picture: Picture,
        items: list[ContourItem],
        others: list[ContourItem],
        apart: float,
    ) -> Callable[[Progress], Answer | None]:
        """What a worker does to measure contours, with others that may follow the lines too."""
        settings, store = trace_settings(self.session), self.session.pictures
        ground, level, speck = settings.ground(picture), settings.level, settings.speck
        feature = self.session.job.smallest_feature

        def work(report: Progress) -> Answer | None:
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

    def press(self, at: Pointer) -> None:
        found = contour_at(self.session.selection.shown, at.x, at.y, 8 * at.pixel)
        self.session.selection.choose({found} if found else set())

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
) -> Answer:
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
    return Answer(
        picture.to_job.apply(whole.points),
        whole,
        worst,
        fitness_of([item.contour for item in items], feature, groups),
        picture.pixel_size,
        (),
        (),
    )


def _with_untraced(
    answer: Answer,
    items: list[ContourItem],
    picture: Picture,
    values: NDArray[Any],
    level: float,
    apart_px: float,
    speck_px: float,
) -> Answer:
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
