"""A circle, an ellipse, a line or an arc fitted in place of a wobble.

Circles and ellipses are fitted by least squares of the distances from them (Gander, Golub &
Strebel, 1994), begun from the moments of places evenly along the contour.
"""

from __future__ import annotations

import math

import numpy as np
import scipy

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import unit_ellipse
from draxet.geometry.spans import ARC
from draxet.record import record

__all__ = ["FORMS", "Form", "ellipse_through", "fitted_form"]

FORMS = ("circle", "ellipse", "line", "arc")
_SAMPLES = 720
_LEAST_OF_ELLIPSE, _FEW = 5, 60
_LEAST_BULGE, _MOST_BULGE = 1e-4, 50.0


@record(frozen=True)
class Form:
    """The contour in place of a wobble, how far in mm the wobble lies off it at the most, and for
    an ellipse its map from the unit circle."""

    contour: Contour
    off: float
    ellipse: Affine | None = None


def fitted_form(contour: Contour, form: str) -> Form | None:
    """The nearest ``circle``, ``ellipse``, ``line`` or ``arc`` (see ``FORMS``); None where the
    contour is too small, or too straight, for one."""
    points = sampled(contour)
    if np.ptp(points, axis=0).max() < 1e-6:
        return None
    return {"circle": _circle, "ellipse": _ellipse, "line": _line, "arc": _arc}[form](
        contour, points
    )


def sampled(contour: Contour, count: int = _SAMPLES) -> Points:
    """Places (count, 2) evenly along a contour."""
    fine = contour.flattened(max(contour.length * 2e-5, 1e-6))
    line = np.vstack([fine, fine[:1]]) if contour.closed else fine
    along: Floats = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0.0, along[-1], count, endpoint=not contour.closed)
    return np.column_stack([np.interp(at, along, line[:, 0]), np.interp(at, along, line[:, 1])])


def _circle_of(points: Points) -> tuple[float, float, float] | None:
    middle = points.mean(axis=0)
    scale = float(np.abs(points - middle).max())
    p = (points - middle) / scale
    matrix = np.column_stack([p, np.ones(len(p))])
    (a, b, c), *_ = np.linalg.lstsq(matrix, (p * p).sum(axis=1), rcond=None)
    start = (a / 2, b / 2, math.sqrt(max(c + (a * a + b * b) / 4, 1e-12)))
    if start[2] > 1e4:
        return None  # as good as straight
    found = scipy.optimize.least_squares(
        lambda v: np.hypot(p[:, 0] - v[0], p[:, 1] - v[1]) - v[2], start
    ).x
    return (
        float(found[0] * scale + middle[0]),
        float(found[1] * scale + middle[1]),
        abs(float(found[2])) * scale,
    )


def _circle(contour: Contour, points: Points) -> Form | None:
    found = _circle_of(points)
    if found is None:
        return None
    x, y, radius = found
    made = Contour.circle(x, y, radius)
    return Form(
        made if not contour.closed or contour.area >= 0 else made.reversed(),
        float(np.abs(np.hypot(*(points - (x, y)).T) - radius).max()),
    )


def _ellipse(contour: Contour, points: Points) -> Form | None:
    return ellipse_through(points)


def ellipse_through(points: Points) -> Form | None:
    """The ellipse that lies nearest to five places (n, 2) or more; None where they lie on a line."""
    if len(points) < _LEAST_OF_ELLIPSE:
        return None
    middle = points.mean(axis=0)
    values, ways = np.linalg.eigh(np.cov((points - middle).T))
    if values[0] <= 1e-9 * values[1]:
        return None
    long, short = math.sqrt(2 * values[1]), math.sqrt(2 * values[0])
    begun = (*middle, long, short, math.atan2(ways[1, 1], ways[0, 1]))
    if len(points) <= _FEW:
        begun = _conic_through(points) or begun
        long, short = begun[2], begun[3]

    def off(v: Floats) -> Floats:
        cos, sin = math.cos(v[4]), math.sin(v[4])
        d = points - v[:2]
        q = np.column_stack(
            [(d[:, 0] * cos + d[:, 1] * sin) / v[2], (-d[:, 0] * sin + d[:, 1] * cos) / v[3]]
        )
        size = np.maximum(np.hypot(q[:, 0], q[:, 1]), 1e-12)
        slope = (
            np.hypot(q[:, 0] / v[2], q[:, 1] / v[3]) / size
        )  # how fast `size` grows across the ellipse
        return np.asarray((size - 1) / np.maximum(slope, 1e-12))

    found = scipy.optimize.least_squares(off, begun, x_scale=(long, long, long, short, 1.0)).x
    laid = (
        Affine.scaled(abs(found[2]), abs(found[3]))
        .then(Affine.turned(math.degrees(found[4])))
        .then(Affine.moved(found[0], found[1]))
    )
    return Form(unit_ellipse().transformed(laid), float(np.abs(off(found)).max()), laid)


def _conic_through(points: Points) -> tuple[float, float, float, float, float] | None:
    """Middle, half axes and turn of the conic that is nearest by its equation (Bookstein's sum of
    squares, the places brought to a middle of 0 and a size of 1); None where it is no ellipse."""
    middle = points.mean(axis=0)
    size = float(np.hypot(*(points - middle).T).max())
    x, y = ((points - middle) / size).T
    rows = np.column_stack([x * x, x * y, y * y, x, y, np.ones(len(x))])
    a, b, c, d, e, f = np.linalg.svd(rows)[2][-1].tolist()
    if 4 * a * c - b * b <= 1e-12:
        return None
    centre = np.linalg.solve([[2 * a, b], [b, 2 * c]], [-d, -e])
    level = f + (d * centre[0] + e * centre[1]) / 2
    values, ways = np.linalg.eigh(np.array([[a, b / 2], [b / 2, c]]))
    squares = -level / values
    if (squares <= 0).any():
        return None
    halves = np.sqrt(squares) * size
    x0, y0 = (middle + size * centre).tolist()
    return x0, y0, float(halves[0]), float(halves[1]), math.atan2(ways[1, 0], ways[0, 0])


def _line(contour: Contour, points: Points) -> Form | None:
    if contour.closed:
        return None
    middle = points.mean(axis=0)
    way = np.linalg.svd(points - middle)[2][0]
    a, b = (middle + ((end - middle) @ way) * way for end in (contour.nodes[0], contour.nodes[-1]))
    if np.hypot(*(b - a)) < 1e-6:
        return None
    return Form(
        Contour.make([a, b], closed=False),
        float(np.abs((points - middle) @ np.array([-way[1], way[0]])).max()),
    )


def _arc(contour: Contour, points: Points) -> Form | None:
    found = None if contour.closed else _circle_of(points)
    if found is None:
        return None
    x, y, radius = found
    turns = np.unwrap(np.arctan2(points[:, 1] - y, points[:, 0] - x))
    bulge = math.tan((turns[-1] - turns[0]) / 4)
    if not _LEAST_BULGE < abs(bulge) < _MOST_BULGE:
        return None
    ends = [(x + radius * math.cos(t), y + radius * math.sin(t)) for t in (turns[0], turns[-1])]
    return Form(
        Contour.make(ends, [ARC], [bulge], closed=False),
        float(np.abs(np.hypot(*(points - (x, y)).T) - radius).max()),
    )
