"""What a program would run into, cut away or do too late is found, with a mend where there is
one."""

from __future__ import annotations

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from draxet.formats.dxf import DXF
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, remove_contours
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import MACHINES, KeepClear
from draxet.job.make_edits import add_fit, order_by_hand, put_start
from draxet.job.operating import add_operation, choose_machine, set_machine, set_operation
from draxet.job.operations import CutThrough, Pocket, Score, Side, Spot
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sheet_edits import hand_off_noted
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of, side_of
from draxet.job.work import cut_work
from draxet.make.cutting_through import give_cut
from draxet.make.program_making import program_of
from draxet.prove.looking import findings_of
from draxet.prove.run import run_findings
from draxet.prove.run_pace import moves_a_second
from tests.handing_off import hand_off

ROUTER, PLASMA = MACHINES[1], MACHINES[2]


def box(x: float, y: float, wide: float, high: float) -> Contour:
    return Contour.make([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)])


def found_in(job: Job) -> list[Finding]:
    return list(
        run_findings(
            job,
            tuple(program_of(job, sheet, job.machine_of(sheet)) for sheet in job.sheets_with_work),
        )
    )


def worked(job: Job) -> list[str]:
    """The contours in the order in which a program works them."""
    program = program_of(job, job.sheet, job.machine_of(job.sheet))
    return list(dict.fromkeys(program.ids[path][0] for path in program.path.tolist() if path >= 0))


