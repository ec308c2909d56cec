"""A rehearsal: the steps that a controller read, on a simulated machine and a sheet; what they
take, what comes loose, and what goes wrong only when it runs.

A router goes as deep as it is led, a torch goes through, a pen marks, and a laser burns as deep as
its power over its feed has it, pass after pass.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from draxet.geometry.arrays import Bools, Floats, Ints
from draxet.job.machine_kinds import Machine
from draxet.job.pace import seconds_of
from draxet.machines.program_steps import Steps
from draxet.machines.rehearsal_records import SPECK, Loose, Rehearsal, Stock, swept
from draxet.machines.rehearsal_troubles import (
    into_kept_clear,
    moved_wrongly,
    on_loose_pieces,
    troubles_told,
)

__all__ = ["rehearse"]

_DOWN = 1e-6

_BED = 5.0
"""mm under a cut: nobody minds."""


def rehearse(steps: Steps, machine: Machine, stock: Stock) -> Rehearsal:
    """Run the steps of a program on a machine and a sheet."""
    begins = steps.begins
    top = 0.0 if stock.zero == "top" else stock.thickness
    below = np.maximum(top - steps.to[:, 2], 0.0)
    below_from = np.maximum(top - begins[:, 2], 0.0)
    down, work, depth = _at_work(steps, machine, stock, below, below_from)
    width = np.where(steps.width > 0, steps.width, stock.cut or machine.cut_width)
    for number, cutter in enumerate(machine.cutters, 1):
        width[steps.cutter == number] = cutter.diameter
    first = Rehearsal(
        steps,
        machine,
        stock,
        _ends(steps, machine, work, steps.lengths),
        work,
        np.where(work, depth, 0.0),
        width,
        _runs(work, steps),
        (),
        (),
    )
    cuts = swept(first, first.through)
    every = cuts if bool((first.through == work).all()) else swept(first, work) if cuts else []
    loose = _loosened(cuts)
    troubles = (
        *troubles_told(steps),
        *moved_wrongly(first, down, below),
        *into_kept_clear(first),
        *on_loose_pieces(first, every, loose),
    )
    return replace(
        first,
        loose=loose,
        troubles=tuple(sorted(troubles, key=lambda trouble: trouble.line)),
    )


def _at_work(
    steps: Steps, machine: Machine, stock: Stock, below: Floats, below_from: Floats
) -> tuple[Bools, Bools, Floats]:
    """Of each step whether the tool is in the material or on, whether it works, and how deep in
    mm."""
    if machine.traits.lowers:
        down = (below > _DOWN) | (below_from > _DOWN)
        work = down & ~steps.rapid
        return down, work, np.minimum(below, below_from)  # surely taken away all along it
    work = steps.on & ~steps.rapid & (steps.lengths > 0)
    depth = (
        _burnt(steps, machine, stock, work)
        if machine.traits.has_power
        else np.where(work, stock.thickness if machine.traits.goes_through else 0.0, 0.0)
    )
    return steps.on, work, depth


def _burnt(steps: Steps, machine: Machine, stock: Stock, work: Bools) -> Floats:
    """How deep a laser has got at each move, from all passes along the same place."""
    percent = 100 * steps.power / machine.power_scale
    each = np.where(
        work & (steps.feed > 0), machine.burn * percent / np.maximum(steps.feed, 1e-9), 0.0
    )
    begins, to, turn = (
        np.round(steps.begins[:, :2], 2),
        np.round(steps.to[:, :2], 2),
        np.round(steps.turn, 3),
    )
    back = (begins[:, 0] > to[:, 0]) | (
        (begins[:, 0] == to[:, 0]) & (begins[:, 1] > to[:, 1])
    )  # the same way may be run from either end
    places = np.hstack(
        [
            np.where(back[:, None], to, begins),
            np.where(back[:, None], begins, to),
            np.where(back, -turn, turn)[:, None],
        ]
    )
    done, some = dict[tuple[float, ...], float](), np.flatnonzero(work)
    keys = list(map(tuple, places[some].tolist()))
    for key, burnt in zip(keys, each[some].tolist(), strict=True):
        done[key] = done.get(key, 0.0) + burnt
    depth = np.zeros(len(steps))
    depth[some] = [done[key] for key in keys]
    return depth


def _runs(work: Bools, steps: Steps) -> Ints:
    """The number of the unbroken line of work that each move belongs to."""
    number, found = -1, np.full(len(work), -1)
    for k, works in enumerate(work.tolist()):
        if works:
            if k == 0 or not work[k - 1]:
                number += 1
            found[k] = number
    return found


def _ends(steps: Steps, machine: Machine, work: Bools, lengths: Floats) -> Floats:
    """When each move has ended: moves of one line run on in one another, each line and each travel
    speeds up and slows down."""
    speed = (
        np.where(
            steps.rapid,
            machine.travel,
            np.minimum(np.where(steps.feed > 0, steps.feed, machine.travel), machine.most_feed),
        )
        / 60.0
    )
    begins = np.append(True, (work[1:] != work[:-1])) if len(work) else work
    took = seconds_of(lengths, speed, work, begins, machine.acceleration)
    for at, seconds in steps.waits.items():
        if at < len(took):
            took[at] += seconds
    return np.asarray(np.cumsum(took))


def _loosened(cuts: Sequence[tuple[int, Any]]) -> tuple[Loose, ...]:
    """The pieces that come loose, each after the move that closes the cut round it; `cuts` are what
    lines of work take away, in their order."""
    if not cuts:
        return ()
    shapes = np.array([shape for _, shape in cuts], dtype=object)
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    touching: list[list[int]] = [[] for _ in cuts]
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if b < a:
            touching[a].append(b)
    body_of: dict[int, int] = {}
    bodies: dict[int, Any] = {}
    holes: dict[int, list[Any]] = {}
    found = []
    for k, (move, shape) in enumerate(cuts):
        met = {body_of[_root(body_of, other)] for other in touching[k]}
        known = [hole for body in met for hole in holes[body]]
        bodies[k] = shapely.union_all([shape, *(bodies.pop(body) for body in met)])
        for body in met:
            body_of[body] = k
            holes.pop(body)
        body_of[k] = k
        holes[k] = [
            shapely.Polygon(ring)
            for part in shapely.get_parts(bodies[k])
            if part.geom_type == "Polygon"
            for ring in part.interiors
        ]
        for hole in holes[k]:
            if hole.area > SPECK and not any(
                hole.symmetric_difference(old).area < SPECK for old in known
            ):
                found.append(Loose(move, hole, float(hole.area)))
    return tuple(found)


def _root(body_of: dict[int, int], number: int) -> int:
    while body_of[number] != number:
        number = body_of[number]
    return number
