"""The bodies of the sheet in hand, turned by a drag and seen nearer by the wheel, in the place of the
canvas.

A frame is painted by a worker: coarse while it turns, as coarse as is quick enough here, and finer in
steps once it rests.
"""

from __future__ import annotations

import math
import time
from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.job.layout import LAID_FIELDS
from draxet.job.sides import PROGRAM_FIELDS
from draxet.leaving.body_files import BodyPicture
from draxet.make.solids.solid_sheet import SolidSheet, solid_sheet
from draxet.make.solids.solid_view import (
    VIEWS,
    Look,
    Scene,
    View,
    fitted,
    place_at,
    seen,
)
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.controls.slip_parts import label
from draxet.ui.look.style import face
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.derived import Derived
from draxet.ui.model.picture_store import to_qimage
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Prompt
from draxet.ui.stages.make.bodies_scene import (
    BodiesSeen,
    lighter_scene,
    picture_on,
    scene_for,
)
from draxet.ui.stages.make.bodies_strip import BodiesStrip
from draxet.units import format_length

__all__ = ["BodiesView"]

_FRAME_S, _COARSEST, _STEPS = 0.025, 0.2, (1.0, 2.0)
"""So long a frame may take while it turns, how coarse it may be then, and how fine it is at rest,
one after the other."""
_REST_MS = 120
_TURN = 0.4
"""Degrees a pixel."""
_MANY = 25_000
"""So many triangles turn as they are."""
_KEY_TURN = 15.0
_KEYS = {
    Qt.Key.Key_PageUp: "plan",
    Qt.Key.Key_PageDown: "front",
    Qt.Key.Key_End: "side",
    Qt.Key.Key_Home: "angled",
}
_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}
_CLOSEST, _FARTHEST = 500.0, 0.01


@record(frozen=True, eq=False)
class _Frame:
    look: Look
    scene: Scene
    view: View
    seconds: float


