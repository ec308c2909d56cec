"""Paths: the middles of strokes as chains of places, where they head at their ends, and joining
them over small gaps."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import field, replace

import numpy as np
import scipy

from draxet.geometry.arrays import Points
from draxet.record import record

__all__ = ["End", "Heading", "Path", "join_gaps"]

_GAP_TURN = math.radians(40)
_LINE_WITHIN = 0.12
_ENOUGH_FOR_BEND = 8


@record(frozen=True)
class End:
    """One end of a path: the junction it runs into, -1 where it is free."""

    joint: int


@record(frozen=True, eq=False)
class Heading:
    """Where a path ends (2,), the direction it has there (2,), and how it bends, in radians a pixel
    (over 0 from x to y)."""

    place: Points
    along: Points
    bend: float = 0.0


@record(frozen=True, eq=False)
class Path:
    """A stroke's middle as a chain of places (n, 2), its `width` in pixels, and its ends; n may be
    0 between two junctions."""

    points: Points
    width: float
    first: End = field(default=End(-1))
    last: End = field(default=End(-1))
    closed: bool = False
    reach: float = 0.0
    """Length of the skeleton's branch, which tells short tips from strokes."""

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())

    def reversed(self) -> Path:
        return replace(self, points=self.points[::-1], first=self.last, last=self.first)

    def heading(self, reach: float) -> Heading | None:
        """Where the path heads at its end, by a line through its last `reach` pixels, or by a
        parabola where they bend; None for a path without places."""
        if len(self.points) < 2:
            return None
        away = np.hypot(*(self.points - self.points[-1]).T)
        beyond = np.flatnonzero(away > reach)
        part = self.points[beyond[-1] + 1 if beyond.size else 0 :]
        part = part if len(part) > 2 else self.points[-2:]
        middle = part.mean(axis=0)
        _, spread, right = np.linalg.svd(part - middle, full_matrices=False)
        along = right[0] * (1.0 if (part[-1] - part[0]) @ right[0] >= 0 else -1.0)
        if len(part) < _ENOUGH_FOR_BEND or spread[1] <= _LINE_WITHIN * math.sqrt(len(part)):
            return Heading(middle + ((part[-1] - middle) @ along) * along, along)
        steps = (part - part[-1]) @ along
        place, slope, half_bend = np.linalg.lstsq(
            np.vander(steps, 3, increasing=True), part, rcond=None
        )[0]
        size = float(np.hypot(*slope))
        return Heading(
            place,
            slope / size,
            float(2 * (slope[0] * half_bend[1] - slope[1] * half_bend[0])) / size**3,
        )


def join_gaps(paths: Sequence[Path], gap: float) -> list[Path]:
    """Paths whose free ends lie within `gap` and point at each other become one; a path may close
    on itself so."""
    paths = list(paths)
    while gap > 0:
        best = _nearest_pair(paths, gap)
        if best is None:
            break
        (i, i_end), (j, j_end) = best
        if i == j:
            paths[i] = replace(paths[i], closed=True)
            continue
        a = paths[i] if i_end else paths[i].reversed()
        b = paths[j].reversed() if j_end else paths[j]
        whole = Path(
            np.vstack([a.points, b.points]),
            (a.width * len(a.points) + b.width * len(b.points)) / (len(a.points) + len(b.points)),
            a.first,
            b.last,
        )
        paths = [path for k, path in enumerate(paths) if k not in (i, j)] + [whole]
    return paths


def _nearest_pair(
    paths: Sequence[Path], gap: float
) -> tuple[tuple[int, bool], tuple[int, bool]] | None:
    ends, places, ways = [], [], []
    for k, path in enumerate(paths):
        for at_end, end in ((False, path.first), (True, path.last)):
            heading = (path if at_end else path.reversed()).heading(3 * path.width + 4)
            if not path.closed and end.joint < 0 and heading is not None:
                ends.append((k, at_end))
                places.append(path.points[-1 if at_end else 0])
                ways.append(heading.along)
    if len(ends) < 2:
        return None
    pairs = scipy.spatial.cKDTree(np.array(places)).query_pairs(gap, output_type="ndarray")
    best, chosen = math.inf, None
    for i, j in pairs.tolist():
        across = places[j] - places[i]
        size = float(np.hypot(*across))
        facing = all(
            size < 1e-6 or math.acos(min(1.0, max(-1.0, float(way @ to) / size))) < _GAP_TURN
            for way, to in ((ways[i], across), (ways[j], -across))
        )
        if (
            facing
            and size < best
            and not (ends[i][0] == ends[j][0] and paths[ends[i][0]].length < 4 * gap)
        ):
            best, chosen = size, (ends[i], ends[j])
    return chosen
