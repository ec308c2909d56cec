"""The one stylesheet, made from tokens, and the shipped typeface."""

from __future__ import annotations

import re
from pathlib import Path

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QPalette
from PyQt6.QtWidgets import QApplication

from draxet.ui.look.tokens import Tokens

__all__ = ["ASSETS", "dress", "face", "px"]

ASSETS = Path(__file__).resolve().parent.parent / "assets"
_FAMILY = "Barlow Semi Condensed"
_SCALE = "words-scale"
_USUAL_PX = 40 / 3
_MOST = 2.0


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
    app.setStyleSheet(
        re.sub(r"font-size: (\d+)px", lambda found: f"font-size: {px(int(found[1]))}px", _sheet(t))
    )


def _sheet(t: Tokens) -> str:
    tick, unfold = ((ASSETS / "icons" / f"{name}.svg").as_posix() for name in ("tick", "unfold"))
    return f"""
    QMainWindow, QDialog {{ background: {t.slip}; }}
    QMenuBar {{ background: {t.bar}; border-bottom: 1px solid {t.line}; padding: 0 8px; }}
    QMenuBar::item {{ padding: 5px 10px; background: transparent; }}
    QMenuBar::item:selected {{ background: {t.brass_wash}; }}
    QMenu {{ background: {t.field}; border: 1px solid {t.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 28px 5px 22px; }}
    QMenu::item:selected {{ background: {t.brass_wash}; color: {t.graphite}; }}
    QMenu::item:disabled {{ color: {t.quiet}; }}
    QMenu::separator {{ height: 1px; background: {t.line}; margin: 4px 8px; }}
    QToolTip {{ background: {t.dark_tag}; color: {t.card_text}; border: 0; padding: 4px 6px; }}

    #card {{ background: {t.marking_blue}; }}
    #card QScrollArea, #card-rows {{ background: transparent; }}
    #card QLabel {{ color: {t.card_text}; background: transparent; }}
    #card QLabel[part="title"] {{ font-size: 19px; font-weight: 600; }}
    #card QLabel[part="quiet"] {{ color: {t.card_quiet}; font-size: 14px; }}
    #card QLabel[part="note"] {{ color: {t.card_note}; font-size: 14px; }}
    #card QLabel[part="sound"] {{ color: {t.card_sound}; font-size: 14px; }}
    #card QLabel[part="stage"] {{ font-size: 16px; font-weight: 600; }}
    #card QScrollBar::handle:vertical {{ background: #6C85A3; }}
    #stage-row {{ border: 2px solid transparent; border-left: 3px solid transparent; border-bottom: 1px solid {t.card_line}; background: transparent; }}
    #stage-row[open="true"] {{ background: {t.card_open}; border-left: 3px solid {t.brass}; border-bottom: 0; }}
    #stage-row:focus {{ border: 2px solid {t.card_note}; border-radius: 3px; }}
    #tools {{ background: {t.card_open}; border-left: 3px solid {t.brass}; }}
    QPushButton[part="tool"] {{ color: {t.card_text}; background: transparent; border: 2px solid transparent; border-radius: 4px;
        text-align: left; padding: 3px 6px; font-size: 15px; }}
    QPushButton[part="tool"]:hover {{ background: {t.card_line}; }}
    QPushButton[part="tool"]:checked {{ background: #8F611A; color: #FFFFFF; font-weight: 500; }}
    QPushButton[part="tool"]:focus {{ border: 2px solid {t.card_note}; }}

    #top-line {{ background: {t.slip}; border-bottom: 1px solid {t.line}; }}
    #top-line QLabel[part="wait"] {{ font-size: 16px; font-weight: 600; }}
    #top-line QLabel[part="hint"] {{ color: {t.quiet}; font-size: 14px; }}
    #top-line QLabel[part="refusal"] {{ color: {t.coral_text}; font-size: 15px; font-weight: 500; }}
    #facts {{ background: {t.bar}; border-top: 1px solid {t.line}; }}
    #facts QLabel {{ background: transparent; font-size: 14px; color: {t.quiet}; }}
    QPushButton[part="fact"] {{ border: 1px solid transparent; border-radius: 3px; background: transparent; padding: 2px 4px; font-size: 15px; font-weight: 500; }}
    QPushButton[part="fact"]:hover {{ background: {t.brass_wash}; }}
    QPushButton[part="fact"][fault="true"] {{ color: {t.coral_text}; }}

    #first-page {{ background: {t.slip}; border: 1px solid {t.edge}; border-radius: 8px; }}
    #first-page QScrollArea, #first-page QScrollArea > QWidget > QWidget {{ background: transparent; }}
    #slip {{ background: {t.slip}; border-left: 1px solid {t.line}; }}
    QLabel[part="heading"] {{ font-size: 20px; font-weight: 600; }}
    QLabel[part="quiet"] {{ color: {t.quiet}; font-size: 14px; }}
    QLabel[part="section"] {{ font-size: 16px; font-weight: 600; }}
    QLabel[part="value"] {{ font-weight: 500; }}
    QLabel[part="sound"] {{ color: {t.moss_text}; font-weight: 500; }}
    QLabel[part="brass"] {{ color: {t.brass_text}; font-size: 14px; }}
    QLabel[part="fault"] {{ color: {t.coral_text}; font-size: 14px; font-weight: 500; }}
    QFrame[part="rule"] {{ background: {t.line}; max-height: 1px; min-height: 1px; border: 0; }}
    QLineEdit {{ background: {t.field}; border: 1px solid {t.edge}; border-radius: 4px; padding: 4px 8px; font-weight: 500; }}
    QLineEdit:disabled {{ background: {t.bar}; color: {t.quiet}; border-color: {t.line}; }}
    QLineEdit:focus {{ border: 2px solid {t.ring}; padding: 3px 7px; }}
    QLineEdit[fault="true"] {{ border: 2px solid {t.coral}; padding: 3px 7px; }}
    QPushButton[part="main"] {{ background: #94651D; color: #FFFFFF; border: 1px solid #94651D; border-radius: 4px; padding: 6px 12px; font-weight: 600; }}
    QPushButton[part="main"]:hover {{ background: {t.brass_text}; }}
    QPushButton[part="main"]:disabled {{ background: {t.bar}; color: {t.quiet}; border-color: {t.line}; }}
    QPushButton[part="plain"] {{ background: {t.slip}; border: 1px solid {t.edge}; border-radius: 4px; padding: 6px 12px; font-weight: 500; }}
    QPushButton[part="plain"]:hover {{ background: {t.brass_wash}; }}
    QPushButton[part="plain"]:disabled {{ color: {t.quiet}; border-color: {t.line}; }}
    QPushButton[part="main"]:focus {{ border: 3px solid {t.marking_blue}; padding: 4px 10px; }}
    QPushButton[part="plain"]:focus {{ border: 2px solid {t.ring}; padding: 5px 11px; }}
    QPushButton[part="choice"] {{ background: {t.field}; border: 1px solid {t.edge}; padding: 4px 8px; }}
    QPushButton[part="choice"]:checked {{ background: {t.marking_blue}; color: {t.card_text}; border-color: {t.marking_blue}; font-weight: 600; }}
    QPushButton[part="choice"]:focus {{ border: 3px solid {t.brass}; padding: 2px 6px; }}
    QPushButton[part="patch"] {{ background: {t.field}; border: 1px solid {t.edge}; padding: 0; border-radius: 3px; }}
    QPushButton[part="patch"]:checked, QPushButton[part="patch"]:focus {{ border: 3px solid {t.ring}; }}
    QPushButton[part="anchor"] {{ background: {t.field}; border: 1px solid {t.edge}; }}
    QPushButton[part="anchor"]:hover {{ background: {t.brass_wash}; }}
    QPushButton[part="anchor"]:checked {{ background: {t.marking_blue}; border-color: {t.marking_blue}; }}
    QPushButton[part="anchor"]:focus {{ border: 3px solid {t.brass}; }}
    QPushButton[opens="menu"] {{ padding-right: 24px; }}
    QPushButton[opens="menu"]:focus {{ padding-right: 23px; }}
    QPushButton::menu-indicator {{ subcontrol-position: right center; right: 8px; }}
    QPushButton[part="row"] {{ text-align: left; border: 2px solid transparent; border-radius: 4px; padding: 3px 7px; background: transparent; }}
    QPushButton[part="row"]:hover {{ background: {t.bar}; }}
    QPushButton[part="row"]:checked {{ background: {t.brass_wash}; }}
    QPushButton[part="row"]:focus {{ border: 2px solid {t.ring}; }}
    QPushButton[part="icon"] {{ border: 2px solid transparent; border-radius: 4px; background: transparent; padding: 1px; }}
    QPushButton[part="icon"]:hover {{ background: {t.brass_wash}; }}
    QPushButton[part="icon"]:focus {{ border: 2px solid {t.ring}; }}
    QSlider {{ min-height: 22px; }}
    QSlider::groove:horizontal {{ height: 4px; background: {t.edge}; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ height: 4px; background: {t.marking_blue}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ width: 14px; height: 14px; margin: -7px 0; border-radius: 8px; background: {t.field}; border: 2px solid {t.marking_blue}; }}
    QSlider::handle:horizontal:focus {{ background: {t.ring}; border-color: {t.ring}; }}
    QCheckBox {{ border: 2px solid transparent; border-radius: 4px; padding: 1px; margin-left: -3px; }}
    QCheckBox:focus {{ border: 2px solid {t.ring}; }}
    QCheckBox::indicator {{ width: 16px; height: 16px; border: 1px solid {t.edge}; border-radius: 3px; background: {t.field}; }}
    QCheckBox::indicator:checked {{ background: {t.marking_blue}; border-color: {t.marking_blue}; image: url({tick}); }}
    QProgressBar {{ border: 0; background: {t.line}; max-height: 6px; min-height: 6px; border-radius: 3px; }}
    QProgressBar::chunk {{ background: {t.brass}; border-radius: 3px; }}
    QScrollArea {{ border: 0; }}
    QScrollBar:vertical {{ width: 7px; background: transparent; }}
    QScrollBar::handle:vertical {{ background: {t.sheet_edge}; border-radius: 3px; min-height: 24px; }}
    QScrollBar:horizontal {{ height: 7px; background: transparent; }}
    QScrollBar::handle:horizontal {{ background: {t.sheet_edge}; border-radius: 3px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QComboBox {{ background: {t.field}; border: 1px solid {t.edge}; border-radius: 4px; padding: 4px 8px; }}
    QComboBox::drop-down {{ border: 0; width: 22px; }}
    QComboBox::down-arrow {{ image: url({unfold}); width: 14px; height: 14px; }}
    QComboBox:focus {{ border: 2px solid {t.ring}; padding: 3px 7px; }}
    QComboBox QAbstractItemView {{ background: {t.field}; selection-background-color: {t.brass_wash}; selection-color: {t.graphite}; }}
    QFileDialog QToolButton {{ border: 1px solid transparent; border-radius: 4px; padding: 4px; background: transparent; }}
    QFileDialog QToolButton:hover {{ background: {t.brass_wash}; }}
    QFileDialog QTreeView, QFileDialog QListView {{ background: {t.field}; border: 1px solid {t.line}; selection-background-color: {t.brass_wash}; selection-color: {t.graphite}; }}
    QHeaderView::section {{ background: {t.bar}; border: 0; border-bottom: 1px solid {t.line}; padding: 4px 8px; }}
    QPlainTextEdit {{ background: {t.field}; border: 1px solid {t.edge}; border-radius: 4px; padding: 4px 6px; color: {t.graphite}; font-size: 15px; selection-background-color: {t.brass_wash}; selection-color: {t.graphite}; }}
    QPlainTextEdit:focus {{ border: 2px solid {t.ring}; padding: 3px 5px; }}
    QListWidget {{ background: {t.field}; border: 1px solid {t.edge}; border-radius: 4px; padding: 4px; outline: 0; }}
    QListWidget:focus {{ border: 2px solid {t.ring}; padding: 3px; }}
    QListWidget::item {{ padding: 5px 8px; }}
    QListWidget::item:selected {{ background: {t.brass_wash}; color: {t.graphite}; border: 0; }}
    """
