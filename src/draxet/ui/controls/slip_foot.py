"""The foot of a slip: what the slip is for, always seen, below all that scrolls."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from draxet.ui.controls.slip_parts import allow, label, rule, set_part

__all__ = ["SlipFoot"]


class SlipFoot(QWidget):
    """What the brass button will do, in numbers, or why it cannot; and the button, with what is
    pressed in its place."""

    def __init__(self) -> None:
        super().__init__()
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(18, 0, 18, 14)
        self._rows.setSpacing(8)
        self.words = label("", "quiet", wrap=True)
        self._rows.addWidget(rule())
        self._rows.addWidget(self.words)
        self._held: list[QWidget] = []
        self.words.hide()
        self.hide()

    def add(self, *widgets: QWidget) -> None:
        for widget in widgets:
            self._held.append(widget)
            self._rows.addWidget(widget)

    def offer(self, main: QPushButton, will: str, why_not: str = "") -> None:
        """The brass button will do that, or cannot be pressed, and that is why."""
        allow(main, not why_not, f"{why_not[:1].lower()}{why_not[1:]}")
        self.words.setText(why_not or will)
        set_part(self.words, part="brass" if why_not else "quiet")
        self.words.setVisible(bool(why_not or will) and not main.isHidden())

    def settle(self) -> None:
        """There is no foot where nothing stands in it."""
        self.setVisible(any(not widget.isHidden() for widget in self._held))

    @property
    def main(self) -> QPushButton | None:
        """The brass button that is seen where the slip is."""
        some = self.findChildren(QPushButton)
        brass = (each for each in some if each.property("part") == "main")
        return next((each for each in brass if each.isVisibleTo(self)), None)
