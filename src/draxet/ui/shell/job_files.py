"""Jobs into and out of the window: opened, begun anew or from a template, saved, and left."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QWidget

from draxet.files import plain_words
from draxet.job.picture_records import Picture
from draxet.job.records import Job, begun_job
from draxet.job.sheet_edits import template_of
from draxet.progress import Progress
from draxet.ui.controls.questions import ask, ask_name, ask_which
from draxet.ui.model.picture_store import Pyramid
from draxet.ui.model.reading import Reading
from draxet.ui.model.session import Session

if TYPE_CHECKING:
    from draxet.gather.readable import ReadableJob
    from draxet.job.file import OpenedJob

__all__ = ["JobFiles"]

_SAVE = "save"


class JobFiles:
    """What the window's commands for jobs do; a refusal is one sentence in the top line."""

    def __init__(self, session: Session, reading: Reading, window: QWidget) -> None:
        self._session, self._workers, self._reading, self._window = (
            session,
            session.workers,
            reading,
            window,
        )
        self._save_next: tuple[Path, Callable[[], object] | None] | None = None

    def open_job(self, path: Path | None = None) -> None:
        if path is None:
            from draxet.ui.controls.chooser import JobChooser

            chooser = JobChooser(self._workers, self._window)
            if not chooser.exec() or not chooser.selectedFiles():
                return
            path = Path(chooser.selectedFiles()[0])
        self.leave(partial(self._read_job, path))

    def _read_job(self, path: Path) -> None:
        def work(report: Progress) -> tuple[OpenedJob, ReadableJob, list[tuple[Picture, Pyramid]]]:
            from draxet.gather.readable import with_readable_pictures
            from draxet.job.file import (
                open_job,  # zip, JSON and the like: not needed to show a window
            )

            report(0.1, f"opening {path.name}")
            opened = open_job(path)
            readable = with_readable_pictures(opened.job, report)
            self._session.large_edits.know(readable.job)
            return (
                opened,
                readable,
                [(picture, Pyramid.whole(loaded.pixels)) for picture, loaded in readable.loaded],
            )

        agreed = self._session.job  # whether to leave this one was asked

        def done(answer: tuple[OpenedJob, ReadableJob, list[tuple[Picture, Pyramid]]]) -> None:
            opened, readable, pyramids = answer
            if not self._session.document.history.is_saved and self._session.job is not agreed:
                self._session.messages.refused.emit(
                    f"{path.name} was not opened: the open job has changed meanwhile. Open it again."
                )
                return
            remarks = [*opened.remarks, *readable.remarks]
            self._session.start(readable.job, path, saved=not remarks, desk=opened.desk)
            for picture, pyramid in pyramids:
                self._session.pictures.put(picture, pyramid)
            self._session.desk.view_changed.emit()
            _note_recent(path)
            told = self._session.messages.lost if remarks else self._session.messages.announced
            is_named = bool(remarks) and remarks[0].startswith(path.name)
            told.emit(". ".join(remarks if is_named else [f"{path.name} is open", *remarks]))

        self._reading.read("open a job", work, done)

    def new_job(self) -> None:
        self.leave(lambda: self._session.start(begun_job(), None))

    def keep_template(self) -> None:
        """Keep the job's set-up (sheets, limit, units) under a name, to start other jobs from."""
        from draxet.job.file import JobFileError, save_job
        from draxet.ui.shell.recent import template_folder

        name = ask_name(
            self._window,
            "Keep this set-up",
            "Name of the template",
            self._session.job.name,
            "Keep it",
        )
        name = plain_words(name, 100).replace("/", "-")
        if not name:
            return
        try:
            template_folder().mkdir(parents=True, exist_ok=True)
            save_job(
                template_of(replace(self._session.job, name=name)),
                template_folder() / f"{name}.draxet",
            )
        except (JobFileError, OSError) as error:
            self._session.messages.refused.emit(f"The template could not be kept: {error}")
            return
        self._session.messages.announced.emit(
            f"The set-up is kept as “{name}”: sheets, limit, units and how exact the work must be"
        )

    def new_from_template(self) -> None:
        from draxet.ui.shell.recent import templates

        found = templates()
        if not found:
            self._session.messages.refused.emit(
                "No template is kept yet; set a job up and keep its set-up as one."
            )
            return
        number = ask_which(
            self._window,
            "New from a template",
            "Which set-up is it to begin with?",
            [path.stem for path in found],
            "Begin",
        )
        if number is not None:
            self.begin_from(found[number])

    def begin_from(self, template: Path) -> None:
        """Begin a job with a set-up that was kept."""
        self.leave(partial(self._begin_from, template))

    def begin_demo(self, name: str) -> None:
        """Begin one of the demo jobs."""

        def begin() -> None:
            from draxet.ui.demo import demo_job

            self._session.start(demo_job(name), None)

        self.leave(begin)

    def begin_with(self, job: Job) -> None:
        """Begin a job that was made for it, once the one in hand may go."""
        self.leave(lambda: self._session.start(job, None, saved=False))

    def _begin_from(self, template: Path) -> None:
        from draxet.job.file import JobFileError, read_job

        try:
            self._session.start(replace(read_job(template), name="Untitled job"), None)
        except JobFileError as error:
            self._session.messages.refused.emit(str(error))

    def save(self, then: Callable[[], object] | None = None) -> None:
        """Save where the job was saved before, else ask where; `then` is called once it is on the
        disk."""
        if self._session.document.path:
            self.save_to(self._session.document.path, then)
        else:
            self.save_as(then)

    def save_as(self, then: Callable[[], object] | None = None) -> None:
        suggested = self._session.document.path or Path(
            f"{self._session.job.name.replace('/', '-')}.draxet"
        )
        from draxet.ui.controls.chooser import ask_where

        path = ask_where(self._window, "Save the job", suggested, "draxet", "Draxet jobs")
        if path is not None:
            self.save_to(path, then)

    def save_to(self, path: Path, then: Callable[[], object] | None = None) -> None:
        """Save off the window's thread, one after the other; a job that goes on meanwhile is not
        saved yet."""
        self._session.messages.leaving.emit()
        if self._workers.busy(_SAVE):
            self._save_next = (path, then)
            return
        session = self._session
        job, desk = session.job, session.desk.kept(session.selection.picture_id)

        def work(report: Progress) -> None:
            from draxet.job.file import save_job

            save_job(job, path, desk)

        def done(_: object) -> None:
            if any(
                state is job for _, state in session.document.history.states
            ):  # another job may be open by now
                session.document.note_saved(path, job)
            _note_recent(path)
            session.messages.announced.emit(f"{path.name} is saved")
            self._after_save(then)

        def failed(error: Exception) -> None:
            session.messages.refused.emit(str(error))
            self._after_save(None)

        self._workers.run(_SAVE, work, done, failed, of_job=False, saves=True)

    def _after_save(self, then: Callable[[], object] | None) -> None:
        next_one, self._save_next = self._save_next, None
        if next_one is not None:
            self.save_to(*next_one)
        elif then is not None:
            then()

    def leave(self, then: Callable[[], object]) -> None:
        """Go on with `then`, after asking about unsaved work and, where that is wanted, saving
        it."""
        self._session.messages.leaving.emit()
        if self._session.document.history.is_saved:
            then()
            return
        answers = (("save", "Save"), ("leave", "Leave without saving"))
        answer = ask(
            self._window,
            "Unsaved work",
            f"{self._session.job.name} has changes that are not saved.",
            "Save them first?",
            answers,
            "Cancel",
        )
        if answer == "save":
            self.save(then)
        elif answer == "leave":
            then()


def _note_recent(path: Path) -> None:
    from draxet.ui.shell.recent import note_recent

    note_recent("jobs", path)
