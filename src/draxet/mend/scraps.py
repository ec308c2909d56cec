"""Scraps: what is too small to be meant and joins nothing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import partial

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.pieces import place_at, position_near
from draxet.mend.flaws import Flaw

__all__ = ["LEAST", "ON", "goes_away", "itself", "scraps"]

LEAST = 1e-6

ON = 0.05
"""mm: an end so near to a line lies on it."""


def scraps(contours: Sequence[Contour], under: float) -> list[Flaw]:
    """Contours whose extent is under an area in mm², closed ones by the area that they bound; none
    that leads from one to another."""
    found = []
    boxes = shapely.STRtree(
        np.array([shapely.box(*contour.box) for contour in contours], dtype=object)
    )
    for k, contour in enumerate(contours):
        x0, y0, x1, y1 = contour.box
        area = abs(contour.area) if contour.closed else max(x1 - x0, y1 - y0) ** 2
        if area < under and not (not contour.closed and _joins_others(k, contour, contours, boxes)):
            found.append(
                Flaw(
                    "scrap",
                    math.hypot(x1 - x0, y1 - y0),
                    ((x0 + x1) / 2, (y0 + y1) / 2),
                    frozenset({k}),
                    partial(goes_away, k, "dropped"),
                    partial(itself, contour),
                )
            )
    return found


def _joins_others(
    k: int, contour: Contour, contours: Sequence[Contour], boxes: shapely.STRtree
) -> bool:
    """Whether an end of a contour lies on another one, and its other end no farther from a third
    than the contour is long."""
    far = max(contour.length, ON)
    x0, y0, x1, y1 = contour.box
    near = [
        n
        for n in boxes.query(shapely.box(x0 - far, y0 - far, x1 + far, y1 + far)).tolist()
        if n != k
    ]
    apart = [
        {n: math.dist(place_at(contours[n], position_near(contours[n], *node)), node) for n in near}
        for node in (contour.nodes[0].tolist(), contour.nodes[-1].tolist())
    ]
    return any(
        one[a] <= ON and other[b] <= far and a != b
        for one, other in (apart, apart[::-1])
        for a in near
        for b in near
    )


def goes_away(k: int, manner: str) -> tuple[dict[int, tuple[Contour, ...]], str]:
    return {k: ()}, manner


def itself(contour: Contour) -> tuple[Contour, ...]:
    return (contour,)
