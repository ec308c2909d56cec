"""The canvas: the sheet on the bench with its pictures and contours, and the tool's marks over them."""

from __future__ import annotations

import math
from collections.abc import Hashable

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from draxet.geometry.contour import Contour
from draxet.ui.canvas.camera import Camera
from draxet.ui.canvas.contours import ContourPainter
from draxet.ui.canvas.cuts import CutPainter
from draxet.ui.canvas.following import EdgeFollower, ViewsBefore
from draxet.ui.canvas.marks import note_marks, paint_marks, paint_steered
from draxet.ui.canvas.pictures import paint_awaited, paint_picture
from draxet.ui.canvas.rest import RestLayer
from draxet.ui.canvas.bench import paint_limit, paint_sheets
from draxet.ui.canvas.rulers import paint_rulers, paint_scale_bar, ruler
from draxet.ui.canvas.tool import ContourMark, LineMark, Mark, Pointer, SignMark, Tool
from draxet.ui.look.tokens import Tokens
from draxet.ui.shell.session import Session, Stage
from draxet.job.looks import open_ends
from draxet.units import format_length

__all__ = ["Canvas"]

_FLASH_MS = 450
_CHOSEN_PEN = 2.4
_HELPER_PEN = 1.3
_HALO_FROM = 0.1
"""From this strength of pictures on contours have a light edge, so that they are seen on dark ones."""
_STEER_PX = 2.0
_DIGITS = "0123456789.("
_ARROWS = {0x01000012: (-1, 0), 0x01000013: (0, 1), 0x01000014: (1, 0), 0x01000015: (0, -1)}
"""Left, up, right, down, as numbers: naming one key makes Qt's whole list of them, which the window's start need not wait for."""


_NAMED = {"\b": "Backspace", "\t": "Tab", "\r": "Enter", "\n": "Enter", "\x1b": "Escape"}