class Runs(unittest.TestCase):
    def test_a_sound_job_has_no_findings_wherever_its_sheet_lies(self) -> None:
        for origin in ((0.0, 0.0), (0.5, 1.0)):
            job = add_contours(
                Job(sheets=(Sheet(x=30, y=-20, origin=origin),)),
                [box(50, 50, 100, 60), Contour.circle(80, 80, 12), Contour.circle(120, 80, 5)],
            )
            job = give_cut(job, [item.id for item in job.contours], 1.5, 2000)
            job = set_operation(
                job, replace(job.cut_of["contour-1"], lead=5.0, lead_shape="arc", overrun=2.0)
            )
            self.assertEqual(found_in(job), [])

    def test_openings_alone_take_nothing_from_the_sheet_round_them(self) -> None:
        job = add_contours(Job(), [box(50, 50, 100, 60), Contour.circle(80, 80, 12)])
        job = add_operation(job, CutThrough(contours=("contour-2",), side=Side.INSIDE, width=1.5))
        self.assertEqual(found_in(job), [])
        out = set_operation(job, replace(job.operations[0], side=Side.OUTSIDE))
        self.assertEqual(found_in(out), [])

    def test_leads_and_cuts_that_take_from_a_neighbour_are_found_and_mended(self) -> None:
        job = add_contours(Job(), [box(50, 50, 40, 40), box(96, 50, 40, 40)])
        job = give_cut(job, [item.id for item in job.contours], 1.5, 2000)
        job = set_operation(job, replace(job.operations[0], lead=9.0, spots=()))
        job = put_start(
            job, "contour-1", 0.375
        )  # in the middle of the side that faces the other part
        (finding,) = found_in(job)
        self.assertEqual(finding.gravity, Gravity.STOPS)
        x, y = finding.places[finding.ids.index("contour-1")]
        self.assertAlmostEqual(x, 98, delta=2.5)
        self.assertAlmostEqual(y, 70, delta=1)
        assert finding.mend is not None
        self.assertEqual(found_in(finding.mend(job)), [])
        near = add_contours(Job(), [box(50, 50, 40, 40), box(91, 50, 40, 40)])
        (finding,) = found_in(give_cut(near, [item.id for item in near.contours], 2.0, 2000))
        self.assertEqual((len(finding.ids), finding.mend), (2, None))

    def test_every_opening_of_a_large_plate_that_is_cut_on_its_wrong_side_is_told(self) -> None:
        holes = [
            Contour.circle(6 + 9 * (k % 40), 6 + 9 * (k // 40), 2.0 + (k % 5) * 0.4)
            for k in range(800)
        ]
        job = add_contours(
            Job(sheets=(Sheet(width=400, height=300),)), [box(1, 1, 370, 190), *holes]
        )
        wrong = tuple(f"contour-{k}" for k in range(2, 802, 7))
        job = give_cut(job, [item.id for item in job.contours if item.id not in wrong], 0.5, 1000)
        self.assertEqual(found_in(job), [])
        (finding,) = found_in(
            add_operation(job, CutThrough(contours=wrong, side=Side.OUTSIDE, width=0.5))
        )
        self.assertEqual(set(finding.ids), set(wrong))
        for name, (x, y) in zip(finding.ids, finding.places, strict=True):
            cx, cy, radius = job.contour_by_id[name].contour.circle_shape or (0.0, 0.0, 0.0)
            self.assertTrue(radius < np.hypot(x - cx, y - cy) < radius + 0.5)

    def test_what_would_be_cut_twice_is_told_and_cut_once(self) -> None:
        """Edges that areas share are cut once anyway; an open line on an edge is not."""
        outline = box(50, 50, 40, 40)
        for other, count in (
            (outline, 0),
            (Contour.make([(50, 60), (50, 80)], closed=False), 1),
            (box(50.5, 50.5, 39, 39), 0),
            (box(150, 50, 40, 40), 0),
        ):
            job = add_contours(Job(), [outline, other])
            for item in job.contours:
                job = add_operation(job, CutThrough(name=item.id, contours=(item.id,)))
            found = [each for each in found_in(job) if each.kind.startswith("cut-twice")]
            with self.subTest(box=other.box):
                self.assertEqual(len(found), count)
                if found:
                    assert found[0].mend is not None
                    self.assertEqual(
                        [
                            each.kind
                            for each in found_in(found[0].mend(job))
                            if each.kind.startswith("cut-twice")
                        ],
                        [],
                    )

    def test_slits_that_lie_on_each_other_for_a_stretch_are_told_and_crossings_leads_and_tabs_are_not(
        self,
    ) -> None:
        def line(*places: tuple[float, float]) -> Contour:
            return Contour.make(places, closed=False)

        cases = (
            (line((20, 20), (120, 20)), line((60, 20), (150, 20)), 60.0),
            (line((20, 20), (120, 20)), line((150, 20.015), (60, 20)), 60.0),
            (line((20, 20), (120, 20)), line((60, 10), (70, 40)), 0.0),
            (line((20, 20), (120, 20)), line((120, 20), (150, 20)), 0.0),
            (box(50, 50, 40, 40), line((50, 30), (50, 70)), 20.0),
            (Contour.circle(80, 80, 20), line((60, 60), (100, 60)), 0.0),
        )
        for one, other, over in cases:
            job = add_contours(Job(), [one, other])
            job = add_operation(
                job, CutThrough(contours=("contour-1", "contour-2"), side=Side.ON, width=0.5)
            )
            found = [each for each in found_in(job) if each.kind.startswith("cut-twice")]
            with self.subTest(one=one.box, other=other.box):
                self.assertEqual(len(found), int(over > 0))
                if found:
                    self.assertIn(f"over {over:.0f} mm in all", found[0].words)
                    self.assertEqual(found[0].mend, None)
        held = add_contours(Job(sheets=(Sheet(thickness=6.0),)), [box(50, 50, 80, 60)])
        held = give_cut(choose_machine(held, "sheet-0", ROUTER.id), ["contour-1"], 3.175, 1000)
        held = set_operation(
            held, replace(held.operations[0], tabs=3, tab_height=2.0, passes=3, overrun=4.0)
        )
        self.assertEqual(
            [each.kind for each in found_in(held) if each.kind.startswith("cut-twice")], []
        )

    def test_what_is_to_be_kept_clear_stops_work_and_low_travel(self) -> None:
        job = add_contours(
            Job(sheets=(Sheet(x=10, y=10),)), [box(20, 20, 30, 30), box(120, 20, 30, 30)]
        )
        job = give_cut(
            choose_machine(job, "sheet-0", ROUTER.id),
            [item.id for item in job.contours],
            3.175,
            1500,
        )
        for clamp, height, words, ids in (
            (box(35, 5, 20, 20), 15.0, "1 line would run into area 1", ("contour-1",)),
            (box(70, -10, 10, 100), 15.0, "travels at 8 mm", ()),
            (box(70, -10, 10, 100), 5.0, "", ()),
            (box(45, 60, 10, 10), 30.0, "", ()),
        ):
            clamped = set_machine(job, replace(ROUTER, keep_clear=(KeepClear(clamp, height),)))
            found = found_in(clamped)
            with self.subTest(height=height, words=words):
                self.assertEqual(len(found), 1 if words else 0)
                if words:
                    self.assertIn(words, found[0].words)
                    self.assertEqual((found[0].gravity, found[0].ids), (Gravity.STOPS, ids))

    def test_an_odd_reach_is_what_counts(self) -> None:
        job = give_cut(add_contours(Job(), [Contour.circle(90, 90, 8)]), ["contour-1"], 1.5, 2000)
        for outline, wanted in ((Contour.circle(50, 50, 50), 1), (Contour.circle(50, 50, 70), 0)):
            odd = set_machine(job, replace(PLASMA, outline=outline))
            self.assertEqual(sum(each.kind == "out-of-reach" for each in findings_of(odd)), wanted)

    def test_tools_that_a_machine_has_not_or_that_are_too_short_are_told(self) -> None:
        job = choose_machine(
            add_contours(Job(sheets=(Sheet(thickness=18.0),)), [box(20, 20, 60, 60)]),
            "sheet-0",
            ROUTER.id,
        )
        job = choose_machine(job, job.sheet.id, ROUTER.id)
        kinds = {
            (wide, deep): [
                (each.kind, each.gravity)
                for each in found_in(
                    add_operation(job, Pocket(contours=("contour-1",), diameter=wide, depth=deep))
                )
            ]
            for wide, deep in ((2.0, 5.0), (2.0, 12.0), (4.0, 5.0))
        }
        self.assertEqual([len(found) for found in kinds.values()], [0, 1, 1])
        self.assertEqual(
            [found[0][1] for found in kinds.values() if found], [Gravity.STOPS, Gravity.STOPS]
        )
        lacking = add_operation(job, Pocket(contours=("contour-1",), diameter=4.5, depth=5.0))
        (fault,) = found_in(lacking)
        assert fault.mend is not None
        self.assertEqual(found_in(fault.mend(lacking)), [])


class ByHand(unittest.TestCase):
    def setUp(self) -> None:
        shapes = [box(20 + 70 * k, 20, 50, 50) for k in range(4)] + [
            Contour.circle(45 + 70 * k, 45, 8) for k in range(4)
        ]
        job = add_contours(Job(), shapes)
        job = add_operation(job, Score(contours=("contour-8",)))
        self.job = give_cut(job, [item.id for item in job.contours], 1.5, 2000)

    def test_an_order_is_kept_one_right_after_the_other_and_what_must_go_before_does(self) -> None:
        for ids in (
            ("contour-3", "contour-1"),
            ("contour-8", "contour-5"),
            ("contour-4", "contour-2", "contour-1"),
        ):
            order = worked(order_by_hand(self.job, ids))
            with self.subTest(ids=ids):
                at = order.index(ids[0])
                cut = [name for name in order if name != "contour-8" or "contour-8" in ids]
                self.assertEqual(tuple(cut[cut.index(ids[0]) :][: len(ids)]), ids)
                self.assertEqual(sorted(order), sorted(worked(self.job)))
                for inner, outer in ((f"contour-{k + 5}", f"contour-{k + 1}") for k in range(4)):
                    self.assertLess(order.index(inner), order.index(outer))
                self.assertEqual(found_in(order_by_hand(self.job, ids)), [], at)

    def test_one_that_is_too_late_stops_and_is_given_up(self) -> None:
        wrong = order_by_hand(self.job, ("contour-2", "contour-6"))
        (finding,) = found_in(wrong)
        self.assertEqual(
            (finding.kind, finding.gravity, finding.ids),
            ("wrong-order", Gravity.STOPS, ("contour-6",)),
        )
        assert finding.mend is not None
        self.assertEqual(found_in(finding.mend(wrong)), [])

    def test_orders_and_fits_go_with_their_contours(self) -> None:
        job = add_fit(
            order_by_hand(self.job, ("contour-1", "contour-2", "contour-3")),
            "contour-1",
            "contour-6",
            0.2,
        )
        self.assertEqual(
            remove_contours(job, ["contour-2"]).orders[0].contours, ("contour-1", "contour-3")
        )
        self.assertEqual(remove_contours(job, ["contour-2", "contour-3"]).orders, ())
        self.assertEqual(
            (remove_contours(job, ["contour-2"]).fits, remove_contours(job, ["contour-6"]).fits),
            (job.fits, ()),
        )
        self.assertEqual(
            order_by_hand(job, ("contour-3", "contour-4")).orders[0].contours,
            ("contour-1", "contour-2"),
        )

    def test_an_opening_is_cut_wider_by_its_clearance(self) -> None:
        for clearance in (0.0, 0.25, 1.2, -0.1):
            job = add_fit(self.job, "contour-1", "contour-6", clearance)
            (cut,) = [work for work in cut_work(job) if work.ids == ("contour-6",)]
            self.assertAlmostEqual(
                cut.contour.area, Contour.circle(0, 0, 8 + clearance).area, places=6
            )
            self.assertEqual(cut.side, Side.INSIDE)
            program = program_of(job, job.sheet, PLASMA)
            run = sum(
                length
                for length, path, work in zip(
                    program.lengths, program.path.tolist(), program.work.tolist(), strict=True
                )
                if work and program.ids[path] == ("contour-6",)
            )
            self.assertAlmostEqual(run, 2 * 3.141592653589793 * (8 + clearance - 0.75), places=6)
            self.assertNotEqual(job.work_digest(job.sheet), self.job.work_digest(self.job.sheet))
        self.assertIsInstance(self.job.operations[1], CutThrough)


class FromTheBack(unittest.TestCase):
    def setUp(self) -> None:
        sheet = Sheet(x=10, y=20, width=300, height=200, origin=(1.0, 0.0), machine=ROUTER.id)
        corner = Contour.make([(40, 40), (120, 40), (120, 60), (60, 60), (60, 90), (40, 90)])
        job = add_contours(
            Job(sheets=(sheet,)), [corner, Contour.circle(90, 50, 5), Contour.circle(50, 80, 4)]
        )
        job = add_operation(
            job,
            CutThrough(
                contours=("contour-1",),
                side=Side.OUTSIDE,
                width=3.0,
                spots=(Spot("contour-1", 0.1),),
            ),
        )
        self.job = add_operation(job, Pocket(contours=("contour-2",), diameter=3.0, back=True))

    def programs(self, job: Job) -> list[Program]:
        return [
            program_of(side_of(job, run), run.sheet, job.machine_of(run.sheet))
            for run in runs_of(job)
        ]

    def test_it_is_a_program_of_its_own_mirrored_about_the_middle_of_the_sheet(self) -> None:
        front, back = self.programs(self.job)
        self.assertEqual((front.operations, back.operations), (("operation-4",), ("operation-5",)))
        x0, y0, x1, y1 = back.box
        mirrored, up = (
            10 + (310 - 90),
            50,
        )  # in the job's own space, where the sheet lies from 10 to 310
        np.testing.assert_allclose(
            ((x0 + x1) / 2, (y0 + y1) / 2), (mirrored - 310, up - 20), atol=1e-6
        )
        self.assertTrue(
            any(
                finding.kind.startswith("back-")
                for finding in run_findings(self.job, (front, back))
            )
        )
        face = replace(
            self.job,
            operations=tuple(replace(operation, back=False) for operation in self.job.operations),
        )
        (both,) = self.programs(face)
        self.assertAlmostEqual(both.cut_mm, front.cut_mm + back.cut_mm, delta=1e-6)
        self.assertIs(side_of(face, runs_of(face)[0]), face)

    def test_a_cut_from_the_back_keeps_its_side_its_start_and_its_direction(self) -> None:
        for direction in ("climb", "against"):
            cut = replace(self.job.cut_of["contour-1"], direction=direction)
            face = replace(self.job, operations=(cut,))
            (front,), (back,) = (
                self.programs(face),
                self.programs(replace(face, operations=(replace(cut, back=True),))),
            )
            self.assertAlmostEqual(front.cut_mm, back.cut_mm, delta=1e-6)
            begin, other = front.beginnings[front.work][0], back.beginnings[back.work][0]
            np.testing.assert_allclose(other, (-300 - begin[0], begin[1]), atol=1e-6)
            swept = [
                np.sum(
                    p.beginnings[p.work][:, 0] * p.to[p.work][:, 1]
                    - p.beginnings[p.work][:, 1] * p.to[p.work][:, 0]
                )
                for p in (front, back)
            ]
            self.assertGreater(swept[0] * swept[1], 0)

    def test_each_side_leaves_in_a_file_of_its_own_and_both_are_wanted(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            front, back = Path(folder) / "face.dxf", Path(folder) / "back.dxf"
            self.assertTrue(hand_off(self.job, front).matches)
            self.assertTrue(hand_off(self.job, back, back=True).matches)
            layers = DXF.read(back)
        (circle,) = [contour for layer in layers for contour in layer.contours]
        np.testing.assert_allclose(
            circle.box, (-85, 25, -75, 35), atol=1e-3
        )  # from the sheet's lower right corner, which is its origin
        once = hand_off_noted(self.job, "face.dxf", self.job.sheet.id)
        self.assertFalse(once.is_handed_off(once.sheet))
        both = hand_off_noted(once, "back.dxf", once.sheet.id, back=True)
        self.assertTrue(both.is_handed_off(both.sheet))


class Pace(unittest.TestCase):
    def scored(self, apart: float, feed: float = 6000.0, **machine: float) -> tuple[Job, Program]:
        """A line of 100 mm in steps so long, on a laser."""
        x = np.arange(0.0, 100.0 + apart / 2, apart)
        line = Contour.make(np.column_stack([20 + x, 30 + 0.001 * np.cos(x)]), closed=False)
        job = add_contours(Job(), [line])
        laser = replace(MACHINES[0], id="quick", acceleration=1e6, **machine)  # type: ignore[arg-type]
        job = choose_machine(set_machine(job, laser), job.sheet.id, "quick")
        job = add_operation(job, Score(contours=(job.contours[0].id,), feed=feed))
        return job, program_of(job, job.sheet, job.machine_of(job.sheet))

    def test_moves_a_second_are_counted_told_and_mended_by_a_least_step(self) -> None:
        for apart, feed, wanted in (
            (0.05, 6000.0, 2000.0),
            (0.02, 3000.0, 2500.0),
            (1.0, 6000.0, 100.0),
        ):
            job, program = self.scored(apart, feed)
            most, _ = moves_a_second(program)
            self.assertAlmostEqual(
                most, wanted, delta=0.03 * wanted + 5
            )  # whole moves in a fifth of a second
            found = [each for each in run_findings(job, [program]) if each.kind.startswith("moves")]
            self.assertEqual(bool(found), wanted > 1000)
            for each in found:
                self.assertEqual(each.gravity, Gravity.WARNS)
                mended = each.mend(job)
                again = program_of(mended, mended.sheet, mended.machine_of(mended.sheet))
                self.assertLessEqual(moves_a_second(again)[0], 1000)
                self.assertFalse(
                    any(f.kind.startswith("moves") for f in run_findings(mended, [again]))
                )

    def test_a_machine_that_is_slow_to_speed_up_is_asked_for_fewer(self) -> None:
        job, _ = self.scored(0.05)
        lazy = replace(job.machine_of(job.sheet), acceleration=20.0)
        job = set_machine(job, lazy)
        program = program_of(job, job.sheet, lazy)
        most, _ = moves_a_second(program)
        self.assertAlmostEqual(most, np.sqrt(2 * 20.0 * 50) / 0.05, delta=60)


if __name__ == "__main__":
    unittest.main()
