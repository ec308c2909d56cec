"""How a machine wants its programs written: what differs from one to the other in the open
numeric-control language (ISO 6983, RS-274)."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.ranges import OneOf, Text, Within
from draxet.record import record

__all__ = ["PROGRAM_ENDINGS", "Dialect"]

PROGRAM_ENDINGS = ("nc", "ngc", "gcode", "tap", "cnc", "plt", "hpgl")
"""Of files that are taken for programs."""

_Word = Annotated[str, Text(40)]


@record(frozen=True)
class Dialect:
    """inches : whether lengths are in inches, else in mm. decimals : behind the point. numbers :
    whether lines are numbered. remarks : how comments are
    written. on, off : the words for beam, torch, spindle or pen; air_on, air_off and change
    likewise. stop : the word at which it waits until somebody tells it to go on. start, end : lines before and after everything."""

    inches: Annotated[bool, Asked("In inches")] = False
    decimals: Annotated[int, Within(2, 6), Asked("Decimals")] = 3
    numbers: Annotated[bool, Asked("Lines are numbered")] = False
    remarks: Annotated[
        str,
        OneOf(("(…)", "; …", "none")),
        Asked("Comments", choices=(("(…)", "(…)"), ("; …", "; …"), ("none", "none"))),
    ] = "(…)"
    on: _Word = "M3"
    off: _Word = "M5"
    air_on: _Word = "M8"
    air_off: _Word = "M9"
    change: _Word = "M6"
    start: Annotated[str, Text(2000)] = ""
    end: Annotated[str, Text(2000)] = "M2"
    stop: _Word = "M0"
