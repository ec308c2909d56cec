"""Shapes from known geometry, and pictures of them, clean and scan-like."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from bench.raster import ink_on_paper

__all__ = ["SHAPES", "SIZE", "clean", "distance", "lettering", "scan_like"]

SIZE = 700
Rings = list[NDArray[np.float64]]


def _ring(
    function: Callable[[NDArray[np.float64]], tuple[NDArray[np.float64], NDArray[np.float64]]],
    count: int = 4000,
) -> NDArray[np.float64]:
    t = np.linspace(0, 2 * math.pi, count, endpoint=False)
    x, y = function(t)
    return np.column_stack([x, y]) + SIZE / 2


def _rounded(width: float, height: float, radius: float, tilt: float) -> NDArray[np.float64]:
    box = shapely.box(
        -width / 2 + radius, -height / 2 + radius, width / 2 - radius, height / 2 - radius
    ).buffer(radius, quad_segs=200)
    points = np.asarray(box.exterior.coords)[:-1]
    cos, sin = math.cos(tilt), math.sin(tilt)
    return points @ np.array([[cos, sin], [-sin, cos]]) + SIZE / 2


def _star(tips: int, outer: float, inner: float) -> NDArray[np.float64]:
    k = np.arange(2 * tips)
    r = np.where(k % 2 == 0, outer, inner)
    return (
        np.column_stack(
            [r * np.cos(k * math.pi / tips + 0.2), r * np.sin(k * math.pi / tips + 0.2)]
        )
        + SIZE / 2
    )


def _gear(teeth: int) -> NDArray[np.float64]:
    points = []
    for k in range(teeth):
        for share, radius in ((0.05, 230), (0.2, 290), (0.45, 290), (0.6, 230)):
            a = 2 * math.pi * (k + share) / teeth + 0.1
            points.append((radius * math.cos(a), radius * math.sin(a)))
    return np.array(points) + SIZE / 2


def _spiral() -> NDArray[np.float64]:
    t = np.linspace(1.2, 4.6 * math.pi, 3000)
    r = 18 * t
    line = np.column_stack([r * np.cos(t), r * np.sin(t)])
    return (
        np.asarray(shapely.LineString(line).buffer(14, quad_segs=100).exterior.coords)[:-1]
        + SIZE / 2
    )


def _letters(words: str, weight: str) -> Rings:
    """A word as even-odd rings, from the shipped typeface in a weight."""
    from pathlib import Path

    from fontTools.pens.recordingPen import DecomposingRecordingPen
    from fontTools.ttLib import TTFont

    font = TTFont(
        Path(__file__).parent.parent
        / f"src/draxet/ui/assets/fonts/BarlowSemiCondensed-{weight}.ttf"
    )
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    rings: Rings = []
    x = 12.0
    for letter in words:
        pen = DecomposingRecordingPen(glyphs)
        glyphs[names[ord(letter)]].draw(pen)
        current: list[tuple[float, float]] = []
        for verb, points in pen.value:
            if verb in ("moveTo", "lineTo"):
                current.append(points[0])
            elif verb == "qCurveTo":
                ends = [
                    *[
                        ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
                        for a, b in zip(points[:-2], points[1:-1], strict=True)
                    ],
                    points[-1],
                ]
                for control, end in zip(points[:-1], ends, strict=True):
                    start = current[-1]
                    for t in np.linspace(0, 1, 33)[1:]:
                        current.append(
                            tuple(
                                (1 - t) ** 2 * np.array(start)
                                + 2 * (1 - t) * t * np.array(control)
                                + t * t * np.array(end)
                            )
                        )
            else:
                rings.append(np.array(current) * (0.27, -0.27) + (x, 440))
                current = []
        x += glyphs[names[ord(letter)]].width * 0.27 + 4
    return rings


def lettering(scale: float, lines: int = 6) -> Rings:
    """Lines of small lettering, capitals about 190 times `scale` pixels high."""
    rings: Rings = []
    words = (("Rqg58Sak3", "Medium"), ("Bey2Jdmxw", "SemiBold"), ("tf46QGHo9", "Regular"))
    for k in range(min(lines, int(SIZE / (330 * scale)))):
        rings += [
            (ring - (0, 195)) * scale + (3.3, 2.7 + k * int(330 * scale))
            for ring in _letters(*words[k % 3])
        ]
    return rings


SHAPES: dict[str, Callable[[], Rings]] = {
    "circle": lambda: [_ring(lambda t: (200.3 * np.cos(t), 200.3 * np.sin(t)))],
    "ellipse": lambda: [_ring(lambda t: (250 * np.cos(t + 0.3), 130 * np.sin(t)))],
    "rounded plate": lambda: [_rounded(400, 260, 40, 0.1)],
    "small rounding": lambda: [_rounded(500, 300, 9, 0.4)],
    "slot": lambda: [_rounded(500, 100, 50, 0.3)],
    "star": lambda: [_star(7, 300, 130)],
    "gear": lambda: [_gear(18)],
    "leaf": lambda: [
        _ring(
            lambda t: (
                280 * np.cos(t),
                120 * np.sin(t) * (1 + 0.3 * np.sin(6 * t) + 0.2 * np.cos(t)),
            )
        )
    ],
    "spiral": lambda: [_spiral()],
    "letters": lambda: _letters("Rqg58", "Medium"),
    "bold letters": lambda: _letters("Sak3", "SemiBold"),
    "thin letters": lambda: _letters("Bey2J", "Regular"),
}


def clean(rings: Rings) -> NDArray[np.uint8]:
    """Ink on paper, each pixel the mean of many sub-pixels."""
    return ink_on_paper(rings, SIZE)


def scan_like(picture: NDArray[np.uint8], seed: int = 0) -> NDArray[np.uint8]:
    """As a scanner or a camera gives it: blur, uneven light, noise and JPEG."""
    soft = 40 + 190 / 255 * cv2.GaussianBlur(picture, (0, 0), 0.9).astype(np.float64)
    light = soft * (0.92 + 0.1 * np.linspace(0, 1, SIZE)[None]) + np.random.default_rng(
        seed
    ).normal(0, 5, picture.shape)
    _, data = cv2.imencode(
        ".jpg", np.clip(light, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 80]
    )
    return np.asarray(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), dtype=np.uint8)


def distance(found: Rings, truth: Rings) -> float:
    """Mean distance between two sets of closed rings, both ways."""
    lines = [
        shapely.MultiLineString([np.vstack([ring, ring[:1]]) for ring in rings])
        for rings in (found, truth)
    ]
    for line in lines:
        shapely.prepare(line)
    there, back = (
        shapely.distance(shapely.points(_along(rings)), other)
        for rings, other in ((found, lines[1]), (truth, lines[0]))
    )
    return float(there.mean() + back.mean()) / 2


def _along(rings: Rings, step: float = 1.0) -> NDArray[np.float64]:
    """Points every `step` along rings."""
    parts = []
    for ring in rings:
        line = np.vstack([ring, ring[:1]])
        length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        at = np.arange(0, length[-1], step)
        parts.append(np.column_stack([np.interp(at, length, line[:, k]) for k in (0, 1)]))
    return np.vstack(parts)
