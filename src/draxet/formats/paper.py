"""Sheets on paper: PDF at true size, on one page or on several that join, with pictures and
contours together; and a job's facts on one page."""

from __future__ import annotations

import io
import logging
import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from draxet.formats.drawn_marks import Area, Line, Picture, Words
from draxet.formats.layer import FormatError, Layer
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC

__all__ = [
    "CHECK_MM",
    "PAPERS",
    "facts_pdf",
    "page_unit",
    "read_pages",
    "read_words",
    "scaled_pdf",
    "sheet_pdf",
    "tiled_pdf",
]

_POINT, _MOST_POINTS = 72 / 25.4, 14400
CHECK_MM = 50.0
"""The side of the square by which a print is checked."""
_MARGIN, _FOOT = 10.0, 70.0
_A4 = (210.0, 297.0)
_TILE = (180.0, 257.0)
"""Of an A4 page: what each tile shows; the next one goes on where it ends."""
_LINE = 0.25
PAPERS = {
    "A4": _A4,
    "A3": (297.0, 420.0),
    "A2": (420.0, 594.0),
    "A1": (594.0, 841.0),
    "A0": (841.0, 1189.0),
    "Letter": (215.9, 279.4),
}
_USUAL = (1.0, 2.0, 2.5, 5.0, 10.0, 20.0, 25.0, 50.0, 100.0, 200.0)
"""So many times smaller drawings usually are."""
_BARS = (1.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0, 5000.0)
_BAR_FOOT, _LONGEST_BAR = 18.0, 60.0
"""mm below a reduced sheet, and of its bar on paper."""
_MOST_PAGES = 200
_HOLDS = (Area, Line, Words, Picture)
_EVEN_ODD, _CAPITAL = 0, 0.718
"""The rule by which areas are filled, as the library counts; how high capitals are as a share of
the font's size."""


def sheet_pdf(
    layers: Sequence[Layer],
    width: float,
    height: float,
    words: Sequence[str],
    pictures: Sequence[Picture] = (),
) -> bytes:
    """A sheet at true size on one page of its own size, with a foot that says what it is and a
    square to check the print by."""
    out, canvas = _canvas(width + 2 * _MARGIN, height + 2 * _MARGIN + _FOOT)
    canvas.translate(_MARGIN, _MARGIN + _FOOT)
    _drawn(canvas, layers, width, height, pictures)
    canvas.translate(0, -_FOOT - _MARGIN / 2)
    _foot(canvas, words)
    canvas.save()
    return out.getvalue()


def scaled_pdf(
    layers: Sequence[Layer],
    width: float,
    height: float,
    words: Sequence[str],
    pictures: Sequence[Picture],
    one_to: float,
    paper: str,
) -> tuple[bytes, float]:
    """A sheet at 1 : `one_to` in the middle of a page of a paper (``PAPERS``), upright or lying as it
    fits, with a bar of known length below it; where that is 0, at the largest usual scale that fits.
    And the scale.

    Raises
    ------
    FormatError : where it does not fit.
    """
    wide, high = PAPERS[paper]
    pages = (wide, high), (high, wide)
    page = min(pages, key=lambda page: _reduced(page, width, height))
    least = _reduced(page, width, height)
    scale = one_to or next((each for each in _USUAL if each >= least - 1e-9), math.ceil(least))
    if scale < least - 1e-9:
        raise FormatError(
            f"the sheet at 1 : {scale:g} is {width / scale:.0f} × {height / scale:.0f} mm, more than {paper} holds; take 1 : {math.ceil(least)}, or larger paper"
        )
    out, canvas = _canvas(*page)
    room = page[1] - 2 * _MARGIN - _BAR_FOOT
    canvas.saveState()
    canvas.translate(
        (page[0] - width / scale) / 2, _MARGIN + _BAR_FOOT + (room - height / scale) / 2
    )
    canvas.scale(1 / scale, 1 / scale)
    _drawn(canvas, layers, width, height, pictures, line=_LINE * scale)
    canvas.restoreState()
    real = max((each for each in _BARS if each / scale <= _LONGEST_BAR), default=_BARS[0])
    canvas.setLineWidth(_LINE)
    canvas.rect(_MARGIN, _MARGIN, real / scale, 2)
    _text(canvas, _MARGIN, _MARGIN + 4, f"{real:g} mm", 3.2)
    for number, line in enumerate((*words, f"scale 1:{scale:g}")):
        _text(canvas, _MARGIN + _LONGEST_BAR + 8, _MARGIN + 10 - 4.5 * number, line, 3.2)
    canvas.save()
    return out.getvalue(), scale


