"""The slip of every tool that draws: how it goes on, what is caught, and what was drawn last."""

from __future__ import annotations

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QCheckBox, QMenu, QPushButton, QWidget

from draxet.geometry.catching import KINDS
from draxet.ui.canvas.tool import Tool
from draxet.ui.shell.fields import Choice, SliderField, button, fact_row, field_row, label
from draxet.ui.shell.session import Session
from draxet.ui.stages.gesture import GestureTool, catch_settings
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.drawing import draw_settings

__all__ = ["DrawingSlip"]

_ABOUT = {
    "Draw": "Straight runs, curves and arcs in one contour. Click the start to close it.",
    "Edge walk": "From click to click the contour keeps to the picture's line. Click the start to close it.",
    "Freehand": "A stroke is fitted as it ends; the next one goes on from it.",
    "Circle": "By its middle and radius, or by three places.",
    "Arc": "Both ends, then a place that it goes through.",
    "Ellipse": "Its middle, one half axis, and how far it reaches across.",
    "Box": "By two corners, or its middle and a corner.",
    "Polygon": "Its middle and one corner.",
    "Slot": "The middles of both ends, and its width.",
}


class DrawingSlip(Slip):
    """Settings of the tool in hand; numbers are typed in the middle of the gesture."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, tool.title, _ABOUT[tool.title])
        self._tool, self.settings = tool, draw_settings(session)
        self._choices: dict[str, Choice] = {}
        for title, name, options in (
            ("Draw", "by", (("line", "straight"), ("curve", "curve"), ("arc", "arc"))),
            ("Edge walk", "walk", (("edges", "the edge"), ("middles", "the stroke's middle"))),
            ("Circle", "circle", (("middle", "by its middle"), ("three", "three places"))),
            ("Box", "box", (("corner", "from a corner"), ("middle", "from its middle"))),
        ):
            if tool.title == title:
                self.add(self._choice(name, options))
        self._fields()
        self.catch = QCheckBox("Catch places of what is drawn")
        self.catch.clicked.connect(self._catch)
        self.add(label("Catching", "section"), self.catch, self._kinds_button())
        drawn, self._drawn = fact_row("Contours")
        self.add(drawn)
        self.end = button("End it", "main", self._end)
        self.add(self.end)
        self.end.setVisible(tool.title in ("Draw", "Edge walk"))
        self.refresh()

    def _choice(self, name: str, options: tuple[tuple[str, str], ...]) -> Choice:
        made = self._choices[name] = Choice(options, name.capitalize())
        made.chosen.connect(lambda key: self._set(name, key))
        return made

    def _fields(self) -> None:
        self.rounding = self.length_field("Rounding", positive=False)
        self.rounding.entered.connect(lambda mm: self._set("rounding", max(mm, 0.0)))
        self.sides = SliderField(3, 24, "Sides")
        self.sides.moved.connect(lambda value: self._set("sides", int(value)))
        self.smooth = SliderField(1, 20, "Smoothing", " px")
        self.smooth.moved.connect(lambda value: self._set("smooth_px", value))
        shown: dict[str, tuple[QWidget, ...]] = {
            "Box": (field_row("Rounding", self.rounding),), "Polygon": (label("Sides"), self.sides), "Freehand": (label("Smoothing"), self.smooth),
        }  # fmt: skip
        for title, widgets in shown.items():
            self.add(*widgets)
            for widget in widgets:
                widget.setVisible(title == self._tool.title)
        for field in (self.sides.field, self.smooth.field):
            field.refused.connect(self.session.refused)

    def _kinds_button(self) -> QPushButton:
        made = QPushButton("What is caught")
        made.setProperty("part", "plain")
        menu = QMenu(made)
        self._kinds: dict[str, QAction] = {}
        for kind in (*KINDS, "picture"):
            action = self._kinds[kind] = QAction({"picture": "the picture's own lines"}.get(kind, kind), menu)
            action.setCheckable(True)
            action.triggered.connect(lambda on, kind=kind: self._switch(kind, on))
            menu.addAction(action)
        made.setMenu(menu)
        return made

    def _switch(self, kind: str, on: bool) -> None:
        catching = catch_settings(self.session)
        catching.off = tuple(each for each in catching.off if each != kind) if on else (*catching.off, kind)

    def _catch(self, on: bool) -> None:
        catch_settings(self.session).on = on

    def _set(self, name: str, value: object) -> None:
        setattr(self.settings, name, value)
        if isinstance(self._tool, GestureTool) and name in ("circle", "box", "walk"):
            self._tool.forget()  # another gesture
            self._tool.begin()
        self.session.tool_changed.emit()
        self.session.canvas_asked.emit()

    def _end(self) -> None:
        if isinstance(self._tool, GestureTool) and self._tool.wants_key("Enter"):
            self._tool.key("Enter")

    def refresh(self) -> None:
        for name, choice in self._choices.items():
            choice.set_value(getattr(self.settings, name))
        self.rounding.set_value(self.settings.rounding)
        self.sides.set_value(self.settings.sides)
        self.smooth.set_value(self.settings.smooth_px)
        catching = catch_settings(self.session)
        self.catch.setChecked(catching.on)
        for kind, action in self._kinds.items():
            action.setChecked(kind not in catching.off)
        opened = sum(not item.contour.closed for item in self.session.job.contours)
        self._drawn.setText(f"{len(self.session.job.contours) - opened} closed · {opened} open")
        self.end.setEnabled(isinstance(self._tool, GestureTool) and bool(self._tool.want.ends))
