"""Damaged files of every kind that is read: each must end in something sound or in one sentence,
soon and in little memory."""

from __future__ import annotations

import contextlib
import io
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from bench.damage import mutated
from draxet.formats.embroidery import ENDINGS, embroidery_bytes, read_embroidery, words_of
from draxet.formats.layer import FormatError
from draxet.formats.step import step_bytes
from draxet.formats.step_in import read_step
from draxet.gather.drawings import read_drawing
from draxet.gather.load import PictureError, count_pages, peek, read_picture, thumbnails
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import is_closed
from draxet.geometry.spans import ARC
from draxet.job.contour_edits import add_contours
from draxet.job.file import JobFileError, save_job
from draxet.job.guide_edits import add_guide
from draxet.job.machine_kinds import MACHINES
from draxet.job.machine_kinds.stitcher import BENCH_STITCHER
from draxet.job.make_edits import put_across
from draxet.job.operating import add_operation
from draxet.job.operations import Raise, Stitch, Turn
from draxet.job.records import Job
from draxet.job.recovery import read_left
from draxet.job.sheet_records import Base, Sheet
from draxet.job.sides import runs_of, side_of
from draxet.job.solid_base import set_base
from draxet.job.sound import job_fault
from draxet.leaving.body_files import same_solids
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Stock
from draxet.make.products import product_of
from draxet.make.rows import RowError
from draxet.make.solids.exact_cells import NotExact
from draxet.make.solids.exact_sheet import exact_on
from draxet.make.solids.solid_sheet import SolidSheet
from draxet.make.stitching.stitched_sheet import StitchedSheet
from draxet.make.thread_lists import read_threads
from draxet.progress import Unwatched
from draxet.prove.run import findings_of_run

__all__ = ["FuzzReport", "fuzz", "samples"]

ROOT = Path(__file__).resolve().parent.parent


def samples() -> dict[str, bytes]:
    """A small sound file of every kind."""
    import ezdxf
    import pillow_heif
    from PIL import Image

    rng = np.random.default_rng(0)
    grey = np.full((60, 80), 230, np.uint8)
    grey[10:40, 20:60] = 40
    image = Image.fromarray(np.clip(grey + rng.normal(0, 6, grey.shape), 0, 255).astype(np.uint8))
    files: dict[str, bytes] = {}
    for ending, kind, more in (
        ("png", "PNG", {}),
        ("jpg", "JPEG", {"dpi": (300, 300)}),
        ("bmp", "BMP", {}),
        ("gif", "GIF", {}),
        ("webp", "WEBP", {}),
        ("pdf", "PDF", {}),
    ):
        buffer = io.BytesIO()
        image.convert("RGB" if kind in ("WEBP", "PDF", "JPEG") else "L").save(buffer, kind, **more)
        files[f"a.{ending}"] = buffer.getvalue()
    for name, compression in (("a.tif", "raw"), ("b.tif", "tiff_lzw"), ("c.tif", "group4")):
        buffer = io.BytesIO()
        pages = [image.convert("1" if compression == "group4" else "L")] * 3
        pages[0].save(
            buffer, "TIFF", save_all=True, append_images=pages[1:], compression=compression
        )
        files[name] = buffer.getvalue()
    buffer = io.BytesIO()
    pillow_heif.register_heif_opener()
    image.convert("RGB").save(buffer, "HEIF")
    files["a.heic"] = buffer.getvalue()
    files["a.svg"] = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="90mm" viewBox="0 0 90 90"><style>.a{fill:none;stroke:red}</style><g id="cut" transform="rotate(5)">'
        b'<rect class="a" x="3" y="4" width="50%" height="40" rx="5"/><circle cx="20" cy="20" r="9"/><path d="M10 10h20v-5.5a5 3 30 0 1 10 0C60 1 5 2 10 10ZM1 1q3 3 5 5t9 9"/>'
        b'<polygon points="1,2 30,4 5,50"/><use href="#s" x="5"/></g><defs><g id="s"><ellipse rx="4" ry="2"/></g></defs></svg>'
    )
    document = ezdxf.new("R2010")
    space = document.modelspace()
    document.blocks.new("B").add_circle((0, 0), 3)
    space.add_line((0, 0), (30, 5))
    space.add_arc((10, 5), 5, -90, 90)
    space.add_lwpolyline([(0, 0, 0.5), (10, 0, 0), (10, 10, -1)], format="xyb", close=True)
    space.add_spline([(0, 0), (5, 5), (10, 0), (15, 5)])
    space.add_ellipse((0, 0), (10, 0), 0.5)
    space.add_blockref(
        "B",
        (20, 30),
        dxfattribs={"row_count": 2, "column_count": 2, "row_spacing": 9, "column_spacing": 9},
    )
    text = io.StringIO()
    document.write(text)
    files["a.dxf"] = text.getvalue().encode()
    binary = io.BytesIO()
    document.write(binary, fmt="bin")
    files["b.dxf"] = binary.getvalue()
    files["a.nc"] = (
        b"(part)\nG21 G90 G17\nT1 M6\nM3 S18000\nG0 X1 Y2\nG1 Z-1.5 F600\nG1 X30.5 Y2 F1200\nG2 X40 Y12 I0 J10\nG3 X30 Y22 R12\nG4 P0.5\nG0 Z8\nM5\nM2\n"
    )
    files["a.plt"] = b"IN;SP1;VS10;PU0,0;PD400,0,400,400;PR-200,-100;PU;SP0;\n"
    files["a.rescue"] = (ROOT / "tests" / "job" / "files" / "python-3.11.2.rescue").read_bytes()
    square = np.array([(0, 0), (20, 0), (20, 20), (0, 20), (0, 0)], dtype=float)
    runs = [("#cf4a3c", square), ("#cf4a3c", square + 40), ("#1e3550", square + (0, 70))]
    files |= {f"a.{ending}": embroidery_bytes(runs, ending) for ending in ENDINGS}
    files["a.csv"] = b"name,colour\nDeep red,#c80a14\nSea;0;0;255\n"
    for path in (ROOT / "tests" / "job" / "files").glob("version-?.draxet"):
        files[path.name] = path.read_bytes()
    files["sewn.draxet"], files["raised.draxet"] = _sewn_job(), _raised_job()
    files["exact.draxet"] = _exact_job()
    return files


