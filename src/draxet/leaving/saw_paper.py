"""The pattern of a saw that is led by hand, on pages that join."""

from __future__ import annotations

import math
from pathlib import Path

from draxet.formats.layer import FormatError
from draxet.formats.paper import read_pages, read_words, tiled_pdf
from draxet.job.findings import count_words
from draxet.leaving.leaving_kind import Leaving, LeavingKind, ReadBack
from draxet.leaving.papers import Paper
from draxet.make.saw_pattern import SawPattern
from draxet.progress import Progress

__all__ = ["SAW_PATTERN"]

_A4, _NEAR = (210.0, 297.0), 0.2
_TIGHT = "without waste for a hole that lets the blade through: {}"


def _paper(leaving: Leaving, path: Path) -> Paper:
    sheet, machine, pattern = leaving.run.sheet, leaving.machine, leaving.product
    if not isinstance(pattern, SawPattern):
        raise FormatError(
            f"the {machine.name.lower()} runs a program; only a saw led by hand goes by a pattern"
        )
    if not len(pattern):
        raise FormatError(
            "nothing would be sawn: no contour on this sheet has an operation yet; give one in Make"
        )
    back = ", from the back, mirrored" if leaving.run.back else ""
    holes = count_words(len(pattern.holes), "pilot hole")
    words = (
        f"{leaving.job.name}, {sheet.name}{back}",
        f"{sheet.material}, {sheet.thickness:g} mm; {count_words(pattern.cuts, 'cut')} in the order of the numbers",
        f"saw in the grey, {machine.cut_width:g} mm; the black line stays; {holes} in the waste",
        *([_TIGHT.format(count_words(len(pattern.tight), "cut"))] if pattern.tight else ()),
    )
    return Paper(pattern.layers, sheet.width, sheet.height, words, title=str(pattern.cuts))


def _read_back(paper: Paper, path: Path, report: Progress) -> ReadBack:
    pages, said = read_pages(path), read_words(path)
    numbers = {str(number + 1) for number in range(int(paper.title))}
    good = all(math.dist(page[:2], _A4) < _NEAR for page in pages) and numbers <= said
    words = f"{len(pages) - 1} A4 pages with {paper.title} cuts, and one to check the print by"
    return ReadBack(good, words if good else "it did not read back as it was written")


SAW_PATTERN = LeavingKind(
    "pattern",
    "Saw pattern",
    " - saw pattern.pdf",
    _paper,
    lambda paper, report: tiled_pdf(paper.layers, paper.width, paper.height, paper.words),
    _read_back,
    signs=True,
    of="pattern",
)
