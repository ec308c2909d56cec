"""Which contours bound an area together: an outline and its holes, of one colour."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nested_pairs

__all__ = ["outlines_with_holes"]


def outlines_with_holes(contours: Sequence[Contour], colours: Sequence[str]) -> list[list[int]]:
    """Numbers of closed contours that bound one area: an outline, then its holes."""
    groups: list[list[int]] = []
    for colour in dict.fromkeys(colours):
        some = [k for k, each in enumerate(colours) if each == colour]
        inner, outer = nested_pairs([contours[k] for k in some])
        depths = np.bincount(inner, minlength=len(some))
        direct = (depths[inner] == depths[outer] + 1) & (depths[inner] % 2 == 1)
        holes: dict[int, list[int]] = {}
        for hole, around in zip(inner[direct].tolist(), outer[direct].tolist(), strict=True):
            holes.setdefault(around, []).append(some[hole])
        groups += [[some[k], *holes.get(k, ())] for k in np.flatnonzero(depths % 2 == 0).tolist()]
    return groups