def _reduced(page: tuple[float, float], width: float, height: float) -> float:
    """The 1 : n at which a sheet just fits on a page."""
    room = page[0] - 2 * _MARGIN, page[1] - 2 * _MARGIN - _BAR_FOOT
    return max(width / room[0], height / room[1])


def tiled_pdf(
    layers: Sequence[Layer],
    width: float,
    height: float,
    words: Sequence[str],
    pictures: Sequence[Picture] = (),
) -> bytes:
    """A sheet at true size over several A4 pages that join at their marks, and a last one with the
    square to check the print by.

    Raises
    ------
    FormatError : where they would be too many.
    """
    across, up = math.ceil(width / _TILE[0] - 1e-9), math.ceil(height / _TILE[1] - 1e-9)
    if across * up > _MOST_PAGES:
        raise FormatError(
            f"the sheet would be {across * up} A4 pages, {_MOST_PAGES} at most; hand off one page at true size"
        )
    out, canvas = _canvas(*_A4)
    left, low = (_A4[0] - _TILE[0]) / 2, (_A4[1] - _TILE[1]) / 2
    for row in reversed(range(up)):
        for column in range(across):
            canvas.saveState()
            path = canvas.beginPath()
            path.rect(left, low, *_TILE)
            canvas.clipPath(path, stroke=0, fill=0)
            canvas.translate(left - column * _TILE[0], low - row * _TILE[1])
            _drawn(canvas, layers, width, height, pictures)
            canvas.restoreState()
            _marks(canvas, left, low)
            _text(
                canvas,
                left,
                low - 8,
                f"column {column + 1} of {across}, row {up - row} of {up} from above: {words[0] if words else ''}",
                3.2,
            )
            canvas.showPage()
            canvas.scale(_POINT, _POINT)
    canvas.translate(left, _A4[1] / 2)
    _foot(canvas, words)
    canvas.save()
    return out.getvalue()


def facts_pdf(
    title: str,
    facts: Sequence[tuple[str, str]],
    notes: Sequence[str],
    layers: Sequence[Layer],
    width: float,
    height: float,
) -> bytes:
    """One A4 page: a title, facts in two columns, notes, and the sheet drawn small."""
    out, canvas = _canvas(*_A4)
    _text(canvas, 20, 272, title, 7)
    y = 260.0
    for name, value in facts:
        _text(canvas, 20, y, name, 3.6)
        for part in _wrapped(value, 62):
            _text(canvas, 70, y, part, 3.6)
            y -= 5.4
    y -= 4
    for note in notes:
        for part in _wrapped(note, 92):
            _text(canvas, 20, y, part, 3.4)
            y -= 5.0
    room = max(y - 30, 40.0)
    scale = min(170 / width, room / height)
    canvas.saveState()
    canvas.translate(20, max(y - scale * height - 4, 15))
    canvas.scale(scale, scale)
    _drawn(canvas, layers, width, height, (), line=_LINE / scale)
    canvas.restoreState()
    canvas.save()
    return out.getvalue()


