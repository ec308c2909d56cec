"""How near contours lie to the picture's edge.

Blur rounds every tip in the picture, and a contour that reaches its true tip lies off that rounded
edge. So much as the picture's blur explains does not count.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import scipy

from draxet.geometry.arrays import Bools, Floats, Ints, NDArray, Points, columns, dots, norms, rows
from draxet.geometry.contour import Contour
from draxet.geometry.fitting.loop_corners import tip_retreat
from draxet.pixels.sample import sampled
from draxet.record import record
from draxet.trace.extract import EdgeLines, edge_lines
from draxet.trace.levels import edge_blur
from draxet.trace.places import Places, places_along

__all__ = [
    "Closeness",
    "area_closeness_of",
    "closeness_of",
    "closeness_of_traced",
    "follows",
    "middle_closeness_of",
]

_REACH = 6.0
_STEP = 0.25
_SIDE = 3.0
_TIP = np.radians(20.0)
_FADES = 2.0
"""What blur does to a tip is gone at so many times as far from it as it moved the tip."""
_STROKE_REACH = 20.0
_OFF_STROKE = 3.0
_LEAST_FOLLOWED = 0.5
"""Of its length: so much of a contour lies by what it follows."""


@record(frozen=True, eq=False)
class Closeness:
    """Places along contours and how far the picture's edge lies from each.

    points : (n, 2) in picture space. off : (n,) pixels, over 0 where the edge lies to the left of
    the contour's way (y down).
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
        """The worst places: x, y, distance in pixels (inf where there is no edge) and contour, at
        least `apart` pixels from each other."""
        size = np.where(self.found, np.abs(self.off), np.inf)
        ranked = np.where(
            self.found, size, 0.0
        )  # what has an edge comes first; the rest is counted elsewhere
        chosen: list[int] = []
        for k in np.argsort(-ranked, kind="stable").tolist():
            if all(np.hypot(*(self.points[k] - self.points[c])) >= apart for c in chosen):
                chosen.append(k)
            if len(chosen) == count:
                break
        return [(*self.points[k].tolist(), float(size[k]), int(self.owner[k])) for k in chosen]


def closeness_of_traced(
    contours: Sequence[Contour],
    traced: Sequence[str],
    values: NDArray[Any],
    level: float,
    pixels: NDArray[Any],
    solids: NDArray[Any] | None = None,
) -> Closeness:
    """Distance between contours and what of the picture each follows: ``edges``, ``middles`` or
    ``colours``.

    Parameters
    ----------
    contours : in picture space. values : (rows, columns) of uint8. level : the brightness of ink's
    edge. pixels : (rows, columns) or (rows, columns, 3) of uint8, for areas of colour. solids : the
    picture whose edges are followed, where that is another one than `values`.
    """
    parts = []
    for way in ("edges", "middles", "colours"):
        numbers = np.flatnonzero([word == way for word in traced])
        if numbers.size:
            some = [contours[k] for k in numbers.tolist()]
            measure = {"edges": closeness_of, "middles": middle_closeness_of}.get(way)
            seen = solids if solids is not None and way == "edges" else values
            close = measure(some, seen, level) if measure else area_closeness_of(some, pixels)
            parts.append(Closeness(close.points, close.off, close.found, numbers[close.owner]))
    if not parts:
        return closeness_of([], values, level)
    return Closeness(
        *(
            np.concatenate([getattr(part, name) for part in parts])
            for name in ("points", "off", "found", "owner")
        )
    )


def follows(contour: Contour, values: NDArray[Any], level: float) -> str:
    """What of the picture a contour drawn by hand follows, ``edges`` of ink or the ``middles`` of
    strokes: what more of it lies near; empty where it follows neither.

    Parameters
    ----------
    contour : in picture space. values, level : as in ``closeness_of``.
    """
    best, follows = _LEAST_FOLLOWED, ""
    for way, close in (
        ("edges", closeness_of([contour], values, level, 4.0)),
        ("middles", middle_closeness_of([contour], values, level, 4.0)),
    ):
        near = (
            float((close.found & (np.abs(close.off) <= _SIDE)).mean()) if len(close.found) else 0.0
        )
        if near > best:
            best, follows = near, way
    return follows


def closeness_of(
    contours: Sequence[Contour], values: NDArray[Any], level: float, step: float = 2.0
) -> Closeness:
    """Distance between contours and the edges of ink.

    Parameters
    ----------
    contours : in picture space. values : (rows, columns) of uint8. level : the brightness of the
    edge.
    step : pixels between the places looked at.
    """
    places = places_along(contours, step)
    off, found = _to_edge_lines(values, level, places.points, _to_the_left(places))
    if found.any():
        off = np.sign(off) * np.maximum(
            np.abs(off) - _explained(places, edge_blur(values, level)), 0.0
        )
    return Closeness(places.points, np.where(found, off, 0.0), found, places.owner)


def area_closeness_of(
    contours: Sequence[Contour], pixels: NDArray[Any], step: float = 2.0
) -> Closeness:
    """As ``closeness_of``, for contours of areas: the distance to where the colour of `pixels`,
    (rows, columns) or (rows, columns, 3) of uint8, is half-way between what lies three pixels to
    either side. Places at the picture's rim, at tips and where three areas meet are left out."""
    places = places_along(contours, step)
    off, found = _to_half_way(pixels, places.points, _to_the_left(places))
    size = np.array(pixels.shape[1::-1])
    at_rim = (places.points < 1).any(axis=1) | (places.points > size - 1).any(axis=1)
    told = ~(at_rim | _beside(places, (places.turns() > _TIP) | (places.meetings() > 2), _SIDE))
    return _kept(Closeness(places.points, np.where(found, off, 0.0), found, places.owner), told)


