"""How contours are arranged, kept with the job."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.ranges import Coordinate, Count, OneOf, Within
from draxet.record import record
from draxet.ui.model.session import Session

__all__ = ["WAYS", "ArrangeSettings", "arrange_settings"]

WAYS = (
    ("move", "move"),
    ("size", "size"),
    ("mirror", "mirror"),
    ("turn", "turn"),
    ("ring", "ring"),
)


@record
class ArrangeSettings:
    """way : how they were arranged last. copies, image : whether the original stays, and of a mirror. linked : whether
    copies have one shape with it. one_way : whether size changes along one direction alone. count,
    sweep (degrees), empty : places of a ring, and those (from 1) that stay empty. columns, rows,
    right, up (mm) : a grid."""

    way: Annotated[str, OneOf(tuple(name for name, _ in WAYS)), Asked("", choices=WAYS)] = "move"
    copies: Annotated[bool, Asked("Keep the original: add a copy")] = False
    image: Annotated[bool, Asked("Keep the original: add its image")] = True
    linked: Annotated[
        bool,
        Asked(
            "Copies follow the original",
            tip="One part, laid often: its shape and its work are the same in all of them",
        ),
    ] = False
    one_way: Annotated[bool, Asked("Along that direction alone")] = False
    count: Annotated[int, Within(2, 1000), Asked("Places")] = 6
    sweep: Annotated[float, Within(-360.0, 360.0, but=0.0), Asked("Over an angle of", "°")] = 360.0
    empty: Annotated[tuple[Annotated[int, Within(1, 1000)], ...], Count(0, 1000)] = ()
    columns: Annotated[int, Within(1, 1000), Asked("Columns")] = 2
    rows: Annotated[int, Within(1, 1000), Asked("Rows")] = 1
    right: Annotated[Coordinate, Asked("Right by", "mm")] = 20.0
    up: Annotated[Coordinate, Asked("Up by", "mm")] = 20.0


def arrange_settings(session: Session) -> ArrangeSettings:
    """The session's settings for arranging."""
    return session.desk.settings("arrange", ArrangeSettings)
