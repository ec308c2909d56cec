"""Parts and dirt made in another way than those of ``dirt``: other outlines, spans cut anywhere,
coordinates on a grid, ends that stop short at sharp corners, stretches drawn twice in the other
direction."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from bench.dirt import circle
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import piece
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC, LINE
from draxet.lettering.faces import shipped_faces
from draxet.lettering.setting import set_rows, set_straight

__all__ = ["OTHER_PARTS", "broken", "other_part"]

_Rng = np.random.Generator


def _house(rng: _Rng) -> list[Contour]:
    wide, high = rng.uniform(60, 140), rng.uniform(40, 80)
    door = [(wide * 0.4, 10), (wide * 0.6, 10), (wide * 0.6, high * 0.7), (wide * 0.4, high * 0.7)]
    return [
        Contour.make(
            [(0, 0), (wide, 0), (wide, high), (wide / 2, high + rng.uniform(15, 40)), (0, high)]
        ),
        Contour.make(door),
    ]


def _keyhole(rng: _Rng) -> list[Contour]:
    radius, half, long = rng.uniform(8, 16), rng.uniform(2.5, 5), rng.uniform(25, 60)
    y, turn = -math.sqrt(radius**2 - half**2), 2 * math.pi - 2 * math.asin(half / radius)
    return [
        Contour.make(
            [(half, y), (-half, y), (-half, y - long), (half, y - long)],
            [ARC, LINE, ARC, LINE],
            [math.tan(turn / 4), 0, 1.0, 0],
        )
    ]


def _star(rng: _Rng) -> list[Contour]:
    count, far = int(rng.integers(5, 8)), rng.uniform(35, 60)
    ways = np.arange(2 * count) * math.pi / count
    return [
        rounded_polygon(
            [
                (
                    far * (0.55 if k % 2 else 1) * math.cos(at),
                    far * (0.55 if k % 2 else 1) * math.sin(at),
                    rng.uniform(1.5, 4),
                )
                for k, at in enumerate(ways)
            ]
        ),
        circle(0, 0, 6),
    ]


def _flange(rng: _Rng) -> list[Contour]:
    apart, large, small = rng.uniform(50, 90), rng.uniform(14, 22), rng.uniform(8, 11)
    sine = (large - small) / apart
    cosine, turn = math.sqrt(1 - sine**2), 2 * math.acos(sine)
    nodes = [
        (sine * large, -cosine * large),
        (apart + sine * small, -cosine * small),
        (apart + sine * small, cosine * small),
        (sine * large, cosine * large),
    ]
    bulges = [0, math.tan(turn / 4), 0, math.tan((2 * math.pi - turn) / 4)]
    return [
        Contour.make(nodes, [LINE, ARC, LINE, ARC], bulges),
        circle(0, 0, large / 2),
        circle(apart, 0, small / 2),
    ]


def _comb(rng: _Rng) -> list[Contour]:
    space, tooth, high, back, x = (
        rng.uniform(6, 10),
        rng.uniform(5, 8),
        rng.uniform(20, 40),
        rng.uniform(12, 20),
        0.0,
    )
    nodes = [(0.0, 0.0)]
    for _ in range(int(rng.integers(4, 8))):
        nodes += [
            (x, high + back),
            (x + tooth, high + back),
            (x + tooth, back),
            (x + tooth + space, back),
        ]
        x += tooth + space
    return [Contour.make([*nodes, (x, high + back), (x + tooth, high + back), (x + tooth, 0)])]


def _cam(rng: _Rng) -> list[Contour]:
    count = int(rng.integers(4, 7))
    far = rng.uniform(30, 55, count)
    return [
        rounded_polygon(
            [
                (
                    far[k] * math.cos(2 * math.pi * k / count),
                    far[k] * math.sin(2 * math.pi * k / count),
                    rng.uniform(9, 14),
                )
                for k in range(count)
            ]
        ),
        circle(0, 0, 5),
    ]


def _letter(rng: _Rng) -> list[Contour]:
    return set_straight(
        set_rows(
            shipped_faces()[-1], "AMNOPQWXYZ35"[int(rng.integers(12))], float(rng.uniform(50, 90))
        ),
        1.0,
    )


OTHER_PARTS: dict[str, Callable[[_Rng], list[Contour]]] = {
    "house": _house,
    "keyhole": _keyhole,
    "star": _star,
    "flange": _flange,
    "comb": _comb,
    "cam": _cam,
    "sharp letter": _letter,
}


def other_part(kind: str, seed: int) -> list[Contour]:
    """A part of a kind as it was meant."""
    return OTHER_PARTS[kind](np.random.default_rng([9, seed]))


def broken(part: list[Contour], seed: int) -> list[Contour]:
    """Its spans on their own and cut anywhere, in any order and direction, with dirt, the whole
    turned anyhow."""
    rng = np.random.default_rng([5, seed])
    grid, made = float(rng.choice([0, 0, 0.005, 0.01])), list[Contour]()
    for contour in part:
        for k in range(len(contour.kinds)):
            if (span := piece(contour, float(k), float(k + 1))) is not None:
                made += _broken_span(span, grid, rng)
        if contour.circle_shape is not None and rng.random() < 0.3:
            made.append(circle(*contour.circle_shape[:2], contour.circle_shape[2] - 0.02))
    low, high = (
        np.array([contour.box[:2] for contour in part]).min(axis=0),
        np.array([contour.box[2:] for contour in part]).max(axis=0),
    )
    for _ in range(int(rng.integers(0, 4))):
        at = rng.uniform(low, high)
        made.append(Contour.make([at, at + (rng.uniform(0.05, 0.3), 0.1)], closed=False))
    turn = Affine.turned(float(rng.uniform(0, 360)))
    return [
        (made[k] if rng.random() < 0.5 else made[k].reversed()).transformed(turn)
        for k in rng.permutation(len(made))
    ]


def _broken_span(span: Contour, grid: float, rng: _Rng) -> list[Contour]:
    long = span.length
    cuts = (
        [0.0, *np.sort(rng.uniform(0.2, 0.8, int(rng.integers(1, 3)))).tolist(), 1.0]
        if long > 12 and rng.random() < 0.35
        else [0.0, 1.0]
    )
    what = (
        str(
            rng.choice(
                ["as it is", "over", "short", "twice", "stretch"], p=[0.35, 0.25, 0.15, 0.1, 0.15]
            )
        )
        if long > 8
        else "as it is"
    )
    made = list[Contour]()
    for begin, end in zip(cuts, cuts[1:], strict=False):
        part = piece(span, begin, end)
        if part is None:
            continue
        if part.kinds[0] == LINE:
            part = _line(part, what, grid, rng, first=begin == 0, last=end == 1)
        elif part.kinds[0] == ARC and what == "short" and end == 1:
            part = piece(part, 0, 1 - 0.3 / part.length) or part
        made.append(part)
        if what == "twice":
            made.append(part.reversed().transformed(Affine.moved(*rng.uniform(-0.015, 0.015, 2))))
        if what == "stretch" and part.length > 6:
            at = rng.uniform(0, 0.5)
            made += [
                each for each in (piece(part, at, at + rng.uniform(0.3, 0.5)),) if each is not None
            ]
    return made


def _line(part: Contour, what: str, grid: float, rng: _Rng, *, first: bool, last: bool) -> Contour:
    a, b = part.nodes[0], part.nodes[1]
    way = (b - a) / np.hypot(*(b - a))
    if what == "over":
        b = b + way * rng.uniform(0.3, 2.0) * last
        a = a - way * rng.uniform(0.3, 2.0) * (first and rng.random() < 0.5)
    if what == "short":
        b = b - way * rng.uniform(0.05, 0.4) * last
    if grid:
        a, b = np.round(a / grid) * grid, np.round(b / grid) * grid
    return Contour.make([a, b], closed=False)
