"""The slip at the window's right: the settings of what is in hand, then what the job holds."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from draxet.job.contour_records import Part
from draxet.job.findings import count_words
from draxet.job.guide_edits import remove_guides
from draxet.job.layout_counts import counted
from draxet.job.part_edits import change_part, in_part
from draxet.job.picture_edits import change_picture
from draxet.job.picture_records import Picture
from draxet.job.point_edits import remove_points
from draxet.job.records import Job
from draxet.job.remember import same
from draxet.ui.controls.fields import SliderField
from draxet.ui.controls.pane import Pane
from draxet.ui.controls.slip_parts import button, emptied, icon_button, label, rule, side_by_side
from draxet.ui.look.icons import icon
from draxet.ui.look.style import px
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.session import Session
from draxet.ui.stages import chosen_acts
from draxet.ui.stages.slip import Slip
from draxet.units import format_length

__all__ = ["SlipPanel"]

_MOST_PARTS = 60


class SlipPanel(Pane):
    """Holds the slip of the tool in hand, the list of what the job holds and the picture's
    strength."""

    def __init__(self, session: Session, tokens: Tokens) -> None:
        super().__init__()
        self.setObjectName("slip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(px(tokens.slip_width))
        self._session, self._t = session, tokens
        self.slip: Slip | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(1, 0, 0, 0)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer.setSpacing(0)
        outer.addWidget(scroll, 1)
        self._outer, self._scroll = outer, scroll
        inner = _Column()
        scroll.setWidget(inner)
        self._rows = QVBoxLayout(inner)
        bar = scroll.verticalScrollBar()
        assert bar is not None
        bar.rangeChanged.connect(lambda _, most: self._keep_width(bar.sizeHint().width(), most > 0))
        self._keep_width(0, False)
        self._rows.setSpacing(8)
        self._rows.addSpacing(12)
        self._rows.addWidget(label("In this job", "section"))
        self._rows.addWidget(rule())
        self._list = QVBoxLayout()
        self._list.setSpacing(2)
        self._rows.addLayout(self._list)
        self._looks = QWidget()
        looks = QVBoxLayout(self._looks)
        looks.setContentsMargins(0, 12, 0, 0)
        looks.setSpacing(8)
        looks.addWidget(label("Picture strength here"))
        self.strength = SliderField(0, 100, "Picture strength", " %")
        self.strength.moved.connect(lambda value: session.desk.set_strength(value / 100))
        self.strength.field.refused.connect(session.messages.refused)
        looks.addWidget(self.strength)
        looks.addWidget(label("Kept for each stage.", "quiet", wrap=True))
        self._rows.addWidget(self._looks)
        self._rows.addStretch(1)
        self.left.connect(session.messages.canvas_asked)
        session.marks_changed.connect(self._settle_foot)
        self._listed: tuple[object, ...] | None = None
        self.refresh()

    def put(self, slip: Slip) -> None:
        """Show another tool's slip, from its top."""
        bar = self._scroll.verticalScrollBar()
        assert bar is not None
        bar.setValue(0)
        if self.slip is not None:
            at = QApplication.focusWidget()
            if at is not None and (self.slip.isAncestorOf(at) or self.slip.foot.isAncestorOf(at)):
                self.left.emit()  # else Qt looks for who has the keys next in what is taken apart
            self.slip.leave()
            for layout, part in ((self._rows, self.slip), (self._outer, self.slip.foot)):
                part.hide()
                layout.removeWidget(part)
                part.deleteLater()
        self.slip = slip
        self._rows.insertWidget(0, slip)
        self._outer.addWidget(slip.foot)
        self._settle_foot()
        for made in (*slip.findChildren(QPushButton), *slip.foot.findChildren(QPushButton)):
            if made.property("part") in ("main", "plain") and made.menu() is None:
                made.clicked.connect(
                    self._session.messages.canvas_asked
                )  # keys belong to the canvas again

    def press_main(self) -> None:
        """Enter does what the slip's brass button does, or says why it cannot be done."""
        foot = self.slip.foot if self.slip is not None else None
        main = foot.main if foot is not None else None
        if main is not None and main.isEnabled():
            main.click()
        elif main is not None and foot is not None and foot.words.text():
            words = foot.words.text()
            self._session.messages.refused.emit(
                words if words.endswith(("…", ".")) else f"{words}."
            )

    def words_of_enter(self) -> str:
        """What Enter does now, and that in numbers, or why it cannot; empty where it does nothing."""
        foot = self.slip.foot if self.slip is not None else None
        main = foot.main if foot is not None else None
        if foot is None or main is None:
            return ""
        words = foot.words.text()
        return f"Enter: {main.text()}{f' ({words})' if words else ''}"

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter, wherever the focus is; a field takes it itself where something was typed."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if not event.isAutoRepeat():
                self.press_main()
        else:
            super().keyPressEvent(event)

    def _keep_width(self, bar: int, is_scrolled: bool) -> None:
        """What scrolls is as broad as the foot, with a scroll bar and without."""
        self._rows.setContentsMargins(18, 16, 18 - (bar if is_scrolled else 0), 16)

    def _stops(self) -> list[QWidget]:
        """The foot comes after all that scrolls, wherever that stands now."""
        stops, foot = super()._stops(), self.slip.foot if self.slip else None
        in_foot = [at for at in stops if foot is not None and foot.isAncestorOf(at)]
        return [*(at for at in stops if at not in in_foot), *in_foot]

    def _settle_foot(self) -> None:
        if self.slip is not None:
            self.slip.foot.settle()

    def refresh(self) -> None:
        """Show what is so now."""
        if self.slip:
            self.slip.refresh()
            self._settle_foot()
        self.strength.set_value(100 * self._session.desk.strength)
        job = self._session.job
        self._looks.setVisible(bool(job.pictures))
        chosen = None if self._session.selection.hands_empty else self._session.selection.picture
        listed = (
            job.pictures,
            job.sheet,
            job.contours,
            job.parts,
            job.placements,
            job.helpers,
            job.points,
            job.guides,
            job.unit,
            self._session.selection.hidden,
            chosen.id if chosen else "",
        )
        if self._listed is not None and same(listed, self._listed):
            return
        self._listed = listed
        emptied(self._list)
        for picture in reversed(job.pictures):
            self._list.addWidget(self._picture_row(picture, picture is chosen))
        material = f"{job.sheet.material}, {self._length(job.sheet.thickness)} · {self._length(job.sheet.width)} × {self._length(job.sheet.height)}"
        self._list.addWidget(_plain_row(job.sheet.name, material))
        if job.contours:
            self._list.addWidget(_plain_row("Contours", self._contours_words()))
        self._list_parts("", 0, _MOST_PARTS)
        self._list_lesser(job)

    def _list_lesser(self, job: Job) -> None:
        """Helper contours, points, guides and what is hidden, each with what ends it."""
        for things, one, act, run in (
            (
                job.helpers,
                "helper contour",
                "Free",
                lambda: chosen_acts.from_helpers(self._session),
            ),
            (
                job.points,
                "point",
                "Remove",
                lambda: self._session.edit(
                    "remove all points", remove_points(job, [p.id for p in job.points])
                ),
            ),
            (
                job.guides,
                "guide",
                "Remove",
                lambda: self._session.edit("remove all guides", remove_guides(job)),
            ),
        ):
            if things:
                row = side_by_side(
                    label(count_words(len(things), one), "quiet"), button(act, "choice", run)
                )
                row.setContentsMargins(9, 0, 0, 0)
                self._list.addWidget(row)
        hidden = self._session.selection.hidden
        hidden = hidden and hidden & job.layout.contour_by_id.keys()
        if hidden:
            row = side_by_side(
                label(f"{count_words(len(hidden), 'contour')} hidden", "brass"),
                button("Show", "choice", lambda: self._session.selection.hide(frozenset())),
            )
            row.setContentsMargins(9, 0, 0, 0)
            self._list.addWidget(row)

    def _list_parts(self, within: str, deep: int, room: int) -> int:
        """Parts as a tree, as many rows as there is room for; how many are left."""
        known = {part.id for part in self._session.job.parts}
        for part in self._session.job.parts:
            inside = (part.within if part.within in known else "") == within
            if inside and room > 0 and self._is_listed(part):
                self._list.addWidget(self._part_row(part, deep))
                room = self._list_parts(part.id, deep + 1, room - 1)
        return room

    def _is_listed(self, part: Part) -> bool:
        """Whether people made it: what symmetry laid of one contour is no part to them."""
        laid = [each for each in self._session.job.placements if each.part == part.id]
        alone = len(in_part(self._session.job, part.id)) < 2
        return not (alone and laid and all(each.symmetric for each in laid))

    def _part_row(self, part: Part, deep: int) -> QWidget:
        session, members = self._session, in_part(self._session.job, part.id)
        copies = sum(each.part == part.id for each in session.job.placements)
        choose = button(
            f"{_short(part.name, 22)}  ·  {len(members)}{f' × {copies + 1}' if copies else ''}",
            "row",
            lambda: session.selection.choose(
                in_part(session.job, part.id) - session.selection.hidden
            ),
        )
        follows = f", {copies} that follow" if copies else ""
        choose.setAccessibleName(
            f"Part {part.name}, {count_words(len(members), 'contour')}{follows}"
        )
        words = "Free it" if part.locked else "Lock it: neither chosen nor moved by a click"
        lock = icon_button(
            "fixed" if part.locked else "free", self._t.quiet, words, lambda: self._lock(part)
        )
        row = side_by_side(choose, lock, spacing=2)
        row.setContentsMargins(8 + 14 * deep, 0, 0, 0)
        if layout := row.layout():
            layout.setStretch(0, 1)  # type: ignore[attr-defined]
        return row

    def _lock(self, part: Part) -> None:
        session = self._session
        session.edit(
            "free a part" if part.locked else "lock a part",
            change_part(session.job, part.id, locked=not part.locked),
        )
        if not part.locked:
            session.selection.choose(session.selection.ids - in_part(session.job, part.id))

    def _contours_words(self) -> str:
        """How many, and of several sheets on which."""
        job = self._session.job
        if len(job.sheets) == 1:
            return f"{sum(counted(job))} in this job"
        job = job.layout
        on = {
            sheet.id: sum(item.sheet == sheet.id for item in job.contours) for sheet in job.sheets
        }
        return " · ".join(f"{on[sheet.id]} on {sheet.name}" for sheet in job.sheets if on[sheet.id])

    def _length(self, mm: float) -> str:
        return format_length(mm, self._session.job.unit, places=1)

    def _picture_row(self, picture: Picture, chosen: bool) -> QWidget:
        made = QFrame()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        choose = QPushButton()
        choose.setProperty("part", "row")
        choose.setCheckable(True)
        choose.setChecked(chosen)
        choose.setAccessibleName(f"Picture {picture.name}")
        choose.setFixedHeight(px(46))
        choose.clicked.connect(lambda: self._session.selection.choose_picture(picture.id))
        words = QVBoxLayout(choose)
        words.setContentsMargins(8, 3, 8, 3)
        words.setSpacing(0)
        words.addWidget(_passive(label(_short(picture.name, 30), "value")))
        sized = "to scale" if picture.is_sized else "size not known"
        words.addWidget(
            _passive(label(f"{picture.width} × {picture.height} px · {sized}", "quiet"))
        )
        row.addWidget(choose, 1)
        eye = QPushButton()
        eye.setProperty("part", "icon")
        eye.setIcon(icon("eye" if picture.visible else "eye-off", self._t.quiet))
        eye.setFixedSize(px(28), px(28))
        eye.setIconSize(QSize(px(18), px(18)))
        eye.setToolTip("Hide" if picture.visible else "Show")
        eye.setAccessibleName(f"{'Hide' if picture.visible else 'Show'} {picture.name}")
        words_for = "hide a picture" if picture.visible else "show a picture"
        eye.clicked.connect(
            lambda: self._session.edit(
                words_for,
                change_picture(self._session.job, picture.id, visible=not picture.visible),
            )
        )
        row.addWidget(eye)
        return made


class _Column(QWidget):
    """What the slip's scrolled part holds: as high as its wrapped words need at its width."""

    def minimumSizeHint(self) -> QSize:
        least, layout = super().minimumSizeHint(), self.layout()
        return (
            QSize(least.width(), max(least.height(), layout.totalHeightForWidth(self.width())))
            if layout and layout.hasHeightForWidth()
            else least
        )


def _passive(words: QLabel) -> QLabel:
    words.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
    return words


def _short(name: str, most: int) -> str:
    return name if len(name) <= most else f"{name[: most - 9]}…{name[-8:]}"


def _plain_row(name: str, about: str) -> QWidget:
    made = QWidget()
    rows = QVBoxLayout(made)
    rows.setContentsMargins(9, 4, 8, 4)
    rows.setSpacing(0)
    rows.addWidget(label(name, "value"))
    rows.addWidget(label(about, "quiet"))
    return made
