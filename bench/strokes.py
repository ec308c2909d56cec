"""Strokes and flat-coloured drawings from known geometry, and how near their traces come."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from draxet.geometry.contour import Contour

__all__ = [
    "COLOURED",
    "STROKES",
    "coloured",
    "flat_labels",
    "stroke_distance",
    "stroked",
    "wrong_pixels",
]

SIZE = 500
_OVER = 8
Lines = list[tuple[NDArray[np.float64], bool]]


def _star() -> NDArray[np.float64]:
    return np.array(
        [
            (
                250 + (200, 90)[k % 2] * math.cos(0.3 + k * math.pi / 5),
                250 + (200, 90)[k % 2] * math.sin(0.3 + k * math.pi / 5),
            )
            for k in range(10)
        ]
    )


def _round(radius: float) -> NDArray[np.float64]:
    t = np.linspace(0, 2 * math.pi, 500, endpoint=False)
    return np.column_stack([250 + radius * np.cos(t), 250 + radius * np.sin(t)])


def _spiral() -> NDArray[np.float64]:
    t = np.linspace(1, 20, 900)
    return np.column_stack([250 + 9 * t * np.cos(t), 250 + 9 * t * np.sin(t)])


def _wave(phase: float, y: float) -> NDArray[np.float64]:
    x = np.linspace(30, 470, 500)
    return np.column_stack([x, y + 50 * np.sin(x / 50 + phase)])


STROKES: dict[str, Lines] = {
    "lines": [
        (np.array([(40, 60), (460, 90.0)]), False),
        (np.array([(60, 200), (440, 420.0)]), False),
    ],
    "cross of three": [
        (np.array(line, dtype=float), False)
        for line in (((40, 60), (460, 400)), ((60, 420), (440, 80)), ((250, 30), (260, 470)))
    ],
    "tee": [
        (np.array([(40, 250), (460, 260.0)]), False),
        (np.array([(240, 254), (300, 40.0)]), False),
    ],
    "star": [(_star(), True)],
    "circle and line": [(_round(150), True), (np.array([(30, 240), (470, 260.0)]), False)],
    "spiral": [(_spiral(), False)],
    "zigzag": [
        (np.array([(40, 400), (120, 100), (200, 400), (280, 100), (360, 400), (440, 100.0)]), False)
    ],
    "grid": [(np.array([(40, y), (460, y + 7.0)]), False) for y in (100, 200, 300, 400)]
    + [(np.array([(x, 40), (x + 9, 460.0)]), False) for x in (100, 200, 300, 400)],
    "waves": [(_wave(0, 200), False), (_wave(1.6, 260), False)],
}


def stroked(lines: Lines, width: float = 5.0, *, scan: bool = False) -> NDArray[np.uint8]:
    """Strokes of one width on paper, clean or scan-like."""
    big = np.zeros((SIZE * _OVER, SIZE * _OVER), np.uint8)
    for points, closed in lines:
        cv2.polylines(
            big,
            [np.round((points * _OVER - 0.5) * 16).astype(np.int32)],
            closed,
            255,
            round(width * _OVER),
            cv2.LINE_8,
            4,
        )
    ink = cv2.resize(big, (SIZE, SIZE), interpolation=cv2.INTER_AREA).astype(float) / 255
    picture = 250 - 210 * ink
    if scan:
        picture = cv2.GaussianBlur(picture, (0, 0), 0.9) * np.linspace(0.9, 1.0, SIZE)[
            None
        ] + np.random.default_rng(0).normal(0, 5, ink.shape)
    return np.clip(picture, 0, 255).astype(np.uint8)


def _along(line: shapely.LineString) -> NDArray[np.float64]:
    return np.array(
        [p.coords[0] for p in shapely.line_interpolate_point(line, np.arange(0, line.length, 1.0))]
    ).reshape(-1, 2)


def _string(points: NDArray[np.float64], closed: bool) -> shapely.LineString:
    return shapely.LineString(np.vstack([points, points[:1]]) if closed else points)


def stroke_distance(
    contours: tuple[Contour, ...], lines: Lines, skeleton: NDArray[np.float64]
) -> tuple[float, float]:
    """Mean distance both ways between contours and truth, and of a bare skeleton's pixels from the
    truth."""
    truth = [_string(points, closed) for points, closed in lines]
    found = [_string(contour.flattened(0.01), contour.closed) for contour in contours]
    whole, ours = shapely.MultiLineString(truth), shapely.MultiLineString(found)
    there = shapely.distance(shapely.points(np.concatenate([_along(line) for line in truth])), ours)
    back = shapely.distance(shapely.points(np.concatenate([_along(line) for line in found])), whole)
    return float(there.mean() + back.mean()) / 2, float(
        shapely.distance(shapely.points(skeleton), whole).mean()
    )


def _wheel(rng: np.random.Generator, size: int) -> NDArray[np.uint8]:
    labels = np.zeros((size, size), np.uint8)
    middle = size // 2
    for k, radius in enumerate((0.45, 0.36, 0.25, 0.12), start=1):
        cv2.circle(labels, (middle, middle), round(radius * size), k, -1)
    for k in range(6):
        a = k * math.pi / 3 + 0.2
        ends = [
            (
                round(middle + s * 0.44 * size * math.cos(a)),
                round(middle + s * 0.44 * size * math.sin(a)),
            )
            for s in (0, 1)
        ]
        cv2.line(labels, ends[0], ends[1], 1 + k % 4, max(1, round(size / 50)))
    return labels


def _patchwork(rng: np.random.Generator, size: int) -> NDArray[np.uint8]:
    seeds = rng.uniform(0, size, (22, 2))
    y, x = np.mgrid[0:size, 0:size]
    nearest = np.argmin([(x - sx) ** 2 + (y - sy) ** 2 for sx, sy in seeds], axis=0)
    return (nearest % 5).astype(np.uint8)


def _leaves(rng: np.random.Generator, size: int) -> NDArray[np.uint8]:
    labels = np.zeros((size, size), np.uint8)
    for k in range(9):
        x, y, a = rng.uniform(0.2 * size, 0.8 * size, 2).tolist() + [float(rng.uniform(0, 3.1))]
        cv2.ellipse(
            labels,
            (round(x), round(y)),
            (round(0.2 * size), round(0.07 * size)),
            math.degrees(a),
            0,
            360,
            1 + k % 3,
            -1,
        )
    return labels


COLOURED: dict[str, Callable[[np.random.Generator, int], NDArray[np.uint8]]] = {
    "wheel": _wheel,
    "patchwork": _patchwork,
    "leaves": _leaves,
}
_COLOURS = np.array(
    [(244, 241, 232), (30, 60, 110), (190, 50, 44), (225, 190, 90), (60, 130, 90)], dtype=np.float32
)


def flat_labels(name: str, side: int = 400, over: int = 4) -> NDArray[np.uint8]:
    """Which colour lies where, at `over` times the picture's pixels."""
    return COLOURED[name](np.random.default_rng(5), side * over)


def coloured(labels: NDArray[np.uint8], over: int = 4, *, scan: bool = False) -> NDArray[np.uint8]:
    """A flat-coloured drawing as a picture with soft rims, clean or scan-like."""
    fine = _COLOURS[labels]
    if scan:
        fine = cv2.GaussianBlur(fine, (0, 0), 0.7 * over)
    picture = cv2.resize(fine, None, fx=1 / over, fy=1 / over, interpolation=cv2.INTER_AREA)
    if scan:
        picture = picture * np.linspace(0.95, 1.0, picture.shape[1])[
            None, :, None
        ] + np.random.default_rng(1).normal(0, 3, picture.shape)
    return np.clip(picture + 0.5, 0, 255).astype(np.uint8)


def wrong_pixels(
    found: NDArray[np.int64], truth: NDArray[np.uint8], palette: NDArray[np.uint8]
) -> tuple[float, int]:
    """Share of pixels of a wrong colour, and how many are uncovered (-1 in `found`, which holds
    palette numbers)."""
    match = np.array(
        [int(((_COLOURS - colour.astype(float)) ** 2).sum(axis=1).argmin()) for colour in palette]
        + [99]
    )
    return float((match[found] != truth).mean()), int((found < 0).sum())
