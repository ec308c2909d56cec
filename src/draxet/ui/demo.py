"""The demo jobs: pictures from the Brindlecote tram shed as they came from the scanner and the
camera."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtGui import QImage

from draxet.gather.load import peek, read_picture
from draxet.gather.place import arrival
from draxet.job.picture_edits import add_picture
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.model.picture_store import to_qimage

__all__ = ["DEMOS", "demo_image", "demo_job"]

DEMOS = {
    "bracket": (
        "Stop-sign bracket",
        "Bracket drawing.jpg",
        Sheet("sheet-0", "Sheet 1", 340.0, 320.0, 3.0, "steel"),
        "a scanned drawing, askew\nplasma, 3 mm steel",
    ),
    "leaf": (
        "Leaf stencil",
        "Leaf stencil and card.jpg",
        Sheet("sheet-0", "Sheet 1", 420.0, 320.0, 2.0, "plywood", machine="desk-laser"),
        "a photo at an angle\nlaser, 2 mm plywood",
    ),
    "badge": (
        "Conductor's badge",
        "Badge.jpg",
        Sheet("sheet-0", "Sheet 1", 120.0, 90.0, 3.0, "board", machine="gantry-router"),
        "three flat colours\nlayered board",
    ),
}
_FOLDER = Path(__file__).resolve().parents[3] / "demo"


def demo_job(name: str = "bracket") -> Job:
    """One of the tram shed's pictures on its sheet, neither level nor to scale yet.

    Raises
    ------
    KeyError : where there is no demo of that name.
    """
    title, words, sheet, _ = DEMOS[name]
    source = (_FOLDER / f"{name}.jpg").read_bytes()
    loaded = read_picture(source, words)
    job, _ = add_picture(
        Job(title, sheets=(sheet,)),
        words,
        source,
        loaded.size,
        arrival(loaded.size, loaded.dpi, sheet),
        loaded.dpi,
    )
    return job


def demo_image(name: str, width: int, height: int) -> QImage:
    """A demo's picture, small."""
    return to_qimage(peek((_FOLDER / f"{name}.jpg").read_bytes(), name, max(width, height)).small)
