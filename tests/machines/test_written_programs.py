"""Programs as they are written, read by others: a strict reader made from the grammar, a library,
and a raster that knows only lines; and what damaged ones do."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import cv2
import numpy as np
import shapely
from gcodeparser import parse_gcode_lines

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import ellipse, rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.machine_kinds import MACHINES, Machine
from draxet.job.operating import add_operation, choose_machine, set_machine
from draxet.job.operations import Draw, Drill, Engrave, Pocket, Score
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Stock, swept
from draxet.make.cutting_through import give_cut
from draxet.make.program_making import program_of
from draxet.prove.against import against
from draxet.prove.program_file import program_text, stock_of
from tests.strict_reader import Strict, strict_moves

ROUTER = next(machine for machine in MACHINES if machine.kind == "router")
_PIXELS = 12
"""A mm."""


def random_job(rng: np.random.Generator, machine: Machine) -> Job:
    """An outline of some kind with openings beside each other in it, on a sheet that it fits on."""
    turn = Affine.turned(float(rng.uniform(0, 90))).then(Affine.moved(40, 40))
    kind = rng.integers(0, 4)
    outline = (
        Contour.circle(0, 0, 26),
        ellipse(0, 0, 27, 18),
        Contour.make([(-22, -18), (22, -18), (22, 10), (4, 10), (4, 20), (-22, 20)]),
        rounded_polygon([(-24, -20, 6), (24, -20, 3), (20, 20, 8), (-18, 18, 2)]),
    )[kind]
    holes = []
    for x in (-9.0, 9.0):
        r = float(rng.uniform(2.5, 5.5))
        holes.append(
            (
                Contour.circle(x, -3, r),
                ellipse(x, -3, r, 0.7 * r),
                rounded_polygon(
                    [
                        (x - r, -3 - r, 1.0),
                        (x + r, -3 - r, 1.0),
                        (x + r, -3 + r, 1.0),
                        (x - r, -3 + r, 1.0),
                    ]
                ),
            )[rng.integers(0, 3)]
        )
    job = add_contours(
        Job(
            sheets=(
                Sheet(
                    width=80,
                    height=80,
                    thickness=2.0,
                    machine=machine.id,
                    origin=(float(rng.integers(0, 3)) / 2, float(rng.integers(0, 3)) / 2),
                ),
            )
        ),
        [each.transformed(turn) for each in (outline, *holes)],
    )
    job = give_cut(
        set_machine(job, machine),
        [item.id for item in job.contours],
        float(rng.uniform(0.2, 1.6)) if machine.kind != "router" else 2.0,
        700,
    )
    operations = tuple(
        replace(
            each,
            lead=float(rng.choice([0.0, 1.5])),
            power=90.0,
            overrun=float(rng.choice([0.0, 1.0])),
        )
        for each in job.operations
    )  # type: ignore[type-var]
    return replace(job, operations=operations)


def text_of(job: Job) -> str:
    (run,) = runs_of(job)
    return program_text(job, run, program_of(job, run.sheet, job.machine_of(run.sheet)))


class StrictReaders(unittest.TestCase):
    def test_a_reader_made_from_the_grammar_and_a_library_find_the_same_moves(self) -> None:
        rng = np.random.default_rng(4)
        for machine, inches, numbers in itertools.product(
            MACHINES[:4], (False, True), (False, True)
        ):
            own = replace(
                machine,
                dialect=replace(
                    machine.dialect, inches=inches, decimals=4 if inches else 3, numbers=numbers
                ),
            )
            job = random_job(rng, own)
            if machine.kind == "router":
                job = (
                    add_operation(
                        add_operation(
                            job, Pocket(contours=("contour-2",), diameter=2.0, enter="helix")
                        ),
                        Drill(at_points=False, contours=("contour-3",), peck=0.7),
                    )
                    if job.contours[2].contour.circle_shape
                    else job
                )
            elif machine.kind == "laser":
                job = add_operation(
                    add_operation(job, Score(contours=("contour-1",))),
                    Engrave(contours=("contour-2",), spacing=0.5),
                )
            elif machine.kind == "pen":
                job = add_operation(
                    replace(job, operations=()), Draw(contours=("contour-1", "contour-2"))
                )
            text = text_of(job)
            with self.subTest(machine=machine.id, inches=inches, numbers=numbers):
                strict = strict_moves(text)
                mine = read_program(text)
                self.assertEqual(mine.problems, ())
                np.testing.assert_allclose(strict[-1][:2], mine.to[-1, :2], atol=1e-6)
                length = sum(
                    math.dist(a[:3], b[:3])
                    for a, b in zip([(0.0, 0.0, 0.0), *strict[:-1]], strict, strict=True)
                )
                self.assertAlmostEqual(length / float(mine.lengths.sum()), 1, delta=1e-3)
                other = [
                    each
                    for each in parse_gcode_lines(text)
                    if each.command[0] == "G"
                    and each.command[1] in (0, 1, 2, 3)
                    and {"X", "Y"} <= each.params.keys()
                ]
                level = np.append(
                    True,
                    (np.abs(np.diff(mine.to[:, :2], axis=0)) > 0).any(axis=1)
                    | (mine.turn[1:] != 0),
                )
                scale = 25.4 if inches else 1.0
                self.assertEqual(
                    {tuple(np.round(place, 4)) for place in mine.to[level, :2].tolist()}
                    - {(0.0, 0.0)},
                    {
                        (round(each.params["X"] * scale, 4), round(each.params["Y"] * scale, 4))
                        for each in other
                    }
                    - {(0.0, 0.0)},
                )

    def test_the_strict_reader_is_strict(self) -> None:
        for text in (
            "G21 G90\nG1 X1 Y1\nM2",
            "G21 G90\nG0 X1 X2\nM2",
            "G21\nG0 X1",
            "G21 G0 G1 X1\nM2",
            "G21\nG2 X1 Y1 I5 J0 F10\nM2",
            "G21\nG0 X1 (a (b)\nM2",
            "G21\nM2\nG0 X1",
            "G0 X1\nM2",
            "G21\nG0 Xa\nM2",
        ):
            self.assertRaises(Strict, strict_moves, text)


class Rasters(unittest.TestCase):
    def test_what_two_hundred_random_jobs_leave_lies_within_the_cuts_own_width_of_their_contours(
        self,
    ) -> None:
        """Measured on pixels, from the strict reader's moves alone."""
        rng = np.random.default_rng(12)
        for trial in range(200):
            machine = MACHINES[trial % 3]
            job = random_job(rng, machine)
            text, (run,) = text_of(job), runs_of(job)
            width = max(operation.width for operation in job.operations)  # type: ignore[attr-defined]
            x0, y0 = job.sheet.origin_place
            left = np.full((80 * _PIXELS, 80 * _PIXELS), 255, np.uint8)
            at = (0.0, 0.0, 0.0)
            for x, y, z, _, works, on in strict_moves(text):
                if works and on and (machine.kind != "router" or min(z, at[2]) <= -2.0 + 1e-6):
                    ends = [
                        tuple(
                            int(round(v * 16))
                            for v in ((px + x0) * _PIXELS - 0.5, (py + y0) * _PIXELS - 0.5)
                        )
                        for px, py in (at[:2], (x, y))
                    ]
                    cv2.line(
                        left, ends[0], ends[1], 0, max(round(width * _PIXELS), 1), cv2.LINE_8, 4
                    )
                at = (x, y, z)
            part = np.zeros_like(left)
            rings = [
                np.round((item.contour.flattened(0.01) * _PIXELS - 0.5) * 16).astype(np.int32)
                for item in job.contours
            ]
            cv2.fillPoly(part, rings, 255, cv2.LINE_8, 4)
            _, names = cv2.connectedComponents(left, connectivity=4)
            deep = cv2.erode(part, np.ones((9, 9), np.uint8)) > 0
            mine = np.bincount(names[deep & (left > 0)]).argmax()
            piece = (names == mine).astype(np.uint8) * 255
            edge = cv2.morphologyEx(part, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
            off = cv2.distanceTransform(255 - edge, cv2.DIST_L2, 5)[piece != part]
            with self.subTest(trial=trial, machine=machine.id):
                self.assertLess(off.max(initial=0) / _PIXELS, 0.5 * width + 0.35)
                if trial % 5 == 0:
                    played = rehearse(
                        read_program(text), job.machine_of(run.sheet), stock_of(run, job)
                    )
                    found = against(
                        played, [item.contour for item in job.contours], run.sheet.origin_place
                    )
                    self.assertEqual((played.troubles, found.missing, found.uncut), ((), (), ()))
                    self.assertLess(found.too_little, 0.03)


class Damage(unittest.TestCase):
    def test_damaged_programs_are_followed_as_far_as_they_go_and_told(self) -> None:
        rng = np.random.default_rng(7)
        texts = [
            text_of(choose_machine(random_job(rng, machine), "sheet-0", machine.id))
            for machine in MACHINES[:3]
        ]
        hostile = [
            "\x00" * 1000,
            "G" * 5000,
            "X" + "9" * 400,
            "(" * 3000,
            "G1 X1e308 Y-1e308",
            "%\n" * 2000,
            "N" * 100,
            "PU;PD" + ",1" * 999,
            "IN;PD1,2,3;",
            "G2 X0 Y0 I0 J0\n" * 50,
            "G1 F-5 X3",
            "G4 P-9",
            "G91\n" + "G1 X999\n" * 3000,
        ]
        for trial in range(200):
            letters = list(texts[trial % 3])
            for _ in range(int(rng.integers(1, 30))):
                k = int(rng.integers(0, len(letters)))
                letters[k] = chr(int(rng.integers(32, 127))) if rng.random() < 0.7 else ""
            hostile.append("".join(letters)[: int(rng.integers(10, len(letters)))])
        for number, text in enumerate(hostile):
            with self.subTest(number=number):
                steps = read_program(text)
                played = rehearse(steps, MACHINES[number % 4], Stock(80, 80, 2.0))
                self.assertTrue(np.isfinite(played.seconds))
                self.assertTrue(
                    all(trouble.words and trouble.line >= 1 for trouble in played.troubles)
                )
                self.assertTrue(np.isfinite(steps.to).all())


if __name__ == "__main__":
    unittest.main()


class LongWays(unittest.TestCase):
    def test_a_band_put_together_of_pieces_is_the_band_of_the_whole_way(self) -> None:
        """The library's own buffer of the whole way is the truth; a way that is run once more takes
        away nothing more."""
        rng = np.random.default_rng(3)
        for count in (30, 120):
            wild = rng.uniform(0, 100, (count, 2))
            again = np.tile(rng.uniform(0, 100, (5, 2)), (count // 5, 1))
            turns = np.arange(count)[:, None] * 0.2
            spiral = np.hstack([np.cos(turns), np.sin(turns)]) * turns
            for way in (wild, again, spiral):
                program = "\n".join(
                    ["G21", "G90", "M3 S9000", f"G0 X{way[0, 0]} Y{way[0, 1]} Z5", "G1 Z-4 F300"]
                    + [f"G1 X{x:.6f} Y{y:.6f} F900" for x, y in way]
                    + ["G0 Z5", "M30"]
                )
                run = rehearse(read_program(program), ROUTER, Stock(400, 400, 3.0))
                ((_, band),) = swept(run, run.through & (run.steps.lengths > 0))
                width = float(run.width[run.work][0])
                whole = shapely.LineString(way).buffer(width / 2, quad_segs=16)
                self.assertLess(band.symmetric_difference(whole).area, 1e-5 * whole.area)
