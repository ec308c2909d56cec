"""How cuts are seen: the band of material taken away at its real width, what stays and what falls
out.

What a cut takes away is worked out off the window's thread (``bands_of``) and kept as paths with
their boxes; painting fills only those that are seen. From so far off that a band would be hardly
wider than a line, a line stands for it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPen

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import boxes_of
from draxet.geometry.nesting import polygons_of, uncrossed
from draxet.job.cut_middles import is_beside, moved_aside
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.work import CutWork
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.canvas.chunks import path_of, transform_of, view_box
from draxet.ui.canvas.contours import neighbours_together
from draxet.ui.canvas.looks import Look, look_of
from draxet.ui.canvas.moves import add_lines
from draxet.ui.canvas.saved import saved
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.style import face
from draxet.ui.look.tokens import Tokens

__all__ = ["Bands", "Bunch", "CutPainter", "bands_of", "nearest"]

_MOST_TAGS = 80
_FINE = 0.01
_EVERY = 100
_LINE_PX = 1.6
"""A band no wider than so many pixels is drawn as a line."""
_PLAIN = 0.05
"""How far such a line may lie beside the middle of its band, in widths of it."""
_CUT_ALPHA = 170
_BUNCH = 16


@record(frozen=True, eq=False)
class Bunch:
    """Paths that lie near each other and are painted at once, the box that holds them, and the
    width in mm of what they are the middle of."""

    path: QPainterPath
    box: QRectF
    width: float = 0.0


@record(frozen=True, eq=False)
class Bands:
    """What cuts take away: the bands, each with its box and width in mm, their middles in bunches,
    and the parts' own outlines in bunches, of what stays and of what falls out."""

    work: tuple[CutWork, ...]
    """What is cut, each with its band."""
    paths: tuple[tuple[QPainterPath, QPainterPath], ...] = ()
    """What each cut takes away, and the line along its middle."""
    bands: tuple[Bunch, ...] = ()
    middles: tuple[Bunch, ...] = ()
    stays: tuple[Bunch, ...] = ()
    falls: tuple[Bunch, ...] = ()


def bands_of(work: tuple[CutWork, ...], report: Progress, before: Bands = Bands(())) -> Bands:
    """The bands of all that is cut, within 0.01 mm; what was worked out `before` stays. Nothing is
    taken away where an opening is narrower than its cut.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    if not work:
        return Bands(work)
    outlines, widths = (
        boxes_of([each.contour for each in work]),
        np.array([each.operation.width for each in work]),
    )
    boxes = outlines + widths[:, None] * np.array([-1.0, -1.0, 1.0, 1.0])
    known = _known(before)
    new = [each for each in work if _seen_by(each) not in known]
    for first in range(0, len(new), _EVERY):
        report(first / len(new), "working out the cuts")
        some = new[first : first + _EVERY]
        known.update(zip(map(_seen_by, some), _bands(some), strict=True))
    paths = [known[_seen_by(each)] for each in work]
    bands = tuple(
        Bunch(band, _rect(box), width)
        for (band, _), box, width in zip(paths, boxes, widths.tolist(), strict=True)
    )
    order = neighbours_together(boxes).tolist()
    order.sort(key=widths.__getitem__)  # stable: neighbours stay together
    areas = [
        (k, path_of(work[k].contour), work[k].side is Side.INSIDE)
        for k in order
        if work[k].contour.closed and not work[k].shared
    ]
    return Bands(
        work,
        tuple(paths),
        bands,
        _bunches([(k, paths[k][1]) for k in order], boxes, widths),
        *(
            _bunches([(k, path) for k, path, out in areas if out is falls], outlines, apart=True)
            for falls in (False, True)
        ),
    )


def nearest(
    work: tuple[CutWork, ...], before: Bands, x: float, y: float, most: int
) -> tuple[CutWork, ...]:
    """What is to be worked out first of what is cut: so many of what was not known `before`, the
    nearest to a place; and all that was."""
    known = _known(before)
    there = [_seen_by(each) in known for each in work]
    boxes = boxes_of([each.contour for each in work])
    away = np.hypot(
        np.maximum(np.maximum(boxes[:, 0] - x, x - boxes[:, 2]), 0),
        np.maximum(np.maximum(boxes[:, 1] - y, y - boxes[:, 3]), 0),
    )
    new = np.flatnonzero(~np.array(there, dtype=bool))
    first = set(new[np.argsort(away[new], kind="stable")[:most]].tolist())
    return tuple(each for k, each in enumerate(work) if there[k] or k in first)


def _known(bands: Bands) -> dict[Any, tuple[QPainterPath, QPainterPath]]:
    return dict(zip(map(_seen_by, bands.work), bands.paths, strict=True))


def _seen_by(work: CutWork) -> tuple[object, ...]:
    """What a cut's band depends on."""
    operation = work.operation
    held = operation if operation.tabs or operation.spots else None
    return work.contour, work.side, operation.width, held, work.ids if held else ()


