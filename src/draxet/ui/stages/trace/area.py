"""The chosen area: only what lies in it is traced."""

from __future__ import annotations

from draxet.ui.controls.slip_parts import allow, button
from draxet.ui.model.session import Session
from draxet.ui.model.tool import BoxMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace_settings import TraceSettings, trace_settings

__all__ = ["ChosenAreaSlip", "ChosenAreaTool", "area_marks"]


def area_marks(settings: TraceSettings) -> list[Mark]:
    if not settings.area:
        return []
    xs, ys = [x for x, _ in settings.area], [y for _, y in settings.area]
    return [BoxMark(min(xs), min(ys), max(xs), max(ys))]


class ChosenAreaTool(Tool):
    """Drag a box: only what lies in it is traced from now on; a click beside it takes the whole
    picture again."""

    def __init__(self, session: Session) -> None:
        self.session, self.settings = session, trace_settings(session)
        self._from: Pointer | None = None
        self._to: Pointer | None = None

    def prompt(self) -> Prompt:
        if self.settings.area:
            return Prompt(
                "Chosen area: drag another box, or click beside it for the whole picture.",
                "Edges, Middles and Colours trace only what lies in it",
            )
        return Prompt(
            "Chosen area: drag a box round what is to be traced.",
            "earlier contours outside of it stay as they are",
        )

    def press(self, at: Pointer) -> None:
        self._from = self._to = at

    def move(self, at: Pointer) -> None:
        self._to = at

    def release(self, at: Pointer) -> None:
        begun, self._from = self._from, None
        if begun is None:
            return
        if min(abs(at.x - begun.x), abs(at.y - begun.y)) < 4 * at.pixel:
            self.settings.area = ()
            words = "The whole picture is traced again"
        else:
            self.settings.area = (
                (begun.x, begun.y),
                (at.x, begun.y),
                (at.x, at.y),
                (begun.x, at.y),
            )
            words = "Only the chosen area is traced from now on"
        self.session.tool_changed.emit()
        self.session.messages.announced.emit(words)

    def cancel(self) -> bool:
        begun, self._from = self._from is not None, None
        return begun

    def marks(self) -> list[Mark]:
        if self._from and self._to:
            return [BoxMark(self._from.x, self._from.y, self._to.x, self._to.y)]
        marks = area_marks(self.settings)
        if marks:
            xs, ys = [x for x, _ in self.settings.area], [y for _, y in self.settings.area]
            marks.append(TagMark(sum(xs) / 4, min(ys), "traced"))
        return marks


class ChosenAreaSlip(Slip):
    """What the chosen area is for."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(
            session,
            "Chosen area",
            "Only what lies in the box is traced, by edges, middles or colours; contours outside of it stay.",
        )
        self.whole = button("The whole picture", "plain", self._whole)
        self.add(self.whole)
        self.refresh()

    def _whole(self) -> None:
        trace_settings(self.session).area = ()
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def refresh(self) -> None:
        allow(
            self.whole,
            trace_settings(self.session).area,
            "the whole picture is traced already",
        )
