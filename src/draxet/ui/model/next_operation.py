"""What the next operation of a kind will be like, on the sheet in hand."""

from __future__ import annotations

from typing import TypeVar

from draxet.job.operations import Operation
from draxet.ui.model.session import Session

__all__ = ["keep_next", "next_operation"]

_Kind = TypeVar("_Kind", bound=Operation)


def next_operation(session: Session, kind: type[_Kind]) -> _Kind:
    """As it was set last for the machine, the material and the thickness, else by the recipe."""
    from draxet.make.first import first_of  # not needed to show a window

    key = _key(session, kind)
    if not session.desk.has_kept(key):
        session.desk.keep(key, first_of(kind, session.job))
    return session.desk.settings(key, kind)


def keep_next(session: Session, operation: Operation) -> None:
    """The next one of its kind will be like it."""
    session.desk.keep(_key(session, type(operation)), operation)


def _key(session: Session, kind: type[Operation]) -> str:
    sheet = session.job.sheet
    machine = session.job.machine_of(sheet).id
    return f"next {kind.__name__} on {machine}, {sheet.material} {sheet.thickness:g} mm"
