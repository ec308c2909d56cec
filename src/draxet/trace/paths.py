"""Paths: measured branches joined straight through crossings, ended on the strokes they meet, and joined over small gaps."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from draxet.geometry.arrays import Points
from draxet.trace.skeleton import Skeleton

__all__ = ["End", "Path", "join_gaps", "join_through"]

_STRAIGHT = math.radians(42)
_GAP_TURN = math.radians(40)


@dataclass(frozen=True)
class End:
    """One end of a path: the junction it runs into, -1 where it is free."""

    joint: int


@dataclass(frozen=True, eq=False)
class Path:
    """A stroke's middle as a chain of places (n, 2), its `width` in pixels, and its ends; n may be 0 between two junctions."""

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

    def heading(self, reach: float) -> tuple[Points, Points] | None:
        """The last place and the direction towards the end, over `reach` pixels; None for a path without places."""
        if len(self.points) < 2:
            return None
        away = np.hypot(*(self.points - self.points[-1]).T)
        beyond = np.flatnonzero(away > reach)
        part = self.points[beyond[-1] + 1 if beyond.size else 0 :]
        part = part if len(part) > 2 else self.points[-2:]
        middle = part.mean(axis=0)
        _, _, right = np.linalg.svd(part - middle, full_matrices=False)
        along = right[0] * (1.0 if (part[-1] - part[0]) @ right[0] >= 0 else -1.0)
        return middle + ((part[-1] - middle) @ along) * along, along


def join_through(paths: Sequence[Path], skeleton: Skeleton) -> list[Path]:
    """Paths joined two by two at each junction, the straightest first; what is left over ends on the stroke it meets."""
    ends: dict[int, list[tuple[int, bool]]] = {}
    for k, path in enumerate(paths):
        for at_end, end in ((False, path.first), (True, path.last)):
            if end.joint >= 0:
                ends.setdefault(end.joint, []).append((k, at_end))
    links: dict[tuple[int, bool], tuple[tuple[int, bool], Points | None]] = {}
    tails: dict[tuple[int, bool], Points] = {}
    for joint, meeting in ends.items():
        _pair(joint, meeting, paths, skeleton, links, tails)
    return _chained(paths, links, tails)


Link = dict[tuple[int, bool], tuple[tuple[int, bool], Points | None]]


def _pair(joint: int, meeting: list[tuple[int, bool]], paths: Sequence[Path], skeleton: Skeleton, links: Link, tails: dict[tuple[int, bool], Points]) -> None:
    centre, radius = skeleton.junctions[joint], float(skeleton.junction_radii[joint])
    headings = {}
    for k, at_end in meeting:
        path = paths[k] if at_end else paths[k].reversed()
        headings[k, at_end] = path.heading(3.0 * radius + 4) or (centre, np.zeros(2))
    if len(meeting) == 3 and _turn_at_tip(meeting, paths, headings, centre, radius, links):
        return
    free = list(meeting)
    through: list[tuple[Points, Points]] = []
    options = []
    for i, a in enumerate(meeting):
        for b in meeting[i + 1 :]:
            (p, u), (q, v) = headings[a], headings[b]
            turn = math.acos(min(1.0, max(-1.0, float(-(u @ v)))))
            lateral = abs(float((q - p)[0] * u[1] - (q - p)[1] * u[0])) if u.any() and v.any() else 0.0
            options.append((turn + 0.15 * lateral / max(radius, 1.0), turn, a, b))
    for _, turn, a, b in sorted(options, key=lambda option: option[0]):
        alone = len(meeting) == 2
        if a in free and b in free and a[0] != b[0] and (turn < _STRAIGHT or alone):
            free.remove(a)
            free.remove(b)
            corner = _meeting(headings[a], headings[b], centre, 3 * radius + 3) if turn > math.radians(20) else None
            links[a], links[b] = (b, corner), (a, corner)
            through.append(headings[a] if headings[a][1].any() else headings[b])
    if not free:
        return
    common = _common(headings, free, centre, radius) if not through else None
    for end in free:
        place = common if common is not None else _meeting(headings[end], through[0], centre, 3 * radius + 3)
        tails[end] = centre if place is None else place


def _turn_at_tip(
    free: list[tuple[int, bool]], paths: Sequence[Path], headings: dict[tuple[int, bool], tuple[Points, Points]], centre: Points, radius: float, links: Link
) -> bool:
    """Two strokes that run together into a sharp corner: the third branch is only the ink of its tip."""
    for tip in free:
        path = paths[tip[0]]
        if (path.last if not tip[1] else path.first).joint >= 0:
            continue
        a, b = (end for end in free if end != tip)
        if a[0] == b[0] or tip[0] in (a[0], b[0]):
            continue
        (_, u), (_, v) = headings[a], headings[b]
        half = math.acos(min(1.0, max(-1.0, float(u @ v)))) / 2  # half the angle between the strokes
        room = path.width / 2 / math.tan(max(half, 0.08)) + 1.5 * path.width + 2
        corner = _meeting(headings[a], headings[b], centre, room + 2 * radius)
        if path.reach <= room and corner is not None:
            links[a], links[b] = (b, corner), (a, corner)
            links[tip] = (tip, None)  # goes nowhere
            return True
    return False


