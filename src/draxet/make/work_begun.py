"""Where closed lines are begun, so that the ways between them are short."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Bools, Points, crosses
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import begun_at, place_at, position_near
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
    choices = [_starts(block.lines[0]) if block.is_closed else None for block in order]
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
    arrays = (
        np.roll(each, -node, axis=0) for each in (line.nodes, line.kinds, line.bulges, line.handles)
    )
    return Contour.make(*arrays)


def _starts(path: Toolpath) -> tuple[Points, Points]:
    """Positions on a closed line where it may begin, and the places: where that was said, else its
    nodes, and the middles of long spans."""
    line, count = path.line, len(path.line.kinds)
    if path.begin is not None:
        there = position_near(line, *path.begin)
        return np.array([there]), place_at(line, there)[None]
    positions = np.concatenate([np.arange(count, dtype=np.float64), np.arange(count) + 0.5])
    good = _good_places(path)
    positions = positions[good] if good.any() else positions
    if len(positions) > _MOST_STARTS:
        positions = positions[np.linspace(0, len(positions) - 1, _MOST_STARTS).astype(np.int64)]
    which = np.minimum(positions.astype(np.int64), count - 1)
    return positions, line.spans.at(which, positions - which)


def _good_places(path: Toolpath) -> Bools:
    """Of the nodes of a closed line, and then of the middles of its spans, those where a cut begins
    well: a corner that stands out on the side of the waste, and long sides; all of them where
    nothing is known of the waste, and of a line without corners."""
    line, count = path.line, len(path.line.kinds)
    corner = np.array(line.corners())
    if not path.waste or not corner.any():
        return np.ones(2 * count, dtype=bool)
    leave, reach = line.spans.tangents()
    corner = corner & (path.waste * crosses(np.roll(reach, 1, axis=0), leave) < 0)
    lengths = line.spans.lengths()
    return np.concatenate([corner, lengths >= _LONG * lengths.sum()])
