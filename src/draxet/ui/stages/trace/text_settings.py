"""Settings of words that are set."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.ranges import Coordinate, OneOf, Size, Text, Within
from draxet.record import record

__all__ = []

_FACE = "Bitter Bold"


@record
class TextSettings:
    """Of the next text: see ``Lettering``. way : whether it runs ``straight`` or ``along`` a
    contour, on its other ``side`` or not."""

    words: Annotated[str, Text(2000)] = ""
    face: Annotated[str, Text(1000)] = _FACE
    height: Annotated[Size, Asked("Capital height", "mm")] = 20.0
    spacing: Annotated[float, Within(-1000.0, 1000.0), Asked("More between letters", "mm")] = 0.0
    leading: Annotated[float, Within(0.1, 20.0), Asked("Rows apart, in heights")] = 1.6
    align: Annotated[
        str,
        OneOf(("left", "middle", "right")),
        Asked("Rows", choices=(("left", "left"), ("middle", "middle"), ("right", "right"))),
    ] = "left"
    way: Annotated[
        str,
        OneOf(("straight", "along")),
        Asked("A click sets it", choices=(("straight", "straight"), ("along", "along a contour"))),
    ] = "straight"
    away: Annotated[Coordinate, Asked("Away from it", "mm")] = 2.0
    other_side: Annotated[bool, Asked("On its other side")] = False
