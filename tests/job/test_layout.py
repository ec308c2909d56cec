"""Parts and placements: the layout is what it says, whatever is done to it, and what reads a job
reads its layout."""

from __future__ import annotations

import pickle
import re
import unittest
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.job.bridge_edits import add_bridges, change_bridge, remove_bridges
from draxet.job.contour_edits import (
    add_contours,
    change_contours,
    fix_size,
    remove_contours,
    remove_for_good,
    set_ellipse,
)
from draxet.job.contour_moves import map_contours
from draxet.job.contour_pieces import put_all, put_pieces
from draxet.job.contour_records import Bridge, ContourItem, DropOut, Part, Placement
from draxet.job.copies import (
    copied_out,
    made_own,
    place_copies,
    take_in,
    worked_as_part,
    worked_by_itself,
)
from draxet.job.file import open_job, save_job
from draxet.job.fixed import resized
from draxet.job.layout import laid_items, members_of
from draxet.job.layout_counts import laid_count, stands
from draxet.job.layout_names import drawn_name
from draxet.job.make_edits import add_fit, order_by_hand, put_start, put_tab
from draxet.job.operating import add_operation
from draxet.job.operations import CutThrough, Drill, Engrave, Side
from draxet.job.part_edits import make_part, order_contours, take_apart
from draxet.job.point_edits import add_point, move_point, remove_points
from draxet.job.records import Job
from draxet.job.sheet_edits import add_sheet, set_sheet
from draxet.job.sides import Run, runs_of, side_of
from draxet.job.sound import job_fault, mended
from draxet.job.work import cut_work
from draxet.leaving.drawn_layers import layers_of
from draxet.make.program_making import program_of
from draxet.mend.ends import joined_ends
from draxet.prove.looking import findings_of
from draxet.prove.program_file import program_text
from draxet.prove.run import run_findings
from draxet.ui.controls.previews import facts_of, job_image

PLATE, HOLE, LINE = "contour-1", "contour-2", "contour-3"


def plates(*places: Affine, symmetric: bool = False) -> Job:
    """A worked plate with a hole and a line, and placements of it."""
    job = add_contours(
        Job(),
        [
            Contour.make([(10, 10), (60, 10), (60, 40), (30, 47), (10, 40)]),
            Contour.circle(25, 25, 6),
            Contour.make([(40, 20), (52, 30)], closed=False),
        ],
    )
    job = add_operation(job, CutThrough(contours=(PLATE,), side=Side.OUTSIDE, width=1.0, tabs=2))
    job = add_operation(job, CutThrough(contours=(HOLE,), side=Side.INSIDE, width=1.0))
    job = put_tab(put_start(job, PLATE, 0.3), PLATE, 0.7)
    job = add_operation(add_point(job, 50.0, 35.0), Drill(at_points=True, diameter=2.0))
    job = add_bridges(job, [Bridge("", 31, 25, 2.0, HOLE, True, 0.0)])
    job = replace(job, drop_outs=(DropOut("drop-out-90", 12.0, 12.0),), next_id=100)
    job, _ = make_part(job, [PLATE, HOLE, LINE])
    job, _ = place_copies(
        job, [PLATE, HOLE, LINE], places or [Affine.moved(70, 0)], linked=True, symmetric=symmetric
    )
    return job


def of(job: Job, number: int = 0, name: str = PLATE) -> str:
    return f"{job.placements[number].id}/{name}"


def whole(job: Job, number: int = 0) -> list[str]:
    return [of(job, number, name) for name in (PLATE, HOLE, LINE)]


def nodes(job: Job, name: str) -> Points:
    return job.layout.contour_by_id[name].contour.nodes


def at(affine: Affine, job: Job, name: str) -> Points:
    return affine.apply(nodes(job, name))


