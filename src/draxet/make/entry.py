"""How a tool gets down into the material: straight, down a ramp along its line, or round a helix
beside where it begins."""

from __future__ import annotations

import math

import numpy as np

from draxet.geometry.arrays import Floats, Points, norms
from draxet.job.operations import Toolpath
from draxet.record import record

__all__ = ["Way", "entered", "flat"]

_MOST_ROUNDS = 60
"""A line so short that it had to be run more often is entered straight."""
_STEPS = 12
"""Straight steps for half of a turn, on a machine that runs no arcs."""


@record(frozen=True, eq=False)
class Way:
    """Moves: where each ends (k, 2), of arcs the centre (k, 2) and the turn (k,), and how deep each
    begins and ends (k,), in mm."""

    to: Points
    centre: Points
    turn: Floats
    depth_from: Floats
    depth: Floats

    def lengths(self, begin: Points) -> Floats:
        """How long each is (k,), from the place where the first begins."""
        starts = np.vstack([begin, self.to[:-1]])
        return np.where(
            self.turn != 0, norms(starts - self.centre) * np.abs(self.turn), norms(self.to - starts)
        )


def flat(to: Points, centre: Points, turn: Floats, depth: float) -> Way:
    """Moves at one depth."""
    deep = np.full(len(to), depth)
    return Way(to, centre, turn, deep, deep)


def entered(
    way: Way, begin: Points, above: float, path: Toolpath, helix: Points | None, *, arcs: bool
) -> Way | None:
    """A pass at whose beginning the tool gets down from what the pass before it left: by the helix
    where there is one, else along the line, which is then run on until all of it is as deep. None
    where the line is too short for that.

    Parameters
    ----------
    way : the pass as it runs at its depth. begin : where it begins. above : how deep the pass
    before went. helix : the middle of its circle.
    """
    depth, fall = float(way.depth[0]), math.tan(math.radians(path.slope))
    if helix is not None:
        return _strung(_round(begin, helix, above, depth, fall, arcs=arcs), way)
    loop = way if path.line.closed else _strung(way, _back(way, begin))
    lengths = loop.lengths(begin)
    total, need = float(lengths.sum()), (depth - above) / fall
    if total <= 0 or need > _MOST_ROUNDS * total:
        return None
    along = np.concatenate([k * total + np.cumsum(lengths) for k in range(int(need / total) + 1)])
    last = int(
        np.searchsorted(along, need - 1e-12)
    )  # with this move it is down; from there the line is run round once more
    which = np.arange(last + 1 + len(lengths)) % len(lengths)
    deep = np.append(
        np.minimum(depth, above + fall * along[:last]), np.full(len(lengths) + 1, depth)
    )
    return Way(
        loop.to[which], loop.centre[which], loop.turn[which], np.append(above, deep[:-1]), deep
    )


def _strung(way: Way, other: Way) -> Way:
    return Way(
        *(
            np.concatenate([getattr(way, name), getattr(other, name)])
            for name in ("to", "centre", "turn", "depth_from", "depth")
        )
    )


def _back(way: Way, begin: Points) -> Way:
    """The same moves led back to where they begin."""
    return Way(
        np.vstack([begin, way.to[:-1]])[::-1],
        way.centre[::-1],
        -way.turn[::-1],
        way.depth[::-1],
        way.depth_from[::-1],
    )


def _round(
    begin: Points, middle: Points, above: float, depth: float, fall: float, *, arcs: bool
) -> Way:
    """Half turns about a middle, down to a depth and once round at it."""
    spoke = begin - middle
    radius = float(np.hypot(*spoke))
    halves = 2 * max(math.ceil((depth - above) / fall / (2 * math.pi * radius)), 1)
    steps = 1 if arcs else _STEPS
    angle = math.pi / steps * np.arange(1, (halves + 2) * steps + 1)
    cos, sin = np.cos(angle), np.sin(angle)
    to = middle + np.column_stack(
        [cos * spoke[0] - sin * spoke[1], sin * spoke[0] + cos * spoke[1]]
    )
    deep = np.minimum(depth, above + (depth - above) * np.arange(1, len(to) + 1) / (halves * steps))
    turn = np.full(len(to), math.pi if arcs else 0.0)
    centre = np.tile(middle if arcs else np.zeros(2), (len(to), 1))
    return Way(to, centre, turn, np.append(above, deep[:-1]), deep)
