"""How tools get down, where cuts begin, and what tabs, small holes and points become in a
program."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, remove_contours
from draxet.job.contour_moves import map_contours
from draxet.job.machine_kinds import MACHINES
from draxet.job.operating import add_operation, choose_machine
from draxet.job.operations import CutThrough, Drill, Engrave, Operation, Pocket, Side, Spot
from draxet.job.point_edits import add_point, remove_points
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.make.program_making import program_of
from draxet.make.screw_holes import SCREWS, with_holes

BOX = Contour.make([(20, 20), (80, 20), (80, 60), (20, 60)])


def made(
    contours: list[Contour],
    operation: Operation,
    machine: int = 1,
    points: tuple[tuple[float, float], ...] = (),
) -> tuple[Job, Program]:
    job = choose_machine(add_contours(Job(), contours), "sheet-0", MACHINES[machine].id)
    for x, y in points:
        job = add_point(job, x, y)
    job = add_operation(job, operation.with_contours([item.id for item in job.contours]))
    return job, program_of(job, job.sheet, MACHINES[machine])


def drawn(program: Program, moves: np.ndarray) -> shapely.Geometry:
    """The lines of some moves; arcs in fine steps."""
    found = []
    for k in np.flatnonzero(moves).tolist():
        begin, to, turn = program.beginnings[k], program.to[k], program.turn[k]
        if turn:
            spoke, angles = begin - program.centre[k], np.linspace(0, turn, 40)
            found.append(
                shapely.LineString(
                    program.centre[k]
                    + np.column_stack(
                        [
                            np.cos(angles) * spoke[0] - np.sin(angles) * spoke[1],
                            np.sin(angles) * spoke[0] + np.cos(angles) * spoke[1],
                        ]
                    )
                )
            )
        elif math.dist(begin, to) > 1e-9:
            found.append(shapely.LineString([begin, to]))
    return shapely.union_all(found)


class GettingDown(unittest.TestCase):
    def test_no_way_down_is_steeper_than_said_and_all_of_every_round_gets_as_deep(self) -> None:
        shapes = {
            "box": BOX,
            "circle": Contour.circle(50, 50, 14),
            "slot": Contour.make([(10, 10), (90, 10), (90, 13.6), (10, 13.6)]),
        }
        for name, shape in shapes.items():
            for enter in ("ramp", "helix"):
                pocket = Pocket(diameter=3.0, depth=2.5, pass_depth=1.0, enter=enter, slope=6.0)
                plain = made([shape], replace(pocket, enter="plunge"))[1]
                program = made([shape], pocket)[1]
                with self.subTest(shape=name, enter=enter):
                    work = program.work
                    fall = program.depth - program.depth_from
                    self.assertTrue(
                        (
                            fall[work] <= math.tan(math.radians(6.0)) * program.lengths[work] + 1e-9
                        ).all()
                    )
                    follows = work[1:] & work[:-1] & (program.path[1:] == program.path[:-1])
                    np.testing.assert_allclose(
                        program.depth_from[1:][follows], program.depth[:-1][follows], atol=1e-12
                    )
                    deep = drawn(program, work & (program.depth_from >= 2.5 - 1e-9))
                    wanted = drawn(plain, plain.work & (plain.depth >= 2.5 - 1e-9))
                    self.assertLess(wanted.difference(deep.buffer(0.03)).length, 0.1)

    def test_a_helix_stays_in_the_pocket(self) -> None:
        program = made([BOX], Pocket(diameter=6.0, depth=3.0, pass_depth=3.0, enter="helix"))[1]
        down = program.work & (program.depth > program.depth_from)
        self.assertTrue((np.abs(program.turn[down]) > 3).any())
        reached = shapely.Polygon(BOX.nodes).buffer(
            -(3.0 - 0.02), join_style="mitre"
        )  # where a tool of this radius may be, in a box
        self.assertTrue(reached.contains(drawn(program, down)))


class Cuts(unittest.TestCase):
    def test_a_lower_tab_is_run_over_and_only_what_is_below_it_is_interrupted(self) -> None:
        cut = CutThrough(side=Side.OUTSIDE, width=3.0, passes=3, tabs=4, tab=5.0, tab_height=1.2)
        job, program = made([BOX], cut)
        length = 2 * (60 + 40) + 2 * math.pi * 1.5
        for depth, wanted in (
            (1.0, length),
            (1.8, length),
            (2.0, length - 4 * 8),
            (3.0, length - 4 * 8),
        ):
            moves = program.work & (np.abs(program.depth - depth) < 1e-9)
            self.assertAlmostEqual(float(program.lengths[moves].sum()), wanted, delta=0.01)
        order = program.depth[program.work]
        self.assertLess(np.flatnonzero(order == 1.8).max(), np.flatnonzero(order >= 2.0).min())

    def test_a_cut_begins_and_is_held_where_that_was_said_and_both_go_along(self) -> None:
        cut = CutThrough(side=Side.OUTSIDE, width=2.0, spots=(Spot("contour-1", 0.55),))
        job, program = made([BOX], cut)
        self.assertEqual(job.contours[0].id, "contour-1")
        x, y = program.beginnings[program.work][0]
        self.assertAlmostEqual(math.dist((x, y), (70, 61)), 0, delta=1e-6)
        moved = map_contours(job, ["contour-1"], Affine.moved(100, 50))
        x, y = program_of(moved, moved.sheet, MACHINES[1]).beginnings[program.work][0]
        self.assertAlmostEqual(math.dist((x, y), (170, 111)), 0, delta=1e-6)
        held, program = made(
            [BOX],
            replace(
                cut, tab=4.0, spots=(Spot("contour-1", 0.15, "tab"), Spot("contour-1", 0.6, "tab"))
            ),
        )
        left = (
            shapely.LinearRing(BOX.nodes)
            .buffer(1.0, join_style="round")
            .exterior.difference(drawn(program, program.work).buffer(1e-4))
        )
        middles = sorted(
            (round(part.centroid.x), round(part.centroid.y))
            for part in shapely.get_parts(left)
            if part.length > 1
        )
        self.assertEqual(
            middles, [(50 + 10, 61), (50, 19)] if middles[0][0] == 60 else [(50, 19), (60, 61)]
        )
        gone = remove_contours(add_contours(held, [Contour.circle(0, 0, 3)]), ["contour-1"])
        self.assertEqual(gone.operations, ())

    def test_a_cut_begins_at_a_corner_that_stands_out_or_in_a_long_side(self) -> None:
        notched = Contour.make(
            [(20, 20), (80, 20), (80, 60), (52, 60), (52, 45), (48, 45), (48, 60), (20, 60)]
        )
        for side, bad in (
            (Side.OUTSIDE, {(52, 45), (48, 45)}),
            (Side.INSIDE, {(20, 20), (80, 20), (80, 60), (20, 60), (52, 60), (48, 60)}),
        ):
            for x in (0.0, 50.0, 100.0):
                job = choose_machine(
                    add_contours(Job(), [notched, Contour.circle(x, 100, 3)]),
                    "sheet-0",
                    MACHINES[2].id,
                )
                job = add_operation(
                    job,
                    CutThrough(
                        contours=tuple(item.id for item in job.contours), side=side, width=0.2
                    ),
                )
                program = program_of(job, job.sheet, MACHINES[2])
                first = int(
                    np.flatnonzero(
                        program.work
                        & np.array(
                            [
                                program.ids[path] == (job.contours[0].id,) if path >= 0 else False
                                for path in program.path.tolist()
                            ]
                        )
                    )[0]
                )
                begin = program.beginnings[first]
                self.assertGreater(min(math.dist(begin, place) for place in bad), 0.5)

    def test_each_piece_between_tabs_is_led_in_and_out_on_the_side_of_the_waste(self) -> None:
        for side in (Side.OUTSIDE, Side.INSIDE):
            plain = made([BOX], CutThrough(side=side, width=1.5, tabs=3, tab=4.0), 2)[1]
            led = made([BOX], CutThrough(side=side, width=1.5, tabs=3, tab=4.0, lead=3.0), 2)[1]
            self.assertAlmostEqual(led.cut_mm, plain.cut_mm + 3 * 2 * 3.0, delta=1e-6)
            part = shapely.Polygon(BOX.nodes)
            ends = [
                led.beginnings[k]
                for k in np.flatnonzero(
                    led.work & np.append(True, led.path[1:] != led.path[:-1])
                ).tolist()
            ]
            self.assertEqual(
                [part.contains(shapely.Point(end)) for end in ends], [side is Side.INSIDE] * 3
            )

    def test_places_nearer_than_the_least_step_are_left_out_and_that_is_told(self) -> None:
        curve = Contour.make(
            [(20, 20), (80, 20)], [2, 2], None, [[(30, 60), (70, 60)], [(70, -20), (30, -20)]]
        )
        machine = MACHINES[0]
        job, whole = made([curve], CutThrough(side=Side.ON, width=0.2), 0)
        self.assertEqual(whole.thinned, (0, 0.0))
        for least in (1.5, 6.0):
            fewer = program_of(job, job.sheet, replace(machine, least_step=least))
            count, off = fewer.thinned
            self.assertEqual(len(whole) - len(fewer), count)
            self.assertGreater(count, 0)
            lengths = fewer.lengths[fewer.work]
            self.assertGreaterEqual(lengths[:-1].min(), least - 1e-9)
            far = shapely.LineString(
                np.vstack([whole.beginnings[whole.work][:1], whole.to[whole.work]])
            ).hausdorff_distance(
                shapely.LineString(
                    np.vstack([fewer.beginnings[fewer.work][:1], fewer.to[fewer.work]])
                )
            )
            self.assertAlmostEqual(off, far, delta=1e-6)

    def test_small_openings_are_cut_slower_or_only_marked(self) -> None:
        holes = [Contour.circle(30, 40, 2), Contour.circle(60, 40, 6)]
        cut = CutThrough(side=Side.INSIDE, width=1.5, feed=2000.0, small=5.0, small_feed=50.0)
        program = made(holes, cut, 2)[1]
        feeds = {
            program.ids[path][0]: feed
            for path, feed, work in zip(
                program.path.tolist(), program.feed.tolist(), program.work.tolist(), strict=True
            )
            if work
        }
        self.assertEqual(feeds, {"contour-1": 1000.0, "contour-2": 2000.0})
        marked = made(holes, replace(cut, small_holes="marked"), 2)[1]
        first = np.flatnonzero(
            marked.work
            & (marked.path == next(k for k, ids in enumerate(marked.ids) if ids == ("contour-1",)))
        )
        self.assertLess(float(marked.lengths[first].sum()), 0.01)
        np.testing.assert_allclose(marked.to[first[0]], (30, 40), atol=0.01)


class Tools(unittest.TestCase):
    def test_a_router_changes_tools_as_seldom_as_the_parts_allow(self) -> None:
        boxes = [BOX.transformed(Affine.moved(80 * k, 0)) for k in range(4)]
        windows = [
            Contour.make(
                [(30 + 80 * k, 30), (50 + 80 * k, 30), (50 + 80 * k, 50), (30 + 80 * k, 50)]
            )
            for k in range(4)
        ]
        holes = [Contour.circle(65 + 80 * k, 40, 3) for k in range(4)]
        job = choose_machine(
            add_contours(Job(), [*boxes, *windows, *holes]), "sheet-0", MACHINES[1].id
        )
        names = [item.id for item in job.contours]
        job = add_operation(job, Drill(contours=tuple(names[8:]), diameter=3.0))
        job = add_operation(job, Pocket(contours=tuple(names[4:8]), diameter=2.0, enter="plunge"))
        for outer, inner, wanted in ((3.175, 3.175, 3), (6.0, 3.175, 4)):
            both = add_operation(
                add_operation(
                    job, CutThrough(contours=tuple(names[4:8]), side=Side.INSIDE, width=inner)
                ),
                CutThrough(contours=tuple(names[:4]), side=Side.OUTSIDE, width=outer),
            )
            both = replace(
                both, operations=tuple(each for each in both.operations if each.contours)
            )
            program = program_of(both, both.sheet, MACHINES[1])
            with self.subTest(outer=outer):
                cuts = [each for each in both.operations if isinstance(each, CutThrough)]
                self.assertLessEqual(
                    sum(event.what == "cutter" for event in program.events), wanted
                )
                last = {
                    program.ids[path][0]: k
                    for k, path in enumerate(program.path.tolist())
                    if path >= 0
                }
                if len(cuts) == 2:
                    for k in range(4):
                        self.assertLess(last[names[4 + k]], last[names[k]])


class Others(unittest.TestCase):
    def test_rounds_along_the_outline_engrave_all_of_an_area(self) -> None:
        ring = [
            Contour.circle(50, 50, 20),
            Contour.circle(50, 50, 8),
            BOX.transformed(Affine.moved(200, 0)),
        ]
        for spacing in (0.5, 1.7):
            lines = Engrave(way="rounds", spacing=spacing).paths(
                [(str(k), each) for k, each in enumerate(ring)], 3.0
            )
            done = shapely.union_all(
                [
                    shapely.LinearRing(path.line.flattened(0.01)).buffer(
                        spacing / 2, join_style="mitre"
                    )
                    for path in lines
                ]
            )
            area = math.pi * (400 - 64) + 2400
            with self.subTest(spacing=spacing):
                self.assertAlmostEqual(done.area, area, delta=0.01 * area)

    def test_points_are_drilled_and_taken_back(self) -> None:
        job, program = made([], Drill(diameter=3.3, at_points=True), points=((10, 20), (40, 20)))
        self.assertEqual(
            sorted(map(tuple, program.beginnings[program.work].round(2).tolist())),
            [(10, 20), (40, 20)],
        )
        self.assertEqual(job.sheets_with_work, (job.sheet,))
        none = remove_points(job, [point.id for point in job.points])
        self.assertEqual(len(program_of(none, none.sheet, MACHINES[1])), 0)
        self.assertNotEqual(job.work_digest(job.sheet), none.work_digest(job.sheet))

    def test_holes_become_those_of_a_screw_about_their_middles(self) -> None:
        job = add_contours(Job(), [Contour.circle(5, 6, 1), BOX])
        size = next(screw for screw in SCREWS if screw.name == "M4").core
        changed, count = with_holes(job, [item.id for item in job.contours], size)
        self.assertEqual((count, changed.contours[1]), (1, job.contours[1]))
        self.assertEqual(
            tuple(np.round(changed.contours[0].contour.circle_shape, 9)), (5, 6, size / 2)
        )
        for screw in SCREWS:
            self.assertTrue(screw.core < float(screw.name[1:]) < screw.free)


if __name__ == "__main__":
    unittest.main()
