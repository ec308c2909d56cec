"""Everything that leaves for a run, file by file: each is written beside, read back by another
reader, and takes an older one's place only where it is sound."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path

from draxet.files import reason, write_whole
from draxet.formats.art import read_size, sheet_png
from draxet.formats.layer import FormatError, Layer
from draxet.formats.paper import CHECK_MM, Backdrop, facts_pdf, read_pages, sheet_pdf, tiled_pdf
from draxet.geometry.affine import Affine
from draxet.job.findings import Finding
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_edits import choose_sheet
from draxet.job.sides import Run, mirror_of, side_of
from draxet.prove.handoff import hand_off, layers_of
from draxet.prove.program_file import stock_of, write_program
from draxet.record import record

__all__ = ["KINDS", "LeavingRequest", "Left", "backdrops_seen", "file_for", "leave"]

KINDS = (
    ("dxf", "DXF drawing", ".dxf"),
    ("svg", "SVG drawing", ".svg"),
    ("program", "Program", ".nc"),
    ("frame", "Frame of the job", " - frame.nc"),
    ("pdf", "PDF at true size", " - true size.pdf"),
    ("pages", "PDF on A4 pages", " - A4 pages.pdf"),
    ("png", "Picture (PNG)", " - picture.png"),
    ("list", "Operator's list", " - before it runs.txt"),
    ("facts", "Job sheet", " - job sheet.pdf"),
)
"""Of each kind of file its key, its name, and how its own name ends."""
_NEAR = 0.2


@record(frozen=True, eq=False)
class LeavingRequest:
    """What leaves: the job, the run and its program; the folder and the name that all files begin
    with, and the kinds that were ticked. frame : whether drawings have a frame of the sheet's size;
    dpi and transparent : of pictures. findings : that stand; operators : the list for whoever runs
    it; backdrops : of the paper."""

    job: Job
    run: Run
    program: Program
    folder: Path
    name: str
    kinds: tuple[str, ...]
    frame: bool = False
    dpi: float = 300.0
    pixels: int = 0
    """How wide the picture is; 0 where its dots an inch say that."""
    transparent: bool = False
    art: bool = False
    """Whether the picture shows what is worked alone, and not the whole sheet."""
    findings: tuple[Finding, ...] = ()
    operators: tuple[str, ...] = ()
    backdrops: tuple[Backdrop, ...] = ()
    counts: str = "origin"
    """What program and frame count from: the sheet's ``origin``, or the ``corner`` (lower left) or
    the ``middle`` of the work, where the head stands then."""
    framed: Program | None = None
    """The program that leads round the work."""


@record(frozen=True)
class Left:
    """A file that was to leave: whether it was read back as it should be and kept, and in words
    what was found."""

    file: str
    matches: bool
    words: str


def file_for(request: LeavingRequest, kind: str) -> Path:
    """The name that a kind's file really has."""
    ending = next(each for key, _, each in KINDS if key == kind)
    if kind in ("program", "frame") and request.program.machine.kind == "pen":
        ending = ending.replace(".nc", ".plt")
    return request.folder / f"{request.name}{ending}"


def leave(request: LeavingRequest) -> list[Left]:
    """Write all that is asked for.

    Raises
    ------
    FormatError : where one of them cannot be written; those before it stay.
    """
    return [
        _WRITE[kind](request, file_for(request, kind))
        for kind, _, _ in KINDS
        if kind in request.kinds
    ]


def _drawing(request: LeavingRequest, path: Path) -> Left:
    sheet = request.run.sheet
    found = hand_off(
        choose_sheet(request.job, sheet.id), path, back=request.run.back, frame=request.frame
    )
    words = f"{found.contours} contours, within {found.worst:.4f} mm, {sheet.width:g} × {sheet.height:g} mm"
    return Left(path.name, found.matches, words)


