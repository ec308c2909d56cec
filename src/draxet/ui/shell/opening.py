"""Pictures and jobs into and out of the window: choosing, dropping, pasting, opening and saving."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from numpy.typing import NDArray
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QWidget

from draxet.files import plain_words, reason
from draxet.formats.layer import FormatError
from draxet.gather.load import ENDINGS, LoadedPicture, PictureError, count_pages, peek, read_picture, thumbnails
from draxet.gather.place import arrival
from draxet.geometry.affine import Affine
from draxet.job.edits import add_picture, template_of
from draxet.job.records import Job
from draxet.progress import Progress
from draxet.ui.shell.choosing import ask_where
from draxet.ui.shell.session import Session
from draxet.ui.shell.workers import Workers

if TYPE_CHECKING:
    from draxet.formats.drawing import Drawing
    from draxet.gather.readable import ReadableJob
    from draxet.job.file import OpenedJob

__all__ = ["Opening"]

DRAWING_ENDINGS = ("svg", "dxf")
_CASCADE_MM = 15.0
_SAVE = "save"
_LARGEST_FILE = 2_000_000_000
_FILE_UNITS = (("millimetres", 1.0), ("centimetres", 10.0), ("inches", 25.4), ("pixels, 96 to the inch", 25.4 / 96))


def _bytes_of(path: Path) -> bytes:
    """A file's bytes. ValueError for what is no file (a folder, a device, a pipe) or larger than anything that can be read."""
    if not path.is_file():
        raise ValueError("it is a folder" if path.is_dir() else "there is no such file" if not path.exists() else "it is no file")
    if path.stat().st_size > _LARGEST_FILE:
        raise ValueError(f"it is over {_LARGEST_FILE // 1_000_000_000} GB")
    return path.read_bytes()


