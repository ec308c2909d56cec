"""The slip of every tool that draws: how it goes on, what is caught, and what was drawn last."""

from __future__ import annotations

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QCheckBox, QMenu, QPushButton

from draxet.geometry.catching import KINDS
from draxet.job.layout_counts import counted
from draxet.ui.controls.slip_parts import button, fact_row, label
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Tool
from draxet.ui.stages.caught import catch_settings
from draxet.ui.stages.colour_menu import ColourMenu, give_colour, take_colour
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.drawing_tool import SHAPES, draw_settings

__all__ = ["DrawingSlip"]

_ABOUT = {
    "Draw": "Straight runs, curves and arcs in one contour. Click the start to close it.",
    "Edge walk": "From click to click the contour keeps to the picture's line. Click the start to close it.",
    "Freehand": "A stroke is fitted as it ends; the next one goes on from it.",
    "Circle": "By its middle and radius, by two places across, or by three.",
    "Arc": "Both ends, then a place that it goes through.",
    "Ellipse": "Its middle and two half axes, its box, or places along its edge.",
    "Box": "By two corners, or its middle and a corner.",
    "Polygon": "Its middle and one corner.",
    "Slot": "The middles of both ends, and its width.",
}
_ASKED = {
    "Draw": ("by",),
    "Edge walk": ("walk",),
    "Circle": ("circle",),
    "Ellipse": ("ellipse",),
    "Box": ("box", "rounding"),
    "Polygon": ("sides",),
    "Freehand": ("smooth_px",),
}
"""The settings of each tool."""


class DrawingSlip(Slip):
    """Settings of the tool in hand; numbers are typed in the middle of the gesture."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, tool.title, _ABOUT[tool.title])
        self._tool, self.settings = tool, draw_settings(session)
        shapes = tool.title.lower() in dict(SHAPES)
        self.shape = self.ask(
            self.settings,
            lambda name, value, gesture: self.session.messages.tool_asked.emit(value),
            ("shape",) if shapes else (),
        )
        self.asked = self.ask(self.settings, self._set, _ASKED.get(tool.title, ()))
        self.colour = ColourMenu(session, "Colour", self._take, self._take_from_picture)
        self.add(self.colour)
        self.catch = QCheckBox("Catch places of what is drawn")
        self.catch.clicked.connect(self._catch)
        self.add(label("Catching", "section"), self.catch, self._kinds_button())
        drawn, self._drawn = fact_row("Contours")
        self.add(drawn)
        self.end = button("End it", "main", self._end)
        self.foot.add(self.end)
        self.end.setVisible(tool.title in ("Draw", "Edge walk"))
        self.refresh()

    def _take(self, colour: str) -> None:
        """What is drawn from now on, and what is chosen, has this colour."""
        self.settings.colour, self.settings.colour_of_picture = colour, False
        give_colour(self.session, colour)
        self.session.tool_changed.emit()
        self.session.messages.canvas_asked.emit()

    def _take_from_picture(self) -> None:
        self.settings.colour, self.settings.colour_of_picture = "", True
        take_colour(self.session)
        self.session.tool_changed.emit()
        self.session.messages.canvas_asked.emit()

    def _kinds_button(self) -> QPushButton:
        made = QPushButton("What is caught")
        made.setProperty("part", "plain")
        menu = QMenu(made)
        self._kinds: dict[str, QAction] = {}
        for kind in (*KINDS, "picture"):
            action = self._kinds[kind] = QAction(
                {"picture": "the picture's own lines"}.get(kind, kind), menu
            )
            action.setCheckable(True)
            action.triggered.connect(lambda on, kind=kind: self._switch(kind, on))
            menu.addAction(action)
        made.setMenu(menu)
        return made

    def _switch(self, kind: str, on: bool) -> None:
        catching = catch_settings(self.session)
        catching.off = (
            tuple(each for each in catching.off if each != kind) if on else (*catching.off, kind)
        )

    def _catch(self, on: bool) -> None:
        catch_settings(self.session).on = on

    def _set(self, name: str, value: object, gesture: object) -> None:
        setattr(self.settings, name, value)
        if isinstance(self._tool, GestureTool) and name in ("circle", "ellipse", "box", "walk"):
            self._tool.forget()  # another gesture
            self._tool.begin()
        self.session.tool_changed.emit()
        self.session.messages.canvas_asked.emit()

    def _end(self) -> None:
        if isinstance(self._tool, GestureTool) and self._tool.wants_key("Enter"):
            self._tool.key("Enter")

    def refresh(self) -> None:
        self.shape.show_of(self.settings)
        self.asked.show_of(self.settings)
        self.colour.show_colours({self.settings.colour})
        if self.settings.colour_of_picture:
            self.colour.setText("Colour: the picture's own")
        catching = catch_settings(self.session)
        self.catch.setChecked(catching.on)
        for kind, action in self._kinds.items():
            action.setChecked(kind not in catching.off)
        closed, opened = counted(self.session.job)
        self._drawn.setText(f"{closed} closed · {opened} open")
        ends = isinstance(self._tool, GestureTool) and bool(self._tool.want.ends)
        self.foot.offer(
            self.end,
            "Ends the line where it is; a click on its start closes it",
            "" if ends else "Nothing is begun that could be ended",
        )
