"""The slip of words that are set."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QPlainTextEdit

from draxet.job.lettering import letters_of
from draxet.lettering.faces import installed_faces, shipped_faces
from draxet.progress import Progress
from draxet.ui.controls.questions import ask_which
from draxet.ui.controls.slip_parts import allow, button, fact_row, label, menu_button, side_by_side
from draxet.ui.look.style import px
from draxet.ui.model.session import Session
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace.text import TextTool

__all__ = ["TextSlip"]

_LANE = "faces"

_NAMES = 30


class TextSlip(Slip):
    """The words, their face and size, and how they run."""

    def __init__(self, session: Session, tool: TextTool) -> None:
        super().__init__(
            session,
            "Text",
            "Words as contours, in a face and at a true capital height. They stay words until you turn them into contours.",
        )
        self._tool = tool
        self.words = QPlainTextEdit()
        self.words.setAccessibleName("Words")
        self.words.setPlaceholderText("type the words")
        self.words.setTabChangesFocus(True)
        self.words.setFixedHeight(px(76))
        self.words.textChanged.connect(lambda: tool.type(self.words.toPlainText()))
        self.face = menu_button(
            tool.settings.face,
            [
                *((face.name, self._face(face.name)) for face in shipped_faces()),
                ("Installed faces …", self._ask),
            ],
        )
        self.add(self.words, label("Face"), self.face)
        self.asked = self.ask(
            tool.settings,
            tool.change,
            ("height", "spacing", "leading", "align", "way", "away", "other_side"),
        )
        wide, self._wide = fact_row("Words")
        self.turn = button("Turn into contours", "plain", tool.turn_into_contours)
        self.again = button("New text", "plain", self._new)
        self.add(wide, side_by_side(self.again, self.turn))
        session.messages.text_asked.connect(self.words.setFocus)
        self.refresh()

    def _face(self, name: str) -> Callable[[], None]:
        return lambda: self._tool.change("face", name)

    def _ask(self) -> None:
        """Installed faces are looked for by a worker, then asked for."""

        def done(names: list[str]) -> None:
            if not names:
                self.session.messages.refused.emit(
                    "No other faces are installed on this machine; those that ship with Draxet are in the list."
                )
                return
            chosen = ask_which(
                self.window() or self, "Installed faces", "Set the words in", names, "Use it"
            )
            if chosen is not None:
                self._tool.change("face", names[chosen])

        def work(report: Progress) -> list[str]:
            report(0.1, "looking for installed faces")
            return [face.name for face in installed_faces()]

        self.session.workers.run(
            _LANE,
            work,
            done,
            lambda error: self.session.messages.refused.emit(
                f"Installed faces could not be found: {error}"
            ),
            owner=self,
        )

    def _new(self) -> None:
        self._tool.settings.words = ""
        self._tool.cancel()
        self.words.setFocus()

    def leave(self) -> None:
        self.session.workers.cancel(_LANE)

    def refresh(self) -> None:
        tool, shown = self._tool, self._tool.settings_in_hand()
        if self.words.toPlainText() != tool.words:
            self.words.blockSignals(True)
            self.words.setPlainText(tool.words)
            self.words.blockSignals(False)
        self.face.setText(shown.face if len(shown.face) <= _NAMES else f"{shown.face[:_NAMES]}…")
        self.asked.show_of(shown)
        along = shown.way == "along"
        for name in ("away", "other_side"):
            self.asked.rows[name].setVisible(along)
        found = tool.lettering
        self._wide.setText(
            f"{len(letters_of(self.session.job, found))} contours"
            if found
            else f"{len(self.session.job.letterings)} in this job"
        )
        allow(self.turn, found, "click words first")
