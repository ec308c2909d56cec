"""Pictures are prepared off the window's thread; until then the canvas shows what was last seen of
them, or a coarse version."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import QObject

from draxet.geometry.arrays import NDArray
from draxet.job.picture_edits import set_steps
from draxet.job.picture_records import Picture
from draxet.progress import Progress
from draxet.ui.model.session import Session

__all__ = ["Preparing", "prepared_pixels"]


def prepared_pixels(session: Session, picture: Picture) -> NDArray[Any] | None:
    """A picture's pixels for what is asked of them at once; None, and people are told, where they
    are not there yet."""
    if not session.pictures.ready(picture):
        session.messages.refused.emit(
            f"{picture.name} is still being prepared; ask again when it is there."
        )
        return None
    return session.pictures.of(picture).levels[0]


class Preparing(QObject):
    """Watches the job for pictures that are not ready and has them made, the newest state of each
    winning."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers = session, session.workers
        self._under_way: dict[str, Picture] = {}
        session.document.changed.connect(self.look)
        session.messages.stop_preparing_asked.connect(self.cancel)

    def look(self) -> None:
        """Begin what is needed, give up what is not."""
        store = self._session.pictures
        store.let_go(self._session.job.pictures)
        wanted = {p.id: p for p in self._session.job.pictures if p.visible and not store.ready(p)}
        for picture_id in list(self._under_way):
            if picture_id not in wanted:
                self._workers.cancel(_lane(picture_id))
                self._end(picture_id)
        for picture in wanted.values():
            before = self._under_way.get(picture.id)
            if before is None or (before.steps, before.square) != (picture.steps, picture.square):
                self._begin(picture)

    def _begin(self, picture: Picture) -> None:
        """A coarse version first where the picture is slow to make."""
        store = self._session.pictures
        self._under_way[picture.id] = picture
        if store.is_slow(picture):
            self._run(
                picture, lambda report: store.glance(picture, report), lambda: self._make(picture)
            )
        else:
            self._make(picture)
        self._step(picture.id, 0.0, "")

    def _make(self, picture: Picture) -> None:
        store = self._session.pictures
        self._session.desk.view_changed.emit()
        self._run(picture, lambda report: store.of(picture, report), lambda: self._end(picture.id))

    def _run(
        self, picture: Picture, work: Callable[[Progress], object], then: Callable[[], None]
    ) -> None:
        def doing(report: Progress) -> None:
            work(report)

        self._workers.run(
            _lane(picture.id),
            doing,
            lambda _: then(),
            lambda error: self._fail(picture.id, error),
            partial(self._step, picture.id),
        )

    def _step(self, picture_id: str, share: float, words: str) -> None:
        self._session.preparing[picture_id] = share, words
        self._session.messages.preparing_changed.emit()

    def _end(self, picture_id: str) -> None:
        self._under_way.pop(picture_id, None)
        self._session.preparing.pop(picture_id, None)
        self._session.desk.view_changed.emit()
        self._session.messages.preparing_changed.emit()

    def _fail(self, picture_id: str, error: Exception) -> None:
        self._end(picture_id)
        self._session.messages.refused.emit(
            f"The picture could not be prepared: {error}; switch its last step off."
        )

    def cancel(self, picture_id: str) -> None:
        """Stop, and switch off what takes long: line art, else the last step."""
        picture = self._session.job.picture_by_id.get(picture_id)
        if picture_id not in self._under_way or picture is None:
            return
        on = [k for k, step in enumerate(picture.steps) if step.on]
        slow = [k for k in on if picture.steps[k].kind.slow] or on[-1:]
        steps = [
            type(step)(step.kind, step.on and k not in slow) for k, step in enumerate(picture.steps)
        ]
        self._session.edit("stop preparing", set_steps(self._session.job, picture_id, steps))


def _lane(picture_id: str) -> str:
    return f"prepare {picture_id}"
