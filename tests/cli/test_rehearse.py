"""Programs as files and their rehearsal: what is written reads back as the program, every planted
mistake is caught by the run itself, and what is left is held against the drawing."""

from __future__ import annotations

import contextlib
import io
import itertools
import json
import math
import os
import re
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import bracket
import numpy as np
import shapely

from draxet.cli.commands import run as command
from draxet.formats.dxf import DXF
from draxet.formats.layer import FormatError, Layer, Page
from draxet.formats.svg import SVG
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import save_job
from draxet.job.machine_kinds import MACHINES, KeepClear, Machine
from draxet.job.operating import add_operation, choose_machine, set_machine, set_operation
from draxet.job.operations import CutThrough, Draw, Drill, Engrave, Pocket, Score, Side
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import Run, runs_of, side_of
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Rehearsal, Stock
from draxet.machines.resume import resumed
from draxet.make.cutting_through import give_cut
from draxet.make.frame import FRAMES, frame_program
from draxet.make.program_making import program_of
from draxet.progress import Unwatched
from draxet.prove.against import against
from draxet.prove.program_file import compared, program_text, rehearsed, stock_of
from draxet.prove.run import run_findings
from tests.handing_off import hand_off

LASER, ROUTER, PLASMA, PEN = MACHINES[:4]


def bracket_job(machine: Machine = PLASMA, **sheet: object) -> Job:
    job = add_contours(
        Job("Bracket", sheets=(Sheet(width=260, height=280, machine=machine.id, **sheet),)),
        [c.transformed(Affine.moved(8, 8)) for c in bracket.part()],
    )  # type: ignore[arg-type]
    return give_cut(
        set_machine(job, machine), [item.id for item in job.contours], machine.cut_width, 2400
    )


def made(job: Job) -> tuple[Run, Program]:
    (run,) = runs_of(job)
    return run, program_of(side_of(job, run), run.sheet, job.machine_of(run.sheet))


def played(job: Job, change: object = None) -> Rehearsal:
    """The rehearsal of a job's file, after somebody changed its text."""
    run, program = made(job)
    text = program_text(job, run, program)
    return rehearsed(change(text) if callable(change) else text, run, job)


def kinds(run: Rehearsal) -> set[str]:
    return {trouble.kind for trouble in run.troubles}


