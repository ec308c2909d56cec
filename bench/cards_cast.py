"""Photos of cards made in a third way, to judge what was tuned on the others: every pixel's ray is
followed to a table under a lamp, and what lies there is worked out at that place."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["CAST_FACES", "CAST_GROUNDS", "cast_photo"]

CAST_FACES, CAST_GROUNDS = (
    ("plain", "stripe", "picture", "dark"),
    ("wood", "cloth", "concrete", "light table"),
)
_CARD = (85.6, 53.98)
_WIDE, _HIGH = 1600, 1200
_LEAST_UNLIKE = 0.25
"""So far (as a logarithm) another sheet's proportion is from the card's."""
_WAVES = 256
"""Noise goes back after so many waves."""
_Array = NDArray[np.float64]
_Look = Callable[[_Array, _Array], _Array]


def _value_noise(x: _Array, y: _Array, seed: int) -> _Array:
    """Smooth noise from 0 to 1 with a wave of one unit, at any place."""
    values = np.random.default_rng(seed).random((_WAVES, _WAVES), dtype=np.float32)
    last = _WAVES - 1  # where it goes back, so that there is no seam
    column, row = (
        np.asarray(np.abs(np.mod(w + 0.37 * last, 2 * last) - last), np.float32) for w in (x, y)
    )
    u, v = column % 1, row % 1
    smooth = (np.floor(w) + s * s * (3 - 2 * s) for w, s in ((column, u), (row, v)))
    return np.asarray(cv2.remap(values, *smooth, cv2.INTER_LINEAR), np.float64)


def _layers(x: _Array, y: _Array, seed: int, count: int) -> _Array:
    """Noise about 0, each layer twice as fine and half as strong."""
    return np.asarray(
        sum((_value_noise(x * 2**k, y * 2**k, seed + 7 * k) - 0.5) / 1.6**k for k in range(count))
    )


def _ground(kind: str, rng: Any) -> _Look:
    seed, turn = int(rng.integers(1 << 20)), rng.uniform(0, math.pi)
    c, s = math.cos(turn), math.sin(turn)
    level, strong = rng.uniform(0, 1), rng.uniform(0.6, 1.5)

    def wood(x: _Array, y: _Array) -> _Array:
        along, across = c * x + s * y, c * y - s * x
        across = across + 6 * _layers(along / 160, across / 40, seed, 2)
        rings = np.mod(across / 7 + 2 * _layers(along / 300, across / 25, seed + 1, 2), 1)
        pores = _layers(along / 18, across / 0.5, seed + 2, 2)
        return 90 + 70 * level + strong * (22 * rings**3 + 16 * pores)

    def cloth(x: _Array, y: _Array) -> _Array:
        twill = np.sin((x + 2 * y) * math.pi / 1.1) * np.sin((2 * x - y) * math.pi / 1.7)
        return 60 + 110 * level + strong * (9 * twill + 20 * _layers(x / 70, y / 70, seed, 3))

    def concrete(x: _Array, y: _Array) -> _Array:
        pits = _value_noise(x / 2.2, y / 2.2, seed + 3) > 0.93
        return 110 + 60 * level + strong * (26 * _layers(x / 30, y / 30, seed, 6) - 25 * pits)

    def table(x: _Array, y: _Array) -> _Array:
        return 195 + 25 * level + strong * 5 * _layers(x / 90, y / 90, seed, 2)

    return {"wood": wood, "cloth": cloth, "concrete": concrete, "light table": table}[kind]


def _face(kind: str, rng: Any) -> _Look:
    """A card's print at places from its middle, in mm."""
    light, seed = rng.uniform(222, 248), int(rng.integers(1 << 20))
    ink, at, wide = rng.uniform(15, 110), rng.uniform(-17, 17), rng.uniform(5, 14)

    def rows(x: _Array, y: _Array) -> _Array:
        words = (np.mod(y, 6) < 2.2) & (_value_noise(x / 1.3, np.floor(y / 6), seed) > 0.35)
        return np.asarray(words & (np.abs(x) < 34) & (np.abs(y) < 19))

    def plain(x: _Array, y: _Array) -> _Array:
        return np.full(x.shape, light)

    def stripe(x: _Array, y: _Array) -> _Array:
        return np.where(np.abs(y - at) < wide / 2, ink, np.where(rows(x, y), 70.0, light))

    def picture(x: _Array, y: _Array) -> _Array:
        patches = np.round(4 * _value_noise(x / 14, y / 14, seed)) / 4
        return 20 + 215 * np.clip(patches + 0.5 * _layers(x / 5, y / 5, seed + 1, 3), 0, 1)

    def dark(x: _Array, y: _Array) -> _Array:
        chip = (np.abs(x + 24) < 6) & (np.abs(y) < 5)
        return np.where(chip, 165.0, np.where(rows(x, y) & (y > 6), 150.0, 20 + 0.3 * ink))

    return {"plain": plain, "stripe": stripe, "picture": picture, "dark": dark}[kind]


