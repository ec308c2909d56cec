"""What rests on the canvas: sheets, pictures, contours, areas of colour and the work."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.ui.canvas.bench import paint_limit, paint_sheets
from draxet.ui.canvas.contours import ContourPainter
from draxet.ui.canvas.cuts import CutPainter
from draxet.ui.canvas.inks import InkPainter
from draxet.ui.canvas.placed_parts import PlacedPainter, paints_parts
from draxet.ui.canvas.programs import ProgramPainter
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.canvas.viewed_canvas import ViewedCanvas
from draxet.ui.canvas.worked import WorkedPainter
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.picture_store import paint_awaited, paint_picture
from draxet.ui.model.session import Session

if TYPE_CHECKING:
    pass

__all__ = ["RestingCanvas"]

_HELPER_PEN = 1.3
_HALO_FROM = 0.1
"""From this strength of pictures on contours have a light edge, so that they are seen on dark
ones."""


class RestingCanvas(ViewedCanvas):
    """A canvas that knows what is painted at rest, and of what."""

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        super().__init__(session, parent)
        self._t = tokens
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
        return self._session.shown_drawn if self._in_parts else self._session.shown_contours

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
            self._placed.show(session.job, session.hidden | hidden)
            items = (*items, *self._placed.left) if self._placed.left else items
        self._contours.show(
            tuple(item for item in items if item.id not in hidden) if hidden else items
        )
        self._helpers.show(session.job.helpers if self._only != "picture" else ())
        self._inks.show(self._contours.shown if self._shows_inks else ())

    @property
    def _shows_inks(self) -> bool:
        session = self._session
        return session.shows_inks and session.stage.shows("inks")

    def _at_rest(self) -> Hashable:
        """All that the layer at rest is painted from."""
        session, tool = self._session, self._session.tool
        job = session.job
        return (
            tuple(
                (p.id, p.to_job, p.visible, p.strength, p.square, p.steps, shown and shown.pyramid)
                for p in job.pictures
                for shown in (session.pictures.latest(p),)
            ),
            job.sheets,
            job.sheet_id,
            job.limit,
            session.beside,
            self._strength(),
            session.stage,
            session.ink_below,
            self._shown_items(),
            (session.job.placements, session.job.parts, session.hidden) if self._in_parts else (),
            job.helpers,
            self._hidden_by_tool(),
            self.cuts.bands,
            self.worked.lines,
            self.programs.paths,
            bool(tool and tool.plays),
            self._only,
            session.shows_inks,
        )

    def _rest_steps(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        session, t, to_view = self._session, self._t, camera.to_view()
        job = session.job
        paint_sheets(painter, job, camera, clip, t)
        self._paint_pictures(painter, camera, clip, self._strength())
        yield
        if (
            session.ink_below is not None
            and session.picture is not None
            and self._only != "contours"
            and (shown := session.pictures.latest(session.picture))
        ):
            paint_picture(
                painter, shown.picture, shown.pyramid, to_view, clip, 1.0, session.ink_below
            )
        if self._only != "picture":
            worked = session.stage.shows("work") and not (session.tool and session.tool.plays)
            if worked:
                yield from self.cuts.paint(painter, to_view, clip, t)
            if self._in_parts and self._shows_inks:
                yield from self._placed.paint_inks(painter, to_view, clip, t.marking_blue)
            yield from self._inks.paint(painter, to_view, clip, t.marking_blue)
            halo = (
                t.halo
                if self._strength() > _HALO_FROM and any(p.visible for p in session.job.pictures)
                else ""
            )
            yield from self._helpers.paint(
                painter, to_view, clip, t.quiet, _HELPER_PEN, halo=halo, dashed=True
            )
            if self._in_parts:
                yield from self._placed.paint(painter, to_view, clip, t.marking_blue)
            yield from self._contours.paint(painter, to_view, clip, t.marking_blue, halo=halo)
            if worked:
                yield from self.worked.paint(painter, to_view, clip)
                yield from self.programs.paint(painter, to_view, clip, t)
        paint_limit(painter, job, camera, t)

    def _strength(self) -> float:
        return {"picture": 1.0, "contours": 0.0}.get(self._only, self._session.strength)

    def _paint_pictures(
        self, painter: QPainter, camera: Camera, clip: QRectF, strength: float
    ) -> None:
        if self._session.beside:
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
