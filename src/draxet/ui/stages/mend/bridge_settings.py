"""Settings of bridges that are set."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.ranges import OneOf, Size, Within
from draxet.record import record

__all__ = []


@record
class BridgeSettings:
    """click : what a click makes. width : what is left of a bridge after the cut, in mm. count :
    bridges of an island."""

    click: Annotated[
        str,
        OneOf(("across", "line", "island")),
        Asked(
            "A click holds by",
            choices=(("across", "a strip"), ("line", "a gap"), ("island", "all round")),
        ),
    ] = "across"
    width: Annotated[Size, Asked("Width left", "mm")] = 3.0
    count: Annotated[int, Within(1, 24), Asked("Bridges an island")] = 2
