"""The demo jobs: pictures from the Brindlecote tram shed as they came from the scanner and the
camera."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtGui import QImage

from draxet.gather.load import peek, read_picture
from draxet.gather.place import arrival
from draxet.job.operations import AnyOperation, Raise, Stitch
from draxet.job.picture_edits import add_picture, mean_size
from draxet.job.records import Job
from draxet.job.sheet_records import Base, Sheet
from draxet.record import record
from draxet.ui.model.picture_store import to_qimage

__all__ = ["DEMOS", "Demo", "demo_image", "demo_job"]


@record(frozen=True)
class Demo:
    """A demo's title, its picture and what that was called, the sheet it lies on, what there is to
    say of it; how many dots an inch its scanner had, what is done to what is traced, and on which
    base, where that is said already."""

    title: str
    picture: str
    words: str
    sheet: Sheet
    about: str
    dpi: float = 0.0
    operations: tuple[AnyOperation, ...] = ()
    bases: tuple[Base, ...] = ()


DEMOS = {
    "bracket": Demo(
        "Stop-sign bracket",
        "bracket",
        "Bracket drawing.jpg",
        Sheet("sheet-0", "Sheet 1", 340.0, 320.0, 3.0, "steel"),
        "a scanned drawing, askew\nplasma, 3 mm steel",
    ),
    "leaf": Demo(
        "Leaf stencil",
        "leaf",
        "Leaf stencil and card.jpg",
        Sheet("sheet-0", "Sheet 1", 420.0, 320.0, 2.0, "plywood", machine="desk-laser"),
        "a photo at an angle\nlaser, 2 mm plywood",
    ),
    "badge": Demo(
        "Conductor's badge",
        "badge",
        "Badge.jpg",
        Sheet("sheet-0", "Sheet 1", 120.0, 90.0, 3.0, "board", machine="gantry-router"),
        "three flat colours\nlayered board",
    ),
    "patch": Demo(
        "Badge as a patch",
        "badge",
        "Badge.jpg",
        Sheet(
            "sheet-0",
            "Cloth",
            180.0,
            130.0,
            1.0,
            "cloth",
            colour="#8c8a80",
            machine="bench-stitcher",
        ),
        "what is traced is stitched\nas it closes, in its hoop",
        254.0,
        (Stitch("operation-1", takes=True),),
    ),
    "plaque": Demo(
        "Badge on a plaque",
        "badge",
        "Badge.jpg",
        Sheet("sheet-0", "Sheet 1", 120.0, 90.0, 3.0, "plastic", machine="layer-printer"),
        "what is traced is raised\nas it closes, on a base",
        254.0,
        (Raise("operation-1", takes=True),),
        (Base("sheet-0", "box", 3.0, 5.0, 6.0),),
    ),
    "knob": Demo(
        "Brake-handle knob",
        "knob",
        "Knob drawing.jpg",
        Sheet("sheet-0", "Sheet 1", 120.0, 90.0, 3.0, "plastic", machine="layer-printer"),
        "half a profile and its axis\nturned about that",
        127.0,
    ),
    "canopy": Demo(
        "Stop canopy",
        "canopy",
        "Canopy drawing.jpg",
        Sheet("sheet-0", "Sheet 1", 290.0, 200.0, 3.0, "plastic", machine="layer-printer"),
        "a plan, and a column drawn larger\nten columns from one",
        127.0,
    ),
}
_FOLDER = Path(__file__).resolve().parents[3] / "demo"


def demo_job(name: str = "bracket") -> Job:
    """One of the tram shed's pictures on its sheet, to scale only where its scanner said so.

    Raises
    ------
    KeyError : where there is no demo of that name.
    """
    demo = DEMOS[name]
    source = (_FOLDER / f"{demo.picture}.jpg").read_bytes()
    loaded = read_picture(source, demo.words)
    dpi = demo.dpi or loaded.dpi
    begun = Job(
        demo.title, sheets=(demo.sheet,), operations=demo.operations, bases=demo.bases, next_id=2
    )
    job, _ = add_picture(
        begun,
        demo.words,
        source,
        loaded.size,
        arrival(loaded.size, dpi, demo.sheet),
        dpi,
    )
    return mean_size(job, {picture.id for picture in job.pictures}) if demo.dpi else job


def demo_image(name: str, width: int, height: int) -> QImage:
    """A demo's picture, small."""
    source = (_FOLDER / f"{DEMOS[name].picture}.jpg").read_bytes()
    return to_qimage(peek(source, name, max(width, height)).small)
