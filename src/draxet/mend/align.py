"""Contours aligned, spaced evenly and centred; a part counts as one."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.affine import Affine
from draxet.job.contour_moves import map_contours
from draxet.job.part_edits import top_part
from draxet.job.records import Job

__all__ = ["ALIGNMENTS", "Unit", "aligned", "centred", "spaced", "units_of"]

ALIGNMENTS = ("left", "middle", "right", "top", "half way up", "bottom")
Box = tuple[float, float, float, float]


class Unit:
    """What is moved as one: a part, or a contour that belongs to none."""

    def __init__(self, job: Job, ids: Sequence[str]) -> None:
        self.ids = tuple(ids)
        boxes = [job.layout.contour_by_id[k].contour.box for k in ids]
        self.box: Box = (
            min(b[0] for b in boxes),
            min(b[1] for b in boxes),
            max(b[2] for b in boxes),
            max(b[3] for b in boxes),
        )


def units_of(job: Job, ids: Sequence[str]) -> list[Unit]:
    """The units among some contours, in their order; of a part, those of its contours that are
    among them."""
    some, members = frozenset(ids), dict[str, list[str]]()
    for item in job.layout.contours:
        if item.id in some:
            top = top_part(job.layout, item) if item.part else ""
            members.setdefault(top or item.id, []).append(item.id)
    return [Unit(job, each) for each in members.values()]


def _around(units: Sequence[Unit]) -> Box:
    boxes = [unit.box for unit in units]
    return (
        min(b[0] for b in boxes),
        min(b[1] for b in boxes),
        max(b[2] for b in boxes),
        max(b[3] for b in boxes),
    )


def _moved(job: Job, moves: Sequence[tuple[Unit, float, float]]) -> Job:
    placed = {name for unit, _, _ in moves for name in unit.ids}
    for unit, dx, dy in moves:
        if dx or dy:
            job = map_contours(job, unit.ids, Affine.moved(dx, dy), by_hand=True, alone=placed)
    return job


def aligned(job: Job, ids: Sequence[str], how: str, frame: Box | None = None) -> Job:
    """Units brought to one side or middle (see ``ALIGNMENTS``) of a frame, by default the box round
    all of them."""
    units = units_of(job, ids)
    if not units:
        return job
    x0, y0, x1, y1 = frame or _around(units)
    share = {
        "left": 0.0,
        "bottom": 0.0,
        "middle": 0.5,
        "half way up": 0.5,
        "right": 1.0,
        "top": 1.0,
    }[how]
    across = how in ("left", "middle", "right")
    low, high = (0, 2) if across else (1, 3)
    to = (x0, y0)[not across] * (1 - share) + (x1, y1)[not across] * share
    moves = [(unit, to - unit.box[low] * (1 - share) - unit.box[high] * share) for unit in units]
    return _moved(job, [(unit, by, 0.0) if across else (unit, 0.0, by) for unit, by in moves])


def spaced(job: Job, ids: Sequence[str], *, across: bool, gap: float | None = None) -> Job:
    """Units with the same gap between one and the next, from left to right or (not `across`) from
    below upwards: those at the ends stay, or where a gap in mm is given, the first.

    Raises
    ------
    ValueError : where there are too few.
    """
    units, a, b = units_of(job, ids), 0 if across else 1, 2 if across else 3
    if len(units) < (3 if gap is None else 2):
        raise ValueError(
            f"choose at least {3 if gap is None else 2} contours or parts to space, got {len(units)}"
        )
    units.sort(key=lambda unit: unit.box[a] + unit.box[b])
    broad = [unit.box[b] - unit.box[a] for unit in units]
    each = (
        (units[-1].box[b] - units[0].box[a] - sum(broad)) / (len(units) - 1) if gap is None else gap
    )
    moves, at = [], units[0].box[a]
    for unit, wide in zip(units, broad, strict=True):
        by = at - unit.box[a]
        moves.append((unit, by if across else 0.0, 0.0 if across else by))
        at += wide + each
    return _moved(job, moves)


def centred(job: Job, ids: Sequence[str], on: tuple[float, float], *, by_area: bool) -> Job:
    """All of them as one, their middle on a place: that of the box, or the centre of their area
    (openings count as lacking)."""
    units = units_of(job, ids)
    if not units:
        return job
    x0, y0, x1, y1 = _around(units)
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    if by_area:
        x, y = _centre_of_area(job, ids) or (x, y)
    return map_contours(job, ids, Affine.moved(on[0] - x, on[1] - y), by_hand=True)


def _centre_of_area(job: Job, ids: Sequence[str]) -> tuple[float, float] | None:
    """Of closed contours, odd ones filled; None where there is no area."""
    from shapely import make_valid, unary_union  # slow to load

    from draxet.geometry.nesting import as_polygon

    some = frozenset(ids)
    shapes = [
        as_polygon(item.contour, max(item.contour.length * 1e-5, 1e-4))
        for item in job.layout.contours
        if item.id in some and item.contour.closed
    ]
    whole = None
    for shape in shapes:
        whole = (
            make_valid(shape) if whole is None else whole.symmetric_difference(make_valid(shape))
        )
    whole = unary_union(whole) if whole is not None else None
    return (whole.centroid.x, whole.centroid.y) if whole is not None and whole.area > 0 else None