def _program(request: LeavingRequest, path: Path) -> Left:
    program, zero = _counted(request, request.program)
    found = write_program(request.job, request.run, program, path, zero)
    worst = "moves are missing" if math.isinf(found.worst) else f"within {found.worst:.4f} mm"
    otherwise = (
        f", {found.otherwise} of them with another feed, power, tool or air"
        if found.otherwise
        else ""
    )
    return Left(
        path.name, found.matches, f"{found.moves} of {found.wanted} moves, {worst}{otherwise}"
    )


def _frame(request: LeavingRequest, path: Path) -> Left:
    """The frame as a program of its own; where it leaves the sheet, that is told."""
    assert request.framed is not None
    framed, zero = _counted(request, request.framed)
    found = write_program(request.job, request.run, framed, path, zero)
    stock = stock_of(request.run)
    low, high = request.framed.to.min(axis=0), request.framed.to.max(axis=0)
    over = max(
        stock.x - low[0],
        stock.y - low[1],
        high[0] - stock.x - stock.width,
        high[1] - stock.y - stock.height,
    )
    words = f"{high[0] - low[0]:.1f} × {high[1] - low[1]:.1f} mm"
    return Left(
        path.name,
        found.matches,
        f"{words}; it leaves the sheet by {over:.1f} mm" if over > 0.05 else words,
    )


def _counted(request: LeavingRequest, program: Program) -> tuple[Program, str]:
    """A program counted from where it is to be, and that place in words."""
    x0, y0, x1, y1 = request.program.box
    if request.counts == "corner":
        return program.counted_from(x0, y0), "lower left of the work"
    if request.counts == "middle":
        return program.counted_from((x0 + x1) / 2, (y0 + y1) / 2), "middle of the work"
    return program, ""


def _paper(request: LeavingRequest, path: Path) -> Left:
    sheet = request.run.sheet
    data = sheet_pdf(
        _layers(request), sheet.width, sheet.height, _words(request), request.backdrops
    )
    wanted = (sheet.width + 20, sheet.height + 90)

    def check(written: Path) -> str:
        pages = read_pages(written)
        good = len(pages) == 1 and math.dist(pages[0][:2], wanted) < _NEAR and pages[0][2] > 0
        return (
            f"one page, {wanted[0]:g} × {wanted[1]:g} mm; measure the square of {CHECK_MM:g} mm"
            if good
            else ""
        )

    return _kept(path, data, check)


def _pages(request: LeavingRequest, path: Path) -> Left:
    sheet = request.run.sheet
    data = tiled_pdf(
        _layers(request), sheet.width, sheet.height, _words(request), request.backdrops
    )

    def check(written: Path) -> str:
        pages = read_pages(written)
        return (
            f"{len(pages) - 1} A4 pages, and one to check the print by"
            if pages and all(math.dist(page[:2], (210, 297)) < _NEAR for page in pages)
            else ""
        )

    return _kept(path, data, check)


def _picture(request: LeavingRequest, path: Path) -> Left:
    sheet = request.run.sheet
    layers = _layers(request)
    box = (0.0, 0.0, sheet.width, sheet.height)
    if request.art:
        boxes = [contour.box for layer in layers for contour in layer.contours]
        box = (
            min(b[0] for b in boxes) - 1,
            min(b[1] for b in boxes) - 1,
            max(b[2] for b in boxes) + 1,
            max(b[3] for b in boxes) + 1,
        )
    dots = 25.4 * request.pixels / (box[2] - box[0]) if request.pixels else request.dpi
    data = sheet_png(layers, box, dots, transparent=request.transparent)
    wanted = tuple(
        max(round((high - low) * dots / 25.4), 1)
        for low, high in ((box[0], box[2]), (box[1], box[3]))
    )

    def check(written: Path) -> str:
        wide, high, dpi = read_size(written)
        return (
            f"{wide} × {high} pixels, {dpi:.0f} dots an inch"
            if (wide, high) == wanted and abs(dpi - dots) < 1
            else ""
        )

    return _kept(path, data, check)