class Files(unittest.TestCase):
    def test_what_is_written_reads_back_as_the_program_in_every_dialect(self) -> None:
        for machine, inches, numbers, zero in itertools.product(
            MACHINES[:4], (False, True), (False, True), ("top", "bed")
        ):
            dialect = replace(
                machine.dialect,
                inches=inches,
                decimals=4 if inches else 3,
                numbers=numbers,
                remarks="; …" if numbers else "(…)",
            )
            job = bracket_job(replace(machine, dialect=dialect), zero=zero, origin=(0.5, 1.0))
            job = add_operation(job, Score(contours=("contour-2",)))
            if machine.kind == "router":
                job = add_operation(
                    add_operation(job, Drill(contours=("contour-4",), peck=1.0)),
                    Pocket(contours=("contour-3",), enter="helix"),
                )
            if machine.kind == "pen":
                job = add_operation(
                    replace(job, operations=()),
                    Draw(contours=tuple(item.id for item in job.contours), pen=2),
                )
            run, program = made(job)
            for ending in ("nc", "plt") if machine.kind == "pen" else ("nc",):
                text = program_text(job, run, program, ending)
                found = compared(f"a.{ending}", text, run, program)
                with self.subTest(machine=machine.id, inches=inches, zero=zero, ending=ending):
                    self.assertTrue(found.matches, found)
                    self.assertEqual(read_program(text).problems, ())
                    self.assertTrue(text.isascii())
                    tampered = re.sub(
                        r"(PD|X)(-?\d+)", lambda word: f"{word[1]}{int(word[2]) + 3}", text, count=0
                    )
                    self.assertFalse(compared(f"a.{ending}", tampered, run, program).matches)

    def test_a_machine_may_have_words_of_its_own(self) -> None:
        own = {
            "on": "M106",
            "off": "M107",
            "air_on": "M62 P1",
            "air_off": "M63 P1",
            "change": "M98",
        }
        for machine in (LASER, PLASMA, ROUTER):
            job = bracket_job(replace(machine, dialect=replace(machine.dialect, **own)))
            job = replace(job, operations=tuple(replace(each, air=True) for each in job.operations))  # type: ignore[type-var]
            run, program = made(job)
            text = program_text(job, run, program)
            with self.subTest(machine=machine.id):
                self.assertTrue(compared("a.nc", text, run, program).matches)
                self.assertEqual(rehearsed(text, run, job).troubles, ())
                self.assertNotEqual(read_program(text).problems, ())  # nobody else knows them
                self.assertFalse(
                    compared("a.nc", text.replace("M106", "M107"), run, program).matches
                )
        silent = bracket_job(
            replace(PLASMA, dialect=replace(PLASMA.dialect, air_on="", air_off=""))
        )
        silent = replace(
            silent, operations=tuple(replace(each, air=True) for each in silent.operations)
        )  # type: ignore[type-var]
        run, program = made(silent)
        self.assertTrue(compared("a.nc", program_text(silent, run, program), run, program).matches)

    def test_a_feed_a_power_a_tool_or_air_that_was_written_otherwise_is_found(self) -> None:
        """Each changed in one line of a file whose path is right."""
        drilled = add_operation(bracket_job(ROUTER), Drill(contours=("contour-4",), diameter=3.0))
        aired = bracket_job(PLASMA)
        aired = replace(
            aired, operations=tuple(replace(each, air=True) for each in aired.operations)
        )  # type: ignore[type-var]
        cases = (
            (bracket_job(LASER), r"(F)(\d+)", 1),
            (bracket_job(LASER), r"(M4 S)(\d+)", -50),
            (drilled, r"(\nT)(\d+)", 1),
            (aired, r"(M)(8)", 1),
            (bracket_job(PLASMA), r"(F)(\d+)", -3),
        )
        for job, what, by in cases:
            run, program = made(job)
            text = program_text(job, run, program)
            other = re.sub(what, lambda word, by=by: f"{word[1]}{int(word[2]) + by}", text, count=1)  # type: ignore[misc]
            with self.subTest(machine=job.sheet.machine, what=what):
                self.assertTrue(compared("a.nc", text, run, program).matches)
                found = compared("a.nc", other, run, program)
                self.assertLess(found.worst, 0.01)
                self.assertGreater(found.otherwise, 0)
                self.assertFalse(found.matches)

    def test_an_arc_that_is_shorter_than_the_last_place_does_not_become_a_circle(self) -> None:
        tiny = Contour.make(
            [(20, 20), (60, 20), (60.0002, 20.0001), (60, 50), (20, 50)],
            [0, 1, 0, 0, 0],
            [0, 0.3, 0, 0, 0],
        )
        job = add_contours(Job(sheets=(Sheet(machine=PLASMA.id),)), [tiny])
        job = add_operation(job, CutThrough(contours=("contour-1",), side=Side.ON, width=1.5))
        run, program = made(job)
        text = program_text(job, run, program)
        self.assertTrue(compared("a.nc", text, run, program).matches)
        self.assertLess(float(read_program(text).lengths.sum()), 400)

    def test_only_a_machine_that_speaks_it_and_a_job_with_work_are_written(self) -> None:
        job = bracket_job()
        run, program = made(job)
        with tempfile.TemporaryDirectory() as folder:
            self.assertTrue(hand_off(job, Path(folder) / "a.nc").matches)
            for path, words in (
                (Path(folder) / "a.plt", "does not speak"),
                (Path(folder) / "a.doc", "must end in"),
                (Path(folder) / "no" / "a.nc", "could not be written"),
            ):
                self.assertRaisesRegex(FormatError, words, hand_off, job, path)
        self.assertRaisesRegex(
            FormatError,
            "nothing would run",
            program_text,
            job,
            run,
            program_of(replace(job, operations=()), job.sheet, PLASMA),
        )


