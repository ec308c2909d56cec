"""Embroidery files, and the list of their threads."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from draxet.formats.embroidery import (
    ENDINGS,
    HOLD_NO_COLOURS,
    embroidery_bytes,
    read_embroidery,
    same_needle_points,
)
from draxet.formats.layer import FormatError
from draxet.job.findings import count_words
from draxet.leaving.leaving_kind import Leaving, LeavingKind, ReadBack
from draxet.make.stitching.stitch_plan import StitchPlan
from draxet.make.stitching.stitched_sheet import StitchedSheet
from draxet.progress import Progress

__all__ = ["STITCH_KINDS", "thread_list"]


def _plan(leaving: Leaving, path: Path) -> StitchPlan:
    product = leaving.product
    if not isinstance(product, StitchedSheet):
        raise FormatError(f"the {leaving.machine.name.lower()} does not sew; choose a stitcher")
    if not len(product):
        raise FormatError(
            "nothing would be sewn: no contour on this sheet has an operation yet; give one in Make"
        )
    return product.plan


def _read_back(ending: str) -> Callable[[StitchPlan, Path, Progress], ReadBack]:
    def read_back(plan: StitchPlan, path: Path, report: Progress) -> ReadBack:
        found = read_embroidery(path.read_bytes(), ending, path.name)
        good = same_needle_points([(b.colour, b.points) for b in plan.blocks], found)
        held = (
            "it holds no colours: take the list of threads"
            if ending in HOLD_NO_COLOURS
            else f"threads {', '.join(found.colours)}"
            if list(found.colours) != plan.colours
            else "in their colours"
        )
        words = f"{len(plan)} needle points, {count_words(len(plan.colours), 'thread')}, {held}"
        return ReadBack(good, words if good else "it did not read back as it was written")

    return read_back


def _stitches(ending: str) -> LeavingKind[StitchPlan]:
    return LeavingKind(
        f"stitches-{ending}",
        f"Stitches, {ending.upper()}",
        f".{ending}",
        _plan,
        lambda plan, report: embroidery_bytes([(b.colour, b.points) for b in plan.blocks], ending),
        _read_back(ending),
        runs=True,
        signs=True,
        of="stitches",
    )


def thread_list(plan: StitchPlan) -> bytes:
    """The threads in the order in which they are wanted, as text."""
    rows = [
        f"{number}  {colour}  {name}"
        for number, (colour, name) in enumerate(
            zip(plan.colours, plan.thread_names, strict=True), 1
        )
    ]
    return ("\n".join(["Threads, in their order", *rows]) + "\n").encode()


_THREADS = LeavingKind(
    "threads",
    "List of threads",
    " - threads.txt",
    _plan,
    lambda plan, report: thread_list(plan),
    lambda plan, path, report: ReadBack(
        path.read_bytes() == thread_list(plan), count_words(len(plan.colours), "thread")
    ),
    of="stitches",
)
STITCH_KINDS = (*(_stitches(ending) for ending in ENDINGS), _THREADS)
