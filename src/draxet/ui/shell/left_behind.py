"""Work that a crash left behind is offered at the next start, with its time and its picture."""

from __future__ import annotations

import contextlib
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from draxet.geometry.arrays import NDArray
from draxet.job.file import JobFileError, OpenedJob
from draxet.job.recovery import LeftBehind, left_behind, read_left
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.controls.slip_parts import button, label
from draxet.ui.model.picture_store import to_qimage
from draxet.ui.model.session import Session
from draxet.ui.shell.autosave import Autosave, copies_folder

__all__ = ["Found", "LeftBehindChooser", "offer_left_behind"]

_SIDE = 96


@record(frozen=True, eq=False)
class Found:
    """A job that was left behind and a small picture of it."""

    left: LeftBehind
    opened: OpenedJob
    small: NDArray[Any]

    @property
    def words(self) -> str:
        job = self.opened.job
        when = time.strftime("%A %d %B, %H:%M", time.localtime(self.left.written))
        counts = [
            f"{len(things)} {what}{'s' * (len(things) != 1)}"
            for things, what in ((job.pictures, "picture"), (job.layout.contours, "contour"))
        ]
        return f"{job.name}\n{when}\n{' · '.join(counts)}"


def _look(report: Progress) -> list[Found]:
    from draxet.gather.load import PictureError, peek  # slow to load
    from draxet.gather.readable import with_readable_pictures

    found = []
    for left in left_behind(copies_folder()):
        report(0.5, "looking for unsaved work")
        with contextlib.suppress(JobFileError):
            opened = read_left(left.place)
            readable = with_readable_pictures(opened.job)
            opened = replace(opened, job=readable.job, remarks=(*opened.remarks, *readable.remarks))
            small: NDArray[Any] = np.full((_SIDE, _SIDE, 3), 240, np.uint8)
            for picture in opened.job.pictures[:1]:
                with contextlib.suppress(PictureError):
                    small = peek(picture.source, picture.name, _SIDE).small
            found.append(Found(left, opened, small))
    return found


def offer_left_behind(session: Session, autosave: Autosave, window: QWidget) -> None:
    """Look for work that was left behind, off the window's thread, and offer it."""

    def done(found: list[Found]) -> None:
        if found and session.document.history.is_saved:
            chooser = LeftBehindChooser(found, window)
            chooser.accepted.connect(lambda: take(chooser.chosen))
            chooser.finished.connect(chooser.deleteLater)
            chooser.open()

    def take(found: Found | None) -> None:
        if found is None:
            return
        kept = str(found.opened.desk.get("path") or "")
        session.start(
            found.opened.job, Path(kept) if kept else None, saved=False, desk=found.opened.desk
        )
        autosave.adopt(found.left.place)
        told = session.messages.lost if found.opened.remarks else session.messages.announced
        told.emit(
            ". ".join(
                [
                    f"{found.opened.job.name} is here as it was kept; it is not saved yet",
                    *found.opened.remarks,
                ]
            )
        )

    session.workers.run(
        "left behind",
        _look,
        done,
        lambda error: session.messages.refused.emit(
            f"Unsaved work could not be looked for: {error}"
        ),
        of_job=False,
    )


class LeftBehindChooser(QDialog):
    """Asks what is to become of work that was not saved."""

    def __init__(self, found: list[Found], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Work that was not saved")
        self.resize(560, 380)
        self._found = list(found)
        self.chosen: Found | None = None
        self.list = QListWidget()
        self.list.setIconSize(QSize(_SIDE, _SIDE))
        self.list.setSpacing(4)
        self.list.setAccessibleName("Work that was not saved")
        self.list.itemDoubleClicked.connect(lambda _: self._take())
        buttons = QHBoxLayout()
        buttons.addWidget(button("Throw it away", "plain", self._throw))
        buttons.addStretch(1)
        buttons.addWidget(button("Not now", "plain", self.reject))
        self.go = button("Open it", "main", self._take)
        self.go.setDefault(True)
        buttons.addWidget(self.go)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(18, 16, 18, 16)
        rows.setSpacing(10)
        rows.addWidget(label("Draxet ended before this work was saved", "heading"))
        rows.addWidget(
            label(
                "It was kept on the way. “Not now” offers it again at the next start.",
                "quiet",
                wrap=True,
            )
        )
        rows.addWidget(self.list)
        rows.addLayout(buttons)
        self._fill()

    def _fill(self) -> None:
        self.list.clear()
        for found in self._found:
            self.list.addItem(
                QListWidgetItem(QIcon(QPixmap.fromImage(to_qimage(found.small))), found.words)
            )
        self.list.setCurrentRow(0)

    def _take(self) -> None:
        self.chosen = self._found[max(self.list.currentRow(), 0)]
        self.accept()

    def _throw(self) -> None:
        self._found.pop(max(self.list.currentRow(), 0)).left.drop()
        if self._found:
            self._fill()
        else:
            self.reject()
