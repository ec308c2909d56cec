"""``draxet rehearse``: plays a program's file, whoever wrote it, on a simulated machine, and tells
what it does and what goes wrong."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from draxet.cli.make import add_zero, counts_of, job_of, machine_named
from draxet.files import reason
from draxet.job.machine_kinds import Machine
from draxet.job.records import Job
from draxet.job.sides import Run, runs_of, side_of
from draxet.leaving.run_files import zero_of
from draxet.machines.controller import steps_on
from draxet.machines.program_steps import Steps
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Rehearsal, Stock
from draxet.make.products import product_of
from draxet.prove.against import Against, against
from draxet.prove.program_file import stock_of
from draxet.units import parse_length

__all__ = ["add_rehearse", "run_rehearse"]

_LARGEST = 200_000_000
_MARGIN = 10.0
"""mm round the work of a program whose sheet is not known."""
_USUAL = 3.0
"""mm: how thick a sheet is of which nothing is known."""


def add_rehearse(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser(
        "rehearse", help="play a program on a simulated machine", description=__doc__
    )
    parser.add_argument("program", type=Path, metavar="FILE")
    parser.add_argument(
        "--machine", metavar="NAME", required=True, help="one of those that ./draxet machines lists"
    )
    parser.add_argument(
        "--against",
        type=Path,
        metavar="IN.dxf|IN.svg|JOB.draxet",
        help="hold what is left against the parts of a drawing or a job",
    )
    parser.add_argument(
        "--thickness",
        metavar="LENGTH",
        help="of the sheet; else that of the job, or as deep as the program goes",
    )
    parser.add_argument(
        "--cut-width",
        metavar="LENGTH",
        help="how broad the cuts are; else as the program says, or as the machine cuts",
    )
    parser.add_argument("--material", metavar="NAME", help="what the drawing is cut from")
    add_zero(parser)
    parser.add_argument("--json", action="store_true", help="print what was found as JSON")


def run_rehearse(options: argparse.Namespace) -> int:
    """Rehearse as the options say; 1 where the run should be stopped. ValueError with one sentence
    where it cannot be done."""
    path: Path = options.program
    machine = machine_named(options.machine)
    try:
        if path.stat().st_size > _LARGEST:
            raise ValueError(
                f"{path.name} is larger than {_LARGEST // 1_000_000} MB; rehearse a part of it"
            )
        steps = steps_on(path.read_text("utf-8-sig", "replace"), machine)
    except OSError as error:
        raise ValueError(f"{path} could not be read: {reason(error)}") from error
    if not len(steps):
        raise ValueError(
            f"{path.name} holds no move; it must be a program in the numeric-control or the plotter language"
        )
    job = job_of(options.against, options, machine) if options.against else None
    run = _run_of(job) if job else None
    if options.cut_width:
        wide = parse_length(options.cut_width, positive=True, what="--cut-width")
        steps = replace(steps, width=np.full(len(steps), wide))
    zero = _zero(job, run, options) if job and run else (0.0, 0.0)
    run_through = rehearse(
        steps, machine, _stock(steps, machine, job, run, zero, options.thickness)
    )
    found = _held_against(run_through, job, run, zero) if job and run else None
    stops = any(trouble.stops for trouble in run_through.troubles) or (
        found is not None and bool(found.missing or found.uncut)
    )
    if options.json:
        print(json.dumps(_facts(run_through, found), allow_nan=False))
        return int(stops)
    print(
        f"{len(steps)} moves, {run_through.seconds:.0f} s, {run_through.cut_mm / 1000:.2f} m worked, {run_through.travel_mm / 1000:.2f} m travelled, {run_through.pierces} beginnings, {len(run_through.loose)} pieces come loose"
    )
    if found is not None:
        print(
            f"{found.parts} parts: {found.too_much:.3f} mm too much at most, {found.too_little:.3f} mm too little, {len(found.missing)} missing, {len(found.uncut)} not cut out"
        )
    for seconds, words in run_through.stops:
        print(f"waits at {seconds:.0f} s: {words or 'until it is told to go on'}")
    for trouble in run_through.troubles:
        print(f"{'stops' if trouble.stops else 'warns'}: {trouble.words}")
    return int(stops)


def _run_of(job: Job) -> Run:
    runs = runs_of(job)
    if not runs:
        raise ValueError(
            f"{job.name} gives no contour an operation; there is nothing to hold the program against"
        )
    return runs[0]


def _zero(job: Job, run: Run, options: argparse.Namespace) -> tuple[float, float]:
    """Where the program counts from, from the sheet's origin in mm."""
    counts = counts_of(options.against, options)
    product = product_of(side_of(job, run), run.sheet, job.machine_of(run.sheet))
    return zero_of(run, product, counts)


def _stock(
    steps: Steps,
    machine: Machine,
    job: Job | None,
    run: Run | None,
    zero: tuple[float, float],
    thickness: str | None,
) -> Stock:
    thick = parse_length(thickness, positive=True, what="--thickness") if thickness else None
    if run is not None:
        stock = stock_of(run, job)
        stock = replace(stock, x=stock.x - zero[0], y=stock.y - zero[1])
        return stock if thick is None else replace(stock, thickness=thick)
    places = np.vstack([np.zeros((1, 2)), steps.to[:, :2]])
    low, high = places.min(axis=0) - _MARGIN, places.max(axis=0) + _MARGIN
    if thick is None:
        thick = max(float(-steps.to[:, 2].min()), 0.0) if machine.traits.lowers else _USUAL
        if machine.traits.has_power:
            thick = float(rehearse(steps, machine, Stock(1e4, 1e4, 1e6)).depth.max(initial=0.0))
    x, y = (
        min(float(low[0]), 0.0) if low[0] < -_MARGIN else 0.0,
        min(float(low[1]), 0.0) if low[1] < -_MARGIN else 0.0,
    )
    return Stock(float(high[0]) - x, float(high[1]) - y, thick or _USUAL, x, y)


def _held_against(run_through: Rehearsal, job: Job, run: Run, zero: tuple[float, float]) -> Against:
    seen = side_of(job, run)
    contours = [
        seen.fitted.get(name, seen.contour_by_id[name].contour)
        for operation in seen.operations
        if operation.through
        for name, _ in seen.worked_on(operation, run.sheet)
    ]
    x, y = run.sheet.origin_place
    return against(run_through, contours, (x + zero[0], y + zero[1]))


def _facts(run_through: Rehearsal, found: Against | None) -> dict[str, Any]:
    facts: dict[str, Any] = {
        "moves": len(run_through.steps),
        "seconds": round(run_through.seconds, 3),
        "cut_mm": round(run_through.cut_mm, 3),
        "travel_mm": round(run_through.travel_mm, 3),
        "pierces": run_through.pierces,
        "box_mm": [round(value, 4) for value in run_through.box],
        "loose": len(run_through.loose),
        "waits": [
            {"seconds": round(seconds, 3), "words": words} for seconds, words in run_through.stops
        ],
        "findings": [
            {
                "kind": t.kind,
                "words": t.words,
                "gravity": "stops" if t.stops else "warns",
                "line": t.line,
                "x": t.place[0],
                "y": t.place[1],
            }
            for t in run_through.troubles
        ],
    }
    if found is not None:
        facts |= {
            "parts": found.parts,
            "too_much_mm": round(found.too_much, 4),
            "too_little_mm": round(found.too_little, 4),
            "missing": len(found.missing),
            "held": found.held,
            "uncut": len(found.uncut),
        }
    return facts
