"""The file chooser for pictures and drawings, with a preview of what is under the bar."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QFileInfo, QSize, Qt
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QFileDialog, QFileIconProvider, QGridLayout, QLabel, QPushButton, QSplitter, QToolButton, QTreeView, QVBoxLayout, QWidget

from draxet.gather.load import Peek, peek
from draxet.progress import Progress
from draxet.ui.canvas.pictures import to_qimage
from draxet.ui.look.icons import icon
from draxet.ui.look.tokens import LIGHT
from draxet.ui.shell.fields import label, set_part
from draxet.ui.shell.workers import Workers

__all__ = ["PictureChooser"]

_SIDE = 220
_LARGEST = 600_000_000


class _Icons(QFileIconProvider):
    """Folders and files in our own line icons."""

    def icon(self, what: Any) -> QIcon:
        folder = what.isDir() if isinstance(what, QFileInfo) else what != QFileIconProvider.IconType.File
        return icon("folder" if folder else "picture", LIGHT.brass_text if folder else LIGHT.quiet)


class PictureChooser(QFileDialog):
    """Shows every readable kind at once; several can be chosen."""

    def __init__(self, pictures: tuple[str, ...], drawings: tuple[str, ...], workers: Workers, parent: QWidget) -> None:
        super().__init__(parent, "Choose a picture or a drawing")
        kinds = " ".join(f"*.{ending} *.{ending.upper()}" for ending in (*pictures, *drawings))
        self.setOption(QFileDialog.Option.DontUseNativeDialog)
        self.setOption(QFileDialog.Option.HideNameFilterDetails)
        self.setFileMode(QFileDialog.FileMode.ExistingFiles)
        self.setNameFilters([f"All that Draxet reads ({kinds})", "All files (*)"])
        self.resize(960, 560)
        self._workers, self._drawings = workers, drawings
        self.picture, self.words = QLabel(), label("Nothing chosen yet.", "quiet", wrap=True)
        self.picture.setFixedSize(QSize(_SIDE, _SIDE))
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        side = QWidget()
        rows = QVBoxLayout(side)
        rows.setContentsMargins(8, 0, 0, 0)
        rows.addWidget(label("Preview", "section"))
        rows.addWidget(self.picture)
        rows.addWidget(self.words)
        rows.addStretch(1)
        side.setFixedWidth(_SIDE + 16)
        grid = self.layout()
        if isinstance(grid, QGridLayout):
            grid.addWidget(side, 0, grid.columnCount(), grid.rowCount(), 1)
        self._provider = _Icons()
        self.setIconProvider(self._provider)
        self._dress()
        self.currentChanged.connect(self.look)

    def _dress(self) -> None:
        """The library's parts in the look of the rest."""
        for name, drawing in (("backButton", "back"), ("forwardButton", "onward"), ("toParentButton", "up")):
            part = self.findChild(QToolButton, name)
            if part is not None:
                part.setIcon(icon(drawing, LIGHT.graphite))
        for name in ("newFolderButton", "listModeButton", "detailModeButton"):
            part = self.findChild(QToolButton, name)
            if part is not None:
                part.hide()
        for made in self.findChildren(QPushButton):
            set_part(made, part="main" if made.isDefault() else "plain")
        for splitter in self.findChildren(QSplitter):
            splitter.setSizes([170, 520])
        for tree in self.findChildren(QTreeView):
            tree.hideColumn(2)
            tree.setColumnWidth(0, 260)
            tree.setColumnWidth(1, 90)

    def look(self, name: str) -> None:
        """Show a file small, with its size, or why it cannot be read."""
        path = Path(name)
        self.picture.clear()
        self.words.setText("")
        if not path.is_file():
            return
        if path.suffix.lower().lstrip(".") in self._drawings:
            self.words.setText(f"{path.name}\na drawing: comes in as contours")
            return

        def work(report: Progress) -> Peek:
            if path.stat().st_size > _LARGEST:
                raise ValueError(f"{path.name} is over {_LARGEST // 1_000_000} MB: no preview")
            return peek(path.read_bytes(), path.name)

        self._workers.run("preview", work, lambda found: self._show(path, found), lambda error: self.words.setText(str(error)))

    def _show(self, path: Path, found: Peek) -> None:
        self.picture.setPixmap(QPixmap.fromImage(to_qimage(found.small)))
        facts = [path.name, f"{found.width:,} × {found.height:,} px".replace(",", " ") if found.width else ""]
        facts += [f"{found.dpi:g} dpi" if found.dpi else "", f"{found.pages} pages" if found.pages > 1 else "", f"{path.stat().st_size / 1e6:.1f} MB"]
        self.words.setText("\n".join(fact for fact in facts if fact))

    def done(self, result: int) -> None:
        self._workers.cancel("preview")
        super().done(result)
