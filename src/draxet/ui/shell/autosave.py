"""A copy of the open job is kept after each minute with changes, off the window's thread; it goes
once the job is saved or given up."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer

from draxet.files import reason
from draxet.job.records import Job
from draxet.progress import Cancelled, Progress
from draxet.ui.model.session import Session

if TYPE_CHECKING:
    from draxet.job.recovery import Keeper

__all__ = ["Autosave", "copies_folder"]

_EVERY_MS = 60_000
_LANE = "keep a copy"


def copies_folder() -> Path:
    """Where copies of open jobs are kept."""
    from platformdirs import user_state_path  # not needed to show a window

    return Path(user_state_path("draxet")) / "kept"


class Autosave(QObject):
    """Watches the session's job."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._workers = session, session.workers
        self._keeper: Keeper | None = None
        self._kept: Job | None = None
        self._said = False
        timer = QTimer(self)
        timer.setInterval(_EVERY_MS)
        timer.timeout.connect(self.keep)
        timer.start()
        session.document.ending.connect(self.drop)
        session.document.saved.connect(self._saved)

    def keep(self) -> None:
        """Keep a copy, where the job has changed since the last one and is not saved."""
        session = self._session
        if (
            session.document.history.is_saved
            or session.job is self._kept
            or self._workers.busy(_LANE)
        ):
            return
        keeper, job = self.keeper(), session.job
        desk = {
            **session.desk.kept(session.selection.picture_id),
            "path": str(session.document.path or ""),
        }

        def work(report: Progress) -> None:
            keeper.keep(job, desk)
            try:
                report(1.0, "")
            except Cancelled:
                keeper.drop()  # the job was saved or given up meanwhile
                raise

        def done(_: object) -> None:
            self._kept, self._said = job, False

        self._workers.run(_LANE, work, done, self._failed, saves=True)

    def keeper(self) -> Keeper:
        """The holder of the open job's copy."""
        from draxet.job.recovery import (
            Keeper,
        )  # zip, JSON and the like: not needed to show a window

        self._keeper = self._keeper or Keeper(copies_folder())
        return self._keeper

    def _failed(self, error: Exception) -> None:
        if not self._said:  # once is enough: the disk is not going to change every minute
            self._said = True
            self._session.messages.refused.emit(
                f"No copy of the unsaved work can be kept: {reason(error)}. Save it yourself."
            )

    def adopt(self, place: Path) -> None:
        """Take over a copy that was left behind: it stays until its job is saved or given up."""
        with contextlib.suppress(OSError):
            self.keeper().claim(place)

    def _saved(self) -> None:
        if self._session.document.history.is_saved:
            self.drop()

    def drop(self) -> None:
        """The copy is not needed any more."""
        self._workers.cancel(_LANE)
        if self._keeper is not None:
            self._keeper.drop()
        self._keeper = self._kept = None
