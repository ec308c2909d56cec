"""Crossings: measured branches joined two by two where strokes cross, and ended on the strokes they
meet.

Where strokes cross, the picture does not show their middles. Each goes on there by its direction
and its bend to the one that it meets best; the way between them, a *bridge*, runs smoothly from the
one into the other.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TypeAlias

import numpy as np

from draxet.geometry.arrays import Points
from draxet.trace.paths import End, Heading, Path
from draxet.trace.skeleton import Skeleton

__all__ = ["join_through"]

_STRAIGHT = math.radians(42)
_CORNER = math.radians(20)
_LEAST_LOOP = 8.0
"""A stroke goes on into itself only where it is so many radii of the junction long."""
_INK_SHARE = 0.75
_NO_BRIDGE = np.zeros((0, 2))

PathEnd: TypeAlias = tuple[int, bool]
"""A path's number, and whether its last end is meant."""
Links: TypeAlias = dict[PathEnd, tuple[PathEnd, Points]]
"""For an end the one it goes on to, and the bridge between them."""


def join_through(paths: Sequence[Path], skeleton: Skeleton) -> list[Path]:
    """Paths joined two by two at each junction, the straightest first; what is left over ends on
    the stroke it meets."""
    ends: dict[int, list[PathEnd]] = {}
    for k, path in enumerate(paths):
        for at_end, end in ((False, path.first), (True, path.last)):
            if end.joint >= 0:
                ends.setdefault(end.joint, []).append((k, at_end))
    links: Links = {}
    tails: dict[PathEnd, Points] = {}
    for joint, meeting in ends.items():
        _pair(joint, meeting, paths, skeleton, links, tails)
    return _chained(paths, links, tails)


def _pair(
    joint: int,
    meeting: list[PathEnd],
    paths: Sequence[Path],
    skeleton: Skeleton,
    links: Links,
    tails: dict[PathEnd, Points],
) -> None:
    centre, radius = skeleton.junctions[joint], float(skeleton.junction_radii[joint])
    reach = max(3.0 * float(skeleton.ink_radii[joint]) + 4, 2.0 * radius)
    headings = {}
    for k, at_end in meeting:
        path = paths[k] if at_end else paths[k].reversed()
        headings[k, at_end] = path.heading(reach) or Heading(centre, np.zeros(2))
    if len(meeting) == 3 and _turn_at_tip(meeting, paths, headings, centre, radius, links):
        return
    free = list(meeting)
    ways: list[Points] = []
    options = []
    for i, a in enumerate(meeting):
        for b in meeting[i + 1 :]:
            turn, aside = _misfit(headings[a], headings[b])
            options.append((turn + 0.15 * aside / max(radius, 1.0), turn, a, b))
    for _, turn, a, b in sorted(options, key=lambda option: option[0]):
        alone = len(meeting) == 2
        loop = a[0] == b[0] and paths[a[0]].reach < _LEAST_LOOP * radius
        if a in free and b in free and not loop and (turn < _STRAIGHT or alone):
            bridge = _bridge(headings[a], headings[b], turn, centre, 3 * radius + 3)
            way = np.vstack([headings[a].place, bridge, headings[b].place])
            if not (alone or _in_ink(way, skeleton)):
                continue
            free.remove(a)
            free.remove(b)
            links[a], links[b] = (b, bridge), (a, bridge[::-1])
            ways.append(way)
    if not free:
        return
    common = _common(headings, free, centre, radius) if not ways else None
    for end in free:
        place = (
            common
            if common is not None
            else _on_way(headings[end], ways[0], centre, 3 * radius + 3)
        )
        for goal in (place, centre):
            if goal is not None and _in_ink(np.vstack([headings[end].place, goal]), skeleton):
                tails[end] = goal
                break


