"""The one stylesheet, made from tokens, and the shipped typeface."""

from __future__ import annotations

import re
from pathlib import Path
from string import Template

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QPalette
from PyQt6.QtWidgets import QApplication

from draxet.ui.look.tokens import Tokens

__all__ = ["ASSETS", "dress", "face", "px"]

ASSETS = Path(__file__).resolve().parent.parent / "assets"
_FAMILY = "Barlow Semi Condensed"
_SCALE = "words-scale"
_USUAL_PX = 40 / 3
_MOST = 2.0
_GROWING = ("QSlider", "QCheckBox", "QScrollBar", "QProgressBar", "QRadioButton")


def px(size: float) -> int:
    """A size of the look (in pixels where the desktop's words are of the usual size) as large as
    the desktop's words are."""
    app = QApplication.instance()
    return round(size * ((app.property(_SCALE) if app else None) or 1.0))


def _scale_of_desktop() -> float:
    """How large the desktop's own words are against the usual 10 pt; never smaller than that."""
    return min(
        max(1.0, round(QFontInfo(QApplication.font()).pixelSize() / _USUAL_PX * 20) / 20), _MOST
    )


def face(pixels: int, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The typeface at a size, with figures of equal width."""
    font = QFont(_FAMILY)
    font.setPixelSize(px(pixels))
    font.setWeight(weight)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def dress(app: QApplication, t: Tokens, scale: float | None = None) -> None:
    """Give an application its typeface, palette and stylesheet.

    Parameters
    ----------
    scale : how large words and what holds them are, from 1; where not given, as the desktop has its
    own.
    """
    app.setProperty(_SCALE, _scale_of_desktop() if scale is None else scale)
    for file in sorted((ASSETS / "fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))
    app.setFont(face(15))
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, t.slip),
        (QPalette.ColorRole.Base, t.field),
        (QPalette.ColorRole.Text, t.graphite),
        (QPalette.ColorRole.WindowText, t.graphite),
        (QPalette.ColorRole.Button, t.slip),
        (QPalette.ColorRole.ButtonText, t.graphite),
        (QPalette.ColorRole.Highlight, t.marking_blue),
        (QPalette.ColorRole.HighlightedText, t.card_text),
        (QPalette.ColorRole.ToolTipBase, t.dark_tag),
        (QPalette.ColorRole.ToolTipText, t.card_text),
        (QPalette.ColorRole.PlaceholderText, t.quiet),
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)
    app.setStyleSheet("\n".join(_grown(line) for line in _sheet(t).splitlines()))


def _grown(rule: str) -> str:
    """A rule with its words, and what sliders, ticks and scroll bars are made of, as large as the
    desktop's words are; lines of a pixel or two stay so."""
    if rule.startswith(_GROWING):
        return re.sub(r"(\d+)px", lambda found: f"{_grow(int(found[1]))}px", rule)
    return re.sub(r"font-size: (\d+)px", lambda found: f"font-size: {px(int(found[1]))}px", rule)


def _grow(size: int) -> int:
    return px(size) if size > 2 else size


def _sheet(t: Tokens) -> str:
    names: dict[str, str] = dict(vars(t))
    for name in ("tick", "unfold"):
        names[name] = (ASSETS / "icons" / f"{name}.svg").as_posix()
    return Template((ASSETS / "look.qss").read_text(encoding="utf-8")).substitute(names)
