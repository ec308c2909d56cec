"""The route card: a row for each stage with its sign-off, the open stage unfolded with its
tools."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from draxet.ui.controls.pane import Pane
from draxet.ui.controls.slip_parts import label, set_part
from draxet.ui.look.icons import pixmap
from draxet.ui.look.style import face, px
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage
from draxet.ui.shell.signoffs import sign_offs
from draxet.ui.shell.window_commands import Command

__all__ = ["RouteCard", "ToolButton"]

_ROWS = ((36, 30), (32, 27), (26, 24))
"""Heights of a stage's row and of a tool's: the first that leave room for the longest list of
tools."""
_HEAD = 140
_FOLDED = 96
"""How wide it is folded to its keys."""


class ToolButton(QPushButton):
    """A tool on the card: its key in a small frame, its icon and its name. One that cannot be taken can
    be reached and pressed all the same, and says why."""

    def __init__(self, command: Command, tokens: Tokens, run: Callable[[Command], None]) -> None:
        super().__init__("")
        self.command, self._t, self.why_not = command, tokens, ""
        self.folded = False
        self.setProperty("part", "tool")
        self.setCheckable(True)
        self.setFixedHeight(px(30))
        self.setAccessibleName(command.words)
        self.setToolTip(f"{command.words} ({command.key})")
        self.clicked.connect(lambda: run(command))

    def refresh(self, *, in_hand: bool) -> None:
        """Show what is so now."""
        self.why_not = self.command.why_not()
        self.setChecked(in_hand)
        tip = self.why_not or f"{self.command.words} ({self.command.key})"
        if tip != self.toolTip():
            self.setToolTip(tip)
            self.setAccessibleDescription(self.why_not)
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        t, frame, high = self._t, px(20), self.height()
        colour = "#FFFFFF" if self.isChecked() else t.card_quiet if self.why_not else t.card_text
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(
            QPen(
                QColor(colour if self.isChecked() else t.card_quiet),
                1,
                Qt.PenStyle.DotLine if self.why_not else Qt.PenStyle.SolidLine,
            )
        )
        painter.drawRoundedRect(px(6), (high - frame) // 2, frame, frame, 3, 3)
        painter.setFont(face(13))
        painter.setPen(QColor(colour))
        painter.drawText(
            px(6), (high - frame) // 2, frame, frame, Qt.AlignmentFlag.AlignCenter, self.command.key
        )
        if self.command.icon:
            painter.drawPixmap(
                QPointF(px(34), (high - px(20)) / 2), pixmap(self.command.icon, colour, px(20))
            )
        if self.folded:
            painter.end()
            return
        painter.setFont(
            face(15, face(15).Weight.Medium if self.isChecked() else face(15).Weight.Normal)
        )
        painter.drawText(
            px(62),
            0,
            self.width() - px(62) - 4,
            high,
            Qt.AlignmentFlag.AlignVCenter,
            self.command.words,
        )
        painter.end()

    def sizeHint(self) -> QSize:
        return QSize(px(58 if self.folded else 200), px(30))


class _StageRow(QPushButton):
    """A stage on the card: its digit, its name, and whether it is signed off or what is left."""

    def __init__(self, stage: Stage, session: Session, tokens: Tokens) -> None:
        super().__init__()
        self.stage, self._t = stage, tokens
        self.setObjectName("stage-row")
        self.setFixedHeight(px(36))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: session.open_stage(stage))
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.addWidget(label(str(int(stage)), "quiet"))
        row.addSpacing(6)
        self._words = label(stage.words, "stage")
        row.addWidget(self._words)
        row.addStretch(1)
        self._note = QLabel()
        row.addWidget(self._note)
        for part in self.findChildren(QLabel):
            part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def fold(self, folded: bool) -> None:
        """Its digit alone, or words as well."""
        self._words.setVisible(not folded)
        self._note.setVisible(not folded)

    def refresh(self, *, opened: bool, done: bool, words: str) -> None:
        set_part(self, open="true" if opened else "false")
        said = "signed off" if done else words or "nothing to do yet"
        self.setAccessibleName(
            f"Stage {int(self.stage)}, {self.stage.words}{', open' if opened else ''}: {said}"
        )
        self.setToolTip(f"{self.stage.words}: {said}")
        self._note.clear()  # an empty text would leave the tick that stood there before
        if done:
            self._note.setPixmap(pixmap("tick", self._t.card_sound, px(18)))
        else:
            self._note.setText(words)
            set_part(self._note, part="note" if opened else "quiet")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)


class RouteCard(Pane):
    """The card at the window's left."""

    def __init__(
        self,
        session: Session,
        tools: Sequence[Command],
        tokens: Tokens,
        run: Callable[[Command], None],
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.whole_width, self._folded = px(tokens.card_width), False
        self.setFixedWidth(self.whole_width)
        self._session, self._t, self._run = session, tokens, run
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 34, 0, 8)
        whole.setSpacing(0)
        title = self._title = label("Route card", "title")
        title.setContentsMargins(20, 0, 0, 0)
        self._signed = label("", "quiet")
        self._signed.setContentsMargins(20, 0, 0, 8)
        whole.addWidget(title)
        whole.addWidget(self._signed)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QWidget()
        column.setObjectName("card-rows")
        rows = QVBoxLayout(column)
        rows.setContentsMargins(8, 0, 8, 0)
        rows.setSpacing(0)
        self._scroll.setWidget(column)
        whole.addWidget(self._scroll, 1)
        self._rows: dict[Stage, _StageRow] = {}
        self._folds: dict[Stage, QFrame] = {}
        self.buttons: dict[str, ToolButton] = {}
        self._fill(rows, tools)
        self._hint = label("Find a command  ·  Ctrl+K", "quiet")
        self._hint.setContentsMargins(20, 4, 0, 0)
        whole.addWidget(self._hint)
        self.left.connect(session.messages.canvas_asked)
        self._opened: Stage | None = None
        self._row_of = {tool.id: tool.of or tool.id for tool in tools}
        self.refresh()

    def fold(self, folded: bool) -> None:
        """Keys and icons alone, or words as well."""
        if folded == self._folded:
            return
        self._folded = folded
        self.setFixedWidth(px(_FOLDED) if folded else self.whole_width)
        for part in (self._title, self._signed, self._hint):
            part.setVisible(not folded)
        for row in self._rows.values():
            row.fold(folded)
        for each in self.buttons.values():
            each.folded = folded
            each.updateGeometry()
            each.update()

    def _fill(self, rows: QVBoxLayout, tools: Sequence[Command]) -> None:
        """A row for each stage, and its tools under it."""
        for stage in Stage:
            self._rows[stage] = _StageRow(stage, self._session, self._t)
            rows.addWidget(self._rows[stage])
            of_stage = [tool for tool in tools if tool.stage is stage and not tool.of]
            self._folds[stage] = self._fold(of_stage)
            rows.addWidget(self._folds[stage])
        rows.addStretch(1)

    def _fold(self, tools: Sequence[Command]) -> QFrame:
        fold = QFrame()
        fold.setObjectName("tools")
        group = QButtonGroup(fold)
        group.setExclusive(False)  # there may be no tool in hand
        column = QVBoxLayout(fold)
        column.setContentsMargins(9, 0, 12, 8)
        column.setSpacing(0)
        for tool in tools:
            self.buttons[tool.id] = ToolButton(tool, self._t, self._run)
            self.buttons[tool.id].setAutoExclusive(True)  # to whom it is read out
            group.addButton(self.buttons[tool.id])
            column.addWidget(self.buttons[tool.id])
        return fold

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)  # the card's ring hole
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(self._t.card_quiet), 1.2))
        painter.setBrush(QColor(self._t.bench))
        painter.drawEllipse(QPointF(self.width() / 2, 17), 6.5, 6.5)
        painter.end()

    def refresh(self) -> None:
        """Show what is so now."""
        signs = sign_offs(self._session.job, self._session.looked.findings)
        self._signed.setText(
            f"{sum(sign.done for sign in signs.values())} of {len(signs)} signed off"
        )
        for stage, row in self._rows.items():
            row.refresh(
                opened=stage is self._session.desk.stage,
                done=signs[stage].done,
                words=signs[stage].words,
            )
        for (
            stage,
            fold,
        ) in (
            self._folds.items()
        ):  # first fold, then unfold: two at once might need more height than there is
            if stage is not self._session.desk.stage:
                fold.hide()
        self._folds[self._session.desk.stage].show()
        if self._opened is not self._session.desk.stage:
            self._opened = self._session.desk.stage
            QTimer.singleShot(0, self._show_opened)  # once the rows have their places
        for button in self.buttons.values():
            button.refresh(in_hand=button.command.id == self._row_of.get(self._session.tool_id))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """On a low screen rows stand closer, so that a stage's tools are in sight without
        scrolling."""
        most = max(sum(b.command.stage is stage for b in self.buttons.values()) for stage in Stage)
        needed = [px(_HEAD) + len(self._rows) * px(row) + most * px(tool) for row, tool in _ROWS]
        number = next((k for k, high in enumerate(needed) if high <= self.height()), len(_ROWS) - 1)
        low = number == len(_ROWS) - 1
        for row in self._rows.values():
            row.setFixedHeight(px(_ROWS[number][0]))
        for button in self.buttons.values():
            button.setFixedHeight(px(_ROWS[number][1]))
        self._hint.setHidden(low or self._folded)
        self._signed.setHidden(low or self._folded)
        QTimer.singleShot(0, self._show_opened)

    def _show_opened(self) -> None:
        """The open stage and its tools in sight, where the window is low."""
        if self._opened is not None:
            self._scroll.ensureWidgetVisible(self._folds[self._opened], 0, 0)
            self._scroll.ensureWidgetVisible(self._rows[self._opened], 0, 0)

    def first(self, stops: list[QWidget]) -> QWidget:
        """The open stage's first tool, else its row."""
        opened = [
            b
            for b in self.buttons.values()
            if b.command.stage is self._session.desk.stage and b in stops
        ]
        return opened[0] if opened else self._rows[self._session.desk.stage]
