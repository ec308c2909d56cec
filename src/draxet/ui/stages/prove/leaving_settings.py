"""What is set for what leaves, and what is said of it."""

from __future__ import annotations

from typing import Annotated

from draxet.job.asked import Asked
from draxet.job.findings import count_words
from draxet.job.ranges import OneOf, Within
from draxet.prove.handoff import ReadBack
from draxet.prove.leaving import Left
from draxet.record import record

__all__ = ["LeavingSettings", "facts", "told_of"]


@record
class LeavingSettings:
    """kinds : of files that leave. frame : whether drawings have one of the sheet's size. dpi,
    transparent : of the picture. around, power : of the frame of the job."""

    kinds: tuple[str, ...] = ("dxf",)
    frame: Annotated[bool, Asked("The sheet's rim in drawings")] = False
    dpi: Annotated[float, Within(20.0, 2400.0), Asked("Picture", " dpi")] = 300.0
    pixels: Annotated[
        int, Within(0, 20_000), Asked("Pixels wide", tip="0 goes by the dots an inch")
    ] = 0
    transparent: Annotated[bool, Asked("Picture without a ground")] = False
    art: Annotated[bool, Asked("Only what is worked, not the sheet")] = False
    only: Annotated[bool, Asked("Only the chosen contours")] = False
    counts: Annotated[
        str,
        OneOf(("origin", "corner", "middle")),
        Asked(
            "Programs count from the",
            choices=(("origin", "origin"), ("corner", "work's corner"), ("middle", "middle")),
            tip="the sheet's origin, or where the head stands now: over the lower left or the middle of the work",
        ),
    ] = "origin"
    around: Annotated[
        str,
        OneOf(("box", "hull")),
        Asked("Frame round the job's", choices=(("box", "box"), ("hull", "hull"))),
    ] = "box"
    power: Annotated[
        float, Within(0.0, 20.0), Asked("Power of the frame", " %", tip="0 runs it with nothing on")
    ] = 0.0


def told_of(left: list[Left]) -> str:
    """How many files left, or did not."""
    failed = sum(not each.matches for each in left)
    if not failed:
        return f"{count_words(len(left), 'file')} handed off and read back"
    return f"{count_words(failed, 'file')} did not read back and {'was' if failed == 1 else 'were'} not kept"


def facts(back: ReadBack | None) -> tuple[str, str, str, str]:
    if back is None:
        return "–", "–", "–", "–"
    name = back.file if len(back.file) <= 26 else f"{back.file[:17]}…{back.file[-8:]}"
    return (
        name,
        f"{back.contours} of {back.wanted}, {back.closed} of {back.closed_wanted}",
        f"{back.worst:.4f} mm",
        f"{back.size[0]:.2f} × {back.size[1]:.2f} mm",
    )
