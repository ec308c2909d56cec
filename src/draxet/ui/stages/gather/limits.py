"""What the machine can reach, and how exact the work must be."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import ellipse
from draxet.job.findings import count_words
from draxet.job.limit_edits import OWN, limit_from, limit_moved, limit_resized
from draxet.job.picture_records import Exactness
from draxet.job.sheet_edits import set_setup
from draxet.job.sheet_records import Limit
from draxet.ui.controls.fields import Choice, WordField
from draxet.ui.controls.slip_parts import allow, button, field_row, label
from draxet.ui.model.session import Session
from draxet.ui.stages.gather.limit_tool import LimitTool
from draxet.ui.stages.purpose_choice import PurposeChoice
from draxet.ui.stages.slip import Slip

__all__ = ["LimitSlip"]


class LimitSlip(Slip):
    """The limit's shape and size, the smallest feature, and how exact the work must be."""

    def __init__(self, session: Session, tool: LimitTool) -> None:
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
        self.place_x, self.place_y = (
            self.length_field(f"Limit {name}", positive=False) for name in ("x", "y")
        )
        self.centre = button("Centre it on the sheet", "plain", self._centre)
        self._own = label("", "quiet", wrap=True)
        self.add(
            label("Limit"),
            self.shape,
            self._own,
            field_row("Name", self.name),
            field_row("Width", self.wide),
            field_row("Height", self.high),
            field_row("x of its lower left", self.place_x),
            field_row("y", self.place_y),
            self.centre,
        )
        self.go = button("Fit into the limit", "main", tool.fit)
        self.add(label("What is in hand fitted into it", "section"))
        self.asked = self.ask_of(tool)
        self.foot.add(self.go)
        self._tool = tool
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
        self.place_x.entered.connect(lambda mm: self._place(mm, None))
        self.place_y.entered.connect(lambda mm: self._place(None, mm))
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
            limit = limit_from(job, self.session.selection.ids)
            if limit is None:
                self.session.messages.refused.emit(
                    "Click a closed contour on the canvas (bring one in as SVG or DXF, or draw it); it becomes the limit."
                )
                self.refresh()
                return
        self.session.edit("set the limit", set_setup(job, limit=limit))

    def _place(self, x: float | None, y: float | None) -> None:
        if limit := self.session.job.limit:
            (ox, oy), sheet = self.session.job.sheet.origin_place, self.session.job.sheet
            x0, y0, *_ = limit.outline.box
            dx = 0.0 if x is None else x + ox - sheet.x - x0
            self._tool.put(
                "place the limit",
                limit_moved(limit, dx, 0.0 if y is None else y + oy - sheet.y - y0),
            )

    def _centre(self) -> None:
        if limit := self.session.job.limit:
            sheet, (x0, y0, x1, y1) = self.session.job.sheet, limit.outline.box
            dx, dy = (sheet.width - x0 - x1) / 2, (sheet.height - y0 - y1) / 2
            self._tool.put("centre the limit", limit_moved(limit, dx, dy))

    def _why_not(self) -> str:
        if self.session.job.limit is None:
            return "There is no limit yet"
        if self._tool.busy:
            return "Looking for the largest place …"
        return "" if self._tool.what.words else "Nothing is in hand: choose contours, or a picture"

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
            resized = limit_resized(limit, x, y)
            if _kind(limit) == "hoop":
                hoop = _outline("hoop", (x1 - x0) * x, (y1 - y0) * y)
                resized = replace(resized, outline=hoop.transformed(Affine.moved(x0, y0)))
            self._tool.put("set the limit", resized)

    def refresh(self) -> None:
        job, limit = self.session.job, self.session.job.limit
        self.shape.set_value(_kind(limit) if limit else "none")
        controls = (self.name, self.wide, self.high, self.place_x, self.place_y, self.centre)
        for control in controls:
            allow(control, limit, "there is no limit yet; choose its shape first")
        self._own.setText(_copied(limit))
        self._own.setVisible(bool(_copied(limit)))
        self.foot.offer(self.go, f"{self._tool.what.words} as large as it can be", self._why_not())
        self.asked.show_of(self._tool.settings)
        self.name.set_value(limit.name if limit else "")
        if limit:
            x0, y0, x1, y1 = limit.outline.box
            self.wide.set_value(x1 - x0)
            self.high.set_value(y1 - y0)
            (ox, oy), sheet = job.sheet.origin_place, job.sheet
            self.place_x.set_value(x0 + sheet.x - ox)
            self.place_y.set_value(y0 + sheet.y - oy)
        self.purpose.show_job(job)
        self.feature.set_value(job.smallest_feature)
        self.exact.set_value(job.exactness.value)
        self._tolerance.setText(
            f"Tracing, simplifying and checking hold {self.length(job.exactness.tolerance)}; nothing is spent beyond that."
        )


def _copied(limit: Limit | None) -> str:
    """What is said of a limit that a contour was taken for."""
    if limit is None or not (limit.holes or limit.name == OWN or _kind(limit) == "own"):
        return ""
    holes = f", with {count_words(len(limit.holes), 'hole')} kept clear" if limit.holes else ""
    return f"A copy of the contour, as it was{holes}. Click it again where it has changed."


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
