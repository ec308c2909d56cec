"""Random contours as they come broken, pushed about, drawn twice, overshot; all are mended, and
none may cross itself that did not."""

from __future__ import annotations

import time

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.crossings import self_crossings
from draxet.geometry.pieces import piece
from draxet.geometry.shapes import rounded_polygon
from draxet.geometry.spans import CUBIC
from draxet.mend.clean import Cleaning, cleaned

__all__ = ["LIMITS", "mending", "worn"]

LIMITS = Cleaning(gaps=1.5, overshoots=1.0, doubles=0.05, scraps=0.5)
_TRIALS = 2000


def worn(seed: int) -> list[Contour]:
    """A plate or a free form in pieces, pushed about and some drawn twice, or a frame of lines that
    pass or miss each other; turned anyhow."""
    rng = np.random.default_rng(seed)
    some = (_frame, _plate, _free_form)[seed % 3](rng)
    turn = Affine.turned(float(rng.uniform(0, 360)))
    return [contour.transformed(turn) for contour in some]


def _frame(rng: np.random.Generator) -> list[Contour]:
    def past() -> float:
        return float(rng.uniform(-0.8, 0.9))

    upright = [Contour.make([(x, -past()), (x, 50 + past())], closed=False) for x in (0, 30, 80)]
    return upright + [
        Contour.make([(-past(), y), (80 + past(), y + tilt)], closed=False)
        for y, tilt in ((0, 0), (20, 2), (50, 0))
    ]


def _plate(rng: np.random.Generator) -> list[Contour]:
    return _broken(rng, rounded_polygon([(0, 0, 3), (80, 0, 6), (90, 50, 5), (0, 60, 2)]))


def _free_form(rng: np.random.Generator) -> list[Contour]:
    count = int(rng.integers(5, 12))
    at, r = np.arange(count) * 2 * np.pi / count, rng.uniform(25, 40) + rng.uniform(-4, 4, count)
    nodes = np.column_stack([r * np.cos(at), r * np.sin(at)])
    way = np.column_stack([-np.sin(at), np.cos(at)]) * r.mean() * 2 * np.pi / count / 3
    return _broken(
        rng,
        Contour.make(
            nodes,
            np.full(count, CUBIC),
            None,
            np.stack([nodes + way, np.roll(nodes - way, -1, axis=0)], axis=1),
        ),
    )


def _broken(rng: np.random.Generator, shape: Contour) -> list[Contour]:
    cuts = np.sort(rng.uniform(0, len(shape.kinds), int(rng.integers(1, 5))))
    wide = rng.uniform(0.002, 0.02, len(cuts))
    parts = [
        piece(shape, a + w, b - w) for a, b, w in zip(cuts, np.roll(cuts, -1), wide, strict=True)
    ]
    some = [
        part if rng.random() < 0.5 else part.reversed()
        for part in parts
        if part is not None and part.length > 4
    ]
    pushed = [part.transformed(Affine.moved(*rng.uniform(-0.05, 0.05, 2))) for part in some]
    return pushed + [
        part.transformed(Affine.moved(*rng.uniform(-0.01, 0.01, 2)))
        for part in pushed
        if rng.random() < 0.3
    ]


def mending() -> None:
    """2,000 of them."""
    begin, bad, closed, count = time.perf_counter(), 0, 0, 0
    for seed in range(_TRIALS):
        made, _ = cleaned(worn(seed), LIMITS)
        bad += any(len(self_crossings(contour.spans)) for _, contour in made)
        closed += sum(contour.closed for _, contour in made)
        count += len(made)
    print(
        f"mending         {_TRIALS} random mends in {time.perf_counter() - begin:.0f} s: {closed} of {count} contours closed, {bad} with a new crossing (wanted: 0)"
    )
