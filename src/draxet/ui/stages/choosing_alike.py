"""Contours like the chosen ones are chosen as well."""

from __future__ import annotations

from draxet.job.findings import count_words
from draxet.ui.model.session import Session

__all__ = ["choose_alike"]


def choose_alike(session: Session, how: str) -> None:
    """Choose contours alike in ``size`` or ``colour``, ``open`` ones, or ``tiny`` ones: smaller
    than the process can make."""
    from draxet.mend.alike import (
        alike_in_colour,
        alike_in_size,
        tiny,
    )  # not needed to show a window

    job, shown = session.job, session.selection.shown
    if how == "size":
        found = alike_in_size(shown, session.selection.items, job.exactness.tolerance)
    elif how == "colour":
        found = alike_in_colour(shown, session.selection.items)
    elif how == "open":
        found = {item.id for item in session.layout.opened} - session.selection.hidden
    else:
        found = tiny(shown, job.smallest_feature)
    if not found:
        session.messages.refused.emit(
            "No contour is open."
            if how == "open"
            else "No contour is smaller than the smallest feature."
        )
        return
    session.selection.choose(found)
    session.messages.announced.emit(f"{count_words(len(found), 'contour')} chosen")
