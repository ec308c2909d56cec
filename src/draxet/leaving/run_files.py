"""What a machine runs: the program, and the frame of the job."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Annotated

import numpy as np

from draxet.formats.layer import FormatError
from draxet.geometry.arrays import Points, norms
from draxet.job.asked import Asked
from draxet.job.product import LINES, Product
from draxet.job.program import Program
from draxet.job.ranges import OneOf, Within
from draxet.job.records import Job
from draxet.job.sides import Run
from draxet.leaving.leaving_kind import Leaving, LeavingKind, ReadBack
from draxet.machines.controller import steps_on
from draxet.make.frame import frame_program
from draxet.progress import Progress
from draxet.prove.program_file import allowed_off, compared, ending_of, program_text, stock_of
from draxet.record import record

__all__ = ["FRAME", "PROGRAM", "FrameSettings", "ProgramSettings", "zero_of"]


@record
class ProgramSettings:
    """counts : from where programs do: the sheet's ``origin``, the ``corner`` (lower left) or the
    ``middle`` of the work, where the head stands then, or as the ``drawing`` itself does."""

    counts: Annotated[
        str,
        OneOf(("origin", "corner", "middle", "drawing")),
        Asked(
            "Programs count from the",
            choices=(("origin", "origin"), ("corner", "work's corner"), ("middle", "middle")),
            tip="the sheet's origin, or where the head stands now: over the lower left or the middle of the work",
        ),
    ] = "origin"


@record
class FrameSettings:
    around: Annotated[
        str,
        OneOf(("box", "hull")),
        Asked("Frame round the job's", choices=(("box", "box"), ("hull", "hull"))),
    ] = "box"
    power: Annotated[
        float,
        Within(0.0, 20.0),
        Asked("Power of the frame", " %", tip="0 runs it with nothing on", zero="off"),
    ] = 0.0


@record(frozen=True, eq=False)
class _Text:
    """A program and its text. away : how far it leaves the sheet, in mm."""

    job: Job
    run: Run
    program: Program
    ending: str
    text: str
    name: str
    away: float = 0.0


_ZEROS = {
    "origin": "",
    "corner": "lower left of the work",
    "middle": "middle of the work",
    "drawing": "as the drawing",
}


def zero_of(run: Run, product: Product, counts: str) -> tuple[float, float]:
    """Where a program counts from (see ``ProgramSettings``), from the sheet's origin in mm."""
    x0, y0, x1, y1 = product.box
    x, y = run.sheet.origin_place
    return {
        "origin": (0.0, 0.0),
        "corner": (x0, y0),
        "middle": ((x0 + x1) / 2, (y0 + y1) / 2),
        "drawing": (-x, -y),
    }[counts]


def _counted(leaving: Leaving, program: Program, path: Path) -> _Text:
    """A program counted from where it is to be."""
    job, run = leaving.job, leaving.run
    counts = leaving.set(ProgramSettings).counts
    program = program.counted_from(*zero_of(run, leaving.program, counts))
    ending = ending_of(path)
    text = program_text(job, run, program, ending, _ZEROS[counts])
    return _Text(job, run, program, ending, text, path.name)


def _program(leaving: Leaving, path: Path) -> _Text:
    return _counted(leaving, leaving.program, path)


def _frame(leaving: Leaving, path: Path) -> _Text:
    """The frame as a program of its own; where it leaves the sheet, that is told."""
    asked = leaving.set(FrameSettings)
    try:
        framed = frame_program(leaving.program, asked.around, asked.power)
    except ValueError as error:
        raise FormatError(str(error)) from error
    stock, low, high = stock_of(leaving.run), framed.to.min(axis=0), framed.to.max(axis=0)
    over = max(
        stock.x - low[0],
        stock.y - low[1],
        high[0] - stock.x - stock.width,
        high[1] - stock.y - stock.height,
    )
    text = _counted(leaving, framed, path)
    return _Text(text.job, text.run, text.program, text.ending, text.text, text.name, over)


def _read_back(text: _Text, path: Path, report: Progress) -> ReadBack:
    found = compared(text.name, path.read_text("ascii"), text.run, text.program)
    worst = "moves are missing" if math.isinf(found.worst) else f"within {found.worst:.4f} mm"
    otherwise = (
        f", {found.otherwise} of them with another feed, power, tool or air"
        if found.otherwise
        else ""
    )
    words = f"{found.moves} of {found.wanted} moves, {worst}{otherwise}"
    return ReadBack(found.matches, words)


def _frame_back(text: _Text, path: Path, report: Progress) -> ReadBack:
    found = _read_back(text, path, report)
    if not found.matches:
        return found
    if not _leads_round(text, path.read_text("ascii")):
        return ReadBack(False, "it does not lead round the work")
    wide, high = text.program.to.max(axis=0) - text.program.to.min(axis=0)
    over = f"; it leaves the sheet by {text.away:.1f} mm" if text.away > 0.05 else ""
    return ReadBack(True, f"{wide:.1f} × {high:.1f} mm{over}")


def _leads_round(text: _Text, written: str) -> bool:
    """Whether what was written passes all corners in turn, with the tool up or down."""
    dialect = text.program.machine.dialect
    within = allowed_off(text.name, dialect)
    there = _ways(steps_on(written, text.program.machine).to[:, :2], within)
    wanted = _ways(text.program.to, within)
    return any(
        norms(there[first : first + len(wanted)] - wanted).max() <= within
        for first in range(len(there) - len(wanted) + 1)
    )


def _ways(places: Points, within: float) -> Points:
    """Places (n, 2) without those that lie where the one before does."""
    apart = norms(np.diff(places, axis=0)) > within
    return np.asarray(places[np.append(np.ones(min(len(places), 1), bool), apart)])


def _bytes(text: _Text, report: Progress) -> bytes:
    return text.text.encode("ascii", "replace")


PROGRAM = LeavingKind(
    "program",
    "Program",
    ".nc",
    _program,
    _bytes,
    _read_back,
    (ProgramSettings,),
    plotted=".plt",
    runs=True,
    signs=True,
    of=LINES,
)
FRAME = LeavingKind(
    "frame",
    "Frame of the job",
    " - frame.nc",
    _frame,
    _bytes,
    _frame_back,
    (ProgramSettings, FrameSettings),
    plotted=" - frame.plt",
    runs=True,
    of=LINES,
)