def _sheet(rng: Any) -> tuple[_Look, tuple[float, float]]:
    """Another sheet: any level, sometimes with words on it, never of a card's proportion."""
    sides = rng.uniform(40, 130, 2)
    wanted = math.log(_CARD[0] / _CARD[1])
    while abs(abs(math.log(sides[0] / sides[1])) - wanted) < _LEAST_UNLIKE:
        sides = rng.uniform(40, 130, 2)
    level, seed, worded = rng.uniform(25, 245), int(rng.integers(1 << 20)), rng.random() < 0.5

    def look(x: _Array, y: _Array) -> _Array:
        words = (np.mod(y, 9) < 3) & (_value_noise(x / 2, np.floor(y / 9), seed) > 0.4)
        return np.where(worded & words & (np.abs(x) < 0.35 * sides[0]), 255 - level, level)

    return look, (float(sides[0]), float(sides[1]))


def _laid(
    seen: _Array, x: _Array, y: _Array, look: _Look, sides: tuple[float, float], pose: Any
) -> _Array:
    """What is seen at places of the table (mm) with something laid there: a middle, an angle, round
    corners; its soft shadow falls one way."""
    middle, angle, radius, fuzzy = pose
    c, s = math.cos(angle), math.sin(angle)

    def beside(dx: float, dy: float, grown: float) -> tuple[_Array, _Array, _Array]:
        u, v = x - middle[0] - dx, y - middle[1] - dy
        u, v = c * u + s * v, c * v - s * u
        out = [np.abs(w) - side / 2 - grown + radius for w, side in zip((u, v), sides, strict=True)]
        far = np.hypot(*(np.maximum(each, 0) for each in out)) + np.minimum(np.maximum(*out), 0)
        return u, v, far - radius

    shade = 1 - 0.4 / (1 + np.exp(np.clip(beside(0.7, -1.1, 0.3)[2] / fuzzy, -30, 30)))
    u, v, far = beside(0, 0, 0)
    return np.where(far < 0, look(u, v), seen * shade)


def cast_photo(face: str, ground: str, seed: int) -> tuple[NDArray[np.uint8], _Array]:
    """A photo that shows the whole card, and where its four corners (as if they were sharp) lie in
    it. Up to two other sheets lie about, none on the card."""
    rng: Any = np.random.default_rng([313, seed])
    while True:
        focal, tilt = rng.uniform(0.75, 1.6) * _WIDE, math.radians(rng.uniform(0, 36))
        turned = (
            cv2.Rodrigues(np.array([0, 0, rng.uniform(0, 2 * math.pi)]))[0]
            @ cv2.Rodrigues(np.array([tilt, 0, 0]))[0]
            @ cv2.Rodrigues(np.array([0, 0, rng.uniform(0, 2 * math.pi)]))[0]
        )
        away = focal / _WIDE * rng.uniform(210, 330)
        middle, angle = rng.uniform(-35, 35, 2), rng.uniform(0, math.pi)
        c, s = math.cos(angle), math.sin(angle)
        square = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) / 2 * _CARD
        table = square @ np.array([[c, s], [-s, c]]) + middle
        there = np.column_stack([table, np.zeros(4)]) @ turned.T + (0, 0, away)
        corners = focal * there[:, :2] / there[:, 2:] + (_WIDE / 2, _HIGH / 2)
        if (corners > 25).all() and (corners < (_WIDE - 25, _HIGH - 25)).all():
            break
    sheets = []
    for _ in range(int(rng.integers(0, 3))):
        look, sides = _sheet(rng)
        way, far = rng.uniform(0, 2 * math.pi), 52 + math.hypot(*sides) / 2
        at = middle + far * rng.uniform(1, 1.3) * np.array([math.cos(way), math.sin(way)])
        sheets.append((look, sides, (at, rng.uniform(0, math.pi), 0.3, rng.uniform(0.4, 1.5))))
    sheets.append((_face(face, rng), _CARD, (middle, angle, rng.uniform(0.5, 3.5), 0.9)))
    bare, lamp = _ground(ground, rng), rng.uniform(-250, 250, 2)
    shot = np.zeros((_HIGH, _WIDE))
    for dx, dy in ((0.25, 0.75), (0.75, 0.25)):
        px, py = np.meshgrid(np.arange(_WIDE) + dx, np.arange(_HIGH) + dy)
        rays = np.stack([px - _WIDE / 2, py - _HIGH / 2, np.full(px.shape, focal)], -1) @ turned
        origin = -turned.T @ np.array([0, 0, away])
        reach = -origin[2] / rays[..., 2]
        x, y = origin[0] + reach * rays[..., 0], origin[1] + reach * rays[..., 1]
        seen = bare(x, y)
        for look, sides, pose in sheets:
            seen = _laid(seen, x, y, look, sides, pose)
        shot += seen / 2 / (1 + ((x - lamp[0]) ** 2 + (y - lamp[1]) ** 2) / 600**2)
    shot = cv2.GaussianBlur(shot * rng.uniform(0.95, 1.2), (0, 0), rng.uniform(0.5, 1.5))
    shot += rng.normal(0, 1, shot.shape) * np.sqrt(rng.uniform(1, 9) + shot * rng.uniform(0, 0.08))
    quality = [cv2.IMWRITE_JPEG_QUALITY, int(rng.integers(70, 97))]
    _, data = cv2.imencode(".jpg", np.clip(shot, 0, 255).astype(np.uint8), quality)
    return np.asarray(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), np.uint8), corners
