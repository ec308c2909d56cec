"""A part of 50 contours, copied as contours of its own and as placements: moved, taken back, drawn,
and what it takes of the memory."""

from __future__ import annotations

import time
import tracemalloc
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.contour_moves import map_contours
from draxet.job.copies import place_copies
from draxet.job.history import History
from draxet.job.records import Job
from draxet.ui.canvas.contours import ContourPainter
from draxet.ui.canvas.placed_parts import PlacedPainter
from draxet.ui.canvas.view_camera import Camera

__all__ = ["placements"]

_OWN, _PLACED, _MEMBERS, _APART = 200, 10_000, 50, 50.0


def _part() -> tuple[Job, list[str]]:
    rng = np.random.default_rng(0)
    shapes = [
        Contour.circle(*rng.uniform(0, 40, 2), rng.uniform(1, 3))
        if k % 2
        else Contour.make(rng.uniform(0, 40, (8, 2)))
        for k in range(_MEMBERS)
    ]
    job = add_contours(Job(), shapes)
    return job, [item.id for item in job.contours]


def _timed(run: Callable[[], object]) -> float:
    begin = time.perf_counter()
    run()
    return time.perf_counter() - begin


def _measured(count: int, linked: bool) -> tuple[float, float, float, float]:
    """Seconds of a move, of taking it back and of a whole repaint; MB of the job."""
    job, ids = _part()
    wide = max(int(count**0.5), 1)
    places = [Affine.moved(_APART * (k % wide), _APART * (k // wide)) for k in range(count)]
    tracemalloc.start()
    before = tracemalloc.get_traced_memory()[0]
    job, _ = place_copies(job, ids, places, linked=linked)
    bytes_held = tracemalloc.get_traced_memory()[0] - before
    tracemalloc.stop()
    every = [item.id for item in job.layout.contours] if not linked else None
    if every is None:
        laid = (f"{each.id}/{name}" for each in job.placements for name in ids)
        every = [*ids, *laid]
    history = History.of(job).after("move", job)
    moved = _timed(lambda: map_contours(job, every, Affine.moved(3, 4), by_hand=True))
    undone = _timed(history.undone)
    image = QImage(1280, 800, QImage.Format.Format_RGB32)
    side = _APART * (wide + 1)
    to_view, clip = Camera.fitted((0, 0, side, side), 1280, 800).to_view(), QRectF(0, 0, 1280, 800)

    def draw() -> None:
        own, placed = ContourPainter(), PlacedPainter()
        own.show(job.contours)
        placed.show(job, frozenset())
        painter = QPainter(image)
        for _ in own.paint(painter, to_view, clip, "#ffffff"):
            pass
        for _ in placed.paint(painter, to_view, clip, "#ffffff"):
            pass
        painter.end()

    return moved, undone, _timed(draw), bytes_held / 1e6


def placements() -> None:
    """Copies that follow their part, beside as many contours of their own."""
    own = _measured(_OWN, linked=False)
    few, many = _measured(_OWN, linked=True), _measured(_PLACED, linked=True)
    nodes = np.random.default_rng(1).uniform(0, 99, (_PLACED * _MEMBERS * 5, 2))
    bare = _timed(lambda: Affine.turned(3).apply(nodes))
    for words, a, b in zip(("moved", "taken back", "drawn"), own, few, strict=False):
        print(
            f"placements      {_OWN} {words} in {1000 * b:.1f} ms, own contours {1000 * a:.1f} ms"
        )
    print(
        f"placements      memory {few[3]:.2f} MB, own contours {own[3]:.1f} MB, ratio {few[3] / own[3]:.3f} (wanted: 0.1)"
    )
    print(
        f"placements      {_PLACED} of {_MEMBERS}: moved {many[0]:.2f} s, taken back {1000 * many[1]:.1f} ms, drawn {many[2]:.2f} s, {many[3]:.0f} MB; their nodes mapped alone {bare:.3f} s"
    )
