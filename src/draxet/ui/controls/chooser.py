"""The choosers of files: one look, and a preview of what is under the bar."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QFileInfo, Qt
from PyQt6.QtGui import QIcon, QImage, QPixmap
from PyQt6.QtWidgets import (
    QDialogButtonBox,
    QFileDialog,
    QFileIconProvider,
    QGridLayout,
    QLabel,
    QLineEdit,
    QSplitter,
    QToolButton,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from draxet.files import plain_words, reason
from draxet.gather.load import peek
from draxet.progress import Progress
from draxet.ui.controls.questions import ask
from draxet.ui.controls.slip_parts import label, set_part
from draxet.ui.look.icons import icon
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.picture_store import to_qimage
from draxet.ui.model.workers import Workers

__all__ = [
    "FileChooser",
    "JobChooser",
    "PictureChooser",
    "ask_where",
    "chosen_file",
    "text_of_file",
]

_SIDE = 220
_LARGEST, _LARGEST_TEXT = 600_000_000, 20_000_000
_LANE = "preview"
Shown = tuple[QImage, tuple[str, ...]]
"""What a preview shows: a small picture and lines of words."""


class _Icons(QFileIconProvider):
    """Folders and files in our own line icons."""

    def icon(self, what: Any) -> QIcon:
        folder = (
            what.isDir() if isinstance(what, QFileInfo) else what != QFileIconProvider.IconType.File
        )
        return icon("folder" if folder else "picture", LIGHT.brass_text if folder else LIGHT.quiet)


class FileChooser(QFileDialog):
    """The library's chooser in the look of the rest."""

    def __init__(self, title: str, filters: list[str], parent: QWidget) -> None:
        super().__init__(parent, title)
        self.setOption(QFileDialog.Option.DontUseNativeDialog)
        self.setOption(QFileDialog.Option.HideNameFilterDetails)
        self.setNameFilters(filters)
        screen = parent.window().size()  # type: ignore[union-attr]
        self.resize(
            min(px(960), max(screen.width() - 40, 640)),
            min(px(560), max(screen.height() - 40, 400)),
        )
        self._provider = _Icons()
        self.setIconProvider(self._provider)

    def dress(self) -> None:
        """Once its kind is settled: its parts as ours."""
        for name, drawing, words in (
            ("backButton", "back", "Back"),
            ("forwardButton", "onward", "Onward"),
            ("toParentButton", "up", "The folder above"),
        ):
            part = self.findChild(QToolButton, name)
            if part is not None:
                part.setIcon(icon(drawing, LIGHT.graphite))
                part.setToolTip(words)
                part.setAccessibleName(words)
        for name in ("newFolderButton", "listModeButton", "detailModeButton"):
            part = self.findChild(QToolButton, name)
            if part is not None:
                part.hide()
        for box in self.findChildren(QDialogButtonBox):
            for made in box.buttons():
                set_part(
                    made,
                    part="main"
                    if box.buttonRole(made) is QDialogButtonBox.ButtonRole.AcceptRole
                    else "plain",
                )
                made.setIcon(QIcon())
        for field in self.findChildren(QLineEdit):
            field.setAccessibleName("File name")
        for splitter in self.findChildren(QSplitter):
            splitter.setSizes([170, 520])
        for tree in self.findChildren(QTreeView):
            tree.hideColumn(2)
            tree.setColumnWidth(0, 260)
            tree.setColumnWidth(1, 90)
            if header := tree.header():
                header.setStretchLastSection(True)


class _Previewing(FileChooser):
    """A chooser that shows what a file holds."""

    def __init__(self, title: str, filters: list[str], workers: Workers, parent: QWidget) -> None:
        super().__init__(title, filters, parent)
        self._workers = workers
        self.picture, self.words = QLabel(), label("Nothing chosen yet.", "quiet", wrap=True)
        self.picture.setFixedSize(_SIDE, _SIDE)
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
        self.currentChanged.connect(self.look)

    def looking(self, path: Path) -> Callable[[], Shown] | str:
        """What makes the preview of a file, for a worker; or words where there is none."""
        raise NotImplementedError

    def look(self, name: str) -> None:
        """Show a file small, with what it holds, or why it cannot be read."""
        path = Path(name)
        self.picture.clear()
        self.words.setText("")
        if not path.is_file():
            return
        looking = self.looking(path)
        if isinstance(looking, str):
            self.words.setText(f"{path.name}\n{looking}")
            return

        def work(report: Progress) -> Shown:
            if path.stat().st_size > _LARGEST:
                raise ValueError(f"{path.name} is over {_LARGEST // 1_000_000} MB: no preview")
            return looking()

        self._workers.run(
            _LANE, work, self._show, lambda error: self.words.setText(str(error)), owner=self
        )

    def _show(self, shown: Shown) -> None:
        self.picture.setPixmap(QPixmap.fromImage(shown[0]))
        self.words.setText("\n".join(shown[1]))

    def done(self, result: int) -> None:
        self._workers.cancel(_LANE)
        super().done(result)


