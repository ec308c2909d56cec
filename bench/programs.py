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


def _scattered(count: int) -> list[Contour]:
    rng = np.random.default_rng(1)
    found = []
    for x, y, r in zip(*rng.uniform((10, 10, 2), (1490, 1490, 8), (count, 3)).T, strict=True):
        found.append(Contour.circle(x, y, r) if len(found) % 2 else Contour.make([(x - r, y - r), (x + r, y - r), (x + r, y + r), (x - r, y + r)]))
    return found


def _cut(contours: list[Contour]) -> Job:
    job = add_contours(Job(sheets=(Sheet(width=1500, height=1500),)), contours)
    return give_cut(job, [item.id for item in job.contours], 0.2, 2400)


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
    print(f"programs        1,000 contours, 20,000 spans: {max(times):.2f} s, {moves:,} moves (wanted: 2 s); travel of 2,000 contours {100 * (1 - ours / nearest):.1f} % under nearest neighbour (wanted: 15), made in {took:.1f} s")
