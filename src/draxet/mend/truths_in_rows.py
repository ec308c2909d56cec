"""What stands in a row, as the letters of a sign do: nearly on one base line, or up to one top
line."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from draxet.geometry.arrays import Ints
from draxet.geometry.contour import Contour
from draxet.geometry.spans import LINE
from draxet.job.contour_records import ContourItem
from draxet.mend.truth_record import Truth

__all__ = ["common_lines", "on_line"]

_LEAST = 3
"""Contours that make a row."""
_SHARE = 0.03
"""Of a contour's width, that a flat end is long at the least."""
_EXACT = 1e-7


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
        run: list[tuple[float, ContourItem]] = []
        for each in [*ends, None]:
            if each is not None and (not run or each[0] - run[0][0] <= most):
                run.append(each)
                continue
            if truth := _one_line(run, most, top=top):
                yield truth
            run = [each] if each is not None else []


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
