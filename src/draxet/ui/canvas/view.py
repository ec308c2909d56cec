"""The canvas: what it shows, and how pointer and keys reach the tool in hand."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from draxet.job.find import picture_under
from draxet.ui.canvas.following import EdgeFollower
from draxet.ui.canvas.painted_canvas import PaintedCanvas
from draxet.ui.canvas.reader import announce, are_canvases
from draxet.ui.canvas.rulers import ruler
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import Pointer, Tool

__all__ = ["Canvas"]

_STEER_PX = 2.0
_DIGITS = "0123456789.(-"
_ARROWS = {0x01000012: (-1, 0), 0x01000013: (0, 1), 0x01000014: (1, 0), 0x01000015: (0, -1)}
"""Left, up, right, down, as numbers: naming one key makes Qt's whole list of them, which the
window's start need not wait for."""
_NAMED = {"\b": "Backspace", "\t": "Tab", "\r": "Enter", "\n": "Enter", "\x1b": "Escape"}
_ELSEWHERE = (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason)
"""Where a menu or another window comes up a key that is held, its end is not told here."""


class Canvas(PaintedCanvas):
    """Passes what the pointer and the keys do to the tool in hand."""

    asked_menu = pyqtSignal(QPointF, object)
    guide_pulled = pyqtSignal(float, float, float)

    def __init__(self, session: Session, tokens: Tokens, parent: QWidget | None = None) -> None:
        are_canvases(Canvas)
        super().__init__(session, tokens, parent)
        self._pan_from: QPointF | None = None
        self._space = False
        self._greeted: Tool | None = None
        self._follower = EdgeFollower(self, self._follow)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.say("")
        session.tool_changed.connect(self._greet_tool)
        session.document.ending.connect(self._drop_guide)

    def say(self, words: str, urgent: bool = False) -> None:
        """Have it read out: what has the keys is heard as its name changes; where the canvas has
        them not, it is announced."""
        name = f"Canvas: {words}" if words else "Canvas"
        if name != self.accessibleName():
            self.setAccessibleName(name)
            if words and not self.hasFocus():
                announce(self, words, urgent=urgent)

    def describe(self, words: str) -> None:
        """Say what it shows, and how one leaves it."""
        if words != self.accessibleDescription():
            self.setAccessibleDescription(words)

    # --- the pointer

    def _at(self, event: QMouseEvent) -> Pointer:
        self._pointer, self._steered = (event.position().x(), event.position().y()), False
        return self._pointed(event.modifiers())

    def _pointed(self, held: Qt.KeyboardModifier) -> Pointer:
        """Where the pointer is, as tools want it."""
        x, y = self.camera.job(*(self._pointer or (0.0, 0.0)))
        free, adds, edge = (
            bool(held & key)
            for key in (
                Qt.KeyboardModifier.AltModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.ControlModifier,
            )
        )
        return Pointer(x, y, 1.0 / self.camera.zoom, free, adds, edge)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton or (
            self._space and event.button() == Qt.MouseButton.LeftButton
        ):
            self._pan_from = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton and self._on_ruler(event.position()):
            self._pull_guide(event.position(), begin=True)
        elif event.button() == Qt.MouseButton.LeftButton and self._session.desk.beside:
            self._session.messages.refused.emit(
                "The picture is shown beside its contours; bring it back to its place first (F7)."
            )
        elif event.button() == Qt.MouseButton.LeftButton and self._session.tool:
            self._session.tool.press(self._at(event))
            self._session.marks_changed.emit()
        elif (
            event.button() == Qt.MouseButton.LeftButton and self._session.desk.stage is Stage.GATHER
        ):
            self._take_in_hand(self._at(event))
        elif event.button() == Qt.MouseButton.RightButton:
            self.asked_menu.emit(event.globalPosition(), self._at(event))

    def _take_in_hand(self, at: Pointer) -> None:
        """A click on a bare picture takes that in hand."""
        picture = picture_under(self._session.job.pictures, at.x, at.y)
        if picture is not None:
            self._session.selection.choose_picture(picture.id)

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
        self.show_anew()

    def _drop_guide(self) -> None:
        """The guide that is being pulled is given up."""
        self._pulled = None
        self.show_anew()

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
        drawing = (
            self._session.tool is not None and self._session.tool.follows and not self._steered
        )
        broad = float(ruler())
        inner = (
            (self._pointer[0] - broad, self._pointer[1] - broad)
            if drawing and self._pointer
            else None
        )
        self._follower.look(inner, (self.width() - broad, self.height() - broad))
        self.pointed.emit()
        self.show_anew()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pan_from is not None and event.button() in (
            Qt.MouseButton.MiddleButton,
            Qt.MouseButton.LeftButton,
        ):
            self._pan_from = None
            self.unsetCursor()
        elif self._pulled is not None:
            (x, y, angle), self._pulled = self._pulled, None
            if not self._on_ruler(event.position()):  # let go on the ruler: no guide
                self.guide_pulled.emit(x, y, angle)
            self.show_anew()
        elif event.button() == Qt.MouseButton.LeftButton and self._session.tool:
            self._session.tool.release(self._at(event))
            self._session.marks_changed.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        at = event.position()
        self.zoom_by(1.2 ** (event.angleDelta().y() / 120), at.x(), at.y())

    def leaveEvent(self, event: QEvent | None) -> None:
        self._follower.look(None, (1.0, 1.0))
        if not self._steered:
            self._pointer = None
        self.pointed.emit()
        self.show_anew()

    # --- keys

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent):
            if (
                event.type() == QEvent.Type.KeyPress
                and event.key() == Qt.Key.Key_Escape
                and self._pulled is not None
            ):
                self._drop_guide()
                return True
            if self._is_tools(event):
                if event.type() == QEvent.Type.KeyPress and self._session.tool:
                    self._session.tool.key(_key_name(event))
                event.accept()
                return True
            if (
                event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
                and not self._session.document.is_empty
            ):  # Tab held shows the picture alone, with Shift the contours
                if not event.isAutoRepeat():
                    back = event.key() == Qt.Key.Key_Backtab or bool(
                        event.modifiers() & Qt.KeyboardModifier.ShiftModifier
                    )
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
            self.show_anew()

    def _is_tools(self, event: QKeyEvent) -> bool:
        """Whether a key goes to the tool before anything else."""
        plain = not event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        )
        pressed = event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
        key = _key_name(event)
        if (
            key == "Enter"
            and self._steered
            and self._session.tool
            and not self._session.tool.wants_key("Tab")
        ):
            return False  # it clicks where the arrow keys have brought the pointer, but for a number that is being typed
        return bool(
            self._session.tool
            and plain
            and pressed
            and key
            and not self._session.messages.is_reading
            and self._session.tool.wants_key(key)
        )

    def _is_number(self, event: QKeyEvent) -> bool:
        tool = self._session.tool
        plain = not event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        )
        return bool(
            tool and tool.wants_number and plain and event.text() and event.text() in _DIGITS
        )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        tool = self._session.tool
        if self._is_number(event):
            self._session.messages.number_typed.emit(event.text())
        elif event.key() == Qt.Key.Key_Space:
            if not event.isAutoRepeat():
                self._hold_to_pan()
        elif event.key() == Qt.Key.Key_Escape and self._session.messages.is_reading:
            self._session.messages.stop_asked.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self._step_back(tool)
        elif tool and self._is_for(tool, event):
            return
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self._session.messages.enter_pressed.emit()
        else:
            super().keyPressEvent(event)

    def _step_back(self, tool: Tool | None) -> None:
        """Esc: what is begun, then the tool, then what is in hand."""
        if self._session.large_edits.stop():
            self._session.messages.announced.emit("Left as it was")
        elif tool is None:
            self._session.selection.lay_down()
        elif tool.holds and tool.cancel():
            pass
        elif self._session.stop_tool():
            self._session.messages.announced.emit("Stopped; take the tool once more to begin anew")
            self._session.desk.view_changed.emit()
        elif not tool.cancel():
            self._session.take_tool("", None)
        self._session.marks_changed.emit()

    def _hold_to_pan(self) -> None:
        """Space is held: the pointer moves the view."""
        self._space = True
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def watch_focus(self, before: QWidget | None, now: QWidget | None) -> None:
        """Space is for what has the focus; but held there, with a button pressed over the canvas, it
        moves the view."""
        if before is not None and before is not self:
            before.removeEventFilter(self)
        if now is not None and now is not self:
            self._space = False
            now.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Space:
            if event.type() == QEvent.Type.KeyPress:
                self._space = True
            elif event.type() == QEvent.Type.KeyRelease and not event.isAutoRepeat():
                self._space = False
        elif isinstance(event, QFocusEvent) and event.reason() in _ELSEWHERE:
            self._space = False
        return super().eventFilter(watched, event)

    def _is_for(self, tool: Tool, event: QKeyEvent) -> bool:
        """Pass a key to the tool; whether it took it."""
        if event.key() in _ARROWS:
            if not event.isAutoRepeat():
                self._session.desk.nudge_gesture = object()
            return tool.nudge(*_nudge(event, self._session.desk.nudge_mm)) or self._steer(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return self._click_steered(tool) or tool.enter()
        return event.key() == Qt.Key.Key_Delete and tool.remove()

    def _steer(self, event: QKeyEvent) -> bool:
        """Arrow keys that the tool has no use for move the pointer: two pixels, with Shift twenty,
        with Ctrl a half."""
        dx, dy = _nudge(event, _STEER_PX)
        x, y = self._pointer or (self.width() / 2, self.height() / 2)
        self._pointer, self._steered = (
            (
                min(max(x + dx, 0.0), float(self.width())),
                min(max(y - dy, 0.0), float(self.height())),
            ),
            True,
        )
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


def _key_name(event: QKeyEvent) -> str:
    """A key as tools know it; empty for one that they do not."""
    text = event.text()
    return _NAMED.get(text) or (text if len(text) == 1 and text.isprintable() else "")


def _nudge(event: QKeyEvent, step: float) -> tuple[float, float]:
    """How far an arrow key moves: a step, with Shift ten, with Ctrl a tenth of one."""
    held = event.modifiers()
    step *= (
        10
        if held & Qt.KeyboardModifier.ShiftModifier
        else 0.1
        if held & Qt.KeyboardModifier.ControlModifier
        else 1
    )
    dx, dy = _ARROWS[event.key()]
    return dx * step, dy * step
