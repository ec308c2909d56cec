"""Meshes: the surface of a body as triangles, and what can be told of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import scipy

from draxet.geometry.arrays import Floats, Ints
from draxet.record import record

__all__ = [
    "Mesh",
    "box_of",
    "is_closed",
    "joined",
    "piece_count",
    "surface_of",
    "volume_of",
    "walls_between",
    "welded",
]


@record(frozen=True, eq=False)
class Mesh:
    """Places (n, 3) in mm and triangles (m, 3) of their numbers, anticlockwise as seen from
    outside; with a name and the colour (#rrggbb) that it has."""

    places: Floats
    triangles: Ints
    name: str = ""
    colour: str = ""

    @property
    def corners(self) -> Floats:
        """The triangles' places (m, 3, 3)."""
        found: Floats = self.places[self.triangles]
        return found


def walls_between(sizes: Sequence[int], rows: int, *, closed: bool = False) -> Ints:
    """The triangles between rows of rings, each of so many places one after the other, anticlockwise as
    seen against the way of the rows; `closed` : the last row runs on into the first."""
    count, ends = sum(sizes), np.cumsum(sizes)
    here = np.arange(count)
    onward = here + 1
    onward[ends - 1] = np.append(0, ends[:-1])
    side = np.vstack(
        [
            np.column_stack([here, onward, onward + count]),
            np.column_stack([here, onward + count, here + count]),
        ]
    )
    found: Ints = np.vstack([side + count * k for k in range(rows if closed else rows - 1)])
    return found % (count * rows)


def volume_of(mesh: Mesh) -> float:
    """In mm³, over 0 where its triangles look outwards: by the divergence theorem, from the middle
    of its box, as far-off numbers would cancel."""
    if not len(mesh.triangles):
        return 0.0
    low, high = box_of([mesh])
    a, b, c = np.moveaxis(mesh.corners - (np.array(low) + np.array(high)) / 2, 1, 0)
    return float((a * np.cross(b, c)).sum() / 6)


def surface_of(mesh: Mesh) -> float:
    """In mm²."""
    a, b, c = np.moveaxis(mesh.corners, 1, 0)
    return float(np.sqrt((np.cross(b - a, c - a) ** 2).sum(axis=1)).sum() / 2)


def box_of(meshes: Sequence[Mesh]) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Least and greatest x, y, z of meshes that are not all empty."""
    places = np.vstack([mesh.places[mesh.triangles.reshape(-1)] for mesh in meshes])
    return tuple(places.min(axis=0).tolist()), tuple(places.max(axis=0).tolist())


def is_closed(mesh: Mesh) -> bool:
    """Whether each edge is run once in either direction."""
    ways = mesh.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2).astype(np.int64)
    count = len(mesh.places)
    there, back = (np.sort(ways[:, a] * count + ways[:, b]) for a, b in ((0, 1), (1, 0)))
    return bool(len(there) and (np.diff(there) > 0).all() and np.array_equal(there, back))


def piece_count(mesh: Mesh) -> int:
    """How many pieces hang together by their edges' places."""
    used = np.unique(mesh.triangles)
    if not len(used):
        return 0
    one, other = mesh.triangles[:, [0, 1]].T
    third = mesh.triangles[:, 2]
    ties = scipy.sparse.coo_array(
        (
            np.ones(2 * len(one), dtype=np.int8),
            (np.append(one, one), np.append(other, third)),
        ),
        shape=(len(mesh.places),) * 2,
    )
    label = scipy.sparse.csgraph.connected_components(ties, directed=False)[1]
    return len(np.unique(label[used]))


def welded(mesh: Mesh, grid: float) -> Mesh:
    """A mesh with one place for all that a grid (mm) makes one, without triangles that are left
    without breadth by it, nor pairs of them that look at each other's back."""
    places, which = np.unique(np.round(mesh.places / grid), axis=0, return_inverse=True)
    triangles = which.reshape(-1)[mesh.triangles]
    a, b, c = triangles.T
    triangles = triangles[(a != b) & (b != c) & (c != a)]
    first = triangles.argmin(axis=1)
    turned = np.take_along_axis(triangles, (first[:, None] + np.arange(3)) % 3, axis=1)
    key, flipped = (np.sort(turned, axis=1), turned[:, 1] > turned[:, 2])
    _, same = np.unique(key, axis=0, return_inverse=True)
    same = same.reshape(-1)
    front = np.bincount(same, ~flipped, same.max(initial=-1) + 1)
    back = np.bincount(same, flipped, same.max(initial=-1) + 1)
    paired = np.minimum(front, back)[same]
    rank = _rank_within(2 * same + flipped)
    return replace(mesh, places=places * grid, triangles=turned[rank >= paired])


def _rank_within(groups: Ints) -> Ints:
    """Of each entry how many of its group come before it."""
    order = np.argsort(groups, kind="stable")
    sorted_ = groups[order]
    begins = np.flatnonzero(np.append(True, sorted_[1:] != sorted_[:-1]))
    counts = np.diff(np.append(begins, len(sorted_)))
    found = np.empty(len(groups), dtype=np.int64)
    found[order] = np.arange(len(groups)) - np.repeat(begins, counts)
    return found


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """Several as one."""
    first = np.cumsum([0, *(len(mesh.places) for mesh in meshes[:-1])])
    return Mesh(
        np.vstack([mesh.places for mesh in meshes]),
        np.vstack(
            [mesh.triangles + begin for mesh, begin in zip(meshes, first.tolist(), strict=True)]
        ),
    )
