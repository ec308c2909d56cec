"""Simulated photos of cards as they are: round corners, print of every kind, a soft shadow, on
grounds with grain, other rectangles beside."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.cards_cast import CAST_FACES, CAST_GROUNDS, cast_photo
from bench.cards_drawn import DRAWN_FACES, DRAWN_GROUNDS, drawn_photo
from bench.photos import CARD, Photo
from draxet.geometry.homography import apply_homography
from draxet.trueup.rectangles import find_rectangles

__all__ = ["GROUNDS", "PRINTS", "card_photo", "cards", "rank"]

PRINTS, GROUNDS = (
    ("plain", "stripe", "picture", "dark"),
    ("wood", "cloth", "concrete", "light table"),
)
_Array = NDArray[np.float32]
_SIZE = (1600, 1200)
_MM = 5.0
_WIDE, _HIGH = 300.0, 240.0
_ROUND = 3.2


def _noise(rng: np.random.Generator, rows: float, columns: float) -> _Array:
    """Smooth noise, so many waves down and across."""
    shape = max(2, round(rows)), max(2, round(columns))
    return cv2.resize(
        rng.normal(0, 1, shape).astype(np.float32),
        (round(_WIDE * _MM), round(_HIGH * _MM)),
        interpolation=cv2.INTER_CUBIC,
    )


def _ground(kind: str, rng: np.random.Generator) -> _Array:
    if kind == "wood":
        streaks = 14 * _noise(rng, 150, 5) + 9 * _noise(rng, 500, 8) + 5 * _noise(rng, 30, 3)
        return 120 + rng.uniform(-25, 25) + streaks
    if kind == "cloth":
        x, y = np.meshgrid(np.arange(round(_WIDE * _MM)), np.arange(round(_HIGH * _MM)))
        return (
            95
            + rng.uniform(-20, 30)
            + 9 * np.sin(x * 0.9)
            + 9 * np.sin(y * 0.9)
            + 7 * _noise(rng, 12, 14)
        ).astype(np.float32)
    if kind == "concrete":
        return 140 + rng.uniform(-15, 15) + 9 * _noise(rng, 200, 250) + 8 * _noise(rng, 20, 25)
    return 205 + rng.uniform(-8, 8) + 2 * _noise(rng, 8, 10)


def _face(kind: str, x: _Array, y: _Array, rng: np.random.Generator) -> _Array:
    """A card's print at places from its middle, in mm."""
    light = np.full(x.shape, rng.uniform(225, 245), np.float32)
    if kind == "plain":
        return light
    if kind == "dark":
        return np.where(
            (np.abs(x + 20) < 12) & (np.abs(y - 8) < 5),
            170,
            np.full(x.shape, rng.uniform(25, 50), np.float32),
        ).astype(np.float32)
    if kind == "stripe":
        at, wide = rng.uniform(-15, 15), rng.uniform(7, 13)
        return np.where(np.abs(y - at) < wide / 2, np.float32(rng.uniform(20, 90)), light).astype(
            np.float32
        )
    waves = (
        60 * np.sin(x / rng.uniform(4, 9) + rng.uniform(0, 6))
        + 60 * np.sin(y / rng.uniform(4, 9) + x / 15)
        + 25 * np.sin(x / 2.1 + y / 3.3)
    )
    return np.clip(140 + waves, 15, 245).astype(np.float32)


def _inside(x: _Array, y: _Array, wide: float, high: float, radius: float) -> _Array:
    """How far places lie inside a rectangle with round corners, in mm."""
    dx, dy = np.abs(x) - (wide / 2 - radius), np.abs(y) - (high / 2 - radius)
    outside: _Array = (
        np.hypot(np.maximum(dx, 0), np.maximum(dy, 0)) + np.minimum(np.maximum(dx, dy), 0) - radius
    )
    return -outside


