"""Ink that is no stroke: dots, filled shapes, and filled parts that strokes lead to."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Bools, NDArray

__all__ = ["parted_ink", "solids_of"]

_COMPACT = 8.0
"""A piece of ink with no more area than so often the square of the largest radius that fits into it
is no stroke: one would be twice as long as it is wide."""
_BROAD = 5.0
"""Ink that so many times a usual stroke's half width fits into is filled; where many strokes meet
there is less."""
_RIM = 3.0
"""Pixels round ink that are mixed of it and paper."""


def solids_of(ink: NDArray[np.bool_]) -> Bools:
    """Which pixels (rows, columns) of ink belong to solids. Of a piece of ink that is one the
    strokes that lead to it do not."""
    radius = _radius(ink)
    labels, compact, most = _pieces(ink, radius)
    strokes = ink & ~compact[labels]
    ridge = strokes & (radius >= cv2.dilate(radius, np.ones((3, 3), np.uint8)))
    broad = _BROAD * float(np.median(radius[ridge])) if ridge.any() else np.inf
    within = np.where(compact, most / 2, broad)[labels].astype(np.float32)
    core = ink & (radius > within)
    if not core.any():
        return np.zeros_like(ink)
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    solid: Bools = ink & (away <= within + 1.0)
    rest = ink & ~solid
    labels, compact, _ = _pieces(rest, _radius(rest))
    touched = np.zeros(len(compact), dtype=bool)
    touched[labels[cv2.dilate(solid.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0]] = True
    solid |= rest & (compact & touched)[labels]  # its corners
    return solid


def _radius(ink: NDArray[np.bool_]) -> NDArray[Any]:
    """Of every pixel of ink the radius of what fits about it into the ink."""
    bordered = np.pad(ink, 1).astype(np.uint8)
    found: NDArray[Any] = cv2.distanceTransform(bordered, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return found[1:-1, 1:-1]


def _pieces(
    ink: NDArray[np.bool_], radius: NDArray[Any]
) -> tuple[NDArray[Any], Bools, NDArray[Any]]:
    """The pieces of ink: whose each pixel is, which are compact, and their largest radii."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    most = np.zeros(count, np.float32)
    np.maximum.at(most, labels[ink], radius[ink])
    compact: Bools = stats[:, cv2.CC_STAT_AREA] <= _COMPACT * most**2
    compact[0] = False
    return labels, compact, most


def parted_ink(
    values: NDArray[Any], level: float, solid: NDArray[np.bool_]
) -> tuple[NDArray[Any], NDArray[Any]]:
    """A grey picture twice: without its solids, and with nothing else; what is mixed of ink and
    paper stays with the ink that it is next to."""
    paper = values.max()
    others = (values < level) & ~solid
    to_solid, to_others = (
        cv2.distanceTransform((~of).astype(np.uint8), cv2.DIST_L2, 5) for of in (solid, others)
    )
    of_solid = solid | (~others & (to_solid <= np.minimum(to_others, _RIM)))
    return np.where(of_solid, paper, values), np.where(of_solid, values, paper)
