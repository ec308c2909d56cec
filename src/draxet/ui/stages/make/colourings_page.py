"""Up to four colourings of what is sewn beside each other, each as thread on its cloth, with what it
takes; one taken is a step."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QIcon, QImage, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from draxet.geometry.affine import Affine
from draxet.job.colour_words import colour_word
from draxet.job.records import Job
from draxet.job.sewing_threads import nearest_thread
from draxet.job.sides import Run, runs_of, side_of
from draxet.make.colourings import Colouring, as_it_is, other_colourings, recoloured
from draxet.make.stitching.stitched_sheet import StitchedSheet, stitched_sheet
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.canvas.programs import ProgramPainter, program_paths
from draxet.ui.controls.slip_parts import allow, button, label, menu_button
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session

__all__ = ["ClothPanel", "ColouringsPage"]

_WIDE, _HIGH, _MARGIN, _SHARP = 400, 230, 12, 2
"""Of a picture of a cloth, in pixels, and how many of its own each has."""
_MOST_SWATCHES = 5


@record(frozen=True, eq=False)
class _Sewn:
    """A cloth as it is sewn, and what that takes."""

    picture: QImage
    told: str
    seconds: float


def seen_on_cloth(job: Job, run: Run, colouring: Colouring, report: Progress) -> _Sewn:
    """A sheet sewn in a colouring, seen from above; by a worker.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    other = recoloured(job, colouring)
    machine = other.machine_of(run.sheet)
    made = stitched_sheet(side_of(other.layout, run), run.sheet, machine, report)
    picture = QImage(_WIDE * _SHARP, _HIGH * _SHARP, QImage.Format.Format_ARGB32_Premultiplied)
    picture.fill(QColor(colouring.cloth))
    if len(made):
        _paint(picture, made, run, report)
    return _Sewn(picture, made.told, made.seconds)


def _paint(picture: QImage, made: StitchedSheet, run: Run, report: Progress) -> None:
    paths = program_paths((made,), (run,), report)
    box = QRectF()
    for bunch in paths.work:
        box = box.united(bunch.box)
    wide, high = picture.width(), picture.height()
    margin = 2 * _MARGIN * _SHARP
    zoom = min((wide - margin) / max(box.width(), 1.0), (high - margin) / max(box.height(), 1.0))
    middle = box.center()
    to_view = (
        Affine.moved(-middle.x(), -middle.y())
        .then(Affine.scaled(zoom, -zoom))
        .then(Affine.moved(wide / 2, high / 2))
    )
    drawn = ProgramPainter()
    drawn.paths = type(paths)(paths.of, paths.work)
    painter = QPainter(picture)
    for step, _ in enumerate(drawn.paint(painter, to_view, QRectF(0, 0, wide, high), LIGHT)):
        if step % 50 == 0:
            report(0.9, "drawing the thread")
    painter.end()


class _Picture(QWidget):
    """A cloth."""

    def __init__(self) -> None:
        super().__init__()
        self.image: QImage | None = None
        self.cloth = LIGHT.sheet
        self.setMinimumSize(px(240), px(120))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, _HIGH)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(self.cloth))
        if self.image is not None:
            size = self.image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
            left, top = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
            painter.drawImage(QRectF(left, top, size.width(), size.height()), self.image)
        painter.end()