def card_photo(
    print_: str, ground: str, seed: int, *, other: bool = True
) -> tuple[NDArray[np.uint8], NDArray[np.float64]]:
    """A photo, and where the card's four corners (as if they were sharp) lie in it."""
    rng = np.random.default_rng(seed)
    bench = _ground(ground, rng)
    x, y = np.meshgrid(
        np.arange(bench.shape[1], dtype=np.float32) / _MM - 30,
        np.arange(bench.shape[0], dtype=np.float32) / _MM - 30,
    )

    def put(face: _Array, u: _Array, v: _Array, wide: float, high: float, radius: float) -> None:
        nonlocal bench
        shade = (
            np.clip(_inside(u - 1.2, v - 1.6, wide + 1, high + 1, radius + 2) / 4 + 0.6, 0, 1) * 0.3
        )
        bench = bench * (1 - shade)
        part = np.clip(_inside(u, v, wide, high, radius) * _MM + 0.5, 0, 1)
        bench = bench + (face - bench) * part

    def turned(at: NDArray[np.float64], angle: float) -> tuple[_Array, _Array]:
        c, s = math.cos(angle), math.sin(angle)
        return (x - at[0]) * c + (y - at[1]) * s, -(x - at[0]) * s + (y - at[1]) * c

    at, angle = rng.uniform((60, 50), (105, 80)), math.radians(rng.uniform(-20, 20))
    if other:
        u, v = turned(
            at + (rng.uniform(85, 100), rng.uniform(30, 70)), math.radians(rng.uniform(-30, 30))
        )
        wide, high = rng.uniform(60, 110), rng.uniform(55, 90)
        while (
            abs(math.log(max(wide / high, high / wide) / (CARD[0] / CARD[1]))) < 0.2
        ):  # such a sheet nobody could tell from the card
            wide, high = rng.uniform(60, 110), rng.uniform(55, 90)
        face = np.full(x.shape, rng.choice([60.0, 235.0]), np.float32)
        put(
            np.where((np.abs(u) < wide * 0.3) & (np.abs(np.sin(v / 3)) < 0.15), 120, face).astype(
                np.float32
            ),
            u,
            v,
            wide,
            high,
            0.2,
        )
    u, v = turned(at, angle)
    put(_face(print_, u, v, rng), u, v, *CARD, _ROUND)
    to_photo = Photo._camera(
        math.radians(rng.uniform(5, 35)),
        rng.uniform(0, 2 * math.pi),
        math.radians(rng.uniform(-12, 12)),
    )
    px, py = np.meshgrid(np.arange(_SIZE[0]) + 0.5, np.arange(_SIZE[1]) + 0.5)
    mm = (
        apply_homography(np.linalg.inv(to_photo), np.column_stack([px.ravel(), py.ravel()])) + 30
    ) * _MM
    shot = cv2.remap(
        bench.astype(np.float32),
        *(mm[:, k].astype(np.float32).reshape(_SIZE[1], _SIZE[0]) for k in (0, 1)),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REFLECT,
    )
    light = 1.05 - 0.25 * np.hypot(
        px / _SIZE[0] - rng.uniform(0.3, 0.7), py / _SIZE[1] - rng.uniform(0.3, 0.7)
    )
    shot = cv2.GaussianBlur(shot * light, (0, 0), rng.uniform(0.7, 1.4)) + rng.normal(
        0, rng.uniform(2, 5), (_SIZE[1], _SIZE[0])
    )
    c, s = math.cos(angle), math.sin(angle)
    corners = (
        np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])
        * np.array(CARD)
        / 2
        @ np.array([[c, s], [-s, c]])
        + at
    )
    return np.clip(shot, 0, 255).astype(np.uint8), apply_homography(to_photo, corners)


def rank(
    grey: NDArray[np.uint8], truth: NDArray[np.float64], real: tuple[float, float] = CARD
) -> int:
    """At which place the card is among the rectangles offered, from 0; -1 where it is not."""
    found = find_rectangles(grey, real)
    return next(
        (
            k
            for k, each in enumerate(found)
            if max(np.hypot(*(each.places - corner).T).min() for corner in truth) < 6
        ),
        -1,
    )


def cards(count: int = 20) -> None:
    """Every print on every ground, made in three ways: how often the card comes first, and how
    often it is not offered."""
    for print_ in PRINTS:
        _told(
            print_,
            [
                rank(*card_photo(print_, GROUNDS[seed % 4], 40_000 + seed, other=seed % 3 > 0))
                for seed in range(count)
            ],
        )
    for kind, faces, grounds, photo in (
        ("drawn", DRAWN_FACES, DRAWN_GROUNDS, drawn_photo),
        ("cast", CAST_FACES, CAST_GROUNDS, cast_photo),
    ):
        for face in faces:
            photos = (
                photo(face, grounds[seed % len(grounds)], 40_000 + seed) for seed in range(count)
            )
            _told(f"{kind} {face}", [rank(*each) for each in photos])


def _told(name: str, ranks: list[int]) -> None:
    first, missing = sum(r == 0 for r in ranks), sum(r < 0 for r in ranks)
    print(
        f"squaring cards  {name:12} {first} of {len(ranks)} first (wanted: 18 of 20), {missing} not offered (wanted: 0)"
    )
