"""Programs: they run where the operations say, in an order that keeps parts in their place, by a
short way; and what the command tells of them."""

from __future__ import annotations

import contextlib
import io
import json
import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import bracket
import numpy as np
import shapely

from draxet.cli.commands import run
from draxet.formats.dxf import DXF
from draxet.formats.layer import Layer, Page
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import open_job, read_job, save_job
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import MACHINES
from draxet.job.operating import add_operation, choose_machine, set_machine, set_operation
from draxet.job.operations import (
    OPERATION_KINDS,
    CutThrough,
    Draw,
    Drill,
    Engrave,
    Pocket,
    Score,
    Side,
)
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of
from draxet.make.cutting_through import give_cut
from draxet.make.operator import cost_of, operators_list
from draxet.make.program_making import program_of
from draxet.make.route import nearest_order, route_length, shortest_order
from draxet.progress import Unwatched
from draxet.prove.looking import findings_of
from draxet.prove.program_file import compared, program_text, rehearsed

LASER, ROUTER, PLASMA, PEN = MACHINES[:4]


def wrong_with(job: Job) -> list[Finding]:
    """The findings, but for those that only say that there is no recipe."""
    return [finding for finding in findings_of(job) if not finding.kind.startswith("no-recipe")]


def bracket_job() -> Job:
    job = add_contours(
        Job(sheets=(Sheet(width=300, height=300, x=0, origin=(0.5, 0.0)),)), bracket.part()
    )
    return give_cut(job, [item.id for item in job.contours], 1.5, 2400)


def drawn(program: Program, path: int) -> np.ndarray:
    """The places that a line's moves run over, arcs in small steps."""
    points = []
    for k in np.flatnonzero(program.path == path).tolist():
        begin, to = program.beginnings[k], program.to[k]
        if program.turn[k]:
            arm = begin - program.centre[k]
            angles = np.linspace(0, program.turn[k], 80)
            points.append(
                program.centre[k]
                + np.column_stack(
                    [
                        arm[0] * np.cos(angles) - arm[1] * np.sin(angles),
                        arm[0] * np.sin(angles) + arm[1] * np.cos(angles),
                    ]
                )
            )
        else:
            points.append(np.vstack([begin, to]))
    return np.vstack(points)


