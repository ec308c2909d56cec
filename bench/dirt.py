"""Parts as they come from other programs: every edge on its own, broken, doubled, overshot along
the tangent, short, with scraps; mended they must be what they were."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import piece
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.lettering.faces import shipped_faces
from draxet.lettering.setting import set_rows, set_straight
from draxet.mend.clean import Cleaning, cleaned

__all__ = ["DIRT_LIMITS", "PARTS", "as_drawn", "dirt", "dirty", "drawn"]

DIRT_LIMITS = Cleaning(gaps=0.8, overshoots=2.5, doubles=0.05, scraps=0.5)
_LEAST_EDGE = 8.0
_Rng = np.random.Generator


def circle(x: float, y: float, radius: float) -> Contour:
    """A whole circle."""
    return Contour.make([(x + radius, y), (x - radius, y)], [ARC, ARC], [1.0, 1.0])


def _plate(rng: _Rng) -> list[Contour]:
    wide, high = rng.uniform(60, 160), rng.uniform(40, 100)
    radii = rng.uniform(3, 15, 4)
    holes = [circle(x, y, float(rng.uniform(2, 6))) for x, y in ((22, 20), (wide - 22, high - 20))]
    return [
        rounded_polygon(
            [(0, 0, radii[0]), (wide, 0, radii[1]), (wide, high, radii[2]), (0, high, radii[3])]
        ),
        *holes,
    ]


def _slot(rng: _Rng) -> list[Contour]:
    long, r = rng.uniform(30, 90), rng.uniform(5, 14)
    return [
        rounded_polygon(
            [(0, 0, r - 1e-9), (long, 0, r - 1e-9), (long, 2 * r, r - 1e-9), (0, 2 * r, r - 1e-9)]
        )
    ]


def _bracket(rng: _Rng) -> list[Contour]:
    a, b, t = rng.uniform(60, 120), rng.uniform(60, 120), rng.uniform(20, 30)
    r = rng.uniform(2, 9, 6)
    return [
        rounded_polygon(
            [(0, 0, r[0]), (a, 0, r[1]), (a, t, r[2]), (t, t, r[3]), (t, b, r[4]), (0, b, r[5])]
        ),
        circle(t / 2, t / 2, 3),
        circle(a - t / 2, t / 2, 3),
    ]


def _gear(rng: _Rng) -> list[Contour]:
    count, r = int(rng.integers(7, 13)), rng.uniform(35, 60)
    step = 2 * math.pi / count
    nodes, bulges = [], []
    for k in range(count):
        for at, radius, bulge in (
            (0.0, r, 0.2 * step),
            (0.4, r, 0.0),
            (0.52, r * 0.72, 0.2 * step),
            (0.92, r * 0.72, 0.0),
        ):
            nodes.append((radius * math.cos((k + at) * step), radius * math.sin((k + at) * step)))
            bulges.append(math.tan(0.4 * step / 4) if bulge else 0.0)
    return [Contour.make(nodes, [ARC if b else LINE for b in bulges], bulges), circle(0, 0, 8)]


def _letter(rng: _Rng) -> list[Contour]:
    words = "BDEGHKRSU"[int(rng.integers(9))]
    return set_straight(set_rows(shipped_faces()[0], words, float(rng.uniform(60, 110))), 1.0)


def _curves(rng: _Rng) -> list[Contour]:
    count = int(rng.integers(5, 9))
    at, r = np.arange(count) * 2 * np.pi / count, rng.uniform(35, 60) + rng.uniform(-5, 5, count)
    nodes = np.column_stack([r * np.cos(at), r * np.sin(at)])
    way = np.column_stack([-np.sin(at), np.cos(at)]) * r.mean() * 2 * np.pi / count / 3
    return [
        Contour.make(
            nodes,
            np.full(count, CUBIC),
            None,
            np.stack([nodes + way, np.roll(nodes - way, -1, axis=0)], axis=1),
        ),
        circle(0, 0, 9),
    ]


PARTS: dict[str, Callable[[_Rng], list[Contour]]] = {
    "rounded plate": _plate,
    "slot": _slot,
    "L bracket": _bracket,
    "gear": _gear,
    "letter": _letter,
    "plate of curves": _curves,
}


def drawn(kind: str, seed: int) -> list[Contour]:
    """A part of a kind as it was meant."""
    return PARTS[kind](np.random.default_rng(seed))


def dirty(part: Sequence[Contour], seed: int) -> list[Contour]:
    """Its edges, each one a contour, with the usual dirt, in any order and direction, the whole
    turned anyhow."""
    rng = np.random.default_rng(10_000 + seed)
    made: list[Contour] = []
    for contour in part:
        if contour.circle_shape is not None:
            made.append(contour)
            if rng.random() < 0.5:
                made.append(circle(*contour.circle_shape[:2], contour.circle_shape[2] + 0.02))
            continue
        for k in range(len(contour.kinds)):
            edge = piece(contour, float(k), float(k + 1))
            if edge is not None:
                made += _dirty_edge(edge, rng, _tangent_at(contour, k), _tangent_at(contour, k + 1))
    x0, y0, x1, y1 = np.array([c.box for c in part]).T
    for _ in range(int(rng.integers(0, 4))):
        x, y = rng.uniform(x0.min(), x1.max()), rng.uniform(y0.min(), y1.max())
        made.append(
            Contour.make(
                [(x, y), (x + 0.3, y + 0.1), (x + 0.1, y + 0.2)], closed=bool(rng.random() < 0.5)
            )
        )
    some = [
        contour if contour.closed or rng.random() < 0.5 else contour.reversed() for contour in made
    ]
    turn = Affine.turned(float(rng.uniform(0, 360)))
    return [some[k].transformed(turn) for k in rng.permutation(len(some))]


def _tangent_at(contour: Contour, k: int) -> bool:
    leave, reach = contour.spans.tangents()
    a, b = reach[(k - 1) % len(reach)], leave[k % len(leave)]
    return float(a @ b) > 0.9999


def _dirty_edge(
    edge: Contour, rng: _Rng, tangent_before: bool, tangent_after: bool
) -> list[Contour]:
    long = edge.length
    if edge.kinds[0] != LINE:
        kind = rng.choice(["whole", "short", "doubled"], p=[0.5, 0.25, 0.25])
        if kind == "short" and long > 3:
            return [
                part
                for part in (piece(edge, 0.3 / long * (rng.random() < 0.5), 1 - 0.3 / long),)
                if part is not None
            ]
        return (
            [edge, edge.transformed(Affine.moved(*rng.uniform(-0.01, 0.01, 2)))]
            if kind == "doubled"
            else [edge]
        )
    if long < _LEAST_EDGE:
        return [edge]
    a, b = edge.nodes[0], edge.nodes[1]
    way = (b - a) / long
    kind = rng.choice(
        ["whole", "broken", "doubled", "stretch", "overshot"], p=[0.15, 0.2, 0.15, 0.2, 0.3]
    )
    if kind == "overshot":
        before, after = (rng.uniform(0.5, 2.0) * (rng.random() < 0.7) for _ in range(2))
        return [Contour.make([a - way * before, b + way * after], closed=False)]
    if kind == "broken":
        at, wide = rng.uniform(0.25, 0.75) * long, rng.uniform(0.05, 0.4)
        return [
            Contour.make([a, a + way * at], closed=False),
            Contour.make([a + way * (at + wide), b], closed=False),
        ]
    if kind == "doubled":
        return [edge, edge.transformed(Affine.moved(*rng.uniform(-0.01, 0.01, 2)))]
    if kind == "stretch":
        s, e = np.sort(rng.uniform(-0.1, 1.0, 2)) * long
        s, e = max(s, 0.0), max(e, s + 2.0)
        return [edge, Contour.make([a + way * s, a + way * min(e, long)], closed=False)]
    return [edge]


def as_drawn(made: Sequence[Contour], part: Sequence[Contour]) -> str:
    """What of mended contours is not as it was drawn; empty where all is."""
    if (count := len(made)) != len(part) or not all(contour.closed for contour in made):
        return (
            f"{count} contours of {len(part)}, {sum(not contour.closed for contour in made)} open"
        )
    for one, other in zip(
        sorted(made, key=lambda c: abs(c.area)),
        sorted(part, key=lambda c: abs(c.area)),
        strict=True,
    ):
        either = (
            0.021 * other.length if other.circle_shape else 0.0
        )  # of two circles either may stay
        if abs(abs(one.area) - abs(other.area)) > max(0.002 * abs(other.area), either):
            return f"an area of {abs(one.area):.2f} of {abs(other.area):.2f} mm²"
        if (one.kinds == ARC).sum() < (other.kinds == ARC).sum():
            return f"{(one.kinds == ARC).sum()} arcs of {(other.kinds == ARC).sum()}"
    return ""


def dirt(trials: int = 20) -> None:
    """Every kind of part, twenty times, with the dirt of either maker."""
    from bench.broken_parts import OTHER_PARTS, broken, other_part

    for kinds, made, spoiled in ((PARTS, drawn, dirty), (OTHER_PARTS, other_part, broken)):
        for kind in kinds:
            parts = [made(kind, seed) for seed in range(trials)]
            whole = sum(
                not as_drawn(
                    [each for _, each in cleaned(spoiled(part, seed), DIRT_LIMITS)[0]], part
                )
                for seed, part in enumerate(parts)
            )
            print(
                f"mending dirt    {kind:16}{whole} of {trials} as they were drawn (wanted: 19 of 20)"
            )
