"""Photos of cards, boards and forms made in another way than those of ``cards``: drawn flat with a
library's own shapes and words, laid on other grounds, then taken by a camera with a lens curve."""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["DRAWN_FACES", "DRAWN_GROUNDS", "drawn_photo"]

DRAWN_FACES, DRAWN_GROUNDS = (
    ("label", "form", "photo", "banded", "board"),
    ("planks", "carpet", "tiles", "blotter", "grass"),
)
_SIZES = ((210.0, 297.0), (100.0, 150.0), (85.6, 53.98), (120.0, 120.0), (400.0, 250.0))
_FLAT, _SHOT = (2600, 2000), (1600, 1200)
_Grey = NDArray[np.float32]


def _clouds(
    rng: np.random.Generator, wide: int, high: int, coarse: int, octaves: int, stretch: float = 1.0
) -> _Grey:
    made = np.zeros((high, wide), np.float32)
    for k in range(octaves):
        rows = max(2, coarse * 2**k)
        some = rng.random((rows, max(2, int(rows * wide / high / stretch)))).astype(np.float32)
        made += cv2.resize(some, (wide, high), interpolation=cv2.INTER_CUBIC) / 2**k
    return np.asarray((made - made.mean()) / made.std())


def _planks(rng: np.random.Generator, wide: int, high: int) -> _Grey:
    made, y = np.zeros((high, wide), np.float32), 0
    while y < high:
        below = min(high, y + int(rng.integers(150, 320)))
        rings = np.sin(6 * _clouds(rng, wide, below - y, 3, 5, 25) + rng.uniform(0, 6))
        made[y:below] = (
            rng.uniform(90, 150) + 12 * rings + 6 * _clouds(rng, wide, below - y, 20, 3, 40)
        )
        made[y : y + 4] -= 45
        y = below
    return made


def _ground(kind: str, rng: np.random.Generator) -> _Grey:
    wide, high = _FLAT
    if kind == "planks":
        return _planks(rng, wide, high)
    if kind == "carpet":
        return np.asarray(
            rng.uniform(70, 140)
            + 16 * _clouds(rng, wide, high, 250, 3)
            + 5 * _clouds(rng, wide, high, 4, 3)
        )
    if kind == "tiles":
        made, side = (
            rng.uniform(150, 190) + 6 * _clouds(rng, wide, high, 8, 5),
            int(rng.integers(220, 330)),
        )
        for k in range(0, wide, side):
            made[k : k + 7] -= 40
            made[:, k : k + 7] -= 40
        return np.asarray(made)
    made = (
        np.full((high, wide), rng.uniform(80, 110), np.float32)
        if kind == "grass"
        else np.asarray(rng.uniform(60, 200) + 3 * _clouds(rng, wide, high, 3, 4))
    )
    for _ in range(5000 if kind == "grass" else 0):
        x, y, way, long = (
            rng.uniform(0, wide),
            rng.uniform(0, high),
            rng.normal(-1.57, 0.5),
            rng.uniform(15, 60),
        )
        cv2.line(
            made,
            (int(x), int(y)),
            (int(x + long * math.cos(way)), int(y + long * math.sin(way))),
            float(rng.uniform(40, 170)),
            2,
            cv2.LINE_AA,
        )
    return made


def _words(face: _Grey, words: str, at: tuple[int, int], size: float, level: float) -> None:
    ink = np.zeros(face.shape, np.uint8)
    cv2.putText(
        ink, words, at, cv2.FONT_HERSHEY_DUPLEX, size, 255, max(1, round(3 * size)), cv2.LINE_AA
    )
    face += (level - face) * (ink / np.float32(255))


