"""What the canvas shows: the sheet on the bench with its pictures and contours, and the tool's
marks over them."""

from __future__ import annotations

import time
from collections.abc import Hashable, Iterator, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QWidget

from draxet.geometry.contour import Contour
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.ui.canvas.bench import paint_limit, paint_sheets
from draxet.ui.canvas.contours import ContourPainter
from draxet.ui.canvas.cuts import CutPainter
from draxet.ui.canvas.following import ViewsBefore
from draxet.ui.canvas.inks import InkPainter
from draxet.ui.canvas.marks import paint_marks, paint_steered
from draxet.ui.canvas.picture_store import paint_awaited, paint_picture
from draxet.ui.canvas.placed_signs import View, guide_line, signed_things
from draxet.ui.canvas.programs import ProgramPainter
from draxet.ui.canvas.rest import RestLayer
from draxet.ui.canvas.resting import RestingMarks, parted
from draxet.ui.canvas.rulers import paint_rulers, paint_scale_bar, ruler, scale_bar_box
from draxet.ui.canvas.tool import ContourMark, Mark, SignMark
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.canvas.worked import WorkedPainter
from draxet.ui.look.tokens import Tokens
from draxet.ui.shell.falling import Falling
from draxet.ui.shell.session import Session
from draxet.ui.shell.stage import Stage
from draxet.units import format_length

if TYPE_CHECKING:
    from draxet.ui.canvas.played import PlayedPainter

__all__ = ["PaintedCanvas"]

_FLASH_MS = 450
_FRAME_S = 0.008
"""So long what is at rest is painted on within a frame."""
_CHOSEN_PEN = 2.4
_HELPER_PEN = 1.3
_HALO_FROM = 0.1
"""From this strength of pictures on contours have a light edge, so that they are seen on dark
ones."""


