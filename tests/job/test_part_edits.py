"""Groups, linked copies, ellipses and helper contours hold through any edit, saving and opening."""

from __future__ import annotations

import random
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import ellipse, unit_ellipse
from draxet.job import part_edits
from draxet.job.contour_edits import add_contours, change_contours, remove_contours, set_ellipse
from draxet.job.contour_moves import map_contours
from draxet.job.copies import made_own, place_copies
from draxet.job.file import read_job, save_job
from draxet.job.guide_edits import add_guide
from draxet.job.helper_edits import free_helpers, make_helpers
from draxet.job.history import History
from draxet.job.layout import members_of
from draxet.job.layout_counts import laid_count
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.point_edits import add_point
from draxet.job.records import Job
from draxet.job.sheet_edits import set_unit
from draxet.job.sound import job_fault
from draxet.mend.nodes import deviation_between, move_node, split_span
from tests.shapes import mixed_contour


def some_job() -> Job:
    job = add_contours(
        Job(),
        [
            mixed_contour(),
            Contour.circle(30, 40, 12.5),
            ellipse(90, 80, 20, 7),
            Contour.make([(0, 0), (50, 5)], closed=False),
        ],
    )
    return set_ellipse(job, job.contours[2].id, Affine(20, 0, 90, 0, 7, 80))


def followers_as_told(test: unittest.TestCase, job: Job) -> None:
    """Whatever a placement lays is what its part holds, under the maps of both; ids are there
    once, and what operations and orders name is there."""
    laid = job.layout.contour_by_id
    test.assertEqual(len(laid), len(job.layout.contours))
    test.assertEqual(len(laid), len(job.contours) + laid_count(job))
    for placement in job.placements:
        to = job.part_by_id[placement.part].frame.inverse().then(placement.placed)
        for item in members_of(job, placement.part):
            found = laid[f"{placement.id}/{item.id}"].contour
            wanted = item.contour.transformed(to)
            size = max(found.box[2] - found.box[0], found.box[3] - found.box[1])
            round_ones = bool(item.ellipse or item.contour.circle_shape)
            near = 3e-4 * size if round_ones else 1e-5  # cubics lie within 0.03 % of a circle
            test.assertLess(
                max(deviation_between(found, wanted), deviation_between(wanted, found)), near
            )
    for operation in job.layout.operations:
        test.assertLessEqual(set(operation.contours), laid.keys())


def random_edit(job: Job, rng: random.Random) -> tuple[str, Job]:
    laid = job.layout.contour_by_id
    ids = list(laid)
    some = rng.sample(ids, min(len(ids), rng.randint(1, 3)))
    place = Affine.turned(rng.uniform(-90, 90)).then(
        Affine.moved(rng.uniform(-5, 5), rng.uniform(-5, 5))
    )
    choices: list[tuple[str, Callable[[], Job]]] = [
        ("add", lambda: add_contours(job, [Contour.circle(rng.uniform(0, 99), 5, 3)])),
        ("point", lambda: add_point(job, rng.uniform(0, 99), 7)),
        ("guide", lambda: add_guide(job, 1, 2, rng.uniform(0, 90))),
        ("unit", lambda: set_unit(job, rng.choice(["mm", "in", "cm"]))),
        ("free helpers", lambda: free_helpers(job)),
    ]
    if some:
        nodes = {
            k: move_node(laid[k].contour, 0, rng.uniform(-2, 2), rng.uniform(-2, 2)) for k in some
        }
        choices += [
            ("map", lambda: map_contours(job, some, place, by_hand=True)),
            ("stretch", lambda: map_contours(job, some, Affine.scaled(1.01, 0.98))),
            ("shape", lambda: change_contours(job, nodes)),
            (
                "split",
                lambda: change_contours(job, {some[0]: split_span(laid[some[0]].contour, 0, 0.4)}),
            ),
            (
                "copies",
                lambda: place_copies(job, some, [place], linked=rng.random() < 0.6)[0],
            ),
            ("part", lambda: part_edits.make_part(job, some)[0]),
            ("own", lambda: made_own(job, some)[0]),
            ("remove", lambda: remove_contours(job, some[:1] if len(ids) > 3 else [])),
            ("helpers", lambda: make_helpers(job, some[:1])),
            ("order", lambda: part_edits.order_contours(job, some, front=rng.random() < 0.5)),
            ("cut", lambda: give_operation(job, "Cut", some, Side.ON, 1.0, 100)),
        ]
    if job.parts:
        group = rng.choice(job.parts).id
        choices += [
            ("ungroup", lambda: part_edits.take_apart(job, group)),
            ("lock", lambda: part_edits.change_part(job, group, locked=True)),
        ]
    words, run = rng.choice(choices)
    return words, run()


