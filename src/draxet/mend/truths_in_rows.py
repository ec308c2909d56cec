"""What stands in a row, as the letters of a sign do: nearly on one base line, up to one top line, or
with stems of one width."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.contour import Contour
from draxet.geometry.spans import LINE
from draxet.job.contour_records import ContourItem
from draxet.mend.truth_record import Truth

__all__ = ["common_lines", "common_stems", "of_one_width", "on_line"]

_LEAST = 3
"""Contours that make a row."""
_SHARE = 0.03
"""Of a contour's width, that a flat end is long at the least."""
_EXACT = 1e-7
_MOST_UPRIGHT = 60


def common_lines(items: Sequence[ContourItem], most: float) -> Iterator[Truth]:
    """Base and top lines that at least three contours with flat ends nearly have in common: none of
    them would move farther than `most` mm."""
    for top in (False, True):
        ends = sorted(
            (
                (float(item.contour.nodes[flat, 1].mean()), item)
                for item in items
                if len(flat := _flat_end(item.contour, most, top=top))
            ),
            key=lambda each: each[0],
        )
        for run in _runs(ends, most):
            if truth := _one_line(run, most, top=top):
                yield truth


def _runs(
    each: Sequence[tuple[float, ContourItem]], most: float
) -> Iterator[list[tuple[float, ContourItem]]]:
    """What differs by no more than `most`, of a sorted list."""
    run: list[tuple[float, ContourItem]] = []
    for one in each:
        if run and one[0] - run[0][0] > most:
            yield run
            run = []
        run.append(one)
    yield run


def _one_line(run: Sequence[tuple[float, ContourItem]], most: float, *, top: bool) -> Truth | None:
    if len(run) < _LEAST:
        return None
    line = run[len(run) // 2][0]  # of most of them it is so already
    moves = max(
        float(np.abs(item.contour.nodes[_flat_end(item.contour, most, top=top), 1] - line).max())
        for _, item in run
    )
    if not _EXACT < moves <= most:
        return None
    x0, _, x1, _ = run[0][1].contour.box
    ids = tuple(item.id for _, item in run)
    return Truth("top" if top else "base", ids, (), moves, ((x0 + x1) / 2, line), (line, most))


def on_line(contour: Contour, line: float, most: float, *, top: bool) -> Contour:
    """A contour whose flat end lies on a level line, with nothing else of it moved."""
    nodes = contour.nodes.copy()
    nodes[_flat_end(contour, most, top=top), 1] = line
    return Contour.make(
        nodes, contour.kinds, contour.bulges, contour.handles, closed=contour.closed
    )


def _flat_end(contour: Contour, most: float, *, top: bool) -> Ints:
    """The nodes (n,) of the lines that bound a closed contour above or below, level but for `most`
    mm."""
    x0, y0, x1, y1 = contour.box
    if not contour.closed:
        return np.zeros(0, dtype=np.int64)
    starts, ends, edge = contour.spans.starts, contour.spans.ends, y1 if top else y0
    flat = (
        (contour.kinds == LINE)
        & (np.abs(starts[:, 1] - edge) <= most)
        & (np.abs(ends[:, 1] - edge) <= most)
        & (np.abs(ends[:, 0] - starts[:, 0]) >= max(_SHARE * (x1 - x0), 2 * most))
    )
    spans = np.flatnonzero(flat)
    return np.unique(np.concatenate([spans, (spans + 1) % len(contour.nodes)]))


def common_stems(items: Sequence[ContourItem], most: float) -> Iterator[Truth]:
    """Widths that at least three stems of contours nearly have in common, where no side of one would
    move farther than `most` mm."""
    stems = sorted(
        ((width, item) for item in items for width in _stems(item.contour, most)[0].tolist()),
        key=lambda each: each[0],
    )
    for run in _runs(stems, most):
        width = run[len(run) // 2][0] if run else 0.0
        moves = max((abs(each - width) for each, _ in run), default=0.0)
        ids = tuple(dict.fromkeys(item.id for _, item in run))
        if len(run) >= _LEAST and len(ids) > 1 and moves > _EXACT:
            x0, y0, x1, y1 = run[0][1].contour.box
            yield Truth(
                "stem", ids, (), moves, ((x0 + x1) / 2, (y0 + y1) / 2), (width, moves, most)
            )


def of_one_width(contour: Contour, width: float, moves: float, most: float) -> Contour:
    """A contour whose stems that are nearly so wide are just so wide: of each the shorter side
    moves."""
    widths, spans, signs = _stems(contour, most)
    nodes = contour.nodes.copy()
    for found, span, sign in zip(widths.tolist(), spans.tolist(), signs.tolist(), strict=True):
        if abs(found - width) <= moves * (1 + 1e-9):
            nodes[[span, (span + 1) % len(nodes)], 0] += sign * (width - found)
    return Contour.make(
        nodes, contour.kinds, contour.bulges, contour.handles, closed=contour.closed
    )


def _stems(contour: Contour, most: float) -> tuple[Floats, Ints, Floats]:
    """Of the stems of a closed contour the width (n,), the span that is the shorter side of each (n,),
    and in which direction along x that widens it (n,)."""
    starts, ends = contour.spans.starts, contour.spans.ends
    rise = ends[:, 1] - starts[:, 1]
    upright = np.flatnonzero(
        (contour.kinds == LINE)
        & (np.abs(ends[:, 0] - starts[:, 0]) <= _EXACT)
        & (np.abs(rise) > 4 * most)
    )
    found = list[tuple[float, int, float]]()
    if not contour.closed or len(upright) > _MOST_UPRIGHT:
        upright = upright[:0]
    turn = np.sign(contour.area)
    lefts = [k for k in upright.tolist() if rise[k] * turn < 0]  # what it encloses lies right of it
    rights = [k for k in upright.tolist() if rise[k] * turn > 0]
    low, high = np.minimum(starts[:, 1], ends[:, 1]), np.maximum(starts[:, 1], ends[:, 1])
    taken = set[int]()
    for left in lefts:
        facing = sorted(
            (float(starts[right, 0] - starts[left, 0]), right)
            for right in rights
            if starts[right, 0] > starts[left, 0]
            and min(high[left], high[right]) - max(low[left], low[right])
            >= min(high[left] - low[left], high[right] - low[right]) / 2
        )
        nearest = facing[0][0] if facing else 0.0
        for width, right in facing:
            shorter = right if abs(rise[right]) <= abs(rise[left]) else left
            if width <= nearest + most and shorter not in taken:
                taken.add(shorter)
                found.append((width, shorter, 1.0 if shorter == right else -1.0))
    return (
        np.array([width for width, _, _ in found]),
        np.array([span for _, span, _ in found], dtype=np.int64),
        np.array([sign for _, _, sign in found]),
    )
