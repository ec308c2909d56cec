"""The skeleton of ink as a graph: branches of pixels between junctions and free ends.

The bare skeleton (Zhang and Suen, 1984) only says how strokes hang together; where their middles
lie is measured afterwards on the picture itself.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, Ints, NDArray, Points
from draxet.record import record

__all__ = ["Branch", "Skeleton", "skeleton_of"]

_SPUR = 1.3
_OVERLAP = 1.05
_SHARED = 1.3
_SMALL_ANGLE = np.radians(75)


@record(frozen=True, eq=False)
class Branch:
    """Pixels in their order (n, 2) as x, y of their centres in picture space; the junctions at its
    ends, -1 for a free end; a closed one has neither."""

    points: Points
    first: int
    last: int
    closed: bool = False


@record(frozen=True, eq=False)
class Skeleton:
    """`branches`; for each junction its middle (k, 2), how far it reaches from there (k,), the
    radius of ink in it (k,), and what it is made of: `cores`, (j, 2) and (j,) places and radii of
    ink; `radius` of ink at any pixel."""

    branches: tuple[Branch, ...]
    junctions: Points
    junction_radii: Floats
    ink_radii: Floats
    cores: tuple[tuple[Points, Floats], ...]
    radius: NDArray[np.float32]


def skeleton_of(ink: NDArray[np.bool_]) -> Skeleton:
    """The skeleton of ink (rows, columns), spurs dropped.

    Notes
    -----
    A spur is a branch with a free end no longer than the ink is wide where it begins.
    """
    from skimage.morphology import skeletonize  # slow to load

    shift = 0.5 - 1  # from padded pixel index to picture space
    bordered = np.pad(ink, 1)
    thin = skeletonize(bordered)
    radius = cv2.distanceTransform(bordered.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    neighbours = (
        cv2.filter2D(
            thin.astype(np.uint8), -1, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_CONSTANT
        )
        - thin
    )
    joint = thin & (neighbours > 2)
    count, labels, _, middles = cv2.connectedComponentsWithStats(
        joint.astype(np.uint8), connectivity=8
    )
    branches = _branches(thin & ~joint, labels, count)
    radii = np.zeros(count - 1)
    at = np.flatnonzero(joint)
    np.maximum.at(radii, labels.ravel()[at] - 1, radius.ravel()[at])
    clean = _without_spurs(branches, radii)
    roots = _roots(clean, radii, radius)
    places = middles[1:] + shift
    merged, reach, ink_radii, cores = places.copy(), radii.copy(), radii.copy(), []
    for k in range(len(roots)):
        members = np.flatnonzero(roots == roots[k])
        merged[k] = places[members].mean(axis=0)
        reach[k] = float((np.hypot(*(places[members] - merged[k]).T) + radii[members]).max())
        ink_radii[k] = radii[members].max()
        cores.append((places[members], radii[members]))
    return Skeleton(
        _rooted(clean, roots, shift), merged, reach, ink_radii, tuple(cores), radius[1:-1, 1:-1]
    )


def _branches(lines: NDArray[np.bool_], labels: NDArray[Any], count: int) -> list[Branch]:
    """Every connected run of branch pixels in its order."""
    width = lines.shape[1]
    around = (-width - 1, -width, -width + 1, -1, 1, width - 1, width, width + 1)
    at = np.flatnonzero(lines)
    inside = set(at.tolist())
    flat_labels = labels.ravel()
    near = np.stack([flat_labels[at + step] for step in around], axis=1)
    joints = dict(zip(at.tolist(), [sorted(set(row) - {0}) for row in near.tolist()], strict=True))
    links = {p: [p + s for s in around if p + s in inside] for p in inside}
    seen: set[int] = set()
    found: list[Branch] = []
    ends = [p for p in at.tolist() if len(links[p]) < 2]
    for start in [*ends, *at.tolist()]:
        if start in seen:
            continue
        chain = _walk(start, links, seen)
        points = np.column_stack(np.divmod(np.array(chain), width))[:, ::-1].astype(np.float64)
        closed = len(links[start]) > 1
        found.append(Branch(points, *((-1, -1) if closed else _end_joints(chain, joints)), closed))
    return found


def _walk(start: int, links: dict[int, list[int]], seen: set[int]) -> list[int]:
    chain, at = [start], start
    seen.add(start)
    while True:
        ahead = [p for p in links[at] if p not in seen]
        if not ahead:
            return chain
        at = min(ahead, key=lambda p: len(links[p])) if len(ahead) > 1 else ahead[0]
        seen.add(at)
        chain.append(at)


def _end_joints(chain: list[int], joints: dict[int, list[int]]) -> tuple[int, int]:
    """The junctions that touch a chain's two ends; where it is one pixel only, two of those that
    touch that."""
    first, last = joints[chain[0]], joints[chain[-1]]
    if len(chain) == 1:
        both = [*first, 0, 0][:2]
        return both[0] - 1, both[1] - 1
    return (first[0] if first else 0) - 1, (last[0] if last else 0) - 1


def _without_spurs(branches: list[Branch], radii: Floats) -> list[Branch]:
    """Branches without spurs; of a junction whose branches would all go the longest stays."""
    length = np.array([float(np.hypot(*np.diff(b.points, axis=0).T).sum()) + 1 for b in branches])
    spur = np.zeros(len(branches), dtype=bool)
    at_joint: dict[int, list[int]] = {}
    for k, b in enumerate(branches):
        for joint in {b.first, b.last} - {-1}:
            at_joint.setdefault(joint, []).append(k)
        if not b.closed and (b.first < 0) != (b.last < 0):
            spur[k] = length[k] < _SPUR * radii[max(b.first, b.last)] + 1.0
    for ks in at_joint.values():
        if all(spur[k] for k in ks):
            spur[max(ks, key=lambda k: length[k])] = False
    return [b for k, b in enumerate(branches) if not spur[k]]


def _roots(branches: list[Branch], radii: Floats, radius: NDArray[np.float32]) -> Ints:
    """For each junction the one it is taken as one with: where strokes cross at a slant the
    skeleton makes two of it, with a branch between them that is no stroke. Such a branch is short,
    or it is the ink that two strokes share."""
    group = list(range(len(radii)))

    def root(k: int) -> int:
        while group[k] != k:
            k = group[k]
        return k

    at_joint: dict[int, list[int]] = {}
    for k, b in enumerate(branches):
        for joint in {b.first, b.last} - {-1}:
            at_joint.setdefault(joint, []).append(k)
    for k, b in enumerate(branches):
        if (
            b.first >= 0
            and b.last >= 0
            and (
                len(b.points) < _OVERLAP * (radii[b.first] + radii[b.last])
                or _is_shared(k, branches, at_joint, radius)
            )
        ):
            group[root(b.first)] = root(b.last)
    return np.array([root(k) for k in range(len(radii))], dtype=np.int64)


def _is_shared(
    k: int, branches: list[Branch], at_joint: dict[int, list[int]], radius: NDArray[np.float32]
) -> bool:
    """Whether a branch is the ink of two strokes that cross at a small angle: two part from it at
    either end, it is no longer than they need, at that angle, to come together and part again, and
    all the way from one to another is ink."""
    b = branches[k]
    if b.first == b.last or any(len(at_joint[joint]) != 3 for joint in (b.first, b.last)):
        return False
    angles, inks = [], []
    places: list[Points] = []
    for joint in (b.first, b.last):
        ways = []
        for n in at_joint[joint]:
            if n != k:
                inks.append(_ink(branches[n], radius))
                ways += [
                    _leaving(branches[n], end, inks[-1])
                    for end in (0, -1)
                    if (branches[n].first, branches[n].last)[end] == joint
                ]
        if len(ways) != 2:
            return False
        angles.append(float(np.arccos(np.clip(ways[0][1] @ ways[1][1], -1, 1))))
        places += [place for place, _ in ways]
    angle = max(float(np.mean(angles)), 0.1)
    if max(angles) > _SMALL_ANGLE or len(b.points) > _SHARED * 4 * float(np.median(inks)) / angle:
        return False
    c, d, e, f = places
    return any(
        _all_ink(p, q, radius) and _all_ink(r, s, radius)
        for p, q, r, s in ((c, e, d, f), (c, f, d, e))
    )


def _ink(branch: Branch, radius: NDArray[np.float32]) -> float:
    """The usual radius of ink along a branch."""
    at = branch.points.astype(np.int64)
    return float(np.median(radius[at[:, 1], at[:, 0]]))


def _all_ink(start: Points, end: Points, radius: NDArray[np.float32]) -> bool:
    """Whether all the straight way between two pixels is ink."""
    way = np.rint(
        start
        + np.linspace(0, 1, max(abs(end - start).max().astype(int), 1) + 1)[:, None] * (end - start)
    ).astype(np.int64)
    return bool((radius[way[:, 1], way[:, 0]] > 0).all())


def _leaving(branch: Branch, end: int, ink: float) -> tuple[Points, Points]:
    """Where a branch is a little away from its end (0 or -1), and the direction in which it goes on
    from there."""
    chain = branch.points[:: 1 if end == 0 else -1]
    far = min(len(chain) - 1, round(6 * ink))
    step = chain[far] - chain[far // 3]
    return chain[far // 3], np.asarray(step / max(float(np.hypot(*step)), 1e-9))


def _rooted(branches: list[Branch], roots: Ints, shift: float) -> tuple[Branch, ...]:
    """Branches in picture space between the junctions that are left; those within one are gone."""

    def at(joint: int) -> int:
        return int(roots[joint]) if joint >= 0 else -1

    inner = [
        b.first >= 0 and b.last >= 0 and b.first != b.last and at(b.first) == at(b.last)
        for b in branches
    ]
    return tuple(
        Branch(b.points + shift, at(b.first), at(b.last), b.closed)
        for b, gone in zip(branches, inner, strict=True)
        if not gone
    )


def unit_steps(points: Points, reach: Ints) -> Points:
    """Directions (n, 2) along a chain, each from the chord `reach` samples to either side (cut off
    at the ends)."""
    index = np.arange(len(points))
    ahead, behind = np.minimum(index + reach, len(points) - 1), np.maximum(index - reach, 0)
    chord = points[ahead] - points[behind]
    return np.asarray(chord / np.maximum(np.hypot(chord[:, 0], chord[:, 1]), 1e-9)[:, None])
