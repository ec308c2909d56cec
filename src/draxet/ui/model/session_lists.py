"""What a session tells of, and what of its job is chosen, shown, to be picked and to be caught."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.job.contour_records import ContourItem
from draxet.job.history import History
from draxet.job.layout import items_named
from draxet.job.part_edits import locked_contours
from draxet.job.picture_records import Picture
from draxet.job.records import Job, begun_job

__all__ = ["SessionLists"]


class SessionLists(QObject):
    """The signals of a session, and lists of contours that are the same for as long as they hold
    the same."""

    job_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    stage_changed = pyqtSignal()
    tool_changed = pyqtSignal()
    marks_changed = pyqtSignal()
    view_changed = pyqtSignal()
    announced = pyqtSignal(str)
    refused = pyqtSignal(str)
    lost = pyqtSignal(str)
    """What could not be had, said until one goes on."""
    flashed = pyqtSignal(object)
    number_typed = pyqtSignal(str)
    text_asked = pyqtSignal()
    coupon_asked = pyqtSignal(object)
    """A job that is to take the place of the one in hand, once that may go."""
    fit_asked = pyqtSignal()
    view_asked = pyqtSignal(float, float, float)
    job_ending = pyqtSignal()
    leaving = pyqtSignal()
    stop_asked = pyqtSignal()
    enter_pressed = pyqtSignal()
    tool_asked = pyqtSignal(str)
    canvas_asked = pyqtSignal()
    looked_changed = pyqtSignal()
    reading = pyqtSignal(str, float)
    place_asked = pyqtSignal(float, float)
    saved = pyqtSignal()
    preparing_changed = pyqtSignal()
    stop_preparing_asked = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History.of(begun_job())
        self.selection: frozenset[str] = frozenset()
        self.picture_id = ""
        self.hidden: frozenset[str] = frozenset()
        """Contours that are not shown; they stay in the job and are cut."""
        self._kept_lists: dict[str, tuple[tuple[object, ...], tuple[ContourItem, ...]]] = {}

    @property
    def job(self) -> Job:
        return self.history.job

    @property
    def layout(self) -> Job:
        """The job as it lies, with all that placements lay."""
        return self.job.layout

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to work on yet."""
        return not self.job.pictures and not self.job.contours

    @property
    def picture(self) -> Picture | None:
        """The picture in hand: the chosen one, else the last."""
        by_id = self.job.picture_by_id
        return by_id.get(self.picture_id) or (self.job.pictures[-1] if self.job.pictures else None)

    def chosen(self) -> tuple[ContourItem, ...]:
        """What is chosen, in the job's order; the same tuple for as long as it is the same."""
        job, selection = self.job, self.selection
        if not selection:
            return ()
        return self._kept_list(
            "chosen",
            (job.contours, job.parts, job.placements, selection),
            lambda: items_named(job, selection),
        )

    def named(
        self, name: str, ids: tuple[str, ...], but: frozenset[str]
    ) -> tuple[ContourItem, ...]:
        """Some contours of the layout but for others; the same tuple for as long as it is the
        same."""
        job = self.job
        return self._kept_list(
            name,
            (job.contours, job.parts, job.placements, ids, but),
            lambda: items_named(job, frozenset(ids) - but) if ids else (),
        )

    @property
    def shown_contours(self) -> tuple[ContourItem, ...]:
        """The contours that are not hidden; the same tuple for as long as they are the same."""
        contours, hidden = self.layout.contours, self.hidden
        if not hidden:
            return contours
        return self._kept_list(
            "shown",
            (contours, hidden),
            lambda: tuple(item for item in contours if item.id not in hidden),
        )

    @property
    def shown_drawn(self) -> tuple[ContourItem, ...]:
        """Those of them that are drawn, and laid by no placement."""
        contours, hidden = self.job.contours, self.hidden
        return self._kept_list(
            "drawn",
            (contours, hidden),
            lambda: tuple(item for item in contours if item.id not in hidden),
        )

    @property
    def pickable(self) -> tuple[ContourItem, ...]:
        """The contours that are shown and belong to no locked part."""
        shown, parts = self.shown_contours, self.job.parts
        if not any(part.locked for part in parts):
            return shown
        locked = locked_contours(self.job)
        return self._kept_list(
            "pickable",
            (shown, parts),
            lambda: tuple(item for item in shown if item.id not in locked),
        )

    @property
    def catchable(self) -> tuple[ContourItem, ...]:
        """What can be caught: the contours that are shown, and helper contours."""
        shown, helpers = self.shown_contours, self.job.helpers
        return (
            self._kept_list("catchable", (shown, helpers), lambda: (*shown, *helpers))
            if helpers
            else shown
        )

    def _kept_list(
        self, name: str, of: tuple[object, ...], make: Callable[[], tuple[ContourItem, ...]]
    ) -> tuple[ContourItem, ...]:
        """A list made anew only where one of the things that it is made of is another."""
        kept = self._kept_lists.get(name)
        if kept is None or any(a is not b for a, b in zip(kept[0], of, strict=True)):
            kept = self._kept_lists[name] = (of, make())
        return kept[1]