def read_pages(path: Path) -> list[tuple[float, float, float]]:
    """Of each page of a PDF its width and height in mm, and how much of it is dark (0 to 1), by
    another reader.

    Raises
    ------
    FormatError : where it cannot be read.
    """
    import pypdfium2
    from pypdf import PdfReader
    from pypdf.errors import PyPdfError

    logging.getLogger("pypdf").setLevel(logging.CRITICAL)  # what is wrong is said below
    try:
        units = [float(page.user_unit) for page in PdfReader(path).pages]
        document = pypdfium2.PdfDocument(path)
        found = []
        for page, unit in zip(document, units, strict=True):
            wide, high = page.get_size()
            pixels = np.asarray(page.render(scale=min(1.0, 1500 / max(wide, high))).to_numpy())
            dark = float((pixels.min(axis=2) < 200).mean())
            found.append((wide * unit / _POINT, high * unit / _POINT, dark))
        document.close()
    except (pypdfium2.PdfiumError, PyPdfError, ValueError) as error:
        raise FormatError(f"{path.name} is no sound PDF") from error
    return found


def read_words(path: Path) -> set[str]:
    """All words that stand in a PDF, by another reader.

    Raises
    ------
    FormatError : where it cannot be read.
    """
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(path)
        found = {
            word for page in document for word in page.get_textpage().get_text_bounded().split()
        }
        document.close()
    except pypdfium2.PdfiumError as error:
        raise FormatError(f"{path.name} is no sound PDF") from error
    return found


def _canvas(width: float, height: float) -> tuple[io.BytesIO, Any]:
    from reportlab.pdfgen.canvas import Canvas  # slow to load

    unit = page_unit(width, height)
    out, scale = io.BytesIO(), _POINT / unit
    version = (1, 6) if unit > 1 else None
    size = (width * scale, height * scale)
    canvas = Canvas(out, pagesize=size, pageCompression=1, pdfVersion=version)
    canvas.setCreator("Draxet")
    canvas.scale(scale, scale)
    if unit > 1:
        _give_unit(canvas, unit)
    return out, canvas


def page_unit(width: float, height: float) -> int:
    """How many points a unit of a page of that size (mm) is: more than one where the page is broader
    or higher than pages of plain points may be."""
    return max(math.ceil(max(width, height) * _POINT / _MOST_POINTS - 1e-9), 1)


def _give_unit(canvas: Any, unit: int) -> None:
    """Have each page say its unit, for which the library has no word of its own."""
    document = canvas._doc
    add_page = document.addPage

    def add(page: Any) -> None:
        page.__NoDefault__ = [*page.__NoDefault__, "UserUnit"]
        page.UserUnit = unit
        add_page(page)

    document.addPage = add


def _drawn(
    canvas: Any,
    layers: Sequence[Layer],
    width: float,
    height: float,
    pictures: Sequence[Picture],
    line: float = _LINE,
) -> None:
    """The sheet with its lower left at the origin."""
    canvas.saveState()
    rim = canvas.beginPath()
    rim.rect(0, 0, width, height)
    canvas.clipPath(rim, stroke=0, fill=0)
    for each in pictures:
        _put_picture(canvas, each)
    canvas.restoreState()
    canvas.setLineWidth(line)
    canvas.setStrokeGray(0.6)
    canvas.rect(0, 0, width, height)
    canvas.setStrokeGray(0)
    for layer in layers:
        for mark in layer.holding(*_HOLDS).marks:
            _put(canvas, mark)


def _put_picture(canvas: Any, picture: Picture) -> None:
    from PIL import Image
    from reportlab.lib.utils import ImageReader

    high, wide = picture.pixels.shape[:2]
    m = picture.to_sheet
    canvas.saveState()
    # a picture's rows run down from its upper left; the unit square of the paper's image runs up
    canvas.transform(
        m.a * wide, m.d * wide, -m.b * high, -m.e * high, m.c + m.b * high, m.f + m.e * high
    )
    canvas.drawImage(ImageReader(Image.fromarray(picture.pixels)), 0, 0, 1, 1)
    canvas.restoreState()


