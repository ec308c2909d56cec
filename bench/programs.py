"""Programs: how long one takes to be made, and how far it travels against always going on to what
is nearest."""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path

import numpy as np

from bench.hand import _many
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.machine_kinds import MACHINES, Machine
from draxet.job.operating import add_operation, choose_machine
from draxet.job.operations import Engrave
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.machines.rehearsal_records import Stock
from draxet.make import program_making as making
from draxet.make import work_order
from draxet.make.cutting_through import give_cut
from draxet.make.route import nearest_order
from draxet.prove.program_file import program_text, stock_of

__all__ = ["programs", "rehearsing"]


_SOLVING = 60
"""Seconds that the route solver is given."""


def _scattered(count: int) -> list[Contour]:
    rng = np.random.default_rng(1)
    found = []
    for x, y, r in zip(*rng.uniform((10, 10, 2), (1490, 1490, 8), (count, 3)).T, strict=True):
        found.append(
            Contour.circle(x, y, r)
            if len(found) % 2
            else Contour.make([(x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)])
        )
    return found


def _cut(contours: list[Contour]) -> Job:
    job = add_contours(Job(sheets=(Sheet(width=1500, height=1500),)), contours)
    return give_cut(job, [item.id for item in job.contours], 0.2, 2400)


def _solved(places: np.ndarray) -> float | None:
    """The length of the way from the first place through all others that a general route solver
    finds; None where it is not installed."""
    try:
        from ortools.constraint_solver import pywrapcp, routing_enums_pb2
    except ImportError:
        return None
    apart = np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1))
    steps = np.rint(1000 * apart).astype(np.int64)
    steps = np.pad(steps, ((0, 1), (0, 1)))  # a last place that is nowhere: the way is open
    manager = pywrapcp.RoutingIndexManager(len(steps), 1, [0], [len(steps) - 1])
    routing = pywrapcp.RoutingModel(manager)
    routing.SetArcCostEvaluatorOfAllVehicles(routing.RegisterTransitMatrix(steps.tolist()))
    search = pywrapcp.DefaultRoutingSearchParameters()
    search.first_solution_strategy = routing_enums_pb2.FirstSolutionStrategy.PATH_CHEAPEST_ARC
    search.local_search_metaheuristic = (
        routing_enums_pb2.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
    )
    search.time_limit.seconds = _SOLVING
    found = routing.SolveWithParameters(search)
    return found.ObjectiveValue() / 1000 if found else None


