"""The canvas's top line: what the next click does, what was just done, or why something was refused."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QWidget

from draxet.ui.canvas.tool import Prompt
from draxet.ui.look.icons import pixmap
from draxet.ui.look.style import px
from draxet.ui.look.tokens import Tokens
from draxet.ui.shell.fields import label, set_part

__all__ = ["TopLine"]

_MESSAGE_MS = 6000
_HIGH = 44


class TopLine(QWidget):
    """What is said, in one line or two; the hint gives way where there is no room for it. A refusal or a message gives way to the
    prompt after some seconds or at the next step."""

    def __init__(self, tokens: Tokens) -> None:
        super().__init__()
        self.setObjectName("top-line")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(px(_HIGH))
        self._t = tokens
        self._row = row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(10)
        self._sign = QLabel()
        self.words = label("", "wait")
        self.hint = label("", "hint")
        row.addWidget(self._sign)
        row.addWidget(self.words)
        row.addWidget(self.hint)
        row.addStretch(1)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(px(80))
        self.bar.setAccessibleName("How far the file is read")
        self.doing = label("", "hint")
        row.addWidget(self.doing)
        row.addWidget(self.bar)
        self._prompt = Prompt("")
        self.read("", 0.0)
        self._back = QTimer(self)
        self._back.setSingleShot(True)
        self._back.setInterval(_MESSAGE_MS)
        self._back.timeout.connect(lambda: self.wait_for(self._prompt))

    def read(self, words: str, share: float) -> None:
        """Say how far a file is that is being read; no words where none is."""
        self.doing.setText(f"{words} · Esc stops" if words else "")
        self.bar.setValue(round(100 * share))
        for part in (self.doing, self.bar):
            part.setVisible(bool(words))
        self._fit()

    def wait_for(self, prompt: Prompt) -> None:
        """Say what is waited for."""
        self._back.stop()
        self._prompt = prompt
        self._show("pick", self._t.brass, prompt.waits, prompt.hint, "wait")

    def keep(self, prompt: Prompt) -> None:
        """Say what is waited for, but let a message that stands have its time."""
        if self._back.isActive():
            self._prompt = prompt
        else:
            self.wait_for(prompt)

    def say(self, words: str) -> None:
        """Say what was done."""
        self._show("tick", self._t.moss, words, "", "wait")
        self._back.start()

    def refuse(self, words: str) -> None:
        """Say why something cannot be done."""
        self._show("fault", self._t.coral, words, "", "refusal")
        self._back.start()

    def _show(self, sign: str, colour: str, words: str, hint: str, part: str) -> None:
        self._sign.setPixmap(pixmap(sign, colour, px(18)))
        self.words.setText(words)
        self.hint.setText(hint)
        set_part(self.words, part=part)
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def _fit(self) -> None:
        """Never cut the words: the hint gives way first, then they take two lines, then more."""
        row, words, hint = self._row, self.words.text(), self.hint.text()
        margins, taken = row.contentsMargins(), px(18) + row.spacing()
        for part in (self.doing, self.bar):
            taken += (part.sizeHint().width() + row.spacing()) if not part.isHidden() else 0
        room = max(self.width() - margins.left() - margins.right() - taken, 80)
        wide = self.words.fontMetrics().horizontalAdvance(words) + 2
        self.hint.setVisible(bool(hint) and wide + row.spacing() + self.hint.fontMetrics().horizontalAdvance(hint) + 2 <= room)
        self.words.setToolTip("" if not hint or self.hint.isVisibleTo(self) else f"{words}\n{hint}")
        self.words.setWordWrap(wide > room)
        self.words.setFixedWidth(min(wide, room))
        high = self.words.heightForWidth(room) if wide > room else 0
        self.setFixedHeight(max(px(_HIGH), high + 4))
