"""What of the job is chosen and in hand, what is hidden, and what can be picked and caught."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from draxet.job.contour_records import ContourItem
from draxet.job.find import Items
from draxet.job.layout import items_named
from draxet.job.part_edits import locked_contours
from draxet.job.picture_records import Picture
from draxet.ui.model.document import Document

__all__ = ["Selection"]


class Selection(QObject):
    """Contours by their ids, and one picture. Lists are the same for as long as they hold the
    same."""

    changed = pyqtSignal()

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.ids: frozenset[str] = frozenset()
        self.picture_id = ""
        self.hands_empty = False
        """Whether the picture in hand was laid down: its slip is not wanted."""
        self.hidden: frozenset[str] = frozenset()
        """Contours that are not shown; they stay in the job and are cut."""
        self._kept_lists: dict[str, tuple[tuple[object, ...], Items]] = {}

    def choose(self, ids: frozenset[str] | set[str]) -> None:
        self.ids = frozenset(ids)
        self.changed.emit()

    def choose_picture(self, picture_id: str) -> None:
        self.picture_id, self.hands_empty = picture_id, False
        self.changed.emit()

    def hide(self, ids: frozenset[str]) -> None:
        """Show all contours but these; what is hidden is not chosen."""
        self.hidden = ids & self._document.job.layout.contour_by_id.keys()
        self.choose(self.ids - self.hidden)

    def lay_down(self) -> None:
        """Leave contours, or else the picture, alone."""
        if self.ids:
            self.choose(frozenset())
        elif not self.hands_empty:
            self.hands_empty = True
            self.changed.emit()

    def begin(self, picture_id: str) -> None:
        """Hold nothing but a picture, and say nothing of it yet."""
        self.ids, self.picture_id = frozenset(), picture_id
        self.hands_empty, self.hidden = False, frozenset()

    @property
    def picture(self) -> Picture | None:
        """The picture in hand: the chosen one, else the last."""
        job = self._document.job
        return job.picture_by_id.get(self.picture_id) or (
            job.pictures[-1] if job.pictures else None
        )

    @property
    def items(self) -> tuple[ContourItem, ...]:
        """What is chosen, in the job's order."""
        job, ids = self._document.job, self.ids
        if not ids:
            return ()
        return self._kept_list(
            "chosen",
            (job.contours, job.parts, job.placements, ids),
            lambda: items_named(job, ids),
        )

    def named(
        self, name: str, ids: tuple[str, ...], but: frozenset[str]
    ) -> tuple[ContourItem, ...]:
        """Some contours of the layout but for others."""
        job = self._document.job
        return self._kept_list(
            name,
            (job.contours, job.parts, job.placements, ids, but),
            lambda: items_named(job, frozenset(ids) - but) if ids else (),
        )

    @property
    def every(self) -> Items:
        """The contours of the layout, hidden or not."""
        laid = self._document.job.layout.contours
        return self._kept_list("every", (laid,), lambda: laid)

    @property
    def shown(self) -> tuple[ContourItem, ...]:
        """The contours that are not hidden."""
        return self._not_hidden("shown", self._document.job.layout.contours)

    @property
    def shown_drawn(self) -> tuple[ContourItem, ...]:
        """Those of them that are drawn, and laid by no placement."""
        return self._not_hidden("drawn", self._document.job.contours)

    def _not_hidden(self, name: str, contours: tuple[ContourItem, ...]) -> tuple[ContourItem, ...]:
        hidden = self.hidden
        return self._kept_list(
            name,
            (contours, hidden),
            lambda: tuple(i for i in contours if i.id not in hidden) if hidden else contours,
        )

    @property
    def pickable(self) -> tuple[ContourItem, ...]:
        """The contours that are shown and belong to no locked part."""
        job, shown = self._document.job, self.shown
        if not any(part.locked for part in job.parts):
            return shown
        locked = locked_contours(job)
        return self._kept_list(
            "pickable",
            (shown, job.parts),
            lambda: tuple(item for item in shown if item.id not in locked),
        )

    @property
    def catchable(self) -> tuple[ContourItem, ...]:
        """What can be caught: the contours that are shown, and helper contours."""
        shown, helpers = self.shown, self._document.job.helpers
        return (
            self._kept_list("catchable", (shown, helpers), lambda: (*shown, *helpers))
            if helpers
            else shown
        )

    def _kept_list(
        self, name: str, of: tuple[object, ...], make: Callable[[], tuple[ContourItem, ...]]
    ) -> Items:
        """A list made anew only where one of the things that it is made of is another."""
        kept = self._kept_lists.get(name)
        if kept is None or any(a is not b for a, b in zip(kept[0], of, strict=True)):
            items = Items(make())
            items.of = self._document.job
            if kept is not None:
                items.know_from(kept[1])
            kept = self._kept_lists[name] = (of, items)
        return kept[1]