class BodiesView(QWidget):
    """Shows a session's bodies."""

    left = pyqtSignal()
    """It is done with: back to the canvas."""

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._t = session, tokens
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Bodies")
        self.setMinimumSize(320, 240)
        self.view: View | None = None
        self._fitted = True
        self._coarse = 0.5
        self._step = -1
        self._wanted = False
        self._drag: tuple[QPointF, bool] | None = None
        self._pointer: QPointF | None = None
        self.solid = Derived[SolidSheet | None](
            session, "bodies", None, "The bodies could not be made", told=self._look_at_scene
        )
        self.scene = Derived[Scene | None](
            session, "bodies scene", None, "The bodies could not be shown", told=self._show_scene
        )
        self.light = Derived[Scene | None](
            session, "bodies lighter", None, "The bodies could not be shown", told=self._refine
        )
        self.frame = Derived[_Frame | None](
            session, "bodies seen", None, "The bodies could not be painted", told=self._took
        )
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._refine)
        self._lay_out()
        session.document.changed.connect(self.look)
        session.desk.view_changed.connect(self.look)
        session.selection.changed.connect(self.look)

    def _lay_out(self) -> None:
        self.strip = BodiesStrip(self._session)
        self.strip.views.chosen.connect(self.see_from)
        self.strip.asked.connect(self._set)
        self._none = label("", "quiet", wrap=True)
        self._none.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addWidget(self._none, 1)

    @property
    def seen_so(self) -> BodiesSeen:
        """How they are looked at."""
        return self._session.desk.settings("bodies seen", BodiesSeen)

    def _set(self, changed: BodiesSeen) -> None:
        if changed != self.seen_so:
            self._session.desk.keep("bodies seen", changed)
            self.look()

    def see_from(self, name: str) -> None:
        """From a side that has a name, all of it."""
        self._keep_way(*VIEWS[name])
        self._fitted = True
        self._fit()
        self._refresh_strip()
        self._ask_frame()
        self._rest.start()

    def _keep_way(self, turned: float, above: float) -> None:
        """A picture that leaves shows them from there."""
        desk = self._session.desk
        desk.keep("bodies seen", replace(self.seen_so, turned=turned, above=above))
        leaves = desk.settings("leaving BodyPicture", BodyPicture)
        leaves.turned, leaves.above = turned, above

    def _refresh_strip(self) -> None:
        scene = self.scene.value
        self.strip.show_so(self.seen_so, scene.box if scene is not None else None)

    def prompt(self) -> Prompt:
        """What the top line says while they are seen."""
        if self.solid.value is not None and not self.solid.value.meshes and not self.solid.busy:
            return Prompt("Bodies: nothing is raised yet.", keys=(("X", "raise"), ("F3", "back")))
        return Prompt(
            "Bodies: drag to turn, wheel to come nearer.",
            keys=(
                ("F3", "back"),
                ("Home", "angled"),
                ("PgUp", "plan"),
                ("PgDn", "front"),
                ("End", "side"),
                ("Shift", "drag moves"),
            ),
        )

    # --- what is worked out

    def showEvent(self, event: object) -> None:
        self.look()

    def hideEvent(self, event: object) -> None:
        self._rest.stop()
        for each in (self.solid, self.scene, self.light, self.frame):
            if each.busy:
                each.forget()  # it is begun anew when they are seen again

    def look(self) -> None:
        """Have made what is to be seen, as far as that is seen."""
        if not self.isVisible():
            return
        job = self._session.job
        sheet, machine, before = job.sheet, job.machine_of(job.sheet), self.solid.value
        state = (*(getattr(job, n) for n in (*PROGRAM_FIELDS, *LAID_FIELDS)), job.sheet_id)
        self.solid.ask(
            state, lambda report: solid_sheet(job.layout, sheet, machine, report, before)
        )
        self._refresh_strip()
        if not self.solid.busy:
            self._look_at_scene()

    def _look_at_scene(self) -> None:
        solid, so, job = self.solid.value, self.seen_so, self._session.job
        if solid is None or not self.isVisible():
            return
        picture = picture_on(job, job.sheet, self._session.selection.picture)
        store, sheet = self._session.pictures, job.sheet
        shown = picture if so.picture else None
        asked = replace(so, turned=0.0, above=0.0)
        self.scene.ask(
            (solid, asked.cut, asked.at if asked.cut else 0.0, shown),
            lambda report: scene_for(solid, sheet, asked, shown, store, report),
        )

    def _show_scene(self) -> None:
        empty = self.scene.value is None
        self._none.setText(
            "Nothing is raised on this sheet yet: choose closed contours, and raise them (X)."
            if empty
            else ""
        )
        self._fit()
        self._refresh_strip()
        self._ask_frame()
        self._rest.start()
        self._lighten()
        self._session.marks_changed.emit()
        self.update()

    def _lighten(self) -> None:
        """Where there are many triangles, have fewer of them turn."""
        scene = self.scene.value
        if scene is None or len(scene.whole.triangles) <= _MANY:
            self.light.know((scene,), scene)
        else:
            self.light.ask((scene,), lambda report: lighter_scene(scene, report), _REST_MS)

    def _fit(self) -> None:
        """Let all be seen, where nobody came nearer; else only turn."""
        scene, so = self.scene.value, self.seen_so
        if scene is None:
            return
        if self._fitted or self.view is None:
            high = max(self.height() - self.strip.height(), 50)
            self.view = fitted(scene.box, so.turned, so.above, self.width(), high)
        else:
            self.view = replace(self.view, turned=so.turned, above=so.above)

    def _room(self) -> tuple[int, int]:
        return max(self.width(), 16), max(self.height() - self.strip.height(), 16)

    def _ask_frame(self, finer: float = 0.0) -> None:
        """Have a frame painted: at once, as coarse as is quick, or `finer`; while one is being
        painted that comes first, so that turning shows whatever there is time for."""
        scene, view, coarse = self.scene.value, self.view, not finer
        if scene is None or view is None or not self.isVisible():
            return
        if coarse and self.light.known((scene,)) and self.light.value is not None:
            scene = self.light.value
        if coarse and self.frame.busy and self._step < 0:
            self._wanted = True
            return
        if coarse:
            self._step = -1
        fine = finer or self._coarse
        width, height = self._room()
        ratio = self.devicePixelRatioF() if finer else 1.0

        def work(report: Progress) -> _Frame:
            begin = time.thread_time()
            look = seen(scene, view, width, height, fine * ratio, shadow=not coarse, report=report)
            return _Frame(look, scene, view, time.thread_time() - begin)

        self.frame.ask((scene, view, width, height, fine), work)

    def _took(self) -> None:
        frame = self.frame.value
        if frame is not None and self._step < 0:
            pace = math.sqrt(_FRAME_S / max(frame.seconds, 1e-3))
            self._coarse = min(max(self._coarse * min(max(pace, 0.6), 1.5), _COARSEST), 1.0)
        self.update()
        if self._wanted:
            self._wanted = False
            self._ask_frame()
        elif self._step >= 0 and self._drag is None:
            self._refine()

    def _refine(self) -> None:
        """At rest it becomes finer, step by step."""
        if self._drag is None and self._step + 1 < len(_STEPS):
            self._step += 1
            self._ask_frame(_STEPS[self._step])

    def _turn_to(self, turned: float, above: float) -> None:
        turned = (turned + 180.0) % 360.0 - 180.0
        above = min(max(above, -90.0), 90.0)
        self._keep_way(turned, above)
        if self.view is not None:
            self.view = replace(self.view, turned=turned, above=above)
        self._moved()

    def _moved(self) -> None:
        self._refresh_strip()
        self._ask_frame()
        self._rest.start()

    def fit_all(self) -> None:
        """See all of it again."""
        self._fitted = True
        self._fit()
        self._moved()

    def zoom_by(self, factor: float, x: float | None = None, y: float | None = None) -> None:
        """Come nearer to a place of the view."""
        if self.view is None:
            return
        width, height = self._room()
        dx = 0.0 if x is None else x - width / 2
        dy = 0.0 if y is None else y - self.strip.height() - height / 2
        scale = min(max(self.view.scale * factor, _FARTHEST), _CLOSEST)
        self.view = self.view.nearer(scale / self.view.scale, dx, dy)
        self._fitted = False
        self._moved()

    # --- events

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        shifts = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            moves = shifts or event.button() == Qt.MouseButton.MiddleButton
            self._drag = event.position(), moves
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self._pointer = at
        if self._drag is None or self.view is None:
            self.update()
            return
        before, moves = self._drag
        dx, dy = at.x() - before.x(), at.y() - before.y()
        self._drag = at, moves
        if moves:
            self.view, self._fitted = self.view.panned(dx, dy), False
            self._moved()
        else:
            so = self.seen_so
            self._fitted = False
            self._turn_to(so.turned - _TURN * dx, so.above + _TURN * dy)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None
        self.unsetCursor()
        self._rest.start()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.fit_all()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        at = event.position()
        self.zoom_by(1.2 ** (event.angleDelta().y() / 120), at.x(), at.y())

    def leaveEvent(self, event: object) -> None:
        self._pointer = None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self._fitted:
            self._fit()
        self._step = -1
        self._ask_frame()
        self._rest.start()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, so = Qt.Key(event.key()), self.seen_so
        if key == Qt.Key.Key_Escape:
            self.left.emit()
        elif key in _KEYS:
            self.see_from(_KEYS[key])
        elif key in _ARROWS:
            right, up = _ARROWS[key]
            self._fitted = False
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            by = 1.0 if fine else _KEY_TURN
            self._turn_to(so.turned + by * right, so.above + by * up)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self._session.messages.enter_pressed.emit()
        else:
            super().keyPressEvent(event)

    # --- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(243, 240, 232))
        frame, top = self.frame.value, self.strip.height()
        if frame is not None and self.scene.value is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            width, height = self._room()
            painter.drawImage(QRectF(0, top, width, height), to_qimage(frame.look.pixels))
            self._paint_pointed(painter, frame, top)
        painter.end()

    def _paint_pointed(self, painter: QPainter, frame: _Frame, top: int) -> None:
        """What is under the pointer, with its sizes."""
        words = self._pointed_words(frame, top)
        if not words or self._pointer is None or self._drag is not None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(face(14))
        metrics = QFontMetrics(face(14))
        wide = max(metrics.horizontalAdvance(each) for each in words) + 20
        high = metrics.height() * len(words) + 12
        x = min(self._pointer.x() + 16, self.width() - wide - 8)
        y = min(self._pointer.y() + 18, self.height() - high - 8)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self._t.dark_tag))
        painter.drawRoundedRect(QRectF(x, y, wide, high), 4, 4)
        painter.setPen(QPen(QColor(self._t.field)))
        for k, each in enumerate(words):
            at = QRectF(x + 10, y + 6 + k * metrics.height(), wide, metrics.height())
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, each)

    def _pointed_words(self, frame: _Frame, top: int) -> list[str]:
        scene, at = frame.scene, self._pointer
        width, height = self._room()
        if at is None or frame.view != self.view or at.y() < top:
            return []
        rows, columns = frame.look.which.shape
        column = int(at.x() / width * columns)
        row = int((at.y() - top) / height * rows)
        if not (0 <= row < rows and 0 <= column < columns):
            return []
        place, which = place_at(frame.look, column, row), int(frame.look.which[row, column])
        if place is None:
            return []
        body, unit = int(scene.body[which]), self._session.job.unit
        size = " × ".join(
            format_length(each, unit, places=2, with_unit=False) for each in scene.sizes[body]
        )
        return [
            f"{scene.names[body]}  {size} {unit}",
            f"here {format_length(place[2], unit, places=2)} high",
        ]
