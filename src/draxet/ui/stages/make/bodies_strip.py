"""The strip above the bodies: from where they are seen, where they are cut open, and whether the picture
lies on them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from draxet.make.solids.solid_view import VIEWS
from draxet.ui.controls.fields import Choice, Field
from draxet.ui.look.style import px
from draxet.ui.model.session import Session
from draxet.ui.stages.make.bodies_scene import AXES, BodiesSeen
from draxet.units import format_length, parse_length

__all__ = ["BodiesStrip"]

_SLIDER = 1000


class BodiesStrip(QWidget):
    """Tells how bodies are asked to be seen (a ``BodiesSeen``); from which side, `views` tells."""

    asked = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._so, self._extent = session, BodiesSeen(), (0.0, 1.0)
        self.setObjectName("bodies-strip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.views = Choice([(name, name.capitalize()) for name in VIEWS], "Seen from")
        self.cut = Choice(
            [("", "Whole"), ("x", "Cut across"), ("y", "Cut along"), ("level", "Cut level")],
            "Cut open",
        )
        self.cut.chosen.connect(lambda key: self._ask(cut=key))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, _SLIDER)
        self.slider.setAccessibleName("Where they are cut open")
        self.slider.valueChanged.connect(lambda value: self._ask(at=value / _SLIDER))
        self.place = Field(self._read_place, self._place_words, "Where they are cut open")
        self.place.setFixedWidth(px(96))
        self.place.refused.connect(session.messages.refused)
        self.place.entered.connect(lambda mm: self._ask(at=self._share_of(mm)))
        self.picture = QCheckBox("Picture")
        self.picture.setToolTip("The picture on the top of the base, or on the ground beneath")
        self.picture.clicked.connect(lambda on: self._ask(picture=on))
        rows = QVBoxLayout(self)
        rows.setContentsMargins(12, 8, 12, 8)
        rows.setSpacing(6)
        for widgets in ((self.views, self.picture), (self.cut, self.slider, self.place)):
            row = QHBoxLayout()
            row.setSpacing(12)
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
            rows.addLayout(row)

    def _ask(self, **changes: Any) -> None:
        self.asked.emit(replace(self._so, **changes))

    def show_so(
        self,
        so: BodiesSeen,
        box: tuple[tuple[float, ...], tuple[float, ...]] | None,
    ) -> None:
        """Show how bodies that reach so far are seen."""
        self._so, self._extent = so, (0.0, 1.0)
        if box is not None and so.cut:
            axis = AXES.index(so.cut)
            self._extent = box[0][axis], box[1][axis]
        self.views.set_value(
            next((name for name, way in VIEWS.items() if way == (so.turned, so.above)), "none")
        )
        self.cut.set_value(so.cut)
        for part in (self.slider, self.place):
            part.setVisible(bool(so.cut))
        with QSignalBlocker(self.slider):
            self.slider.setValue(round(so.at * _SLIDER))
        low, high = self._extent
        self.place.set_value(low + so.at * (high - low))
        self.slider.setAccessibleDescription(self.place.text())
        self.picture.setChecked(so.picture)
        self.picture.setVisible(bool(self._session.job.pictures))

    def _read_place(self, text: str) -> float:
        unit = self._session.job.unit
        mm = parse_length(text, unit, positive=False, what="Cut at")
        low, high = self._extent
        if not low <= mm <= high:
            raise ValueError(
                f"Cut at must be from {format_length(low, unit)} to {format_length(high, unit)}, got {text.strip()[:40]!r}"
            )
        return mm

    def _place_words(self, mm: float) -> str:
        return format_length(mm, self._session.job.unit, places=2)

    def _share_of(self, mm: float) -> float:
        low, high = self._extent
        return min(max((mm - low) / max(high - low, 1e-9), 0.0), 1.0)
