"""Paints a tool's marks over the work."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from draxet.geometry.affine import Affine
from draxet.ui.canvas.chunks import path_of, transform_of
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.style import face
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.tool import (
    FRAME_ARM,
    FRAME_ASIDE,
    AreaMark,
    ArrowMark,
    BoxMark,
    ContourMark,
    CrossMark,
    FrameMark,
    LineMark,
    MagnifierMark,
    MapMark,
    Mark,
    SignMark,
    StartMark,
    TagMark,
)

__all__ = [
    "area_colour",
    "contour_pens",
    "paint_marks",
    "paint_signs",
    "paint_steered",
]

_LENS = 66
_LENS_ZOOM = 4.0

PaintPicture = Callable[[QPainter, Camera, QRectF], None]


def paint_marks(
    painter: QPainter,
    marks: Sequence[Mark],
    camera: Camera,
    size: tuple[int, int],
    t: Tokens,
    picture: PaintPicture,
) -> None:
    """Paint marks in their order; `picture` paints the pictures as seen by another camera, for the
    magnifier."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def seen(x: float, y: float) -> QPointF:
        return QPointF(*camera.view(x, y))

    for mark in marks:
        match mark:
            case LineMark():
                _line(painter, seen(mark.x0, mark.y0), seen(mark.x1, mark.y1), mark, t)
            case ArrowMark():
                _arrow(painter, seen(mark.x0, mark.y0), seen(mark.x1, mark.y1), mark, t)
            case CrossMark():
                _cross(painter, seen(mark.x, mark.y), mark.directions, t)
            case TagMark():
                _tag(painter, camera.view(mark.x, mark.y), mark, size, t)
            case SignMark():
                _sign(painter, seen(mark.x, mark.y), mark, t)
            case StartMark():
                _start(painter, seen(mark.x, mark.y), mark.direction, t)
            case BoxMark():
                _box(painter, seen(mark.x0, mark.y0), seen(mark.x1, mark.y1), t)
            case FrameMark():
                _frame(painter, seen(*mark.box[:2]), seen(*mark.box[2:]), mark, t)
            case ContourMark():
                _contours(painter, mark, camera, t)
            case AreaMark():
                _area(painter, mark, camera)
            case MapMark():
                _map(painter, mark, camera, size, t)
            case MagnifierMark():
                _magnifier(painter, mark, camera, size, t, picture)
    painter.restore()


def _line(painter: QPainter, begin: QPointF, end: QPointF, mark: LineMark, t: Tokens) -> None:
    colour = {"fault": t.coral, "note": t.quiet, "guide": t.moss}.get(mark.manner, t.brass)
    dashes = Qt.PenStyle.DashDotLine if mark.manner == "guide" else Qt.PenStyle.SolidLine
    width = {"note": 1.3, "guide": 1.2}.get(mark.manner, 2.0)
    painter.setPen(QPen(QColor(colour), width, dashes))
    painter.drawLine(begin, end)


