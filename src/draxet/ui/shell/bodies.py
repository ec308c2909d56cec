"""The view of bodies in the place of the canvas, made when it is first wanted."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from draxet.ui.canvas.view import Canvas
from draxet.ui.look.tokens import Tokens
from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage

if TYPE_CHECKING:
    from draxet.ui.stages.make.bodies_view import BodiesView

__all__ = ["Bodies"]

_STAGES = (Stage.MAKE, Stage.PROVE)


class _Seen(Protocol):
    def fit_all(self) -> None: ...

    def zoom_by(self, factor: float) -> None: ...


class Bodies(QObject):
    """Puts it there, and the canvas back where it was."""

    def __init__(self, session: Session, canvas: Canvas, tokens: Tokens, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._canvas, self._tokens = session, canvas, tokens
        self.view: BodiesView | None = None
        session.document.ending.connect(self.hide)
        session.desk.stage_changed.connect(self._follow_stage)

    @property
    def shown(self) -> bool:
        return self.view is not None and not self.view.isHidden()

    @property
    def seen(self) -> _Seen:
        """What is seen: they, or the canvas."""
        return self.view if self.view is not None and self.shown else self._canvas

    @property
    def pane(self) -> QWidget:
        """The same as what the keys go to."""
        return self.view if self.view is not None and self.shown else self._canvas

    def toggle(self) -> None:
        self.hide() if self.shown else self._show()

    def _show(self) -> None:
        if self._session.desk.stage not in _STAGES:
            self._session.open_stage(Stage.MAKE)
        view = self._made()
        self._canvas.hide()
        view.show()
        view.setFocus()
        self._session.tool_changed.emit()

    def hide(self) -> None:
        if self.view is not None and self.shown:
            self.view.hide()
            self._canvas.show()
            self._canvas.setFocus()
            self._session.tool_changed.emit()

    def _follow_stage(self) -> None:
        if self._session.desk.stage not in _STAGES:
            self.hide()

    def _made(self) -> BodiesView:
        if self.view is None:
            from draxet.ui.stages.make.bodies_view import BodiesView  # not needed to show a window

            self.view = BodiesView(self._session, self._tokens)
            self.view.hide()
            self.view.left.connect(self.hide)
            column = _column_of(self._canvas)
            column.insertWidget(column.indexOf(self._canvas) + 1, self.view, 1)
        return self.view


def _column_of(canvas: Canvas) -> QVBoxLayout:
    """The layout in which the canvas stands."""
    holder = canvas.parentWidget()
    assert holder is not None
    return next(each for each in holder.findChildren(QVBoxLayout) if each.indexOf(canvas) >= 0)
