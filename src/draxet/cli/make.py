"""``draxet make``: what a machine would do for a job or a drawing, how long
it takes, and what is wrong with it."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from draxet.cli.drawing_file import drawing_at
from draxet.files import plain_words, same_file
from draxet.formats.layer import FormatError
from draxet.geometry.affine import Affine
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import MACHINES, Machine
from draxet.job.materials import is_alike, machine_for
from draxet.job.operating import choose_machine, give_operation, set_operation
from draxet.job.operations import CutThrough, Side
from draxet.job.product import Product
from draxet.job.recipe import RECIPES
from draxet.job.records import Job
from draxet.job.sheet_edits import set_setup
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run, runs_of, side_of
from draxet.leaving import kind_of
from draxet.leaving.leaving_kind import DRAWN_FOR, Leaving, LookSettings, leave_together
from draxet.leaving.run_files import ProgramSettings
from draxet.make.cutting_through import give_cut
from draxet.make.first import first_of
from draxet.make.products import product_of
from draxet.prove.looking import findings_of, gravest_first
from draxet.prove.run import run_findings
from draxet.units import parse_length, parse_speed

__all__ = ["add_make", "add_zero", "counts_of", "job_of", "machine_named", "run_make"]

_MARGIN = 5.0
"""mm round a bare drawing: its sheet."""
_LONGEST_NAME = 240
"""Bytes of a file's name."""


