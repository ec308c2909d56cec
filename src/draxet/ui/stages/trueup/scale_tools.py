"""Which scale a drawing was made at; a detail with a scale of its own."""

from __future__ import annotations

from draxet.job.picture_edits import change_picture, cut_out
from draxet.job.picture_records import KnownLength, Picture
from draxet.trueup.scale import MM_PER_INCH, DrawnScale, drawn_scale
from draxet.trueup.true import BORDER_SPREAD, set_true_lengths
from draxet.ui.controls.fields import Field
from draxet.ui.controls.slip_parts import button, fact_row, field_row, label
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer, Prompt, Tool
from draxet.ui.stages.areas import AreaTool
from draxet.ui.stages.slip import Slip
from draxet.units import UnitError, format_number

__all__ = ["DetailSlip", "DetailTool", "ScaleSlip"]


def _number(name: str, least: float, most: float) -> Field:
    def read(text: str) -> float:
        try:
            value = float(
                text.lower()
                .replace("dpi", "")
                .replace(",", ".")
                .replace("1:", "")
                .replace("1 :", "")
                .strip()
            )
        except ValueError:
            value = float("nan")
        if not least <= value <= most:
            raise UnitError(
                f"{name} must be a number from {least:g} to {most:g}, got {text.strip()[:30]!r}"
            )
        return value

    return Field(read, lambda value: format_number(value, 3) if value else "", name)


class ScaleSlip(Slip):
    """Resolution, ratio and nearest standard scale; or the size from a written scale."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session, "Drawing scale", "The drawing's size on paper against the real size."
        )
        self.dpi = _number("Resolution", 10, 10000)
        self.written = _number("Scale", 0.001, 100000)
        paper, self._paper = fact_row("Size on paper")
        real, self._real = fact_row("Real size")
        ratio, self._ratio = fact_row("Drawn at")
        nearest, self._nearest = fact_row("Nearest standard")
        self._note = label("", "brass", wrap=True)
        self.go = button("Set the size by this scale", "plain", self._set)
        self.add(field_row("Scanned at, dpi", self.dpi), paper, real, ratio, nearest, self._note)
        self.add(
            label("Or a scale is written on it", "section"),
            field_row("Drawn at 1 :", self.written),
            self.go,
        )
        self.dpi.entered.connect(self._set_dpi)
        for field in (self.dpi, self.written):
            field.refused.connect(session.messages.refused)
        self.refresh()

    def _set_dpi(self, dpi: float) -> None:
        picture = self.session.selection.picture
        if picture:
            self.session.edit(
                "say the resolution", change_picture(self.session.job, picture.id, dpi=dpi)
            )

    def _set(self) -> None:
        picture, scale = self.session.selection.picture, self.written.try_read()
        if picture is None or scale is None:
            return
        if picture.dpi is None:
            self.session.messages.refused.emit(
                "The picture does not say its resolution; type the dpi it was scanned at first."
            )
            return
        real = _paper_width(picture) * scale
        known = KnownLength(
            (0.0, picture.height / 2),
            (float(picture.width), picture.height / 2),
            real,
            BORDER_SPREAD,
            BORDER_SPREAD,
        )
        self.session.edit(
            "set the size by the scale", set_true_lengths(self.session.job, picture.id, [known])
        )
        self.session.messages.fit_asked.emit()

    def refresh(self) -> None:
        picture = self.session.selection.picture
        self.dpi.set_value(picture.dpi or 0.0 if picture else 0.0)
        found, why = None, ""
        if picture:
            try:
                found = drawn_scale(picture)
            except ValueError as error:
                why = str(error)
        self._paper.setText(
            self._size(picture, _paper_width(picture) / picture.width)
            if picture and picture.dpi
            else "–"
        )
        self._real.setText(
            self._size(picture, picture.pixel_size) if picture and picture.known_lengths else "–"
        )
        self._ratio.setText(DrawnScale.words(found.ratio) if found else "–")
        self._nearest.setText(
            f"{DrawnScale.words(found.nearest)}, {100 * abs(found.off):.2f} % off" if found else "–"
        )
        if found and not found.is_standard:
            why = "No standard scale is near: the copy may have been shrunk, or the resolution is not what the file says."
        self._note.setText(
            why[:1].upper() + why[1:] + ("" if not why or why.endswith(".") else ".")
        )
        self._note.setVisible(bool(why))

    def _size(self, picture: Picture, mm: float) -> str:
        return f"{self.length(picture.width * mm, 1)} × {self.length(picture.height * mm, 1)}"


def _paper_width(picture: Picture) -> float:
    return MM_PER_INCH / (picture.dpi or 1.0) * picture.to_base.scale * picture.width


class DetailTool(AreaTool):
    """Drag a box round a detail that has a scale of its own; it becomes a picture of its own."""

    title = "Scale of a detail"

    def prompt(self) -> Prompt:
        return Prompt(
            "Scale of a detail: drag a box round the detail.",
            "it becomes a picture of its own, to be sized by itself; the rest stays",
        )

    def boxed(self, picture: Picture, a: Pointer, b: Pointer) -> None:
        back = picture.to_job.inverse()
        places = [back.point(x, y) for x in (a.x, b.x) for y in (a.y, b.y)]
        xs, ys = [p[0] for p in places], [p[1] for p in places]
        job, picture_id = cut_out(
            self.session.job, picture.id, (min(xs), min(ys), max(xs), max(ys))
        )
        self.session.edit("cut a detail out", job)
        self.session.selection.choose_picture(picture_id)
        self.session.messages.announced.emit(
            f"{job.picture_by_id[picture_id].name} is in hand: give it a known length of its own"
        )


class DetailSlip(Slip):
    """What a detail is good for."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Scale of a detail",
            "A detail drawn larger than the rest becomes a picture of its own. Only it is resized by its known lengths.",
        )
        picture, self._picture = fact_row("In hand")
        self.add(picture)
        self.refresh()

    def refresh(self) -> None:
        name = self.session.selection.picture.name if self.session.selection.picture else "–"
        self._picture.setText(name if len(name) < 26 else f"{name[:24]}…")
