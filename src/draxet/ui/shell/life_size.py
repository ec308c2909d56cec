"""Life size: a millimetre of the job is one on the screen, once a card was held to it."""

from __future__ import annotations

import json
import math
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QDialog, QSlider, QVBoxLayout, QWidget

from draxet.ui.controls.slip_parts import button, label, side_by_side
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.units import format_number

__all__ = ["CARD_MM", "LifeSizePage", "keep_scale", "kept_scale", "scale_of_screen"]

CARD_MM = (85.6, 53.98)
"""A bank card: ISO/IEC 7810 ID-1."""
_LEAST, _MOST = 2.0, 12.0
"""Screen pixels a mm that a screen may have."""


def _file() -> Path:
    from platformdirs import user_config_path  # slow to load

    return Path(user_config_path("draxet")) / "screen.json"


def kept_scale() -> float | None:
    """Screen pixels a mm, as was found with a card; None where it was not yet, or what was kept is
    damaged."""
    try:
        scale = json.loads(_file().read_text())["pixels_a_mm"]
        return (
            float(scale)
            if isinstance(scale, int | float) and math.isfinite(scale) and _LEAST <= scale <= _MOST
            else None
        )
    except (OSError, ValueError, KeyError, TypeError):
        return None


def keep_scale(scale: float) -> None:
    """Keep it for the next times; where that cannot be written, it is asked for again."""
    try:
        _file().parent.mkdir(parents=True, exist_ok=True)
        _file().write_text(json.dumps({"pixels_a_mm": scale}))
    except OSError:
        return


class _Card(QWidget):
    """An outline as large as the slider says."""

    def __init__(self, scale: float) -> None:
        super().__init__()
        self.scale = scale

    def sizeHint(self) -> QSize:
        return QSize(round(CARD_MM[0] * _MOST / 2) + 20, round(CARD_MM[1] * _MOST / 2) + 20)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide, high = CARD_MM[0] * self.scale, CARD_MM[1] * self.scale
        painter.setPen(QPen(QColor(LIGHT.marking_blue), 1.6))
        painter.setBrush(QColor(LIGHT.sheet))
        painter.drawRoundedRect(QRectF(10, 10, wide, high), 3.2 * self.scale, 3.2 * self.scale)
        painter.setPen(QColor(LIGHT.quiet))
        painter.drawText(
            QRectF(10, 10, wide, high), Qt.AlignmentFlag.AlignCenter, "hold the card here"
        )
        painter.end()


class LifeSizePage(QDialog):
    """A card is held to the screen, and an outline made as large as it."""

    def __init__(self, scale: float, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Life size on the screen")
        self.card = _Card(scale)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Size of the outline")
        self.slider.setRange(round(_LEAST * 1000), round(_MOST / 2 * 1000))
        self.slider.setValue(round(scale * 1000))
        self.slider.valueChanged.connect(self._scaled)
        self._say_scale()
        rows = QVBoxLayout(self)
        rows.setContentsMargins(16, 16, 16, 16)
        rows.addWidget(
            label(
                "Hold a bank card flat to the screen, its corner in the upper left corner of the outline, and make the outline as large as the card.",
                "quiet",
                wrap=True,
            )
        )
        rows.addWidget(self.card, 1)
        rows.addWidget(self.slider)
        rows.addWidget(
            side_by_side(
                button("Take this size", "main", self.accept),
                button("Cancel", "plain", self.reject),
            )
        )
        self.setMinimumWidth(px(540))

    def _scaled(self, value: int) -> None:
        self.card.scale = value / 1000
        self._say_scale()
        self.card.update()

    def _say_scale(self) -> None:
        self.slider.setAccessibleDescription(f"{format_number(self.scale, 2)} pixels a mm")

    @property
    def scale(self) -> float:
        return self.card.scale


def scale_of_screen(parent: QWidget, ask: bool) -> float | None:
    """Pixels of the screen a mm: as it was told once, else (or where that is to be told again) by
    a card that is laid on it; None where that is given up."""
    scale, screen = kept_scale(), parent.screen()
    if scale is None or ask:
        told = screen.physicalDotsPerInch() if screen else 0.0
        page = LifeSizePage(scale or (told / 25.4 if 50 < told < 150 else 3.8), parent)
        if page.exec() != LifeSizePage.DialogCode.Accepted:
            return None
        scale = page.scale
        keep_scale(scale)
    return scale
