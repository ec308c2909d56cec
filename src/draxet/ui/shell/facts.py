"""The facts strip along the bottom: size, trust, contours, cut and time; each leads to where it
comes from."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton

from draxet.job.extent import extent_of
from draxet.job.layout_counts import counted
from draxet.job.picture_records import Picture
from draxet.job.remember import same
from draxet.ui.controls.pane import Pane
from draxet.ui.controls.slip_parts import label, set_part
from draxet.ui.look.icons import icon
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.chosen import Chosen
from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage
from draxet.units import format_length

__all__ = ["FactsStrip"]

_FACTS = (
    ("Size", Stage.TRUE_UP),
    ("Trust", Stage.TRUE_UP),
    ("Contours", Stage.MEND),
    ("Cut", Stage.MAKE),
    ("Time", Stage.MAKE),
    ("Sewn", Stage.MAKE),
)
_FITTING = ("Size", "Contours", "Cut", "Time", "Trust", "Sewn")
"""The first of them are shown first."""


class FactsStrip(Pane):
    """Live numbers of the job, and where the pointer is."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("facts")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(px(34))
        self._session = session
        self.left.connect(session.messages.canvas_asked)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        self.values: dict[str, QPushButton] = {}
        self.names: dict[str, QLabel] = {}
        for name, stage in _FACTS:
            self.names[name] = label(name)
            row.addWidget(self.names[name])
            value = QPushButton("–")
            value.setProperty("part", "fact")
            value.setMinimumSize(px(24), px(24))
            value.setIconSize(QSize(px(16), px(16)))
            value.setToolTip(f"Go to {stage.words}")
            value.clicked.connect(lambda _, stage=stage: session.open_stage(stage))
            self.values[name] = value
            row.addWidget(value)
            row.addSpacing(16)
        row.addStretch(1)
        self._sized: tuple[object, ...] = ()
        self._extent = (0.0, 0.0)
        """How wide and high all of those is."""
        self._where = QLabel("")
        row.addWidget(self._where)
        self.refresh()

    def point(self, at: tuple[float, float] | None, zoom: float) -> None:
        """Show where the pointer is in the job, where it is anywhere, and how large that is
        seen."""
        unit = self._session.job.unit
        where = (
            f"x {format_length(at[0], unit, places=1, with_unit=False)}   y {format_length(at[1], unit, places=1)}   "
            if at
            else ""
        )
        self._where.setText(f"{where}{100 * zoom / 3.78:.0f} %")

    def refresh(self) -> None:
        """Show what is so now."""
        job, unit = self._session.job, self._session.job.unit
        picture = self._session.selection.picture
        size = self._size(picture)
        if size is not None:
            wide, high = size
            self._put(
                "Size",
                f"{format_length(wide, unit, places=1, with_unit=False)} × {format_length(high, unit, places=1)}",
            )
        else:
            self._put("Size", "not known yet" if picture else "–", fault=picture is not None)
        trust = _trust(picture) if picture and picture.known_lengths else None
        self._put(
            "Trust", f"± {format_length(trust, unit, places=2)}" if trust is not None else "–"
        )
        closed, opened = counted(job)
        self._put(
            "Contours",
            f"{closed} closed · {opened} open",
            fault=bool(job.opened),
        )
        self._put_products(unit)

    def _size(self, picture: Picture | None) -> tuple[float, float] | None:
        """Of what is chosen, else of all contours, else of the picture where that is known."""
        job, items = self._session.job, self._session.selection.items
        of = (job.contours, job.parts, job.placements)
        if items:
            facts = self._session.single(Chosen).facts
            return facts.size if facts is not None else self._extent
        if not same(of, self._sized):
            self._sized = of
            if job.contours:
                x0, y0, x1, y1 = extent_of(job) or job.sheet.box
                self._extent = (x1 - x0, y1 - y0)
        if job.contours:
            return self._extent
        if picture and picture.is_sized:
            return picture.width * picture.pixel_size, picture.height * picture.pixel_size
        return None

    def _put_products(self, unit: str) -> None:
        """How much is cut, and how long it takes."""
        products = self._session.looked.products
        cut = sum(product.cut_mm for product in products)
        self._put(
            "Cut",
            (f"{cut / 1000:.2f} m" if unit in ("mm", "cm", "m") else format_length(cut, unit))
            if cut
            else "–",
        )
        seconds = round(sum(product.seconds for product in products))
        self._put(
            "Time",
            (f"{seconds // 60} min {seconds % 60} s" if seconds >= 60 else f"{seconds} s")
            if seconds
            else "–",
        )

        told = " · ".join(product.told for product in products if product.told)
        self._put("Sewn", told or "–")
        self._fit()
        traits = self._session.job.machine_of(self._session.job.sheet).traits
        self.names["Cut"].setText(traits.line.capitalize())
        self.names["Sewn"].setText(traits.made)

    def _fit(self) -> None:
        """As many facts as there is room for; those that are left out first stand last."""
        layout = self.layout()
        assert layout is not None
        for name in _FITTING:
            self._show(name, name != "Sewn" or self.values[name].text() != "–")
        for name in reversed(_FITTING):
            layout.invalidate()
            if layout.sizeHint().width() <= self.width():
                break
            self._show(name, False)

    def _show(self, name: str, shown: bool) -> None:
        for widget in (self.names[name], self.values[name]):
            widget.setVisible(shown)

    def minimumSizeHint(self) -> QSize:
        """What has no room is left out."""
        return QSize(px(120), super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _put(self, name: str, words: str, *, fault: bool = False) -> None:
        self.values[name].setText(words)
        self.values[name].setAccessibleName(
            f"{name}: {words}{', to be looked at' if fault else ''}"
        )
        self.values[name].setIcon(icon("fault", LIGHT.coral_text) if fault else QIcon())
        set_part(self.values[name], fault="true" if fault else "false")


def _trust(picture: Picture) -> float | None:
    from draxet.trueup.true import trust_of  # not needed to show a window

    return trust_of(picture, picture.known_lengths[0].length)
