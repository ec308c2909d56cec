"""What falls and what stays, kept up to the job off the window's thread for as long as somebody
looks."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Annotated

from draxet.geometry.contour import Contour, boxes_of
from draxet.job.asked import Asked
from draxet.job.contour_records import ContourItem
from draxet.job.fallout import Fallout, Piece
from draxet.job.falls import Falls
from draxet.job.operations import CutThrough
from draxet.job.ranges import Coordinate, Count, OneOf, Size
from draxet.job.records import Job
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.derived import Derived
from draxet.ui.model.next_operation import keep_next, next_operation
from draxet.ui.model.session import Session
from draxet.ui.model.size import is_large
from draxet.ui.model.tool import AreaMark, Mark, SignMark, TagMark

__all__ = ["FallSettings", "Falling", "holds"]

_TAGGED = 4
"""The thinnest walls say how thin they are; more words would hide what they are about."""


@record
class FallSettings:
    """width : of cuts that no operation says, in mm. click : what a click marks. kept : places of
    what stays in the hand."""

    width: Annotated[Size, Asked("Cut width", "mm")] = 1.5
    click: Annotated[
        str,
        OneOf(("wanted", "kept")),
        Asked("A click marks", choices=(("wanted", "meant to fall"), ("kept", "what is kept"))),
    ] = "wanted"
    kept: Annotated[tuple[tuple[Coordinate, Coordinate], ...], Count(0, 1000)] = ()


class Falling:
    """Looks when it is asked to, and after each change while it is shown whatever tool is in
    hand."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._falls = Falls()
        self._known = Derived[tuple[Fallout, list[Mark]]](
            session, "falls", (Fallout(()), []), "What falls could not be worked out"
        )
        session.document.changed.connect(lambda: self.look() if session.desk.shows_falls else None)
        session.document.ending.connect(self._end)

    def _end(self) -> None:
        self._falls = Falls()

    @property
    def fallout(self) -> Fallout:
        return self._known.value[0]

    @property
    def settings(self) -> FallSettings:
        return self._session.desk.settings("falls", FallSettings)

    @property
    def busy(self) -> bool:
        return self._known.busy

    def show(self, shown: bool) -> None:
        """Show it whatever tool is in hand, or no longer."""
        self._session.desk.shows_falls = shown
        if shown:
            self.follow()
            self.look()
        self._session.marks_changed.emit()

    def follow(self) -> None:
        """Go by the width of the next cut, where the sheet's machine cuts through."""
        job = self._session.job
        if job.machine_of(job.sheet).can_do(CutThrough()):
            self.settings.width = next_operation(self._session, CutThrough).width

    def set_width(self, mm: float) -> None:
        """Go by another width, and cut by it next."""
        self.settings.width = mm
        keep_next(self._session, next_operation(self._session, CutThrough).changed(width=mm))

    def look(self) -> None:
        """Work out what falls, where that is not known already."""
        job, s, items = self._session.layout, self.settings, self._session.selection.shown
        state = (
            items,
            job.operations,
            job.bridges,
            job.fits,
            job.drop_outs,
            job.smallest_feature,
            s.width,
            s.kept,
        )
        self._known.ask(state, self._work(job, items))

    def _work(
        self, job: Job, items: Sequence[ContourItem]
    ) -> Callable[[Progress], tuple[Fallout, list[Mark]]]:
        """What a worker does to find it, as things are now."""
        width, kept, falls = self.settings.width, self.settings.kept, self._falls
        workers = self._session.workers

        def work(report: Progress) -> tuple[Fallout, list[Mark]]:
            if is_large(job):
                from draxet.ui.model.long_looks import (
                    falls_apart,
                    fields_of,
                )  # not needed to show a window

                fallout = Fallout(
                    workers.apart(report, falls_apart, items, width, kept, *fields_of(job))
                )
            else:
                fallout = falls.of(job, items, width, job.smallest_feature, kept, report)
            return fallout, _marks_of(fallout)

        return work

    def piece_at(self, x: float, y: float) -> Piece | None:
        """The piece at a place."""
        return next((piece for piece in self.fallout.pieces if holds(piece, x, y)), None)

    def marks(self) -> list[Mark]:
        """What stays, what falls, and where it is thin; the same marks for as long as the answer is
        the same."""
        return self._known.value[1]


def _marks_of(fallout: Fallout) -> list[Mark]:
    rings: dict[str, list[Contour]] = {}
    for piece in fallout.pieces:
        colour = (LIGHT.falls if piece.wanted else LIGHT.coral_wash) if piece.falls else LIGHT.stays
        rings.setdefault(colour, []).extend(Contour.make(ring) for ring in piece.rings)
    marks: list[Mark] = []
    for colour, contours in rings.items():
        boxes_of(contours)  # each knows its own now
        marks.append(AreaMark(tuple(contours), colour))
    for piece in fallout.pieces:
        if piece.falls and not piece.wanted:
            marks.append(SignMark(*piece.place, "falls"))
        marks += [SignMark(*place, "thin") for place in piece.threads]
    walls = sorted(
        (wall for piece in fallout.pieces for wall in piece.walls), key=lambda wall: wall.left
    )
    marks += [SignMark(wall.x, wall.y, "thin") for wall in walls]
    return marks + [
        TagMark(wall.x, wall.y, f"{wall.left:.2f} mm", "note") for wall in walls[:_TAGGED]
    ]


def holds(piece: Piece, x: float, y: float) -> bool:
    """Whether a place lies in a piece."""
    from draxet.geometry.winding import winds

    return winds(Contour.make(piece.rings[0]), x, y) and not any(
        winds(Contour.make(ring), x, y) for ring in piece.rings[1:]
    )