class Controllers(unittest.TestCase):
    def test_moves_are_followed_in_either_unit_way_and_kind_of_arc(self) -> None:
        text = "G20 G90\nG0 X1 Y0\nG2 X0 Y1 R1 F10 M3\nG91 G1 X1\nG3 X0 Y2 J1 I0\nG21 G90 G1 X0 Y0 ; back\nG4 P0.5\nM5 M2\n"
        steps = read_program(text)
        self.assertEqual(steps.problems, ())
        np.testing.assert_allclose(
            steps.to[:, :2], [(25.4, 0), (0, 25.4), (25.4, 25.4), (25.4, 76.2), (0, 0)], atol=1e-9
        )
        self.assertAlmostEqual(steps.lengths[1], 25.4 * math.pi / 2, places=6)
        self.assertAlmostEqual(steps.lengths[3], 25.4 * math.pi, places=6)
        self.assertEqual((steps.waits, steps.remarks), ({5: 0.5}, ((6, "back"),)))

    def test_what_cannot_be_read_is_told_with_its_line_and_the_rest_is_followed(self) -> None:
        for line, words in (
            ("G1 X1 Q@", "cannot be read"),
            ("G77", "G77 is not known"),
            ("M99", "M99 is not known"),
            ("G2 X5 Y5 R0.1", "does not reach"),
            ("G2 X5 Y5", "neither I, J nor R"),
            ("G2 X5 Y5 I1 J0", "do not fit"),
            ("G1 X9e9", "word E is not known"),
            ("G1 X99999999", "kilometre"),
        ):
            steps = read_program(f"G21\n{line}\nG1 X1 Y1\nM2")
            with self.subTest(line=line):
                self.assertIn(
                    (2, True),
                    [(problem.line, words in problem.words) for problem in steps.problems],
                )
                np.testing.assert_allclose(steps.to[-1, :2], (1, 1))
        self.assertIn("no end", read_program("G1 X1").problems[0].words)
        self.assertEqual(len(read_program("\x00\x01 nonsense ✂\n" * 50)), 0)
        self.assertEqual(len(read_program("")), 0)
        self.assertIn("XX is not known", read_program("IN;PU0,0;PD40,40;XX3;").problems[0].words)


