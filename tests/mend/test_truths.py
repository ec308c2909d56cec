"""True shapes: what is nearly so becomes exactly so, and moves no farther than was said."""

from __future__ import annotations

import math
import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import unit_ellipse
from draxet.geometry.spans import ARC, LINE
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.mend.truth_record import Truth
from draxet.mend.truths import all_taken, taken, truths_of


def job_of(*contours: Contour) -> tuple[Job, list[str]]:
    job = add_contours(Job(), contours)
    return job, [item.id for item in job.contours]


class Truths(unittest.TestCase):
    def one(self, job: Job, ids: list[str], kind: str, most: float = 1.0) -> Truth:
        found = [truth for truth in truths_of(job, ids, most) if truth.kind == kind]
        self.assertTrue(found, kind)
        return found[0]

    def test_a_plate_out_of_square_becomes_level_upright_and_moves_as_said(self) -> None:
        job, ids = job_of(Contour.make([(0, 0), (100, 0.6), (99.5, 50), (-0.4, 49.7)]))
        for kind in ("level", "upright"):
            truth = self.one(job, ids, kind)
            after = taken(job, truth)
            moved = np.hypot(
                *(after.contours[0].contour.nodes - job.contours[0].contour.nodes).T
            ).max()
            self.assertLess(moved, truth.moves * 1.2 + 0.02)
        true, count = all_taken(job, ids, 1.0, frozenset({"level", "upright"}))
        nodes = true.contours[0].contour.nodes
        self.assertEqual(count, 4)
        np.testing.assert_allclose(
            (nodes[0, 1], nodes[2, 1], nodes[0, 0], nodes[1, 0]),
            (nodes[1, 1], nodes[3, 1], nodes[3, 0], nodes[2, 0]),
            atol=1e-9,
        )
        self.assertLess(np.abs(nodes - job.contours[0].contour.nodes).max(), 0.6)

    def test_letters_of_a_sign_stand_on_one_line_and_reach_up_to_one(self) -> None:
        rng = np.random.default_rng(4)
        forms = {
            "I": [(0, 0), (4, 0), (4, 30), (0, 30)],
            "L": [(0, 0), (16, 0), (16, 4), (4, 4), (4, 30), (0, 30)],
            "T": [(8, 0), (12, 0), (12, 26), (20, 26), (20, 30), (0, 30), (0, 26), (8, 26)],
        }
        letters = []
        for number, form in enumerate("ILTLIT"):
            nodes = np.array(forms[form], dtype=float) + (25 * number, 50)
            nodes[:, 1] += rng.uniform(-0.25, 0.25)
            nodes[:, 1] += np.where(nodes[:, 1] > 70, rng.uniform(-0.2, 0.2), 0.0)
            letters.append(Contour.make(nodes))
        low = Contour.make(
            [(160, 45), (180, 45), (180, 70), (160, 70)]
        )  # stands lower, and is meant to
        job, ids = job_of(*letters, Contour.circle(200, 65, 15.3), low)
        found = truths_of(job, ids, 0.5)
        base = self.one(job, ids, "base", 0.5)
        self.assertEqual((base.words, set(base.ids)), ("one base line", set(ids[:6])))
        self.assertEqual({t.kind for t in found} & {"base", "top"}, {"base", "top"})
        true, count = all_taken(job, ids, 0.5, frozenset({"base", "top"}))
        self.assertEqual(count, 2)
        for kind, k in (("base", 1), ("top", 3)):
            edges = [item.contour.box[k] for item in true.contours[:6]]
            self.assertEqual(np.ptp(edges), 0.0, kind)
        for before, after in zip(job.contours, true.contours, strict=True):
            moved = np.abs(after.contour.nodes - before.contour.nodes)
            self.assertLessEqual(moved[:, 1].max(), max(t.moves for t in found) + 1e-9)
            self.assertEqual(moved[:, 0].max(), 0.0)
        self.assertEqual(true.contours[6:], job.contours[6:])
        self.assertEqual([t for t in truths_of(true, ids, 0.5) if t.kind in ("base", "top")], [])
        self.assertEqual([t for t in truths_of(job, ids[:2], 0.5) if t.kind == "base"], [])

    def test_stems_of_letters_become_equally_wide_by_their_shorter_sides(self) -> None:
        rng = np.random.default_rng(9)

        def h(w: float, v: float) -> list[tuple[float, float]]:
            return [
                (0, 0), (w, 0), (w, 12), (20, 12), (20, 0), (20 + v, 0), (20 + v, 30), (20, 30),
                (20, 16), (w, 16), (w, 30), (0, 30),
            ]  # fmt: skip

        def ell(w: float, v: float) -> list[tuple[float, float]]:
            return [(0, 0), (16, 0), (16, 4), (w, 4), (w, 30), (0, 30)]

        letters = [
            Contour.make(np.add(form(*(4 + rng.uniform(-0.2, 0.2, 2))), (40 * k, 0)))
            for k, form in enumerate((h, ell, ell, h))
        ]
        wide = Contour.make([(200, 0), (209, 0), (209, 30), (200, 30)])
        job, ids = job_of(*letters, letters[0].reversed().transformed(Affine.moved(0, 60)), wide)
        stem = self.one(job, ids, "stem", 0.5)
        self.assertEqual((stem.words, set(stem.ids)), ("stems of one width", set(ids[:5])))
        true, count = all_taken(job, ids, 0.5, frozenset({"stem"}))
        self.assertEqual(count, 1)
        widths = []
        for item in true.contours[:5]:
            x = np.sort(np.unique(np.round(item.contour.nodes[:, 0] - item.contour.box[0], 9)))
            widths += [x[1] - x[0]] + ([x[3] - x[2]] if len(x) == 4 else [])
        self.assertEqual(len(widths), 8)
        np.testing.assert_allclose(widths, stem.value[0], atol=1e-8)
        self.assertEqual(true.contours[5], job.contours[5])
        for before, after in zip(job.contours, true.contours, strict=True):
            moved = np.abs(after.contour.nodes - before.contour.nodes)
            self.assertLessEqual(moved[:, 0].max(), stem.moves + 1e-9)
            self.assertEqual(moved[:, 1].max(), 0.0)

    def test_gaps_in_rows_and_columns_become_equal_and_what_lies_within_goes_along(self) -> None:
        rng = np.random.default_rng(12)
        wide, shapes, at = [22.0, 9.0, 30.0, 16.0, 25.0], [], 0.0
        for each in wide:  # a row of five with openings, gaps of 6 mm or nearly
            x, y = at + rng.uniform(-0.2, 0.2), rng.uniform(-1, 1)
            shapes += [
                Contour.make([(x, y), (x + each, y), (x + each, y + 30), (x, y + 30)]),
                Contour.circle(x + each / 2, y + 12, 3),
            ]
            at += each + 6
        odd = [Contour.circle(at + 40, 15, 10), Contour.circle(at + 66, 15, 10)]  # far from them
        column = [Contour.circle(10 + k / 9, 80 + 25.1 * k + (k == 1) / 4, 8) for k in range(4)]
        job, ids = job_of(*shapes, *odd, *column)
        for kind_of, some, axis in (("row", ids[:10], 0), ("column", ids[12:], 1)):
            with self.subTest(kind_of):
                truth = next(
                    t
                    for t in truths_of(job, ids, 0.5)
                    if t.kind == "gap" and t.value[0] == axis and t.ids[0] in some
                )
                self.assertEqual((truth.words, set(truth.ids)), ("equal gaps", set(some)))
                after = taken(job, truth)
                before = [job.contour_by_id[k].contour.nodes for k in some]
                now = [after.contour_by_id[k].contour.nodes for k in some]
                moved = [np.abs(b - a) for a, b in zip(before, now, strict=True)]
                self.assertAlmostEqual(max(m.max() for m in moved), truth.moves, places=9)
                self.assertLess(max(np.ptp(m, axis=0).max() for m in moved), 1e-9)
                self.assertEqual(max(m[:, 1 - axis].max() for m in moved), 0.0)
                boxes = np.array([after.contour_by_id[k].contour.box for k in some[:: 2 - axis]])
                self.assertLess(np.ptp(boxes[1:, axis] - boxes[:-1, axis + 2]), 1e-9)
                if axis == 0:
                    for outline, hole in zip(moved[::2], moved[1::2], strict=True):
                        np.testing.assert_allclose(hole[0], outline[0], atol=1e-9)
        self.assertFalse([t for t in truths_of(job, ids, 0.01) if t.kind == "gap"])
        true, count = all_taken(job, ids, 0.5, frozenset({"gap"}))
        self.assertEqual(count, 2)
        self.assertFalse([t for t in truths_of(true, ids, 0.5) if t.kind == "gap"])
        self.assertEqual(true.contours[10:12], job.contours[10:12])

    def test_leaning_plates_become_square_and_parallel(self) -> None:
        turn = Affine.turned(20)
        job, ids = job_of(
            Contour.make([(0, 0), (100, 0.5), (99.5, 50), (0, 49.9)]).transformed(turn)
        )
        true, _ = all_taken(job, ids, 1.0, frozenset({"square", "parallel"}))
        steps = np.diff(
            np.vstack([true.contours[0].contour.nodes, true.contours[0].contour.nodes[:1]]), axis=0
        )
        for a, b in zip(steps, np.roll(steps, 1, axis=0), strict=True):
            self.assertAlmostEqual(float(a @ b) / (np.hypot(*a) * np.hypot(*b)), 0.0, places=6)

    def test_circles_become_equal_concentric_and_wobbles_round(self) -> None:
        t = np.linspace(0, 2 * math.pi, 50, endpoint=False)
        wobble = Contour.make(
            np.column_stack(
                [
                    200 + (20 + 0.2 * np.sin(6 * t)) * np.cos(t),
                    (20 + 0.2 * np.sin(6 * t)) * np.sin(t),
                ]
            )
        )
        oval = unit_ellipse().transformed(Affine.scaled(30, 11).then(Affine.moved(300, 0)))
        job, ids = job_of(
            Contour.circle(0, 0, 30),
            Contour.circle(0.1, 0.05, 10),
            Contour.circle(90, 0, 10.2),
            wobble,
            Contour.make(oval.flattened(0.3)),
        )
        self.assertEqual(self.one(job, ids, "concentric").ids, (ids[0], ids[1]))
        true, _ = all_taken(job, ids, 0.5, frozenset({"equal", "concentric", "round", "oval"}))
        shapes = [item.contour.circle_shape for item in true.contours]
        self.assertEqual(shapes[0][:2], shapes[1][:2])  # type: ignore[index]
        self.assertAlmostEqual(shapes[1][2], 10.1)  # type: ignore[index]
        self.assertAlmostEqual(shapes[2][2], 10.1)  # type: ignore[index]
        np.testing.assert_allclose(shapes[3], (200, 0, 20), atol=0.05)  # type: ignore[arg-type]
        self.assertIsNotNone(true.contours[4].ellipse)
        self.assertEqual(truths_of(true, ids, 0.5), [])

    def test_arcs_go_on_smoothly_and_shapes_become_symmetrical(self) -> None:
        quarter = math.tan(math.pi / 8)
        slack = Contour.make(
            [(0, 0), (30, 0), (40, 10), (40, 40)],
            [LINE, ARC, LINE],
            [0, quarter * 1.02, 0],
            closed=False,
        )
        job, ids = job_of(slack)
        after = taken(job, self.one(job, ids, "tangent"))
        self.assertFalse(after.contours[0].contour.corners()[1:3].any())
        leaf = Contour.make([(0, 0), (20, -8.1), (50, 0.1), (20.1, 8.0)])
        job, ids = job_of(leaf)
        truth = self.one(job, ids, "symmetrical", 0.5)
        made = taken(job, truth).contours[0].contour.nodes
        x, y, angle = truth.value
        off = [(p[0] - x) * -math.sin(angle) + (p[1] - y) * math.cos(angle) for p in made]
        self.assertAlmostEqual(off[1] + off[3], 0.0, places=9)
        self.assertLess(np.hypot(*(made - leaf.nodes).T).max(), truth.moves + 1e-9)

    def test_what_is_far_from_true_is_not_offered(self) -> None:
        job, ids = job_of(
            Contour.make([(0, 0), (100, 30), (60, 90)]),
            Contour.circle(0, 0, 5),
            Contour.circle(60, 60, 9),
        )
        self.assertEqual(truths_of(job, ids, 0.3), [])
