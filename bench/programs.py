"""Programs: how long one takes to be made, and how far it travels against always going on to what is nearest."""

from __future__ import annotations

import time

import numpy as np

from bench.hand import _many
from draxet.geometry.contour import Contour
from draxet.job.edits import add_contours
from draxet.job.machine import MACHINES
from draxet.job.records import Job, Sheet
from draxet.make import program as making
from draxet.make.cut import give_cut
from draxet.make.route import nearest_order

__all__ = ["programs"]


_SOLVING = 60
"""Seconds that the route solver is given."""


def _scattered(count: int) -> list[Contour]:
    rng = np.random.default_rng(1)
    found = []
    for x, y, r in zip(*rng.uniform((10, 10, 2), (1490, 1490, 8), (count, 3)).T, strict=True):
        found.append(Contour.circle(x, y, r) if len(found) % 2 else Contour.make([(x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)]))
    return found


def _cut(contours: list[Contour]) -> Job:
    job = add_contours(Job(sheets=(Sheet(width=1500, height=1500),)), contours)
    return give_cut(job, [item.id for item in job.contours], 0.2, 2400)


def _solved(places: np.ndarray) -> float | None:
    """The length of the way from the first place through all others that a general route solver finds; None where it is not installed."""
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
    search.local_search_metaheuristic = routing_enums_pb2.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
    search.time_limit.seconds = _SOLVING
    found = routing.SolveWithParameters(search)
    return found.ObjectiveValue() / 1000 if found else None


def _beside_each_other(count: int) -> list[Contour]:
    """Contours of two kinds and many sizes, none of which lies in another."""
    rng, wide = np.random.default_rng(3), int(np.ceil(np.sqrt(count)))
    found = []
    for k in range(count):
        r = float(rng.uniform(2, 8))
        x, y = 20 + 30 * (k % wide) + float(rng.uniform(-5, 5)), 20 + 30 * (k // wide) + float(rng.uniform(-5, 5))
        found.append(Contour.circle(x, y, r) if k % 2 else Contour.make([(x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)]))
    return found


def _against_solver() -> str:
    job = _cut(_beside_each_other(2000))
    program = making.program_of(job, job.sheet, MACHINES[2])
    begun = np.flatnonzero(program.work & np.append(True, program.path[1:] != program.path[:-1]))
    other = _solved(np.vstack([program.start, program.beginnings[begun]]))
    return "a route solver is not installed (ortools)" if other is None else f"{100 * (program.travel_mm / other - 1):+.1f} % over a route solver's in {_SOLVING} s with the same starts (wanted: 5)"


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
    usual = making.shortest_order
    making.shortest_order = nearest_order
    try:
        nearest = making.program_of(job, job.sheet, MACHINES[2]).travel_mm
    finally:
        making.shortest_order = usual
    print(f"programs        1,000 contours, 20,000 spans: {max(times):.2f} s, {moves:,} moves (wanted: 2 s); travel of 2,000 contours {100 * (1 - ours / nearest):.1f} % under nearest neighbour (wanted: 15), made in {took:.1f} s; {_against_solver()}")
