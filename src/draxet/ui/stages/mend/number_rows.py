"""Numbers of what is chosen, to be typed: places of nodes, lengths, radii, axes; of one or of many
at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.geometry.contour import Contour, know_circles
from draxet.geometry.spans import ARC, LINE
from draxet.job.contour_edits import change_contours
from draxet.job.records import Job
from draxet.mend.numbers import axes_of, radius_of, set_axes, set_length, set_radius
from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_parts import field_row, label
from draxet.ui.model.chosen import Chosen
from draxet.ui.model.large_edits import MANY
from draxet.ui.model.session import Session
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.units import format_number, parse_angle

__all__ = ["NumberRows"]


class NumberRows(QWidget):
    """The numbers that what is chosen has; those that differ show "several", and one typed is for
    all."""

    def __init__(
        self, session: Session, tool: ShapingTool, length_field: Callable[[str], Field]
    ) -> None:
        super().__init__()
        self._session, self._tool = session, tool
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        self.radius, self.length = length_field("Radius"), length_field("Length of the line")
        self.long, self.short = length_field("Longer half axis"), length_field("Shorter half axis")
        self.angle = Field(
            lambda text: parse_angle(text, what="Axis at an angle of"),
            lambda v: f"{format_number(v, 3)}°",
            "Axis at an angle of",
        )
        self.angle.refused.connect(session.messages.refused)
        rows.addWidget(label("Numbers", "section"))
        self._rows = {}
        for field in (self.radius, self.length, self.long, self.short, self.angle):
            self._rows[field] = field_row(field.accessibleName(), field, 110)
            rows.addWidget(self._rows[field])
        self.radius.entered.connect(self._set_radius)
        self.length.entered.connect(self._set_length)
        self.long.entered.connect(lambda v: self._set_axes(long=v))
        self.short.entered.connect(lambda v: self._set_axes(short=v))
        self.angle.entered.connect(lambda v: self._set_axes(angle=v))

    def _spans(self, kind: int) -> list[tuple[str, int]]:
        """Spans of a kind between chosen nodes."""
        meant = self._tool.spans_between()
        by_id = self._session.layout.contour_by_id
        return [
            (k, span)
            for k, spans in meant.items()
            for span in spans
            if by_id[k].contour.kinds[span] == kind
        ]

    def _set_radius(self, radius: float) -> None:
        by_id, changed, left = self._session.layout.contour_by_id, dict[str, Contour](), 0
        for name, span in self._arcs():
            made = set_radius(changed.get(name, by_id[name].contour), radius, span)
            if made is None:
                left += 1
            else:
                changed[name] = made
        if left:
            self._session.messages.refused.emit(
                "Radius: the ends of an arc lie farther apart than twice that; type more."
            )
        self._edit("type a radius", change_contours(self._session.job, changed))

    def _arcs(self) -> list[tuple[str, int | None]]:
        """Whole circles that are chosen, and arcs between chosen nodes."""
        items = self._session.selection.items
        know_circles([item.contour for item in items])
        circles: list[tuple[str, int | None]] = [
            (item.id, None) for item in items if item.contour.circle_shape
        ]
        whole = {name for name, _ in circles}
        return circles + [(name, span) for name, span in self._spans(ARC) if name not in whole]

    def _set_length(self, length: float) -> None:
        by_id, changed = self._session.layout.contour_by_id, dict[str, Contour]()
        for name, span in self._spans(LINE):
            changed[name] = set_length(changed.get(name, by_id[name].contour), span, length)
        self._edit("type a length", change_contours(self._session.job, changed))

    def _set_axes(
        self, long: float | None = None, short: float | None = None, angle: float | None = None
    ) -> None:
        job = self._session.job
        for item in self._session.selection.items:
            if item.ellipse is not None:
                now = axes_of(item.ellipse)
                job = set_axes(
                    job,
                    item.id,
                    long if long is not None else now[0],
                    short if short is not None else now[1],
                    angle if angle is not None else now[2],
                )
        self._edit("type an axis", job)

    def _edit(self, words: str, job: Job) -> None:
        self._session.edit(words, job)
        self.refresh()

    def refresh(self) -> None:
        by_id, chosen = self._session.layout.contour_by_id, self._session.selection.items
        facts = self._session.single(Chosen).facts
        radii = list(facts.radii) if facts else []
        whole = facts.circles if facts else frozenset()
        radii += [
            radius
            for name, span in self._spans(ARC)
            if name not in whole and (radius := radius_of(by_id[name].contour, span)) is not None
        ]
        lengths = [
            float(by_id[name].contour.spans.lengths()[span]) for name, span in self._spans(LINE)
        ]
        few = chosen if len(chosen) <= MANY else ()
        axes = [axes_of(item.ellipse) for item in few if item.ellipse is not None]
        for field, values in (
            (self.radius, radii),
            (self.length, lengths),
            (self.long, [a[0] for a in axes]),
            (self.short, [a[1] for a in axes]),
            (self.angle, [a[2] for a in axes]),
        ):
            self._show(field, values)
        self.setVisible(bool(radii or lengths or axes))

    def _show(self, field: Field, values: Sequence[float]) -> None:
        self._rows[field].setVisible(bool(values))
        if len({round(value, 6) for value in values}) == 1:
            field.set_value(values[0])
        elif values:
            field.empty()
            field.setPlaceholderText("several")