class Grouping(unittest.TestCase):
    def test_any_500_edits_are_taken_back_and_done_again_exactly_and_links_hold(self) -> None:
        rng, history = random.Random(4), History.of(some_job())
        wanted = [history.job]
        for number in range(500):
            words, job = random_edit(history.job, rng)
            self.assertEqual(job_fault(job, history.job), "", words)
            if number % 50 == 49:
                followers_as_told(self, job)
            if job is not history.job:
                wanted.append(job)
            history = history.after(words, job)
            if len(job.layout.contours) > 60:
                job = remove_contours(job, [item.id for item in job.layout.contours[8:]])
                history = history.after("thin out", job)
                wanted.append(job)
        for job in reversed(wanted):
            self.assertEqual(history.job, job)
            history = history.undone()
        for job in wanted:
            self.assertEqual(history.job, job)
            history = history.redone()
        with tempfile.TemporaryDirectory() as folder:
            save_job(wanted[-1], Path(folder) / "a.draxet")
            self.assertEqual(read_job(Path(folder) / "a.draxet"), wanted[-1])

    def test_an_ellipse_stays_one_however_it_is_laid_and_a_circle_stretched_becomes_one(
        self,
    ) -> None:
        job = some_job()
        circle, oval = job.contours[1].id, job.contours[2].id
        for place in (
            Affine.moved(3, 4),
            Affine.turned(33).about(5, 5),
            Affine.scaled(-1, 1),
            Affine.scaled(2.5),
            Affine.scaled(1.4, 0.6),
            Affine.turned(20).then(Affine.scaled(1, 1.7)),
        ):
            job = map_contours(job, [circle, oval], place)
            for contour_id in (circle, oval):
                item = job.contour_by_id[contour_id]
                if item.ellipse is None:
                    self.assertIsNotNone(item.contour.circle_shape)
                else:
                    self.assertEqual(item.contour, unit_ellipse().transformed(item.ellipse))
        self.assertIsNotNone(job.contour_by_id[circle].ellipse)
        back = map_contours(some_job(), [oval], Affine.scaled(7 / 20, 1))
        self.assertIsNotNone(back.contour_by_id[oval].contour.circle_shape)
        bent = change_contours(job, {oval: move_node(job.contour_by_id[oval].contour, 0, 1, 0)})
        self.assertIsNone(bent.contour_by_id[oval].ellipse)

    def test_groups_stand_in_groups_and_go_with_their_last_contour(self) -> None:
        job = some_job()
        a, b, c, d = (item.id for item in job.contours)
        job, inner = part_edits.make_part(job, [a, b])
        job, outer = part_edits.make_part(job, [a, c])
        self.assertEqual(part_edits.with_whole_parts(job, [c]), {a, b, c})
        self.assertEqual(part_edits.in_part(job, inner), {a, b})
        job, copies = place_copies(job, [a, b, c], [Affine.moved(200, 0)], linked=True)
        self.assertEqual(part_edits.with_whole_parts(job, list(copies)[:1]), copies)
        self.assertEqual(
            [(part.within, len(part_edits.in_part(job, part.id))) for part in job.layout.parts],
            [(outer, 2), ("", 3), ("", 3), (job.placements[0].id, 2)],
        )
        self.assertEqual({part.id for part in remove_contours(job, [a, b]).parts}, {outer})
        apart = part_edits.take_apart(job, outer)
        self.assertEqual(part_edits.with_whole_parts(apart, [a]), {a, b})
        self.assertEqual((apart.placements, len(apart.contours)), ((), 7))
        self.assertEqual(
            part_edits.locked_contours(part_edits.change_part(job, outer, locked=True)),
            {a, b, c, *copies},
        )

    def test_helper_contours_leave_their_operation_and_come_back_whole(self) -> None:
        job = give_operation(
            some_job(), "Cut", [item.id for item in some_job().contours[:2]], Side.ON, 1.0, 100
        )
        first = job.contours[0]
        helped = make_helpers(job, [first.id])
        self.assertNotIn(first.id, helped.cut_of)
        self.assertEqual([item.id for item in helped.helpers], [first.id])
        self.assertEqual(free_helpers(helped).contours[-1], first)
