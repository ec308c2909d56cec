"""How long what leaves takes to be written, read back and compared, against the writing alone; and
rehearsals of ways that run over themselves, against the library's band of as many squares."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.machine_kinds import MACHINES
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.leaving import LEAVING_KINDS
from draxet.leaving.leaving_kind import Leaving
from draxet.leaving.sheet_picture import PictureSettings
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Stock
from draxet.progress import Unwatched

__all__ = ["leaving", "long_ways"]

_KINDS = ("dxf", "svg", "pdf", "png")


def _circles(count: int) -> list[Contour]:
    return [
        Contour.circle(20 + (k % 100) * 25, 20 + (k // 100) * 25, 5 + k % 5) for k in range(count)
    ]


def _traced(count: int) -> list[Contour]:
    """Wavy rings of 12 cubics, as tracing leaves them."""
    turns = np.linspace(0, 2 * np.pi, 12, endpoint=False)
    found = []
    for k in range(count):
        radii = 10 + np.random.default_rng(k).uniform(-1, 1, 12)
        nodes = radii[:, None] * np.column_stack([np.cos(turns), np.sin(turns)])
        reach = 1.8 * np.column_stack([-np.sin(turns), np.cos(turns)])
        handles = np.stack([nodes + reach, np.roll(nodes - reach, -1, axis=0)], axis=1)
        ring = Contour.make(nodes, np.full(12, 2), None, handles)
        found.append(ring.transformed(Affine.moved(20 + (k % 100) * 25, 20 + (k // 100) * 25)))
    return found


def _mixed(count: int) -> list[Contour]:
    """Plates with two round corners."""
    plate = Contour.make(
        [(0, 0), (16, 0), (20, 4), (20, 12), (16, 16), (0, 16)],
        [0, 1, 0, 1, 0, 0],
        [0, 0.4142, 0, 0.4142, 0, 0],
    )
    return [
        plate.transformed(Affine.moved(10 + (k % 100) * 25, 10 + (k // 100) * 25))
        for k in range(count)
    ]


def leaving() -> None:
    """500, 1,000 and 2,000 contours of three kinds as drawings, paper and picture."""
    for name, made in (("circles", _circles), ("plates", _mixed), ("traced", _traced)):
        for count in (500, 1000, 2000):
            print(f"leaving         {name:8} {count:5}: {_left(made, count)}")


def _left(made: Callable[[int], list[Contour]], count: int) -> str:
    job = add_contours(Job(sheets=(Sheet(width=2600, height=1000),)), made(count))
    job = give_operation(job, "Cut", [item.id for item in job.contours], Side.ON, 1.5, 1000)
    asked, words = Leaving(job, runs_of(job)[0], {PictureSettings: PictureSettings(dpi=60.0)}), []
    for kind in (each for each in LEAVING_KINDS if each.key in _KINDS):
        wanted = kind.wanted(asked, Path("part"))
        begin = time.process_time()
        data = kind.write(wanted, Unwatched())
        wrote = time.process_time() - begin
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "part"
            path.write_bytes(data)
            begin = time.process_time()
            assert kind.read_back(wanted, path, Unwatched()).matches
            back = time.process_time() - begin
        words.append(f"{kind.key} written {wrote:.2f} s, with comparing {1 + back / wrote:.2f} ×")
    return "; ".join(words)


def long_ways() -> None:
    """A square in so many passes, and so many crossing moves, rehearsed; beside it the library's
    band of as many squares."""
    router = next(machine for machine in MACHINES if machine.kind == "router")
    rng = np.random.default_rng(1)
    for count in (150, 300, 600):
        rows = [f"G1 Z{-4 * k / count:.4f}\nG1 X60\nG1 Y40\nG1 X10\nG1 Y10" for k in range(count)]
        wild = [f"G1 X{x:.3f} Y{y:.3f}" for x, y in rng.uniform(0, 300, (2 * count, 2))]
        squares = [shapely.box(k, 0, k + 50, 30).exterior for k in range(count)]
        begin = time.process_time()
        shapely.union_all(shapely.buffer(squares, 1.5))
        plain, took = time.process_time() - begin, []
        for way in (rows, ["G1 Z-4", *wild]):
            lines = ["G21 G90", "M3 S9000", "G0 X10 Y10 Z5", "G1 Z-0.1 F900", *way, "G0 Z5", "M30"]
            steps = read_program("\n".join(lines), router.dialect)
            begin = time.process_time()
            rehearse(steps, router, Stock(400, 400, 3.0))
            took.append(time.process_time() - begin)
        print(
            f"rehearsing long {count:4} passes {took[0]:.2f} s, {2 * count} crossing moves {took[1]:.2f} s; bands of as many squares {plain:.2f} s"
        )