def _sewn_job() -> bytes:
    """A small job of which areas, a border and what lies between two lines are sewn, as a file."""
    bar = Contour.make([(20, 20), (60, 20), (60, 24), (20, 24)])
    lines = [Contour.make([(20, y), (60, y + 4)], closed=False) for y in (50, 55)]
    some = [bar, Contour.circle(40, 38, 5), *lines]
    sheet = Sheet(width=100, height=100, machine="bench-stitcher", material="cloth")
    job = add_contours(Job(sheets=(sheet,)), some, colours=["#cf4a3c", *["#1e3550"] * 3])
    ids = [item.id for item in job.contours]
    job = add_operation(job, Stitch(contours=tuple(ids[:2])))
    job = put_across(job, job.operations[0], (ids[0], 0.2), (ids[0], 0.7))
    for way, of in (("border", ids[1:2]), ("between", ids[2:])):
        job = add_operation(job, Stitch(way=way, contours=tuple(of)))
    return _as_file(job)


def _raised_job() -> bytes:
    """A small job of which areas are raised on a base and sunk into it, with walls that lean and edges
    that are taken off, as a file."""
    sheet = Sheet(width=100, height=100, machine="layer-printer", material="plastic")
    some = [Contour.circle(x, 50, 8) for x in (20.0, 32.0, 60.0, 80.0)]
    job = add_contours(Job(sheets=(sheet,)), some, colours=["#cf4a3c", *["#1e3550"] * 3])
    ids = [item.id for item in job.contours]
    job = set_base(job, Base(sheet.id, "box", 3.0, 4.0, 2.0))
    job = add_operation(job, Raise(contours=tuple(ids[:2]), draft=8.0))
    job = add_operation(job, Raise(contours=(ids[2],), upper="rounded", edge=0.4))
    job = add_guide(job, 48.0, 0.0, 90.0)
    job = add_operation(job, Turn(contours=(ids[2],), axis=job.guides[0].id, sides=24))
    led = Turn(contours=(ids[2],), axis=job.guides[0].id, path=ids[3], level=5.0)
    job = add_operation(job, led)
    up = Turn(contours=(ids[0],), how="shaft", height=9.0, above=2.0, top=ids[3])
    job = add_operation(job, up)
    sunk = Raise(contours=(ids[3],), sunk=True, height=4.0, draft=5.0, upper="chamfered")
    return _as_file(add_operation(job, sunk))