class Programs(unittest.TestCase):
    def test_each_cut_runs_half_its_width_beside_its_contour_from_the_sheets_origin(self) -> None:
        job = bracket_job()
        for machine in (PLASMA, LASER):
            program = program_of(job, job.sheet, machine)
            self.assertEqual(
                sorted(name for names in program.ids for name in names),
                sorted(item.id for item in job.contours),
            )
            self.assertEqual(bool((program.turn != 0).any()), machine.arcs)
            for path, (name,) in enumerate(program.ids):
                contour = job.contour_by_id[name].contour
                ring = shapely.LinearRing(contour.flattened(0.001) - (150, 0))
                away = shapely.distance(shapely.points(drawn(program, path)), ring)
                self.assertLess(np.abs(away - 0.75).max(), 0.012)
                np.testing.assert_allclose(
                    drawn(program, path)[0], drawn(program, path)[-1], atol=1e-9
                )  # it closes
            self.assertAlmostEqual(program.box[0], -150.75, delta=0.02)

    def test_inner_comes_before_outer_and_what_parts_it_last(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(6):
            contours = []
            for x, y in rng.uniform(20, 480, (12, 2)):
                contours += [
                    Contour.circle(x, y, radius) for radius in (8, 5, 2) if rng.random() < 0.8
                ]
            job = add_contours(Job(sheets=(Sheet(width=500, height=500),)), contours)
            job = give_cut(job, [item.id for item in job.contours], 0.2, 1000)
            scored = [item.id for item in job.contours if rng.random() < 0.3] or [
                job.contours[0].id
            ]
            job = add_operation(job, Score(contours=tuple(scored)))
            program = program_of(job, job.sheet, LASER)
            when = {
                (program.operations[program.operation[k]], program.ids[program.path[k]][0]): k
                for k in np.flatnonzero(program.path >= 0).tolist()
            }
            cuts = {
                name: k
                for (operation, name), k in when.items()
                if operation != job.operations[-1].id
            }
            areas = {
                item.id: shapely.Polygon(item.contour.flattened(0.01)) for item in job.contours
            }
            for inner, first in cuts.items():
                for outer, later in cuts.items():
                    if inner != outer and areas[outer].contains(areas[inner]):
                        self.assertLess(first, later)
            for name in scored:
                for outer, later in cuts.items():
                    if areas[outer].contains(areas[name]) or outer == name:
                        self.assertLess(when[job.operations[-1].id, name], later)

    def test_time_counts_the_way_the_speeding_up_and_the_pierces(self) -> None:
        job = add_contours(Job(), [Contour.make([(100, 0), (200, 0)], closed=False)])
        job = add_operation(
            job, CutThrough(contours=(job.contours[0].id,), side=Side.ON, feed=6000.0)
        )
        program = program_of(
            job, job.sheet, replace(PLASMA, travel=6000.0, acceleration=1000.0, pierce=0.5)
        )
        self.assertEqual((program.cut_mm, program.travel_mm), (100.0, 100.0))
        self.assertAlmostEqual(program.seconds, 2 * (1.0 + 0.1) + 0.5)
        self.assertEqual([event.what for event in program.events], ["on", "pierce", "off"])

    def test_depths_tools_and_limits_of_the_machine(self) -> None:
        job = add_contours(
            Job(sheets=(Sheet(thickness=6.0),)),
            [Contour.make([(10, 10), (60, 10), (60, 50), (10, 50)]), Contour.circle(30, 30, 5)],
        )
        a, b = (item.id for item in job.contours)
        job = add_operation(
            add_operation(
                job, CutThrough(contours=(a,), side=Side.OUTSIDE, width=4.0, passes=3, feed=9000.0)
            ),
            Drill(contours=(b,), diameter=3.0),
        )
        program = program_of(job, job.sheet, ROUTER)
        self.assertEqual(
            sorted(set(program.depth[program.work].round(6).tolist())), [2.0, 4.0, 6.0]
        )
        self.assertEqual(
            [event.value for event in program.events if event.what == "cutter"], [3.0, 4.0]
        )
        self.assertEqual(program.feed[program.work].max(), ROUTER.most_feed)

    def test_leads_begin_and_end_on_the_waste_and_are_shorter_where_there_is_no_room(self) -> None:
        for shape in ("straight", "arc"):
            job = bracket_job()
            for operation in job.operations:
                job = set_operation(
                    job, replace(operation, lead=6.0, lead_shape=shape, overrun=2.0)
                )  # type: ignore[type-var]
            program = program_of(job, job.sheet, PLASMA)
            for path, (name,) in enumerate(program.ids):
                contour, places = job.contour_by_id[name].contour, drawn(program, path) + (150, 0)
                part = shapely.Polygon(contour.flattened(0.001))
                inside = shapely.contains_xy(part, *places[0])
                self.assertEqual(inside, job.cut_of[name].side is Side.INSIDE)
                kept = (
                    part.buffer(-0.7)
                    if job.cut_of[name].side is Side.OUTSIDE
                    else shapely.box(-500, -500, 800, 800).difference(part.buffer(0.7))
                )
                self.assertFalse(
                    kept.intersects(shapely.LineString(places))
                )  # nothing cuts into what stays
                self.assertGreater(part.exterior.distance(shapely.Point(places[0])), 3.0)
        small = give_cut(
            add_contours(Job(), [Contour.circle(50, 50, 40), Contour.circle(50, 50, 4)]),
            ["contour-1", "contour-2"],
            1.5,
            1000,
        )
        for operation in small.operations:
            small = set_operation(small, replace(operation, lead=6.0))  # type: ignore[type-var]
        program = program_of(small, small.sheet, PLASMA)
        first = drawn(program, program.ids.index(("contour-2",)))
        self.assertLess(np.hypot(*(first - (50, 50)).T).max(), 3.3)

    def test_engraved_lines_are_run_up_to_and_pens_are_changed(self) -> None:
        job = add_contours(
            Job(),
            [
                Contour.make([(20, 20), (60, 20), (60, 30), (20, 30)]),
                Contour.make([(5, 5), (9, 9)], closed=False),
            ],
        )
        a, b = (item.id for item in job.contours)
        engraved = add_operation(job, Engrave(contours=(a,), spacing=2.0, overrun=3.0))
        program = program_of(engraved, job.sheet, LASER)
        self.assertAlmostEqual(program.cut_mm, 5 * 40, places=6)
        self.assertAlmostEqual(float(np.vstack([program.to, program.beginnings])[:, 0].max()), 63.0)
        self.assertEqual(set(program.power[~program.work]), {0.0})
        drawn_by = add_operation(job, Draw(contours=(b,), pen=3))
        self.assertEqual(
            [
                event.value
                for event in program_of(drawn_by, job.sheet, PEN).events
                if event.what == "pen"
            ],
            [3],
        )

    def test_climbing_has_the_part_on_the_right(self) -> None:
        for direction, sign in (("climb", -1), ("against", 1)):
            job = bracket_job()
            for operation in job.operations:
                job = set_operation(job, replace(operation, direction=direction))  # type: ignore[type-var]
            program = program_of(job, job.sheet, ROUTER)
            for path, (name,) in enumerate(program.ids):
                area = shapely.LinearRing(drawn(program, path)).is_ccw
                outside = job.cut_of[name].side is Side.OUTSIDE
                self.assertEqual(area, (sign > 0) == outside)

    def test_a_stop_comes_once_before_all_of_its_operation_with_everything_off_and_is_told(
        self,
    ) -> None:
        rings = [Contour.circle(30 + 40 * (k % 4), 30 + 40 * (k // 4), 12) for k in range(8)]
        for machine, kind in ((LASER, Score), (ROUTER, Score), (PLASMA, Score), (PEN, Draw)):
            job = choose_machine(add_contours(Job(), rings), Job().sheet.id, machine.id)
            names = [item.id for item in job.contours]
            job = add_operation(job, kind(contours=tuple(names[::2])))
            plain = job.work_digest(job.sheet)
            job = add_operation(job, kind(contours=tuple(names[1::2]), stop="Next (pen); now"))
            self.assertEqual(
                set_operation(job, job.operations[0]).work_digest(job.sheet),
                job.work_digest(job.sheet),
            )
            self.assertNotEqual(plain, job.work_digest(job.sheet))
            (run_,) = runs_of(job)
            program = program_of(job, job.sheet, machine)
            (stop,) = (event for event in program.events if event.what == "stop")
            self.assertEqual(set(program.operation[: stop.at].tolist()), {0}, machine.id)
            self.assertEqual(set(program.operation[stop.at :].tolist()), {1}, machine.id)
            self.assertIn(
                f"It stops before {kind.title}: Next (pen); now", operators_list(job, job.sheet)
            )
            endings = ("nc", "plt") if machine is PEN else ("nc",)
            for ending in endings:
                text = program_text(job, run_, program, ending)
                word = "NR;" if ending == "plt" else "M0"
                lines = text.splitlines()
                self.assertEqual(text.count(word), 1)
                at = next(k for k, line in enumerate(lines) if word in line)
                played = rehearsed(text, run_, job)
                ((seconds, words),) = played.stops
                self.assertEqual(words, "" if ending == "plt" else "Next [pen], now")
                self.assertTrue(0 < seconds < played.seconds)
                self.assertEqual(compared(f"a.{ending}", text, run_, program).otherwise, 0)
                without = "\n".join([*lines[:at], *lines[at + 1 :]])
                self.assertGreater(compared(f"a.{ending}", without, run_, program).otherwise, 0)
                if machine is ROUTER:  # up, off, said, waiting, on again
                    self.assertRegex(
                        "\n".join(lines[at - 3 : at + 2]), r"^G0 Z8\nM5\n\(.*\nM0\nM3 S24000$"
                    )
            deaf = set_machine(
                job, replace(machine, id="own-1", dialect=replace(machine.dialect, stop=""))
            )
            deaf = choose_machine(deaf, deaf.sheet.id, "own-1")
            self.assertTrue(any(each.kind.startswith("no-stop") for each in findings_of(deaf)))
            self.assertFalse(any(each.kind.startswith("no-stop") for each in findings_of(job)))

    def test_nothing_to_do_is_an_empty_program(self) -> None:
        program = program_of(Job(), Job().sheet, PLASMA)
        self.assertEqual((len(program), program.seconds, program.cut_mm), (0, 0.0, 0.0))


class Routes(unittest.TestCase):
    def test_every_line_is_visited_once_and_the_way_is_shorter_than_always_on_to_the_nearest(
        self,
    ) -> None:
        rng, start = np.random.default_rng(4), np.zeros(2)
        for count in (1, 2, 3, 10, 300):
            entries = rng.uniform(0, 500, (count, 2))
            for exits in (entries, entries + rng.uniform(-15, 15, (count, 2))):
                near, short = (
                    nearest_order(start, entries, exits),
                    shortest_order(start, entries, exits),
                )
                self.assertEqual(sorted(k for k, _ in short), list(range(count)))
                self.assertLessEqual(
                    route_length(start, entries, exits, short),
                    route_length(start, entries, exits, near) + 1e-9,
                )
        self.assertLess(
            route_length(start, entries, exits, short) / route_length(start, entries, exits, near),
            0.93,
        )


class Machines(unittest.TestCase):
    def test_what_is_out_of_reach_or_for_another_machine_is_found_and_mended(self) -> None:
        job = choose_machine(bracket_job(), "sheet-0", "desk-laser")
        self.assertEqual(wrong_with(job), [])
        small = set_machine(job, replace(LASER, reach_x=200.0))
        (finding,) = wrong_with(small)
        self.assertEqual((finding.kind, len(finding.ids)), ("out-of-reach", 2))
        self.assertEqual(small.machine_of(small.sheet).reach_x, 200.0)
        pocketed = add_operation(job, Pocket(contours=(job.contours[2].id,)))
        finding, both = wrong_with(pocketed)
        self.assertIn("The desk laser cannot pocket", finding.words)
        self.assertIn("1 area that is to be filled", both.words)
        assert finding.mend is not None
        self.assertEqual(wrong_with(finding.mend(pocketed)), [])
        line = add_contours(job, [Contour.make([(5, 5), (9, 9)], closed=False)])
        filled = add_operation(line, Engrave(contours=(line.contours[0].id, line.contours[-1].id)))
        finding = next(f for f in findings_of(filled) if f.kind.startswith("wrong-"))
        self.assertIn("1 contour is open where it has to bound an area", finding.words)
        assert finding.mend is not None
        self.assertEqual(len(finding.mend(filled).operations[-1].contours), 1)

    def test_a_pocket_without_room_stops_and_corners_that_are_left_are_measured(self) -> None:
        box = Contour.make([(10, 10), (60, 10), (60, 50), (10, 50)])
        job = add_contours(Job(sheets=(Sheet(machine="gantry-router"),)), [box])
        (finding,) = wrong_with(add_operation(job, Pocket(contours=("contour-1",), diameter=10.0)))
        self.assertEqual((finding.gravity, len(finding.places)), (Gravity.INFORMS, 4))
        self.assertIn(f"{4 * (25 - math.pi * 25 / 4):.1f} mm²", finding.words)
        (finding,) = wrong_with(add_operation(job, Pocket(contours=("contour-1",), diameter=41.0)))
        self.assertEqual(finding.gravity, Gravity.STOPS)
        self.assertIn("take a thinner one", finding.words)

    def test_what_a_run_takes_and_what_is_seen_to_before_it(self) -> None:
        job = bracket_job()
        self.assertAlmostEqual(
            cost_of(job, job.sheet, 90.0).share, abs(bracket.part()[0].area) / 90_000, places=9
        )
        for machine in MACHINES:
            chosen = choose_machine(job, job.sheet.id, machine.id)
            self.assertGreater(len(operators_list(chosen, chosen.sheet)), 2)
        routed = choose_machine(job, job.sheet.id, ROUTER.id)
        self.assertIn(
            "height at the bed", " ".join(operators_list(routed, replace(routed.sheet, zero="bed")))
        )

    def test_every_kind_and_an_own_machine_come_back_with_the_job_and_an_older_file_opens_with_its_cuts(
        self,
    ) -> None:
        job = add_contours(Job(), [Contour.circle(50, 50, 20)])
        for kind in OPERATION_KINDS:
            job = add_operation(job, kind().with_contours([job.contours[0].id]))
        job = set_machine(job, replace(ROUTER, id="shed-router", name="Shed router"))
        with tempfile.TemporaryDirectory() as folder:
            save_job(job, Path(folder) / "all.draxet")
            self.assertEqual(read_job(Path(folder) / "all.draxet"), job)
        older = open_job(Path(__file__).parents[1] / "job/files/version-2.draxet")
        self.assertEqual(older.remarks, ())
        self.assertTrue(
            all(isinstance(operation, CutThrough) for operation in older.job.operations)
        )
        self.assertTrue(older.job.operations)


class Commands(unittest.TestCase):
    def said(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = run(arguments)
        return status, out.getvalue(), err.getvalue()

    def test_a_drawing_is_cut_by_nesting_and_told_as_json(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "bracket.dxf"
            path.write_bytes(
                DXF.write([Layer("part", tuple(bracket.part()))], Page(300, 300, 0.01), Unwatched())
            )
            status, out, _ = self.said(
                "make",
                str(path),
                "--machine",
                "desk-laser",
                "--cut-width",
                "2mm",
                "--feed",
                "40mm/s",
                "--json",
            )
            found = json.loads(out)
            self.assertEqual(
                (status, found["contours"], {each["kind"] for each in found["findings"]}),
                (0, 5, set()),
            )
            around = sum(c.length for c in bracket.part()) + 2 * math.pi * (
                1 - 3 - 1
            )  # one outline grows, three holes and the window shrink
            self.assertAlmostEqual(found["cut_mm"], around, delta=4.0)
            self.assertGreater(found["seconds"], found["cut_mm"] / 40)
            status, out, _ = self.said("make", str(path), "--machine", "pen-plotter", "--json")
            self.assertEqual((status, json.loads(out)["findings"][0]["gravity"]), (1, "stops"))
            for material, thick, machine, kinds in (
                ("plywood", "3mm", "Desk laser", set()),
                ("birch plywood", "3mm", "Desk laser", {"no-recipe"}),
                ("oak board", "12mm", "Gantry router", {"no-recipe"}),
                ("Steel", "2mm", "Plasma table", set()),
            ):
                of = ("--material", material, "--thickness", thick)
                found = json.loads(self.said("make", str(path), *of, "--json")[1])
                self.assertEqual(found["machine"], machine)
                self.assertEqual({each["kind"] for each in found["findings"]}, kinds)
            for wrong in (
                ("--machine", "big saw"),
                ("--feed", "fast"),
                ("--cut-width", "-1"),
                ("--thickness", "thick"),
                ("--material", "moon rock"),
            ):
                status, _, err = self.said("make", str(path), *wrong)
                self.assertEqual(status, 2)
                self.assertIn("got", err)
            self.assertEqual(self.said("make", str(Path(folder) / "none.dxf"))[0], 2)

    def test_machines_are_listed_one_a_line(self) -> None:
        status, out, _ = self.said("machines")
        self.assertEqual(
            (status, [line.split()[1] for line in out.splitlines()]),
            (0, ["laser", "router", "plasma", "pen", "saw", "stitcher", "printer"]),
        )


if __name__ == "__main__":
    unittest.main()
