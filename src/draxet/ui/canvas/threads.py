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
from draxet.geometry.arrays import Floats, Ints, Points
from draxet.job.sides import Run, mirror_of
from draxet.progress import Progress
from draxet.ui.canvas.bunches import Bunch, ProgramPaths

__all__ = ["paths_of_stitches"]

_BUNCH, _FEW = 500, 40
"""Stitches that are painted together at the most, and of which the most tell which way they run."""
_SHADES = 6
_TURN = 0.8
"""mm of a stitch that leads from a row to the next, at the most."""
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
        shades = _shades(points)
        for at, end in _alike(shades, _ways(points, shades)):
            work += _thread(points[at : end + 1], shades[at:end], block.colour)
        if last is not None:
            travel.append(_jump(np.array([last, points[0]])))
        last = points[-1]
    return ProgramPaths((stitched,), tuple(work), tuple(travel))


def _shades(points: Points) -> Ints:
    """How light each stitch is, by its direction."""
    way = np.diff(points, axis=0)
    across = np.abs(np.sin(np.arctan2(way[:, 1], way[:, 0]) - _LIGHT))
    found: Ints = np.minimum((across * _SHADES).astype(int), _SHADES - 1)
    return found


def _alike(shades: Ints, ways: set[int]) -> Iterator[tuple[int, int]]:
    """From where to where stitches are painted together: as long as most of a few run much the same
    way, and ways by themselves, so that rows lie over what is under them."""
    begin, last = 0, -1
    for at in sorted({*range(0, len(shades), _FEW), *ways}):
        most = int(np.bincount(shades[at : at + _FEW]).argmax())
        if at > begin and (at in ways or most != last or at - begin >= _BUNCH):
            yield begin, at
            begin = at
        last = most
    if begin < len(shades):
        yield begin, len(shades)


def _ways(points: Points, shades: Ints) -> set[int]:
    """Where stitches that lead from some rows to others begin and are over: several in a row, none of
    them short, that run otherwise than most."""
    lengths = np.hypot(*np.diff(points, axis=0).T)
    odd = (np.abs(shades - np.bincount(shades).argmax()) > 1) & (lengths > _TURN)
    several = (odd & np.append(odd[1:], False)) | (odd & np.append(False, odd[:-1]))
    return set(np.flatnonzero(np.diff(several, prepend=False)).tolist())


def _thread(points: Points, shade: Ints, colour: str) -> Iterator[Bunch]:
    """Some stitches: dark beneath, and over that as light as their direction makes them."""
    each = [np.flatnonzero(shade == k) for k in range(_SHADES)]
    lit = list[Bunch]()
    for k in sorted(range(_SHADES), key=lambda k: float(each[k].mean()) if len(each[k]) else 0.0):
        some = each[k]  # what is sewn later in the mean comes later
        if not len(some):
            continue
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
    light = min(0.13 + 0.8 * light, 1.0) * times
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
