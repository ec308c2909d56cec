"""The canvas's top line: what the next click does, what was just done, or why something was
refused."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLayout, QProgressBar, QWidget

from draxet.ui.controls.slip_parts import button, label, set_part
from draxet.ui.look.icons import pixmap
from draxet.ui.look.style import face, px
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.tool import Prompt

__all__ = ["OFFER_KEY", "KeyCaps", "TopLine"]

OFFER_KEY = "F12"

Keys = tuple[tuple[str, str], ...]

_SIGNS = {"pick": "waits", "tick": "done", "fault": "refused"}
_MESSAGE_MS = 6000
_HIGH = 44


class TopLine(QWidget):
    """What is said, in one line or two; the hint gives way where there is no room for it. A refusal
    or a message gives way to the prompt after some seconds or at the next step; what was lost is
    said until then, and so is what is offered."""

    taken = pyqtSignal()
    """What is offered is to be done."""
    offer_over = pyqtSignal()
    said = pyqtSignal(str, bool)
    """What stands there now, in words alone, and whether it was refused or lost."""

    def __init__(self, tokens: Tokens) -> None:
        super().__init__()
        self.setObjectName("top-line")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(px(_HIGH))
        self._t = tokens
        self._row = row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(10)
        row.setSizeConstraint(
            QLayout.SizeConstraint.SetNoConstraint
        )  # long words never hold the window broad
        self._sign = QLabel()
        self.words = label("", "wait")
        self.hint = label("", "hint")
        row.addWidget(self._sign)
        row.addWidget(self.words)
        row.addWidget(self.hint)
        self.keys = KeyCaps(tokens)
        self.take = button("", "plain", self.taken.emit)
        self.take.setToolTip(OFFER_KEY)
        row.addWidget(self.take)
        row.addWidget(self.keys)
        row.addStretch(1)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedWidth(px(80))
        self.bar.setAccessibleName("How far the file is read")
        self.doing = label("", "hint")
        self._stops = KeyCaps(tokens)
        self._stops.show_keys((("Esc", "stop"),))
        for part in (self.doing, self.bar, self._stops):
            row.addWidget(part)
        self._prompt = Prompt("")
        self._stays = False
        self.read("", 0.0)
        self._back = QTimer(self)
        self._back.setSingleShot(True)
        self._back.setInterval(_MESSAGE_MS)
        self._back.timeout.connect(lambda: self.wait_for(self._prompt))

    def read(self, words: str, share: float) -> None:
        """Say how far a file is that is being read; no words where none is."""
        if words and words != self.doing.text():
            self.said.emit(f"{words}. Esc stops it", False)
        self.doing.setText(words)
        self.bar.setValue(round(100 * share))
        for part in (self.doing, self.bar, self._stops):
            part.setVisible(bool(words))
        self._fit()

    def wait_for(self, prompt: Prompt) -> None:
        """Say what is waited for."""
        self._back.stop()
        self._prompt = prompt
        self._show("pick", self._t.brass, prompt.waits, prompt.hint, "wait", prompt.keys)

    def keep(self, prompt: Prompt) -> None:
        """Say what is waited for, but let a message that stands have its time."""
        if self._back.isActive() or self._stays:
            self._prompt = prompt
        else:
            self.wait_for(prompt)

    def say(self, words: str) -> None:
        """Say what was done."""
        self._show("tick", self._t.moss, words, "", "wait")
        self._back.start()

    def offer(self, words: str, label: str) -> None:
        """Say what could be done next, with a button that does it."""
        self._show("tick", self._t.moss, words, "", "wait", ((OFFER_KEY, ""),))
        self._back.stop()
        self._stays = True
        self.take.setText(label)
        self.take.show()
        self._fit()

    def refuse(self, words: str, keys: Keys = (), *, stays: bool = False) -> None:
        """Say why something cannot be done, and by which keys it can; or what must be seen, however
        long that takes."""
        self._show("fault", self._t.coral, words, "", "refusal", keys)
        self._stays = stays
        self._back.stop() if stays else self._back.start()

    def _show(
        self, sign: str, colour: str, words: str, hint: str, part: str, keys: Keys = ()
    ) -> None:
        self._stays = False
        self.take.hide()
        self.offer_over.emit()
        self._sign.setPixmap(pixmap(sign, colour, px(18)))
        self._sign.setAccessibleName(_SIGNS[sign])
        self.words.setText(words)
        self.hint.setText(hint)
        self.keys.show_keys(keys)
        set_part(self.words, part=part)
        self._fit()
        told = ", ".join(f"{key} {does}" for key, does in keys)
        self.said.emit(
            ". ".join(one.rstrip(".") for one in (words, hint, told) if one), part == "refusal"
        )

    def minimumSizeHint(self) -> QSize:
        return QSize(px(120), self.height())

    def sizeHint(self) -> QSize:
        return self.minimumSizeHint()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._fit()

    def _fit(self) -> None:
        """Never cut the words: the last keys give way first, then the hint; then they take two
        lines, then more."""
        row, words, hint = self._row, self.words.text(), self.hint.text()
        margins, taken = row.contentsMargins(), px(18) + row.spacing()
        for part in (self.take, self.doing, self.bar, self._stops):
            taken += (part.sizeHint().width() + row.spacing()) if not part.isHidden() else 0
        room = max(self.width() - margins.left() - margins.right() - taken, 80)
        wide = self.words.fontMetrics().horizontalAdvance(words) + 2
        left = room - wide
        hint_wide = row.spacing() + self.hint.fontMetrics().horizontalAdvance(hint) + 2
        with_hint = bool(hint) and hint_wide <= left
        fitting = self.keys.show_within(left - row.spacing() - (hint_wide if with_hint else 0))
        self.keys.setVisible(fitting > 0)
        self.hint.setVisible(with_hint)
        rest = [] if with_hint or not hint else [hint]
        rest += [f"{key}: {does}" for key, does in self.keys.keys[fitting:]]
        self.words.setToolTip("\n".join([words, *rest]) if rest else "")
        self.words.setWordWrap(wide > room)
        self.words.setFixedWidth(min(wide, room))
        high = self.words.heightForWidth(room) if wide > room else 0
        self.setFixedHeight(max(px(_HIGH), high + 4))


class KeyCaps(QWidget):
    """Keys that act now, each with what it does."""

    def __init__(self, tokens: Tokens) -> None:
        super().__init__()
        self._t = tokens
        self.keys: Keys = ()
        self._fitting = 0

    def show_keys(self, keys: Keys) -> None:
        """All of some keys."""
        self.keys, self._fitting = keys, len(keys)
        self.setAccessibleName(", ".join(f"{key}: {does}" for key, does in keys))
        self.setFixedSize(self.sizeHint())
        self.update()

    def show_within(self, room: int) -> int:
        """As many of them as have room, the first ones first; how many that is."""
        words = QFontMetrics(face(14))
        ends = [
            at + words.horizontalAdvance(does) + 2
            for (_, does), (_, _, at) in zip(self.keys, self._places(), strict=True)
        ]
        self._fitting = sum(end <= room for end in ends)
        self.setFixedSize(ends[self._fitting - 1] if self._fitting else 0, px(22))
        self.update()
        return self._fitting

    def _places(self) -> list[tuple[int, int, int]]:
        """Of each key: where its cap begins, how broad it is, and where its words begin."""
        places, x = [], 0
        cap, words = QFontMetrics(face(13)), QFontMetrics(face(14))
        for key, does in self.keys:
            broad = cap.horizontalAdvance(key) + px(12)
            places.append((x, broad, x + broad + px(5)))
            x += broad + px(5) + words.horizontalAdvance(does) + px(14)
        return places

    def sizeHint(self) -> QSize:
        if not self.keys:
            return QSize(0, px(20))
        return QSize(
            self._places()[-1][2] + QFontMetrics(face(14)).horizontalAdvance(self.keys[-1][1]) + 2,
            px(22),
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = Qt.AlignmentFlag.AlignVCenter
        for (key, does), (x, broad, at) in list(zip(self.keys, self._places(), strict=True))[
            : self._fitting
        ]:
            painter.setPen(QPen(QColor(self._t.edge), 1))
            painter.drawRoundedRect(QRectF(x + 0.5, 1.5, broad - 1, self.height() - 3), 3, 3)
            painter.setPen(QColor(self._t.graphite))
            painter.setFont(face(13))
            painter.drawText(
                x, 0, broad, self.height(), middle | Qt.AlignmentFlag.AlignHCenter, key
            )
            painter.setPen(QColor(self._t.quiet))
            painter.setFont(face(14))
            painter.drawText(at, 0, self.width() - at, self.height(), middle, does)
        painter.end()
