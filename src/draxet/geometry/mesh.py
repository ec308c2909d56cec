"""Meshes: the surface of a body as triangles, and what can be told of it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from draxet.geometry.arrays import Floats, Ints
from draxet.record import record

__all__ = ["Mesh", "box_of", "is_closed", "joined", "piece_count", "surface_of", "volume_of"]


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


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """Several as one."""
    first = np.cumsum([0, *(len(mesh.places) for mesh in meshes[:-1])])
    return Mesh(
        np.vstack([mesh.places for mesh in meshes]),
        np.vstack(
            [mesh.triangles + begin for mesh, begin in zip(meshes, first.tolist(), strict=True)]
        ),
    )
