"""Looks at stitches: too long for the machine, too short, and what is too small to be sewn."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import MOST_PLACES, ids_and_middles

__all__ = ["stitches_out_of_range"]

_FINE = 0.02
_TIES = 0.05
"""Of all stitches so many may be short: those that hold the thread, and turns."""


def stitches_out_of_range(job: Job, sheet: Sheet, product: Any) -> list[Finding]:
    """Stitches longer than the machine sews, many shorter ones, and things of which none is sewn."""
    machine, plan, found = product.machine, product.plan, list[Finding]()
    longest, short, number = dict[int, float](), 0, 0
    for block in plan.blocks:
        lengths = np.hypot(*np.diff(block.points, axis=0).T)
        longest[block.of] = max(longest.get(block.of, 0.0), float(lengths.max(initial=0.0)))
        short += int((lengths < machine.shortest).sum())
        number += len(lengths)
    for words, gravity, key, of in (
        (
            f"longer than the {machine.longest:g} mm that the machine sews",
            Gravity.STOPS,
            "long",
            [k for k, most in longest.items() if most > machine.longest + 0.05],
        ),
        (
            "too small to be sewn",
            Gravity.WARNS,
            "unsewn",
            [
                k
                for k in range(len(plan.things))
                if k not in longest or _is_scrap(plan.things[k], machine.cut_width)
            ],
        ),
    ):
        names = [name for k in of for name in product.ids[k]]
        items = [job.contour_by_id[name] for name in names if name in job.contour_by_id]
        if items:
            said = count_words(len(of), "area")
            what = f"{said} with stitches {words}" if key == "long" else f"{said} {words}"
            found.append(
                Finding(
                    f"stitches-{key}-{sheet.id}", what, gravity, "make", *ids_and_middles(items)
                )
            )
    found += [*_beyond_the_hoop(sheet, product), *_too_dense(sheet, product)]
    if number and short > _TIES * number + 20:
        found.append(
            Finding(
                f"stitches-short-{sheet.id}",
                f"{short} stitches are shorter than {machine.shortest:g} mm",
                Gravity.WARNS,
                "make",
            )
        )
    return found


def _beyond_the_hoop(sheet: Sheet, product: Any) -> list[Finding]:
    """Needle points that the machine does not get to, as rows are longer than what they fill."""
    reach = product.machine.reach
    if reach is None or not len(product):
        return []
    off = np.array(sheet.origin_place) - (sheet.x, sheet.y)
    points = np.vstack([block.points for block in product.plan.blocks]) + off
    hoop = shapely.buffer(shapely.Polygon(reach.flattened(_FINE)), _FINE)
    beyond = points[~shapely.contains_xy(hoop, points[:, 0], points[:, 1])]
    if not len(beyond):
        return []
    words = f"{count_words(len(beyond), 'needle point')} beyond the hoop of the {product.machine.name.lower()}"
    places = tuple((float(x), float(y)) for x, y in beyond[:MOST_PLACES] + (sheet.x, sheet.y))
    kind = f"stitches-beyond-{sheet.id}"
    return [Finding(kind, words, Gravity.STOPS, "make", places=places)]


def _too_dense(sheet: Sheet, product: Any) -> list[Finding]:
    """Places where more needle points lie within 1 mm² than the cloth stands."""
    if not len(product):
        return []
    points = np.vstack([block.points for block in product.plan.blocks])
    cells, counts = np.unique(np.floor(points).astype(int), axis=0, return_counts=True)
    dense = cells[counts > product.machine.densest]
    if not len(dense):
        return []
    words = f"{counts.max()} needle points within 1 mm²; the cloth stands {product.machine.densest:g}: sew rows farther apart"
    places = tuple((float(x), float(y)) for x, y in dense[:MOST_PLACES] + 0.5 + sheet.origin_place)
    return [Finding(f"stitches-dense-{sheet.id}", words, Gravity.WARNS, "make", places=places)]


def _is_scrap(thing: Any, thread: float) -> bool:
    """Whether an area is no larger than one stitch of a thread is broad."""
    return bool(thing.is_area and shapely.area(thing.shape) < thread * thread)
