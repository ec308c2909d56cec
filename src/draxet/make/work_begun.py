"""Where closed lines are begun, so that the ways between them are short."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Bools, Floats, Ints, Points, crosses
from draxet.geometry.contour import SMOOTH_WITHIN, Contour, joined_spans
from draxet.geometry.pieces import begun_at, place_at, position_near
from draxet.geometry.spans import Spans
from draxet.job.operations import Toolpath
from draxet.make.leads import with_leads
from draxet.make.work_blocks import EVERY, WorkBlock, ends_of
from draxet.progress import Progress

__all__ = ["begun_well"]

_SWEEPS = 4

_LONG = 0.12
"""Of the whole line: so long a side is a good one to begin a cut in the middle of."""

_MOST_STARTS = 48
"""So many places of a closed line are thought of as its beginning."""


def begun_well(order: list[WorkBlock], start: Points, report: Progress) -> list[WorkBlock]:
    """Closed lines begun where the way from the line before and on to the next one is shortest."""
    choices = _all_starts(order)
    places = [ends_of(block) for block in order]
    for _ in range(_SWEEPS):
        for k, some in enumerate(choices):
            if k % EVERY == 0:
                report(0.7, "choosing where cuts begin")
            if some is None:
                continue
            came = start if k == 0 else places[k - 1][1]
            far = np.hypot(*(some[1] - came).T)
            if k + 1 < len(order):
                far = far + np.hypot(*(some[1] - places[k + 1][0]).T)
            best = some[1][int(far.argmin())]
            places[k] = (best, best)
    found = list[WorkBlock]()
    for block, some, (begin, _) in zip(order, choices, places, strict=True):
        if len(found) % EVERY == 0:
            report(0.75, "leading in and out")
        if some is None:
            found.append(
                replace(block, lines=tuple(with_leads(line) for line in block.lines))
                if block.lines[0].whole is not None
                else block
            )
            continue
        position = float(some[0][int(np.hypot(*(some[1] - begin).T).argmin())])
        line = block.lines[0]
        found.append(
            replace(block, lines=(with_leads(replace(line, line=_begun(line.line, position))),))
        )
    return found


def _begun(line: Contour, position: float) -> Contour:
    """A closed line begun at a position."""
    node = int(position)
    if position != node:
        return begun_at(line, position)
    if not node:
        return line
    return Contour.make(
        *(
            np.concatenate([each[node:], each[:node]])
            for each in (line.nodes, line.kinds, line.bulges, line.handles)
        )
    )


def _all_starts(order: list[WorkBlock]) -> list[tuple[Floats, Points] | None]:
    """Of each closed line, positions where it may begin, and the places: where that was said, else
    its nodes, and the middles of long spans; None of other blocks."""
    found: list[tuple[Floats, Points] | None] = [None] * len(order)
    free = []
    for k, block in enumerate(order):
        path = block.lines[0]
        if block.is_closed and path.begin is not None:
            there = position_near(path.line, *path.begin)
            found[k] = np.array([there]), place_at(path.line, there)[None]
        elif block.is_closed:
            free.append(k)
    paths = [order[k].lines[0] for k in free]
    spans, owner = joined_spans([path.line for path in paths])
    begins = np.searchsorted(owner, np.arange(len(paths) + 1)).tolist()
    nodes, middles = _good_places(spans, owner, paths) if paths else ((), ())
    positions = []
    for first, end in zip(begins[:-1], begins[1:], strict=True):
        some = np.concatenate(
            [np.flatnonzero(nodes[first:end]), np.flatnonzero(middles[first:end]) + 0.5]
        )
        if not len(some):
            some = np.concatenate([np.arange(end - first), np.arange(end - first) + 0.5])
        if len(some) > _MOST_STARTS:
            some = some[np.linspace(0, len(some) - 1, _MOST_STARTS).astype(np.int64)]
        positions.append(some)
    sizes = [len(some) for some in positions]
    whole = np.concatenate([*positions, np.zeros(0)])
    which = whole.astype(np.int64)
    places = spans.at(
        which + np.repeat(np.array(begins[:-1], dtype=np.int64), sizes), whole - which
    )
    ends = np.cumsum(sizes).tolist()
    for k, some, end in zip(free, positions, ends, strict=True):
        found[k] = some, places[end - len(some) : end]
    return found


def _good_places(spans: Spans, owner: Ints, paths: Sequence[Toolpath]) -> tuple[Bools, Bools]:
    """Of the nodes of closed lines, and of the middles of their spans (n,), those where a cut
    begins well: a corner that stands out on the side of the waste, and long sides; all of them
    where nothing is known of the waste, and of a line without corners."""
    waste = np.array([path.waste for path in paths])[owner]
    first = np.searchsorted(owner, np.arange(len(paths)))
    span_before = np.arange(len(owner)) - 1
    span_before[first] = np.append(first[1:], len(owner)) - 1
    leave, reach = spans.tangents()
    before = reach[span_before]
    corner = (before * leave).sum(axis=1) < np.cos(np.radians(SMOOTH_WITHIN))
    bare = ~np.logical_or.reduceat(corner, first)[owner]
    lengths = spans.lengths()
    whole = np.add.reduceat(lengths, first)[owner]
    any_place = (waste == 0) | bare
    good: Bools = corner & (waste * crosses(before, leave) < 0)
    return good | any_place, (lengths >= _LONG * whole) | any_place
