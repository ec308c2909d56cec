"""The colour that what is drawn takes: none, one of the job's, or one clicked in the picture."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from draxet.job.contour_edits import colour_contours
from draxet.ui.controls.slip_parts import button, emptied, label
from draxet.ui.look.icons import icon
from draxet.ui.look.style import px
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.session import Session
from draxet.ui.stages.trace.drawing_tool import DrawSettings
from draxet.ui.stages.trace.nearness import take_colour
from draxet.ui.stages.trace_settings import trace_settings

__all__ = ["ColourRow", "palette_of"]

_MOST = 5
_PICTURE = "as the picture has it"
_PLAIN = ("#1E3550", "#CF4A3C", "#3C8259", "#B9812B")
"""What is offered where neither contours nor swatches have a colour yet."""


def palette_of(session: Session) -> list[str]:
    """The colours of contours and swatches, each once, and a few plain ones where there is room."""
    swatches = [
        "#{:02x}{:02x}{:02x}".format(*swatch.colour) for swatch in trace_settings(session).swatches
    ]
    used = [item.colour.lower() for item in session.job.contours if item.colour]
    return list(dict.fromkeys([*used, *swatches, *(colour.lower() for colour in _PLAIN)]))[:_MOST]


class ColourRow(QWidget):
    """Patches to click; what is chosen takes the colour as well."""

    def __init__(self, session: Session, settings: DrawSettings) -> None:
        super().__init__()
        self._session, self._settings = session, settings
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(4)
        self._shown: object = None
        self.patches: dict[str, QPushButton] = {}
        self.refresh()

    def refresh(self) -> None:
        colours = palette_of(self._session)
        state = (
            colours,
            self._settings.colour,
            self._settings.colour_of_picture,
            bool(self._session.job.pictures),
        )
        if self._shown == state:
            return
        self._shown = state
        emptied(self._row)
        self._row.addWidget(label("Colour"), 1)
        self.patches = {}
        for colour in ("", *([_PICTURE] if state[-1] else []), *colours):
            made = self.patches[colour] = button(
                "" if colour else "–",
                "patch",
                lambda colour=colour: self.take(colour),  # type: ignore[misc]
            )
            made.setCheckable(True)
            made.setChecked(
                colour == (_PICTURE if self._settings.colour_of_picture else self._settings.colour)
            )
            made.setFixedSize(px(24), px(22))
            made.setAccessibleName(f"Colour {colour or 'none'}")
            made.setToolTip(colour or "no colour")
            if colour == _PICTURE:
                made.setIcon(icon("picture", LIGHT.graphite))
            elif colour:
                made.setStyleSheet(
                    f"QPushButton {{ background: {colour}; border: 1px solid #63666A; }} QPushButton:checked, QPushButton:focus {{ border: 3px solid #9A6A1D; }}"
                )
            self._row.addWidget(made)

    def take(self, colour: str) -> None:
        """What is drawn from now on, and what is chosen, has this colour."""
        self._settings.colour, self._settings.colour_of_picture = (
            "" if colour == _PICTURE else colour,
            colour == _PICTURE,
        )
        session = self._session
        if session.selection and colour == _PICTURE:
            take_colour(session)
        elif session.selection:
            session.edit(
                "give a colour" if colour else "take the colour away",
                colour_contours(session.job, session.selection, colour),
            )
        session.tool_changed.emit()
        session.canvas_asked.emit()
