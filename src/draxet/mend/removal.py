"""A piece taken out of a contour: what goes with it, what it leaves open, and the hole closed
again."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import closed_up, place_at, position_near, strung
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.bridge_edits import remove_bridges
from draxet.job.contour_edits import remove_contours
from draxet.job.contour_pieces import put_pieces
from draxet.job.records import Job
from draxet.mend.trim import piece_between, trimmed
from draxet.record import record

__all__ = ["MANNERS", "Hole", "Removal", "closing", "filled", "removal"]

MANNERS = ("straight", "tangent", "picture")
_ON = 1e-3
"""mm: what ends so near to a piece ends on it."""
_SAME_TURN = 1e-6


@record(frozen=True, eq=False)
class Removal:
    """gone : the piece. left : what stays of its contour. bridges : ids of those that go with
    it."""

    contour: str
    gone: Contour
    left: tuple[Contour, ...]
    bridges: tuple[str, ...]

    @property
    def opened(self) -> tuple[tuple[float, float], ...]:
        """The ends that it leaves open."""
        mine = [node for part in self.left for node in part.nodes[[0, -1]].tolist()]
        cut = [(float(x), float(y)) for x, y in self.gone.nodes[[0, -1]]]
        return tuple(end for end in cut if any(math.dist(end, node) < _ON for node in mine))

    def done(self, job: Job) -> tuple[Job, Hole | None]:
        """The job without it, and the hole that can be closed again; None where it left none."""
        job, ids = put_pieces(
            remove_bridges(job, self.bridges) if self.bridges else job, self.contour, self.left
        )
        if not self.left:
            return job, None
        first = self.left[0]
        second = self.left[-1]
        if first is second and math.dist(first.nodes[0], first.nodes[-1]) < _ON:
            return job, None
        whole = (
            first is second
            and math.dist(self.gone.nodes[0], first.nodes[-1]) < _ON
            and math.dist(self.gone.nodes[-1], first.nodes[0]) < _ON
        )
        return job, Hole(ids[0], ids[-1], first, second) if whole or first is not second else None


@record(frozen=True, eq=False)
class Hole:
    """From the end of one contour to the beginning of another, or of the same one."""

    first: str
    second: str
    before: Contour
    after: Contour

    @property
    def ends(self) -> tuple[Points, Points]:
        return self.before.nodes[-1], self.after.nodes[0]

    @property
    def apart(self) -> float:
        return math.dist(*self.ends)


def removal(
    job: Job, contour_id: str, others: Sequence[Contour], position: float
) -> Removal | None:
    """What it means to take away the piece at a position, from one crossing with `others` to the
    next; None where nothing bounds it."""
    contour = job.layout.contour_by_id[contour_id].contour
    gone, left = piece_between(contour, others, position), trimmed(contour, others, position)
    if gone is None or left is None:
        return None
    bridges = tuple(
        bridge.id
        for bridge in job.layout.bridges
        if bridge.contour == contour_id and _away(gone, bridge.x, bridge.y) < _ON
    )
    return Removal(contour_id, gone, tuple(left), bridges)


def _away(contour: Contour, x: float, y: float) -> float:
    return math.dist(place_at(contour, position_near(contour, x, y)), (x, y))


def closing(hole: Hole, manner: str, along: Contour | None = None) -> Contour:
    """What closes a hole: ``straight``, ``tangent`` to both ends (an arc where one fits, else a
    curve), or what was found `along` the picture."""
    start, end = hole.ends
    if manner == "picture" and along is not None:
        nodes = along.nodes.copy()
        nodes[0], nodes[-1] = start, end
        return Contour.make(nodes, along.kinds, along.bulges, along.handles, closed=False)
    if manner == "tangent":
        into, out = hole.before.spans.tangents()[1][-1], hole.after.spans.tangents()[0][0]
        way = end - start
        turn_in, turn_out = (_turn(a, b) for a, b in ((into, way), (way, out)))
        if abs(turn_in - turn_out) < _SAME_TURN and abs(turn_in) < math.pi - _SAME_TURN:
            return Contour.make(
                [start, end],
                [ARC if abs(turn_in) > _SAME_TURN else LINE],
                [math.tan(turn_in / 2)],
                closed=False,
            )
        reach = float(np.hypot(*way)) / 3 * 2 / (1 + max(math.cos((turn_in + turn_out) / 2), -0.5))
        return Contour.make(
            [start, end], [CUBIC], None, [[start + reach * into, end - reach * out]], closed=False
        )
    return Contour.make([start, end], closed=False)


def _turn(a: Points, b: Points) -> float:
    return math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a @ b))


def filled(job: Job, hole: Hole, by: Contour) -> Job:
    """The hole closed by a contour that leads from its one end to the other."""
    made = strung(hole.before, by)
    if hole.first == hole.second:
        return put_pieces(job, hole.first, [closed_up(made)])[0]
    return put_pieces(remove_contours(job, [hole.second]), hole.first, [strung(made, hole.after)])[
        0
    ]