class Rehearsals(unittest.TestCase):
    def test_a_sound_file_has_no_trouble_takes_as_long_and_leaves_the_part(self) -> None:
        for machine in (PLASMA, ROUTER):
            job = bracket_job(machine)
            run, program = made(job)
            played_ = played(job)
            self.assertEqual(played_.troubles, ())
            self.assertAlmostEqual(played_.seconds / program.seconds, 1, delta=0.12)
            self.assertEqual((len(played_.loose), played_.pierces), (5, 5))
            found = against(
                played_, [item.contour for item in job.contours], run.sheet.origin_place
            )
            self.assertEqual((found.parts, found.missing), (1, ()))
            self.assertLess(found.too_little, 0.02)
            self.assertLess(
                found.too_much, (math.sqrt(2) - 1) * machine.cut_width / 2 + 0.02
            )  # a round cut leaves a sharp inner corner round

    def test_a_laser_is_through_where_power_and_feed_and_passes_have_it(self) -> None:
        for power, feed, passes, loose in (
            (90.0, 600.0, 1, 5),
            (90.0, 1200.0, 1, 0),
            (90.0, 1200.0, 2, 5),
        ):
            job = bracket_job(LASER)
            job = replace(
                job,
                operations=tuple(
                    replace(each, power=power, feed=feed, passes=passes) for each in job.operations
                ),
            )  # type: ignore[type-var]
            self.assertEqual(
                len({round(each.area) for each in played(job).loose}),
                min(loose, 4),
                (power, feed, passes),
            )

    def test_only_passes_along_the_same_way_burn_deeper(self) -> None:
        """One pass is through half the sheet: two lines that cross, and the two halves of a circle,
        have ends in common and no way."""
        half = LASER.burn * 100 / 1.5 / 2 * 1.1
        head, crossed = (
            f"G21 G90\nF{half:.0f}\nG0 X0 Y0\nM3 S1000\n",
            "G1 X40 Y40\nM5\nG0 X0 Y40\nM3 S1000\nG1 X40 Y0\nM5\n",
        )
        circle = "G2 X40 Y0 I20 J0\nG2 X0 Y0 I-20 J0\nM5\n"
        for name, way, passes in (
            ("crossing", crossed, 1),
            ("circle", circle, 1),
            ("there and back", "G1 X40 Y40\nG1 X0 Y0\nM5\n", 2),
            ("half a circle and back", "G2 X40 Y0 I20 J0\nG3 X0 Y0 I-20 J0\nM5\n", 2),
        ):
            run = rehearse(read_program(f"{head}{way}M2"), LASER, Stock(100, 100, 3))
            with self.subTest(name=name):
                np.testing.assert_allclose(
                    run.depth[run.work], LASER.burn * 100 / round(half) * passes
                )

    def test_each_planted_mistake_is_caught_by_the_run_itself(self) -> None:
        """One of each kind; none of them is in the job, so that no plan could tell."""
        router, plasma, laser = bracket_job(ROUTER), bracket_job(PLASMA), bracket_job(LASER)
        deep = lambda text: re.sub(r"Z-3\b", "Z-4.2", text, count=1)  # noqa: E731
        cases = (
            (
                "out-of-reach",
                plasma,
                lambda text: (
                    text.replace("X188", "X9188", 1)
                    if "X188" in text
                    else re.sub(r"G1 X\d+\.?\d*", "G1 X9188", text, count=1)
                ),
            ),
            (
                "travel-down",
                router,
                lambda text: text.replace("G0 Z8\n", "", 2).replace("G0 Z8\n", "", 1),
            ),
            ("no-feed", plasma, lambda text: re.sub(r" F\d+\.?\d*", "", text)),
            ("no-power", laser, lambda text: text.replace("S1000", "S0")),
            ("no-power", router, lambda text: re.sub(r"M3 S\d+", "M5", text)),
            ("too-deep", router, deep),
            ("unreadable", plasma, lambda text: text.replace("M5", "G8", 1)),
            ("too-fast", plasma, lambda text: text.replace("F2400", "F24000", 1)),
            ("unreadable", plasma, lambda text: re.sub(r"I(-?\d+)", "I9\\1", text, count=1)),
            ("travel-down", laser, lambda text: text.replace("M5\n", "", 1)),
        )
        for kind, job, change in cases:
            self.assertNotIn(kind, kinds(played(job)))
            with self.subTest(kind=kind, machine=job.sheet.machine):
                self.assertIn(kind, kinds(played(job, change)))
        clamp = set_machine(
            plasma, replace(PLASMA, keep_clear=(KeepClear(Contour.circle(100, 8, 4), 10.0),))
        )
        self.assertIn("keep-clear", kinds(played(clamp)))

    def test_an_arc_is_held_against_reach_and_kept_clear_areas_by_its_own_way(self) -> None:
        """A circle of two half arcs from (20, 60) to (100, 60) and back: top and bottom are on no
        move's chord."""

        def told(**machine: object) -> set[str]:
            changed = replace(PLASMA, **machine)  # type: ignore[arg-type]
            return kinds(
                rehearse(
                    read_program(
                        "G21 G90\nG0 X20 Y60\nM3\nG2 X100 Y60 I40 J0 F2000\nG2 X20 Y60 I-40 J0\nM5\nG0 X0 Y0\nM2"
                    ),
                    changed,
                    Stock(300, 300, 3),
                )
            )

        self.assertEqual(told(), set())
        self.assertEqual(
            told(keep_clear=(KeepClear(Contour.circle(60, 101, 3), 10.0),)), {"keep-clear"}
        )
        self.assertEqual(told(keep_clear=(KeepClear(Contour.circle(60, 60, 3), 10.0),)), set())
        for most, kind in ((101.0, set()), (99.0, {"out-of-reach"})):
            self.assertEqual(told(reach_y=most), kind)
            self.assertEqual(
                told(outline=Contour.make([(0, 0), (200, 0), (200, most), (0, most)])), kind
            )

    def test_work_on_a_piece_that_came_loose_before_is_caught(self) -> None:
        job = add_contours(
            Job(sheets=(Sheet(machine=PLASMA.id),)),
            [Contour.circle(60, 60, 40), Contour.circle(60, 60, 8)],
        )
        job = give_cut(job, ["contour-1", "contour-2"], 1.5, 2000)
        self.assertEqual(kinds(played(job)), set())

        def outer_first(text: str) -> str:
            head, inner, outer, foot = re.split(r"(?=^G0 X)", text, flags=re.M)
            return f"{head}G1 F2000\n{outer}{inner}{foot}"

        late = played(job, outer_first)
        self.assertEqual(kinds(late), {"loose"})
        self.assertIn("came loose in line", late.troubles[0].words)

    def test_slits_and_shared_edges_go_before_what_comes_loose_by_them(self) -> None:
        def box(x: float, wide: float) -> Contour:
            return Contour.make([(x, 20), (x + wide, 20), (x + wide, 60), (x, 60)])

        slit = Contour.make([(30, 40), (90, 40)], closed=False)
        through = Contour.make([(60, 20), (60, 60)], closed=False)
        sets = {
            "slit": ([box(20, 80), slit], 1),
            "from edge to edge": ([box(20, 80), through], 1),
            "shared": ([box(20, 50), box(70, 50)], 2),
            "shared with holes": (
                [
                    box(20, 50),
                    box(70, 50),
                    box(120, 30),
                    Contour.circle(45, 40, 6),
                    Contour.circle(95, 40, 6),
                    Contour.circle(135, 40, 6),
                    Contour.make([(88, 30), (102, 30)], closed=False),
                ],
                3,
            ),
        }
        for name, (contours, parts) in sets.items():
            job = add_contours(Job(sheets=(Sheet(machine=PLASMA.id),)), contours)
            job = give_cut(job, [item.id for item in job.contours], 1.0, 2000)
            run, _ = made(job)
            played_ = played(job)
            found = against(played_, contours, run.sheet.origin_place)
            with self.subTest(name=name):
                self.assertEqual(
                    (kinds(played_), found.missing, found.uncut, found.parts),
                    (set(), (), (), parts),
                )
                self.assertEqual(
                    [
                        each.kind
                        for each in run_findings(job, [made(job)[1]])
                        if each.kind == "wrong-order"
                    ],
                    [],
                )

    def test_what_is_missing_or_too_small_is_measured(self) -> None:
        job = bracket_job()
        contours = [item.contour for item in job.contours]
        narrow = played(
            job,
            lambda text: re.sub(
                r"(X|Y)(-?\d+\.?\d*)",
                lambda word: f"{word[1]}{float(word[2]) * 0.99:.3f}",
                re.sub(
                    r"(I|J)(-?\d+\.?\d*)",
                    lambda word: f"{word[1]}{float(word[2]) * 0.99:.3f}",
                    text,
                ),
            ),
        )
        found = against(narrow, contours, (0.0, 0.0))
        self.assertAlmostEqual(found.too_little, 0.01 * math.hypot(248, 272), delta=1.0)
        none = rehearse(read_program("G21\nM3\nM2"), PLASMA, Stock(300, 300, 3))
        self.assertEqual(none.seconds, 0.0)
        self.assertEqual(
            (against(none, contours).missing, len(against(none, contours).uncut)), ((), 1)
        )  # the whole sheet is there still