def _beside_each_other(count: int) -> list[Contour]:
    """Contours of two kinds and many sizes, none of which lies in another."""
    rng, wide = np.random.default_rng(3), int(np.ceil(np.sqrt(count)))
    found = []
    for k in range(count):
        r = float(rng.uniform(2, 8))
        x, y = (
            20 + 30 * (k % wide) + float(rng.uniform(-5, 5)),
            20 + 30 * (k // wide) + float(rng.uniform(-5, 5)),
        )
        found.append(
            Contour.circle(x, y, r)
            if k % 2
            else Contour.make([(x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)])
        )
    return found


def _against_solver() -> str:
    job = _cut(_beside_each_other(2000))
    program = making.program_of(job, job.sheet, MACHINES[2])
    begun = np.flatnonzero(program.work & np.append(True, program.path[1:] != program.path[:-1]))
    other = _solved(np.vstack([program.start, program.beginnings[begun]]))
    return (
        "a route solver is not installed (ortools)"
        if other is None
        else f"{100 * (program.travel_mm / other - 1):+.1f} % over a route solver's in {_SOLVING} s with the same starts (wanted: 5)"
    )


def programs() -> None:
    """1,000 contours of 20,000 spans as a program; and the travel of 2,000 contours."""
    job = _cut(_many(1000, 20, spacing=12.0))
    times = []
    for machine in (MACHINES[0], MACHINES[2]):
        begin = time.perf_counter()
        moves = len(making.program_of(job, job.sheet, machine))
        times.append(time.perf_counter() - begin)
    job = _cut(_scattered(2000))
    begin = time.perf_counter()
    ours = making.program_of(job, job.sheet, MACHINES[2]).travel_mm
    took = time.perf_counter() - begin
    usual = work_order.shortest_order
    work_order.shortest_order = nearest_order
    try:
        nearest = making.program_of(job, job.sheet, MACHINES[2]).travel_mm
    finally:
        work_order.shortest_order = usual
    print(
        f"programs        1,000 contours, 20,000 spans: {max(times):.2f} s, {moves:,} moves (wanted: 2 s); travel of 2,000 contours {100 * (1 - ours / nearest):.1f} % under nearest neighbour (wanted: 15), made in {took:.1f} s; {_against_solver()}"
    )


_REHEARSING = """
import os, sys, time, random, statistics
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path[:0] = {paths}
from bench.programs import _big
from draxet.machines.controller import (read_program)
from draxet.machines.rehearsal import (rehearse)
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QImage, QPainter
from draxet.geometry.affine import Affine
from draxet.ui.app import make_app
from draxet.ui.canvas.played import PlayedPainter, paths_of
from draxet.ui.look.tokens import LIGHT
def peak():
    return int(next(line for line in open("/proc/self/status") if line.startswith("VmHWM")).split()[1]) / 1000
text, machine, stock = _big({name!r})
begin = time.perf_counter()
run = rehearse(read_program(text), machine, stock)
paths = paths_of(run)
ready = time.perf_counter() - begin
plain = time.perf_counter()
[line.split() for line in text.splitlines()]
plain = time.perf_counter() - plain
app, painter, image = make_app(), PlayedPainter(), QImage(1000, 700, QImage.Format.Format_ARGB32_Premultiplied)
def shown(seconds):
    begin = time.perf_counter()
    on = QPainter(image)
    painter.paint(on, paths, seconds, (), Affine(0.5, 0, 20, 0, -0.5, 680), QSize(1000, 700), 1.0, LIGHT)
    on.end()
    return 1000 * (time.perf_counter() - begin)
times = [shown(random.random() * run.seconds) for _ in range(300)]
print(f"{{len(run.steps):,}} moves ready in {{ready:.2f}} s (wanted: 3), {{ready / plain:.0f}} times splitting its text into words; scrubbing {{statistics.median(times):.1f}} ms, 95 of 100 within {{sorted(times)[284]:.1f}} ms (wanted: 16); {{peak():.0f}} MB (wanted: 500)")
"""


def _big(name: str) -> tuple[str, Machine, Stock]:
    """A program of about 200,000 moves: curves in fine steps, or an engraved plate."""
    if name == "curves":
        job, machine = (
            choose_machine(_cut(_many(1600, 20, spacing=9.0)), "sheet-0", "desk-laser"),
            MACHINES[0],
        )
    elif name == "hatches":
        plate = [
            Contour.make([(10, 10), (590, 10), (590, 390), (10, 390)]),
            *(Contour.circle(40 + 58 * (k % 10), 40 + 58 * (k // 10), 12) for k in range(60)),
        ]
        job = add_contours(Job(sheets=(Sheet(machine="desk-laser"),)), plate)
        job, machine = (
            add_operation(
                job, Engrave(contours=tuple(item.id for item in job.contours), spacing=0.04)
            ),
            MACHINES[0],
        )
    else:
        job, machine = _cut(_scattered(2000)), MACHINES[2]
    (run,) = runs_of(job)
    return (
        program_text(job, run, making.program_of(job, run.sheet, machine)),
        machine,
        stock_of(run),
    )


def rehearsing() -> None:
    """Programs of three kinds, read and played, each in a process of its own."""
    root = Path(__file__).resolve().parent.parent
    for name in ("curves", "hatches", "scattered"):
        code = _REHEARSING.format(paths=[str(root / "src"), str(root)], name=name)
        found = subprocess.run(
            [sys.executable, "-c", code], check=True, capture_output=True, text=True
        )
        print(f"rehearsing      {name}: {found.stdout.strip()}")
