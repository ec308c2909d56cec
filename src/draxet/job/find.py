"""What lies under the pointer or in a box: contours and nodes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import chain, compress
from operator import is_, is_not

import numpy as np
import shapely

from draxet.cached import cached_property, kept_on_the_first, known_on_the_first
from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.contour import boxes_of as boxes_at_once
from draxet.job.contour_records import ContourItem
from draxet.job.picture_records import Picture
from draxet.job.records import Job
from draxet.job.sheet_records import Guide

__all__ = [
    "Items",
    "boxes_of",
    "contour_at",
    "contours_in",
    "contours_within",
    "drawn_boxes",
    "guide_at",
    "node_at",
    "nodes_within",
    "numbers_near",
    "numbers_touching",
    "picture_under",
    "span_at",
]

_FINENESS = 0.2
_FEW = 0.1
"""Share of contours that may be other ones for the extents of the rest to be taken over."""


class Items(tuple[ContourItem, ...]):
    """Contours that are looked through again and again: their extents are known from the first
    time, or from those of the job `of` whose they are."""

    of: Job | None = None

    @cached_property
    def boxes(self) -> Floats:
        """(n, 4) extents."""
        known = known_on_the_first(drawn_boxes, self.of) if self.of else None
        if self.of is None or known is None:
            return _boxes_of(self)
        drawn = self.of.contours
        if len(self) == len(drawn) and all(map(is_, self, drawn)):
            return known
        names = set(map(id, self))
        here = np.fromiter((id(item) in names for item in drawn), bool, len(drawn))
        rows = np.flatnonzero(here)
        found = len(rows) == len(self) and all(map(is_, self, compress(drawn, here)))
        return known[rows] if found else _boxes_of(self)

    def know_from(self, before: Items) -> None:
        """Take over the extents that were known of the same contours, where few of them are other
        ones now."""
        if "boxes" not in before.__dict__ or len(before) != len(self):
            return
        others = np.flatnonzero(np.fromiter(map(is_not, self, before), bool, len(self)))
        if len(others) <= len(self) * _FEW:
            boxes = before.boxes.copy()
            boxes[others] = _boxes_of([self[k] for k in others.tolist()])
            self.__dict__["boxes"] = boxes


@kept_on_the_first
def drawn_boxes(job: Job) -> Floats:
    """(n, 4) extents of all that is drawn in a job."""
    return boxes_at_once([item.contour for item in job.contours])


def boxes_of(items: Sequence[ContourItem]) -> Floats:
    """(n, 4) extents of contours."""
    return items.boxes if isinstance(items, Items) else _boxes_of(items)


def _boxes_of(items: Sequence[ContourItem]) -> Floats:
    sides = chain.from_iterable(item.contour.box for item in items)
    return np.fromiter(sides, np.float64, 4 * len(items)).reshape(-1, 4)


def numbers_near(items: Sequence[ContourItem], x: float, y: float, reach: float) -> list[int]:
    """The numbers of contours that may come within reach of a place."""
    return numbers_touching(items, (x - reach, y - reach, x + reach, y + reach))


def numbers_touching(
    items: Sequence[ContourItem], box: tuple[float, float, float, float]
) -> list[int]:
    """The numbers of contours whose extents touch a box."""
    boxes = boxes_of(items)
    near = (
        (boxes[:, 0] <= box[2])
        & (boxes[:, 2] >= box[0])
        & (boxes[:, 1] <= box[3])
        & (boxes[:, 3] >= box[1])
    )
    return np.flatnonzero(near).tolist()


def contour_at(items: Sequence[ContourItem], x: float, y: float, reach: float) -> str | None:
    """The contour whose line passes nearest to (x, y) within `reach`, the last one drawn where
    several do."""
    best, found = reach, None
    for k in numbers_near(items, x, y, reach):
        contour = items[k].contour
        points = contour.flattened(max(reach * _FINENESS, 1e-6))
        line = np.vstack([points, points[:1]]) if contour.closed else points
        away = _distance(line, x, y)
        if away <= best:
            best, found = away, items[k].id
    return found


def span_at(
    items: Sequence[ContourItem], x: float, y: float, reach: float
) -> tuple[str, int] | None:
    """The contour and the number of its span that lies nearest to a place within `reach`; None
    where none does."""
    name = contour_at(items, x, y, reach)
    item = next((each for each in items if each.id == name), None)
    if item is None:
        return None
    points, counts = item.contour.spans.flattened(reach / 8)
    owner = np.repeat(np.arange(len(counts)), counts)
    line = np.vstack([points, item.contour.spans.ends[-1:]])
    ahead = line[1:] - line[:-1]
    share = np.clip(
        (((x, y) - line[:-1]) * ahead).sum(axis=1)
        / np.maximum((ahead * ahead).sum(axis=1), 1e-300),
        0,
        1,
    )
    away = np.hypot(*(line[:-1] + share[:, None] * ahead - (x, y)).T)
    return item.id, int(owner[int(away.argmin())])


def _distance(line: Points, x: float, y: float) -> float:
    start, step = line[:-1], np.diff(line, axis=0)
    size = np.maximum((step * step).sum(axis=1), 1e-18)
    t = np.clip((((x, y) - start) * step).sum(axis=1) / size, 0, 1)
    foot = start + t[:, None] * step
    return float(np.hypot(*(foot - (x, y)).T).min())


def contours_in(
    items: Sequence[ContourItem], x0: float, y0: float, x1: float, y1: float
) -> list[str]:
    """Contours that lie wholly in a box."""
    boxes = boxes_of(items)
    low_x, high_x, low_y, high_y = min(x0, x1), max(x0, x1), min(y0, y1), max(y0, y1)
    inside = (
        (boxes[:, 0] >= low_x)
        & (boxes[:, 2] <= high_x)
        & (boxes[:, 1] >= low_y)
        & (boxes[:, 3] <= high_y)
    )
    return [items[k].id for k in np.flatnonzero(inside).tolist()]


def contours_within(items: Sequence[ContourItem], line: Sequence[tuple[float, float]]) -> list[str]:
    """Ids of contours that lie wholly within a line drawn round them."""
    area = shapely.make_valid(shapely.Polygon(line))
    shapely.prepare(area)
    x0, y0, x1, y1 = area.bounds
    near = [
        item
        for item in items
        if x0 <= item.contour.box[0]
        and y0 <= item.contour.box[1]
        and item.contour.box[2] <= x1
        and item.contour.box[3] <= y1
    ]
    return [
        item.id
        for item in near
        if shapely.contains_xy(
            area, *item.contour.flattened(max(item.contour.length * 1e-3, 1e-6)).T
        ).all()
    ]


def nodes_within(contour: Contour, line: Sequence[tuple[float, float]]) -> list[int]:
    """Numbers of a contour's nodes within a line drawn round them."""
    inside = shapely.contains_xy(shapely.make_valid(shapely.Polygon(line)), *contour.nodes.T)
    return np.flatnonzero(inside).tolist()


