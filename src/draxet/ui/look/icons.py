"""Our own line icons, drawn on a 20 px grid."""

from __future__ import annotations

from PyQt6.QtCore import QByteArray, QRectF, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer

__all__ = ["DRAWINGS", "icon", "pixmap", "swatch"]

DRAWINGS: dict[str, str] = {
    "picture": '<path d="M3 4h14v12H3z"/><path d="M5 14l4-5 3 3 2-2 2 4"/>',
    "paste": '<path d="M5 4h10v13H5z"/><path d="M8 2.5h4v3H8z"/><path d="M8 10h4M8 13h4"/>',
    "move": '<path d="M10 3v14M3 10h14"/><path d="M8 5l2-2 2 2M8 15l2 2 2-2M5 8l-2 2 2 2M15 8l2 2-2 2"/>',
    "prepare": '<circle cx="10" cy="10" r="6"/><path d="M10 4v12M10 7h4.5M10 10h6M10 13h4.5"/>',
    "level": '<path d="M3 12.5l14-5"/><path d="M3 15h14"/><circle cx="10" cy="10" r="1.4"/>',
    "length": '<path d="M3 6v8M17 6v8M3 10h14"/><path d="M6 8l-3 2 3 2M14 8l3 2-3 2"/>',
    "lengths": '<path d="M3 4v5M17 4v5M3 6.5h14"/><path d="M4 12l9 5M4.8 10.6l-1.6 2.8M13.8 15.6l-1.6 2.8"/>',
    "square": '<path d="M4 15L6 5l8-1.5L17 13z"/><path d="M4 15h3M4 15l.6-3M17 13l-3 .6M14 3.5l.8 3"/>',
    "measure": '<path d="M3 13L13 3l4 4L7 17z"/><path d="M7 9l1.5 1.5M9.5 6.5L12 9M12 4l1.5 1.5"/>',
    "edges": '<path d="M4 13c0-6 3-9 7-8s6 5 4 8-11 6-11 0z"/><path d="M7.5 12c0-3 2-5 4-4"/>',
    "middles": '<path d="M3 14c3-8 6 2 8-4s4-5 6-6" stroke-width="4" opacity=".35"/><path d="M3 14c3-8 6 2 8-4s4-5 6-6"/>',
    "colours": '<path d="M3 3h7v7H3z"/><path d="M10 7h7v10H6v-7"/><path d="M10 10v-3"/>',
    "near": '<path d="M3 13c4-8 9-8 14-4"/><circle cx="6" cy="9" r="1"/><circle cx="11" cy="8" r="1.8"/><circle cx="15.5" cy="11" r="2.4"/>',
    "pick": '<path d="M5 3l9 7-4 .8 2.4 4.6-1.8.9-2.3-4.6L5 14z"/>',
    "ends": '<path d="M3 13c2-6 5-7 6-3"/><circle cx="13.5" cy="11" r="3" stroke-dasharray="6 3"/>',
    "cut": '<path d="M4 4h12v12H4z"/><path d="M7 7h6v6H7z" stroke-dasharray="2 1.6"/>',
    "handoff": '<path d="M4 9v8h12V9"/><path d="M10 12V3M7 6l3-3 3 3"/>',
    "eye": '<path d="M2.5 10c4-6 11-6 15 0-4 6-11 6-15 0z"/><circle cx="10" cy="10" r="2.4"/>',
    "eye-off": '<path d="M2.5 10c4-6 11-6 15 0-4 6-11 6-15 0z"/><path d="M4 16L16 4"/>',
    "tick": '<path d="M4 10.5l4 4 8-9" stroke-width="2"/>',
    "fault": '<path d="M10 3l7.5 13.5h-15z"/><path d="M10 8v4M10 14v.5"/>',
    "warn": '<circle cx="10" cy="10" r="7"/><path d="M10 6v5M10 13.5v.5"/>',
    "note": '<circle cx="10" cy="10" r="7"/><path d="M10 9.5v4.5M10 6.2v.3"/>',
    "up": '<path d="M5 12l5-5 5 5"/>',
    "back": '<path d="M12 5l-5 5 5 5"/>',
    "onward": '<path d="M8 5l5 5-5 5"/>',
    "folder": '<path d="M3 16V5h5l1.5 2H17v9z"/>',
    "camera": '<path d="M3 6h3l1.5-2h5L14 6h3v10H3z"/><circle cx="10" cy="11" r="3"/>',
    "crop": '<path d="M6 2v12h12"/><path d="M2 6h12v12"/>',
    "cover": '<path d="M3 3h14v14H3z" stroke-dasharray="2 2"/><path d="M6 8l8-2v7l-8 2z"/>',
    "sheet": '<path d="M3 6l10-3 4 4-10 10-4-5z"/><path d="M6 15l-2-4"/>',
    "limit": '<path d="M3 3h14v14H3z" stroke-dasharray="3 2"/><path d="M10 6v8M6 10h8"/>',
    "match": '<circle cx="5" cy="6" r="2"/><circle cx="15" cy="14" r="2"/><path d="M6.5 7.5l7 5M10 13l3.5-.5-.5-3.5"/>',
    "scale": '<path d="M3 15h14M3 15v-3M7 15v-2M11 15v-2M15 15v-3"/><path d="M5 9l2-5M13 9l2-5M9 5.5v.1M9 8.5v.1"/>',
    "region": '<path d="M3 3h14v14H3z" stroke-dasharray="2 2"/><path d="M9 9h8v8H9z"/>',
    "fixed": '<path d="M4 9h12v8H4z"/><path d="M7 9V6a3 3 0 0 1 6 0v3"/>',
    "draw": '<path d="M3 16l5-9 4 3 5-7"/><circle cx="3" cy="16" r="1.3"/><circle cx="8" cy="7" r="1.3"/><circle cx="12" cy="10" r="1.3"/>',
    "freehand": '<path d="M3 15c1-7 4-9 5-5s-2 5 1 4 3-8 8-9"/>',
    "arc": '<path d="M3 15A11 11 0 0 1 17 6"/><circle cx="3" cy="15" r="1.3"/><circle cx="17" cy="6" r="1.3"/>',
    "circle": '<circle cx="10" cy="10" r="7"/><path d="M10 10l5-5"/><circle cx="10" cy="10" r=".8"/>',
    "ellipse": '<ellipse cx="10" cy="10" rx="8" ry="4.6"/><path d="M10 10h8"/>',
    "box": '<path d="M3.5 5.5h13v9h-13z"/><circle cx="3.5" cy="14.5" r="1.2"/><circle cx="16.5" cy="5.5" r="1.2"/>',
    "polygon": '<path d="M10 3l6.3 4.6-2.4 7.4H6.1L3.7 7.6z"/>',
    "slot": '<path d="M6 6h8a4 4 0 0 1 0 8H6a4 4 0 0 1 0-8z"/><path d="M6 10h8"/>',
    "mirror": '<path d="M10 2v16" stroke-dasharray="2 2"/><path d="M7.5 5L3 14h4.5zM12.5 5l4.5 9h-4.5z"/>',
    "turn": '<path d="M15.5 12.5A6.5 6.5 0 1 1 15 6"/><path d="M16.5 3v4h-4"/><circle cx="10" cy="10" r="1"/>',
    "ring": '<circle cx="10" cy="3.8" r="1.8"/><circle cx="15.4" cy="7" r="1.8"/><circle cx="15.4" cy="13" r="1.8"/><circle cx="10" cy="16.2" r="1.8"/><circle cx="4.6" cy="13" r="1.8"/><circle cx="4.6" cy="7" r="1.8"/>',
    "walk": '<path d="M3 14c2-8 6-3 8-7s3-4 6-4" opacity=".4" stroke-width="3.5"/><path d="M3 14c2-8 6-3 8-7"/><circle cx="3" cy="14" r="1.4"/><circle cx="11" cy="7" r="1.4"/>',
    "guide": '<path d="M2 14L18 6" stroke-dasharray="3 2"/><path d="M3 3v14M3 3h14" opacity=".5"/>',
    "clean": '<path d="M3 13h6M11 13h6" /><path d="M8 10.5l1.5 2.5L8 15.500M12 10.500l-1.500 2.500 1.500 2.500"/><path d="M13 3l1 2 2 1-2 1-1 2-1-2-2-1 2-1z"/>',
    "regions": '<circle cx="7.500" cy="10" r="5.500"/><circle cx="12.500" cy="10" r="5.500"/><path d="M10 6.500v7M8.800 8v4M11.200 8v4"/>',
    "offset": '<path d="M3 3h14v14H3z"/><path d="M6.500 6.500h7v7h-7z" stroke-dasharray="2 1.500"/>',
    "falls": '<path d="M3 3h14v5h-3.500"/><path d="M3 3v14h3"/><path d="M9 8v5M7 11l2 2.500 2-2.500"/><path d="M6.500 15.500h5v2h-5z"/>',
    "text": '<path d="M3 15.500L7 5l4 10.500M4.400 12h5.200"/><path d="M12 17.500h6" stroke-dasharray="2 1.500"/><path d="M17 9.500v6M17 12.500a2.500 2.500 0 1 1-5 0 2.500 2.500 0 0 1 5 0z"/>',
    "bridge": '<path d="M3 4v12M17 4v12" opacity=".6"/><path d="M3 8.500h14M3 11.500h14"/>',
    "arrange": '<path d="M3 9h6v8H3z"/><path d="M11 3h6v6h-6z" stroke-dasharray="2 1.500"/><path d="M9 9l2-2M13 12.500a4 4 0 0 1-3 3.500"/>',
    "score": '<path d="M3 3h14v14H3z" opacity=".5"/><path d="M6 13l8-6" stroke-dasharray="2 1.500"/>',
    "engrave": '<path d="M3 3h14v14H3z"/><path d="M5 6h10M5 9h10M5 12h10M5 15h10" opacity=".8"/>',
    "pocket": '<path d="M3 3h14v14H3z"/><path d="M6 6h8v8H6z"/><path d="M8.500 8.500h3v3h-3z"/>',
    "drill": '<circle cx="10" cy="10" r="6.500"/><path d="M10 2v5M10 13v5M2 10h5M13 10h5"/>',
    "rehearse": '<circle cx="10" cy="10" r="7"/><path d="M8.300 7l4.700 3-4.700 3z"/>',
    "spots": '<path d="M4 15V5h12v10"/><path d="M4 15h4M12 15h4"/><path d="M8 12.5v5M12 12.5v5"/><circle cx="10" cy="5" r="1.8"/>',
    "order": '<path d="M4 4h5v5H4zM11 11h5v5h-5z"/><path d="M11 6.500h4v3"/><path d="M13.500 8l1.500 1.500L16.500 8"/>',
    "fit": '<path d="M3 16V7h4V4h6v3h4v9z"/><path d="M7 16v-5h6v5"/>',
    "machine": '<path d="M2.500 17h15M4 17V6h12v11"/><path d="M4 9h12M10 9v3.500M8.500 12.500h3"/>',
    "pen": '<path d="M4 16l1-4 8-8 3 3-8 8z"/><path d="M11 6l3 3"/>',
    "free": '<path d="M4 9h12v8H4z"/><path d="M7 9V6a3 3 0 0 1 5.6-1.5"/>',
    "shapes": '<circle cx="7" cy="7" r="4.5"/><path d="M9 10h8v7H9z"/>',
    "point": '<path d="M10 3v4.5M10 12.5V17M3 10h4.5M12.5 10H17"/>',
    "construct": '<path d="M2 16h16" opacity=".5"/><circle cx="4" cy="16" r="1.2"/><circle cx="16" cy="16" r="1.2"/><path d="M10 4v12M8 6l2-2 2 2"/>',
    "symmetry": '<path d="M10 2v16" stroke-dasharray="3 2"/><path d="M8 6C4 6 3 10 4 14l4-2"/><path d="M12 6c4 0 5 4 4 8l-4-2" stroke-dasharray="2 1.5"/>',
    "shift": '<path d="M3 8h7v8H3z" opacity=".6"/><path d="M11 4h6v6M17 4l-6 6"/>',
    "size": '<path d="M3 17V9h8v8z"/><path d="M3 3h14v14" stroke-dasharray="2 2"/><path d="M12 8l4-4M13 4h3v3"/>',
    "trim": '<path d="M3 6c5 0 9 3 14 8"/><path d="M4 16L16 4" opacity=".5"/><path d="M12.5 13.5l1-3.5M9 16.5l3-2"/>',
    "brush": '<path d="M3 12c2-5 3 1 5-3s3 2 4-1 3-1 5-2" opacity=".5"/><circle cx="9" cy="10" r="6" stroke-dasharray="2 2"/><path d="M4 14c4-4 7-5 13-7"/>',
    "true": '<path d="M4 16V5h11"/><path d="M4 8.5h3.5V5"/><path d="M9 13l2.5 2.5L17 9"/>',
    "align": '<path d="M3 2v16"/><path d="M5 4h11v4H5zM5 11h6v4H5z"/>',
    "raise": '<path d="M2.500 13.500L10 17l7.500-3.500"/><path d="M2.500 13.500L6 12M17.500 13.500L14 12"/><path d="M6 6.500L10 8.500l4-2L10 4.500zM6 6.500v5.500l4 2 4-2V6.500M10 8.500V14"/>',
    "turned": '<path d="M10 2v16" stroke-dasharray="3 2"/><path d="M10 3.500h3l-1 5 3.500 2.500v3H10"/><path d="M10 3.500H7l1 5L4.500 11v3H10" opacity=".6"/>',
    "bodies": '<path d="M3 6.500L10 10l7-3.500L10 3zM3 6.500v7L10 17l7-3.500v-7M10 10v7"/>',
    "stitch": '<path d="M4 16L16 4"/><path d="M13 4h3v3"/><path d="M3 9c3 0 3 3 6 3s3 3 6 3" stroke-dasharray="3 1.5"/>',
    "remove": '<path d="M5 5l10 10M15 5L5 15"/>',
}


def pixmap(name: str, colour: str, size: int = 20, ratio: float = 2.0) -> QPixmap:
    """An icon in one colour."""
    drawing = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20"><g fill="none" stroke="{colour}" stroke-width="1.5" '
        f'stroke-linecap="round" stroke-linejoin="round">{DRAWINGS[name]}</g></svg>'
    )
    picture = QPixmap(round(size * ratio), round(size * ratio))
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    QSvgRenderer(QByteArray(drawing.encode())).render(painter, QRectF(picture.rect()))
    painter.end()
    picture.setDevicePixelRatio(ratio)
    return picture


def icon(name: str, colour: str) -> QIcon:
    return QIcon(pixmap(name, colour))


def swatch(colour: str) -> QIcon:
    """A patch of a colour (#rrggbb); an empty one for none."""
    made = QPixmap(16, 16)
    made.fill(QColor(0, 0, 0, 0))
    painter = QPainter(made)
    painter.setPen(QColor("#63666A"))
    painter.setBrush(QColor(colour) if colour else Qt.BrushStyle.NoBrush)
    painter.drawRect(1, 1, 13, 13)
    painter.end()
    return QIcon(made)
