"""What an empty canvas offers: a picture, a job worked on lately, a demo, a set-up that was
kept."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Mapping, Sequence
from functools import partial

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, QTimer
from PyQt6.QtGui import QColor, QFont, QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from draxet.progress import Progress
from draxet.record import record
from draxet.ui.canvas.view import Canvas
from draxet.ui.controls.pane import Pane
from draxet.ui.controls.slip_parts import button, emptied, label
from draxet.ui.look.icons import icon, pixmap
from draxet.ui.look.style import face, px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.shell.job_files import JobFiles
from draxet.ui.shell.window_commands import Command

__all__ = ["FirstPage"]

_MOST_JOBS, _MOST_TEMPLATES = 4, 4
_WIDE, _HIGH = 78, 56
_LANE = "first page"
_AFTER_MS = 250


@record(frozen=True, eq=False)
class _Offer:
    """Something to begin with: its words, what they say of it, and its picture where there is
    one."""

    words: str
    about: str
    image: QImage | None
    run: Callable[[], object]


class FirstPage(Pane):
    """Lies over the canvas while the job is empty and no tool is in hand."""

    def __init__(
        self, session: Session, canvas: Canvas, jobs: JobFiles, commands: Mapping[str, Command]
    ) -> None:
        super().__init__()
        self.setParent(canvas)
        self.setObjectName("first-page")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._session, self._canvas, self._jobs, self._commands = session, canvas, jobs, commands
        self._filled = False
        self._lay_out()
        self.left.connect(session.messages.canvas_asked)
        canvas.installEventFilter(self)
        for signal in (session.document.changed, session.tool_changed, session.document.saved):
            signal.connect(self.refresh)
        session.document.ending.connect(self._forget)
        self.hide()

    def _lay_out(self) -> None:
        """The rows, with places for what is offered."""
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QWidget()
        scroll.setWidget(column)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(1, 1, 1, 1)
        whole.addWidget(scroll)
        self._rows = QVBoxLayout(column)
        self._rows.setContentsMargins(24, 18, 24, 18)
        self._rows.setSpacing(8)
        self._rows.addWidget(label("Begin with a picture", "heading"))
        self._rows.addWidget(
            label(
                "Or drop pictures, PDF, SVG or DXF files anywhere on this window.",
                "quiet",
                wrap=True,
            )
        )
        ways = (("choose", "main"), ("paste", "plain"), ("camera", "plain"), ("open", "plain"))
        self._begin = [self._begin_with(name, part) for name, part in ways]
        self._grid = QGridLayout()
        self._grid.setSpacing(8)
        self._rows.addLayout(self._grid)
        self._rows.addSpacing(8)
        self._offers = QHBoxLayout()
        self._offers.setSpacing(20)
        self._rows.addLayout(self._offers)
        self._rows.addStretch(1)
        self._columns = [QVBoxLayout(), QVBoxLayout()]
        for each in self._columns:
            each.setSpacing(1)
            self._offers.addLayout(each, 1)

    def _begin_with(self, name: str, part: str) -> QPushButton:
        command = self._commands[name]
        made = button(command.words, part, command.run)
        made.setIconSize(QSize(px(18), px(18)))
        made.setIcon(
            icon(command.icon or "folder", "#FFFFFF" if part == "main" else LIGHT.graphite)
        )
        return made

    @property
    def is_wanted(self) -> bool:
        return self._session.document.is_empty and self._session.tool is None

    def _forget(self) -> None:
        self._filled = False

    def refresh(self) -> None:
        """Show or hide it, and fill it where it was not."""
        if not self.is_wanted:
            if self.isVisible() and self.isAncestorOf(self.focusWidget()):
                self._canvas.setFocus()
            self.hide()
            return
        if not self._filled:
            self._filled = True
            QTimer.singleShot(_AFTER_MS, self._look)
        self._lay()
        self.show()
        self.raise_()

    def _look(self) -> None:
        """Once the window stands: what there is to begin with."""
        if self.isVisible():
            self._session.workers.run(
                _LANE,
                _looked(self._jobs),
                lambda found: self._fill(*found),
                lambda error: None,
                of_job=False,
                owner=self,
            )

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self._lay()
        return super().eventFilter(watched, event)

    def _lay(self) -> None:
        """In the middle of the canvas, as large as it needs and as there is room."""
        room = self._canvas.size()
        margin = px(20)
        wide = min(px(660), room.width() - margin - 12)
        narrow = wide < px(600)
        self._offers.setDirection(
            QBoxLayout.Direction.TopToBottom if narrow else QBoxLayout.Direction.LeftToRight
        )
        for number, made in enumerate(self._begin):
            self._grid.addWidget(made, *(divmod(number, 2) if narrow else (0, number)))
        self._rows.activate()
        needs = max(
            self._rows.totalHeightForWidth(wide - 2), self._rows.totalMinimumSize().height()
        )
        high = min(needs + 4, room.height() - margin - 12)
        self.setGeometry(
            margin + (room.width() - margin - wide) // 2,
            margin + (room.height() - margin - high) // 2,
            wide,
            high,
        )

    def _fill(self, recent: Sequence[_Offer], demos: Sequence[_Offer]) -> None:
        from draxet.ui.shell.recent import templates  # not needed to show a window

        kept = [
            _Offer(path.stem, "", None, partial(self._jobs.begin_from, path))
            for path in templates()[:_MOST_TEMPLATES]
        ]
        for each in self._columns:
            emptied(each)
        first, second = self._columns if recent else (self._columns[1], self._columns[0])
        half = len(demos) if recent else (len(demos) + 1) // 2
        groups = [
            (first, "Go on with a job", recent),
            (second, "Try a demo job", demos[:half]),
            (first, "Or one of these", demos[half:]),
            (
                first if not recent or len(recent) < 3 else second,
                "Begin with a set-up you kept",
                kept,
            ),
        ]
        for place, words, offers in groups:
            if offers:
                place.addWidget(label(words, "section"))
                for offer in offers:
                    place.addWidget(_OfferButton(offer))
        for each in self._columns:
            each.addStretch(1)
        QTimer.singleShot(0, self._lay)  # once what is new has its size


def _looked(jobs: JobFiles) -> Callable[[Progress], tuple[list[_Offer], list[_Offer]]]:
    """Looks at the recent jobs and the demos; for a worker."""

    def work(report: Progress) -> tuple[list[_Offer], list[_Offer]]:
        from draxet.job.file import JobFileError
        from draxet.ui.controls.previews import preview_of
        from draxet.ui.demo import DEMOS, demo_image
        from draxet.ui.shell.recent import recent

        wide, high = 2 * _WIDE, 2 * _HIGH
        offers = []
        for path in recent("jobs")[:_MOST_JOBS]:
            with contextlib.suppress(JobFileError, OSError):
                found = preview_of(path, wide, high)
                offers.append(
                    _Offer(
                        path.stem,
                        f"{found.facts[1]}\n{found.facts[-1]}",
                        found.image,
                        partial(jobs.open_job, path),
                    )
                )
        demos = [
            _Offer(
                demo.title, demo.about, demo_image(name, wide, high), partial(jobs.begin_demo, name)
            )
            for name, demo in DEMOS.items()
        ]
        return offers, demos

    return work


class _OfferButton(QPushButton):
    """A picture, a name and a few words, to be pressed."""

    def __init__(self, offer: _Offer) -> None:
        super().__init__()
        self._offer = offer
        self.setProperty("part", "row")
        self.setAccessibleName(f"{offer.words}, {offer.about}".replace("\n", ", ").rstrip(", "))
        self.setFixedHeight(px(_HIGH + 12) if offer.image is not None else px(30))
        self.setMinimumWidth(px(190))
        self.clicked.connect(lambda: offer.run())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        offer, at = self._offer, px(8)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if offer.image is not None:
            wide, high = px(_WIDE), px(_HIGH)
            small = offer.image.scaled(
                wide,
                high,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            painter.drawImage(
                at + (wide - small.width()) // 2, (self.height() - small.height()) // 2, small
            )
            painter.setPen(QColor(LIGHT.edge))
            painter.drawRect(at, (self.height() - high) // 2, wide, high)
            at += wide + px(12)
        else:
            painter.drawPixmap(
                at, (self.height() - px(18)) // 2, pixmap("sheet", LIGHT.brass_text, px(18))
            )
            at += px(26)
        lines = [offer.words, *(line for line in offer.about.split("\n") if line)]
        step, top = px(18), (self.height() - px(18) * len(lines)) // 2
        for number, line in enumerate(lines):
            painter.setFont(face(14) if number else face(15, QFont.Weight.DemiBold))
            painter.setPen(QColor(LIGHT.quiet if number else LIGHT.graphite))
            room = self.width() - at - 6
            painter.drawText(
                at,
                top + number * step,
                room,
                step,
                Qt.AlignmentFlag.AlignVCenter,
                painter.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight, room),
            )
        painter.end()