class GoingOn(unittest.TestCase):
    def test_from_every_line_of_work_the_rest_is_the_same_and_safe(self) -> None:
        for machine, ending in (
            (PLASMA, "nc"),
            (ROUTER, "nc"),
            (LASER, "nc"),
            (replace(ROUTER, dialect=replace(ROUTER.dialect, inches=True, decimals=4)), "nc"),
            (PEN, "plt"),
        ):
            job = bracket_job(machine)
            if machine.kind == "pen":
                job = add_operation(
                    replace(job, operations=()),
                    Draw(contours=tuple(item.id for item in job.contours), pen=2),
                )
            run, program = made(job)
            whole = rehearse(
                read_program(program_text(job, run, program, ending)), machine, stock_of(run)
            )
            total = float(whole.steps.lengths[whole.work].sum())
            done = 0.0
            for number in range(int(whole.run.max()) + 1):
                mine = whole.run == number
                rest = rehearse(
                    read_program(resumed(whole, int(np.flatnonzero(mine)[-1]))),
                    machine,
                    stock_of(run),
                )
                with self.subTest(machine=machine.id, ending=ending, line=number):
                    self.assertEqual(kinds(rest) - {"loose"}, kinds(whole))
                    self.assertEqual(rest.pierces, whole.pierces - number)
                    self.assertAlmostEqual(
                        float(rest.steps.lengths[rest.work].sum()), total - done, delta=0.05
                    )
                done += float(whole.steps.lengths[mine].sum())
            self.assertRaisesRegex(
                ValueError, "nothing is worked from there on", resumed, whole, len(whole.steps) - 1
            )

    def test_a_spindle_that_is_set_by_hand_is_turned_on_and_not_set_to_nothing(self) -> None:
        job = bracket_job(replace(ROUTER, spindle=0.0))
        run, program = made(job)
        whole = rehearsed(program_text(job, run, program), run, job)
        rest = resumed(whole, int(np.flatnonzero(whole.run == 2)[0]))
        self.assertIn("\nM3\n", rest)
        self.assertNotIn("S0", rest)

    def test_the_frame_runs_round_the_work_and_marks_nothing(self) -> None:
        for machine in MACHINES[:4]:
            job = bracket_job(machine)
            if machine.kind == "pen":
                job = add_operation(
                    replace(job, operations=()),
                    Draw(contours=tuple(item.id for item in job.contours)),
                )
            run, program = made(job)
            for how in FRAMES:
                framed = frame_program(program, how)
                text = program_text(job, run, framed)
                self.assertTrue(compared("f.nc", text, run, framed).matches)
                played_ = rehearsed(text, run, job)
                self.assertEqual((played_.troubles, played_.cut_mm), ((), 0.0))
                hull = shapely.Polygon(framed.to)
                self.assertTrue(
                    hull.buffer(0.01).contains(shapely.MultiPoint(program.to[program.work]))
                )
                np.testing.assert_allclose(hull.bounds, program.box, atol=0.01)
        run, program = made(bracket_job())
        x, y = program.box[:2]
        moved = program.counted_from(x, y)
        np.testing.assert_allclose(
            moved.box, (0, 0, program.box[2] - x, program.box[3] - y), atol=1e-9
        )
        text = program_text(bracket_job(), run, moved, zero="lower left of the work")
        self.assertIn("(zero: lower left of the work", text)
        self.assertTrue(compared("f.nc", text, run, moved).matches)
        self.assertEqual(moved.cut_mm, program.cut_mm)
        lit = frame_program(made(bracket_job(LASER))[1], "hull", 2.0)
        played_ = rehearsed(
            program_text(bracket_job(LASER), runs_of(bracket_job(LASER))[0], lit),
            runs_of(bracket_job(LASER))[0],
            bracket_job(LASER),
        )
        self.assertEqual((len(played_.loose), set(played_.steps.power[played_.work])), (0, {20.0}))
        self.assertRaises(
            ValueError,
            frame_program,
            program_of(replace(bracket_job(), operations=()), bracket_job().sheet, PLASMA),
        )