def _in_ink(way: Points, skeleton: Skeleton) -> bool:
    """Whether nearly all of a way (n, 2) is ink."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(way, axis=0).T))])
    at = np.linspace(0, along[-1], max(round(2 * along[-1]), 2))
    rows, columns = skeleton.radius.shape
    x, y = (
        np.clip(np.interp(at, along, way[:, k]), 0, size - 1).astype(np.int64)
        for k, size in ((0, columns), (1, rows))
    )
    return float((skeleton.radius[y, x] > 0).mean()) >= _INK_SHARE


def _misfit(a: Heading, b: Heading) -> tuple[float, float]:
    """How far a stroke from `a` on to `b` turns otherwise than both bend (radians), and how far `b`
    lies aside of its way (pixels)."""
    if not (a.along.any() and b.along.any()):
        return math.pi / 2, 0.0
    chord = b.place - a.place
    size, turn = float(np.hypot(*chord)), _angle(a.along, -b.along)
    aside = abs(math.sin(_angle(a.along, chord) - turn / 2)) * size if size > 1e-9 else 0.0
    return abs(turn - (a.bend - b.bend) / 2 * size), aside


def _angle(u: Points, v: Points) -> float:
    """The signed angle from one direction to another, over 0 from x to y."""
    return math.atan2(float(u[0] * v[1] - u[1] * v[0]), float(u @ v))


def _bridge(a: Heading, b: Heading, turn: float, centre: Points, within: float) -> Points:
    """Places between two ends that become one stroke: where they meet in a corner, else along a
    smooth curve, a pixel apart."""
    if turn > _CORNER:
        corner = _meeting(a, b, centre, within)
        return _NO_BRIDGE if corner is None else corner[None]
    size = float(np.hypot(*(b.place - a.place)))
    t = np.linspace(0, 1, max(round(size), 1) + 1)[1:-1, None]
    if (b.place - a.place) @ a.along <= 0 or (b.place - a.place) @ b.along >= 0:
        return _NO_BRIDGE
    v = 1 - t
    return np.asarray(
        v * v * (1 + 2 * t) * a.place
        + t * t * (1 + 2 * v) * b.place
        + v * t * size * (v * a.along + t * b.along)
    )


def _turn_at_tip(
    free: list[PathEnd],
    paths: Sequence[Path],
    headings: dict[PathEnd, Heading],
    centre: Points,
    radius: float,
    links: Links,
) -> bool:
    """Two strokes that run together into a sharp corner: the third branch is only the ink of its
    tip."""
    for tip in free:
        path = paths[tip[0]]
        if (path.last if not tip[1] else path.first).joint >= 0:
            continue
        a, b = (end for end in free if end != tip)
        if a[0] == b[0] or tip[0] in (a[0], b[0]):
            continue
        half = (
            abs(_angle(headings[a].along, headings[b].along)) / 2
        )  # half the angle between the strokes
        room = path.width / 2 / math.tan(max(half, 0.08)) + 1.5 * path.width + 2
        corner = _meeting(headings[a], headings[b], centre, room + 2 * radius)
        if path.reach <= room and corner is not None:
            links[a], links[b] = (b, corner[None]), (a, corner[None])
            links[tip] = (tip, _NO_BRIDGE)  # goes nowhere
            return True
    return False


def _meeting(a: Heading, b: Heading, centre: Points, within: float) -> Points | None:
    """Where two lines meet, if that is near the junction."""
    u, v, gap = a.along, b.along, b.place - a.place
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 0.2:
        return None
    place = a.place + float(gap[0] * v[1] - gap[1] * v[0]) / cross * u
    return place if float(np.hypot(*(place - centre))) <= within else None


def _on_way(end: Heading, way: Points, centre: Points, within: float) -> Points | None:
    """Where a line meets the way (n, 2) of another stroke, drawn on at both its ends, if that is
    near the junction."""
    if not end.along.any():
        return None
    drawn = np.vstack(
        [way[0] - within * _unit(way[1] - way[0]), way, way[-1] + within * _unit(way[-1] - way[-2])]
    )
    off = drawn - end.place
    side = off[:, 0] * end.along[1] - off[:, 1] * end.along[0]
    crossed = np.flatnonzero((side[:-1] < 0) != (side[1:] < 0))
    share = (side[crossed] / (side[crossed] - side[crossed + 1]))[:, None]
    places = drawn[crossed] + share * (drawn[crossed + 1] - drawn[crossed])
    places = places[np.hypot(*(places - centre).T) <= within]
    return places[np.hypot(*(places - centre).T).argmin()] if len(places) else None


def _unit(vector: Points) -> Points:
    return np.asarray(vector / max(float(np.hypot(*vector)), 1e-9))


def _common(
    headings: dict[PathEnd, Heading], free: list[PathEnd], centre: Points, radius: float
) -> Points:
    """The place nearest to all lines that end at a junction, by least squares."""
    normal, right = 1e-3 * np.eye(2), 1e-3 * centre
    for end in free:
        p, u = headings[end].place, headings[end].along
        across = np.eye(2) - np.outer(u, u)
        if u.any():
            normal = normal + across
            right = right + across @ p
    place: Points = np.asarray(np.linalg.solve(normal, right))
    return place if float(np.hypot(*(place - centre))) <= 2 * radius + 2 else centre


def _chained(paths: Sequence[Path], links: Links, tails: dict[PathEnd, Points]) -> list[Path]:
    used = [False] * len(paths)
    for k, _ in [end for end, (other, _) in links.items() if end == other]:
        used[k] = True  # the ink of a corner's tip
    starts = [
        (k, at_end)
        for k in range(len(paths))
        for at_end in (False, True)
        if (k, at_end) not in links
    ]
    found = []
    for k, at_end in [*starts, *((k, False) for k in range(len(paths)))]:
        if not used[k]:
            found.append(_walked(k, at_end, paths, links, tails, used))
    return [path for path in found if len(path.points) >= 2]


def _walked(
    k: int,
    entered_at_end: bool,
    paths: Sequence[Path],
    links: Links,
    tails: dict[PathEnd, Points],
    used: list[bool],
) -> Path:
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
        (k, entered_at_end), bridge = links[out]
        parts.append(bridge)
        if used[k]:
            closed = (k, entered_at_end) == begin
            last = End(-1)
            break
    weight = sum(count for _, count in widths)
    return Path(
        np.concatenate(parts), sum(w * count for w, count in widths) / weight, first, last, closed
    )
