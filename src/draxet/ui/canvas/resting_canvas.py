"""What rests on the canvas: sheets, pictures, contours, areas of colour and the work."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from draxet.cached import known_on_the_first
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.record import record
from draxet.ui.canvas.bench import paint_limit, paint_sheets
from draxet.ui.canvas.contours import ContourPainter, chunks_of_drawn
from draxet.ui.canvas.cuts import CutPainter
from draxet.ui.canvas.inks import InkPainter, washes_of_drawn
from draxet.ui.canvas.placed_parts import PlacedPainter, paints_parts
from draxet.ui.canvas.programs import ProgramPainter
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.canvas.viewed_canvas import ViewedCanvas
from draxet.ui.canvas.worked import WorkedPainter
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.picture_store import paint_awaited, paint_picture
from draxet.ui.model.session import Session

__all__ = ["LAYERS", "CanvasLayer", "RestingCanvas"]

_HELPER_PEN = 1.3
_HALO_FROM = 0.1
"""From this strength of pictures on contours have a light edge, so that they are seen on dark
ones."""


class RestingCanvas(ViewedCanvas):
    """A canvas that knows what is painted at rest, and of what."""

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        super().__init__(session, parent)
        self._t = tokens
        session.large_edits.asked += [chunks_of_drawn, washes_of_drawn]
        self._contours, self._helpers = ContourPainter(), ContourPainter()
        self._placed, self._inks = PlacedPainter(), InkPainter()
        self.cuts, self.worked, self.programs = CutPainter(), WorkedPainter(), ProgramPainter()
        self._only = ""

    def _hidden_by_tool(self) -> frozenset[str]:
        tool = self._session.tool
        return tool.hidden() if tool else frozenset()

    def _shown_items(self) -> tuple[ContourItem, ...]:
        """The contours that are painted one by one."""
        if self._only == "picture":
            return ()
        return (
            self._session.selection.shown_drawn if self._in_parts else self._session.selection.shown
        )

    @property
    def _in_parts(self) -> bool:
        """Whether placements are painted as parts under their maps."""
        return self._only != "picture" and paints_parts(self._session.job)

    @property
    def _signed(self) -> Job:
        """The job whose points, bridges and ends have signs: of a great many placements none has."""
        return self._session.job if self._in_parts else self._session.layout

    def _show_contours(self) -> None:
        """Give the painters of contours what they are to show now."""
        session, hidden, items = self._session, self._hidden_by_tool(), self._shown_items()
        if self._in_parts:
            self._placed.show(session.job, session.selection.hidden | hidden)
            items = (*items, *self._placed.left) if self._placed.left else items
        shown = tuple(item for item in items if item.id not in hidden) if hidden else items
        job = session.job if session.job.contours == shown else None
        self._contours.show(shown, job)
        self._helpers.show(session.job.helpers if self._only != "picture" else ())
        inked = self._contours.shown if self._shows_inks else ()
        known = known_on_the_first(washes_of_drawn, job) if job and inked else None
        self._inks.show(inked, known)

    @property
    def _shows_inks(self) -> bool:
        session = self._session
        return session.desk.shows_inks and session.desk.stage.shows("inks")

    def _at_rest(self) -> Hashable:
        """All that the layers at rest are painted from."""
        return (self._only, *(layer.depends(self) for layer in LAYERS))

    def _rest_steps(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        for layer in LAYERS:
            if self._only in ("", layer.alone) or not layer.alone:
                yield from layer.paint(self, painter, clip, camera)

    # --- what each layer paints

    @property
    def _shows_work(self) -> bool:
        session = self._session
        return session.shows_work and not (session.tool and session.tool.plays)

    @property
    def _halo(self) -> str:
        """The colour of a light edge that contours have on pictures."""
        on = self._strength() > _HALO_FROM and any(p.visible for p in self._session.job.pictures)
        return self._t.halo if on else ""

    def _paint_bench(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        paint_sheets(painter, self._session.job, camera, clip, self._t)
        yield

    def _paint_seen(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        self._paint_pictures(painter, camera, clip, self._strength())
        yield

    def _paint_ink(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        """What counts as ink, as a threshold is moved."""
        session = self._session
        shown = (
            session.pictures.latest(session.selection.picture)
            if session.selection.picture
            else None
        )
        if session.desk.ink_below is not None and shown and self._only != "contours":
            below, to_view = session.desk.ink_below, camera.to_view()
            paint_picture(painter, shown.picture, shown.pyramid, to_view, clip, 1.0, below)
        yield

    def _paint_cuts(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        if self._shows_work:
            yield from self.cuts.paint(painter, camera.to_view(), clip, self._t)

    def _paint_inks(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        to_view, blue = camera.to_view(), self._t.marking_blue
        if self._in_parts and self._shows_inks:
            yield from self._placed.paint_inks(painter, to_view, clip, blue)
        yield from self._inks.paint(painter, to_view, clip, blue)

    def _paint_helpers(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        quiet, to_view = self._t.quiet, camera.to_view()
        yield from self._helpers.paint(
            painter, to_view, clip, quiet, _HELPER_PEN, halo=self._halo, dashed=True
        )

    def _paint_contours(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        to_view, blue = camera.to_view(), self._t.marking_blue
        if self._in_parts:
            yield from self._placed.paint(painter, to_view, clip, blue)
        yield from self._contours.paint(painter, to_view, clip, blue, halo=self._halo)

    def _paint_work(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        if self._shows_work:
            yield from self.worked.paint(painter, camera.to_view(), clip)
            yield from self.programs.paint(painter, camera.to_view(), clip, self._t)

    def _paint_limit(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        paint_limit(painter, self._session.job, camera, self._t)
        yield

    # --- pictures

    def _strength(self) -> float:
        return {"picture": 1.0, "contours": 0.0}.get(self._only, self._session.desk.strength)

    def _paint_pictures(
        self, painter: QPainter, camera: Camera, clip: QRectF, strength: float
    ) -> None:
        if self._session.desk.beside:
            strength = 1.0
            camera = Camera(camera.zoom, camera.dx + self._aside() * camera.zoom, camera.dy)
        if strength <= 0:
            return
        for picture in self._session.job.pictures:
            shown = self._session.pictures.latest(picture)
            if picture.visible and shown is None:
                paint_awaited(painter, picture, camera.to_view(), self._t)
            elif picture.visible and shown is not None:
                paint_picture(
                    painter,
                    shown.picture,
                    shown.pyramid,
                    camera.to_view(),
                    clip,
                    strength * (1.0 if self._only else picture.strength),
                )

    def _paint_lens(self, painter: QPainter, camera: Camera, clip: QRectF) -> None:
        self._paint_pictures(painter, camera, clip, 1.0)

    def _pictures_seen(self) -> Hashable:
        session = self._session
        return (
            tuple(
                (p.id, p.to_job, p.visible, p.strength, p.square, p.steps, shown and shown.pyramid)
                for p in session.job.pictures
                for shown in (session.pictures.latest(p),)
            ),
            session.desk.beside,
            self._strength(),
        )


@record(frozen=True, eq=False)
class CanvasLayer:
    """Something at rest on the canvas: what it is painted from, and how, step by step. alone :
    whether it belongs to the ``picture`` or the ``contours`` where these are shown by themselves."""

    name: str
    depends: Callable[[RestingCanvas], Hashable]
    paint: Callable[[RestingCanvas, QPainter, QRectF, Camera], Iterator[None]]
    alone: str = ""


LAYERS = [
    CanvasLayer(
        "bench",
        lambda c: (c._session.job.sheets, c._session.job.sheet_id),
        RestingCanvas._paint_bench,
    ),
    CanvasLayer("pictures", RestingCanvas._pictures_seen, RestingCanvas._paint_seen),
    CanvasLayer("ink", lambda c: c._session.desk.ink_below, RestingCanvas._paint_ink),
    CanvasLayer(
        "cuts",
        lambda c: (c.cuts.bands, c._shows_work, c._session.desk.stage),
        RestingCanvas._paint_cuts,
        "contours",
    ),
    CanvasLayer("areas", lambda c: c._shows_inks, RestingCanvas._paint_inks, "contours"),
    CanvasLayer(
        "helpers", lambda c: c._session.job.helpers, RestingCanvas._paint_helpers, "contours"
    ),
    CanvasLayer(
        "contours",
        lambda c: (
            c._shown_items(),
            (c._session.job.placements, c._session.job.parts, c._session.selection.hidden)
            if c._in_parts
            else (),
            c._hidden_by_tool(),
        ),
        RestingCanvas._paint_contours,
        "contours",
    ),
    CanvasLayer(
        "work", lambda c: (c.worked.lines, c.programs.paths), RestingCanvas._paint_work, "contours"
    ),
    CanvasLayer("limit", lambda c: c._session.job.limit, RestingCanvas._paint_limit),
]
"""What rests on the canvas, the lowest first."""
