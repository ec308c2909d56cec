"""What the canvas shows: the sheet on the bench with its pictures and contours, and the tool's
marks over them."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from draxet.geometry.contour import Contour
from draxet.job.records import Job
from draxet.ui.canvas.contours import ContourPainter
from draxet.ui.canvas.marks import paint_marks, paint_steered
from draxet.ui.canvas.placed_signs import View, guide_line, signed_things
from draxet.ui.canvas.rest import RestLayer
from draxet.ui.canvas.resting import RestingMarks, parted
from draxet.ui.canvas.resting_canvas import RestingCanvas
from draxet.ui.canvas.rulers import paint_rulers, paint_scale_bar, scale_bar_box
from draxet.ui.canvas.view_camera import Camera
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.falling import Falling
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, Mark, SignMark
from draxet.units import format_length

if TYPE_CHECKING:
    from draxet.ui.canvas.played import PlayedPainter

__all__ = ["PaintedCanvas"]

_FLASH_MS = 450
_FRAME_S = 0.008
"""So long what is at rest is painted on within a frame."""
_CHOSEN_PEN = 2.4


class PaintedCanvas(RestingCanvas):
    """Shows a session's job through a camera; layers at rest are kept, and what is in hand is
    painted anew."""

    frame_seconds = _FRAME_S
    is_whole = False
    """Whether the last frame showed all layers as they are to be."""

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        super().__init__(session, tokens, parent)
        self._rest = RestLayer(tokens.bench)
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
        self._steered = False
        self._flash: tuple[Contour, ...] = ()
        self._pulled: tuple[float, float, float] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 240)
        self._listen_to(session)

    def _listen_to(self, session: Session) -> None:
        """Show anew what changes, and go where it is asked for."""
        for signal in (
            session.document.changed,
            session.marks_changed,
            session.desk.view_changed,
            session.desk.stage_changed,
            session.selection.changed,
            session.tool_changed,
            session.looked_changed,
        ):
            signal.connect(self.show_anew)
        session.messages.flashed.connect(self._start_flash)
        session.messages.fit_asked.connect(self.fit_all)
        session.messages.view_asked.connect(self.show_view)
        session.messages.place_asked.connect(self.look_at)
        for forgets in (
            self._before.forget,
            self._rest.forget,
            self._over.forget,
            self._resting_layer.forget,
        ):
            session.document.ending.connect(forgets)

    def show_anew(self) -> None:
        """What is in hand may look different now; frames that only go on with what is at rest ask
        for the same again."""
        self._marks = None
        self.update()

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
            session.desk.stage.shows("work")
            and session.job.widths_cut
            and not (session.tool and session.tool.plays)
        ):
            self._paint_words_of_cuts(painter, self._signed)

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
        for sign, things in signed_things(self._signed, session.desk.stage, rests=False):
            for thing in things:
                marks += sign.marks(thing, view)
        if self._pulled is not None:
            marks.append(guide_line(*self._pulled, view))
        if self._flash:
            marks.append(ContourMark(self._flash, "fault"))
        if session.desk.shows_falls and not (session.tool and session.tool.shows_falls):
            marks += session.single(Falling).marks()
        return [*marks, *session.tool.marks()] if session.tool else marks

    def _signs_of_job(self) -> tuple[tuple[Mark, ...], list[Mark]]:
        """Open ends, and what of the placed things rests, at rest or not: the same signs as before
        where nothing of these has changed."""
        session = self._session
        own = session.tool.draws if session.tool else frozenset()
        lists = list(signed_things(self._signed, session.desk.stage, rests=True, but=own))
        of = (self._signed.open_ends, session.selection.hidden, *(things for _, things in lists))
        before = self._signs[0]
        if len(of) != len(before) or any(a is not b for a, b in zip(of, before, strict=True)):
            signs: list[Mark] = [
                SignMark(x, y, "open")
                for contour, x, y in self._signed.open_ends
                if contour not in session.selection.hidden
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
        session = self._session
        hidden = session.tool.hidden() if session.tool else frozenset()
        self._chosen.show(
            tuple(item for item in session.selection.items if item.id not in hidden)
            if hidden
            else session.selection.items
        )
        beyond = next(
            (finding.ids for finding in session.looked.findings if finding.kind == "outside-limit"),
            (),
        )
        self._beyond.show(session.selection.named("beyond", beyond, hidden))
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
