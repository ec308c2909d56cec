"""What is to be told of the contours that are chosen: at once, or of a great many by a worker."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from draxet.geometry.contour import boxes_of, know_circles
from draxet.job.contour_records import ContourItem
from draxet.job.layout_counts import count_where
from draxet.job.records import Job
from draxet.record import record
from draxet.ui.model.derived import Derived
from draxet.ui.model.large_edits import MANY

if TYPE_CHECKING:
    from draxet.progress import Progress
    from draxet.ui.model.session import Session

__all__ = ["Chosen", "ChosenFacts", "facts_of"]


@record(frozen=True, eq=False)
class ChosenFacts:
    """How many nodes chosen contours have, how wide and high they are together, the sheets, layers,
    colours and line widths that they have, how many are open and whether all of those are meant as
    slits, how many of the job have the one colour that they have, which are whole circles, and the radii of
    those, two of them at the most."""

    nodes: int
    size: tuple[float, float]
    sheets: frozenset[str]
    layers: frozenset[str]
    colours: frozenset[str]
    lines: frozenset[float]
    opened: int
    slits: bool
    alike: int
    circles: frozenset[str]
    radii: tuple[float, ...]


def facts_of(items: Sequence[ContourItem], job: Job) -> ChosenFacts:
    """Those of some contours of a job."""
    contours = [item.contour for item in items]
    boxes = boxes_of(contours)
    wide, high = (boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)).tolist()
    opened = [item for item in items if not item.contour.closed]
    colours = frozenset(item.colour for item in items)
    one = next(iter(colours)) if len(colours) == 1 else ""
    know_circles(contours)
    shapes = {item.id: item.contour.circle_shape for item in items}
    circles = {name: shape for name, shape in shapes.items() if shape}
    return ChosenFacts(
        sum(len(contour.nodes) for contour in contours),
        (wide, high),
        frozenset(item.sheet for item in items),
        frozenset(item.layer for item in items),
        colours,
        frozenset(item.line for item in items),
        len(opened),
        bool(opened) and all(item.slit for item in opened),
        count_where(job, lambda item: item.colour == one) if one else 0,
        frozenset(circles),
        tuple(sorted({round(shape[2], 9) for shape in circles.values()})[:2]),
    )


class Chosen:
    """Looks at what is chosen each time it is asked."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._facts = Derived[ChosenFacts | None](
            session, "choice", None, "What is chosen could not be looked at", keeps=False
        )

    @property
    def facts(self) -> ChosenFacts | None:
        """None where nothing is chosen, and as long as it is not known."""
        session = self._session
        items, job = session.selection.items, session.job
        if not items:
            self._facts.know((), None)
            return None
        known = items, job.contours, job.placements
        if len(items) <= MANY:
            if not self._facts.known(known):
                self._facts.know(known, facts_of(items, job))
        else:

            def work(report: Progress) -> ChosenFacts:
                report(0.1, "looking at what is chosen")
                return facts_of(items, job)

            self._facts.ask(known, work)
        return self._facts.value
