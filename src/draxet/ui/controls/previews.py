"""A job at a glance: a small picture of it, and what it holds in a few words; made off the window's
thread."""

from __future__ import annotations

import contextlib
import time
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF, QTransform

from draxet.gather.load import PictureError, peek
from draxet.job.file import open_job
from draxet.job.findings import count_words
from draxet.job.picture_records import Picture
from draxet.job.records import Job
from draxet.record import record
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.picture_store import to_qimage

__all__ = ["JobPreview", "facts_of", "job_image", "preview_of"]

_MARGIN = 4


@record(frozen=True, eq=False)
class JobPreview:
    """A job's file, its name, what it holds, line by line, and a small picture of it."""

    path: Path
    name: str
    facts: tuple[str, ...]
    image: QImage


def preview_of(path: Path, width: int, height: int) -> JobPreview:
    """Look at a job's file.

    Raises
    ------
    JobFileError : where it cannot be read; one sentence.
    """
    job = open_job(path).job.layout
    when = time.strftime("%d %B %Y, %H:%M", time.localtime(path.stat().st_mtime))
    return JobPreview(path, job.name, (*facts_of(job), when), job_image(job, width, height))


def facts_of(job: Job) -> tuple[str, ...]:
    """What a job holds."""
    opened = sum(not item.contour.closed for item in job.contours)
    contours = (
        f"{count_words(len(job.contours), 'contour')}{f', {opened} open' if opened else ''}"
        if job.contours
        else "no contours yet"
    )
    sheet = job.sheet
    return (
        count_words(len(job.pictures), "picture"),
        contours,
        f"{sheet.material}, {sheet.width:g} × {sheet.height:g} mm",
    )


def job_image(job: Job, width: int, height: int) -> QImage:
    """A job's pictures and contours, so that all of them are in sight, on a sheet of `width` by
    `height` pixels."""
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(QColor(LIGHT.sheet))
    boxes = np.array(
        [*(picture.box for picture in job.pictures), *(item.contour.box for item in job.contours)]
    )
    if not len(boxes):
        boxes = np.array([job.sheet.box])
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    zoom = min(
        (width - 2 * _MARGIN) / max(x1 - x0, 1e-9), (height - 2 * _MARGIN) / max(y1 - y0, 1e-9)
    )
    to_view = QTransform(
        zoom, 0, 0, -zoom, width / 2 - zoom * (x0 + x1) / 2, height / 2 + zoom * (y0 + y1) / 2
    )
    painter = QPainter(image)
    painter.setRenderHints(
        QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
    )
    for picture in job.pictures:
        if picture.visible:
            with contextlib.suppress(PictureError):
                _paint_picture(painter, picture, to_view, max(width, height))
    painter.setTransform(QTransform())
    painter.setPen(QPen(QColor(LIGHT.marking_blue), 0))
    for item in job.contours[:2000]:
        points = [
            to_view.map(QPointF(x, y)) for x, y in item.contour.flattened(0.5 / zoom).tolist()
        ]
        painter.drawPolyline(QPolygonF([*points, points[0]] if item.contour.closed else points))
    painter.end()
    return image


def _paint_picture(painter: QPainter, picture: Picture, to_view: QTransform, side: int) -> None:
    small = to_qimage(peek(picture.source, picture.name, 2 * side).small)
    base = picture.to_base.inverse().then(picture.to_job)
    wide, high = picture.base_size
    painter.setTransform(QTransform(base.a, base.d, base.b, base.e, base.c, base.f) * to_view)
    painter.setClipRect(QRectF(0, 0, wide, high), Qt.ClipOperation.ReplaceClip)
    painter.drawImage(QRectF(0, 0, wide, high), small)
    painter.setClipping(False)
