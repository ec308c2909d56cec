"""The canvas's top line: what the next click does, what was just done, or why something was refused."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QWidget

from draxet.ui.canvas.tool import Prompt
from draxet.ui.look.icons import pixmap
from draxet.ui.look.tokens import Tokens
from draxet.ui.shell.fields import label, set_part

__all__ = ["TopLine"]

_MESSAGE_MS = 6000


class TopLine(QWidget):
    """One line of words; a refusal or a message gives way to the prompt after some seconds or at the next step."""

    def __init__(self, tokens: Tokens) -> None:
        super().__init__()
        self.setObjectName("top-line")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(40)
        self._t = tokens
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(10)
        self._sign = QLabel()
        self.words = label("", "wait")
        self.hint = label("", "hint")
        for words in (self.words, self.hint):
            words.setMinimumWidth(1)  # long words are cut, never the window widened; the tip has them whole
        row.addWidget(self._sign)
        row.addWidget(self.words)
        row.addWidget(self.hint, 1)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(120)
        self.bar.setAccessibleName("How far the file is read")
        self.doing = label("", "hint")
        row.addWidget(self.doing)
        row.addWidget(self.bar)
        self.read("", 0.0)
        self._prompt = Prompt("")
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
        self._sign.setPixmap(pixmap(sign, colour, 18))
        self.words.setText(words)
        self.words.setToolTip(words)
        self.hint.setText(hint)
        set_part(self.words, part=part)
