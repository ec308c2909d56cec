"""``draxet stitch``: a drawing or a job becomes an embroidery file: filled shapes are sewn in
their colours as suits them, narrow ones in satin and others in rows, lines are run along, or
sewn in satin where they are broad, in the drawing's order."""

from __future__ import annotations

import argparse
import json
import math
import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import shapely

from draxet.cli.drawing_file import drawing_at
from draxet.files import reason, same_file, write_together
from draxet.formats.drawing import Drawing, Paint
from draxet.formats.embroidery import (
    ENDINGS,
    HOLD_NO_COLOURS,
    embroidery_bytes,
    read_embroidery,
    same_needle_points,
)
from draxet.geometry.arrays import NDArray, Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.job.colour_words import colour_word
from draxet.job.file import read_job
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds.stitcher import BENCH_STITCHER
from draxet.job.operations import Stitch
from draxet.job.records import Job
from draxet.job.sides import runs_of, side_of
from draxet.leaving.stitch_files import thread_list
from draxet.make.stitching.stitch_fill import Fill
from draxet.make.stitching.stitch_manner import portions, rim_of
from draxet.make.stitching.stitch_plan import Sewn, StitchPlan, lines_of_contours, sewn
from draxet.make.stitching.stitched_sheet import BROAD_LINE, INK, stitched_sheet
from draxet.prove.run import findings_of_run
from draxet.units import parse_angle, parse_length

__all__ = ["add_stitch", "run_stitch"]

_SUITED = Fill(manner="suited")
_SEEN, _THREAD = 10, 4
"""Pixels a millimetre for what is covered, and of a thread's breadth."""


