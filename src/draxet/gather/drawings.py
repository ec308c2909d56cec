"""Vector files come in as contours, with no tracing needed."""

from __future__ import annotations

from draxet.formats.drawing import Drawing
from draxet.formats.dxf_in import read_dxf_drawing
from draxet.formats.layer import FormatError
from draxet.formats.svg_in import read_svg_drawing
from draxet.geometry.affine import Affine
from draxet.job.edits import add_contours
from draxet.job.records import Job

__all__ = ["place_drawing", "read_drawing"]


def read_drawing(data: bytes, name: str) -> Drawing:
    """Read an SVG or DXF file, by its ending.

    Raises
    ------
    FormatError : where it cannot be read; one sentence says why.
    """
    if not data:
        raise FormatError(f"{name} is empty; choose a file that holds a drawing")
    return (read_svg_drawing if name.lower().endswith(".svg") else read_dxf_drawing)(data, name)


def place_drawing(job: Job, drawing: Drawing, unit_mm: float) -> Job:
    """A drawing's contours in the job at their real size, where their file has them."""
    return add_contours(job, [contour.transformed(Affine.scaled(unit_mm)) for contour in drawing.contours])
