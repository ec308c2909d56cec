"""What goes wrong in a rehearsal: moves through material, out of reach, into what is kept clear."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats, Ints, norms
from draxet.geometry.nesting import as_polygon
from draxet.geometry.turning import boxes, way_points
from draxet.machines.program_steps import Steps
from draxet.machines.rehearsal_records import FINE, Loose, Rehearsal, Trouble

__all__ = ["into_kept_clear", "moved_wrongly", "on_loose_pieces", "troubles_told"]

_BELOW = 0.5
"""mm: a tool may go so much deeper than the sheet is thick, into what lies beneath it."""

_INSIDE = 0.1
"""mm: a line so far inside a piece that came loose works on it."""

_MOST = 300


def troubles_told(steps: Steps) -> list[Trouble]:
    return [
        Trouble("unreadable", f"Line {problem.line}: {problem.words}", problem.line, (0.0, 0.0))
        for problem in steps.problems
    ]


def moved_wrongly(run: Rehearsal, down: Bools, below: Floats) -> list[Trouble]:
    """Steps that the machine cannot or may not do so, a few of each kind."""
    found = []
    for kind, words, wrong in _checks(run, down, below):
        some = np.flatnonzero(wrong)
        lines, at = np.unique(run.steps.line[some], return_index=True)
        for number, k in list(zip(lines.tolist(), some[at].tolist(), strict=True))[:_MOST]:
            x, y = run.steps.to[k, :2].tolist()
            grave = kind not in ("too-fast", "plunge-too-fast")
            found.append(Trouble(kind, f"Line {number} {words}", number, (x, y), grave))
    return found


def _checks(run: Rehearsal, down: Bools, below: Floats) -> tuple[tuple[str, str, Bools], ...]:
    """Kinds of trouble, their words, and of each step whether it is so."""
    steps, machine, stock = run.steps, run.machine, run.stock
    far = _out_of_reach(run)
    router = machine.traits.lowers
    level = norms(steps.to[:, :2] - steps.begins[:, :2]) > 1e-6
    plunged = router & down & ~level & (steps.to[:, 2] < steps.begins[:, 2] - 1e-6)
    return (
        (
            "out-of-reach",
            f"leads out of the reach of the {machine.name.lower()}",
            far & (run.work | (norms(steps.to[:, :2]) > 1e-6)),
        ),
        ("travel-down", f"travels with the {machine.traits.at_work}", steps.rapid & down & level),
        (
            "plunge-too-fast",
            f"plunges faster than {machine.plunge:g} mm/min",
            plunged & (steps.rapid | (steps.feed > machine.plunge * 1.001)),
        ),
        (
            "no-feed",
            "works with no feed",
            run.work & (steps.feed <= 0) & (not machine.traits.draws),
        ),
        (
            "no-power",
            "is in the material with the spindle off" if router else "cuts with no power",
            run.work & (~steps.on if router else (steps.power <= 0) & (machine.traits.has_power)),
        ),
        (
            "too-deep",
            f"goes deeper than the sheet, {stock.thickness:g} mm, and {_BELOW:g} mm beyond",
            run.work & (below > stock.thickness + _BELOW) & router,
        ),
        (
            "too-fast",
            f"wants a feed over {machine.most_feed:g} mm/min",
            run.work & (steps.feed > machine.most_feed * 1.001),
        ),
    )


def _out_of_reach(run: Rehearsal) -> Bools:
    """Which moves end out of the machine's reach, or leave it on their way."""
    steps, machine, corner = run.steps, run.machine, (run.stock.x, run.stock.y)
    reach = machine.reach
    if reach is None:
        return np.zeros(len(steps), bool)
    if not machine.reach_is_box:
        place = steps.to[:, :2] - corner
        room = as_polygon(reach, FINE).buffer(1e-3 + FINE)
        far: Bools = ~shapely.contains_xy(room, place[:, 0], place[:, 1])
        far[run.work] |= ~shapely.covers(
            shapely.transform(room, lambda points: points + corner),
            _ways(steps, np.flatnonzero(run.work)),
        )
        return far
    low, high = boxes(steps.begins[:, :2], steps.to[:, :2], steps.centre, steps.turn)
    low[steps.turn == 0] = high[steps.turn == 0] = steps.to[steps.turn == 0, :2]
    x0, y0, x1, y1 = reach.box
    under, over = low - corner < (x0 - 1e-3, y0 - 1e-3), high - corner > (x1 + 1e-3, y1 + 1e-3)
    beyond: Bools = np.any(np.hstack([under, over]), axis=1)
    return beyond


def _ways(steps: Steps, some: Ints) -> Any:
    """The level way of some moves, arcs as arcs."""
    begins = steps.begins[some, :2]
    points, owner = way_points(
        begins, steps.to[some, :2], steps.centre[some], steps.turn[some], FINE
    )
    places, owner = np.vstack([begins, points]), np.append(np.arange(len(some)), owner)
    order = np.argsort(owner, kind="stable")
    return shapely.linestrings(places[order], indices=owner[order])


def into_kept_clear(run: Rehearsal) -> list[Trouble]:
    """Moves into what the machine keeps clear of: at work, or travelling lower than that stands
    high."""
    steps, machine, found = run.steps, run.machine, list[Trouble]()
    begins = steps.begins
    if not machine.keep_clear:
        return []
    lines = _ways(steps, np.arange(len(steps)))
    high = (
        np.minimum(steps.to[:, 2], begins[:, 2])
        - (0.0 if run.stock.zero == "top" else run.stock.thickness)
        if machine.traits.lowers
        else np.full(len(steps), machine.safe_height)
    )
    for number, area in enumerate(machine.keep_clear, 1):
        shape = shapely.transform(
            as_polygon(area.outline, FINE).buffer(0),
            lambda points: points + (run.stock.x, run.stock.y),
        )
        near = shapely.distance(lines, shape) < np.where(run.work, run.width / 2, FINE)
        some = np.flatnonzero(near & (run.work | (high < area.height)))
        for k in some[:1].tolist():
            found.append(
                Trouble(
                    "keep-clear",
                    f"Line {int(steps.line[k])} runs into area {number} that is to be kept clear",
                    int(steps.line[k]),
                    (float(steps.to[k, 0]), float(steps.to[k, 1])),
                )
            )
    return found


def on_loose_pieces(
    run: Rehearsal, every: Sequence[tuple[int, Any]], loose: Sequence[Loose]
) -> list[Trouble]:
    """Work on a piece that has come loose before; `every` is what each line of work takes away."""
    if not loose:
        return []
    begins = [int(np.flatnonzero(run.run == run.run[move])[0]) for move, _ in every]
    tree = shapely.STRtree([shape for _, shape in every])
    found = []
    for piece in loose:
        inner = piece.shape.buffer(-_INSIDE)
        later = sorted(
            k for k in tree.query(inner, predicate="intersects").tolist() if begins[k] > piece.move
        )
        if later and not inner.is_empty:
            k = begins[later[0]]
            words = f"Line {int(run.steps.line[k])} works on a piece of {piece.area:.0f} mm² that came loose in line {int(run.steps.line[piece.move])}"
            found.append(
                Trouble(
                    "loose",
                    words,
                    int(run.steps.line[k]),
                    (float(run.steps.to[k, 0]), float(run.steps.to[k, 1])),
                )
            )
    return found
