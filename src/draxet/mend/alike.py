"""Contours that are like others: in size, in colour, open, or tiny."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.contour import boxes_of, lengths_of
from draxet.job.contour_records import ContourItem

__all__ = ["alike_in_colour", "alike_in_size", "tiny"]

_SIZE_SHARE = 0.01


def alike_in_size(
    items: Sequence[ContourItem], chosen: Sequence[ContourItem], within: float
) -> set[str]:
    """Ids of those as large as one of `chosen`, also lying on their side: in width, height and
    length within a hundredth, or `within` mm where that is more."""
    wanted, found = np.unique(_sizes(chosen), axis=0), {item.id for item in chosen}
    others = [item for item in items if item.id not in found]
    reach = np.maximum(_SIZE_SHARE * wanted, within)
    return found.intersection(item.id for item in items) | {
        item.id
        for item, size in zip(others, _sizes(others), strict=True)
        if (np.abs(wanted - size) <= reach).all(axis=1).any()
    }


def alike_in_colour(items: Sequence[ContourItem], chosen: Sequence[ContourItem]) -> set[str]:
    """Ids of those of the same colour, or without one, as one of `chosen`."""
    colours = {item.colour for item in chosen}
    return {item.id for item in items if item.colour in colours}


def tiny(items: Sequence[ContourItem], least: float) -> set[str]:
    """Ids of those smaller both ways than `least` mm."""
    return {
        item.id
        for item in items
        if max(item.contour.box[2] - item.contour.box[0], item.contour.box[3] - item.contour.box[1])
        < least
    }


def _sizes(items: Sequence[ContourItem]) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
    """(n, 3): the longer side, the shorter one, and the length along."""
    contours = [item.contour for item in items]
    boxes = boxes_of(contours)
    sides = np.sort(boxes[:, 2:] - boxes[:, :2], axis=1)[:, ::-1]
    return np.column_stack([sides, lengths_of(contours)]) if len(items) else np.zeros((0, 3))