def paint_signs(
    painter: QPainter, marks: Sequence[CrossMark | SignMark], camera: Camera, t: Tokens
) -> None:
    """Paint some of many signs."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for mark in marks:
        at = QPointF(*camera.view(mark.x, mark.y))
        _cross(painter, at, mark.directions, t) if isinstance(mark, CrossMark) else _sign(
            painter, at, mark, t
        )
    painter.restore()


def _arrow(painter: QPainter, a: QPointF, b: QPointF, mark: ArrowMark, t: Tokens) -> None:
    colour = QColor(t.coral_text if mark.manner == "fault" else t.brass_text)
    painter.setPen(QPen(colour, 2.2))
    painter.drawLine(a, b)
    size = float(np.hypot(b.x() - a.x(), b.y() - a.y()))
    if size > 3:
        along = (b - a) / size
        square = QPointF(-along.y(), along.x())
        painter.setBrush(colour)
        painter.drawPolygon(
            QPolygonF([b, b - along * 8 + square * 3.5, b - along * 8 - square * 3.5])
        )
    if mark.words:
        painter.setFont(face(14, face(14).Weight.DemiBold))
        painter.drawText(b + QPointF(8, -6), mark.words)


def _cross(painter: QPainter, at: QPointF, directions: Sequence[float], t: Tokens) -> None:
    painter.setPen(QPen(QColor(t.brass), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(at, 6, 6)
    for angle in directions or (0.0, np.pi / 2):
        step = QPointF(float(np.cos(angle)), -float(np.sin(angle)))
        painter.drawLine(at - step * 13, at - step * 3)
        painter.drawLine(at + step * 3, at + step * 13)


def _tag(
    painter: QPainter, at: tuple[float, float], mark: TagMark, size: tuple[int, int], t: Tokens
) -> None:
    words, note = mark.words, mark.manner == "note"
    painter.setFont(face(14) if note else face(15, face(15).Weight.DemiBold))
    wide = painter.fontMetrics().horizontalAdvance(words) + 20
    left = min(max(at[0] - wide / 2, 24.0), size[0] - wide - 4.0)
    top = min(max(at[1] + 14.0, 24.0), size[1] - 30.0)
    box = QRectF(left, top, wide, 24 if note else 26)
    painter.setPen(QPen(QColor(t.quiet), 1) if note else Qt.PenStyle.NoPen)
    painter.setBrush(QColor(t.field if note else t.dark_tag))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(QColor(t.graphite if note else t.card_text))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


_STROKES = {
    "point": (
        (-7.0, 0.0, -2.5, 0.0),
        (2.5, 0.0, 7.0, 0.0),
        (0.0, -7.0, 0.0, -2.5),
        (0.0, 2.5, 0.0, 7.0),
    ),
    "falls": ((0.0, -5.0, 0.0, 4.0), (-3.5, 0.5, 0.0, 4.0), (3.5, 0.5, 0.0, 4.0)),
    "thin": (
        (-7.0, -3.5, -2.5, 0.0),
        (-7.0, 3.5, -2.5, 0.0),
        (7.0, -3.5, 2.5, 0.0),
        (7.0, 3.5, 2.5, 0.0),
    ),
    "tab": ((-3.5, -5.0, -3.5, 5.0), (3.5, -5.0, 3.5, 5.0)),
    "bridge": ((-6.5, -2.0, 6.5, -2.0), (-4.0, -2.0, -4.0, 4.0), (4.0, -2.0, 4.0, 4.0)),
}
"""Signs of strokes, in pixels: a plus whose middle is left free, an arrow downwards, two heads that
face each other, two cheeks that hold, a little beam on two supports."""
_STROKE_WIDTHS = {
    "point": (1.8, 1.8, 4.0),
    "falls": (1.6, 1.6, 3.6),
    "thin": (1.6, 1.6, 3.6),
    "tab": (1.8, 2.6, 4.5),
    "bridge": (1.8, 2.4, 4.5),
}
"""Of each the width, that under the pointer, and that of its halo."""


def _sign(painter: QPainter, at: QPointF, mark: SignMark, t: Tokens) -> None:
    if mark.sign == "open":  # a split ring
        painter.setPen(QPen(QColor(t.coral), 2.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        ring = QRectF(at.x() - 7, at.y() - 7, 14, 14)
        painter.drawArc(ring, 30 * 16, 120 * 16)
        painter.drawArc(ring, 210 * 16, 120 * 16)
        return
    if mark.sign in _STROKES:
        width, hot, halo = _STROKE_WIDTHS[mark.sign]
        colour = {"falls": t.coral, "thin": t.brass_text}.get(mark.sign, t.brass)
        if mark.sign == "point" and not mark.hot:
            colour = t.marking_blue
        for ink, wide in ((t.halo, halo), (colour, hot if mark.hot else width)):
            painter.setPen(QPen(QColor(ink), wide))
            for x0, y0, x1, y1 in _STROKES[mark.sign]:
                painter.drawLine(at + QPointF(x0, y0), at + QPointF(x1, y1))
        return
    painter.setPen(QPen(QColor(t.brass), 1.8))
    painter.setBrush(QColor(t.brass if mark.hot else t.field))
    if mark.sign == "corner":  # a wedge
        painter.drawPolygon(
            QPolygonF([at + QPointF(0, -6), at + QPointF(5.5, 4.5), at + QPointF(-5.5, 4.5)])
        )
    elif mark.sign == "handle":
        painter.drawRect(QRectF(at.x() - 3.2, at.y() - 3.2, 6.4, 6.4))
    else:
        painter.drawEllipse(at, 4.2, 4.2)


def _start(painter: QPainter, at: QPointF, direction: float, t: Tokens) -> None:
    """An arrowhead beside the first node, the way the contour runs."""
    along = QPointF(float(np.cos(direction)), -float(np.sin(direction)))
    square = QPointF(-along.y(), along.x())
    painter.setPen(QPen(QColor(t.brass_text), 1.4))
    painter.setBrush(QColor(t.field))
    tip = at + along * 19
    painter.drawPolygon(
        QPolygonF([tip, tip - along * 8 + square * 4.5, tip - along * 8 - square * 4.5])
    )


def _box(painter: QPainter, a: QPointF, b: QPointF, t: Tokens) -> None:
    wash = QColor(t.brass)
    wash.setAlpha(36)
    painter.setPen(QPen(QColor(t.brass), 1.2, Qt.PenStyle.DashLine))
    painter.setBrush(wash)
    painter.drawRect(QRectF(a, b).normalized())


def _frame(painter: QPainter, a: QPointF, b: QPointF, mark: FrameMark, t: Tokens) -> None:
    """A scribed line with brackets, bars and an arm with a ring."""
    box = QRectF(a, b).normalized()
    middle = box.center()
    box.adjust(-FRAME_ASIDE, -FRAME_ASIDE, FRAME_ASIDE, FRAME_ASIDE)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(t.brass_text), 1.2, Qt.PenStyle.DotLine))
    for x in (box.left(), box.right()):  # line by line: a dotted rectangle takes far longer
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
    for y in (box.top(), box.bottom()):
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    for across, up in mark.holds:
        pen = QPen(QColor(t.brass), 4.0 if (across, up) == mark.hot else 2.4)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        at = QPointF(
            (box.left(), middle.x(), box.right())[across + 1],
            (box.bottom(), middle.y(), box.top())[up + 1],
        )
        if across == up == 0:
            side, end = (
                QPointF(box.right(), middle.y()),
                QPointF(box.right() + FRAME_ARM, middle.y()),
            )
            painter.drawLine(side, end - QPointF(5, 0))
            painter.setBrush(QColor(t.field))
            painter.drawEllipse(end, 5.0, 5.0)
        elif across and up:
            painter.drawPolyline(
                QPolygonF([at - QPointF(10 * across, 0), at, at + QPointF(0, 10 * up)])
            )
        else:
            half = QPointF(0, 8) if across else QPointF(8, 0)
            painter.drawLine(at - half, at + half)


_DASHES = {"lacking": [2.0, 1.0], "preview": [4.0, 2.5], "goes": [1.0, 0.9]}


def contour_pens(mark: ContourMark, many: bool, t: Tokens) -> list[QPen]:
    """The pens that draw contours, one after the other; `many` are drawn with thin ones."""
    colour = {
        "hand": t.brass,
        "fault": t.coral,
        "offer": t.brass,
        "aside": t.quiet,
        "lacking": t.coral,
        "preview": t.marking_blue,
        "goes": t.sheet,
    }[mark.manner]
    wide = {"offer": 1.6, "aside": 1.2, "lacking": 3.0, "preview": 1.6, "goes": 3.4}.get(
        mark.manner, 2.4
    )
    pen = QPen(QColor(colour), 0 if many else wide)
    if mark.manner == "aside":
        pen.setStyle(Qt.PenStyle.DotLine)
    elif mark.manner in _DASHES:
        pen.setDashPattern(_DASHES[mark.manner])
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    pens = [pen]
    if not many and mark.manner in ("hand", "offer"):  # seen on dark pictures as well
        pens.insert(0, QPen(QColor(255, 255, 255, 150), wide + 2.4))
    for each in pens:
        each.setCosmetic(True)
    return pens


def area_colour(mark: AreaMark) -> QColor:
    colour = QColor(mark.colour)
    colour.setAlpha(200)
    return colour


def _contours(painter: QPainter, mark: ContourMark, camera: Camera, t: Tokens) -> None:
    painter.save()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    to_view = [place.then(camera.to_view()) for place in mark.places or (Affine(),)]
    paths = [
        transform_of(each).map(path_of(contour)) for each in to_view for contour in mark.contours
    ]
    for pen in contour_pens(mark, many=False, t=t):
        painter.setPen(pen)
        for path in paths:
            painter.drawPath(path)
    painter.restore()


def _area(painter: QPainter, mark: AreaMark, camera: Camera) -> None:
    path = path_of(*mark.contours)  # every second of nested contours is a hole
    painter.fillPath(transform_of(camera.to_view()).map(path), area_colour(mark))


def _map(
    painter: QPainter, mark: MapMark, camera: Camera, size: tuple[int, int], t: Tokens
) -> None:
    """Small dots where it is good, larger ones the worse it is: size tells as well as colour."""
    places = camera.to_view().apply(mark.places)
    seen = ((places > -10) & (places < np.array(size) + 10)).all(axis=1)
    for low, high, colour, wide in (
        (0.0, 0.5, t.moss, 3.0),
        (0.5, 1.0, t.brass, 5.0),
        (1.0, np.inf, t.coral, 8.0),
    ):
        some = places[seen & (mark.shares >= low) & (mark.shares < high)]
        painter.setPen(QPen(QColor(colour), wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in some.tolist()]))


def _magnifier(
    painter: QPainter,
    mark: MagnifierMark,
    camera: Camera,
    size: tuple[int, int],
    t: Tokens,
    picture: PaintPicture,
) -> None:
    x, y = camera.view(mark.x, mark.y)
    side = 1 if x + 2 * _LENS + 60 < size[0] else -1
    middle = QPointF(
        x + side * (_LENS + 36), min(max(y - _LENS - 10, _LENS + 26.0), size[1] - _LENS - 44.0)
    )
    lens = Camera(
        camera.zoom * _LENS_ZOOM,
        middle.x() - camera.zoom * _LENS_ZOOM * mark.x,
        middle.y() + camera.zoom * _LENS_ZOOM * mark.y,
    )
    frame = QRectF(middle.x() - _LENS, middle.y() - _LENS, 2 * _LENS, 2 * _LENS)
    round_path = QPainterPath()
    round_path.addEllipse(frame)
    painter.save()
    painter.setClipPath(round_path)
    painter.fillRect(frame, QColor(t.sheet))
    picture(painter, lens, frame)
    painter.setPen(QPen(QColor(t.brass), 1.4))
    for angle in mark.directions or (0.0, np.pi / 2):
        step = QPointF(float(np.cos(angle)), -float(np.sin(angle))) * _LENS
        painter.drawLine(middle - step, middle + step)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(middle, 5, 5)
    painter.restore()
    painter.setPen(QPen(QColor(t.graphite), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(frame)
    painter.setFont(face(13))
    wide = painter.fontMetrics().horizontalAdvance(mark.words) + 12
    label = QRectF(middle.x() - wide / 2, frame.bottom() + 4, wide, 20)
    backing = QColor(t.sheet)
    backing.setAlpha(235)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(backing)
    painter.drawRoundedRect(label, 3, 3)
    painter.setPen(QColor(t.graphite))
    painter.drawText(label, Qt.AlignmentFlag.AlignCenter, mark.words)


def paint_steered(painter: QPainter, at: tuple[float, float], t: Tokens) -> None:
    """The pointer that the arrow keys move: a ring with four strokes."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for pen in (QPen(QColor(t.field), 4.0), QPen(QColor(t.brass_text), 1.8)):
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(*at), 7, 7)
        for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
            painter.drawLine(
                QPointF(at[0] + 5 * dx, at[1] + 5 * dy), QPointF(at[0] + 14 * dx, at[1] + 14 * dy)
            )
    painter.restore()
