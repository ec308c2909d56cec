"""Areas kept, joined, dropped and coloured: only what bounds them changes, and no colour moves a
cut."""

import unittest

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arrangement import Arrangement, arrangement_of
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.geometry.shared_edges import equal_outlines
from draxet.job.contour_edits import add_contours, colour_contours, set_lines
from draxet.job.contour_pieces import put_instead
from draxet.job.machine_kinds import MACHINES
from draxet.job.operating import add_operation
from draxet.job.operations import CutThrough, Score, Side
from draxet.job.records import Job
from draxet.job.twice import drawn_twice
from draxet.job.work import cut_work
from draxet.make.cutting_through import give_cut
from draxet.make.program_making import program_of
from draxet.mend.colouring import give_colours
from draxet.mend.regions import combined, regions_taken
from draxet.prove.looking import findings_of


def box(x: float, y: float, wide: float = 40.0, high: float = 30.0) -> Contour:
    return Contour.make([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)])


FAR = Contour.circle(300, 300, 20)
ELSEWHERE = Contour.make([(200, 0), (240, 5)], closed=False)


def left_of(ground: Arrangement, chosen: set[int], how: str) -> list[Contour]:
    taken = regions_taken(ground, chosen, how)
    return [*(c for k, c in enumerate(ground.contours) if k not in taken.gone), *taken.made]


