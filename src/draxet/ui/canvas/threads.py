"""Stitches seen as thread: as broad as it is, in its colour, lit across its direction."""

from __future__ import annotations

import colorsys
import math
from collections.abc import Iterator
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.job.sides import Run, mirror_of
from draxet.progress import Progress
from draxet.ui.canvas.bunches import Bunch, ProgramPaths

__all__ = ["paths_of_stitches"]

_BUNCH = 500
"""Stitches that are painted together."""
_SHADES = 6
_BROAD, _LIT = 0.4, 0.26
"""mm: of the thread, and of what of it is lit."""
_LIGHT = math.radians(60)
"""Where the light comes from: what lies across it is lightest."""


def paths_of_stitches(stitched: Any, run: Run, report: Progress) -> ProgramPaths:
    """Each thread from needle point to needle point, what is sewn later over what is earlier, and
    the jumps between.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    there = Affine.moved(*run.sheet.origin_place)
    there = there.then(mirror_of(run.sheet)) if run.back else there
    work, travel = list[Bunch](), list[Bunch]()
    last: Points | None = None
    for block in stitched.plan.blocks:
        report(0.5, "drawing the thread")
        points = there.apply(block.points)
        for at in range(0, len(points) - 1, _BUNCH):
            work += _thread(points[at : at + _BUNCH + 1], block.colour)
        if last is not None:
            travel.append(_jump(np.array([last, points[0]])))
        last = points[-1]
    return ProgramPaths((stitched,), tuple(work), tuple(travel))


def _thread(points: Points, colour: str) -> Iterator[Bunch]:
    """Some stitches: dark beneath, and over that as light as their direction makes them."""
    way = np.diff(points, axis=0)
    across = np.abs(np.sin(np.arctan2(way[:, 1], way[:, 0]) - _LIGHT))
    shade = np.minimum((across * _SHADES).astype(int), _SHADES - 1)
    found, counts = np.unique(shade, return_counts=True)
    lit = list[Bunch]()
    for k in found[np.argsort(counts)].tolist():  # rows come last, over what lies under them
        some = np.flatnonzero(shade == k)
        light = _shaded(colour, 0.8 + 0.4 * (k + 0.5) / _SHADES)
        lit.append(_lines(np.hstack([points[some], points[some + 1]]), light, _LIT))
    every = np.vstack([bunch.lines for bunch in lit if bunch.lines is not None])
    yield _lines(every, _shaded(colour, 0.55), _BROAD)
    yield from lit


def _shaded(colour: str, times: float) -> str:
    """A colour so many times as light; what is black or white is led a little towards grey, so that
    rows are seen."""
    r, g, b = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    hue, light, full = colorsys.rgb_to_hls(r, g, b)
    light = min(max(0.08 + 0.84 * light, 0.0), 1.0) * times
    made = colorsys.hls_to_rgb(hue, min(light, 1.0), full)
    return "#{:02x}{:02x}{:02x}".format(*(round(255 * each) for each in made))


def _lines(lines: Floats, colour: str, width: float) -> Bunch:
    box = _box(lines.reshape(-1, 2), width)
    return Bunch(QPainterPath(), box, colour, width, lines, _BROAD)


def _jump(places: Points) -> Bunch:
    path = QPainterPath(QPointF(*places[0].tolist()))
    path.lineTo(QPointF(*places[1].tolist()))
    return Bunch(path, _box(places, 0.0))


def _box(points: Points, width: float) -> QRectF:
    (x0, y0), (x1, y1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return QRectF(x0, y0, x1 - x0, y1 - y0).adjusted(-width, -width, width, width)