class Opening:
    """What the window's commands for files do; a refusal is one sentence in the top line."""

    def __init__(self, session: Session, workers: Workers, window: QWidget) -> None:
        self._session, self._workers, self._window = session, workers, window
        self._arrived = self._shots = 0
        self._lanes: list[str] = []
        self._aside: tuple[Drawing, float] | None = None
        session.job_ending.connect(self._end_job)
        self._save_next: tuple[Path, Callable[[], object] | None] | None = None

    def _end_job(self) -> None:
        self._lanes, self._aside = [], None
        self._session.say_reading("", 0.0)

    # --- pictures

    def choose_picture(self) -> None:
        from draxet.ui.shell.chooser import PictureChooser

        chooser = PictureChooser(ENDINGS, DRAWING_ENDINGS, self._workers, self._window)
        if chooser.exec():
            self.open_files([Path(name) for name in chooser.selectedFiles()])

    def choose_recent(self) -> None:
        """Choose among the pictures used lately, by their thumbnails."""
        from draxet.ui.shell.recent import recent_pictures

        def work(report: Progress) -> list[tuple[Path, NDArray[Any]]]:
            small = []
            for path in recent_pictures():
                with contextlib.suppress(PictureError, OSError):
                    small.append((path, peek(path.read_bytes(), path.name, 150).small))
            return small

        def done(found: list[tuple[Path, NDArray[Any]]]) -> None:
            if not found:
                self._session.refused.emit("No pictures were used lately that are still where they were.")
                return
            from draxet.ui.shell.pages import ThumbnailChooser

            small = [(pixels, path.name) for path, pixels in found]
            chooser = ThumbnailChooser("Recent pictures", "Which picture is to be worked from?", small, "Bring it in", self._window)
            if chooser.exec():
                self.open_files([found[chooser.number][0]])

        self._workers.run("recent", work, done, self._refuse)

    def take_from_camera(self) -> None:
        """Live view, capture, try the trace, capture again."""
        from draxet.ui.shell.camera import CameraWindow

        camera = CameraWindow(self._workers, self._window)
        if camera.exec() and camera.taken:
            self._shots += 1
            self.take_picture(camera.taken, f"Camera shot {self._shots}.png")

    def open_files(self, paths: Sequence[Path]) -> None:
        """Open what was dropped, chosen or named: a job, or pictures."""
        for path in paths:
            if path.suffix.lower() == ".draxet":
                self.open_job(path)
                return
        from draxet.gather.drawings import is_drawing  # readers of vector files: slow to load

        for path in paths:
            name = plain_words(path.name)
            try:
                data = _bytes_of(path)
            except (OSError, ValueError, MemoryError) as error:
                self._session.refused.emit(f"{name} could not be read: {reason(error)}")
                continue
            if is_drawing(data, name):
                self.take_drawing(data, name)
            else:
                self.take_picture(data, name)
                self._note_recent(path)

    @staticmethod
    def _note_recent(path: Path) -> None:
        from draxet.ui.shell.recent import note_recent

        note_recent(path)

    def take_drawing(self, data: bytes, name: str) -> None:
        """Read a vector file off the window's thread and put its contours into the job."""
        self._arrived += 1

        def work(report: Progress) -> Drawing:
            from draxet.gather.drawings import read_drawing  # readers of vector files: slow to load

            report(0.1, f"reading {name}")
            return read_drawing(data, name, report)

        self._read(f"drawing {self._arrived}", work, lambda drawing: self._place_drawing(name, drawing))

    def _read(self, lane: str, work: Callable[[Progress], Any], done: Callable[[Any], None]) -> None:
        """Read a file off the window's thread; how far it is stands in the top line, and Esc stops it."""
        self._lanes.append(lane)

        def ended(answer: Any) -> None:
            self._lanes.remove(lane)
            self._session.say_reading("", 0.0)
            done(answer)

        def failed(error: Exception) -> None:
            self._lanes.remove(lane)
            self._session.say_reading("", 0.0)
            self._refuse(error)

        self._workers.run(lane, work, ended, failed, lambda share, words: self._session.say_reading(words, share))

    def stop_reading(self) -> None:
        """Give up files that are being read."""
        for lane in self._lanes:
            self._workers.cancel(lane)
        if self._lanes:
            self._session.said.emit("Stopped reading; nothing was brought in")
        self._lanes = []
        self._session.say_reading("", 0.0)

    def _place_drawing(self, name: str, drawing: Drawing) -> None:
        from draxet.gather.drawings import place_drawing

        unit = drawing.unit_mm if drawing.unit_mm is not None else self._ask_unit(name)
        if unit is None:
            self._session.refused.emit(f"{name} was not brought in: without its unit nobody knows how large it is.")
            return
        self._aside = (drawing, unit) if drawing.aside else None
        more = " (Picture menu: Bring in what was left out)" if drawing.aside else ""
        self._add_drawing("bring in a drawing", place_drawing(self._session.job, drawing, unit), f"from {name}", [remark + more * (k == 0) for k, remark in enumerate(drawing.remarks)])

    def bring_aside(self) -> None:
        """What was left out of the last drawing, after all."""
        from draxet.gather.drawings import place_aside

        if self._aside is None:
            self._session.refused.emit("Nothing was left out of a drawing that could be brought in.")
            return
        (drawing, unit), self._aside = self._aside, None
        self._add_drawing("bring in what was left out", place_aside(self._session.job, drawing, unit), "that had been left out", [])

    @property
    def has_aside(self) -> bool:
        return self._aside is not None

    def _add_drawing(self, step: str, job: Job, source: str, remarks: Sequence[str]) -> None:
        before = {item.id for item in self._session.job.contours}
        self._session.edit(step, job)
        new = [item for item in self._session.job.contours if item.id not in before]
        if not new:
            return  # it was refused, and that was said
        self._session.select({item.id for item in new})
        self._session.fit_asked.emit()
        opened = sum(not item.contour.closed for item in new)
        facts = f"{len(new)} contour{'s' * (len(new) != 1)} {source}" + (f", {opened} open" if opened else "")
        self._session.said.emit(". ".join([facts, *remarks]))

    def _ask_unit(self, name: str) -> float | None:
        """Ask what a file without units counts in; None where that is given up."""
        box = QMessageBox(self._window)
        box.setWindowTitle("Which unit?")
        box.setText(f"{name} does not say what its numbers count.")
        box.setInformativeText("Choose what they mean:")
        answers = {box.addButton(words, QMessageBox.ButtonRole.AcceptRole): mm for words, mm in _FILE_UNITS}
        box.addButton("Do not bring it in", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return next((mm for chosen, mm in answers.items() if chosen is box.clickedButton()), None)

    def paste_picture(self) -> None:
        board = QApplication.clipboard()
        image = board.image() if board else QImage()
        if image.isNull():
            self._session.refused.emit("There is no picture on the clipboard; copy one first.")
            return
        store = QByteArray()
        buffer = QBuffer(store)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        image.save(buffer, "PNG")
        self.take_picture(bytes(store.data()), "Pasted picture.png")

    def take_picture(self, data: bytes, name: str, page: int | None = None) -> None:
        """Read a picture off the window's thread and place one copy of it; of several pages the one that is chosen."""
        self._arrived += 1

        def work(report: Progress) -> LoadedPicture | list[NDArray[Any]]:
            report(0.1, f"reading {name}")
            if page is None and count_pages(data, name) > 1:
                return thumbnails(data, name)
            return read_picture(data, name, page or 0)

        def done(found: LoadedPicture | list[NDArray[Any]]) -> None:
            if isinstance(found, list):
                self._choose_page(data, name, found)
            else:
                self._place(data, name, page or 0, found)

        self._read(f"picture {self._arrived}", work, done)

    def _choose_page(self, data: bytes, name: str, small: list[NDArray[Any]]) -> None:
        from draxet.ui.shell.pages import ThumbnailChooser

        pages = [(pixels, f"Page {number}") for number, pixels in enumerate(small, start=1)]
        question = f"{name} has {len(small)} pages. Which one is to be worked from?"
        chooser = ThumbnailChooser("Which page?", question, pages, "Bring in this page", self._window)
        if chooser.exec():
            self.take_picture(data, name, chooser.number)
        else:
            self._session.refused.emit(f"{name} was not brought in: no page was chosen.")

    def _place(self, data: bytes, name: str, page: int, loaded: LoadedPicture) -> None:
        session = self._session
        placed = arrival(loaded.size, loaded.dpi, session.job.sheet)
        middles = {tuple(round(v, 3) for v in picture.middle) for picture in session.job.pictures}
        while tuple(round(v, 3) for v in placed.point(loaded.size[0] / 2, loaded.size[1] / 2)) in middles:
            placed = placed.then(Affine.moved(_CASCADE_MM, -_CASCADE_MM))  # not hidden behind, nor hiding, another one
        job, picture_id = add_picture(session.job, name, data, loaded.size, placed, loaded.dpi, page)
        session.pictures.put(job.picture_by_id[picture_id], loaded)
        session.picture_id = picture_id
        session.edit("bring in a picture", job)
        session.fit_asked.emit()
        session.said.emit(". ".join([f"{name} is here", *loaded.remarks]))

    def _refuse(self, error: Exception) -> None:
        self._session.refused.emit(str(error) if isinstance(error, ValueError) else f"The file could not be read: {error}")

    # --- jobs

    def open_job(self, path: Path | None = None) -> None:
        if path is None:
            name, _ = QFileDialog.getOpenFileName(self._window, "Open a job", "", "Draxet jobs (*.draxet);;All files (*)")
            if not name:
                return
            path = Path(name)
        self.leave(partial(self._read_job, path))

    def _read_job(self, path: Path) -> None:
        def work(report: Progress) -> tuple[OpenedJob, ReadableJob]:
            from draxet.gather.readable import with_readable_pictures
            from draxet.job.file import open_job  # zip, JSON and the like: not needed to show a window

            report(0.1, f"opening {path.name}")
            opened = open_job(path)
            return opened, with_readable_pictures(opened.job, report)

        agreed = self._session.job  # whether to leave this one was asked

        def done(answer: tuple[OpenedJob, ReadableJob]) -> None:
            opened, readable = answer
            if not self._session.history.is_saved and self._session.job is not agreed:
                self._session.refused.emit(f"{path.name} was not opened: the open job has changed meanwhile. Open it again.")
                return
            remarks = [*opened.remarks, *readable.remarks]
            self._session.start(readable.job, path, saved=not remarks, desk=opened.desk)
            for picture, loaded in readable.loaded:
                self._session.pictures.put(picture, loaded)
            self._session.view_changed.emit()
            self._session.said.emit(". ".join([f"{path.name} is open", *remarks]))

        self._read("open a job", work, done)

    def new_job(self) -> None:
        self.leave(lambda: self._session.start(Job(), None))

    def keep_template(self) -> None:
        """Keep the job's set-up (sheets, limit, units) under a name, to start other jobs from."""
        from draxet.job.file import JobFileError, save_job
        from draxet.ui.shell.recent import template_folder

        name, given = QInputDialog.getText(self._window, "Keep this set-up", "Name of the template:", text=self._session.job.name)
        name = plain_words(name.strip(), 100).replace("/", "-")
        if not given or not name:
            return
        try:
            template_folder().mkdir(parents=True, exist_ok=True)
            save_job(template_of(replace(self._session.job, name=name)), template_folder() / f"{name}.draxet")
        except (JobFileError, OSError) as error:
            self._session.refused.emit(f"The template could not be kept: {error}")
            return
        self._session.said.emit(f"The set-up is kept as “{name}”: sheets, limit, units and how exact the work must be")

    def new_from_template(self) -> None:
        from draxet.ui.shell.recent import template_folder

        names = sorted(path.stem for path in template_folder().glob("*.draxet"))
        if not names:
            self._session.refused.emit("No template is kept yet; set a job up and choose Keep as a template.")
            return
        name, given = QInputDialog.getItem(self._window, "New from a template", "Start from:", names, 0, False)
        if given:
            self.leave(partial(self._begin_from, template_folder() / f"{name}.draxet"))

    def _begin_from(self, template: Path) -> None:
        from draxet.job.file import JobFileError, read_job

        try:
            self._session.start(replace(read_job(template), name="Untitled job"), None)
        except JobFileError as error:
            self._session.refused.emit(str(error))

    def save(self, then: Callable[[], object] | None = None) -> None:
        """Save where the job was saved before, else ask where; `then` is called once it is on the disk."""
        if self._session.path:
            self.save_to(self._session.path, then)
        else:
            self.save_as(then)

    def save_as(self, then: Callable[[], object] | None = None) -> None:
        suggested = self._session.path or Path(f"{self._session.job.name.replace('/', '-')}.draxet")
        path = ask_where(self._window, "Save the job", suggested, "draxet", "Draxet jobs")
        if path is not None:
            self.save_to(path, then)

    def save_to(self, path: Path, then: Callable[[], object] | None = None) -> None:
        """Save off the window's thread, one after the other; a job that goes on meanwhile is not saved yet."""
        self._session.leaving.emit()
        if self._workers.busy(_SAVE):
            self._save_next = (path, then)
            return
        session = self._session
        job, desk = session.job, session.desk()

        def work(report: Progress) -> None:
            from draxet.job.file import save_job

            save_job(job, path, desk)

        def done(_: object) -> None:
            if job is session.job or job in (state for _, state in session.history.states):
                session.note_saved(path, job)
            session.said.emit(f"{path.name} is saved")
            self._after_save(then)

        def failed(error: Exception) -> None:
            session.refused.emit(str(error))
            self._after_save(None)

        self._workers.run(_SAVE, work, done, failed, of_job=False)

    def _after_save(self, then: Callable[[], object] | None) -> None:
        next_one, self._save_next = self._save_next, None
        if next_one is not None:
            self.save_to(*next_one)
        elif then is not None:
            then()

    def leave(self, then: Callable[[], object]) -> None:
        """Go on with `then`, after asking about unsaved work and, where that is wanted, saving it."""
        self._session.leaving.emit()
        if self._session.history.is_saved:
            then()
            return
        box = QMessageBox(self._window)
        box.setWindowTitle("Unsaved work")
        box.setText(f"{self._session.job.name} has changes that are not saved.")
        box.setInformativeText("Save them first?")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is save:
            self.save(then)
        elif box.clickedButton() is drop:
            then()
