"""Which one? Thumbnails to choose from: a file's pages, pictures used lately."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from draxet.geometry.arrays import NDArray
from draxet.ui.controls.slip_parts import button, label
from draxet.ui.model.picture_store import to_qimage

__all__ = ["ThumbnailChooser"]


class ThumbnailChooser(QDialog):
    """Asks for one of several small pictures; `number` counts from 0."""

    def __init__(
        self,
        title: str,
        question: str,
        small: Sequence[tuple[NDArray[Any], str]],
        go: str,
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(640, 480)
        self.list = QListWidget()
        self.list.setAccessibleName(question)
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(QSize(150, 150))
        self.list.setGridSize(QSize(176, 196))
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        for pixels, words in small:
            item = QListWidgetItem(QIcon(QPixmap.fromImage(to_qimage(pixels))), words)
            item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter)
            item.setToolTip(words)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "plain", self.reject))
        buttons.addWidget(button(go, "main", self.accept))
        rows = QVBoxLayout(self)
        rows.addWidget(label(question, "section", wrap=True))
        rows.addWidget(self.list)
        rows.addLayout(buttons)

    @property
    def number(self) -> int:
        return max(0, self.list.currentRow())
