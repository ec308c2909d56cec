"""Numbers of what exists, to be typed: the length of a line or curve, the radius of a circle or
arc, the axes of an ellipse."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, LINE
from draxet.job.contour_edits import change_contours, set_ellipse
from draxet.job.records import Job

__all__ = ["axes_of", "radius_of", "set_axes", "set_length", "set_radius"]


def radius_of(contour: Contour, span: int | None = None) -> float | None:
    """The radius of a whole circle, or of the arc that is meant; None where there is none."""
    circle = contour.circle_shape
    if circle is not None:
        return circle[2]
    if span is None or contour.kinds[span] != ARC or not contour.bulges[span]:
        return None
    return float(contour.spans.take(np.array([span])).arc_shapes().radii[0])


def set_radius(contour: Contour, radius: float, span: int | None = None) -> Contour | None:
    """A circle of another radius about its centre; or an arc of another radius between its ends, on
    the side where it bulges. None where the ends of the arc lie farther apart than twice the
    radius.

    Raises
    ------
    ValueError : where the radius is not over 0.
    """
    if not radius > 0:
        raise ValueError(f"the radius must be over 0 mm, got {radius:g}")
    circle = contour.circle_shape
    if circle is not None:
        made = Contour.circle(circle[0], circle[1], radius)
        return made if contour.area >= 0 else made.reversed()
    if span is None or contour.kinds[span] != ARC:
        return None
    half = float(np.hypot(*(contour.spans.ends[span] - contour.spans.starts[span]))) / 2
    if radius < half:
        return None
    bulges = contour.bulges.copy()
    turn = math.asin(min(half / radius, 1.0))  # half of the sweep, of the smaller arc
    if abs(float(bulges[span])) > 1:
        turn = math.pi - turn
    bulges[span] = math.copysign(math.tan(turn / 2), float(bulges[span]))
    return Contour.make(
        contour.nodes, contour.kinds, bulges, contour.handles, closed=contour.closed
    )


def set_length(contour: Contour, span: int, length: float) -> Contour:
    """A contour with a line of another length: its end moves, with all that hangs on it at an open
    contour's end, its start stays.

    Raises
    ------
    ValueError : where the span is no line, or the length not over 0.
    """
    if contour.kinds[span] != LINE:
        raise ValueError("only a line's length can be typed")
    if not length > 0:
        raise ValueError(f"the length must be over 0 mm, got {length:g}")
    start, end = contour.spans.starts[span], contour.spans.ends[span]
    by = (end - start) * (length / float(np.hypot(*(end - start))) - 1)
    nodes, handles = contour.nodes.copy(), contour.handles.copy()
    moved = range(span + 1, len(nodes)) if not contour.closed else [(span + 1) % len(nodes)]
    for node in moved:
        nodes[node] += by
    curved = contour.handles.any(axis=(1, 2))
    for k in np.flatnonzero(curved).tolist():
        if k in moved:
            handles[k, 0] += by
        if (k + 1) % len(nodes) in moved:
            handles[k, 1] += by
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def axes_of(ellipse: Affine) -> tuple[float, float, float]:
    """An ellipse's half axes in mm, the longer first, and the angle of the longer in degrees, -90
    to 90."""
    matrix = np.array([[ellipse.a, ellipse.b], [ellipse.d, ellipse.e]])
    ways, sizes, _ = np.linalg.svd(matrix)
    angle = math.degrees(math.atan2(ways[1, 0], ways[0, 0]))
    return float(sizes[0]), float(sizes[1]), (angle + 90.0) % 180.0 - 90.0


def set_axes(job: Job, contour_id: str, long: float, short: float, angle: float) -> Job:
    """An ellipse of other half axes, the first of them at an angle, about its middle; a circle
    where both are equal.

    Raises
    ------
    ValueError : where an axis is not over 0.
    """
    if not (long > 0 and short > 0):
        raise ValueError(f"half axes must be over 0 mm, got {long:g} and {short:g}")
    item = job.layout.contour_by_id[contour_id]
    if item.ellipse is None:
        raise ValueError("only an ellipse has axes")
    x, y = item.ellipse.c, item.ellipse.f
    laid = Affine.scaled(long, short).then(Affine.turned(angle)).then(Affine.moved(x, y))
    return (
        change_contours(job, {contour_id: Contour.circle(x, y, long)})
        if long == short
        else set_ellipse(job, contour_id, laid)
    )