class PictureChooser(_Previewing):
    """Shows every readable kind at once; several can be chosen."""

    def __init__(
        self,
        pictures: tuple[str, ...],
        drawings: tuple[str, ...],
        workers: Workers,
        parent: QWidget,
    ) -> None:
        kinds = " ".join(f"*.{ending} *.{ending.upper()}" for ending in (*pictures, *drawings))
        super().__init__(
            "Choose a picture or a drawing",
            [f"All that Draxet reads ({kinds})", "All files (*)"],
            workers,
            parent,
        )
        self.setFileMode(QFileDialog.FileMode.ExistingFiles)
        self._drawings = drawings
        self.dress()

    def looking(self, path: Path) -> Callable[[], Shown] | str:
        if path.suffix.lower().lstrip(".") in self._drawings:
            return "a drawing: comes in as contours"

        def look() -> Shown:
            found = peek(path.read_bytes(), path.name)
            facts = [
                path.name,
                f"{found.width:,} × {found.height:,} px".replace(",", " ") if found.width else "",
            ]
            facts += [
                f"{found.dpi:g} dpi" if found.dpi else "",
                f"{found.pages} pages" if found.pages > 1 else "",
                f"{path.stat().st_size / 1e6:.1f} MB",
            ]
            return to_qimage(found.small), tuple(fact for fact in facts if fact)

        return look


class JobChooser(_Previewing):
    """Asks for a job; each one's picture is shown, and what it holds."""

    def __init__(self, workers: Workers, parent: QWidget) -> None:
        super().__init__("Open a job", ["Draxet jobs (*.draxet)", "All files (*)"], workers, parent)
        self.setFileMode(QFileDialog.FileMode.ExistingFile)
        self.setLabelText(QFileDialog.DialogLabel.Accept, "Open")
        self.dress()

    def looking(self, path: Path) -> Callable[[], Shown] | str:
        from draxet.ui.controls.previews import preview_of  # reading jobs: slow to load

        def look() -> Shown:
            found = preview_of(path, _SIDE, _SIDE)
            return found.image, (found.name, *found.facts)

        return look


def chosen_file(parent: QWidget, what: str, endings: str) -> Path | None:
    """One file that is there; None where that is given up."""
    chooser = FileChooser(f"{what} from a file", [f"{what} ({endings})"], parent)
    chooser.setFileMode(QFileDialog.FileMode.ExistingFile)
    chooser.dress()
    return Path(chooser.selectedFiles()[0]) if chooser.exec() and chooser.selectedFiles() else None


def text_of_file(path: Path) -> str:
    """What a small file of words holds.

    Raises
    ------
    ValueError : with one sentence where it cannot be read.
    """
    try:
        if path.stat().st_size <= _LARGEST_TEXT:
            return path.read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise ValueError(f"{path.name} could not be read: {reason(error)}") from error
    raise ValueError(f"{path.name} is too large for such a file; choose one that was exported here")


def ask_where(parent: QWidget, title: str, suggested: Path, ending: str, what: str) -> Path | None:
    """A path with the ending, or None where that is given up; whether another file there may be
    replaced has been asked.

    Parameters
    ----------
    ending : without a point; added where none is typed. what : the kind of file, in words.
    """
    chooser = FileChooser(title, [f"{what} (*.{ending})"], parent)
    chooser.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    chooser.setOption(QFileDialog.Option.DontConfirmOverwrite)
    chooser.setDirectory(str(suggested.absolute().parent))
    chooser.selectFile(plain_words(suggested.name).replace("/", "-"))
    chooser.dress()
    if not chooser.exec() or not chooser.selectedFiles():
        return None
    path = Path(chooser.selectedFiles()[0])
    path = path if path.suffix.lower() == f".{ending}" else path.with_name(f"{path.name}.{ending}")
    return (
        path
        if not path.exists()
        or ask(
            parent,
            "Replace it?",
            f"{path.name} is there already.",
            "",
            (("replace", "Replace it"),),
            "Cancel",
        )
        else None
    )