def _bunches(
    paths: Sequence[tuple[int, QPainterPath]],
    boxes: Floats,
    widths: Floats | None = None,
    *,
    apart: bool = False,
) -> tuple[Bunch, ...]:
    """Paths, each with its number, in bunches of one width; `apart` : with boxes that lie apart, so
    that no area takes another one out."""
    found, begin = list[Bunch](), 0
    for end in range(1, len(paths) + 1):
        first, last = paths[begin][0], paths[end][0] if end < len(paths) else -1
        there = boxes[[k for k, _ in paths[begin:end]]]
        full = (
            last < 0
            or end - begin == _BUNCH
            or (widths is not None and widths[last] != widths[first])
        )
        if full or (
            apart
            and bool(
                ((there[:, :2] <= boxes[last, 2:]) & (there[:, 2:] >= boxes[last, :2]))
                .all(axis=1)
                .any()
            )
        ):
            path = QPainterPath()
            for _, each in paths[begin:end]:
                path.addPath(each)
            found.append(
                Bunch(
                    path,
                    _rect(np.hstack([there[:, :2].min(axis=0), there[:, 2:].max(axis=0)])),
                    float(widths[first]) if widths is not None else 0.0,
                )
            )
            begin = end
    return tuple(found)


def _rect(box: Floats) -> QRectF:
    x0, y0, x1, y1 = box.tolist()
    return QRectF(x0, y0, x1 - x0, y1 - y0)


def _bands(work: Sequence[CutWork]) -> list[tuple[QPainterPath, QPainterPath]]:
    """What each cut takes away, and the line along its middle."""
    found = [_line_band(each) for each in work]
    beside = [k for k, each in enumerate(found) if each is None]
    shapes = uncrossed(polygons_of([work[k].contour for k in beside], _FINE))
    widths = np.array([work[k].operation.width for k in beside])
    sides = [work[k].side for k in beside]
    centres, far = moved_aside(shapes, sides, widths / 2), moved_aside(shapes, sides, widths)
    plain = shapely.simplify(centres, _PLAIN * widths, preserve_topology=False)
    for k, shape, centre, middle, other in zip(
        beside, shapes.tolist(), centres.tolist(), plain.tolist(), far.tolist(), strict=True
    ):
        band, along = QPainterPath(), QPainterPath()
        if not centre.is_empty:
            _add_shape(along, middle)
            _add_shape(band, shape)
            _add_shape(band, other)  # even-odd: what lies between the two
        found[k] = band, along
    return [each for each in found if each is not None]


def _line_band(work: CutWork) -> tuple[QPainterPath, QPainterPath] | None:
    """The same of a cut along lines: on its contour, or with tabs; None where it runs beside all of
    it."""
    band, middle, width = QPainterPath(), QPainterPath(), work.operation.width
    if (work.operation.tabs or work.operation.spots) and work.contour.closed:
        lines = work.operation.along(work.contour, work.side, work.ids, 1e6)
        deepest = max((each.depths[-1] for each in lines), default=0.0)
        for each in (
            line for line in lines if line.depths[-1] == deepest
        ):  # what runs over a tab leaves it
            way = each.line.flattened(_FINE)
            way = np.vstack([way, way[:1]]) if each.line.closed else way
            _add_middle(middle, way, width)
            _add_shape(band, shapely.LineString(way).buffer(width / 2, quad_segs=8))
        return band, middle
    if not is_beside(work.contour, work.side):
        points = work.contour.flattened(_FINE)
        line = np.vstack([points, points[:1]]) if work.contour.closed else points
        _add_middle(middle, line, width)
        _add_shape(
            band,
            shapely.LineString(line).buffer(
                width / 2, cap_style="flat", join_style="round", quad_segs=8
            ),
        )
        return band, middle
    return None


def _add_shape(path: QPainterPath, shape: shapely.Geometry) -> None:
    for part in getattr(shape, "geoms", [shape]):
        if not part.is_empty:
            for ring in (part.exterior, *part.interiors):
                add_lines(path, np.asarray(ring.coords))


def _add_middle(path: QPainterPath, points: Points, width: float) -> None:
    add_lines(
        path,
        np.asarray(
            shapely.LineString(points).simplify(_PLAIN * width, preserve_topology=False).coords
        ),
    )


