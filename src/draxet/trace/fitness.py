"""Whether contours are fit for cutting."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy
import shapely

from draxet.geometry.arrays import Floats
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.spans import Spans
from draxet.job.findings import Finding, Gravity
from draxet.record import record
from draxet.trace.places import places_along

__all__ = ["Fitness", "fitness_of"]

_MANY = 3000
_SHORT_SHARE = 0.1


@record(frozen=True)
class Fitness:
    """Whether contours can be cut, in mm.

    shortest : shortest span; narrowest : narrowest place between two lines or within one part;
    smallest_hole : least width of a
    closed contour inside another. `findings` : what stands against it, each with its place; empty
    where all is well.
    """

    contours: int
    nodes: int
    shortest: float
    narrowest: float
    smallest_hole: float
    findings: tuple[Finding, ...]

    @property
    def verdict(self) -> str:
        return f"{self.findings[0].words}." if self.findings else "Fit for cutting."


def fitness_of(
    contours: Sequence[Contour], smallest_feature: float, groups: Sequence[str] | None = None
) -> Fitness:
    """Look at contours (in mm) as the machine will.

    Parameters
    ----------
    smallest_feature : mm; what is narrower or smaller cannot be made.
    groups : a word for each contour; narrow places count only between contours of one word (areas
    of one colour), and not at all for the empty one (middles of strokes, which may meet).
    """
    spans, of = joined_spans(contours)
    lengths = spans.lengths()
    nodes = sum(len(contour.nodes) for contour in contours)
    narrow, at = _narrowest_of_groups(contours, smallest_feature, groups)
    closed = [contour for contour in contours if contour.closed]
    sizes = [(min(c.box[2] - c.box[0], c.box[3] - c.box[1]), c) for c in closed]
    least, smallest = min(sizes, key=lambda pair: pair[0]) if sizes else (np.inf, None)
    short = _short(spans, lengths, smallest_feature)
    found: list[tuple[str, str, tuple[float, float]]] = []
    if len(contours) > _MANY:
        words = f"{len(contours):,} contours are too many to cut: raise the smallest speck, or trace a smaller part"
        found.append(("too-many", words, _somewhere(contours)))
    if smallest is not None and least < smallest_feature:
        few = sum(size < smallest_feature for size, _ in sizes)
        words = f"{few} contour{'s are' if few > 1 else ' is'} smaller than {smallest_feature:g} mm: raise the smallest speck, or take a finer tool"
        x0, y0, x1, y1 = smallest.box
        found.append(("too-small", words, ((x0 + x1) / 2, (y0 + y1) / 2)))
    if narrow < smallest_feature:
        words = f"The narrowest place is {narrow:.2f} mm, under {smallest_feature:g} mm: widen it in Mend, or take a finer tool"
        found.append(("narrow", words, at))
    if short is not None:
        words = f"Spans as short as {float(lengths.min()):.3f} mm make the machine stutter: lower the detail"
        found.append(("short-spans", words, short))
    return Fitness(
        len(contours),
        nodes,
        float(lengths.min()) if len(lengths) else 0.0,
        narrow,
        float(least),
        tuple(
            Finding(kind, words, Gravity.WARNS, "trace", (), (place,))
            for kind, words, place in found
        ),
    )


def _short(spans: Spans, lengths: Floats, smallest_feature: float) -> tuple[float, float] | None:
    limit = _SHORT_SHARE * smallest_feature
    few = np.flatnonzero(lengths < limit)
    if not len(lengths) or len(few) < 0.02 * len(lengths) + 1:
        return None
    k = int(few[0])
    return float(spans.starts[k, 0]), float(spans.starts[k, 1])


def _somewhere(contours: Sequence[Contour]) -> tuple[float, float]:
    box = contours[0].box
    return (box[0] + box[2]) / 2, (box[1] + box[3]) / 2


def _narrowest_of_groups(
    contours: Sequence[Contour], limit: float, groups: Sequence[str] | None
) -> tuple[float, tuple[float, float]]:
    words = ["all"] * len(contours) if groups is None else groups
    found = [
        _narrowest([c for c, word in zip(contours, words, strict=True) if word == group], limit)
        for group in sorted(set(words) - {""})
    ]
    return min(found, default=(np.inf, (0.0, 0.0)))


def _narrowest(contours: Sequence[Contour], limit: float) -> tuple[float, tuple[float, float]]:
    """The least distance between two contours, or between stretches of one that lie far apart along
    it; inf where over 3 limits."""
    if not contours:
        return np.inf, (0.0, 0.0)
    step = max(limit / 4, 1e-3)
    parts, owners, alongs, lengths = [], [], [], []
    for k, contour in enumerate(contours):
        points = places_along([contour], step).points
        parts.append(points)
        owners.append(np.full(len(points), k))
        alongs.append((np.arange(len(points)) + 0.5) * contour.length / max(len(points), 1))
        lengths.append(np.full(len(points), contour.length if contour.closed else np.inf))
    points, owner, along, length = (
        np.concatenate(parts),
        np.concatenate(owners),
        np.concatenate(alongs),
        np.concatenate(lengths),
    )
    pairs = scipy.spatial.cKDTree(points).query_pairs(1.5 * limit, output_type="ndarray")
    if not len(pairs):
        return np.inf, (0.0, 0.0)
    a, b = pairs.T
    apart = np.abs(along[a] - along[b])
    apart = np.minimum(apart, length[a] - apart)
    distance = np.hypot(*(points[a] - points[b]).T)
    other = (owner[a] != owner[b]) | (apart > np.pi * np.maximum(distance, step) + 2 * step)
    if not other.any():
        return np.inf, (0.0, 0.0)
    k = int(np.flatnonzero(other)[distance[other].argmin()])
    i, j = int(a[k]), int(b[k])
    exact = (
        _exact_distance(contours[int(owner[i])], contours[int(owner[j])])
        if owner[i] != owner[j]
        else float(distance[k])
    )
    middle = (points[i] + points[j]) / 2
    return exact, (float(middle[0]), float(middle[1]))


def _exact_distance(a: Contour, b: Contour) -> float:
    lines = [
        shapely.LineString(np.vstack([p, p[:1]]) if c.closed else p)
        for c in (a, b)
        for p in [c.flattened(1e-3)]
    ]
    return float(shapely.distance(lines[0], lines[1]))
