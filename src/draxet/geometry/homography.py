"""Plane to plane through a camera: homographies from point pairs, and a mild lens curve.

The lens model is one radial term about the picture's middle: a point at radius r (in half
diagonals) is seen at r (1 + curve r²).
"""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Points

__all__ = ["apply_homography", "bent", "homography", "unbent"]


def homography(sources: Points, targets: Points) -> Floats:
    """The (3, 3) map that takes `sources` (n ≥ 4, 2) to `targets`, by least squares on normalised
    points (Hartley, 1997).

    Raises
    ------
    ValueError : where three of four points lie on one line.
    """
    (p, tp), (q, tq) = _normalised(sources), _normalised(targets)
    x, y, u, v = p[:, 0], p[:, 1], q[:, 0], q[:, 1]
    zero, one = np.zeros_like(x), np.ones_like(x)
    rows = np.concatenate(
        [
            np.stack([x, y, one, zero, zero, zero, -u * x, -u * y, -u], axis=1),
            np.stack([zero, zero, zero, x, y, one, -v * x, -v * y, -v], axis=1),
        ]
    )
    _, sizes, right = np.linalg.svd(rows)
    if sizes[7] < 1e-6 * sizes[0]:
        raise ValueError("the four corners must not lie on one line; move them apart")
    found = np.linalg.inv(tq) @ right[8].reshape(3, 3) @ tp
    return np.asarray(found / np.linalg.norm(found))


def apply_homography(matrix: Floats, points: Points) -> Points:
    """Points (n, 2) mapped."""
    mapped = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return np.asarray(mapped[:, :2] / mapped[:, 2:])


def _normalised(points: Points) -> tuple[Points, Floats]:
    middle = points.mean(axis=0)
    scale = np.sqrt(2) / max(float(np.hypot(*(points - middle).T).mean()), 1e-12)
    matrix = np.array([[scale, 0, -scale * middle[0]], [0, scale, -scale * middle[1]], [0, 0, 1]])
    return (points - middle) * scale, matrix


def bent(points: Points, curve: float, width: int, height: int) -> Points:
    """Where the lens shows points (n, 2) that a straight one would show at `points`."""
    middle, half = np.array([width / 2, height / 2]), np.hypot(width, height) / 2
    off = (points - middle) / half
    return np.asarray(middle + half * off * (1 + curve * (off * off).sum(axis=1, keepdims=True)))


def unbent(points: Points, curve: float, width: int, height: int) -> Points:
    """The way back of ``bent``, by repeated correction."""
    middle, half = np.array([width / 2, height / 2]), np.hypot(width, height) / 2
    seen = (points - middle) / half
    off = seen.copy()
    for _ in range(12):
        off = seen / (1 + curve * (off * off).sum(axis=1, keepdims=True))
    return np.asarray(middle + half * off)