def _meeting(a: tuple[Points, Points], b: tuple[Points, Points], centre: Points, within: float) -> Points | None:
    """Where two lines meet, if that is near the junction."""
    (p, u), (q, v) = a, b
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 0.2:
        return None
    t = float((q - p)[0] * v[1] - (q - p)[1] * v[0]) / cross
    place = p + t * u
    return place if float(np.hypot(*(place - centre))) <= within else None


def _common(headings: dict[tuple[int, bool], tuple[Points, Points]], free: list[tuple[int, bool]], centre: Points, radius: float) -> Points:
    """The place nearest to all lines that end at a junction, by least squares."""
    normal, right = 1e-3 * np.eye(2), 1e-3 * centre
    for end in free:
        p, u = headings[end]
        across = np.eye(2) - np.outer(u, u)
        if u.any():
            normal = normal + across
            right = right + across @ p
    place: Points = np.asarray(np.linalg.solve(normal, right))
    return place if float(np.hypot(*(place - centre))) <= 2 * radius + 2 else centre


def _chained(paths: Sequence[Path], links: Link, tails: dict[tuple[int, bool], Points]) -> list[Path]:
    used = [False] * len(paths)
    for k, _ in [end for end, (other, _) in links.items() if end == other]:
        used[k] = True  # the ink of a corner's tip
    starts = [(k, at_end) for k in range(len(paths)) for at_end in (False, True) if (k, at_end) not in links]
    found = []
    for k, at_end in [*starts, *((k, False) for k in range(len(paths)))]:
        if not used[k]:
            found.append(_walked(k, at_end, paths, links, tails, used))
    return [path for path in found if len(path.points) >= 2]


def _walked(k: int, entered_at_end: bool, paths: Sequence[Path], links: Link, tails: dict[tuple[int, bool], Points], used: list[bool]) -> Path:
    """From one end of a path on through links, until an end without one or back at the start."""
    parts: list[Points] = []
    widths: list[tuple[float, int]] = []
    begin = (k, entered_at_end)
    first = End(-1 if begin not in tails else 0)
    if begin in tails:
        parts.append(tails[begin][None])
    if paths[k].closed:
        used[k] = True
        return paths[k]
    while True:
        used[k] = True
        part = paths[k].reversed() if entered_at_end else paths[k]
        parts.append(part.points)
        widths.append((part.width, len(part.points) + 1))
        out = (k, not entered_at_end)
        if out not in links:
            last = End(-1 if out not in tails else 0)
            if out in tails:
                parts.append(tails[out][None])
            closed = False
            break
        (k, entered_at_end), corner = links[out]
        if corner is not None:
            parts.append(corner[None])
        if used[k]:
            closed = (k, entered_at_end) == begin
            last = End(-1)
            break
    weight = sum(count for _, count in widths)
    return Path(np.concatenate(parts), sum(w * count for w, count in widths) / weight, first, last, closed)


def join_gaps(paths: Sequence[Path], gap: float) -> list[Path]:
    """Paths whose free ends lie within `gap` and point at each other become one; a path may close on itself so."""
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
        whole = Path(np.vstack([a.points, b.points]), (a.width * len(a.points) + b.width * len(b.points)) / (len(a.points) + len(b.points)), a.first, b.last)
        paths = [path for k, path in enumerate(paths) if k not in (i, j)] + [whole]
    return paths


def _nearest_pair(paths: Sequence[Path], gap: float) -> tuple[tuple[int, bool], tuple[int, bool]] | None:
    from scipy.spatial import cKDTree  # slow to load

    ends, places, ways = [], [], []
    for k, path in enumerate(paths):
        for at_end, end in ((False, path.first), (True, path.last)):
            heading = (path if at_end else path.reversed()).heading(3 * path.width + 4)
            if not path.closed and end.joint < 0 and heading is not None:
                ends.append((k, at_end))
                places.append(path.points[-1 if at_end else 0])
                ways.append(heading[1])
    if len(ends) < 2:
        return None
    pairs = cKDTree(np.array(places)).query_pairs(gap, output_type="ndarray")
    best, chosen = math.inf, None
    for i, j in pairs.tolist():
        across = places[j] - places[i]
        size = float(np.hypot(*across))
        facing = all(size < 1e-6 or math.acos(min(1.0, max(-1.0, float(way @ to) / size))) < _GAP_TURN for way, to in ((ways[i], across), (ways[j], -across)))
        if facing and size < best and not (ends[i][0] == ends[j][0] and paths[ends[i][0]].length < 4 * gap):
            best, chosen = size, (ends[i], ends[j])
    return chosen
