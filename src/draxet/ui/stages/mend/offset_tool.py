"""Offset: an inner or outer line at a true distance, with corners of its own; a thick line becomes
its outline."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.offset import offset_area
from draxet.geometry.shared_edges import equal_outlines
from draxet.job.asked import Asked
from draxet.job.contour_edits import add_contours
from draxet.job.copies import removed_alone
from draxet.job.findings import count_words
from draxet.job.ranges import OneOf, Size, Within
from draxet.job.records import Job
from draxet.mend.corners import round_corners
from draxet.mend.middle_lines import MiddleLine, middle_lines
from draxet.mend.pen_offset import pen_offset
from draxet.mend.thick_lines import thick_lines
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.controls.slip_parts import allow, button, field_row, label
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark
from draxet.ui.stages.picking import PickTool
from draxet.ui.stages.slip import Slip

__all__ = ["OffsetSlip", "OffsetTool"]

_MIDDLE_LANE = "middle lines"
_OUTLINE_LANE = "outlines"
_LEAST = 0.001


@record
class OffsetSettings:
    """distance : in mm, to the `side`. rounding : the new line's own corner radius in mm, where
    corners are sharp. width : of a thick line."""

    side: Annotated[
        str, OneOf(("out", "in")), Asked("", choices=(("out", "outside"), ("in", "inside")))
    ] = "out"
    distance: Annotated[Size, Asked("Distance", "mm")] = 3.0
    corners: Annotated[
        str,
        OneOf(("round", "sharp")),
        Asked("Corners that open", choices=(("round", "round"), ("sharp", "sharp"))),
    ] = "round"
    rounding: Annotated[float, Within(0.0, 1e6), Asked("Own corner radius", "mm")] = 0.0
    keeps: Annotated[bool, Asked("Keep the originals")] = True
    width: Annotated[
        Size, Asked("Where none is set", "mm", tip="the width of lines that have none of their own")
    ] = 1.0


class OffsetTool(PickTool):
    """Shows what would come of the chosen contours, or of all closed ones, and makes it."""

    title = "Offset"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.before = 0
        self._offset = Derived[list[Contour]](
            session, "offset", [], "The offset could not be made", tool=self, keeps=False
        )

    @property
    def made(self) -> list[Contour]:
        return self._offset.value

    @property
    def settings(self) -> OffsetSettings:
        found: OffsetSettings = self._session.desk.settings("offset", OffsetSettings)
        return found

    def meant(self) -> list[str]:
        return [
            item.id
            for item in (self._session.selection.items or self._session.selection.pickable)
            if item.contour.closed
        ]

    def begin(self) -> None:
        self.look()

    def look(self) -> None:
        """Work out what it would give, where that is not known already."""
        s, ids = self.settings, self.meant()
        self.before = len(ids)
        contours = [self._session.layout.contour_by_id[k].contour for k in ids]
        distance, corners, rounding = (
            (s.distance if s.side == "out" else -s.distance),
            ("sharp" if s.rounding else s.corners),
            s.rounding,
        )

        workers = self._session.workers

        def work(report: Progress) -> list[Contour]:
            found = workers.ended_if_long(
                report, contours, offset_area, contours, distance, corners
            )
            return [_rounded(contour, rounding) for contour in found] if rounding else list(found)

        self._offset.ask((self._session.layout.contours, ids, distance, corners, rounding), work)

    @property
    def busy(self) -> bool:
        return self._offset.busy

    def make(self) -> None:
        """Put what is shown into the job."""
        session, ids = self._session, self.meant()
        if not self.made:
            session.messages.refused.emit(
                "Offset: nothing is left at that distance; choose a smaller one."
                if ids
                else "Offset: choose closed contours."
            )
            return
        job = session.job if self.settings.keeps else removed_alone(session.job, ids)
        before, made, there = self.before, self.made, [item.contour for item in job.layout.contours]
        twins = {
            k - len(there)
            for group in equal_outlines([*there, *made])
            if group[0] < len(there)
            for k in group
        }
        new = [contour for k, contour in enumerate(made) if k not in twins]
        if not new:
            session.messages.refused.emit(
                "Offset: what it would make is there already; choose another distance or other contours."
            )
            return
        session.edit("offset", add_contours(job, new))
        session.selection.choose(
            frozenset(item.id for item in session.job.contours[len(job.contours) :])
        )  # from here on what is meant is another thing
        said = f"{count_words(len(new), 'contour')} made"
        if len(new) < len(made):
            said += f", {len(made) - len(new)} {'was' if len(made) - len(new) == 1 else 'were'} there already"
        session.messages.announced.emit(
            said
            + (
                f" of {before}: some vanished or grew together"
                if len(made) < before
                else ": some were parted"
                if len(made) > before
                else ""
            )
        )

    def outline(self) -> None:
        """Chosen contours as the outlines of lines of a width."""
        session, width = self._session, self.settings.width
        items = session.selection.items
        if not items:
            session.messages.refused.emit("Offset: choose the lines that are to become outlines.")
            return
        contours, widths, within = (
            [item.contour for item in items],
            [item.line or width for item in items],
            session.job.exactness.tolerance / 2,
        )
        job, ids = session.job, [item.id for item in items]

        def done(made: Sequence[Contour]) -> None:
            if session.job is not job:
                session.messages.refused.emit(
                    "Offset: the job was changed meanwhile; ask for the outlines again."
                )
                return
            session.edit("lines become outlines", add_contours(removed_alone(job, ids), made))
            session.messages.announced.emit(
                f"{count_words(len(made), 'outline')} of lines {' and '.join(f'{w:g}' for w in sorted(set(widths))[:3])} mm wide"
            )

        session.workers.run(
            _OUTLINE_LANE,
            lambda report: session.workers.ended_if_long(
                report, contours, thick_lines, contours, widths, within
            ),
            done,
            lambda error: session.messages.refused.emit(f"The outlines could not be made: {error}"),
        )

    def middle(self) -> None:
        """Chosen outlines as the middle lines of the strokes that they bound, which know how broad
        they are."""
        session = self._session
        items = [item for item in session.selection.items if item.contour.closed]
        if not items:
            session.messages.refused.emit(
                "Offset: choose the outlines that are to become middle lines."
            )
            return
        contours, tolerance = [item.contour for item in items], session.job.exactness.tolerance / 2
        job, ids = session.job, [item.id for item in items]

        def done(found: Sequence[MiddleLine]) -> None:
            if session.job is not job:
                session.messages.refused.emit(
                    "Offset: the job was changed meanwhile; ask for the middle lines again."
                )
            elif not found:
                session.messages.refused.emit(
                    "Offset: these outlines bound no stroke that has a middle line."
                )
            else:
                made, widths = _with_middle_lines(removed_alone(job, ids), found)
                session.edit("outlines become middle lines", made)
                session.selection.choose(frozenset(widths))
                broad = sorted(widths.values())
                session.messages.announced.emit(
                    f"{count_words(len(found), 'middle line')}, {broad[0]:.2f}{f' to {broad[-1]:.2f}' if broad[-1] > broad[0] else ''} mm wide"
                )

        session.workers.run(
            _MIDDLE_LANE,
            lambda report: session.workers.ended_if_long(
                report, contours, middle_lines, contours, tolerance
            ),
            done,
            lambda error: session.messages.refused.emit(
                f"The middle lines could not be found: {error}"
            ),
        )

    def take_pen(self, diameter: float) -> None:
        """What the pen adds, from the chosen circle that was drawn round a thing of a diameter: it is
        taken off next."""
        session, chosen = self._session, self._session.selection.items
        if len(chosen) != 1:
            session.messages.refused.emit(
                "Offset: choose the line that was drawn round the coin, and that alone."
            )
            return
        try:
            off = pen_offset(chosen[0].contour, diameter)
        except ValueError as error:
            session.messages.refused.emit(f"Offset: {error}.")
            return
        s = self.settings
        s.side, s.distance = ("in" if off >= 0 else "out"), max(abs(off), _LEAST)
        s.corners, s.rounding, s.keeps = "sharp", 0.0, False
        session.selection.choose(frozenset())
        self.look()
        session.tool_changed.emit()
        where = "outside" if off >= 0 else "inside"
        session.messages.announced.emit(
            f"The pen ran {abs(off):.2f} mm {where}: choose what was drawn round with it, and make it"
        )

    def put_away(self) -> None:
        self._session.workers.cancel(_MIDDLE_LANE)
        self._session.workers.cancel(_OUTLINE_LANE)

    def forget(self) -> None:
        super().forget()
        self._offset.forget()

    def marks(self) -> list[Mark]:
        return [*([ContourMark(tuple(self.made), "offer")] if self.made else []), *super().marks()]


def _rounded(contour: Contour, radius: float) -> Contour:
    return round_corners(contour, np.flatnonzero(contour.corners()).tolist(), radius)[0]


class OffsetSlip(Slip):
    """Side, distance, corners; and the width of a thick line."""

    def __init__(self, session: Session, tool: OffsetTool) -> None:
        super().__init__(
            session,
            "Offset",
            "A line at a true distance from the chosen closed contours, or from all. Lines and arcs stay so.",
        )
        self._tool = tool
        self.asked = self.ask_of(tool, ("side", "distance", "corners", "rounding", "keeps"))
        self.make = button("Make it", "main", tool.make)
        self.foot.add(self.make)
        self.coin = self.length_field("Diameter of the coin")
        self.coin.setPlaceholderText("type it")
        self.coin.entered.connect(tool.take_pen)
        self.add(
            label("Drawn round a thing", "section"),
            label(
                "Draw round a coin or a washer with the same pen, choose its line, and type how wide it really is: what the pen adds is taken off next.",
                "quiet",
                wrap=True,
            ),
            field_row("Its diameter", self.coin, 110),
        )
        self.add(label("Thick lines and outlines", "section"))
        self.line = self.ask_of(tool, ("width",))
        self.outline = button("Lines become outlines", "plain", tool.outline)
        self.middle = button("Outlines become middle lines", "plain", tool.middle)
        self.add(self.outline, self.middle)
        self.refresh()

    def refresh(self) -> None:
        tool = self._tool
        tool.look()
        self.asked.show_of(tool.settings)
        self.line.show_of(tool.settings)
        self.foot.offer(
            self.make,
            f"Gives {count_words(len(tool.made), 'contour')} of {tool.before}",
            "Working it out …"
            if tool.busy
            else ""
            if tool.made
            else "Gives nothing: closed contours are wanted that have room for it",
        )
        for part in (self.outline, self.middle):
            allow(part, self.session.selection.ids, "choose contours first")


def _with_middle_lines(job: Job, found: Sequence[MiddleLine]) -> tuple[Job, dict[str, float]]:
    """A job with middle lines, which know how broad they are, and the ids of those to their
    widths."""
    made = add_contours(job, [each.contour for each in found])
    new = [item.id for item in made.contours[len(made.contours) - len(found) :]]
    widths = dict(zip(new, (round(each.width, 3) for each in found), strict=True))
    contours = tuple(
        replace(item, line=widths[item.id]) if item.id in widths else item for item in made.contours
    )
    return replace(made, contours=contours), widths