def _face(kind: str, rng: np.random.Generator, wide: int, high: int) -> _Grey:
    face = np.full(
        (high, wide), rng.uniform(20, 45) if kind == "board" else rng.uniform(215, 245), np.float32
    )
    if kind in ("label", "board"):
        _words(
            face,
            f"part {rng.integers(999)}",
            (wide // 6, high * 2 // 3),
            high / 260,
            60 if kind == "label" else 230,
        )
    elif kind == "form":  # with a frame not far within
        cv2.rectangle(face, (wide // 14, high // 18), (wide * 13 // 14, high * 14 // 15), 60, 3)
        for k in range(3, 14):
            cv2.line(face, (wide // 12, high * k // 15), (wide * 11 // 12, high * k // 15), 90, 2)
            _words(
                face,
                f"entry {rng.integers(999)}",
                (wide // 11, int(high * (k + 0.8) / 15)),
                high / 1200,
                40,
            )
    elif kind == "photo":
        face = 125 + 45 * _clouds(rng, wide, high, 2, 6)
        for _ in range(12):
            cv2.circle(
                face,
                (int(rng.uniform(0, wide)), int(rng.uniform(0, high))),
                int(rng.uniform(10, high / 3)),
                float(rng.uniform(20, 235)),
                -1,
                cv2.LINE_AA,
            )
    else:
        for _ in range(int(rng.integers(2, 5))):
            x = int(wide * rng.uniform(0, 0.9))
            face[:, x : x + int(wide * rng.uniform(0.03, 0.15))] = rng.uniform(20, 200)
    return np.asarray(face)


def _laid(
    ground: _Grey, face: _Grey, round_by: int, turn: float, at: tuple[float, float]
) -> tuple[_Grey, NDArray[np.float64]]:
    """A ground with a face laid on it and its shadow, and where the face's corners (as if they were
    sharp) lie."""
    high, wide = face.shape
    mask = np.zeros(face.shape, np.float32)
    cv2.rectangle(mask, (round_by, 0), (wide - round_by - 1, high - 1), 1, -1)
    cv2.rectangle(mask, (0, round_by), (wide - 1, high - round_by - 1), 1, -1)
    for corner in (
        (round_by, round_by),
        (wide - round_by - 1, round_by),
        (round_by, high - round_by - 1),
        (wide - round_by - 1, high - round_by - 1),
    ):
        cv2.circle(mask, corner, round_by, 1, -1, cv2.LINE_AA)
    place = cv2.getRotationMatrix2D((wide / 2, high / 2), turn, 1)
    place[:, 2] += (at[0] - wide / 2, at[1] - high / 2)
    mask = cv2.warpAffine(mask, place, _FLAT)
    shadow = cv2.GaussianBlur(np.roll(mask, (10, 7), (0, 1)), (0, 0), 9)
    seen = cv2.warpAffine(face, place, _FLAT, borderMode=cv2.BORDER_REPLICATE)
    return ground * (1 - 0.35 * shadow * (1 - mask)) * (1 - mask) + seen * mask, np.array(
        [(0, 0), (wide, 0), (wide, high), (0, high)]
    ) @ place[:, :2].T + place[:, 2]


def _taken(
    flat: _Grey, corners: NDArray[np.float64], rng: np.random.Generator
) -> tuple[NDArray[np.uint8], NDArray[np.float64]]:
    """A photo of what lies flat, by a camera held at an angle, with its lens curve, light that
    falls off and noise."""
    tilt, way, roll = (
        math.radians(rng.uniform(0, 38)),
        rng.uniform(0, 2 * math.pi),
        math.radians(rng.uniform(-15, 15)),
    )
    focal, (wide, high) = 1900 * rng.uniform(0.9, 1.2), _SHOT
    turned = (
        cv2.Rodrigues(np.array([0, 0, roll]))[0]
        @ cv2.Rodrigues(np.array([math.cos(way), math.sin(way), 0]) * tilt)[0]
    )
    away = turned @ np.array([-_FLAT[0] / 2, -_FLAT[1] / 2, 0]) + np.array([0, 0, focal * 1.6])
    lens, bent = (
        np.array([[focal, 0, wide / 2], [0, focal, high / 2], [0, 0, 1]]),
        np.array([rng.uniform(-0.04, 0.02), 0, 0, 0]),
    )
    seen = lens @ np.column_stack([turned[:, 0], turned[:, 1], away])
    straight = cv2.warpPerspective(
        flat.astype(np.float32), seen, _SHOT, borderMode=cv2.BORDER_REFLECT
    )
    pixels = (
        np.stack(np.meshgrid(np.arange(wide), np.arange(high)), -1)
        .reshape(-1, 1, 2)
        .astype(np.float64)
    )
    from_where = (
        cv2.undistortPoints(pixels, lens, bent, P=lens).reshape(high, wide, 2).astype(np.float32)
    )
    shot = cv2.remap(
        straight,
        from_where[..., 0],
        from_where[..., 1],
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REFLECT,
    )
    x, y = np.meshgrid(np.linspace(-1, 1, wide), np.linspace(-1, 1, high))
    shot = shot * (
        1 + rng.uniform(-0.2, 0.2) * x + rng.uniform(-0.2, 0.2) * y - 0.15 * (x * x + y * y)
    )
    shot = cv2.GaussianBlur(shot, (0, 0), rng.uniform(0.6, 1.6)) + rng.normal(
        0, rng.uniform(1, 6), shot.shape
    )
    rays = np.column_stack(
        [
            (cv2.perspectiveTransform(corners[None], seen)[0] - (wide / 2, high / 2)) / focal,
            np.ones(4),
        ]
    )
    places = cv2.projectPoints(rays, np.zeros(3), np.zeros(3), lens, bent)[0].reshape(4, 2)
    return np.clip(shot, 0, 255).astype(np.uint8), places + 0.5


def drawn_photo(
    face: str, ground: str, seed: int
) -> tuple[NDArray[np.uint8], NDArray[np.float64], tuple[float, float]]:
    """A photo that shows the whole card, where the four corners lie in it, and the sides in mm.
    Every second one shows another sheet too, of another proportion."""
    rng: Any = np.random.default_rng([77, seed])
    while True:
        photo, corners, real = _drawn(face, ground, rng, with_other=bool(seed % 2))
        if (corners > 0).all() and (corners < (photo.shape[1], photo.shape[0])).all():
            return photo, corners, real


def _drawn(
    face: str, ground: str, rng: Any, *, with_other: bool
) -> tuple[NDArray[np.uint8], NDArray[np.float64], tuple[float, float]]:
    flat, real = _ground(ground, rng), _SIZES[int(rng.integers(len(_SIZES)))]
    scale = rng.uniform(700, 1250) / max(real)
    wide, high = (round(side * scale) for side in (real if rng.random() < 0.5 else real[::-1]))
    if with_other:
        other = rng.uniform(300, 600), rng.uniform(300, 600)
        while abs(math.log(max(other) / min(other) / (max(real) / min(real)))) < 0.2:
            other = rng.uniform(300, 600), rng.uniform(300, 600)
        sheet = np.full((int(other[1]), int(other[0])), rng.uniform(30, 230), np.float32)
        beside = (
            _FLAT[0] / 2 + rng.choice([-1, 1]) * 950,
            _FLAT[1] / 2 + rng.choice([-1, 1]) * 650,
        )
        flat, _ = _laid(flat, sheet, 0, rng.uniform(-45, 45), beside)
    round_by = int(rng.choice([0, 0, 0.03, 0.06]) * min(wide, high))
    at = (_FLAT[0] / 2 + rng.uniform(-200, 200), _FLAT[1] / 2 + rng.uniform(-150, 150))
    flat, corners = _laid(flat, _face(face, rng, wide, high), round_by, rng.uniform(-40, 40), at)
    return (*_taken(flat, corners, rng), real)
