"""The demo job: the stop-sign bracket of the Brindlecote tram shed, as its drawing came from the scanner."""

from __future__ import annotations

from pathlib import Path

from draxet.gather.load import read_picture
from draxet.gather.place import arrival
from draxet.job.edits import add_picture
from draxet.job.records import Job, Sheet

__all__ = ["demo_job"]

_FOLDER = Path(__file__).resolve().parents[3] / "demo"


def demo_job() -> Job:
    """The drawing on a sheet of steel, neither level nor to scale yet."""
    sheet = Sheet("sheet-0", "Sheet 1", 340.0, 320.0, 3.0, "steel")
    source = (_FOLDER / "bracket.jpg").read_bytes()
    size = read_picture(source, "bracket.jpg").size
    job, _ = add_picture(Job("Stop-sign bracket", sheets=(sheet,)), "Bracket drawing.jpg", source, size, arrival(size, None, sheet))
    return job
