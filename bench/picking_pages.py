"""Picks on whole pages drawn by a library's own lines and circles, in uneven light, blurred, noisy
and saved as JPEG: another maker than ``picking``, for the same question."""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.picking import Sureness
from draxet.trueup.pick import centre_of, lock_pick

__all__ = ["PAGE_KINDS", "page_sureness"]

_Array = NDArray[np.float64]
_Ink = NDArray[np.uint8]

PAGE_KINDS = (
    "diameter line",
    "radius from its cross",
    "arch on its chord",
    "slot's ends",
    "disc",
    "half disc",
    "two circles' centres",
)
_FINE, _SIDE, _BITS = 4, 700, 4
"""Pages are drawn so many times as large, with so many bits of a pixel's fraction."""


class _Page:
    """A page with something of a known length on it: a direction, a size, and a pen."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.ink: _Ink = np.full((_SIDE * _FINE, _SIDE * _FINE), 240, np.uint8)
        self.level, self.wide = int(rng.integers(20, 110)), round(rng.uniform(2, 9) * _FINE)
        self.middle = _SIDE / 2 + rng.uniform(-20, 20, 2)
        self.radius, self.turn = rng.uniform(60, 280), rng.uniform(0, 2 * math.pi)
        self.along = np.array([math.cos(self.turn), math.sin(self.turn)])
        self.across = np.array([-self.along[1], self.along[0]])

    def _fine(self, places: _Array) -> NDArray[np.int32]:
        return np.round(np.asarray(places) * _FINE * 2**_BITS).astype(np.int32)

    def line(self, *places: _Array) -> None:
        cv2.polylines(
            self.ink, [self._fine(np.array(places))], False, self.level, self.wide, shift=_BITS
        )

    def area(self, places: _Array) -> None:
        cv2.fillPoly(self.ink, [self._fine(places)], self.level, shift=_BITS)

    def circle(self, middle: _Array, radius: float, *, filled: bool = False) -> None:
        at, reach = self._fine(middle), round(radius * _FINE * 2**_BITS)
        wide = -1 if filled else self.wide
        cv2.circle(self.ink, (int(at[0]), int(at[1])), reach, self.level, wide, shift=_BITS)

    def arc(self, middle: _Array, radius: float, start: float, swept: float) -> _Array:
        turns = start + swept * np.linspace(0, 1, 400)[:, None]
        return middle + radius * (np.cos(turns) * self.along + np.sin(turns) * self.across)

    def seen(self, rng: np.random.Generator) -> _Ink:
        """As a scanner or camera gives it."""
        grey = cv2.resize(self.ink, (_SIDE, _SIDE), interpolation=cv2.INTER_AREA).astype(np.float64)
        y, x = np.indices(grey.shape) / _SIDE
        grey *= 1 - 0.25 * (x * rng.uniform(-1, 1) + y * rng.uniform(-1, 1))
        grey = cv2.GaussianBlur(grey, (0, 0), rng.uniform(0.3, 1.3))
        grey += rng.normal(0, rng.uniform(1, 9), grey.shape)
        quality = [cv2.IMWRITE_JPEG_QUALITY, int(rng.integers(60, 96))]
        _, data = cv2.imencode(".jpg", np.clip(grey, 0, 255).astype(np.uint8), quality)
        return np.asarray(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), np.uint8)


def _drawn(
    kind: str, page: _Page, rng: np.random.Generator
) -> tuple[tuple[_Array, _Array], tuple[float, float]]:
    """The two places that a length of a kind lies between, and the radii of the circles that are
    clicked for these (0 where the place itself is)."""
    reach = page.radius * page.along
    ends, radii = (page.middle - reach, page.middle + reach), (0.0, 0.0)
    if kind == "diameter line":
        page.circle(page.middle, page.radius)
        page.line(*ends)
    elif kind == "radius from its cross":
        page.circle(page.middle, page.radius)
        page.line(page.middle - 0.25 * reach, ends[1])
        side = 0.25 * page.radius * page.across
        page.line(page.middle - side, page.middle + side)
        ends = (page.middle, ends[1])
    elif kind == "arch on its chord":
        half = rng.uniform(0.55, 0.95)
        below = math.sqrt(1 - half * half)
        foot = page.middle - page.radius * below * page.across
        ends = (page.middle - half * reach, page.middle + half * reach)
        lean = math.acos(half)
        page.line(*ends)
        page.line(*page.arc(foot, page.radius, lean, math.pi - 2 * lean))
    elif kind == "slot's ends":
        ends = (page.middle - 0.9 * reach, page.middle + 0.9 * reach)
        radii = (rng.uniform(0.12, 0.3) * page.radius,) * 2
        side = radii[0] * page.across
        for way in (-1, 1):
            page.line(ends[0] + way * side, ends[1] + way * side)
        page.line(*page.arc(ends[0], radii[0], math.pi / 2, math.pi))
        page.line(*page.arc(ends[1], radii[0], -math.pi / 2, math.pi))
    elif kind == "disc":
        page.circle(page.middle, page.radius, filled=True)
    elif kind == "half disc":
        page.area(page.arc(page.middle, page.radius, 0, math.pi))
    else:
        ends = (page.middle - 0.6 * reach, page.middle + 0.6 * reach)
        radii = (0.3 * page.radius, 0.36 * page.radius)
        for end, radius in zip(ends, radii, strict=True):
            page.circle(end, radius)
    return ends, radii


def _measured(kind: str, click: float, seed: int) -> tuple[float, float]:
    """Error and ± of one length, picked as people click it."""
    rng = np.random.default_rng(seed)
    page = _Page(rng)
    ends, radii = _drawn(kind, page, rng)
    grey = page.seen(rng)
    picks = []
    for end, radius, way in zip(ends, radii, (math.pi, 0.0), strict=True):
        around = rng.uniform(-1, 1) if kind == "slot's ends" else rng.uniform(-math.pi, math.pi)
        turn = page.turn + way + around
        clicked = end + radius * np.array([math.cos(turn), math.sin(turn)])
        clicked = clicked + rng.normal(0, click, 2)
        x, y = map(float, clicked)
        pick = lock_pick(grey, x, y, min(max(14.0 * click, 4.0), 40.0), click=click)
        picks.append((centre_of(grey, pick) or pick) if radius else pick)
    first, last = picks
    found = np.array([last.x - first.x, last.y - first.y])
    long = float(np.hypot(*found))
    way_x, way_y = found / long
    spread = first.spread.variance(way_x, way_y) + last.spread.variance(way_x, way_y)
    return long - float(np.hypot(*(ends[1] - ends[0]))), 2 * math.sqrt(spread)


def page_sureness(kind: str, click: float, seeds: Sequence[int]) -> Sureness:
    """Lengths of a kind, each on a page of its own: how they lie within their ±."""
    found = np.array([_measured(kind, click, seed) for seed in seeds])
    errors, trusts = np.abs(found[:, 0]), found[:, 1]
    needed = float(np.quantile(errors / trusts, 0.95))
    return Sureness(
        float((errors <= trusts).mean()), 1 / max(needed, 1e-9), float(np.median(errors))
    )
