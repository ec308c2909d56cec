"""What commands act with."""

from __future__ import annotations

from collections.abc import Callable

from draxet.record import record
from draxet.ui.canvas.view import Canvas
from draxet.ui.model.session import Session
from draxet.ui.shell.bodies import Bodies
from draxet.ui.shell.job_files import JobFiles
from draxet.ui.shell.opening import Opening
from draxet.ui.stages.slip import Slip

__all__ = ["Hands", "why_none_chosen"]


@record(frozen=True)
class Hands:
    """What commands act with."""

    session: Session
    jobs: JobFiles
    opening: Opening
    canvas: Canvas
    bodies: Bodies
    put_slip: Callable[[Slip], None]
    other_pane: Callable[[bool], None]
    find: Callable[[], None]
    show_keys: Callable[[], None]
    show_history: Callable[[], None]
    life_size: Callable[[bool], None]
    about: Callable[[], None]
    close: Callable[[], object]


def why_none_chosen(s: Session) -> str:
    return "" if s.selection else "no contour is chosen"
