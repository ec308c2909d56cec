"""Coupons: little jobs that show what a material wants. A grid of power by feed with its labels,
and a row of slats whose gaps tell the cut's width."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.contour_records import Lettering
from draxet.job.lettering import add_lettering
from draxet.job.machine_kinds import Machine
from draxet.job.operating import add_operation
from draxet.job.operations import Engrave, Operation, Score, Side
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet

__all__ = ["SLATS", "grid_coupon", "slat_coupon", "width_of_cut"]

_FACE = "Oswald Medium"
_CELL, _GAP, _LABEL = 10.0, 5.0, 3.0
_EDGE = 14.0
_SMALLEST = 0.1
"""mm: labels are small and meant so."""
SLATS = 10
"""Cuts of the cut-width coupon."""
_SLAT_WIDE, _SLAT_HIGH = 6.0, 30.0


def grid_coupon(
    machine: Machine,
    material: str,
    thickness: float,
    powers: Sequence[float],
    feeds: Sequence[float],
    kind: type[Operation] = Engrave,
) -> Job:
    """Squares, one for each power (upwards, in per cent) and feed (to the right, in mm/min), each
    with an operation of its own; scored labels beside them."""
    wide = _EDGE * 2 + len(feeds) * (_CELL + _GAP)
    high = _EDGE * 2 + len(powers) * (_CELL + _GAP)
    job = Job(
        "Power and feed coupon",
        smallest_feature=_SMALLEST,
        sheets=(
            Sheet(
                width=wide, height=high, thickness=thickness, material=material, machine=machine.id
            ),
        ),
    )
    label = Score(power=min(20.0, max(powers)), feed=max(feeds))
    for row, power in enumerate(powers):
        for column, feed in enumerate(feeds):
            x, y = _EDGE + column * (_CELL + _GAP), _EDGE + row * (_CELL + _GAP)
            job = add_contours(
                job,
                [Contour.make([(x, y), (x + _CELL, y), (x + _CELL, y + _CELL), (x, y + _CELL)])],
            )
            made = replace(
                kind(),
                name=f"{kind.title} {power:g} %, {feed:g} mm/min",
                contours=(job.contours[-1].id,),
                power=power,
                feed=feed,
            )  # type: ignore[type-var]
            job = _one_more(job, made)
    labels = [
        (f"{power:g}", 3.0, _EDGE + row * (_CELL + _GAP) + 3.5) for row, power in enumerate(powers)
    ]
    labels += [
        (f"{feed:g}", _EDGE + column * (_CELL + _GAP), 6.0) for column, feed in enumerate(feeds)
    ]
    return _labelled(job, labels, label)


def _one_more(job: Job, operation: Operation) -> Job:
    """An operation beside others of its kind."""
    made = replace(operation, id=f"operation-{job.next_id}")  # type: ignore[type-var]
    return replace(job, operations=(*job.operations, made), next_id=job.next_id + 1)


def _labelled(job: Job, labels: Sequence[tuple[str, float, float]], operation: Operation) -> Job:
    before = {item.id for item in job.contours}
    for words, x, y in labels:
        job, _ = add_lettering(
            job, Lettering("", "", words, _FACE, _LABEL, placed=Affine.moved(x, y))
        )
    return add_operation(
        job,
        replace(  # type: ignore[type-var]
            operation,
            name="Labels",
            contours=tuple(item.id for item in job.contours if item.id not in before),
        ),
    )


def slat_coupon(machine: Machine, material: str, thickness: float, operation: Operation) -> Job:
    """A frame with ten slats cut on the line: pushed together they leave a gap as wide as all the
    cuts, see ``width_of_cut``."""
    wide, high = 2 * _EDGE + SLATS * _SLAT_WIDE, 2 * _EDGE + _SLAT_HIGH
    job = Job(
        "Cut-width coupon",
        smallest_feature=_SMALLEST,
        sheets=(
            Sheet(
                width=wide, height=high, thickness=thickness, material=material, machine=machine.id
            ),
        ),
    )
    x1, y0, y1 = _EDGE + (SLATS - 1) * _SLAT_WIDE, _EDGE, _EDGE + _SLAT_HIGH
    cuts = [
        Contour.make([(_EDGE + k * _SLAT_WIDE, y0), (_EDGE + k * _SLAT_WIDE, y1)], closed=False)
        for k in range(SLATS)
    ]
    ends = [Contour.make([(_EDGE, y), (x1, y)], closed=False) for y in (y0, y1)]
    job = add_contours(job, [*cuts, *ends])
    cut = operation.changed(
        name="Slats",
        contours=tuple(item.id for item in job.contours),
        side=Side.ON,
        tabs=0,
        lead=0.0,
    )
    job = add_operation(job, cut)
    return _labelled(
        job,
        [(f"{SLATS} cuts, {operation.feed:g} mm/min", _EDGE, 4.0)],
        Score(power=min(20.0, operation.power), feed=operation.feed),
    )


def width_of_cut(gap: float) -> float:
    """The cut's width from the gap that the slats leave when they are pushed together, both in mm.

    Raises
    ------
    ValueError : where the gap is not over 0.
    """
    if not gap > 0:
        raise ValueError(f"the gap must be over 0 mm, got {gap:g} mm")
    return gap / SLATS