def _put(canvas: Any, mark: Any) -> None:
    if isinstance(mark, Contour):
        canvas.drawPath(_path(canvas, mark), stroke=1, fill=0)
        return
    if isinstance(mark, Picture):
        _put_picture(canvas, mark)
        return
    canvas.saveState()
    if isinstance(mark, Area):
        canvas.setFillColor(mark.colour)
        canvas.drawPath(_path(canvas, *mark.contours), stroke=0, fill=1, fillMode=_EVEN_ODD)
    elif isinstance(mark, Line):
        canvas.setStrokeColor(mark.colour)
        canvas.setLineWidth(mark.width)
        canvas.drawPath(_path(canvas, mark.contour), stroke=1, fill=0)
    else:
        canvas.setFillColor(mark.colour)
        canvas.translate(*mark.at)
        canvas.rotate(mark.turn)
        _text(canvas, 0, 0, mark.text, mark.height / _CAPITAL)
    canvas.restoreState()


def _path(canvas: Any, *contours: Contour) -> Any:
    path = canvas.beginPath()
    for contour in contours:
        _lead(path, contour)
    return path


def _lead(path: Any, contour: Contour) -> None:
    path.moveTo(*contour.nodes[0].tolist())
    spans = contour.spans
    for k, kind in enumerate(contour.kinds.tolist()):
        end = spans.ends[k].tolist()
        if kind == CUBIC:
            path.curveTo(*spans.handles[k, 0].tolist(), *spans.handles[k, 1].tolist(), *end)
        elif kind == ARC and spans.bulges[k] != 0:
            _arc(path, spans.take(np.array([k])).arc_shapes())
        else:
            path.lineTo(*end)
    if contour.closed:
        path.close()


def _arc(path: Any, shape: Any) -> None:
    """An arc as cubics of at most a quarter of a turn (within 0.03 % of its radius)."""
    (cx, cy), r, first, sweep = (
        shape.centres[0].tolist(),
        float(shape.radii[0]),
        float(shape.first[0]),
        float(shape.sweep[0]),
    )
    count = max(math.ceil(abs(sweep) / (math.pi / 2) - 1e-9), 1)
    step = sweep / count
    reach = 4 / 3 * math.tan(step / 4) * r
    for k in range(count):
        a, b = first + k * step, first + (k + 1) * step
        path.curveTo(
            cx + r * math.cos(a) - reach * math.sin(a),
            cy + r * math.sin(a) + reach * math.cos(a),
            cx + r * math.cos(b) + reach * math.sin(b),
            cy + r * math.sin(b) - reach * math.cos(b),
            cx + r * math.cos(b),
            cy + r * math.sin(b),
        )


def _foot(canvas: Any, words: Sequence[str]) -> None:
    canvas.setLineWidth(_LINE)
    canvas.rect(0, 5, CHECK_MM, CHECK_MM)
    _text(canvas, 3, 27, f"This square is {CHECK_MM:g} mm", 3.6)
    _text(canvas, 3, 22, "wide: measure it first.", 3.6)
    for number, line in enumerate(words):
        _text(canvas, CHECK_MM + 8, 50 - 6 * number, line, 3.6)


def _marks(canvas: Any, left: float, low: float) -> None:
    """Crosses at the corners of a tile."""
    canvas.setLineWidth(0.15)
    for x in (left, left + _TILE[0]):
        for y in (low, low + _TILE[1]):
            canvas.line(x - 5, y, x + 5, y)
            canvas.line(x, y - 5, x, y + 5)


def _text(canvas: Any, x: float, y: float, words: str, size: float) -> None:
    canvas.setFont("Helvetica", size)
    canvas.drawString(x, y, words.encode("latin-1", "replace").decode("latin-1"))


def _wrapped(words: str, most: int) -> list[str]:
    import textwrap

    return textwrap.wrap(words, most) or [""]