def _kept(close: Closeness, keep: Bools) -> Closeness:
    return Closeness(close.points[keep], close.off[keep], close.found[keep], close.owner[keep])


def _beside(places: Places, marked: Bools, within: float | Floats) -> Bools:
    """Which places lie so near to the start of one of the `marked` spans that a cut across the
    contour says nothing there."""
    at_end = np.empty_like(marked)
    at_end[places.before()] = marked
    return np.asarray(
        marked[places.span] & (places.behind < within)
        | at_end[places.span] & (places.ahead < within)
    )


def _to_the_left(places: Places) -> Points:
    """Unit vectors across the contours, to the left of their way, seen with y down."""
    return columns(places.along[:, 1], -places.along[:, 0])


def _explained(places: Places, blur: float) -> Floats:
    """How far off the picture's edge each place may lie for the blur at a tip beside it: at the tip
    itself as far as blur moves the edge inwards there, and less and less away from it."""
    turns = places.turns()
    retreat = np.where(turns > _TIP, tip_retreat(turns, blur), 0.0)
    at_end = np.empty_like(retreat)
    at_end[places.before()] = retreat
    here, there = retreat[places.span], at_end[places.span]
    return np.asarray(
        np.maximum(np.maximum(here - places.behind / _FADES, there - places.ahead / _FADES), 0.0)
    )


def _to_edge_lines(
    values: NDArray[Any], level: float, points: Points, across: Points
) -> tuple[Floats, Bools]:
    """How far the nearest edge line lies from each place, over 0 towards `across`, and whether
    there is one within reach."""
    size = np.array(values.shape[::-1])
    margin = int(_REACH) + 2
    low = (
        np.clip(np.floor(points.min(axis=0)).astype(int) - margin, 0, size)
        if len(points)
        else np.zeros(2, dtype=int)
    )
    high = (
        np.clip(np.ceil(points.max(axis=0)).astype(int) + margin, 0, size)
        if len(points)
        else np.zeros(2, dtype=int)
    )
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
    _, vertex = scipy.spatial.cKDTree(lines.points).query(places)
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


def _to_half_way(pixels: NDArray[Any], points: Points, across: Points) -> tuple[Floats, Bools]:
    """As ``_to_edge_lines``, to where the colour is half-way between what lies three pixels to
    either side of the place."""
    offsets = np.arange(-_REACH, _REACH + 0.01, _STEP)
    side, middle = round(_SIDE / _STEP), len(offsets) // 2
    seen = np.atleast_3d(_cuts(pixels, points, across, offsets))
    here, there = seen[:, middle - side], seen[:, middle + side]
    light = np.einsum("nmc,nc->nm", seen - ((here + there) / 2)[:, None], there - here)
    crossing = (light[:, :-1] < 0) != (light[:, 1:] < 0)
    away = np.where(crossing, np.abs(offsets[:-1] + _STEP / 2), np.inf)
    k = away.argmin(axis=1)
    row = np.arange(len(k))
    low, high = light[row, k], light[row, k + 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        part = np.clip(np.nan_to_num(-low / (high - low)), 0, 1)
    return offsets[k] + _STEP * part, np.isfinite(away[row, k])


def middle_closeness_of(
    contours: Sequence[Contour], values: NDArray[Any], level: float, step: float = 2.0
) -> Closeness:
    """As ``closeness_of``, for contours along the middles of strokes: the distance to the stroke's
    middle. Places at crossings, where the ink is wider than the stroke, and at tips, are left
    out."""
    places = places_along(contours, step)
    points, owner, across = places.points, places.owner, _to_the_left(places)
    offsets = np.arange(-_STROKE_REACH, _STROKE_REACH + 0.01, _STEP)
    dark = _cuts(values, points, across, offsets) - level
    centre = len(offsets) // 2
    near = np.abs(offsets) <= _OFF_STROKE
    start = (
        np.where(dark[:, centre] < 0, centre, np.flatnonzero(near)[dark[:, near].argmin(axis=1)])
        if len(points)
        else np.zeros(0, dtype=np.int64)
    )
    right, found_right = _first_light(dark, start, 1)
    left, found_left = _first_light(dark, start, -1)
    width = (right - left) * _STEP
    off = ((right + left) / 2 - centre) * _STEP
    found = found_right & found_left
    usual = np.array(
        [
            float(np.median(width[found & (owner == k)]))
            if (found & (owner == k)).any()
            else np.inf
            for k in range(len(contours))
        ]
    )
    at_crossing = (
        found & (np.abs(width - usual[owner]) > 0.35 * usual[owner] + 1.0) if len(owner) else found
    )
    at_tip = _beside(places, places.turns() > _TIP, usual[owner] / 2 + 1.0) if len(owner) else found
    return _kept(
        Closeness(points, np.where(found, off, 0.0), found, owner), ~(at_crossing | at_tip)
    )


def _first_light(dark: Floats, start: Ints, sense: int) -> tuple[Floats, Bools]:
    """Going from `start` along each row in one sense, where ink ends, in samples, and whether it
    begins in ink and ends."""
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


def _cuts(values: NDArray[Any], points: Points, across: Points, offsets: Floats) -> Floats:
    return sampled(values, points[:, None] + offsets[:, None] * across[:, None], 255)
