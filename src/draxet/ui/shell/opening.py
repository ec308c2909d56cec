"""Pictures and drawings into the window: choosing, dropping, pasting."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMimeData
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QWidget

from draxet.files import plain_words, reason
from draxet.gather.load import (
    ENDINGS,
    LoadedPicture,
    PictureError,
    may_take_long,
    pages_or_picture,
    peek,
)
from draxet.gather.place import arrival
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import NDArray
from draxet.job.dialect import PROGRAM_ENDINGS
from draxet.job.picture_edits import add_picture
from draxet.job.records import Job
from draxet.progress import Progress
from draxet.ui.controls.questions import ask
from draxet.ui.model.picture_store import Pyramid
from draxet.ui.model.reading import Reading
from draxet.ui.model.session import Session
from draxet.ui.shell.job_files import JobFiles

if TYPE_CHECKING:
    from draxet.formats.drawing import Drawing

__all__ = ["Opening", "can_take"]

DRAWING_ENDINGS = ("svg", "dxf")
STITCH_ENDINGS = ("dst", "exp", "pes", "jef", "vp3")
_CASCADE_MM = 15.0
_OF_SCREENS = (72, 96)
"""Dots an inch that pixels of screens and cameras claim, and nothing is known by."""
_LARGEST_FILE = 2_000_000_000
_FILE_UNITS = {
    "millimetres": 1.0,
    "centimetres": 10.0,
    "inches": 25.4,
    "pixels, 96 to the inch": 25.4 / 96,
}


def _bytes_of(path: Path) -> bytes:
    """A file's bytes. ValueError for what is no file (a folder, a device, a pipe) or larger than
    anything that can be read."""
    if not path.is_file():
        raise ValueError(
            "it is a folder"
            if path.is_dir()
            else "there is no such file"
            if not path.exists()
            else "it is no file"
        )
    if path.stat().st_size > _LARGEST_FILE:
        raise ValueError(f"it is over {_LARGEST_FILE // 1_000_000_000} GB")
    return path.read_bytes()


def can_take(data: QMimeData) -> bool:
    """Whether something can be done, or said, about what is dragged over the window."""
    return data.hasUrls() or data.hasImage() or data.hasText()


def _no_picture(data: QMimeData, where: str) -> str:
    """Why nothing comes of what was dropped or copied."""
    address = next((url.toString() for url in data.urls() if not url.isLocalFile()), data.text())
    if re.match(r"\s*https?://", address):
        return f"There is only a web address {where}, and Draxet fetches nothing: copy the picture itself, or save it and drop the file."
    return f"There is no picture {where}; copy one first, or drop a file."


def _naming(report: Progress, name: str) -> Progress:
    """Progress that says which file is being read where nothing else is said."""
    return lambda share, words: report(share, words or f"reading {name}")


class Opening:
    """What the window's commands for files do; a refusal is one sentence in the top line."""

    def __init__(self, session: Session, reading: Reading, jobs: JobFiles, window: QWidget) -> None:
        self._session, self._workers, self._reading, self._jobs, self._window = (
            session,
            session.workers,
            reading,
            jobs,
            window,
        )
        self._arrived = self._shots = 0
        self._aside: tuple[Drawing, float] | None = None
        session.document.ending.connect(self._end_job)

    def _end_job(self) -> None:
        self._aside = None

    # --- pictures

    def choose_picture(self) -> None:
        from draxet.ui.controls.chooser import PictureChooser

        chooser = PictureChooser(ENDINGS, DRAWING_ENDINGS, self._workers, self._window)
        if chooser.exec():
            self.open_files([Path(name) for name in chooser.selectedFiles()])

    def choose_recent(self) -> None:
        """Choose among the pictures used lately, by their thumbnails."""
        from draxet.ui.shell.recent import recent

        def work(report: Progress) -> list[tuple[Path, NDArray[Any]]]:
            small = []
            for path in recent("pictures"):
                with contextlib.suppress(PictureError, OSError):
                    small.append((path, peek(path.read_bytes(), path.name, 150).small))
            return small

        def done(found: list[tuple[Path, NDArray[Any]]]) -> None:
            if not found:
                self._session.messages.refused.emit(
                    "No pictures were used lately that are still where they were."
                )
                return
            from draxet.ui.shell.pages import ThumbnailChooser

            small = [(pixels, path.name) for path, pixels in found]
            chooser = ThumbnailChooser(
                "Recent pictures",
                "Which picture is to be worked from?",
                small,
                "Bring it in",
                self._window,
            )
            if chooser.exec():
                self.open_files([found[chooser.number][0]])

        self._workers.run("recent", work, done, self._reading.refuse)

    def take_from_camera(self) -> None:
        """Live view, capture, try the trace, capture again."""
        from draxet.ui.shell.camera_window import CameraWindow
        from draxet.ui.stages.trace.attempt import attempt_by
        from draxet.ui.stages.trace_settings import trace_settings

        attempt = attempt_by(trace_settings(self._session))
        camera = CameraWindow(self._workers, self._window, attempt)
        if camera.exec() and camera.taken:
            self._shots += 1
            self.take_picture(camera.taken, f"Camera shot {self._shots}.png", of_screen=True)

    def open_files(self, paths: Sequence[Path]) -> None:
        """Open what was dropped, chosen or named: a job, or pictures."""
        for path in paths:
            if path.suffix.lower() == ".draxet":
                self._jobs.open_job(path)
                return
        from draxet.gather.drawings import is_drawing  # readers of vector files: slow to load

        for path in paths:
            name = plain_words(path.name)
            try:
                data = _bytes_of(path)
            except (OSError, ValueError, MemoryError) as error:
                self._session.messages.refused.emit(f"{name} could not be read: {reason(error)}")
                continue
            if path.suffix.lower().removeprefix(".") in PROGRAM_ENDINGS:
                self._session.offer_program(name, data.decode("utf-8-sig", "replace"))
            elif path.suffix.lower().removeprefix(".") in STITCH_ENDINGS:
                self._play_stitches(data, name)
            elif is_drawing(data, name):
                self.take_drawing(data, name)
            else:
                self.take_picture(data, name)
                self._note_recent(path)

    def _play_stitches(self, data: bytes, name: str) -> None:
        """An embroidery file is played on the sheet's stitcher."""
        from draxet.formats.embroidery import read_embroidery, words_of  # slow to load
        from draxet.formats.layer import FormatError

        job = self._session.job
        machine = job.machine_of(job.sheet)
        if not machine.has("a_minute"):
            self._session.messages.refused.emit(
                f"{name} is for a stitcher, and the sheet is on the {machine.name.lower()}: choose a stitcher in Make, Machine, and drop it again."
            )
            return
        try:
            found = read_embroidery(data, name.rsplit(".", 1)[-1].lower(), name)
        except FormatError as error:
            self._session.messages.refused.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self._session.offer_program(name, words_of(found, machine.a_minute))
        if not found.has_end:
            self._session.messages.refused.emit(f"{name} breaks off: its end is missing.")

    @staticmethod
    def _note_recent(path: Path) -> None:
        from draxet.ui.shell.recent import note_recent

        note_recent("pictures", path)

    def take_drawing(self, data: bytes, name: str) -> None:
        """Read a vector file off the window's thread and put its contours into the job."""
        self._arrived += 1

        def work(report: Progress) -> Drawing:
            from draxet.gather.drawings import (  # readers of vector files: slow to load
                drawing_in_pieces,
                drawing_of_pieces,
            )

            report = _naming(report, name)
            return drawing_of_pieces(self._workers.apart(report, drawing_in_pieces, data, name))

        self._reading.read(
            f"drawing {self._arrived}",
            work,
            lambda drawing: self._place_drawing(name, drawing),
            in_turn=True,
        )

    def _place_drawing(self, name: str, drawing: Drawing) -> None:
        from draxet.gather.drawings import place_drawing

        unit = drawing.unit_mm if drawing.unit_mm is not None else self._ask_unit(name)
        if unit is None:
            self._session.messages.refused.emit(
                f"{name} was not brought in: without its unit nobody knows how large it is."
            )
            return
        self._aside = (drawing, unit) if drawing.aside else None
        aside = (
            [f"{drawing.aside_words} (Picture menu: Bring in what was left out)"]
            if drawing.aside
            else []
        )
        self._add_drawing(
            "bring in a drawing",
            place_drawing(self._session.job, drawing, unit),
            f"from {name}",
            [*aside, *drawing.remarks],
        )

    def bring_aside(self) -> None:
        """What was left out of the last drawing, after all."""
        from draxet.gather.drawings import place_aside

        if self._aside is None:
            self._session.messages.refused.emit(
                "Nothing was left out of a drawing that could be brought in."
            )
            return
        (drawing, unit), self._aside = self._aside, None
        self._add_drawing(
            "bring in what was left out",
            place_aside(self._session.job, drawing, unit),
            "that had been left out",
            [],
        )

    @property
    def has_aside(self) -> bool:
        return self._aside is not None

    def _add_drawing(self, step: str, job: Job, source: str, remarks: Sequence[str]) -> None:
        before = {item.id for item in self._session.layout.contours}
        self._session.edit(step, job)
        new = [item for item in self._session.layout.contours if item.id not in before]
        if not new:
            return  # it was refused, and that was said
        self._session.selection.choose({item.id for item in new})
        self._session.messages.fit_asked.emit()
        opened = sum(not item.contour.closed for item in new)
        facts = f"{len(new)} contour{'s' * (len(new) != 1)} {source}" + (
            f", {opened} open" if opened else ""
        )
        self._session.messages.announced.emit(". ".join([facts, *remarks]))

    def _ask_unit(self, name: str) -> float | None:
        """Ask what a file without units counts in; None where that is given up."""
        answers = [(words, words) for words in _FILE_UNITS]
        answer = ask(
            self._window,
            "Which unit?",
            f"{name} does not say what its numbers count.",
            "Choose what they mean:",
            answers,
            "Cancel",
        )
        return _FILE_UNITS.get(answer)

    def take_dropped(self, data: QMimeData) -> None:
        """Open what was dropped on the window: files, else pixels; a web address alone is refused."""
        if files := [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]:
            self.open_files(files)
        elif not self._take_pixels(data, "Dropped picture.png"):
            self._session.messages.refused.emit(_no_picture(data, "in what was dropped"))

    def paste_picture(self) -> None:
        board = QApplication.clipboard()
        data = (board.mimeData() if board else None) or QMimeData()
        if not self._take_pixels(data, "Pasted picture.png"):
            self._session.messages.refused.emit(_no_picture(data, "on the clipboard"))

    def _take_pixels(self, data: QMimeData, name: str) -> bool:
        """Bring in a picture that is no file; whether there is one. What such a one says of its
        resolution is the screen's."""
        image = data.imageData() if data.hasImage() else None
        if not isinstance(image, QImage) or image.isNull():
            return False
        store = QByteArray()
        buffer = QBuffer(store)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        image.save(buffer, "PNG")
        self.take_picture(bytes(store.data()), name, of_screen=True)
        return True

    def take_picture(
        self, data: bytes, name: str, page: int | None = None, *, of_screen: bool = False
    ) -> None:
        """Read a picture off the window's thread and place one copy of it; of several pages the one
        that is chosen. One `of_screen` has no resolution where it says that of screens."""
        self._arrived += 1

        def work(report: Progress) -> tuple[LoadedPicture, Pyramid] | list[NDArray[Any]]:
            report = _naming(report, name)
            report(0.1, "")
            found = (
                self._workers.apart_plainly(report, pages_or_picture, data, name, page)
                if may_take_long(data)
                else pages_or_picture(data, name, page)
            )
            if not isinstance(found, LoadedPicture):
                return list(found)
            if of_screen and found.dpi and round(found.dpi) in _OF_SCREENS:
                found = replace(found, dpi=None)
            return found, Pyramid.whole(found.pixels)

        def done(found: tuple[LoadedPicture, Pyramid] | list[NDArray[Any]]) -> None:
            if isinstance(found, list):
                self._choose_page(data, name, found)
            else:
                self._place(data, name, page or 0, *found)

        self._reading.read(f"picture {self._arrived}", work, done, in_turn=True)

    def _choose_page(self, data: bytes, name: str, small: list[NDArray[Any]]) -> None:
        from draxet.ui.shell.pages import ThumbnailChooser

        pages = [(pixels, f"Page {number}") for number, pixels in enumerate(small, start=1)]
        question = f"{name} has {len(small)} pages. Which one is to be worked from?"
        chooser = ThumbnailChooser(
            "Which page?", question, pages, "Bring in this page", self._window
        )
        if chooser.exec():
            self.take_picture(data, name, chooser.number)
        else:
            self._session.messages.refused.emit(f"{name} was not brought in: no page was chosen.")

    def _place(
        self, data: bytes, name: str, page: int, loaded: LoadedPicture, pyramid: Pyramid
    ) -> None:
        session = self._session
        placed = arrival(loaded.size, loaded.dpi, session.job.sheet)
        middles = {tuple(round(v, 3) for v in picture.middle) for picture in session.job.pictures}
        while (
            tuple(round(v, 3) for v in placed.point(loaded.size[0] / 2, loaded.size[1] / 2))
            in middles
        ):
            placed = placed.then(
                Affine.moved(_CASCADE_MM, -_CASCADE_MM)
            )  # not hidden behind, nor hiding, another one
        job, picture_id = add_picture(
            session.job, name, data, loaded.size, placed, loaded.dpi, page
        )
        session.pictures.put(job.picture_by_id[picture_id], pyramid)
        session.selection.choose(frozenset())  # the picture is in hand from now on
        session.selection.picture_id, session.selection.hands_empty = picture_id, False
        session.edit("bring in a picture", job)
        session.messages.fit_asked.emit()
        session.messages.announced.emit(". ".join([f"{name} is here", *loaded.remarks]))