def guide_at(guides: Sequence[Guide], at: tuple[float, float], reach: float) -> Guide | None:
    """The guide that is nearest to a place within `reach`; None where none is."""
    away = [
        (
            abs(
                (at[0] - g.x) * math.sin(math.radians(g.angle))
                - (at[1] - g.y) * math.cos(math.radians(g.angle))
            ),
            k,
        )
        for k, g in enumerate(guides)
    ]
    nearest, k = min(away, default=(math.inf, 0))
    return guides[k] if nearest <= reach else None


def picture_under(pictures: Sequence[Picture], x: float, y: float) -> Picture | None:
    """The foremost visible picture under a place."""
    for picture in reversed(pictures):
        px, py = picture.to_job.inverse().point(x, y)
        if picture.visible and 0 <= px <= picture.width and 0 <= py <= picture.height:
            return picture
    return None


def node_at(
    items: Sequence[ContourItem], x: float, y: float, reach: float
) -> tuple[str, int] | None:
    """The node nearest to (x, y) within `reach`: its contour and its number."""
    best, found = reach, None
    for number in numbers_near(items, x, y, reach):
        item = items[number]
        away = np.hypot(item.contour.nodes[:, 0] - x, item.contour.nodes[:, 1] - y)
        k = int(np.argmin(away))
        if away[k] <= best:
            best, found = float(away[k]), (item.id, k)
    return found