def _exact_job() -> bytes:
    """A small job of which an area is raised on a base, a profile turned and led, and a shaft goes up by
    a curve, as a file."""
    sheet = Sheet(width=100, height=100, machine="layer-printer", material="plastic")
    curve = Contour.make([(90, 20), (88, 60)], [ARC], [-0.1], closed=False)
    some = [*(Contour.circle(x, 50, 6) for x in (20.0, 40.0, 60.0, 80.0)), curve]
    job = add_contours(Job(sheets=(sheet,)), some, colours=["#cf4a3c", *["#1e3550"] * 4])
    ids = [item.id for item in job.contours]
    job = set_base(job, Base(sheet.id, "box", 3.0, 4.0, 2.0))
    job = add_guide(job, 30.0, 0.0, 90.0)
    axis = job.guides[0].id
    for operation in (
        Raise(contours=(ids[0],)),
        Turn(contours=(ids[1],), axis=axis, sides=24),
        Turn(contours=(ids[1],), axis=axis, path=ids[3], level=5.0),
        Turn(contours=(ids[2],), how="shaft", height=40.0, curve=ids[4]),
    ):
        job = add_operation(job, operation)
    return _as_file(job)


def _as_file(job: Job) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "made.draxet"
        save_job(job, path)
        return path.read_bytes()


@dataclass
class FuzzReport:
    """How many files were read whole and refused, the longest time in seconds and on what, and what
    escaped."""

    read: int = 0
    refused: int = 0
    longest: float = 0.0
    slowest: str = ""
    escaped: list[str] | None = None


def fuzz(count: int, folder: Path, first: int = 0) -> FuzzReport:
    """Read so many damaged files, kind by kind."""
    report = FuzzReport(escaped=[])
    assert report.escaped is not None
    files = list(samples().items())
    for number in range(first, first + count):
        name, whole = files[number % len(files)]
        data = mutated(whole, number)
        began = time.perf_counter()
        try:
            _read(name, data, folder)
            report.read += 1
        except (PictureError, FormatError, JobFileError, RowError) as error:
            report.refused += 1
            if "\n" in str(error) or len(str(error)) > 500:
                report.escaped.append(f"{name} {number}: no sentence: {str(error)[:200]!r}")
        except Exception as error:  # what must not be
            report.escaped.append(f"{name} {number}: {type(error).__name__}: {error}")
        took = time.perf_counter() - began
        if took > report.longest:
            report.longest, report.slowest = took, f"{name} {number}"
    return report


def _read(name: str, data: bytes, folder: Path) -> None:
    readers: list[Callable[[], object]]
    if name.endswith((".nc", ".plt")):
        steps = read_program(data.decode("utf-8-sig", "replace"))
        played = rehearse(steps, MACHINES[3 if name.endswith(".plt") else 1], Stock(300, 300, 3.0))
        if not (np.isfinite(steps.to).all() and np.isfinite(played.seconds)):
            raise AssertionError("numbers that are none")
        return
    if name.endswith((".draxet", ".rescue")):
        path = folder / name
        path.write_bytes(data)
        job = read_left(path).job
        fault = job_fault(job)
        if fault:
            raise AssertionError(f"not sound: {fault}")
        if name in ("sewn.draxet", "raised.draxet", "exact.draxet"):
            _make(job)
        return
    if name.endswith(ENDINGS):
        read = read_embroidery(data, name.rpartition(".")[2], name)
        steps = read_program(words_of(read, 700))
        if not np.isfinite(rehearse(steps, BENCH_STITCHER, Stock(300, 300, 3.0)).seconds):
            raise AssertionError("numbers that are none")
        return
    if name.endswith(".csv"):
        read_threads(data.decode("utf-8-sig", "replace"), name)
        return
    if name.endswith((".svg", ".dxf")):
        read_drawing(data, name)
        return
    readers = [
        lambda: read_picture(data, name),
        lambda: count_pages(data, name),
        lambda: peek(data, name),
        lambda: thumbnails(data, name),
    ]
    for read in readers:
        read()


def _make(job: Job) -> None:
    """Have what is left of a job sewn or raised, and looked at."""
    for run in runs_of(job):
        made = product_of(side_of(job, run), run.sheet, job.machine_of(run.sheet))
        findings_of_run(job, run, made)
        if isinstance(made, StitchedSheet):
            for block in made.plan.blocks:
                if not np.isfinite(block.points).all():
                    raise AssertionError("needle points that are none")
        if isinstance(made, SolidSheet):
            for mesh in made.meshes:
                if not (np.isfinite(mesh.places).all() and is_closed(mesh)):
                    raise AssertionError("a body that is not closed")
            with contextlib.suppress(NotExact):
                exact = exact_on(side_of(job, run), run.sheet, made, Unwatched())
                if not same_solids(exact, read_step(step_bytes(exact))):
                    raise AssertionError("exact solids that do not read back")