def add_stitch(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser(
        "stitch", help="make an embroidery file of a drawing or a job", description=__doc__
    )
    parser.add_argument("work", type=Path, metavar="IN.svg|IN.dxf|JOB.draxet")
    parser.add_argument(
        "-o", "--output", type=Path, metavar="|".join(f"OUT.{each}" for each in ENDINGS)
    )
    parser.add_argument(
        "--hoop", metavar="WIDTHxHEIGHT", help="as 100mmx100mm: what is outside of it stops"
    )
    parser.add_argument(
        "--spacing", metavar="LENGTH", help="of rows (0.35 mm, or as the job has it)"
    )
    parser.add_argument(
        "--angle", metavar="ANGLE", help="of rows, in degrees (45, or as the job has it)"
    )
    parser.add_argument(
        "--pull",
        metavar="LENGTH",
        help="so much longer is a row at both ends (0.2 mm, or as the job has it)",
    )
    parser.add_argument("--json", action="store_true", help="print what was found as JSON")


def run_stitch(options: argparse.Namespace) -> int:
    """Stitch as the options say; 1 where a finding stops it. ValueError with one sentence where it
    cannot be done."""
    told = _told_settings(options)
    hoop = _hoop(options.hoop) if options.hoop else None
    ending = _ending(options.output)
    if options.output is not None and same_file(options.output, options.work):
        raise ValueError(
            f"the output must be another file than the input, got {options.output} for both"
        )
    things, troubles = _things(options.work)
    plan = sewn([replace(thing, fill=replace(thing.fill, **told)) for thing in things])
    if not len(plan):
        raise ValueError(
            f"{options.work.name} holds nothing that can be sewn: areas or lines are wanted"
        )
    stops = [
        *_outside(plan, hoop),
        *(each.words for each in troubles if each.gravity is Gravity.STOPS),
    ]
    files = _written(plan, options.output, ending) if options.output and not stops else []
    others = [each.words for each in troubles if each.gravity is Gravity.WARNS]
    facts = _facts(plan, [*stops, *others])
    if options.json:
        print(json.dumps({**facts, "files": files}))
    else:
        _tell(facts, files, len(stops))
    return int(bool(stops))


def _told_settings(options: argparse.Namespace) -> dict[str, Any]:
    """What the options say of how areas are filled."""
    told = dict[str, Any]()
    if options.spacing is not None:
        spacing = parse_length(options.spacing, what="--spacing")
        told["spacing"] = _within(spacing, 0.1, 5.0, "--spacing")
    if options.angle is not None:
        told["angle"] = parse_angle(options.angle, what="--angle")
    if options.pull is not None:
        pull = parse_length(options.pull, what="--pull")
        told["pull"] = _within(pull, 0.0, 2.0, "--pull")
    return told


def _within(mm: float, least: float, most: float, what: str) -> float:
    if not least <= mm <= most:
        raise ValueError(f"{what} must be from {least:g} to {most:g} mm, got {mm:g} mm")
    return mm


def _hoop(text: str) -> tuple[float, float]:
    match = re.fullmatch(r"\s*(.+?)\s*[x×]\s*(.+?)\s*", text)
    if match is None:
        raise ValueError(f"--hoop must be like 100mmx100mm, got {text[:40]!r}")
    wide, high = (parse_length(side, positive=True, what="--hoop") for side in match.groups())
    return wide, high


def _ending(path: Path | None) -> str:
    ending = path.suffix.lower().removeprefix(".") if path else ENDINGS[0]
    if ending not in ENDINGS:
        raise ValueError(f"the output must end in one of {', '.join(ENDINGS)}, got {str(path)!r}")
    return ending


def _things(path: Path) -> tuple[list[Sewn], Sequence[Finding]]:
    """What a job or a drawing holds, in its order, and what is wrong with it."""
    if path.suffix.lower() == ".draxet":
        return _of_job(read_job(path))
    return _of_drawing(drawing_at(path)), ()


def _of_job(job: Job) -> tuple[list[Sewn], Sequence[Finding]]:
    """What is stitched on the sheet in hand, or on the first one with stitches; of a job without any,
    areas by their colours, and lines, as they lie on each other."""
    stitches = [each for each in job.operations if isinstance(each, Stitch)]
    runs = [
        run
        for run in sorted(runs_of(job), key=lambda run: run.sheet.id != job.sheet.id)
        if any(job.has_work(each, run.sheet) for each in stitches)
    ]
    if runs:
        machine = job.machine_of(runs[0].sheet)
        able = machine if machine.can_do(stitches[0]) else BENCH_STITCHER
        made = stitched_sheet(side_of(job.layout, runs[0]), runs[0].sheet, able)
        return list(made.plan.things), findings_of_run(job, runs[0], made)
    groups = dict[tuple[str, str], list[Contour]]()
    for item in job.layout.contours:
        own = "" if item.contour.closed else item.id
        groups.setdefault((item.colour or INK, own), []).append(item.contour)
    return [_thing(colour, contours) for (colour, _), contours in groups.items()], ()


def _of_drawing(drawing: Drawing) -> list[Sewn]:
    """Each shape filled, and run along, as it is painted; what says nothing of that is filled where
    it is closed."""
    scale = drawing.unit_mm or 1.0
    paints = drawing.paints or tuple((0, INK, "", 0.0) for _ in drawing.contours)
    shapes = dict[Paint, list[Contour]]()
    for contour, paint in zip(drawing.contours, paints, strict=True):
        placed = Contour(
            contour.nodes * scale,
            contour.kinds,
            contour.bulges,
            contour.handles * scale,
            contour.closed,
        )
        shapes.setdefault(paint, []).append(placed)
    found = list[Sewn]()
    for (_, fill, line, broad), contours in shapes.items():
        closed = [each for each in contours if each.closed]
        opened = [each for each in contours if not each.closed]
        if fill and closed:
            found.append(_thing(fill, closed))
        ink = line or ("" if drawing.paints else fill)
        runs = contours if line else opened
        if ink and runs:
            lines, breadth = lines_of_contours(runs), broad * scale if line else 0.0
            shape = rim_of(lines, breadth) if breadth >= BROAD_LINE else lines
            found.append(Sewn(f"{colour_word(ink)} line", ink, shape, _SUITED))
    return found


def _thing(colour: str, contours: Sequence[Contour]) -> Sewn:
    if all(each.closed for each in contours):
        return Sewn(f"{colour_word(colour)} area", colour, area_of(contours), _SUITED)
    return Sewn(f"{colour_word(colour)} line", colour, lines_of_contours(contours))


def _outside(plan: StitchPlan, hoop: tuple[float, float] | None) -> list[str]:
    x0, y0, x1, y1 = plan.box
    if hoop is None or (x1 - x0 <= hoop[0] + 1e-6 and y1 - y0 <= hoop[1] + 1e-6):
        return []
    return [
        f"it is {x1 - x0:.1f} × {y1 - y0:.1f} mm and does not go into a hoop of {hoop[0]:g} × {hoop[1]:g} mm"
    ]


def _written(plan: StitchPlan, path: Path, ending: str) -> list[str]:
    """The file, read back before it takes its place, and a list of its threads beside it where it
    holds none, or others."""
    runs = [(block.colour, block.points) for block in plan.blocks]
    data = embroidery_bytes(runs, ending)
    back = read_embroidery(data, ending, path.name)
    if not same_needle_points(runs, back):
        raise ValueError(
            f"{path.name} was not written: read back it is not as it was; please tell the makers of Draxet"
        )
    files = [(path, data)]
    if ending in HOLD_NO_COLOURS or list(back.colours) != plan.colours:
        files.append((path.with_name(f"{path.stem} - threads.txt"), thread_list(plan)))
    try:
        write_together([(each, content, lambda written: None) for each, content in files])
    except OSError as error:
        raise ValueError(f"{path} could not be written: {reason(error)}") from error
    return [each.name for each, _ in files]


def _facts(plan: StitchPlan, findings: Sequence[str]) -> dict[str, Any]:
    return {
        "stitches": len(plan),
        "colours": plan.colours,
        "trims": plan.trims,
        "jumps": plan.jumps,
        "thread_mm": round(plan.thread_mm, 1),
        "seconds": round(plan.seconds, 1),
        "box_mm": [round(side, 2) for side in plan.box],
        "areas": [
            {
                "name": thing.name,
                "kind": _kind(thing),
                "stitches": sum(len(b.points) for b in plan.blocks if b.of == number),
                "covered": _covered(plan, number),
            }
            for number, thing in enumerate(plan.things)
        ],
        "findings": list(findings),
    }


def _kind(thing: Sewn) -> str:
    """How a thing is sewn: in rows, in satin, both, or run along."""
    if not thing.is_area:
        return "run"
    kinds = {"satin" if each.columns else "fill" for each in portions(thing.shape, thing.fill)}
    return " and ".join(sorted(kinds))


def _covered(plan: StitchPlan, number: int) -> float | None:
    """How much of an area its own thread covers; None for a line."""
    thing = plan.things[number]
    if not thing.is_area:
        return None
    x0, y0, x1, y1 = shapely.bounds(thing.shape).tolist()
    size = (math.ceil((y1 - y0) * _SEEN) + 4, math.ceil((x1 - x0) * _SEEN) + 4)
    area, thread = np.zeros(size, np.uint8), np.zeros(size, np.uint8)

    def seen(points: Points) -> NDArray[Any]:
        placed: NDArray[Any] = np.round((points - (x0, y0)) * _SEEN * 16 + 32).astype(np.int32)
        return placed

    rings = [
        seen(shapely.get_coordinates(ring))
        for part in shapely.get_parts(thing.shape)
        for ring in (part.exterior, *part.interiors)
    ]
    cv2.fillPoly(area, rings, 1, shift=4)
    lines = [seen(block.points) for block in plan.blocks if block.of == number]
    cv2.polylines(thread, lines, False, 1, _THREAD, shift=4)
    return round(float((area & thread).sum() / max(int(area.sum()), 1)), 4)


def _tell(facts: dict[str, Any], files: Sequence[str], stops: int) -> None:
    for number, words in enumerate(facts["findings"]):
        print(f"{'stops' if number < stops else 'look at'}: {words}")
    if files:
        print(f"written and read back: {', '.join(files)}")
    print(
        f"{facts['stitches']} stitches, {len(facts['colours'])} threads, {facts['trims']} trims, {facts['thread_mm'] / 1000:.2f} m of thread, {facts['seconds'] / 60:.1f} min"
    )
    for area in facts["areas"]:
        covered = "" if area["covered"] is None else f", {100 * area['covered']:.1f} % covered"
        print(f"{area['name']}: {area['stitches']} stitches{covered}")