class PaintedCanvas(QWidget):
    """Shows a session's job through a camera; layers at rest are kept, and what is in hand is
    painted anew."""

    pointed = pyqtSignal()
    """The pointer is at another place of the job, or sees another part of it."""
    frame_seconds = _FRAME_S
    is_whole = False
    """Whether the last frame showed all layers as they are to be."""

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._t = session, tokens
        self.camera = Camera()
        self._rest, self._contours, self.cuts = (
            RestLayer(tokens.bench),
            ContourPainter(),
            CutPainter(),
        )
        self._helpers = ContourPainter()
        self._inks = InkPainter()
        self.worked = WorkedPainter()
        self.programs = ProgramPainter()
        self._played: PlayedPainter | None = None
        self._over, self._chosen, self._beyond = (
            RestLayer(),
            ContourPainter(self._contours),
            ContourPainter(self._contours),
        )
        self._resting, self._resting_layer = RestingMarks(), RestLayer()
        self._marks: tuple[tuple[Mark, ...], list[Mark]] | None = None
        """At rest, and painted anew in each frame; nothing where they have to be asked for."""
        self._signs: tuple[tuple[object, ...], tuple[tuple[Mark, ...], list[Mark]]] = ((), ((), []))
        self._before = ViewsBefore()
        self._pointer: tuple[float, float] | None = None
        self._steered = self._fitted = False
        self._only = ""
        self._flash: tuple[Contour, ...] = ()
        self._pulled: tuple[float, float, float] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 240)
        self._listen_to(session)

    def _listen_to(self, session: Session) -> None:
        """Show anew what changes, and go where it is asked for."""
        for signal in (
            session.job_changed,
            session.marks_changed,
            session.view_changed,
            session.stage_changed,
            session.selection_changed,
            session.tool_changed,
            session.looked_changed,
        ):
            signal.connect(self.show_anew)
        session.flashed.connect(self._start_flash)
        session.fit_asked.connect(self.fit_all)
        session.view_asked.connect(self.show_view)
        session.place_asked.connect(self.look_at)
        for forgets in (
            self._before.forget,
            self._rest.forget,
            self._over.forget,
            self._resting_layer.forget,
        ):
            session.job_ending.connect(forgets)

    def show_anew(self) -> None:
        """What is in hand may look different now; frames that only go on with what is at rest ask
        for the same again."""
        self._marks = None
        self.update()

    # --- the view

    def fit_all(self) -> None:
        """Show the sheet, the pictures and all contours."""
        self._fit(self.everything())

    def fit_selection(self) -> None:
        chosen = [item.contour.box for item in self._session.chosen()]
        self._fit(_around(chosen) if chosen else self.everything())

    def everything(self) -> tuple[float, float, float, float]:
        job = self._session.job
        boxes = (
            [s.box for s in job.sheets]
            + [p.box for p in job.pictures]
            + [item.contour.box for item in job.contours]
        )
        aside = self._aside()
        return _around(
            boxes
            + [(x0 + aside, y0, x1 + aside, y1) for x0, y0, x1, y1 in (p.box for p in job.pictures)]
            if aside
            else boxes
        )

    def _aside(self) -> float:
        """How far to the right pictures are shown of where they lie, in mm: 0 but while they stand
        beside the contours."""
        job = self._session.job
        if not (self._session.beside and job.pictures):
            return 0.0
        x0, _, x1, _ = _around(
            [p.box for p in job.pictures] + [item.contour.box for item in job.contours]
        )
        return 1.06 * (x1 - x0)

    def _fit(self, box: tuple[float, float, float, float]) -> None:
        broad = ruler()
        camera = Camera.fitted(box, self.width() - broad, self.height() - broad - 20)
        self._see(camera.panned(broad, broad), fitted=True)

    def show_view(self, x: float, y: float, zoom: float) -> None:
        """Show a place in the middle at a zoom (screen pixels a mm)."""
        self._see(
            Camera(zoom, round(self.width() / 2 - zoom * x), round(self.height() / 2 + zoom * y))
        )

    def view_before(self) -> None:
        """The view that was left last."""
        if camera := self._before.take():
            self._see(camera, leaves=False)

    @property
    def has_view_before(self) -> bool:
        return bool(self._before)

    def _see(self, camera: Camera, *, fitted: bool = False, leaves: bool = True) -> None:
        if leaves and camera != self.camera and self.camera != Camera():
            self._before.leave(self.camera)
        self.camera, self._fitted = camera, fitted
        self._session.view = (*camera.job(self.width() / 2, self.height() / 2), camera.zoom)
        self.pointed.emit()
        self.show_anew()

    @property
    def pointed_at(self) -> tuple[float, float] | None:
        """The place in the job where the pointer is; None where it is not over the canvas."""
        return self.camera.job(*self._pointer) if self._pointer else None

    def zoom_by(self, factor: float, x: float | None = None, y: float | None = None) -> None:
        self._see(
            self.camera.zoomed(
                factor, self.width() / 2 if x is None else x, self.height() / 2 if y is None else y
            )
        )

    def pan_by(self, dx: float, dy: float) -> None:
        self._see(self.camera.panned(dx, dy))

    def look_at(self, x: float, y: float) -> None:
        """Bring a place into the middle."""
        vx, vy = self.camera.view(x, y)
        self.pan_by(self.width() / 2 - vx, self.height() / 2 - vy)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._marks = None  # guides run from edge to edge
        if self._fitted or self.camera == Camera():
            self.fit_all()

    # --- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        until = time.monotonic() + self.frame_seconds
        session = self._session
        self._show_contours()
        painter = QPainter(self)
        size, ratio = self.size(), self.devicePixelRatioF()
        self.is_whole = self._rest.show(
            painter, size, ratio, self.camera, self._at_rest(), self._rest_steps, until
        )
        if self._only != "picture":
            self._paint_live(painter, until)
        paint_scale_bar(painter, self.height(), self.camera, session.job.unit, self._t)
        if self._steered and self._pointer:
            paint_steered(painter, self._pointer, self._t)
        paint_rulers(
            painter,
            self.width(),
            self.height(),
            self.camera,
            session.job.sheet.origin_place,
            session.job.unit,
            self._pointer,
            self._t,
        )
        painter.end()
        if not self.is_whole:
            self.update()  # the rest in the next frames

    def _hidden_by_tool(self) -> frozenset[str]:
        tool = self._session.tool
        return tool.hidden() if tool else frozenset()

    def _shown_items(self) -> tuple[ContourItem, ...]:
        return self._session.shown_contours if self._only != "picture" else ()

    def _show_contours(self) -> None:
        """Give the painters of contours what they are to show now."""
        session, hidden, items = self._session, self._hidden_by_tool(), self._shown_items()
        self._contours.show(
            tuple(item for item in items if item.id not in hidden) if hidden else items
        )
        self._helpers.show(session.job.helpers if self._only != "picture" else ())
        inked = session.shows_inks and session.stage in (Stage.TRACE, Stage.MEND)
        self._inks.show(self._contours.shown if inked else ())

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
            worked = session.stage in (Stage.MAKE, Stage.PROVE) and not (
                session.tool and session.tool.plays
            )
            if worked:
                yield from self.cuts.paint(painter, to_view, clip, t)
            yield from self._inks.paint(painter, to_view, clip, t.marking_blue)
            halo = (
                t.halo
                if self._strength() > _HALO_FROM and any(p.visible for p in session.job.pictures)
                else ""
            )
            yield from self._helpers.paint(
                painter, to_view, clip, t.quiet, _HELPER_PEN, halo=halo, dashed=True
            )
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

    def _paint_live(self, painter: QPainter, until: float) -> None:
        session = self._session
        if self._marks is None:
            (resting_signs, signs), (resting, others) = (
                self._signs_of_job(),
                parted(self._marks_now()),
            )
            self._marks = (*resting_signs, *resting), [*signs, *others]
            self._resting.show(self._marks[0])
        at_rest, live = self._marks
        self._paint_played(painter)
        self._paint_over(painter, until)
        if at_rest:
            self.is_whole &= self._resting_layer.show(
                painter,
                self.size(),
                self.devicePixelRatioF(),
                self.camera,
                at_rest,
                self._resting_steps,
                until,
            )
        else:
            self._resting_layer.forget()
        paint_marks(
            painter, live, self.camera, (self.width(), self.height()), self._t, self._paint_lens
        )
        if (
            session.stage in (Stage.MAKE, Stage.PROVE)
            and session.job.widths_cut
            and not (session.tool and session.tool.plays)
        ):
            self._paint_words_of_cuts(painter, session.job)

    def _paint_words_of_cuts(self, painter: QPainter, job: Job) -> None:
        """Tags at the cuts, and how wide they are beside the scale bar."""
        widths = " and ".join(format_length(width, job.unit) for width in job.widths_cut[:2])
        self.cuts.paint_tags(painter, job, self.camera, self._t)
        self.cuts.paint_legend(
            painter,
            job,
            (self.width(), self.height()),
            scale_bar_box(self.height(), self.camera, job.unit),
            f"cut, {widths} wide",
            self._t,
        )

    def _marks_now(self) -> Sequence[Mark]:
        """What is shown over the layers and the job's signs: notes, guides, what was asked for and
        what the tool in hand shows."""
        session = self._session
        marks: list[Mark] = []
        view = View(self.camera, self.width(), self.height())
        for sign, things in signed_things(session.job, session.stage, rests=False):
            for thing in things:
                marks += sign.marks(thing, view)
        if self._pulled is not None:
            marks.append(guide_line(*self._pulled, view))
        if self._flash:
            marks.append(ContourMark(self._flash, "fault"))
        if session.shows_falls and not (session.tool and session.tool.shows_falls):
            marks += session.single(Falling).marks()
        return [*marks, *session.tool.marks()] if session.tool else marks

    def _signs_of_job(self) -> tuple[tuple[Mark, ...], list[Mark]]:
        """Open ends, and what of the placed things rests, at rest or not: the same signs as before
        where nothing of these has changed."""
        session = self._session
        own = session.tool.draws if session.tool else frozenset()
        lists = list(signed_things(session.job, session.stage, rests=True, but=own))
        of = (session.job.open_ends, session.hidden, *(things for _, things in lists))
        before = self._signs[0]
        if len(of) != len(before) or any(a is not b for a, b in zip(of, before, strict=True)):
            signs: list[Mark] = [
                SignMark(x, y, "open")
                for contour, x, y in session.job.open_ends
                if contour not in session.hidden
            ]
            view = View(self.camera, self.width(), self.height())
            for sign, things in lists:
                for thing in things:
                    signs += sign.marks(thing, view)
            self._signs = of, parted(signs)
        return self._signs[1]

    def _resting_steps(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        yield from self._resting.paint(painter, camera, clip, self._t)

    def _paint_played(self, painter: QPainter) -> None:
        played = self._session.tool.plays if self._session.tool else None
        if played is None:
            return
        if self._played is None:
            from draxet.ui.canvas.played import PlayedPainter  # not needed to show a window

            self._played = PlayedPainter()
        if not self._played.paint(
            painter,
            played.paths,
            played.until,
            played.parts,
            played.there.then(self.camera.to_view()),
            self.size(),
            self.devicePixelRatioF(),
            self._t,
        ):
            self.is_whole = False

    def _paint_over(self, painter: QPainter, until: float) -> None:
        """What is chosen and what lies beyond the limit, from a layer that is painted anew only
        where that changes."""
        session, by_id = self._session, self._session.job.contour_by_id
        hidden = session.tool.hidden() if session.tool else frozenset()
        self._chosen.show(
            tuple(item for item in session.chosen() if item.id not in hidden)
            if hidden
            else session.chosen()
        )
        beyond = next(
            (finding.ids for finding in session.looked.findings if finding.kind == "outside-limit"),
            (),
        )
        self._beyond.show(
            tuple(
                by_id[contour] for contour in beyond if contour in by_id and contour not in hidden
            )
        )
        if self._chosen.shown or self._beyond.shown:
            state = (self._chosen.shown, self._beyond.shown)
            self.is_whole &= self._over.show(
                painter,
                self.size(),
                self.devicePixelRatioF(),
                self.camera,
                state,
                self._over_steps,
                until,
            )
        else:
            self._over.forget()

    def _over_steps(self, painter: QPainter, clip: QRectF, camera: Camera) -> Iterator[None]:
        to_view = camera.to_view()
        yield from self._chosen.paint(painter, to_view, clip, self._t.brass, _CHOSEN_PEN)
        yield from self._beyond.paint(painter, to_view, clip, self._t.coral, _CHOSEN_PEN)

    def _start_flash(self, contours: tuple[Contour, ...]) -> None:
        self._flash = contours
        QTimer.singleShot(_FLASH_MS, self._end_flash)
        self.show_anew()

    def _end_flash(self) -> None:
        self._flash = ()
        self.show_anew()


def _around(boxes: list[tuple[float, float, float, float]]) -> tuple[float, float, float, float]:
    return (
        min(b[0] for b in boxes),
        min(b[1] for b in boxes),
        max(b[2] for b in boxes),
        max(b[3] for b in boxes),
    )
