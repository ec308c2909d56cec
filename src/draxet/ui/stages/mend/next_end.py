"""Open ends are visited one after the other."""

from __future__ import annotations

from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage

__all__ = ["next_open_end"]


def next_open_end(session: Session) -> None:
    """Go to the open end after the one that was visited last, and choose its contour."""
    session.open_stage(Stage.MEND)
    ends = session.layout.open_ends
    if not ends:
        return
    contour, x, y = ends[(session.visited_end + 1) % len(ends)]
    session.visited_end = ends.index((contour, x, y))
    session.selection.choose({contour})
    session.messages.place_asked.emit(x, y)
