"""Satin as it comes by itself, judged on the written file, over columns and broad areas that nothing
was tuned by; which of them a person would sew in satin was written down before they were sewn."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from typing import Any

import numpy as np
import shapely
import shapely.affinity

from bench.sewn import judged
from draxet.geometry.nesting import area_of
from draxet.lettering.faces import shipped_faces
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.stitching.satin_columns import Column
from draxet.make.stitching.satin_stitches import satin
from draxet.make.stitching.stitch_fill import Fill
from draxet.make.stitching.stitch_manner import portions

__all__ = ["columns_judged"]

_SUITED, _PLAIN = (
    Fill(manner="suited", pull=0.2),
    Fill(manner="satin", underlay=False, pull=0.0),
)
_LETTERS = "MHUWXYZ357JVDGeks"
_TURN, _TEN, _EACH, _AT_SIDE = 15.0, 0.1, 0.1, 0.02
"""Degrees from one stitch to the next; by which share the mean of ten spacings may be off, and by how
many mm each; and mm from a side within which a needle point stands at it."""


def columns_and_areas() -> list[tuple[str, Any, bool]]:
    """Names, areas in mm, and whether a person would sew them in satin."""
    found = list[tuple[str, Any, bool]]()
    for k, face in enumerate(shipped_faces()[:6]):
        for turn, letter in enumerate(_LETTERS[2 * k : 2 * k + 5]):
            height = (6, 9, 13, 18, 24)[turn]
            contours = set_straight(set_rows(face, letter, height), 1.5)
            found.append((f"{letter} {height} mm, {face.name}", area_of(contours), True))
    t = np.linspace(0, 12, 400)
    arms = np.column_stack([(5 + 1.5 * t) * np.cos(t), (5 + 1.5 * t) * np.sin(t)])
    for broad in (1.5, 3.0, 5.0):
        found.append((f"ring {broad:g} mm broad", _disc(14).difference(_disc(14 - broad)), True))
        found.append(
            (f"spiral {broad:g} mm broad", shapely.LineString(arms).buffer(broad / 2), True)
        )
    for thick in (2.0, 4.5):
        moved = shapely.affinity.translate(_disc(12), thick)
        found.append((f"crescent {thick:g} mm thick", _disc(12).difference(moved), True))
    for angle in (40, 90):
        ends = [(20 * np.sin(a), 20 * np.cos(a)) for a in np.radians([angle / 2, -angle / 2])]
        fork = shapely.MultiLineString([[(0, -22), (0, 0), ends[0]], [(0, 0), ends[1]]])
        found.append((f"fork of {angle}°", fork.buffer(1.8, cap_style="flat"), True))
    found += [(f"disc {radius} mm", _disc(radius), False) for radius in (8, 15, 30)]
    found += [(f"plate {side} mm", shapely.box(0, 0, side, 0.7 * side), False) for side in (15, 40)]
    found.append(("plate with holes", _disc(20).difference(shapely.box(-3, -3, 3, 3)), False))
    found.append(("broad ring", _disc(30).difference(_disc(18)), False))
    return found


def _disc(radius: float) -> Any:
    return shapely.Point(0, 0).buffer(radius, quad_segs=32)


def _one(number: int) -> dict[str, Any]:
    name, shape, _ = columns_and_areas()[number]
    parts = portions(shape, _SUITED)
    across = float(sum(shapely.area(each.shape) for each in parts if each.columns))
    columns = [column for each in parts for column in each.columns]
    turns, tens, each_one = list[float](), list[float](), list[float]()
    for column in columns:  # alone: the way from one to the next is no part of either
        alone = Column(column.left, column.right, column.closed, [])
        for run in satin(shapely.convex_hull(alone.shape), _PLAIN, columns=[alone]):
            turns += _turns(run)
            found = _spacings(run, alone)
            tens, each_one = tens + found[0], each_one + found[1]
    return {
        "name": name,
        "satin": across > 0.5 * shapely.area(shape),
        "turned": [float((np.array(turns) > _TURN).sum()), float(len(turns))],
        "tens": tens,
        "each": each_one,
        **judged(shape, 45.0, ("dst", "pes")[number % 2], manner="suited"),
    }


def _across(run: Any) -> Any:
    """Which stitches go from side to side: those that are turned back by the one after or before."""
    way = np.diff(run, axis=0)
    angle = np.degrees(np.arctan2(way[:, 1], way[:, 0]))
    back = np.abs((np.diff(angle) + 180) % 360 - 180) > 100
    return np.append(back, False) & np.append(False, back), way, angle


def _turns(run: Any) -> list[float]:
    """By how much the way across turns from one stitch to the next: half of what stitches from the same
    side turn by; but at corners, where a side stands still while the other leads round it."""
    across, way, angle = _across(run)
    found = []
    for k in np.flatnonzero(across[:-2] & across[1:-1] & across[2:]):
        one, other = (float(np.hypot(*(run[k + j + 2] - run[k + j]))) for j in (0, 1))
        if min(one, other) > 0.25 * max(one, other):
            found.append(float(abs((angle[k + 2] - angle[k] + 180) % 360 - 180)) / 2)
    return found


def _spacings(run: Any, column: Column) -> tuple[list[float], list[float]]:
    """Of any ten neighbouring stitches how far the mean spacing on the outer side is off, as a share,
    and of each spacing there how many mm; the outer side is the one on which needle points move on farther there. What comes short of its side, as
    the inner side is crowded, says nothing of it."""
    across, _, _ = _across(run)
    rails = shapely.multilinestrings([column.left, column.right])
    at_side = shapely.distance(rails, shapely.points(run)) < _AT_SIDE
    steps = np.where(at_side[2:] & at_side[:-2], np.hypot(*(run[2:] - run[:-2]).T), np.nan)
    both = across[:-2] & across[1:-1]
    outer = np.fmax(steps[:-2], steps[1:-1])
    known = both[:-1] & both[1:] & np.isfinite(outer)
    each = np.abs(outer[known] - _SUITED.satin).tolist()
    found = []
    for begin in range(len(both) - 10):
        if both[begin : begin + 10].all():
            outer = np.fmax(steps[begin : begin + 10 : 2], steps[begin + 1 : begin + 11 : 2])
            if np.isfinite(outer).all():
                found.append(abs(float(outer.mean()) / _SUITED.satin - 1))
    return found, each


def columns_judged(told: bool = False) -> None:
    """Print what was found over all of them, the worst of each by name."""
    shapes = columns_and_areas()
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(_one, range(len(shapes))))
    right = sum(row["satin"] == want for row, (_, _, want) in zip(rows, shapes, strict=True))
    wrong = [n for row, (n, _, want) in zip(rows, shapes, strict=True) if row["satin"] != want]
    some = [row for row in rows if row["satin"]]
    print(
        f"satin: {len(some)} of {len(rows)} shapes are sewn so; as a person would {right} ({', '.join(wrong) or 'all'}; wanted 95 %)"
    )
    worst = min(some, key=lambda row: float(row["covered"]))
    print(f"  covered: worst {100 * worst['covered']:.2f} % ({worst['name']}; wanted 98.5)")
    for key, most, words in (
        ("beyond", 0.003, "share beyond pull"),
        ("across", 0.0, "mm² across holes"),
        ("stripe", 0.0, "mm of bare stripe"),
        ("longest", 7.0, "mm of the longest stitch"),
        ("trims", 1.0, "trims more than pieces"),
    ):
        worst = max(some, key=lambda row: float(row[key]))
        print(f"  {words}: worst {worst[key]:.4f} ({worst['name']}; wanted {most:g})")
    bad, all_ = (sum(row["turned"][k] for row in some) for k in (0, 1))
    worst = max(some, key=lambda row: row["turned"][0] / max(row["turned"][1], 1))
    print(
        f"  turned by over {_TURN:g}°, corners aside: {bad:.0f} of {all_:.0f} stitches, worst {worst['turned'][0]:.0f} of {worst['turned'][1]:.0f} ({worst['name']})"
    )
    tens = np.array([each for row in some for each in row["tens"]])
    print(
        f"  spacing of ten: median {100 * np.median(tens):.1f} % off, {int((tens > _TEN).sum())} of {len(tens)} by over {100 * _TEN:g} %"
    )
    single = np.array([each for row in some for each in row["each"]])
    print(
        f"  each spacing: {int((single > _EACH).sum())} of {len(single)} by over {_EACH:g} mm, worst {single.max():.2f}"
    )
    if told:
        for row in rows:
            print("   ", row["name"], row["satin"], row["turned"], f"{100 * row['covered']:.2f}")
