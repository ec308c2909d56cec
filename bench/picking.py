"""Simulated picks: square lines, corners, crossings, free ends and area corners, thin and thick,
clicked as people click, at every zoom; whether lengths between them lie within their ±, and how
much wider that is than need be."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from draxet.geometry.covariance import Covariance
from draxet.trueup.pick import Pick, centre_of, lock_pick

__all__ = ["BENT_KINDS", "KINDS", "ZOOMS", "Sureness", "end_pick", "sureness"]

_Array = NDArray[np.float64]

KINDS = (
    "square line",
    "L corner",
    "T corner",
    "crossing",
    "free end",
    "middle, free along",
    "area corner",
)
BENT_KINDS = (
    "square line, bent",
    "free end, bent",
    *(
        f"{kind}, {bent}"
        for kind in ("L corner", "T corner", "crossing", "area corner")
        for bent in ("one bent", "both bent")
    ),
    "circle's rim",
    "circle's centre",
)
"""The same places with one branch or both drawn as arcs, and whole circles: their rim where a line
comes to it, and their centre."""
ZOOMS = {"whole scan": 3.9, "one to one": 1.0, "four times": 0.25}
"""Picture pixels to one of the screen: a scan of 3,000 pixels wholly in view, and nearer."""
_PATCH = 260
_MOST_ROUND = 400.0
"""Pixels of radius up to which a whole circle is drawn."""
_DRAWN = 0.1
"""A line is drawn within so much of its width (one standard deviation) of where it was meant."""


@dataclass(frozen=True)
class Sureness:
    """The share of lengths within their ±, the ± against what would just hold 95 % of the errors,
    and the median error in pixels."""

    inside: float
    too_wide: float
    error: float


@dataclass(frozen=True)
class _Branch:
    """A line through a place at an angle (radians), from `start` to `stop` along it, turning `bend`
    radians a pixel."""

    angle: float
    start: float
    stop: float
    bend: float = 0.0

    def seen_from(self, x: _Array, y: _Array, at: _Array) -> tuple[_Array, _Array]:
        """How far places lie along it and beside it."""
        c, s = math.cos(self.angle), math.sin(self.angle)
        along, beside = (x - at[0]) * c + (y - at[1]) * s, -(x - at[0]) * s + (y - at[1]) * c
        if not self.bend:
            return along, beside
        radius = 1 / self.bend
        away = np.hypot(along, radius - beside)
        turned = np.arctan2(along * np.sign(radius), (radius - beside) * np.sign(radius))
        return turned * abs(radius), (abs(radius) - away) * np.sign(radius)

    def ink(self, x: _Array, y: _Array, at: _Array, width: float) -> _Array:
        """The line, antialiased."""
        along, beside = self.seen_from(x, y, at)
        return (
            np.clip(width / 2 + 0.5 - np.abs(beside), 0, 1)
            * np.clip(along - self.start + 0.5, 0, 1)
            * np.clip(self.stop - along + 0.5, 0, 1)
        )


def _bends(kind: str, width: float, click: float, rng: np.random.Generator) -> tuple[float, float]:
    """How the two branches of a place turn (radians a pixel): circles as small as can well be
    clicked, and large ones."""
    if not kind.endswith(("bent", "rim", "centre")):
        return 0.0, 0.0
    least = max(25.0, 4 * width, 8 * click)
    first, second = (
        rng.choice((-1.0, 1.0))
        / math.exp(rng.uniform(math.log(least), math.log(max(900.0, 2 * least))))
        for _ in range(2)
    )
    if kind.endswith("one bent"):
        return (first, 0.0) if rng.random() < 0.5 else (0.0, second)
    return first, second


def _drawn(
    kind: str,
    along: float,
    bends: tuple[float, float],
    truth: _Array,
    width: float,
    rng: np.random.Generator,
) -> _Array:
    """The ink of a place of a kind (0 to 1), drawn by hand: off across by a share of its width, and
    where it ends also along."""
    x, y = np.meshgrid(np.arange(_PATCH) + 0.5, np.arange(_PATCH) + 0.5)
    plain = kind.split(",")[0]
    square = along + math.pi / 2

    def line(angle: float, start: float, stop: float, bend: float) -> _Array:
        normal, way = (
            np.array([-math.sin(angle), math.cos(angle)]),
            np.array([math.cos(angle), math.sin(angle)]),
        )
        off = normal * rng.normal(0, _DRAWN * width) + way * (
            rng.normal(0, _DRAWN * width) if plain == "free end" else 0.0
        )
        round_it = 0.45 * 2 * math.pi / abs(bend) if bend else math.inf
        return _Branch(angle, max(start, -round_it), min(stop, round_it), bend).ink(
            x, y, truth + off, width
        )

    far = 2.0 * _PATCH
    lean = rng.uniform(math.radians(55), math.radians(125))
    if plain == "square line":
        return line(square, -far, far, bends[0])
    if plain == "L corner":
        return np.maximum(
            line(along, -width / 2, far, bends[0]), line(along + lean, -width / 2, far, bends[1])
        )
    if plain == "T corner":
        return np.maximum(line(square, -far, far, bends[0]), line(along, 0, far, bends[1]))
    if plain == "crossing":
        return np.maximum(line(along, -far, far, bends[0]), line(along + lean, -far, far, bends[1]))
    if plain == "area corner":
        first, second = (
            _Branch(angle, 0, 0, bend).seen_from(x, y, truth)[1]
            for angle, bend in ((along, bends[0]), (square, bends[1]))
        )
        near = (x - truth[0]) * math.cos(along + math.pi / 4) + (y - truth[1]) * math.sin(
            along + math.pi / 4
        ) > -0.4 / max(map(abs, (*bends, 1e-9)))
        return cv2.GaussianBlur(np.where((first > 0) & (second < 0) & near, 1.0, 0.0), (0, 0), 0.5)
    return line(along, 0.0 if plain == "free end" else -far, far, bends[0])


def _circle(
    kind: str, along: float, truth: _Array, bend: float, width: float, rng: np.random.Generator
) -> tuple[_Array, _Array]:
    """The ink of a whole circle about a centre, or through a place with a line that comes to it
    from its middle; and where its rim is clicked."""
    size = round(2.2 * min(1 / abs(bend), _MOST_ROUND)) + _PATCH
    x, y = np.meshgrid(
        np.arange(size) + 0.5 - (size - _PATCH) / 2, np.arange(size) + 0.5 - (size - _PATCH) / 2
    )
    radius = min(1 / abs(bend), _MOST_ROUND)
    way = np.array([math.cos(along), math.sin(along)])
    middle = truth if kind == "circle's centre" else truth + radius * way
    drawn = middle + rng.normal(0, _DRAWN * width, 2)
    ink = np.clip(width / 2 + 0.5 - np.abs(np.hypot(x - drawn[0], y - drawn[1]) - radius), 0, 1)
    if kind == "circle's rim":
        return np.maximum(
            ink,
            _Branch(along, 0, 2 * radius).ink(
                x, y, truth + rng.normal(0, _DRAWN * width) * np.array([-way[1], way[0]]), width
            ),
        ), truth
    turn = rng.uniform(0, 2 * math.pi)
    return ink, truth + radius * np.array([math.cos(turn), math.sin(turn)])


def end_pick(
    kind: str, along: float, click: float, rng: np.random.Generator
) -> tuple[Pick, NDArray[np.float64], NDArray[np.float64]]:
    """A pick at the end of a length that runs at angle `along`: the pick, the true place, and the
    direction that counts."""
    width = rng.uniform(2, 12)
    truth = _PATCH / 2 + rng.uniform(-1, 1, 2)
    direction = np.array([math.cos(along), math.sin(along)])
    bends = _bends(kind, width, click, rng)
    shift, at = np.zeros(2), truth
    if kind.startswith("circle"):
        ink, at = _circle(kind, along, truth, bends[0], width, rng)
        shift = np.full(2, (len(ink) - _PATCH) / 2)
    else:
        ink = _drawn(kind, along, bends, truth, width, rng)
    grey = np.clip(
        235
        - 130 * cv2.GaussianBlur(ink, (0, 0), 0.8)
        + rng.normal(0, rng.uniform(2, 8), ink.shape),
        0,
        255,
    ).astype(np.uint8)
    clicked = at + rng.normal(0, click, 2) + shift
    pick = lock_pick(
        grey, float(clicked[0]), float(clicked[1]), min(max(14.0 * click, 4.0), 40.0), click=click
    )
    if kind == "circle's centre":
        pick = centre_of(grey, pick) or pick
    return pick, truth + shift, direction


def sureness(kind: str, click: float, seeds: Sequence[int]) -> Sureness:
    """Lengths between two such places, far apart: error and ± along the length."""
    errors, trusts = [], []
    for seed in seeds:
        rng = np.random.default_rng(seed)
        along = rng.uniform(0, 2 * math.pi)
        error, variance = 0.0, 0.0
        for turn in (0.0, math.pi):
            pick, truth, direction = end_pick(kind, along + turn, click, rng)
            error += float((np.array([pick.x, pick.y]) - truth) @ direction)
            spread: Covariance = pick.spread
            variance += spread.variance(*direction)
        errors.append(abs(error))
        trusts.append(2 * math.sqrt(variance))
    found, trust = np.array(errors), np.array(trusts)
    needed = float(np.quantile(found / trust, 0.95))
    return Sureness(float((found <= trust).mean()), 1 / max(needed, 1e-9), float(np.median(found)))