def _list(request: LeavingRequest, path: Path) -> Left:
    lines = [
        f"{request.job.name}, {request.run.sheet.name}: before it runs on the {request.program.machine.name.lower()}",
        "",
        *(f"[ ] {words}" for words in request.operators),
    ]
    text = "\n".join(lines) + "\n"
    return _kept(
        path,
        text.encode(),
        lambda written: (
            f"{len(request.operators)} things to tick" if written.read_text("utf-8") == text else ""
        ),
    )


def _facts(request: LeavingRequest, path: Path) -> Left:
    job, sheet, program = request.job, request.run.sheet, request.program
    x0, y0, x1, y1 = program.box
    facts = [
        (
            "Sheet",
            f"{sheet.name}{', from the back, mirrored' if request.run.back else ''}: {sheet.material}, {sheet.thickness:g} mm, {sheet.width:g} × {sheet.height:g} mm",
        ),
        ("Machine", f"{program.machine.name} ({program.machine.kind})"),
        (
            "Work",
            f"{x1 - x0:.2f} × {y1 - y0:.2f} mm, {program.cut_mm / 1000:.2f} m, {program.seconds / 60:.1f} min",
        ),
        (
            "Operations",
            ", ".join(
                operation.name
                for operation in job.operations
                if job.worked_on(operation, sheet) and operation.back is request.run.back
            ),
        ),
        *(
            (
                "Picture",
                f"{picture.name}: {picture.came_from or 'where it came from was not said'}; {picture.may_be_used or 'what it may be used for was not said'}",
            )
            for picture in job.pictures
        ),
    ]
    notes = [
        f"{finding.gravity.name.lower()}: {finding.words}" for finding in request.findings
    ] or ["No findings."]
    data = facts_pdf(
        job.name, facts, ["Signed off with:", *notes], _layers(request), sheet.width, sheet.height
    )
    return _kept(path, data, lambda written: "one page" if len(read_pages(written)) == 1 else "")


_WRITE: dict[str, Callable[[LeavingRequest, Path], Left]] = {
    "dxf": _drawing,
    "svg": _drawing,
    "program": _program,
    "frame": _frame,
    "pdf": _paper,
    "pages": _pages,
    "png": _picture,
    "list": _list,
    "facts": _facts,
}


class _Unsound(Exception):
    pass


def _kept(path: Path, data: bytes, check: Callable[[Path], str]) -> Left:
    """Written beside, read back, and put in its place where `check` has words for it."""
    said: list[str] = []

    def look(written: Path) -> None:
        said.append(check(written))
        if not said[0]:
            raise _Unsound

    try:
        write_whole(path, data, look)
    except _Unsound:
        return Left(path.name, False, "it did not read back as it was written, and was not kept")
    except OSError as error:
        raise FormatError(f"{path.name} could not be written: {reason(error)}") from error
    return Left(path.name, True, said[0])


def _layers(request: LeavingRequest) -> list[Layer]:
    """What leaves, counted from the sheet's lower left."""
    sheet = request.run.sheet
    away = Affine.moved(-sheet.x, -sheet.y)
    return [
        Layer(each.name, tuple(contour.transformed(away) for contour in each.contours), each.colour)
        for each in layers_of(side_of(request.job, request.run))
    ]


def _words(request: LeavingRequest) -> Sequence[str]:
    sheet, job = request.run.sheet, request.job
    return (
        f"{job.name}, {sheet.name}{', from the back, mirrored' if request.run.back else ''}",
        f"{sheet.width:g} x {sheet.height:g} mm, {sheet.material}, {sheet.thickness:g} mm; all in millimetres, scale 1 : 1",
        *(
            f"{picture.name}: {picture.may_be_used}"
            for picture in job.pictures
            if picture.may_be_used
        ),
    )


def backdrops_seen(run: Run, backdrops: Sequence[Backdrop]) -> tuple[Backdrop, ...]:
    """Pictures as they lie on the sheet of a run, given where they lie in the job."""
    mirror = mirror_of(run.sheet) if run.back else Affine()
    away = Affine.moved(-run.sheet.x, -run.sheet.y)
    return tuple(Backdrop(each.pixels, each.to_sheet.then(mirror).then(away)) for each in backdrops)
