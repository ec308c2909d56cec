"""What the machine can reach, and how exact the work must be."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import ellipse
from draxet.job.picture_records import Exactness
from draxet.job.sheet_edits import set_setup
from draxet.job.sheet_records import Limit
from draxet.ui.controls.fields import Choice, WordField
from draxet.ui.controls.slip_parts import field_row, label
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool
from draxet.ui.stages.purpose_choice import PurposeChoice
from draxet.ui.stages.slip import Slip

__all__ = ["LimitSlip"]


class LimitSlip(Slip):
    """The limit's shape and size, the smallest feature, and how exact the work must be."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session, "Limits", "What lies outside the limit is marked and listed in Prove."
        )
        self.shape = Choice(
            (("none", "none"), ("bed", "bed"), ("hoop", "hoop"), ("own", "contour")), "Limit"
        )
        self.shape.button("own").setToolTip(
            "the chosen closed contour is the limit: a hoop or frame of any shape"
        )
        self.name = WordField("Limit name", 60)
        self.wide, self.high = self.length_field("Limit width"), self.length_field("Limit height")
        self.feature = self.length_field("Smallest feature")
        self.exact = Choice(tuple((e.value, f"a {e.value}") for e in Exactness), "How exact")
        self._tolerance = label("", "quiet", wrap=True)
        self.add(
            label("Limit"),
            self.shape,
            field_row("Name", self.name),
            field_row("Width", self.wide),
            field_row("Height", self.high),
        )
        self.add(
            field_row("Smallest feature", self.feature, 110),
            label("Smaller ones are listed in Prove.", "quiet"),
        )
        self.purpose = PurposeChoice(session)
        self.add(label("This job is", "section"), self.purpose)
        self.add(label("How exact it must be", "section"), self.exact, self._tolerance)
        self._listen()
        self.refresh()

    def _listen(self) -> None:
        """Take what is entered."""
        session = self.session
        self.shape.chosen.connect(self._set_shape)
        self.name.entered.connect(
            lambda words: self._change_limit(name=words) if words else self.refresh()
        )
        self.wide.entered.connect(lambda mm: self._resize(width=mm))
        self.high.entered.connect(lambda mm: self._resize(height=mm))
        self.feature.entered.connect(
            lambda mm: session.edit(
                "set the smallest feature", set_setup(session.job, smallest_feature=mm)
            )
        )
        self.exact.chosen.connect(
            lambda key: session.edit(
                "set how exact the work must be", set_setup(session.job, exactness=Exactness(key))
            )
        )

    def _set_shape(self, key: str) -> None:
        job, sheet = self.session.job, self.session.job.sheet
        box = job.limit.outline.box if job.limit else (0.0, 0.0, sheet.width, sheet.height)
        limit: Limit | None = None
        if key in ("bed", "hoop"):
            limit = Limit(key, _outline(key, box[2], box[3]))
        elif key == "own":
            chosen = [item.contour for item in self.session.chosen() if item.contour.closed]
            if len(chosen) != 1:
                self.session.refused.emit(
                    "Choose one closed contour first (in Mend, or bring one in as SVG or DXF); it becomes the limit."
                )
                self.refresh()
                return
            limit = Limit("own outline", chosen[0].transformed(Affine.moved(-sheet.x, -sheet.y)))
        self.session.edit("set the limit", set_setup(job, limit=limit))

    def _change_limit(self, **changes: Any) -> None:
        if self.session.job.limit:
            self.session.edit(
                "set the limit",
                set_setup(self.session.job, limit=replace(self.session.job.limit, **changes)),
            )

    def _resize(self, width: float | None = None, height: float | None = None) -> None:
        limit = self.session.job.limit
        if limit:
            x0, y0, x1, y1 = limit.outline.box
            x, y = (width or x1 - x0) / (x1 - x0), (height or y1 - y0) / (y1 - y0)
            if _kind(limit) == "hoop":
                self._change_limit(outline=_outline("hoop", (x1 - x0) * x, (y1 - y0) * y))
            else:
                self._change_limit(outline=limit.outline.transformed(Affine.scaled(x, y)))

    def refresh(self) -> None:
        job, limit = self.session.job, self.session.job.limit
        self.shape.set_value(_kind(limit) if limit else "none")
        for control in (self.name, self.wide, self.high):
            control.setEnabled(limit is not None)
        self.name.set_value(limit.name if limit else "")
        if limit:
            x0, y0, x1, y1 = limit.outline.box
            self.wide.set_value(x1 - x0)
            self.high.set_value(y1 - y0)
        self.purpose.show_job(job)
        self.feature.set_value(job.smallest_feature)
        self.exact.set_value(job.exactness.value)
        self._tolerance.setText(
            f"Tracing, simplifying and checking hold {self.length(job.exactness.tolerance)}; nothing is spent beyond that."
        )


def _outline(kind: str, width: float, height: float) -> Contour:
    if kind == "bed":
        return Contour.make([(0, 0), (width, 0), (width, height), (0, height)])
    if abs(width - height) < 1e-9:
        return Contour.circle(width / 2, height / 2, width / 2)
    return ellipse(width / 2, height / 2, width / 2, height / 2)


def _kind(limit: Limit) -> str:
    outline = limit.outline
    if len(outline.nodes) == 4 and not outline.kinds.any():
        return "bed"
    return (
        "hoop"
        if outline.circle_shape or (len(outline.nodes) == 4 and (outline.kinds == 2).all())
        else "own"
    )