class Regions(unittest.TestCase):
    def test_joined_circles_have_nodes_where_they_cross_alone(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(40):
            x, y = rng.uniform(-9, 9, 2).tolist()
            circles = [Contour.circle(0, 0, 10), Contour.circle(x, y, float(rng.uniform(4, 12)))]
            turned = circles[1].transformed(Affine.turned(float(rng.uniform(0, 360))).about(x, y))
            ground = arrangement_of([circles[0], turned])
            for how in ("unite", "intersect", "subtract"):
                made = combined(ground, how).made
                crossing = len(ground.regions) == 3
                for contour in made if crossing else ():
                    self.assertEqual(len(contour.nodes), 2)
                    off = np.abs(np.hypot(*contour.nodes.T)[:, None] - [10.0])
                    np.testing.assert_allclose(off, 0, atol=1e-6)
                wanted = sum(
                    region.area
                    for region in ground.regions
                    if {
                        "unite": True,
                        "intersect": len(region.covered) == 2,
                        "subtract": region.covered == {0},
                    }[how]
                )
                if crossing:
                    self.assertAlmostEqual(sum(c.area for c in made), wanted, places=6)

    def test_only_what_bounds_the_chosen_areas_changes(self) -> None:
        ground = arrangement_of([box(0, 0), box(20, 10), FAR, ELSEWHERE])
        three = {k for k, region in enumerate(ground.regions) if 2 not in region.covered}
        self.assertEqual(len(three), 3)
        for how, wanted in (("one", 2 * 1200 - 400), ("each", 2 * 1200 - 400), ("but", 0)):
            left = left_of(ground, three, how)
            self.assertIn(FAR, left, how)
            self.assertIn(ELSEWHERE, left, how)
            self.assertAlmostEqual(
                sum(abs(c.area) for c in left if c.closed and c is not FAR), wanted
            )
        (lens,) = (k for k in three if len(ground.regions[k].covered) == 2)
        self.assertAlmostEqual(
            sum(c.area for c in left_of(ground, {lens}, "but") if c.closed), 2 * 800 + FAR.area
        )

    def test_what_would_come_again_as_it_is_stays(self) -> None:
        plate, hole, other = (
            box(0, 0, 100, 80),
            Contour.circle(30, 30, 10),
            Contour.circle(70, 40, 8).reversed(),
        )
        ground = arrangement_of([plate, hole, other, FAR])
        disc = ground.at(30, 30)
        ring = ground.at(5, 5)
        assert disc is not None and ring is not None
        self.assertEqual(regions_taken(ground, {disc}, "each").gone, ())
        self.assertEqual(
            regions_taken(ground, {disc}, "but").gone, (), "the hole is a hole already"
        )
        self.assertEqual(
            (
                regions_taken(ground, {ring, disc}, "one").gone,
                regions_taken(ground, {ring, disc}, "one").made,
            ),
            ((1,), ()),
        )
        self.assertEqual(set(left_of(ground, {ring}, "but")), {hole, other, FAR})
        united = combined(arrangement_of([box(0, 0), box(20, 10), FAR]), "unite")
        self.assertEqual((united.gone, len(united.made)), ((0, 1), 1))

    def test_of_random_circles_the_areas_that_are_left_are_the_ones_that_were_meant(self) -> None:
        for seed in range(40):
            rng = np.random.default_rng(seed)
            contours = [
                Contour.circle(*rng.uniform(0, 100, 2), rng.uniform(8, 30)) for _ in range(7)
            ]
            ground = arrangement_of(contours)
            chosen = {
                int(k)
                for k in rng.choice(len(ground.regions), min(3, len(ground.regions)), replace=False)
            }
            area = shapely.union_all(
                [area_of([ground.regions[k].outline, *ground.regions[k].holes]) for k in chosen]
            )
            taken = regions_taken(ground, chosen, "but")
            beside = [
                edge
                for edge, sides in enumerate(
                    zip(ground.left.tolist(), ground.right.tolist(), strict=True)
                )
                if chosen & set(sides)
            ]
            round_them = {k for number in chosen for k in ground.regions[number].covered} | {
                k for edge in beside for k in ground.owners[edge]
            }
            self.assertLessEqual(set(taken.gone), round_them)
            before = shapely.union_all([area_of([contours[k]]) for k in round_them])
            after = area_of([*taken.made, *(contours[k] for k in round_them - set(taken.gone))])
            self.assertAlmostEqual(after.intersection(area).area, 0.0, delta=6.0, msg=str(seed))
            self.assertAlmostEqual(
                before.difference(area).symmetric_difference(after).area,
                0.0,
                delta=6.0,
                msg=str(seed),
            )


class InPlace(unittest.TestCase):
    def test_what_comes_in_place_has_colour_line_layer_and_operation_of_what_it_runs_along(
        self,
    ) -> None:
        plates = [box(0, 0, 60, 40), box(50, 10), box(200, 0)]
        job = add_contours(Job(), plates, colours=["#aa0000", "#00aa00", ""], layers=["a", "b", ""])
        first, second, third = (item.id for item in job.contours)
        job = set_lines(job, [first], 2.0)
        job = add_operation(job, CutThrough(contours=(first, third), feed=777))
        job = add_operation(job, Score(contours=(second,)))
        ground = arrangement_of([item.contour for item in job.contours[:2]])
        taken = combined(ground, "unite")
        made = put_instead(job, [first, second], taken.made)
        (united,) = (item for item in made.contours if item.id != third)
        self.assertEqual((united.colour, united.line, united.layer), ("#aa0000", 2.0, "a"))
        (cut,) = made.operations  # what only the other one had is gone with it
        self.assertEqual((cut.feed, cut.contours), (777, (third, united.id)))
        left = put_instead(job, [first], [])
        self.assertEqual([each.contours for each in left.operations], [(third,), (second,)])


class Colours(unittest.TestCase):
    def test_an_area_that_one_contour_bounds_gives_its_colour_to_that(self) -> None:
        for disc in (Contour.circle(50, 50, 20), Contour.circle(50, 50, 20).reversed()):
            job = add_contours(Job(), [disc, FAR])
            ground = arrangement_of([item.contour for item in job.contours])
            number = ground.at(50, 50)
            assert number is not None
            again = give_colours(job, [ground.outline_of([number])], ["#112233"])
            self.assertEqual([item.colour for item in again.contours], ["#112233", ""])

    def test_what_is_there_is_coloured_wherever_its_nodes_are(self) -> None:
        """Fifteen boxes of which each touches the next: the areas' outlines have nodes where these
        meet, and no contour is added."""
        plates = [box(20 * k, 3 * (k % 2), 20, 30) for k in range(15)]
        job = add_contours(Job(), plates)
        ground = arrangement_of([item.contour for item in job.contours])
        areas = [ground.outline_of([k]) for k in range(len(ground.regions))]
        self.assertTrue(any(len(area[0].kinds) > 4 for area in areas))
        made = give_colours(job, areas, ["#112233"] * len(areas))
        self.assertEqual([item.colour for item in made.contours], ["#112233"] * 15)

    def test_a_ring_and_what_fills_it_are_two_areas_whichever_is_coloured_first(self) -> None:
        job = add_contours(Job(), [box(0, 0, 80, 80), Contour.circle(40, 40, 20)])
        ground = arrangement_of([item.contour for item in job.contours])
        ring, disc = (ground.outline_of([ground.at(*place)]) for place in ((3, 3), (40, 40)))  # type: ignore[list-item]
        for first, second in ((ring, disc), (disc, ring)):
            made = give_colours(give_colours(job, [first], ["#aa0000"]), [second], ["#0000aa"])
            self.assertEqual(len(made.contours), 3)
            self.assertEqual(drawn_twice(made.contours), [], "a shared edge")
            areas = {
                c: area_of([i.contour for i in made.contours if i.colour == c]).area
                for c in ("#aa0000", "#0000aa")
            }
            self.assertAlmostEqual(sum(areas.values()), 6400, delta=2)
            again = give_colours(made, [disc], ["#00aa00"])
            self.assertEqual(len(again.contours), 3, "another colour is the same contour's")

    def test_a_colour_moves_no_cut(self) -> None:
        """A disc keeps its size though its outline stands there once more."""
        disc, width = Contour.circle(50, 50, 20), 1.0
        plate = box(0, 0, 100, 100)
        for around in ((), (plate,)):
            for twin, colour in ((disc, "#112233"), (disc.reversed(), "#112233"), (disc, "")):
                job = add_contours(Job(), [*around, disc, twin])
                twin_id = job.contours[-1].id
                job = colour_contours(job, [twin_id], colour)
                job = give_cut(job, [item.id for item in job.contours], width, 1000)
                (cut,) = (work for work in cut_work(job) if twin_id in work.ids)
                self.assertEqual(
                    (cut.side, cut.shared, len(cut.ids)),
                    (Side.INSIDE if around else Side.OUTSIDE, False, 2),
                )
                program = program_of(job, job.sheet, MACHINES[0])
                far = np.hypot(*(program.to[program.work] - (50, 50)).T)
                self.assertAlmostEqual(
                    far[far < 30].mean(), 20 - width / 2 if around else 20 + width / 2, delta=0.02
                )
                (found,) = (each for each in findings_of(job) if each.kind == "drawn-twice")
                assert found.mend is not None
                mended = found.mend(job)
                self.assertEqual(len(mended.contours), 1 + len(around))
                self.assertEqual(mended.contours[-1].colour, colour)
                self.assertEqual(
                    {i for o in mended.operations for i in o.contours},
                    {item.id for item in mended.contours},
                )
                self.assertNotIn("drawn-twice", {each.kind for each in findings_of(mended)})

    def test_equal_outlines_are_found_wherever_they_begin(self) -> None:
        one = box(0, 0)
        other = Contour.make(np.roll(one.nodes, 2, axis=0)).reversed()
        self.assertEqual(
            equal_outlines([FAR, one, ELSEWHERE, other, box(0, 0, 40.001), ELSEWHERE.reversed()]),
            [(1, 3), (2, 5)],
        )


if __name__ == "__main__":
    unittest.main()
