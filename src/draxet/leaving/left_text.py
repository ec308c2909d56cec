"""The words of the very file that leaves of a product, for whom it is played by."""

from __future__ import annotations

from typing import Any

from draxet.formats.embroidery import embroidery_bytes, read_embroidery, words_of
from draxet.job.product import LINES, Product
from draxet.job.records import Job
from draxet.job.sides import Run
from draxet.make.frame import frame_program
from draxet.prove.program_file import program_text

__all__ = ["left_text"]

_OWN = "dst"
"""Embroidery of this kind counts from where the sheet does."""


def left_text(job: Job, run: Run, product: Product, *, framed: bool = False) -> str:
    """A program as its machine reads it (of its frame, where that is meant); stitches as they stand
    in their file.

    Raises
    ------
    FormatError : where nothing is worked, or it is no product that can be played.
    """
    made: Any = product
    if product.product == LINES:
        ending = "plt" if product.machine.traits.plots else "nc"
        return program_text(job, run, frame_program(made) if framed else made, ending)
    runs = [(block.colour, block.points) for block in made.plan.blocks]
    return words_of(read_embroidery(embroidery_bytes(runs, _OWN), _OWN), made.machine.a_minute)