class ClothPanel(QWidget):
    """A colouring: its cloth, its threads, each of which can be another one, and what it takes."""

    def __init__(self, page: ColouringsPage, number: int, colouring: Colouring) -> None:
        super().__init__()
        self._page, self._number, self.colouring = page, number, colouring
        self.picture, self.facts = _Picture(), label("", "quiet")
        self.picture.setAccessibleName(colouring.name)
        self.sewn = Derived[_Sewn | None](
            page.session,
            f"colouring {number}",
            None,
            "A colouring could not be sewn",
            told=self.refresh,
        )
        self.take = button("Take it", "plain", partial(page.take, self))
        self.take.setAccessibleName(f"Take it: {colouring.name}")
        self.take.setVisible(number > 0)
        self._threads = QHBoxLayout()
        self._threads.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(label(colouring.name, "section"))
        head.addStretch(1)
        head.addWidget(self.facts)
        foot = QHBoxLayout()
        foot.addLayout(self._threads)
        foot.addStretch(1)
        foot.addWidget(self.take)
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(6)
        rows.addLayout(head)
        rows.addWidget(self.picture, 1)
        rows.addLayout(foot)
        self.swatches: list[QPushButton] = []
        self._show_threads()
        self.look()

    def look(self) -> None:
        """Have it sewn as it is now."""
        job, run, colouring = self._page.job, self._page.run, self.colouring
        self.sewn.ask((job, colouring), lambda report: seen_on_cloth(job, run, colouring, report))
        self.refresh()

    def change(self, colouring: Colouring) -> None:
        self.colouring = colouring
        self._show_threads()
        self.look()

    def refresh(self) -> None:
        sewn = self.sewn.value
        self.picture.cloth = self.colouring.cloth
        if sewn is not None:
            self.picture.image = sewn.picture
            told = f"{sewn.told} · {sewn.seconds / 60:.0f} min" if sewn.told else "nothing sewn"
            self.facts.setText(told)
        elif not self.sewn.busy:
            self.facts.setText("–")
        self.picture.update()

    def _show_threads(self) -> None:
        """A swatch for each thread and the cloth, with all others in its menu."""
        for each in self.swatches:
            self._threads.removeWidget(each)
            each.deleteLater()
        found, own = list[QPushButton](), self.colouring
        of_threads = [
            (now, partial(own.with_thread, was)) for was, now in own.threads[:_MOST_SWATCHES]
        ]
        of_cloth = (own.cloth, lambda colour: type(own)(own.name, own.threads, colour))
        for k, (now, made) in enumerate([*of_threads, of_cloth]):
            is_cloth = k == len(of_threads)
            name = nearest_thread(self._page.job.every_thread, now).name
            words = f"Cloth: {colour_word(now)}" if is_cloth else f"Thread: {name}"
            swatch = menu_button("Cloth" if is_cloth else "", [])
            swatch.setToolTip(words)
            swatch.setAccessibleName(f"{self.colouring.name}, {words}")
            swatch.setIcon(_swatch(now))
            allow(
                swatch, self._number > 0, "the first colouring is that of the job; add another one"
            )
            menu = swatch.menu()
            assert menu is not None
            for thread in self._page.job.every_thread:
                act = menu.addAction(_swatch(thread.colour), thread.name)
                assert act is not None
                act.triggered.connect(
                    lambda _, made=made, colour=thread.colour: self.change(made(colour))
                )
            self._threads.addWidget(swatch)
            found.append(swatch)
        self.swatches = found


def _swatch(colour: str) -> QIcon:
    drawn = QPixmap(28, 28)
    drawn.fill(QColor(LIGHT.quiet))
    painter = QPainter(drawn)
    painter.fillRect(1, 1, 26, 26, QColor(colour))
    painter.end()
    found = QIcon(drawn)
    found.addPixmap(drawn, QIcon.Mode.Disabled)  # what cannot be changed is seen as well
    return found


class ColouringsPage(QDialog):
    """Four cloths: as it is, and three others."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Colourings")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.session, self.job = session, session.job
        self.run = next(run for run in runs_of(self.job) if run.sheet.id == self.job.sheet.id)
        grid = QGridLayout()
        grid.setSpacing(18)
        some = [as_it_is(self.job), *other_colourings(self.job)]
        self.panels = [ClothPanel(self, k, each) for k, each in enumerate(some)]
        for k, panel in enumerate(self.panels):
            grid.addWidget(panel, k // 2, k % 2)
        foot = QHBoxLayout()
        foot.addWidget(
            label("Choose threads and cloth; what is taken colours the whole job.", "quiet")
        )
        foot.addStretch(1)
        foot.addWidget(button("Close", "plain", self.reject))
        rows = QVBoxLayout(self)
        rows.setContentsMargins(18, 16, 18, 16)
        rows.setSpacing(14)
        rows.addLayout(grid, 1)
        rows.addLayout(foot)
        session.document.changed.connect(self.reject)

    def take(self, panel: ClothPanel) -> None:
        """The job in a colouring, as one step."""
        words = panel.colouring.name.lower()
        made = recoloured(self.session.job, panel.colouring)
        self.session.document.changed.disconnect(self.reject)
        self.session.edit(f"colour the job: {words}", made)
        self.accept()

    def done(self, result: int) -> None:
        for panel in self.panels:
            panel.sewn.forget()
        super().done(result)
