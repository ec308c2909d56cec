"""Which page? Thumbnails of a file's pages to choose from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from numpy.typing import NDArray
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from draxet.ui.canvas.pictures import to_qimage
from draxet.ui.shell.fields import button, label

__all__ = ["PageChooser"]


class PageChooser(QDialog):
    """Asks for one page; `page` is its number from 0."""

    def __init__(self, name: str, small: Sequence[NDArray[Any]], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Which page?")
        self.resize(640, 480)
        self.list = QListWidget()
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(QSize(150, 150))
        self.list.setGridSize(QSize(176, 196))
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        for number, pixels in enumerate(small, start=1):
            item = QListWidgetItem(QIcon(QPixmap.fromImage(to_qimage(pixels))), f"Page {number}")
            item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(button("Cancel", "plain", self.reject))
        buttons.addWidget(button("Bring in this page", "main", self.accept))
        rows = QVBoxLayout(self)
        rows.addWidget(label(f"{name} has {len(small)} pages. Which one is to be worked from?", "section"))
        rows.addWidget(self.list)
        rows.addLayout(buttons)

    @property
    def page(self) -> int:
        return max(0, self.list.currentRow())