def add_make(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser(
        "make", help="what a machine does for a job or a drawing", description=__doc__
    )
    parser.add_argument("work", type=Path, metavar="JOB.draxet|IN.dxf|IN.svg")
    parser.add_argument(
        "--machine", metavar="NAME", help="one of those that ./draxet machines lists"
    )
    parser.add_argument(
        "--side",
        choices=("auto", "inside", "outside", "on"),
        default="auto",
        help="on which side of its contours a drawing is cut",
    )
    parser.add_argument("--cut-width", metavar="LENGTH")
    add_sheet(parser)
    add_zero(parser)
    parser.add_argument(
        "--feed", metavar="SPEED", help="in mm/min, or with its unit: 20mm/s, 60in/min"
    )
    parser.add_argument(
        "-o",
        "--output",
        type=Path,
        metavar="OUT.nc|OUT.plt|OUT.dxf|…",
        help="write the program there, or a drawing, picture or paper, by the ending; where a finding stops it, nothing is written",
    )
    parser.add_argument(
        "--drawn",
        choices=("cut", "look", "lines"),
        help="drawings, papers and pictures for cutting, filled as they look, or all contours as lines; else as what the job is for asks for it",
    )
    parser.add_argument("--json", action="store_true", help="print what was found as JSON")


def add_sheet(parser: argparse.ArgumentParser) -> None:
    """Add the options that say what a bare drawing is cut from."""
    parser.add_argument(
        "--material",
        metavar="NAME",
        help="what a drawing is cut from; else what the machine has a recipe for. Without --machine it goes on the machine that goes by it",
    )
    parser.add_argument(
        "--thickness",
        metavar="LENGTH",
        help="of what a drawing is cut from; else that of the recipe",
    )


def add_zero(parser: argparse.ArgumentParser) -> None:
    """Add the option that says where a program counts from."""
    parser.add_argument(
        "--zero",
        choices=("drawing", "sheet", "work", "middle"),
        help="where the program counts from: as the drawing does (so does that of a bare drawing), the sheet's origin (so does that of a job), the work's lower left, or its middle",
    )


def counts_of(work: Path, options: argparse.Namespace) -> str:
    """Where the program of a job or of a bare drawing counts from, as ``ProgramSettings`` has it."""
    asked = options.zero or ("sheet" if work.suffix.lower() == ".draxet" else "drawing")
    return {"sheet": "origin", "work": "corner"}.get(asked, asked)


def run_make(options: argparse.Namespace) -> int:
    """Make as the options say; 1 where a finding stops it. ValueError with one sentence where it
    cannot be done."""
    machine = machine_named(options.machine) if options.machine else None
    job = job_of(options.work, options, machine)
    if machine is not None:
        for sheet in job.sheets:
            job = choose_machine(job, sheet.id, machine.id)
    if options.work.suffix.lower() == ".draxet":
        job = _changed(job, options)
    drawn = options.drawn or _drawn_for(job, options.output)
    if LookSettings(drawn).is_art:
        return _draw(job, drawn, options)
    job = set_setup(job, purpose="work")
    runs = runs_of(job)
    products = tuple(
        product_of(side_of(job, run), run.sheet, job.machine_of(run.sheet)) for run in runs
    )
    facts = _facts(job, products)
    findings = gravest_first((*findings_of(job), *run_findings(job, products)))
    stops = any(finding.gravity is Gravity.STOPS for finding in findings)
    settings: dict[type, Any] = {ProgramSettings: ProgramSettings(counts_of(options.work, options))}
    leavings = [
        Leaving(job, run, settings, tuple(findings), product)
        for run, product in zip(runs, products, strict=True)
    ]
    files = [] if stops or options.output is None else _written(leavings, options)
    if options.json:
        print(
            json.dumps(
                {
                    **facts,
                    "findings": [_found(finding) for finding in findings],
                    **({"files": files} if options.output else {}),
                },
                allow_nan=False,
            )
        )
        return int(stops)
    if options.output is not None:
        print(
            "nothing was written: a finding stops it"
            if stops
            else f"written and read back: {', '.join(files)}"
        )
    print(
        f"{facts['contours']} contours, {facts['cut_mm'] / 1000:.2f} m worked, {facts['travel_mm'] / 1000:.2f} m travelled, {facts['seconds']:.0f} s"
    )
    for finding in findings:
        print(f"{finding.gravity.name.lower()}: {finding.words}")
    return int(stops)


def _drawn_for(job: Job, output: Path | None) -> str:
    """How a job leaves in a file, by what it is for."""
    if output is None or job.is_worked:
        return "cut"
    return DRAWN_FOR[job.purpose] if LookSettings in kind_of(output).asks else "cut"


def _draw(job: Job, drawn: str, options: argparse.Namespace) -> int:
    """Write all that is drawn, sheet by sheet, whatever it is worked by."""
    if options.output is None or kind_of(options.output).runs:
        raise ValueError("--drawn is for drawings, papers and pictures: name one with -o")
    settings: dict[type, Any] = {LookSettings: LookSettings(drawn)}
    used = {item.sheet for item in job.layout.contours}
    leavings = [Leaving(job, Run(sheet), settings) for sheet in job.sheets if sheet.id in used]
    files = _written(leavings, options)
    print(
        json.dumps({"files": files})
        if options.json
        else f"written and read back: {', '.join(files)}"
    )
    return 0


def _written(leavings: Sequence[Leaving], options: argparse.Namespace) -> list[str]:
    """A file of the kind asked for of each run; all of them are read back before any takes its
    place. The names."""
    paths = _paths(options.output, [leaving.run for leaving in leavings])
    for path in paths:
        if same_file(path, options.work):
            raise ValueError(f"the output must be another file than the input, got {path} for both")
    if not leavings:
        raise ValueError(
            "nothing would leave: no contour has an operation; give one in Make, or see --drawn"
        )
    try:
        kind = kind_of(options.output, leavings[0].machine)
        files = zip(leavings, paths, strict=True)
        left = leave_together([(kind, leaving, path) for leaving, path in files])
    except FormatError as error:
        raise ValueError(str(error)) from error
    if wrong := next((each for each in left if not each.read_back.matches), None):
        raise ValueError(
            f"{wrong.file} was not kept: read back, {wrong.read_back.words}; please tell the makers of Draxet"
        )
    return [str(path) for path in paths]


def _paths(path: Path, runs: Sequence[Run]) -> list[Path]:
    """The path for one run; for several one each, told apart by sheet and side."""
    if len(runs) == 1:
        return [path]
    found, taken = list[Path](), set[str]()
    for run in runs:
        number, side = 1, " back" if run.back else ""
        while True:
            words = f" - {plain_words(run.sheet.name).replace('/', '-')}"
            end = f"{side}{f' ({number})' if number > 1 else ''}{path.suffix}"
            room = _LONGEST_NAME - len(f"{path.stem}{end}".encode())
            name = f"{path.stem}{words.encode()[: max(room, 0)].decode('utf-8', 'ignore')}{end}"
            if name.casefold() not in taken:
                break
            number += 1
        taken.add(name.casefold())
        found.append(path.with_name(name))
    return found


def machine_named(name: str) -> Machine:
    """One of the machines that ship. ValueError where there is none of that name."""
    found = next((machine for machine in MACHINES if machine.id == name), None)
    if found is None:
        raise ValueError(
            f"--machine must be one of {', '.join(machine.id for machine in MACHINES)}, got {name[:60]!r}"
        )
    return found


def _feed(text: str) -> float:
    feed = parse_speed(text, what="--feed")
    if not 0.1 <= feed <= 1e6:
        raise ValueError(f"--feed must be from 0.1 to 1000000 mm/min, got {text[:60]!r}")
    return feed


def job_of(path: Path, options: argparse.Namespace, machine: Machine | None) -> Job:
    """A job's file, or a bare drawing on a sheet about it, cut through as the options say.
    ValueError where it cannot be read."""
    if path.suffix.lower() == ".draxet":
        return read_job(path)
    drawing = drawing_at(path)
    contours = [
        contour.transformed(Affine.scaled(drawing.unit_mm or 1.0)) for contour in drawing.contours
    ]
    if not contours:
        raise ValueError(f"{path.name} holds no contours")
    boxes = [contour.box for contour in contours]
    x, y = min(box[0] for box in boxes) - _MARGIN, min(box[1] for box in boxes) - _MARGIN
    wide, high = (
        max(box[2] for box in boxes) + _MARGIN - x,
        max(box[3] for box in boxes) + _MARGIN - y,
    )
    sheet = _cut_from(Sheet(width=wide, height=high, x=x, y=y), options, machine)
    return _cut_as_asked(add_contours(Job(path.stem, sheets=(sheet,)), contours), options)


def _cut_from(sheet: Sheet, options: argparse.Namespace, machine: Machine | None) -> Sheet:
    """The sheet of what the options say, on the machine that goes by it; else of what the machine
    has a recipe to cut through, as near as can be to a usual sheet's thickness."""
    asked = getattr(options, "thickness", None)
    thick = parse_length(asked, positive=True, what="--thickness") if asked else None
    material = (getattr(options, "material", None) or "").strip()
    told = material or sheet.material
    machine = machine or machine_for(MACHINES, told, thick or sheet.thickness)
    if machine is None:
        raise ValueError(
            f"--material must be one that tells its machine, as plywood does, got {told[:60]!r}; say which by --machine"
        )
    some = [each for each in RECIPES if each.machine == machine.id and each.kind == "CutThrough"]
    some = [each for each in some if not material or is_alike(each.material, material)]
    wanted = thick or sheet.thickness
    usual = min(some, key=lambda each: abs(each.thickness - wanted), default=None)
    return replace(
        sheet,
        machine=machine.id,
        material=material or (usual.material if usual else sheet.material),
        thickness=thick or (usual.thickness if usual else sheet.thickness),
    )


def _cut_as_asked(job: Job, options: argparse.Namespace) -> Job:
    """The job with all of its contours cut through as the options say."""
    cut_width, feed_words, side = (
        getattr(options, name, None) for name in ("cut_width", "feed", "side")
    )
    usual = first_of(CutThrough, job)
    width = parse_length(cut_width, positive=True, what="--cut-width") if cut_width else usual.width
    feed = _feed(feed_words) if feed_words else usual.feed
    ids = [item.id for item in job.contours]
    made = (
        give_cut(job, ids, width, feed)
        if side in (None, "auto")
        else give_operation(job, "Cut", ids, Side(side), width, feed)
    )
    for operation in made.operations:
        if operation.through:
            made = set_operation(
                made,
                operation.changed(
                    power=usual.power,
                    passes=usual.passes,
                    pass_depth=usual.pass_depth,
                    air=usual.air,
                    pierce=usual.pierce,
                    lead=usual.lead,
                    recipe=usual.recipe,
                ),
            )
    return made


def _changed(job: Job, options: argparse.Namespace) -> Job:
    for operation in job.operations:
        if operation.through:
            width = (
                parse_length(options.cut_width, positive=True, what="--cut-width")
                if options.cut_width
                else operation.width
            )
            feed = _feed(options.feed) if options.feed else operation.feed
            side = operation.side if options.side == "auto" else Side(options.side)
            job = set_operation(job, operation.changed(width=width, feed=feed, side=side))
    return job


def _facts(job: Job, programs: Sequence[Product]) -> dict[str, Any]:
    facts: dict[str, Any] = {
        "machine": ", ".join({job.machine_of(run.sheet).name: None for run in runs_of(job)}),
        "operations": len(job.operations),
        "contours": len(job.worked),
        "cut_mm": 0.0,
        "travel_mm": 0.0,
        "seconds": 0.0,
    }
    for program in programs:
        for name, value in (
            ("cut_mm", program.cut_mm),
            ("travel_mm", program.travel_mm),
            ("seconds", program.seconds),
        ):
            facts[name] = round(facts[name] + value, 3)
    return facts


def _found(finding: Finding) -> dict[str, Any]:
    places: Sequence[tuple[float, float]] = finding.places
    x, y = places[0] if places else (None, None)
    return {
        "kind": finding.kind.split("-operation")[0],
        "words": finding.words,
        "gravity": finding.gravity.name.lower(),
        "x": x,
        "y": y,
    }
