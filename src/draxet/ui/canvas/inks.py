"""What contours look like filled and drawn: areas in their colour, and lines as broad as they are.
A quiet wash beneath the contours."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from draxet.cached import kept_on_the_first
from draxet.geometry.affine import Affine
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.record import record
from draxet.ui.canvas.chunks import Chunk, families, packed, transform_of, view_box
from draxet.ui.canvas.saved import saved

__all__ = ["InkPainter", "paint_ink", "washes_of_drawn"]

_FILL_SHOWS, _LINE_SHOWS = 0.22, 0.28
_CHUNK_SPANS = 60
"""A path of more spans takes longer to fill than several of fewer."""
_MANY_SPANS = 12_000
"""Of so many, edges of washes are not smoothed: they lie beneath contours anyway."""


@record(frozen=True, eq=False)
class Wash:
    """A path in its colour; of lines also how broad they are."""

    chunk: Chunk
    colour: str
    wide: float = 0.0


def washes_of(inked: Sequence[ContourItem]) -> list[Wash]:
    """What contours with a colour or a breadth are painted by."""
    found = list[Wash]()
    for colour in dict.fromkeys(item.colour for item in inked if item.colour):
        some = [item.contour for item in inked if item.colour == colour and item.contour.closed]
        found += [
            Wash(Chunk([some[k] for k in each]), colour)
            for each in packed(some, families(some), _CHUNK_SPANS)
        ]
    for wide, colour in dict.fromkeys(
        (item.line, "" if item.contour.closed else item.colour) for item in inked if item.line
    ):
        some = [
            item.contour
            for item in inked
            if item.line == wide and ("" if item.contour.closed else item.colour) == colour
        ]
        alone = ([k] for k in range(len(some)))
        found += [
            Wash(Chunk([some[k] for k in each], wide / 2), colour, wide)
            for each in packed(some, alone, _CHUNK_SPANS)
        ]
    return found


@kept_on_the_first
def washes_of_drawn(job: Job) -> list[Wash]:
    """The same of all contours that are drawn in a job."""
    return washes_of([item for item in job.contours if item.colour or item.line])


class InkPainter:
    """Keeps paths for areas of a colour and for lines of a width; made anew only when the contours
    that have one change."""

    def __init__(self) -> None:
        self._shown: tuple[ContourItem, ...] = ()
        self._of: tuple[ContourItem, ...] = ()
        self._washes: list[Wash] = []

    def show(self, items: tuple[ContourItem, ...], known: list[Wash] | None = None) -> None:
        """Say which contours are at rest now, and their washes where these are known."""
        if items is self._shown:
            return
        self._shown = items
        inked = tuple(item for item in items if item.colour or item.line)
        if len(inked) == len(self._of) and all(
            a is b for a, b in zip(inked, self._of, strict=True)
        ):
            return
        self._of = inked
        self._washes = known if known is not None else washes_of(inked)

    def paint(
        self, painter: QPainter, to_view: Affine, clip: QRectF, colour: str
    ) -> Iterator[None]:
        """Paint, step by step, what lies in `clip` (view); lines without a colour of their own in
        `colour`."""
        if not self._washes:
            return
        seen = view_box(to_view, clip)
        washes = [wash for wash in self._washes if wash.chunk.box.intersects(seen)]
        with saved(painter):
            painter.setClipRect(clip)
            painter.setRenderHint(
                QPainter.RenderHint.Antialiasing,
                sum(wash.chunk.spans for wash in washes) <= _MANY_SPANS,
            )
            painter.setTransform(transform_of(to_view), True)
            for wash in washes:
                paint_ink(painter, wash.chunk.path, wash.colour or colour, wash.wide)
                yield


def paint_ink(painter: QPainter, path: QPainterPath, colour: str, wide: float) -> None:
    """Fill a path with a colour, every second of nested contours being a hole; or draw it as broad
    as it is, where it has a breadth."""
    shade = QColor(colour)
    shade.setAlphaF(_LINE_SHOWS if wide else _FILL_SHOWS)
    if wide:
        style, cap, join = (
            Qt.PenStyle.SolidLine,
            Qt.PenCapStyle.RoundCap,
            Qt.PenJoinStyle.RoundJoin,
        )
        painter.strokePath(path, QPen(shade, wide, style, cap, join))
    else:
        painter.fillPath(path, shade)
