"""Areas filled with thread: how long that takes beside a plain hatch of the same rows, and how much
is covered."""

from __future__ import annotations

import time

import numpy as np
import shapely

from draxet.formats.embroidery import embroidery_bytes
from draxet.make.stitching.stitch_fill import Fill, filled
from draxet.make.stitching.stitch_plan import Sewn, sewn

_SPACING = 0.35


def shapes():
    """A large disc with holes, a comb of many teeth, and a hundred scattered scraps."""
    rng = np.random.default_rng(3)
    disc = shapely.Point(0, 0).buffer(90, quad_segs=64)
    for k in range(12):
        disc = disc.difference(shapely.Point(60 * np.cos(k), 60 * np.sin(k)).buffer(6))
    teeth = [shapely.box(x, 0, x + 3, 120) for x in range(0, 200, 5)]
    comb = shapely.union_all([shapely.box(0, 0, 200, 10), *teeth])
    scraps = shapely.union_all(
        [shapely.Point(x, y).buffer(rng.uniform(2, 6)) for x, y in rng.uniform(0, 200, (100, 2))]
    )
    return {"disc with holes": disc, "comb": comb, "scraps": scraps}


def hatched(area):
    """The rows of a plain hatch, by the library alone."""
    x0, y0, x1, y1 = area.bounds
    ys = np.arange(y0 + _SPACING / 2, y1, _SPACING)
    ends = [np.column_stack([np.full(len(ys), x), ys]) for x in (x0 - 1, x1 + 1)]
    return shapely.get_parts(shapely.intersection(shapely.linestrings(np.stack(ends, 1)), area))


def timed(work):
    begun = time.process_time()
    found = work()
    return found, time.process_time() - begun


def stitching():
    """Print a row for each shape."""
    print("stitching: seconds of processor time beside a plain hatch of the same rows")
    for name, area in shapes().items():
        fill = Fill(_SPACING, 30.0)
        runs, own = min((timed(lambda: filled(area, fill)) for _ in range(3)), key=lambda r: r[1])
        _, plain = min((timed(lambda: hatched(area)) for _ in range(3)), key=lambda r: r[1])
        plan = sewn([Sewn(name, "#000000", area, fill)])
        parts = [(block.colour, block.points) for block in plan.blocks]
        _, written = timed(lambda: embroidery_bytes(parts, "dst"))
        some = [shapely.LineString(block.points).buffer(0.2, quad_segs=1) for block in plan.blocks]
        share = shapely.union_all(some).intersection(area).area / area.area
        print(
            f"  {name:16} {sum(map(len, runs)):6d} stitches, {len(runs):3d} runs, {plan.trims:3d} trims, "
            f"{own:.3f} s, {own / plain:5.1f} × the hatch, written in {written:.2f} s, {100 * share:.2f} % covered"
        )