class Commands(unittest.TestCase):
    def said(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = command(arguments)
        return status, out.getvalue(), err.getvalue()

    def test_a_drawing_becomes_a_file_that_is_rehearsed_against_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            drawing, program = Path(folder) / "bracket.dxf", Path(folder) / "bracket.nc"
            drawing.write_bytes(
                DXF.write([Layer("part", tuple(bracket.part()))], Page(300, 300, 0.01), Unwatched())
            )
            status, out, _ = self.said(
                "make", str(drawing), "--machine", "plasma-table", "-o", str(program), "--json"
            )
            self.assertEqual((status, json.loads(out)["files"]), (0, [str(program)]))
            status, out, _ = self.said(
                "rehearse",
                str(program),
                "--machine",
                "plasma-table",
                "--against",
                str(drawing),
                "--json",
            )
            found = json.loads(out)
            self.assertEqual(
                (status, found["findings"], found["pierces"], found["missing"], found["parts"]),
                (0, [], 5, 0, 1),
            )
            self.assertLess(found["too_little_mm"], 0.05)
            self.assertLess(found["too_much_mm"], 0.35)
            status, out, _ = self.said("rehearse", str(program), "--machine", "desk-laser")
            self.assertIn("moves", out)
            program.write_text(program.read_text().replace("F2400", ""))
            status, out, _ = self.said("rehearse", str(program), "--machine", "plasma-table")
            self.assertEqual(status, 1)
            self.assertIn("works with no feed", out)

    def test_a_width_that_was_asked_for_is_in_the_file_and_the_run_goes_by_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            drawing, program = Path(folder) / "bracket.dxf", Path(folder) / "bracket.nc"
            drawing.write_bytes(
                DXF.write([Layer("part", tuple(bracket.part()))], Page(300, 300, 0.01), Unwatched())
            )
            for machine, width in (("plasma-table", 3.0), ("desk-laser", 0.4)):
                of = ("--machine", machine)
                self.said(
                    "make", str(drawing), *of, "--cut-width", f"{width}mm", "-o", str(program)
                )
                self.assertIn(f"(cut width: {width:g} mm)", program.read_text())
                held = ("rehearse", str(program), *of, "--against", str(drawing), "--json")
                found = json.loads(self.said(*held)[1])
                self.assertLess(found["too_much_mm"], (math.sqrt(2) - 1) * width / 2 + 0.02)
                self.assertLess(found["too_little_mm"], 0.02)
                found = json.loads(self.said(*held, "--cut-width", f"{width + 1}mm")[1])
                self.assertAlmostEqual(found["too_little_mm"], 0.5, delta=0.02)

    def test_a_program_counts_from_where_it_is_asked_to(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            drawing, program = Path(folder) / "plate.dxf", Path(folder) / "plate.nc"
            plate = Contour.make([(120, 40), (220, 40), (220, 110), (120, 110)])
            drawing.write_bytes(
                DXF.write([Layer("part", (plate,))], Page(300, 300, 0.01), Unwatched())
            )
            of = ("--machine", "desk-laser", "--side", "on", "--cut-width", "0.1mm")
            for zero, corner in (
                ((), (120, 40)),
                (("--zero", "drawing"), (120, 40)),
                (("--zero", "sheet"), (5, 5)),
                (("--zero", "work"), (0, 0)),
                (("--zero", "middle"), (-50, -35)),
            ):
                self.said("make", str(drawing), *of, *zero, "-o", str(program))
                steps = read_program(program.read_text(), LASER.dialect)
                low = steps.to[steps.on & ~steps.rapid, :2].min(axis=0)
                np.testing.assert_allclose(low, corner, atol=1e-3, err_msg=str(zero))
                held = (
                    "rehearse",
                    str(program),
                    *of[:2],
                    "--against",
                    str(drawing),
                    *zero,
                    "--json",
                )
                found = json.loads(self.said(*held)[1])
                self.assertEqual((found["missing"], found["uncut"]), (0, 0), zero)
                self.assertLess(found["too_much_mm"], 0.08, zero)

    def test_a_job_of_two_sides_becomes_two_files_and_one_that_is_stopped_none(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            job = set_operation(
                bracket_job(ROUTER), replace(bracket_job(ROUTER).operations[0], back=True)
            )
            save_job(job, Path(folder) / "b.draxet")
            status, _, _ = self.said(
                "make", str(Path(folder) / "b.draxet"), "-o", str(Path(folder) / "b.nc")
            )
            self.assertEqual(
                (status, sorted(path.name for path in Path(folder).glob("*.nc"))),
                (0, ["b - Sheet 1 back.nc", "b - Sheet 1.nc"]),
            )
            far = choose_machine(
                replace(job, sheets=(replace(job.sheet, x=-4000),)), "sheet-0", ROUTER.id
            )
            save_job(far, Path(folder) / "far.draxet")
            status, out, _ = self.said(
                "make", str(Path(folder) / "far.draxet"), "-o", str(Path(folder) / "far.nc")
            )
            self.assertEqual(
                (status, "nothing was written" in out, (Path(folder) / "far.nc").exists()),
                (1, True, False),
            )
            for wrong in (
                ("rehearse", str(Path(folder) / "none.nc"), "--machine", "plasma-table"),
                ("rehearse", str(Path(folder) / "b.draxet"), "--machine", "plasma-table"),
                ("rehearse", str(Path(folder) / "b - Sheet 1.nc"), "--machine", "saw"),
            ):
                self.assertEqual(self.said(*wrong)[0], 2)

    def test_all_files_of_a_call_are_put_in_place_together_or_none_is(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)

            def sheets_named(*names: str) -> Path:
                sheets = tuple(
                    Sheet(f"sheet-{k}", each, 300, 300, x=400.0 * k) for k, each in enumerate(names)
                )
                job = add_contours(
                    Job(sheets=sheets),
                    [Contour.circle(400 * k + 150, 150, 10 + k) for k in range(len(names))],
                )
                job = add_operation(
                    job, CutThrough(contours=tuple(item.id for item in job.contours), width=1.0)
                )
                save_job(job, folder / "two.draxet")
                return folder / "two.draxet"

            long = "ü" * 300
            for names in (
                ("A", "A"),
                ("a", "A"),
                ("x/y", "x-y"),
                (long, long),
                ("nul\0", "nul "),
                ("A", "A (2)", "A"),
            ):
                with self.subTest(names=[each[:9] for each in names]):
                    status, out, err = self.said(
                        "make", str(sheets_named(*names)), "-o", str(folder / "o.nc"), "--json"
                    )
                    files = [Path(each) for each in json.loads(out or "{}").get("files", ())]
                    self.assertEqual((status, len(set(files)), err), (0, len(names), ""))
                    self.assertEqual(
                        len({path.name.casefold() for path in folder.glob("*.nc")}), len(names)
                    )
                    self.assertEqual(
                        len({path.read_bytes() for path in files}),
                        len(names),
                        "each its own program",
                    )
                    for path in files:
                        path.unlink()
            work, (first, second) = (
                sheets_named("A", "B"),
                (folder / "o - A.nc", folder / "o - B.nc"),
            )
            first.write_text("old")
            second.mkdir()
            status, _, err = self.said("make", str(work), "-o", str(folder / "o.nc"))
            self.assertEqual((status, first.read_text()), (2, "old"))
            self.assertRegex(
                err, r"^draxet: o - B.nc could not be written: .*; nothing was written\n$"
            )
            second.rmdir()
            with mock.patch("draxet.files.os.replace") as put:
                put.side_effect = lambda a, b: (
                    self._refuse() if put.call_count == 2 else os.rename(a, b)
                )
                self.assertEqual(self.said("make", str(work), "-o", str(folder / "o.nc"))[0], 2)
            self.assertEqual(
                (first.read_text(), second.exists(), [p.name for p in folder.glob(".*")]),
                ("old", False, []),
            )
            self.assertEqual(self.said("make", str(work), "-o", str(folder / "o.nc"))[0], 0)
            self.assertNotEqual(first.read_text(), "old")

    def _refuse(self) -> None:
        raise OSError(5, "Input/output error")

    def test_an_input_is_never_overwritten_and_nothing_to_write_is_a_fault(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            drawing, job = Path(name) / "in.nc", Path(name) / "empty.draxet"
            drawing.write_bytes(
                SVG.write(
                    [Layer("part", (Contour.circle(50, 50, 20),))],
                    Page(100, 100, 0.01),
                    Unwatched(),
                )
            )
            before = drawing.read_bytes()
            for out in (drawing, Path(name) / "." / "in.nc"):
                status, _, err = self.said("make", str(drawing), "-o", str(out))
                self.assertEqual((status, drawing.read_bytes() == before), (2, True), err)
            self.assertIn("must be another file than the input", err)
            save_job(Job(), job)
            for more in ((), ("--json",)):
                status, out_, err = self.said(
                    "make", str(job), "-o", str(Path(name) / "o.nc"), *more
                )
                self.assertEqual((status, out_), (2, ""))
                self.assertIn("nothing would leave", err)

    def test_kinds_of_work_are_told_apart(self) -> None:
        job = add_contours(
            Job(sheets=(Sheet(machine=LASER.id, thickness=2.0),)),
            [Contour.circle(60, 60, 30), Contour.circle(60, 60, 10)],
        )
        job = add_operation(job, Engrave(contours=("contour-2",), spacing=1.0, feed=9000, power=35))
        job = add_operation(
            job,
            CutThrough(contours=("contour-1",), side=Side.OUTSIDE, width=0.15, feed=700, power=90),
        )
        run = played(job)
        self.assertEqual((run.troubles, len(run.loose)), ((), 1))
        self.assertLess(run.depth[run.work & ~run.through].max(), 0.2)
        self.assertEqual(stock_of(runs_of(job)[0]).thickness, 2.0)


if __name__ == "__main__":
    unittest.main()
