"""The sheet on paper at true size, and its facts on one page."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Annotated, Any

from draxet.formats.drawn_marks import Picture
from draxet.formats.layer import Layer
from draxet.formats.paper import (
    CHECK_MM,
    PAPERS,
    facts_pdf,
    page_unit,
    read_pages,
    read_words,
    scaled_pdf,
    sheet_pdf,
    tiled_pdf,
)
from draxet.geometry.affine import Affine
from draxet.job.asked import Asked
from draxet.job.ranges import OneOf, Within
from draxet.job.sides import mirror_of
from draxet.leaving.leaving_kind import Leaving, LeavingKind, LookSettings, ReadBack
from draxet.progress import Progress
from draxet.record import record

__all__ = ["PAPER_KINDS", "Paper"]

_NEAR = 0.2
_A4 = (210.0, 297.0)


@record
class ScaleSettings:
    """one_to : how many times smaller it is drawn; 0 where it is the largest usual that fits."""

    one_to: Annotated[
        float,
        Within(0.0, 1000.0),
        Asked("Drawn at 1 to", tip="0 takes the largest usual scale that fits", zero="as fits"),
    ] = 0.0
    paper: Annotated[
        str,
        OneOf(tuple(PAPERS)),
        Asked("On paper of", choices=tuple((each, each) for each in PAPERS)),
    ] = "A4"


@record(frozen=True, eq=False)
class _ToScale:
    data: bytes
    scale: float
    page: tuple[float, float]


@record(frozen=True)
class Paper:
    """A sheet on paper: layers and pictures on it, its size in mm, and words for its foot; facts
    and notes stand on a page of their own."""

    layers: tuple[Layer, ...]
    width: float
    height: float
    words: tuple[str, ...] = ()
    pictures: tuple[Picture, ...] = ()
    title: str = ""
    facts: tuple[tuple[str, str], ...] = ()


def _sheet(leaving: Leaving, path: Path) -> Paper:
    job, run = leaving.job, leaving.run
    sheet = run.sheet
    words = (
        f"{job.name}, {sheet.name}{', from the back, mirrored' if run.back else ''}",
        f"{sheet.width:g} x {sheet.height:g} mm, {sheet.material}, {sheet.thickness:g} mm; all in millimetres, scale 1 : 1",
        *(f"{each.name}: {each.may_be_used}" for each in job.pictures if each.may_be_used),
    )
    layers = tuple(leaving.layers_on_sheet)
    return Paper(layers, sheet.width, sheet.height, words, _pictures_on(leaving))


def _pictures_on(leaving: Leaving) -> tuple[Picture, ...]:
    """Pictures that are seen, as they lie on the sheet of the run."""
    sheet = leaving.run.sheet
    mirror = mirror_of(sheet) if leaving.run.back else Affine()
    away = Affine.moved(-sheet.x, -sheet.y)
    return tuple(
        Picture(leaving.pixels(each, leaving.report), each.to_job.then(mirror).then(away))
        for each in leaving.job.pictures
        if each.visible
    )


def _one_page(paper: Paper, path: Path, report: Progress) -> ReadBack:
    pages, wanted = read_pages(path), (paper.width + 20, paper.height + 90)
    good = len(pages) == 1 and math.dist(pages[0][:2], wanted) < _NEAR and pages[0][2] > 0
    unit = page_unit(*wanted)
    told = f", in units of {unit} points: a viewer that knows no such units shows it {unit} times too small"
    return _said(
        good,
        f"one page, {wanted[0]:g} × {wanted[1]:g} mm{told if unit > 1 else ''}; measure the square of {CHECK_MM:g} mm",
    )


def _many_pages(paper: Paper, path: Path, report: Progress) -> ReadBack:
    pages = read_pages(path)
    good = bool(pages) and all(math.dist(page[:2], _A4) < _NEAR for page in pages)
    return _said(good, f"{len(pages) - 1} A4 pages, and one to check the print by")


def _said(good: bool, words: str) -> ReadBack:
    return ReadBack(good, words if good else "it did not read back as it was written")


def _facts(leaving: Leaving, path: Path) -> Paper:
    job, sheet, product = leaving.job, leaving.run.sheet, leaving.product
    back = leaving.run.back
    x0, y0, x1, y1 = product.box
    facts = [
        (
            "Sheet",
            f"{sheet.name}{', from the back, mirrored' if back else ''}: {sheet.material}, {sheet.thickness:g} mm, {sheet.width:g} × {sheet.height:g} mm",
        ),
        ("Machine", f"{product.machine.name} ({product.machine.kind})"),
        (
            "Work",
            f"{x1 - x0:.2f} × {y1 - y0:.2f} mm, {product.cut_mm / 1000:.2f} m, {product.seconds / 60:.1f} min",
        ),
        (
            "Operations",
            ", ".join(
                operation.name
                for operation in job.operations
                if job.worked_on(operation, sheet) and operation.back is back
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
        f"{finding.gravity.name.lower()}: {finding.words}" for finding in leaving.findings
    ] or ["No findings."]
    layers = tuple(leaving.layers_on_sheet)
    words = ("Signed off with:", *notes)
    return Paper(layers, sheet.width, sheet.height, words, title=job.name, facts=tuple(facts))


def _paper_kind(
    key: str,
    words: str,
    ending: str,
    pdf: Callable[[Sequence[Layer], float, float, Sequence[str], Sequence[Picture]], bytes],
    read_back: Callable[[Paper, Path, Progress], ReadBack],
) -> LeavingKind[Paper]:
    return LeavingKind(
        key,
        words,
        ending,
        _sheet,
        lambda paper, report: pdf(
            paper.layers, paper.width, paper.height, paper.words, paper.pictures
        ),
        read_back,
        (LookSettings,),
    )


def _to_scale(leaving: Leaving, path: Path) -> _ToScale:
    asked, sheet = leaving.set(ScaleSettings), _sheet(leaving, path)
    words = (sheet.words[0], *sheet.words[2:])
    layers, pictures = sheet.layers, sheet.pictures
    made = scaled_pdf(layers, sheet.width, sheet.height, words, pictures, asked.one_to, asked.paper)
    return _ToScale(*made, PAPERS[asked.paper])


def _scaled_back(made: _ToScale, path: Path, report: Progress) -> ReadBack:
    pages, said = read_pages(path), read_words(path)
    good = len(pages) == 1 and pages[0][2] > 0 and f"1:{made.scale:g}" in said
    good = good and math.dist(sorted(pages[0][:2]), sorted(made.page)) < _NEAR
    return _said(good, f"one page at 1 : {made.scale:g}; measure its bar")


PAPER_KINDS: tuple[LeavingKind[Any], ...] = (
    _paper_kind("pdf", "PDF at true size", " - true size.pdf", sheet_pdf, _one_page),
    _paper_kind("pages", "PDF on A4 pages", " - A4 pages.pdf", tiled_pdf, _many_pages),
    LeavingKind(
        "scaled",
        "PDF to scale",
        " - to scale.pdf",
        _to_scale,
        lambda made, report: made.data,
        _scaled_back,
        (LookSettings, ScaleSettings),
    ),
)
JOB_SHEET = LeavingKind(
    "facts",
    "Job sheet",
    " - job sheet.pdf",
    _facts,
    lambda paper, report: facts_pdf(
        paper.title, paper.facts, paper.words, paper.layers, paper.width, paper.height
    ),
    lambda paper, path, report: _said(len(read_pages(path)) == 1, "one page"),
)
