"""Vector files come in as contours, with no tracing needed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from draxet.files import plain_words
from draxet.formats.drawing import Drawing
from draxet.formats.dxf_in import read_dxf_drawing
from draxet.formats.layer import FormatError
from draxet.formats.svg_in import read_svg_drawing
from draxet.geometry.affine import Affine
from draxet.geometry.contour import transformed_all
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.progress import Progress

__all__ = [
    "drawing_in_pieces",
    "drawing_of_pieces",
    "is_drawing",
    "place_aside",
    "place_drawing",
    "read_drawing",
]

_PICTURE_BEGINNINGS = (
    b"\x89PNG",
    b"\xff\xd8\xff",
    b"GIF8",
    b"BM",
    b"II*\0",
    b"MM\0*",
    b"RIFF",
    b"%PDF-",
)
_DXF_BEGINNING = re.compile(rb"(?:\s*999\r?\n[^\n]*\n)*\s*0\r?\nSECTION\r?\n|[A-Za-z]+ Binary DXF")


def is_drawing(data: bytes, name: str) -> bool:
    """Whether a file is a vector drawing: by what it holds, and where that says nothing by its
    ending."""
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(_PICTURE_BEGINNINGS):
        return False
    return (
        _is_svg(head)
        or _DXF_BEGINNING.match(head) is not None
        or name.lower().endswith((".svg", ".dxf"))
    )


def read_drawing(data: bytes, name: str, progress: Progress | None = None) -> Drawing:
    """Read an SVG or DXF file, by what it holds or by its ending.

    Raises
    ------
    FormatError : where it cannot be read; one sentence says why.
    Cancelled : where `progress` says so.
    """
    if not data:
        raise FormatError(f"{name} is empty; choose a file that holds a drawing")
    is_svg = _is_svg(data[:4096]) or name.lower().endswith(".svg")
    try:
        return (read_svg_drawing if is_svg else read_dxf_drawing)(data, name, progress)
    except MemoryError as error:
        raise FormatError(f"{name} does not fit into the memory; save it simpler") from error


def drawing_in_pieces(report: Progress, data: bytes, name: str) -> tuple[Any, ...]:
    """What ``read_drawing`` reads, contour by contour behind the rest of it, for who gets it from a
    process apart."""
    drawing = read_drawing(data, name, report)
    rest = replace(drawing, contours=(), aside=())
    return rest, len(drawing.contours), *drawing.contours, *drawing.aside


def drawing_of_pieces(pieces: tuple[Any, ...]) -> Drawing:
    rest, count, *contours = pieces
    drawing: Drawing = replace(
        rest, contours=tuple(contours[:count]), aside=tuple(contours[count:])
    )
    return drawing


def _is_svg(head: bytes) -> bool:
    return b"<svg" in head or b"<\0s\0v\0g" in head or b"\0<\0s\0v\0g" in head


def place_drawing(job: Job, drawing: Drawing, unit_mm: float) -> Job:
    """A drawing's contours in the job at their real size, where their file has them, counted from
    the corner of the sheet in hand."""
    to = _on_sheet(job, unit_mm)
    return add_contours(
        job,
        transformed_all(drawing.contours, to),
        layers=_short(drawing.layers),
    )


def place_aside(job: Job, drawing: Drawing, unit_mm: float) -> Job:
    """What was left out of a drawing, after all, where its file has it."""
    to = _on_sheet(job, unit_mm)
    return add_contours(
        job,
        transformed_all(drawing.aside, to),
        layers=_short(drawing.aside_layers),
    )


def _on_sheet(job: Job, unit_mm: float) -> Affine:
    return Affine.scaled(unit_mm).then(Affine.moved(job.sheet.x, job.sheet.y))


def _short(layers: Sequence[str]) -> list[str]:
    return [plain_words(layer) for layer in layers]