class Canvas(QWidget):
    """Shows a session's job and passes what the pointer does to the tool in hand."""

    pointed = pyqtSignal(float, float)
    asked_menu = pyqtSignal(QPointF, object)
    under_pointer = pyqtSignal(bool)
    guide_pulled = pyqtSignal(float, float, float)

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._t = session, tokens
        self.camera = Camera()
        self._rest, self._contours, self.cuts = RestLayer(), ContourPainter(), CutPainter()
        self._helpers = ContourPainter()
        self._over, self._chosen, self._beyond = RestLayer(clear=True), ContourPainter(), ContourPainter()
        self._pointer: tuple[float, float] | None = None
        self._pan_from: QPointF | None = None
        self._only = ""
        self._flash: tuple[Contour, ...] = ()
        self._fitted = False
        self._space = self._steered = False
        self._greeted: Tool | None = None
        self._pulled: tuple[float, float, float] | None = None
        self._follower, self._before = EdgeFollower(self, self._follow), ViewsBefore()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 240)
        self.setAccessibleName("Canvas")
        for signal in (session.job_changed, session.marks_changed, session.view_changed, session.selection_changed, session.tool_changed):
            signal.connect(self.update)
        session.tool_changed.connect(self._greet_tool)
        session.flashed.connect(self._start_flash)
        session.fit_asked.connect(self.fit_all)
        session.view_asked.connect(self.show_view)
        session.place_asked.connect(self.look_at)
        session.looked_changed.connect(self.update)
        session.job_ending.connect(self._drop_guide)
        session.job_ending.connect(self._before.forget)

    # --- the view

    def fit_all(self) -> None:
        """Show the sheet, the pictures and all contours."""
        self._fit(self.everything())

    def fit_selection(self) -> None:
        chosen = [item.contour.box for item in self._session.chosen()]
        self._fit(_around(chosen) if chosen else self.everything())

    def everything(self) -> tuple[float, float, float, float]:
        job = self._session.job
        boxes = [s.box for s in job.sheets] + [p.box for p in job.pictures] + [item.contour.box for item in job.contours]
        aside = self._aside()
        return _around(boxes + [(x0 + aside, y0, x1 + aside, y1) for x0, y0, x1, y1 in (p.box for p in job.pictures)] if aside else boxes)

    def _aside(self) -> float:
        """How far to the right pictures are shown of where they lie, in mm: 0 but while they stand beside the contours."""
        job = self._session.job
        if not (self._session.beside and job.pictures):
            return 0.0
        x0, _, x1, _ = _around([p.box for p in job.pictures] + [item.contour.box for item in job.contours])
        return 1.06 * (x1 - x0)

    def _fit(self, box: tuple[float, float, float, float]) -> None:
        broad = ruler()
        camera = Camera.fitted(box, self.width() - broad, self.height() - broad - 20)
        self._see(camera.panned(broad, broad), fitted=True)

    def show_view(self, x: float, y: float, zoom: float) -> None:
        """Show a place in the middle at a zoom (screen pixels a mm)."""
        self._see(Camera(zoom, round(self.width() / 2 - zoom * x), round(self.height() / 2 + zoom * y)))

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
        self.update()

    def zoom_by(self, factor: float, x: float | None = None, y: float | None = None) -> None:
        self._see(self.camera.zoomed(factor, self.width() / 2 if x is None else x, self.height() / 2 if y is None else y))

    def pan_by(self, dx: float, dy: float) -> None:
        self._see(self.camera.panned(dx, dy))

    def look_at(self, x: float, y: float) -> None:
        """Bring a place into the middle."""
        vx, vy = self.camera.view(x, y)
        self.pan_by(self.width() / 2 - vx, self.height() / 2 - vy)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self._fitted or self.camera == Camera():
            self.fit_all()

    # --- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        session = self._session
        tool = session.tool
        hidden = tool.hidden() if tool else frozenset()
        show_contours = self._only != "picture"
        items = session.shown_contours if show_contours else ()
        self._contours.show(tuple(item for item in items if item.id not in hidden) if hidden else items)
        self._helpers.show(session.job.helpers if show_contours else ())
        strength = 1.0 if self._only == "picture" else 0.0 if self._only == "contours" else session.strength
        state: Hashable = (
            tuple((p.id, p.to_job, p.visible, p.strength, p.square, p.steps, session.pictures.ready(p), session.pictures.decoded(p)) for p in session.job.pictures), session.job.sheets,
            session.job.sheet_id, id(session.job.limit), session.beside, strength, session.stage, session.ink_below, tuple(map(id, items)), tuple(map(id, session.job.helpers)), hidden, id(self.cuts.bands), self._only,
        )  # fmt: skip
        image = self._rest.image(self.size(), self.devicePixelRatioF(), self.camera, state, self._paint_rest)
        painter = QPainter(self)
        painter.drawImage(0, 0, image)
        if show_contours:
            self._paint_live(painter)
        paint_scale_bar(painter, self.height(), self.camera, session.job.unit, self._t)
        if self._steered and self._pointer:
            paint_steered(painter, self._pointer, self._t)
        paint_rulers(painter, self.width(), self.height(), self.camera, session.job.sheet.origin_place, session.job.unit, self._pointer, self._t)
        painter.end()

    def _paint_rest(self, painter: QPainter, clip: QRectF) -> None:
        session, t, to_view = self._session, self._t, self.camera.to_view()
        painter.fillRect(clip, QColor(t.bench))
        paint_sheets(painter, session.job, self.camera, clip, t)
        self._paint_pictures(painter, self.camera, clip, self._strength())
        if session.ink_below is not None and session.picture is not None and self._only != "contours" and session.pictures.decoded(session.picture):
            picture = session.picture
            paint_picture(painter, picture, session.pictures.shown(picture)[0], to_view, clip, 1.0, session.ink_below)
        if self._only != "picture":
            if session.stage in (Stage.MAKE, Stage.PROVE):
                self.cuts.paint(painter, to_view, clip, t)
            halo = t.halo if self._strength() > _HALO_FROM and any(p.visible for p in session.job.pictures) else ""
            self._helpers.paint(painter, to_view, clip, t.quiet, _HELPER_PEN, halo=halo, dashed=True)
            self._contours.paint(painter, to_view, clip, t.marking_blue, halo=halo)
        paint_limit(painter, session.job, self.camera, t)

    def _strength(self) -> float:
        return {"picture": 1.0, "contours": 0.0}.get(self._only, self._session.strength)

    def _paint_pictures(self, painter: QPainter, camera: Camera, clip: QRectF, strength: float) -> None:
        if self._session.beside:
            strength = 1.0
            camera = Camera(camera.zoom, camera.dx + self._aside() * camera.zoom, camera.dy)
        if strength <= 0:
            return
        for picture in self._session.job.pictures:
            if picture.visible and not self._session.pictures.decoded(picture):
                paint_awaited(painter, picture, camera.to_view(), self._t)
            elif picture.visible:
                shown, _ = self._session.pictures.shown(picture)
                paint_picture(painter, picture, shown, camera.to_view(), clip, strength * (1.0 if self._only else picture.strength))

    def _paint_lens(self, painter: QPainter, camera: Camera, clip: QRectF) -> None:
        self._paint_pictures(painter, camera, clip, 1.0)

    def _paint_live(self, painter: QPainter) -> None:
        session = self._session
        marks: list[Mark] = [SignMark(x, y, "open") for contour, x, y in open_ends(session.job) if contour not in session.hidden]
        marks += [SignMark(point.x, point.y, "point") for point in session.job.points]
        for note in session.job.notes if session.stage is Stage.TRUE_UP else ():
            marks += note_marks(note)
        marks += [_guide_line(guide.x, guide.y, guide.angle, self.camera, self.width(), self.height()) for guide in session.job.guides]
        if self._pulled is not None:
            marks.append(_guide_line(*self._pulled, self.camera, self.width(), self.height()))
        self._paint_over(painter)
        if self._flash:
            marks.append(ContourMark(self._flash, "fault"))
        if session.tool:
            marks += session.tool.marks()
        paint_marks(painter, marks, self.camera, (self.width(), self.height()), self._t, self._paint_lens)
        if session.stage in (Stage.MAKE, Stage.PROVE) and session.job.operations:
            widths = sorted({operation.width for operation in session.job.operations})
            words = "cut, " + " and ".join(format_length(w, session.job.unit) for w in widths[:2]) + " wide"
            self.cuts.paint_tags(painter, session.job, self.camera, self._t)
            self.cuts.paint_legend(painter, session.job, (self.width(), self.height()), words, self._t)

    def _paint_over(self, painter: QPainter) -> None:
        """What is chosen and what lies beyond the limit, from a layer that is painted anew only where that changes."""
        session, by_id = self._session, self._session.job.contour_by_id
        hidden = session.tool.hidden() if session.tool else frozenset()
        self._chosen.show(tuple(item for item in session.chosen() if item.id not in hidden))
        beyond = next((finding.ids for finding in session.looked.findings if finding.kind == "outside-limit"), ())
        self._beyond.show(tuple(by_id[contour] for contour in beyond if contour in by_id and contour not in hidden))
        if self._chosen.shown or self._beyond.shown:
            state = (id(self._chosen.shown), id(self._beyond.shown))
            painter.drawImage(0, 0, self._over.image(self.size(), self.devicePixelRatioF(), self.camera, state, self._paint_over_part))

    def _paint_over_part(self, painter: QPainter, clip: QRectF) -> None:
        to_view = self.camera.to_view()
        self._chosen.paint(painter, to_view, clip, self._t.brass, _CHOSEN_PEN)
        self._beyond.paint(painter, to_view, clip, self._t.coral, _CHOSEN_PEN)

    def _start_flash(self, contours: tuple[Contour, ...]) -> None:
        self._flash = contours
        QTimer.singleShot(_FLASH_MS, self._end_flash)
        self.update()

    def _end_flash(self) -> None:
        self._flash = ()
        self.update()

    # --- the pointer

    def _at(self, event: QMouseEvent) -> Pointer:
        self._pointer, self._steered = (event.position().x(), event.position().y()), False
        return self._pointed(event.modifiers())

    def _pointed(self, held: Qt.KeyboardModifier) -> Pointer:
        """Where the pointer is, as tools want it."""
        x, y = self.camera.job(*(self._pointer or (0.0, 0.0)))
        free, adds = bool(held & Qt.KeyboardModifier.AltModifier), bool(held & Qt.KeyboardModifier.ShiftModifier)
        return Pointer(x, y, 1.0 / self.camera.zoom, free, adds)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton or (self._space and event.button() == Qt.MouseButton.LeftButton):
            self._pan_from = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton and self._on_ruler(event.position()):
            self._pull_guide(event.position(), begin=True)
        elif event.button() == Qt.MouseButton.LeftButton and self._session.beside:
            self._session.refused.emit("The picture is shown beside its contours; bring it back to its place first (F7).")
        elif event.button() == Qt.MouseButton.LeftButton and self._session.tool:
            self._session.tool.press(self._at(event))
            self._session.marks_changed.emit()
        elif event.button() == Qt.MouseButton.RightButton:
            self.asked_menu.emit(event.globalPosition(), self._at(event))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self._pointer = (at.x(), at.y())
        if self._pan_from is not None:
            self.pan_by(at.x() - self._pan_from.x(), at.y() - self._pan_from.y())
            self._pan_from = at
        elif self._pulled is not None:
            self._pull_guide(at)
        else:
            self._move_tool(self._at(event))

    def _on_ruler(self, at: QPointF) -> bool:
        return 0 <= at.x() < ruler() or 0 <= at.y() < ruler()

    def _pull_guide(self, at: QPointF, *, begin: bool = False) -> None:
        """A level guide comes from the upper ruler, an upright one from the left."""
        level = at.y() < ruler() if begin or self._pulled is None else self._pulled[2] == 0.0
        self._pulled = (*self.camera.job(at.x(), at.y()), 0.0 if level else 90.0)
        self.update()

    def _drop_guide(self) -> None:
        """The guide that is being pulled is given up."""
        self._pulled = None
        self.update()

    def _greet_tool(self) -> None:
        """A tool that is taken in hand learns where the pointer is, though that has not moved."""
        tool = self._session.tool
        if tool is not self._greeted:
            self._greeted = tool
            if tool is not None and self._pointer is not None:
                tool.move(self._pointed(Qt.KeyboardModifier.NoModifier))

    def _follow(self, dx: float, dy: float) -> None:
        """The view goes along with a pointer that rests near its edge."""
        self._see(self.camera.panned(dx, dy), leaves=False)
        self._move_tool(self._pointed(Qt.KeyboardModifier.NoModifier))

    def _move_tool(self, at: Pointer) -> None:
        if self._session.tool:
            self._session.tool.move(at)
        drawing = self._session.tool is not None and self._session.tool.follows and not self._steered
        broad = float(ruler())
        inner = (self._pointer[0] - broad, self._pointer[1] - broad) if drawing and self._pointer else None
        self._follower.look(inner, (self.width() - broad, self.height() - broad))
        self.pointed.emit(at.x, at.y)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan_from is not None and event.button() in (Qt.MouseButton.MiddleButton, Qt.MouseButton.LeftButton):
            self._pan_from = None
            self.unsetCursor()
        elif self._pulled is not None:
            (x, y, angle), self._pulled = self._pulled, None
            if not self._on_ruler(event.position()):  # let go on the ruler: no guide
                self.guide_pulled.emit(x, y, angle)
            self.update()
        elif event.button() == Qt.MouseButton.LeftButton and self._session.tool:
            self._session.tool.release(self._at(event))
            self._session.marks_changed.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        at = event.position()
        self.zoom_by(1.2 ** (event.angleDelta().y() / 120), at.x(), at.y())

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self.under_pointer.emit(True)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.under_pointer.emit(False)
        self._follower.look(None, (1.0, 1.0))
        if not self._steered:
            self._pointer = None
        self.update()

    # --- keys

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent):
            if event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape and self._pulled is not None:
                self._drop_guide()
                return True
            if self._is_tools(event):
                if event.type() == QEvent.Type.KeyPress and self._session.tool:
                    self._session.tool.key(_key_name(event))
                event.accept()
                return True
            if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab) and not self._session.is_empty:  # Tab held shows the picture alone, with Shift the contours
                if not event.isAutoRepeat():
                    back = event.key() == Qt.Key.Key_Backtab or bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                    pressed = event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
                    self._show_only(("contours" if back else "picture") if pressed else "")
                event.accept()
                return True
            if event.type() == QEvent.Type.ShortcutOverride and self._is_number(event):
                event.accept()
                return True
        return super().event(event)

    def _show_only(self, only: str) -> None:
        if only != self._only:
            self._only = only
            self.update()

    def _is_tools(self, event: QKeyEvent) -> bool:
        """Whether a key goes to the tool before anything else."""
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        pressed = event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
        key = _key_name(event)
        if key == "Enter" and self._steered and self._session.tool and not self._session.tool.wants_key("Tab"):
            return False  # it clicks where the arrow keys have brought the pointer, but for a number that is being typed
        return bool(self._session.tool and plain and pressed and key and not self._session.is_reading and self._session.tool.wants_key(key))

    def _is_number(self, event: QKeyEvent) -> bool:
        tool = self._session.tool
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        return bool(tool and tool.wants_number and plain and event.text() and event.text() in _DIGITS)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        tool = self._session.tool
        if self._is_number(event):
            self._session.number_typed.emit(event.text())
        elif event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self.hold_to_pan()
        elif event.key() == Qt.Key.Key_Escape and self._session.is_reading:
            self._session.stop_asked.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self._step_back(tool)
        elif tool and self._is_for(tool, event):
            return
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self._session.enter_pressed.emit()
        else:
            super().keyPressEvent(event)

    def _step_back(self, tool: Tool | None) -> None:
        """Esc: what is begun, then the tool, then what is in hand."""
        if tool is None:
            self._session.lay_down()
        elif not tool.cancel():
            self._session.take_tool("", None)
        self._session.marks_changed.emit()

    def hold_to_pan(self) -> None:
        """Space is held: the pointer moves the view."""
        self.setFocus()  # the key comes up here
        self._space = True
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def _is_for(self, tool: Tool, event: QKeyEvent) -> bool:
        """Pass a key to the tool; whether it took it."""
        if event.key() in _ARROWS:
            if not event.isAutoRepeat():
                self._session.nudge_gesture = object()
            return tool.nudge(*_nudge(event, self._session.nudge_mm)) or self._steer(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return self._click_steered(tool) or tool.enter()
        if event.key() == Qt.Key.Key_Delete:
            return tool.remove()
        return event.modifiers() == Qt.KeyboardModifier.NoModifier and tool.letter(event.text().upper())

    def _steer(self, event: QKeyEvent) -> bool:
        """Arrow keys that the tool has no use for move the pointer: two pixels, with Shift twenty, with Ctrl a half."""
        dx, dy = _nudge(event, _STEER_PX)
        x, y = self._pointer or (self.width() / 2, self.height() / 2)
        self._pointer, self._steered = (min(max(x + dx, 0.0), float(self.width())), min(max(y - dy, 0.0), float(self.height()))), True
        self._move_tool(self._pointed(Qt.KeyboardModifier.NoModifier))
        return True

    def _click_steered(self, tool: Tool) -> bool:
        """Enter clicks where the arrow keys have brought the pointer."""
        if not self._steered:
            return False
        at = self._pointed(Qt.KeyboardModifier.NoModifier)
        tool.press(at)
        tool.release(at)
        self._steered = False
        self._session.marks_changed.emit()
        return True

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.unsetCursor()
        else:
            super().keyReleaseEvent(event)

    def focusOutEvent(self, event: object) -> None:
        self._show_only("")
        self._space = False


def _guide_line(x: float, y: float, angle: float, camera: Camera, width: int, height: int) -> LineMark:
    """A guide as far as the view shows it."""
    turn = math.radians(angle)
    cx, cy = camera.job(width / 2, height / 2)
    far = (width + height) / camera.zoom
    along = (cx - x) * math.cos(turn) + (cy - y) * math.sin(turn)
    px, py = x + along * math.cos(turn), y + along * math.sin(turn)
    return LineMark(px - far * math.cos(turn), py - far * math.sin(turn), px + far * math.cos(turn), py + far * math.sin(turn), "guide")


def _key_name(event: QKeyEvent) -> str:
    """A key as tools know it; empty for one that they do not."""
    text = event.text()
    return _NAMED.get(text) or (text if len(text) == 1 and text.isprintable() else "")


def _nudge(event: QKeyEvent, step: float) -> tuple[float, float]:
    """How far an arrow key moves: a step, with Shift ten, with Ctrl a tenth of one."""
    held = event.modifiers()
    step *= 10 if held & Qt.KeyboardModifier.ShiftModifier else 0.1 if held & Qt.KeyboardModifier.ControlModifier else 1
    dx, dy = _ARROWS[event.key()]
    return dx * step, dy * step


def _around(boxes: list[tuple[float, float, float, float]]) -> tuple[float, float, float, float]:
    return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)