class CutPainter:
    """Paints bands as they were worked out last."""

    def __init__(self) -> None:
        self.bands = Bands(())

    def paint(self, painter: QPainter, to_view: Affine, clip: QRectF, t: Tokens) -> Iterator[None]:
        """Paint, step by step, what stays, what falls out and the cuts that lie in `clip` (view),
        under the contours."""
        bands, transform = self.bands, transform_of(to_view)
        seen = view_box(to_view, clip)
        narrow = _LINE_PX / to_view.scale
        with saved(painter):
            painter.setPen(Qt.PenStyle.NoPen)
            hatch = QBrush(QColor(t.sheet_edge), Qt.BrushStyle.BDiagPattern)
            painter.setBrushOrigin(
                QPointF(to_view.c, to_view.f)
            )  # the hatching moves with the work
            for bunches, colour, hatched in (
                (bands.stays, t.stays, False),
                (bands.falls, t.falls, True),
            ):
                for bunch in bunches:
                    if bunch.box.intersects(seen):
                        part = transform.map(bunch.path)
                        painter.fillPath(part, QColor(colour))
                        if hatched:
                            painter.fillPath(part, hatch)
                        yield
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(transform, True)
            cut = QColor(t.cut)
            cut.setAlpha(_CUT_ALPHA)
            for bunch in bands.middles:
                if bunch.width <= narrow and bunch.box.intersects(seen):
                    painter.strokePath(bunch.path, QPen(cut, 0))
                    yield
            for band in bands.bands:
                if band.width > narrow and band.box.intersects(seen):
                    painter.fillPath(band.path, cut)
                    yield

    def paint_tags(self, painter: QPainter, job: Job, camera: Camera, t: Tokens) -> None:
        """Paint each operation's letter beside its contours, as long as they are few enough to
        read."""
        if len(job.worked) > _MOST_TAGS:
            return
        tags: dict[str, list[tuple[Look, bool]]] = {}
        for operation in job.operations:
            for contour in operation.contours:
                tags.setdefault(contour, []).append((look_of(operation), operation.back))
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(face(13, QFont.Weight.DemiBold))
        for contour_id, looks in tags.items():
            box = job.contour_by_id[contour_id].contour.box
            x, y = camera.view(box[0], box[1])
            if (box[2] - box[0]) * camera.zoom < 34:
                continue
            for number, (look, back) in enumerate(looks):
                tag = QRectF(x - 6 + 20 * number, y - 12, 18, 18)
                painter.setPen(QPen(QColor(look.hue), 1.5) if back else Qt.PenStyle.NoPen)
                painter.setBrush(QColor(t.field if back else look.hue))  # hollow: from the back
                painter.drawRoundedRect(tag, 3, 3)
                painter.setPen(QColor(look.hue if back else t.card_text))
                painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, look.tag)
        painter.restore()

    def paint_legend(
        self,
        painter: QPainter,
        job: Job,
        size: tuple[int, int],
        clear: QRectF,
        words: str,
        t: Tokens,
    ) -> None:
        """Paint what the fills and the band mean, in the view's lower right; above what is to stay
        clear."""
        if not job.operations:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(face(14))
        wide = max(230, painter.fontMetrics().horizontalAdvance(words) + 66)
        box = QRectF(size[0] - wide - 16, size[1] - 74, wide, 58)
        if box.intersects(clear):
            box.moveBottom(clear.top() - 8)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.slip))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QPen(QColor(t.marking_blue), 1.2))
        for left, colour, hatched, name in (
            (14, t.stays, False, "stays"),
            (112, t.falls, True, "falls out"),
        ):
            swatch = QRectF(box.left() + left, box.top() + 9, 24, 15)
            painter.setBrush(QColor(colour))
            painter.drawRect(swatch)
            if hatched:
                painter.fillRect(
                    swatch.adjusted(1, 1, -1, -1),
                    QBrush(QColor(t.sheet_edge), Qt.BrushStyle.BDiagPattern),
                )
            painter.setPen(QColor(t.graphite))
            painter.drawText(QPointF(swatch.right() + 8, swatch.bottom() - 2), name)
            painter.setPen(QPen(QColor(t.marking_blue), 1.2))
        painter.fillRect(QRectF(box.left() + 14, box.top() + 38, 24, 6), QColor(t.cut))
        painter.fillRect(QRectF(box.left() + 14, box.top() + 38, 24, 2), QColor(t.marking_blue))
        painter.setPen(QColor(t.graphite))
        painter.drawText(QPointF(box.left() + 46, box.top() + 46), words)
        painter.restore()