class Layout(unittest.TestCase):
    def same(self, one: Points, other: Points, words: str = "") -> None:
        np.testing.assert_allclose(one, other, atol=1e-7, err_msg=words)

    def alike(self, one: Job, other: Job) -> None:
        """Two jobs have the same lying on their sheets, whatever it is called."""
        ours, others = (
            sorted(np.round(item.contour.nodes, 6).tolist() for item in job.layout.contours)
            for job in (one, other)
        )
        self.assertEqual(ours, others)

    def test_it_is_the_job_itself_where_nothing_is_placed(self) -> None:
        job = add_contours(Job(), [Contour.circle(5, 5, 3)])
        self.assertIs(job.layout, job)
        laid = plates()
        self.assertIs(laid.layout.layout, laid.layout)
        self.assertEqual(laid.layout.placements, ())

    def test_a_placement_lays_all_that_belongs_to_its_part_and_its_work(self) -> None:
        turn = Affine.turned(90).then(Affine.moved(200, 20))
        job = plates(turn)
        layout = job.layout
        for name in (PLATE, HOLE, LINE):
            self.same(nodes(job, of(job, 0, name)), at(turn, job, name))
        self.assertEqual(len(layout.points), 2)
        self.same(np.array([layout.points[1].box[:2]]), turn.apply(np.array([[50.0, 35.0]])))
        self.assertEqual(layout.bridges[1].contour, of(job, 0, HOLE))
        self.assertAlmostEqual(layout.bridges[1].angle, 90)
        self.assertEqual(len(layout.drop_outs), 2)
        cut, hole, _ = layout.operations
        self.assertEqual(cut.contours, (PLATE, of(job)))
        self.assertEqual(hole.contours, (HOLE, of(job, 0, HOLE)))
        assert isinstance(cut, CutThrough)
        half = len(cut.spots) // 2
        self.assertEqual(
            [(each.contour, each.share) for each in cut.spots[half:]],
            [(of(job), each.share) for each in cut.spots[:half]],
        )
        self.assertFalse(job.placements[0].turned_over)
        self.assertTrue(
            plates(Affine.scaled(-1, 1).then(Affine.moved(200, 0))).placements[0].turned_over
        )

    def test_a_placement_is_as_good_as_contours_of_its_own_for_whatever_reads_a_job(self) -> None:
        """Programs, looks, drawings, pictures: of a job, of its layout, and of the same drawn out."""
        job = plates(Affine.moved(70, 0), Affine.turned(30).then(Affine.moved(180, 20)))
        ids = [name for k in range(2) for name in whole(job, k)]
        own, _ = made_own(job, ids)
        self.assertEqual(own.placements, ())

        def texts(one: Job) -> list[str]:
            found = []
            for run in runs_of(one):
                seen = side_of(one, run)
                program = program_of(seen, run.sheet, one.machine_of(run.sheet))
                found.append(
                    re.sub(
                        r"(placement-\d+/)?(point|contour)-\d+",
                        "",
                        program_text(seen, run, program),
                    )
                )
            return found

        def layers(one: Job) -> list[tuple[str, list[list[list[float]]]]]:
            return [
                (layer.name, sorted(np.round(c.nodes, 6).tolist() for c in layer.contours))
                for layer in layers_of(one)
            ]

        def told(one: Job) -> list[tuple[str, str, int]]:
            programs = [
                program_of(side_of(one, run), run.sheet, one.machine_of(run.sheet))
                for run in runs_of(one)
            ]
            found = (*findings_of(one), *run_findings(one, programs))
            return sorted(
                (each.kind.rstrip("0123456789"), each.words, len(each.ids)) for each in found
            )

        for other in (job.layout, own):
            with self.subTest(placements=other is own):
                self.assertEqual(texts(job), texts(other))
                self.assertEqual(layers(job), layers(other))
                self.assertEqual(told(job), told(other))
                self.assertEqual(len(cut_work(job)), len(cut_work(other)))
                self.assertEqual(facts_of(job.layout), facts_of(other.layout))
                self.assertEqual(job_image(job.layout, 90, 60), job_image(other.layout, 90, 60))
        self.assertEqual(job.work_digest(job.sheet), job.layout.work_digest(job.sheet))
        self.alike(job, own)

    def test_each_goes_by_itself_and_a_change_of_shape_is_seen_in_all(self) -> None:
        far, move = (
            Affine.turned(40).then(Affine.moved(200, 30)),
            Affine.turned(9).then(Affine.moved(3, 8)),
        )
        job = plates(Affine.moved(70, 0), far)
        placed = map_contours(job, whole(job, 0), move, by_hand=True)
        self.same(nodes(placed, of(job, 0)), at(move, job, of(job, 0)))
        drawn = map_contours(job, [PLATE, HOLE, LINE], move, by_hand=True)
        self.same(nodes(drawn, PLATE), at(move, job, PLATE))
        for made, others in ((placed, (PLATE, of(job, 1))), (drawn, (of(job, 0), of(job, 1)))):
            for name in others:
                self.same(nodes(made, name), nodes(job, name), name)
        every = map_contours(job, [i.id for i in job.layout.contours], Affine.scaled(1.5))
        for name in (PLATE, of(job, 0, LINE), of(job, 1, HOLE)):
            self.same(nodes(every, name), at(Affine.scaled(1.5), job, name))
        shape = Contour.make([(90, 15), (130, 15), (110, 50)])
        changed = change_contours(drawn, {of(job, 0): shape})
        self.same(nodes(changed, of(job, 0)), shape.nodes)
        back = drawn.part_by_id[drawn.placements[0].part].frame.inverse()
        first, second = (back.then(p.placed) for p in drawn.placements)
        self.same(nodes(changed, PLATE), first.inverse().apply(shape.nodes))
        self.same(nodes(changed, of(job, 1)), first.inverse().then(second).apply(shape.nodes))
        inner = map_contours(job, [of(job, 1, HOLE)], Affine.moved(2, 0))
        self.same(nodes(inner, of(job, 1, HOLE)), nodes(job, of(job, 1, HOLE)) + (2, 0))
        turned = far.inverse().angle_of(0.0)
        step = 2 * np.array([np.cos(np.radians(turned)), np.sin(np.radians(turned))])
        self.same(nodes(inner, of(job, 0, HOLE)), nodes(job, of(job, 0, HOLE)) + step)
        oval = set_ellipse(job, of(job, 0, HOLE), Affine(9, 0, 95, 0, 4, 25))
        self.assertEqual(
            oval.layout.contour_by_id[of(job, 1, HOLE)].contour.kinds.tolist(), [2] * 4
        )

    def test_what_symmetry_laid_goes_likewise_and_is_left_alone_where_that_is_meant(self) -> None:
        mirror, move = Affine.scaled(-1, 1).then(Affine.moved(200, 0)), Affine.moved(3, 5)
        job = plates(mirror, symmetric=True)
        for ids, there in ((whole(job), move), ([PLATE, HOLE, LINE], Affine.moved(-3, 5))):
            made = map_contours(job, ids, move, by_hand=True)
            self.same(nodes(made, of(job)), at(there, job, of(job)))
            self.same(nodes(made, PLATE), at(Affine.moved(-there.c, 5), job, PLATE))
            still = map_contours(job, ids, move)
            self.same(
                nodes(still, PLATE if "/" in ids[0] else of(job)),
                nodes(job, PLATE if "/" in ids[0] else of(job)),
            )
        both = map_contours(job, [PLATE, HOLE, LINE, *whole(job)], move, by_hand=True)
        self.same(nodes(both, of(job)), at(move, job, of(job)))
        alone = map_contours(job, [PLATE, HOLE, LINE], move, by_hand=True, alone=set(whole(job)))
        self.same(nodes(alone, of(job)), nodes(job, of(job)))

    def test_where_a_part_is_removed_its_first_placement_takes_its_place(self) -> None:
        job = plates(Affine.moved(70, 0), Affine.moved(140, 0))
        left = remove_contours(job, [PLATE, HOLE, LINE])
        self.same(nodes(left, PLATE), nodes(job, of(job, 0)))
        self.same(nodes(left, of(job, 1)), nodes(job, of(job, 1)))
        self.assertEqual((len(left.placements), len(left.layout.contours)), (1, 6))
        self.assertEqual(left.operations[0].contours, (PLATE,))
        gone = remove_contours(job, whole(job, 1))
        self.assertEqual(len(gone.layout.contours), 6)
        holes = remove_contours(job, [of(job, 1, HOLE)])
        self.assertEqual({drawn_name(i.id) for i in holes.layout.contours}, {PLATE, LINE})
        nothing = remove_for_good(job, [i.id for i in job.layout.contours])
        self.assertEqual(
            (nothing.contours, nothing.placements, nothing.parts, nothing.bridges), ((), (), (), ())
        )
        kept = remove_for_good(job, [PLATE, HOLE, LINE])
        self.assertEqual([(b.contour, b.x) for b in kept.bridges], [(HOLE, 101.0)])

    def test_made_its_own_it_stays_as_it_is_worked_as_it_was_and_follows_nothing(self) -> None:
        job = plates(Affine.moved(70, 0), Affine.moved(140, 0))
        for ids in (whole(job, 1), [PLATE, HOLE, LINE]):
            own, names = made_own(job, ids)
            self.alike(own, job)
            now = names.get(ids[0], ids[0])
            self.assertIn(now, own.cut_of)
            before = own.layout.contours
            moved = change_contours(own, {now: Contour.circle(0, 0, 3)})
            changed = [a.id for a, b in zip(before, moved.layout.contours, strict=True) if a != b]
            self.assertEqual(changed, [now])
            self.assertEqual(len(own.placements), 1)
            self.assertEqual(job_fault(own, job), "")
        apart = take_apart(job, job.placements[0].part)
        self.alike(apart, job)
        self.assertEqual((apart.placements, len(apart.layout.bridges)), ((), 3))

    def test_one_that_is_worked_by_itself_can_be_worked_otherwise_and_again_as_its_part(
        self,
    ) -> None:
        job = plates()
        own = worked_by_itself(job, job.placements[0].id)
        self.alike(own, job)
        self.assertEqual(
            [sorted(o.contours) for o in own.layout.operations],
            [sorted(o.contours) for o in job.layout.operations],
        )
        self.assertEqual(len(own.layout.bridges), 2)
        scored = add_operation(own, Engrave(contours=(of(job),)))
        self.assertEqual(scored.operations[-1].contours, (of(job),))
        both = add_operation(job, Engrave(contours=(of(job),)))
        self.assertEqual(both.operations[-1].contours, (PLATE,))
        moved = map_contours(own, whole(own), Affine.moved(0, 50))
        self.assertEqual([b.y for b in moved.layout.bridges], [25, 75])
        again = worked_as_part(moved, job.placements[0].id)
        self.assertEqual(again.layout.operations[0].contours, (PLATE, of(job)))
        self.assertEqual([b.y for b in again.layout.bridges], [25, 75])
        left = remove_contours(own, [PLATE, HOLE, LINE])
        self.assertEqual((left.operations[0].contours, len(left.bridges)), ((PLATE,), 1))

    def test_what_lies_in_a_placement_is_changed_in_its_part(self) -> None:
        job = plates()
        bridge = job.layout.bridges[1]
        wider = change_bridge(job, replace(bridge, width=5.0, y=bridge.y + 1))
        self.assertEqual([(b.width, b.x, b.y) for b in wider.bridges], [(5.0, 31, 26)])
        self.assertEqual(remove_bridges(job, [bridge.id]).layout.bridges, ())
        more = add_bridges(job, [Bridge("", 101, 20, 2.0, of(job, 0, HOLE))])
        self.assertEqual([(b.contour, b.x) for b in more.bridges], [(HOLE, 31), (HOLE, 31)])
        point = job.layout.points[1]
        self.assertEqual(move_point(job, point.id, 125, 30).points[0].box[:2], (55, 30))
        self.assertEqual(remove_points(job, [point.id]).layout.points, ())
        pieces = [
            Contour.make([(110, 20), (115, 25)], closed=False),
            Contour.make([(117, 26), (122, 30)], closed=False),
        ]
        parted, ids = put_pieces(job, of(job, 0, LINE), pieces)
        self.assertEqual(len(parted.layout.contours), 8)
        self.same(nodes(parted, ids[1]), pieces[1].nodes)
        self.same(nodes(parted, drawn_name(ids[1])), pieces[1].nodes - (70, 0))
        alike = {
            name: [job.layout.contour_by_id[name].contour.reversed()]
            for name in (LINE, of(job, 0, LINE))
        }
        self.assertEqual(len(put_all(job, alike).placements), 1)
        unlike = {LINE: [Contour.circle(5, 5, 1)], of(job, 0, LINE): [Contour.circle(9, 9, 1)]}
        own = put_all(job, unlike)
        self.assertEqual((own.placements, len(own.contours)), ((), 6))
        joined, name = joined_ends(job, [LINE, of(job, 0, LINE)])
        self.assertEqual((joined.placements, len(joined.layout.contours)), ((), 5))
        self.assertEqual(len(nodes(joined, name)), 4)

    def test_parts_within_parts_are_laid_as_deep_as_they_stand(self) -> None:
        job = plates()
        job, outer = make_part(job, [PLATE, *whole(job)])
        job, new = place_copies(
            job, [i.id for i in job.layout.contours], [Affine.moved(0, 60)], linked=True
        )
        deep = of(job, 1, of(job, 0))
        self.assertIn(deep, new)
        self.same(nodes(job, deep), nodes(job, of(job, 0)) + (0, 60))
        self.assertEqual((laid_count(job), len(job.layout.contours)), (9, 12))
        self.assertEqual([len(o.contours) for o in job.layout.operations[:2]], [4, 4])
        self.assertEqual((len(job.layout.points), len(job.layout.bridges)), (4, 4))
        changed = change_contours(job, {deep: Contour.circle(0, 0, 4)})
        self.assertEqual(
            sum(
                len(nodes(changed, i.id)) == 2
                for i in changed.layout.contours
                if drawn_name(i.id) == PLATE
            ),
            4,
        )
        moved = map_contours(job, [i.id for i in members_of(job.layout, outer)], Affine.moved(5, 0))
        self.same(nodes(moved, deep), nodes(job, deep))
        self.same(nodes(moved, of(job)), nodes(job, of(job)) + (5, 0))
        left = remove_contours(job, [i.id for i in members_of(job.layout, outer)])
        self.assertEqual((len(left.layout.contours), laid_count(left)), (6, 3))
        self.same(nodes(left, of(job)), nodes(job, deep))
        own, _ = made_own(job, [deep])
        self.alike(own, job)
        self.assertEqual(mended(job, lambda what, why: self.fail(why)), job)

    def test_while_a_part_is_being_worked_out_nobody_takes_it_for_empty(self) -> None:
        """Workers and the window ask the same job at the same time."""
        job, seen = plates(), list[int]()
        job, outer = make_part(job, [PLATE, *whole(job)])
        fresh = replace(job)

        def look(*of: object) -> tuple[ContourItem, ...]:
            seen.append(len(fresh.members.get(outer, job.contours)))
            return laid_items(*of)  # type: ignore[arg-type]

        with mock.patch("draxet.job.layout.laid_items", look):
            self.assertEqual(len(members_of(fresh, outer)), 6)
        self.assertEqual(seen, [3])

    def test_orders_fits_and_fixed_sizes_hold_in_placements(self) -> None:
        job = plates()
        ordered = order_by_hand(job, [of(job, 0, HOLE), of(job)])
        self.assertEqual(
            [o.contours for o in ordered.layout.orders],
            [(HOLE, PLATE), (of(job, 0, HOLE), of(job))],
        )
        across = order_by_hand(job, [of(job), PLATE])
        self.assertEqual([o.contours for o in across.layout.orders], [(of(job), PLATE)])
        fitted = add_fit(job, PLATE, HOLE, 0.5)
        self.assertEqual(set(fitted.fitted), {HOLE, of(job, 0, HOLE)})
        fixed = fix_size(job, [of(job)], True)
        larger = map_contours(fixed, whole(fixed), Affine.scaled(2))
        self.assertEqual(resized(fixed, larger), "")
        self.assertIn(
            "fixed size",
            resized(
                fixed,
                replace(fixed, placements=(replace(fixed.placements[0], placed=Affine.scaled(2)),)),
            ),
        )
        front = order_contours(order_contours(job, whole(job), front=False), [HOLE], front=False)
        self.assertEqual(
            [drawn_name(i.id) + "/" * ("/" in i.id) for i in front.layout.contours][0], HOLE
        )
        self.assertEqual(
            [i.id for i in order_contours(job, whole(job), front=False).layout.contours][:3],
            whole(job),
        )

    def test_it_goes_with_its_sheet_and_can_be_copied_saved_and_opened(self) -> None:
        job, sheet = add_sheet(plates())
        x = job.sheet.x
        job, new = place_copies(job, [PLATE, HOLE, LINE], [Affine.moved(x, 0)], linked=True)
        self.assertEqual(job.placements[1].sheet, sheet)
        wide = set_sheet(job, replace(job.sheets[0], width=job.sheets[0].width + 44))
        self.same(nodes(wide, of(job, 1)), nodes(job, of(job, 1)) + (44, 0))
        self.same(nodes(wide, of(job, 0)), nodes(job, of(job, 0)))
        self.assertEqual([run.sheet.id for run in runs_of(job)], ["sheet-0", sheet])
        self.assertEqual(len(side_of(job, Run(job.sheets[0])).contours), 9)
        taken, ids = take_in(Job(), copied_out(job, [PLATE, *whole(job)]))
        self.assertEqual((len(ids), taken.placements), (4, ()))
        with TemporaryDirectory() as folder:
            save_job(job, Path(folder) / "a.draxet")
            opened = open_job(Path(folder) / "a.draxet")
        self.assertEqual((opened.job, opened.remarks), (job, ()))
        self.assertEqual(opened.job.layout.contours, job.layout.contours)
        apart = pickle.loads(pickle.dumps(job.placements))
        self.assertEqual(apart, job.placements)
        self.assertFalse(any("kept" in vars(each) for each in apart))

    def test_hostile_placements_are_left_out_and_said(self) -> None:
        job = plates()
        (part,) = job.parts
        lost: list[str] = []

        def kept(**changes: object) -> Job:
            lost.clear()
            return mended(replace(job, **changes), lambda what, why: lost.append(why))  # type: ignore[arg-type]

        within = kept(placements=(replace(job.placements[0], within=part.id),))
        self.assertEqual((within.placements, len(lost)), ((), 1))
        nowhere = kept(placements=(Placement("placement-99", "part-nowhere"),))
        self.assertEqual((nowhere.placements, len(lost)), ((), 1))
        laid = job.placements[0].id
        cut = CutThrough("operation-1", contours=(laid, f"{laid}/{laid}", f"{laid}/x", PLATE))
        self.assertEqual(kept(operations=(cut,)).operations[0].contours, (PLATE,))
        for name in (PLATE, of(job, 0, HOLE)):
            self.assertTrue(stands(job, name) and not stands(job, name, part=True))
        self.assertTrue(stands(job, laid, part=True) and not stands(job, laid))
        parts, placements = [part], list[Placement]()
        for depth in range(30):  # two of each in the next: 2 ** 30 of the first
            outer = Part(f"part-{200 + depth}", "deep")
            placements += [
                Placement(f"placement-{300 + 2 * depth + k}", parts[-1].id, within=outer.id)
                for k in range(2)
            ]
            parts.append(outer)
        placements.append(Placement("placement-999", parts[-1].id))
        bombs = replace(job, parts=tuple(parts), placements=tuple(placements))
        self.assertIn("1 000 000 contours", job_fault(bombs, job))
        self.assertEqual(kept(parts=tuple(parts), placements=tuple(placements)).placements, ())


if __name__ == "__main__":
    unittest.main()
