"""The keys: a picture of the block under the left hand, stage by stage, and the rest beside it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from draxet.ui.controls.slip_parts import button, label
from draxet.ui.look.icons import pixmap
from draxet.ui.look.style import face, px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.stage import Stage
from draxet.ui.shell.window_commands import TOOL_KEYS, Command

__all__ = ["KeysPage"]

_ACROSS = 5
_HELD = (
    ("Space", "held: move the view"),
    ("Wheel", "nearer, farther"),
    ("Alt", "held: pick freely"),
    ("Tab", "held: picture alone"),
    ("Shift+Tab", "held: contours alone"),
    ("Arrows", "move it, or the pointer"),
    ("Enter", "click, or the brass button"),
    ("Esc", "one step back"),
)


class KeysPage(QDialog):
    """Opens at a stage; its digits show another one."""

    def __init__(self, commands: Sequence[Command], stage: Stage, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.block = HandBlock(
            [command for command in commands if command.stage and not command.of], stage
        )
        whole = QHBoxLayout(self)
        whole.setContentsMargins(14, 14, 14, 14)
        whole.setSpacing(16)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(label("Under the left hand", "heading"))
        left.addWidget(
            label(
                "A digit opens a stage; the letters are its tools, as they stand on the card.",
                "quiet",
                wrap=True,
            )
        )
        left.addWidget(self.block)
        left.addStretch(1)
        whole.addLayout(left)
        right = QVBoxLayout()
        right.addWidget(label("Everywhere", "heading"))
        right.addLayout(self._rest(commands))
        right.addStretch(1)
        close = button("Close", "main", self.accept)
        close.setDefault(True)
        right.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
        whole.addLayout(right)

    @staticmethod
    def _rest(commands: Sequence[Command]) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(1)
        others = [
            command
            for command in commands
            if command.key and command.stage is None and not command.id.startswith("stage-")
        ]
        rows = [*_HELD, *((command.key, command.words.removesuffix(" …")) for command in others)]
        half = (len(rows) + 1) // 2
        for number, (key, words) in enumerate(rows):
            column, row = divmod(number, half)
            grid.addWidget(label(key, "value"), row, 2 * column, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(words, "quiet"), row, 2 * column + 1)
        return grid

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if (
            event is not None
            and event.text()
            and event.text() in "".join(str(int(stage)) for stage in Stage)
        ):
            self.block.show_stage(Stage.numbered(int(event.text())))
        else:
            super().keyPressEvent(event)


class HandBlock(QWidget):
    """Six digits over three rows of five keys, each key with the tool that lies on it."""

    def __init__(self, tools: Sequence[Command], stage: Stage) -> None:
        super().__init__()
        self._tools = tools
        self.stage = stage
        self._wide, self._high, self._gap, self._top = px(75), px(80), px(5), px(52)
        self.setFixedSize(
            _ACROSS * (self._wide + self._gap) + 2 * px(14),
            self._top + 3 * (self._high + self._gap),
        )
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.show_stage(stage)

    def show_stage(self, stage: Stage) -> None:
        """Show the tools of a stage."""
        self.stage = stage
        tools = ", ".join(f"{tool.key} {tool.words}" for tool in self.tools())
        self.setAccessibleName(f"{int(stage)} {stage.words}: {tools}")
        self.update()

    def tools(self) -> list[Command]:
        return [tool for tool in self._tools if tool.stage is self.stage]

    def _digit(self, stage: Stage) -> QRect:
        wide = (self.width() - self._gap * 5) // 6
        return QRect((int(stage) - 1) * (wide + self._gap) + 1, 1, wide - 1, self._top - px(8))

    def _key(self, place: int) -> QRect:
        row, column = divmod(place, _ACROSS)
        return QRect(
            row * px(14) + column * (self._wide + self._gap),
            self._top + row * (self._high + self._gap),
            self._wide,
            self._high,
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        for stage in Stage:
            if event is not None and self._digit(stage).contains(event.position().toPoint()):
                self.show_stage(stage)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for stage in Stage:
            self._paint_digit(painter, stage)
        tools = {tool.key: tool for tool in self.tools()}
        for place, key in enumerate(TOOL_KEYS):
            self._paint_key(painter, self._key(place), key, tools.get(key))
        painter.end()

    def _paint_digit(self, painter: QPainter, stage: Stage) -> None:
        box, on = self._digit(stage), stage is self.stage
        self._cap(
            painter,
            box,
            LIGHT.marking_blue if on else LIGHT.field,
            LIGHT.marking_blue if on else LIGHT.edge,
        )
        painter.setPen(QColor(LIGHT.card_text if on else LIGHT.graphite))
        painter.setFont(face(15, QFont.Weight.DemiBold))
        painter.drawText(
            box.adjusted(0, 3, 0, -box.height() // 2 + 2),
            Qt.AlignmentFlag.AlignCenter,
            str(int(stage)),
        )
        painter.setFont(face(14))
        painter.drawText(
            box.adjusted(0, box.height() // 2 - 2, 0, -3), Qt.AlignmentFlag.AlignCenter, stage.words
        )

    def _paint_key(self, painter: QPainter, box: QRect, key: str, tool: Command | None) -> None:
        self._cap(
            painter, box, LIGHT.field if tool else LIGHT.bar, LIGHT.edge if tool else LIGHT.line
        )
        painter.setPen(QColor(LIGHT.graphite if tool else LIGHT.quiet))
        painter.setFont(face(14, QFont.Weight.DemiBold))
        painter.drawText(
            box.adjusted(px(7), px(4), 0, 0),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop,
            key,
        )
        if tool is not None:
            painter.drawPixmap(
                box.right() - px(26), box.top() + px(5), pixmap(tool.icon, LIGHT.brass_text, px(20))
            )
            painter.setPen(QColor(LIGHT.graphite))
            painter.setFont(face(13))
            words = box.adjusted(px(5), px(28), -px(3), -px(3))
            painter.drawText(
                words,
                Qt.AlignmentFlag.AlignLeft
                | Qt.AlignmentFlag.AlignVCenter
                | Qt.TextFlag.TextWordWrap,
                tool.words.removesuffix(" …"),
            )

    @staticmethod
    def _cap(painter: QPainter, box: QRect, fill: str, edge: str) -> None:
        painter.setPen(QPen(QColor(edge), 1))
        painter.setBrush(QColor(fill))
        painter.drawRoundedRect(box, 5, 5)
