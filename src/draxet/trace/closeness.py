"""How near contours lie to the picture's edge, and whether they are fit for cutting."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from draxet.geometry.arrays import Bools, Floats, Ints, Points, dots, norms, rows
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.spans import Spans
from draxet.pixels.sample import sampled
from draxet.trace.extract import EdgeLines, edge_lines

__all__ = ["Closeness", "Fitness", "closeness_of", "closeness_of_traced", "fitness_of", "middle_closeness_of"]

_REACH = 6.0
_STEP = 0.25
_SIDE = 3.0
_STROKE_REACH = 20.0
_OFF_STROKE = 3.0


@dataclass(frozen=True, eq=False)
class Closeness:
    """Places along contours and how far the picture's edge lies from each.

    points : (n, 2) in picture space. off : (n,) pixels, over 0 where the edge lies to the left of the contour's way (y down).
    found : (n,) whether the picture has an edge within reach. owner : (n,) the contour of each.
    """

    points: Points
    off: Floats
    found: Bools
    owner: Ints

    @property
    def mean(self) -> float:
        """Mean distance in pixels where there is an edge; 0 where there is none at all."""
        return float(np.abs(self.off[self.found]).mean()) if self.found.any() else 0.0

    @property
    def greatest(self) -> float:
        """Greatest distance in pixels where there is an edge; 0 where there is none at all."""
        return float(np.abs(self.off[self.found]).max()) if self.found.any() else 0.0

    def worst(self, count: int, apart: float) -> list[tuple[float, float, float, int]]:
        """The worst places: x, y, distance in pixels (inf where there is no edge) and contour, at least `apart` pixels from each
        other."""
        size = np.where(self.found, np.abs(self.off), np.inf)
        ranked = np.where(self.found, size, 0.0)  # what has an edge comes first; the rest is counted elsewhere
        chosen: list[int] = []
        for k in np.argsort(-ranked, kind="stable").tolist():
            if all(np.hypot(*(self.points[k] - self.points[c])) >= apart for c in chosen):
                chosen.append(k)
            if len(chosen) == count:
                break
        return [(*self.points[k].tolist(), float(size[k]), int(self.owner[k])) for k in chosen]


def closeness_of_traced(contours: Sequence[Contour], traced: Sequence[str], values: NDArray[Any], level: float) -> Closeness:
    """Distance between contours and what of the picture each follows: ``edges``, ``middles`` or ``colours``.

    Parameters
    ----------
    contours : in picture space. values : (rows, columns) of uint8. level : the brightness of ink's edge.
    """
    parts = []
    for way in ("edges", "middles", "colours"):
        numbers = np.flatnonzero([word == way for word in traced])
        if numbers.size:
            some = [contours[k] for k in numbers.tolist()]
            close = middle_closeness_of(some, values, level) if way == "middles" else closeness_of(some, values, None if way == "colours" else level)
            parts.append(Closeness(close.points, close.off, close.found, numbers[close.owner]))
    if not parts:
        return closeness_of([], values, level)
    return Closeness(*(np.concatenate([getattr(part, name) for part in parts]) for name in ("points", "off", "found", "owner")))


def closeness_of(contours: Sequence[Contour], values: NDArray[Any], level: float | None, step: float = 2.0) -> Closeness:
    """Distance between contours and the picture's edge.

    Parameters
    ----------
    contours : in picture space. values : (rows, columns) of uint8. level : the brightness of the edge; None
    for half-way between what lies three pixels to either side of each place (areas of colour).
    step : pixels between the places looked at.
    """
    points, along, owner = _placed(contours, step)
    across = np.stack([along[:, 1], -along[:, 0]], axis=1)  # to the left, seen with y down
    off, found = _to_half_way(values, points, across) if level is None else _to_edge_lines(values, level, points, across)
    return Closeness(points, np.where(found, off, 0.0), found, owner)


def _to_edge_lines(values: NDArray[Any], level: float, points: Points, across: Points) -> tuple[Floats, Bools]:
    """How far the nearest edge line lies from each place, over 0 towards `across`, and whether there is one within reach."""
    size = np.array(values.shape[::-1])
    margin = int(_REACH) + 2
    low = np.clip(np.floor(points.min(axis=0)).astype(int) - margin, 0, size) if len(points) else np.zeros(2, dtype=int)
    high = np.clip(np.ceil(points.max(axis=0)).astype(int) + margin, 0, size) if len(points) else np.zeros(2, dtype=int)
    if (high <= low).any():
        return np.zeros(len(points)), np.zeros(len(points), dtype=bool)
    lines = edge_lines(values[low[1] : high[1], low[0] : high[0]], level)
    if not len(lines):
        return np.zeros(len(points)), np.zeros(len(points), dtype=bool)
    away = _nearest_along(lines, points - low)
    distance = norms(away)
    return np.where(dots(away, across) < 0, -distance, distance), distance <= _REACH


def _nearest_along(lines: EdgeLines, places: Points) -> Points:
    """From each place (n, 2) the way to the nearest point of an edge line."""
    from scipy.spatial import cKDTree  # slow to load

    _, vertex = cKDTree(lines.points).query(places)
    line = np.searchsorted(lines.firsts, vertex, side="right") - 1
    first, count = lines.firsts[line], lines.counts[line]
    here = rows(lines.points, vertex)
    best = here - places
    for step in (1, -1):
        side = rows(lines.points, first + np.remainder(vertex - first + step, count)) - here
        share = np.clip(dots(places - here, side) / np.maximum(dots(side, side), 1e-18), 0.0, 1.0)
        way = here + share[:, None] * side - places
        best = np.where((norms(way) < norms(best))[:, None], way, best)
    return best


def _to_half_way(values: NDArray[Any], points: Points, across: Points) -> tuple[Floats, Bools]:
    """As ``_to_edge_lines``, to where the brightness is half-way between what lies three pixels to either side of the place."""
    offsets = np.arange(-_REACH, _REACH + 0.01, _STEP)
    light = _cuts(values, points, across, offsets)
    side, middle = round(_SIDE / _STEP), len(offsets) // 2
    light = light - ((light[:, middle - side] + light[:, middle + side]) / 2)[:, None]
    crossing = (light[:, :-1] < 0) != (light[:, 1:] < 0)
    away = np.where(crossing, np.abs(offsets[:-1] + _STEP / 2), np.inf)
    k = away.argmin(axis=1)
    row = np.arange(len(k))
    low, high = light[row, k], light[row, k + 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        part = np.clip(np.nan_to_num(-low / (high - low)), 0, 1)
    return offsets[k] + _STEP * part, np.isfinite(away[row, k])


def middle_closeness_of(contours: Sequence[Contour], values: NDArray[Any], level: float, step: float = 2.0) -> Closeness:
    """As ``closeness_of``, for contours along the middles of strokes: the distance to the stroke's middle. Places at crossings,
    where the ink is wider than the stroke, are left out."""
    points, along, owner = _placed(contours, step)
    across = np.stack([along[:, 1], -along[:, 0]], axis=1)
    offsets = np.arange(-_STROKE_REACH, _STROKE_REACH + 0.01, _STEP)
    dark = _cuts(values, points, across, offsets) - level
    centre = len(offsets) // 2
    near = np.abs(offsets) <= _OFF_STROKE
    start = np.where(dark[:, centre] < 0, centre, np.flatnonzero(near)[dark[:, near].argmin(axis=1)]) if len(points) else np.zeros(0, dtype=np.int64)
    right, found_right = _first_light(dark, start, 1)
    left, found_left = _first_light(dark, start, -1)
    width = (right - left) * _STEP
    off = ((right + left) / 2 - centre) * _STEP
    found = found_right & found_left
    usual = np.array([float(np.median(width[found & (owner == k)])) if (found & (owner == k)).any() else np.inf for k in range(len(contours))])
    at_crossing = found & (np.abs(width - usual[owner]) > 0.35 * usual[owner] + 1.0) if len(owner) else found
    keep = ~at_crossing
    return Closeness(points[keep], np.where(found, off, 0.0)[keep], found[keep], owner[keep])


def _first_light(dark: Floats, start: Ints, sense: int) -> tuple[Floats, Bools]:
    """Going from `start` along each row in one sense, where ink ends, in samples, and whether it begins in ink and ends."""
    count = dark.shape[1]
    steps = np.arange(count)
    index = np.clip(start[:, None] + sense * steps, 0, count - 1)
    rows = np.arange(len(dark))[:, None]
    along = dark[rows, index]
    over = along >= 0
    k = over.argmax(axis=1)
    found = over.any(axis=1) & (k > 0)
    k = np.maximum(k, 1)
    rows = rows[:, 0]
    low, high = along[rows, k - 1], along[rows, k]
    with np.errstate(divide="ignore", invalid="ignore"):
        part = np.clip(np.nan_to_num(-low / (high - low)), 0, 1)
    return start + sense * (k - 1 + part), found


def _placed(contours: Sequence[Contour], step: float) -> tuple[Points, Points, Ints]:
    """Places along contours about `step` apart, the directions there, and which contour each is of."""
    spans, of = joined_spans(contours)
    if not len(spans):
        return np.zeros((0, 2)), np.zeros((0, 2)), np.zeros(0, dtype=np.int64)
    counts = np.maximum(1, np.rint(spans.lengths() / step)).astype(np.int64)
    span = np.repeat(np.arange(len(counts)), counts)
    place = np.arange(len(span)) - (np.cumsum(counts) - counts)[span]
    t = (place + 0.5) / counts[span]
    points, ahead = spans.at(span, t), spans.at(span, np.minimum(t + 1e-4, 1.0))
    back = spans.at(span, np.maximum(t - 1e-4, 0.0))
    along = ahead - back
    return points, along / np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-12)[:, None], of[span]


def _cuts(values: NDArray[Any], points: Points, across: Points, offsets: Floats) -> Floats:
    return sampled(values, points[:, None] + offsets[:, None] * across[:, None], 255)


@dataclass(frozen=True)
class Fitness:
    """Whether contours can be cut, in mm.

    shortest : shortest span; narrowest : narrowest place between two lines or within one part; smallest_hole : least width of a
    closed contour inside another. `faults` are sentences, empty where all is well; `places` (x, y) where to look for each.
    """

    contours: int
    nodes: int
    shortest: float
    narrowest: float
    smallest_hole: float
    faults: tuple[str, ...]
    places: tuple[tuple[float, float], ...]

    @property
    def verdict(self) -> str:
        return "Fit for cutting." if not self.faults else self.faults[0]


_MANY = 3000
_SHORT_SHARE = 0.1


def fitness_of(contours: Sequence[Contour], smallest_feature: float, groups: Sequence[str] | None = None) -> Fitness:
    """Look at contours (in mm) as the machine will.

    Parameters
    ----------
    smallest_feature : mm; what is narrower or smaller cannot be made.
    groups : a word for each contour; narrow places count only between contours of one word (areas of one colour), and not at
    all for the empty one (middles of strokes, which may meet).
    """
    spans, of = joined_spans(contours)
    lengths = spans.lengths()
    nodes = sum(len(contour.nodes) for contour in contours)
    narrow, at = _narrowest_of_groups(contours, smallest_feature, groups)
    closed = [contour for contour in contours if contour.closed]
    sizes = [(min(c.box[2] - c.box[0], c.box[3] - c.box[1]), c) for c in closed]
    least, smallest = min(sizes, key=lambda pair: pair[0]) if sizes else (np.inf, None)
    faults: list[str] = []
    places: list[tuple[float, float]] = []
    if len(contours) > _MANY:
        faults.append(f"{len(contours):,} contours are too many to cut: raise the smallest speck, or trace a smaller part.")
        places.append(_somewhere(contours))
    if smallest is not None and least < smallest_feature:
        few = sum(size < smallest_feature for size, _ in sizes)
        faults.append(f"{few} contour{'s are' if few > 1 else ' is'} smaller than {smallest_feature:g} mm: raise the smallest speck, or take a finer tool.")
        places.append(((smallest.box[0] + smallest.box[2]) / 2, (smallest.box[1] + smallest.box[3]) / 2))
    if narrow < smallest_feature:
        faults.append(f"The narrowest place is {narrow:.2f} mm, under {smallest_feature:g} mm: widen it in Mend, or take a finer tool.")
        places.append(at)
    short = _short(spans, lengths, smallest_feature)
    if short is not None:
        faults.append(f"Spans as short as {float(lengths.min()):.3f} mm make the machine stutter: lower the detail.")
        places.append(short)
    return Fitness(len(contours), nodes, float(lengths.min()) if len(lengths) else 0.0, narrow, float(least), tuple(faults), tuple(places))


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


def _narrowest_of_groups(contours: Sequence[Contour], limit: float, groups: Sequence[str] | None) -> tuple[float, tuple[float, float]]:
    words = ["all"] * len(contours) if groups is None else groups
    found = [_narrowest([c for c, word in zip(contours, words, strict=True) if word == group], limit) for group in sorted(set(words) - {""})]
    return min(found, default=(np.inf, (0.0, 0.0)))


def _narrowest(contours: Sequence[Contour], limit: float) -> tuple[float, tuple[float, float]]:
    """The least distance between two contours, or between stretches of one that lie far apart along it; inf where over 3 limits."""
    from scipy.spatial import cKDTree  # slow to load

    if not contours:
        return np.inf, (0.0, 0.0)
    step = max(limit / 4, 1e-3)
    parts, owners, alongs, lengths = [], [], [], []
    for k, contour in enumerate(contours):
        points, _, _ = _placed([contour], step)
        parts.append(points)
        owners.append(np.full(len(points), k))
        alongs.append((np.arange(len(points)) + 0.5) * contour.length / max(len(points), 1))
        lengths.append(np.full(len(points), contour.length if contour.closed else np.inf))
    points, owner, along, length = np.concatenate(parts), np.concatenate(owners), np.concatenate(alongs), np.concatenate(lengths)
    pairs = cKDTree(points).query_pairs(1.5 * limit, output_type="ndarray")
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
    exact = _exact_distance(contours[int(owner[i])], contours[int(owner[j])], points[i]) if owner[i] != owner[j] else float(distance[k])
    middle = (points[i] + points[j]) / 2
    return exact, (float(middle[0]), float(middle[1]))


def _exact_distance(a: Contour, b: Contour, near: Points) -> float:
    lines = [shapely.LineString(np.vstack([p, p[:1]]) if c.closed else p) for c in (a, b) for p in [c.flattened(1e-3)]]
    return float(shapely.distance(lines[0], lines[1]))
