"""From contours to what is left of the sheet: random parts, each with random cuts, written as
files, run on the simulated machine and held against the parts.

A job of which a finding says that it must not run is left out; all others must leave their parts as
they are.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.findings import Gravity
from draxet.job.machine_kinds import MACHINES, Machine
from draxet.job.operating import choose_machine, set_operation
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of, side_of
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse
from draxet.make.cutting_through import give_cut
from draxet.make.program_making import program_of
from draxet.prove.against import against
from draxet.prove.looking import findings_of
from draxet.prove.program_file import program_text, stock_of
from draxet.prove.run import run_findings

__all__ = ["chain", "off_of", "random_job"]

_COUNT = 300
_NEAR = 0.06
"""mm: so much may be taken away from a part; up to 0.05 nobody tells."""
_CROSSED = ("crossing", "crossed")


def _shape(rng: np.random.Generator, x: float, y: float, size: float) -> Contour:
    """A circle, a polygon with sharp or with round corners, or a free form."""
    count, kind = int(rng.integers(3, 9)), int(rng.integers(0, 4))
    if kind == 0:
        return Contour.circle(x, y, 0.9 * size)
    if kind == 3:
        count = 8
    at = np.linspace(0, 2 * np.pi, count, endpoint=False) + (
        rng.uniform(-0.2, 0.2, count) if kind < 3 else 0.0
    )
    far = size * rng.uniform(*((0.75, 0.95) if kind == 3 else (0.6, 1.0)), count)
    nodes = np.column_stack([x + far * np.cos(at), y + far * np.sin(at)])
    if kind == 1:
        return Contour.make(nodes)
    if kind == 2:
        return rounded_polygon([(a, b, float(rng.uniform(0.5, 3))) for a, b in nodes.tolist()])
    way = (np.roll(nodes, -1, axis=0) - np.roll(nodes, 1, axis=0)) / 6
    return Contour.make(
        nodes,
        np.full(count, 2),
        None,
        np.stack([nodes + way, np.roll(nodes - way, -1, axis=0)], axis=1),
    )


def random_job(seed: int) -> tuple[Job, Machine]:
    """Up to six parts with openings, and parts in openings, cut with a laser, a router or a plasma
    torch."""
    rng, contours = np.random.default_rng(seed), list[Contour]()
    for place in range(6):
        if rng.random() < 0.2 and contours:
            continue
        x, y, size = 70 + 130 * (place % 3), 80 + 130 * (place // 3), float(rng.uniform(25, 55))
        contours.append(_shape(rng, x, y, size))
        kind = rng.random()
        if kind < 0.35:
            contours.append(Contour.circle(x, y, size * float(rng.uniform(0.1, 0.45))))
        elif kind < 0.55:
            contours.append(_shape(rng, x, y, 0.55 * size))
            if rng.random() < 0.5:
                contours.append(_shape(rng, x, y, 0.25 * size))
    machine = MACHINES[int(rng.integers(0, 3))]
    origin = (float(rng.choice([0.0, 0.5, 1.0])), float(rng.choice([0.0, 0.5, 1.0])))
    job = add_contours(
        Job(
            sheets=(
                Sheet(
                    width=450,
                    height=300,
                    origin=origin,
                    thickness=float(rng.choice([1.0, 3.0, 6.0])),
                ),
            )
        ),
        contours,
    )
    job = give_cut(
        choose_machine(job, "sheet-0", machine.id),
        [item.id for item in job.contours],
        float(rng.choice([0.2, 1.0, 2.0, 3.0])),
        1200,
    )
    for operation in job.operations:
        changed = replace(  # type: ignore[call-arg, type-var]
            operation,
            lead=float(rng.choice([0, 0, 2, 4])),
            lead_shape=str(rng.choice(["straight", "arc"])),
            overrun=float(rng.choice([0, 1])),
            direction=str(rng.choice(["any", "climb", "against"])),
            passes=int(rng.integers(1, 4)) if machine.kind == "router" else 1,
            tabs=int(rng.choice([0, 0, 3])),
            tab_height=float(rng.choice([0, 0.5])),
            pass_depth=float(rng.choice([0, 1.0])),
        )
        job = set_operation(job, changed)
    return job, machine


def off_of(job: Job, machine: Machine) -> str:
    """What is wrong with what is left of the sheet though no finding says so; empty where nothing
    is."""
    programs = tuple(program_of(side_of(job, run), run.sheet, machine) for run in runs_of(job))
    found = [*findings_of(job), *run_findings(job, programs)]
    if any(finding.kind in _CROSSED for finding in found):
        return ""
    if "wrong-order" in {finding.kind for finding in found}:
        return "the program's own order is wrong"
    if any(finding.gravity is Gravity.STOPS for finding in found):
        return ""
    for run, program in zip(runs_of(job), programs, strict=True):
        seen = side_of(job, run)
        played = rehearse(
            read_program(program_text(job, run, program), machine.dialect),
            machine,
            stock_of(run, seen),
        )
        left = against(
            played,
            [
                contour
                for operation in seen.operations
                if operation.through
                for _, contour in seen.worked_on(operation, run.sheet)
            ],
            run.sheet.origin_place,
        )
        if played.troubles:
            return played.troubles[0].words
        if (
            left.missing
            or left.too_little > _NEAR
            or (
                left.uncut
                and machine.kind != "laser"
                and not any(getattr(operation, "tabs", 0) for operation in job.operations)
            )
        ):
            return f"{len(left.missing)} missing, {len(left.uncut)} not cut out, {left.too_little:.2f} mm too little"
    return ""


def chain() -> None:
    """The chain for some hundred jobs."""
    wrong = {seed: words for seed in range(_COUNT) if (words := off_of(*random_job(seed)))}
    print(
        f"chain           {_COUNT} random jobs of parts, openings and parts in openings, on three machines: {len(wrong)} leave something else than their parts untold (wanted: 0)"
    )
    for seed, words in wrong.items():
        print(f"  seed {seed}: {words}")
