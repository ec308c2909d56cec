"""How cuts are seen: the band of material taken away at its real width, what stays and what falls out."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from draxet.geometry.affine import Affine
from draxet.job.records import Job, Side
from draxet.job.work import CutWork, cut_centre_lines
from draxet.ui.canvas.camera import Camera
from draxet.ui.canvas.contours import path_of
from draxet.ui.look.style import face
from draxet.ui.look.tokens import Tokens

__all__ = ["CutPainter"]

_MOST_TAGS = 80


class CutPainter:
    """Keeps the bands of a job's cuts until what is cut changes."""

    def __init__(self) -> None:
        self._of: object = None
        self._bands: list[tuple[QPainterPath, float]] = []
        self._stays, self._falls = QPainterPath(), QPainterPath()

    def _show(self, work: tuple[CutWork, ...]) -> None:
        if self._of is work:
            return
        self._of = work
        self._bands, self._stays, self._falls = [], QPainterPath(), QPainterPath()
        bands: dict[tuple[str, float], QPainterPath] = {}
        for each in work:
            band = bands.setdefault((each.operation.id, each.operation.width), QPainterPath())
            for points, closed in cut_centre_lines(each.contour, each.side, each.operation.width):
                band.addPolygon(QPolygonF([QPointF(x, y) for x, y in points.tolist()]))
                if closed:
                    band.closeSubpath()
            if each.contour.closed and not each.shared:
                (self._falls if each.side is Side.INSIDE else self._stays).addPath(path_of(each.contour))
        self._bands = [(band, width) for (_, width), band in bands.items()]

    def paint(self, painter: QPainter, work: tuple[CutWork, ...], to_view: Affine, t: Tokens) -> None:
        """Paint what stays, what falls out and the cuts, under the contours."""
        if not work:
            return
        self._show(work)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        transform = QTransform(to_view.a, to_view.d, to_view.b, to_view.e, to_view.c, to_view.f)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.fillPath(transform.map(self._stays), QColor(t.stays))
        painter.fillPath(transform.map(self._falls), QColor(t.falls))
        hatch = QBrush(QColor(t.sheet_edge), Qt.BrushStyle.BDiagPattern)
        painter.setBrushOrigin(QPointF(to_view.c, to_view.f))  # the hatching moves with the work
        painter.fillPath(transform.map(self._falls), hatch)
        cut = QColor(t.cut)
        cut.setAlpha(170)
        for band, width in self._bands:
            pen = QPen(cut, max(width * to_view.scale, 1.0), Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin)
            painter.strokePath(transform.map(band), pen)
        painter.restore()

    def paint_tags(self, painter: QPainter, job: Job, camera: Camera, t: Tokens) -> None:
        """Paint each operation's letter beside its contours, as long as they are few enough to read."""
        ids = [contour for operation in job.operations for contour in operation.contours]
        if len(ids) > _MOST_TAGS:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(face(13, QFont.Weight.DemiBold))
        for contour_id in ids:
            box = job.contour_by_id[contour_id].contour.box
            x, y = camera.view(box[0], box[1])
            if (box[2] - box[0]) * camera.zoom < 34:
                continue
            tag = QRectF(x - 6, y - 12, 18, 18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(t.cut_tag))
            painter.drawRoundedRect(tag, 3, 3)
            painter.setPen(QColor(t.card_text))
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, "C")
        painter.restore()

    def paint_legend(self, painter: QPainter, job: Job, size: tuple[int, int], words: str, t: Tokens) -> None:
        """Paint what the fills and the band mean, in the view's lower right."""
        if not job.operations:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(face(14))
        wide = max(230, painter.fontMetrics().horizontalAdvance(words) + 66)
        box = QRectF(size[0] - wide - 16, size[1] - 74, wide, 58)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.slip))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QPen(QColor(t.marking_blue), 1.2))
        for left, colour, hatched, name in ((14, t.stays, False, "stays"), (112, t.falls, True, "falls out")):
            swatch = QRectF(box.left() + left, box.top() + 9, 24, 15)
            painter.setBrush(QColor(colour))
            painter.drawRect(swatch)
            if hatched:
                painter.fillRect(swatch.adjusted(1, 1, -1, -1), QBrush(QColor(t.sheet_edge), Qt.BrushStyle.BDiagPattern))
            painter.setPen(QColor(t.graphite))
            painter.drawText(QPointF(swatch.right() + 8, swatch.bottom() - 2), name)
            painter.setPen(QPen(QColor(t.marking_blue), 1.2))
        painter.fillRect(QRectF(box.left() + 14, box.top() + 38, 24, 6), QColor(t.cut))
        painter.fillRect(QRectF(box.left() + 14, box.top() + 38, 24, 2), QColor(t.marking_blue))
        painter.setPen(QColor(t.graphite))
        painter.drawText(QPointF(box.left() + 46, box.top() + 46), words)
        painter.restore()
