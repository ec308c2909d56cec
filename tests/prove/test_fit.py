"""Sheet, machine and operation fit each other, or that is told; each case that is silent has a twin
that is not."""

from __future__ import annotations

import unittest
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, colour_contours, set_lines
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import MACHINES
from draxet.job.materials import is_metal, machine_for, must_not_burn
from draxet.job.operating import add_operation, set_machine
from draxet.job.operations import CutThrough, Draw, Engrave, Pocket, Score, Side
from draxet.job.picture_edits import add_picture, cut_out, sized_with
from draxet.job.records import PURPOSES, Job, begun_job
from draxet.job.sheet_edits import hand_off_noted, set_setup
from draxet.job.sheet_records import Sheet
from draxet.make.first import first_of
from draxet.prove.looking import findings_of

BOX = Contour.make([(20, 20), (120, 20), (120, 90), (20, 90)])


def cut(material: str, thick: float, machine: str, **settings: object) -> Job:
    sheet = Sheet(material=material, thickness=thick, machine=machine)
    job = add_contours(Job(sheets=(sheet,)), [BOX])
    made = CutThrough(contours=("contour-1",), side=Side.OUTSIDE, width=3.175)
    return add_operation(job, made.changed(**settings))


def told(job: Job, kind: str) -> list[Finding]:
    return [each for each in findings_of(job) if each.kind.startswith(kind)]


class Materials(unittest.TestCase):
    def test_a_machine_goes_by_material_and_thickness_or_none_does(self) -> None:
        for material, thick, machine in (
            ("plywood", 3.0, "desk-laser"),
            ("Birch plywood", 3.175, "desk-laser"),
            ("plywood", 6.0, "gantry-router"),
            ("oak", 18.0, "gantry-router"),
            ("mild steel", 10.0, "plasma-table"),
            ("Aluminium 5754", 2.0, "plasma-table"),
            ("felt", 3.0, "desk-laser"),
            ("PVC", 3.0, "gantry-router"),
            ("unobtainium", 3.0, None),
            ("aluminium on plastic", 4.0, None),
            ("", 3.0, None),
        ):
            with self.subTest(material=material, thick=thick):
                found = machine_for(MACHINES, material, thick)
                self.assertEqual(found and found.id, machine)
        self.assertEqual((is_metal("steel"), is_metal("oak"), is_metal("x")), (True, False, None))
        self.assertTrue(must_not_burn("Black PVC") and not must_not_burn("card"))

    def test_what_goes_by_its_material_stays_on_its_machine_once_it_is_worked(self) -> None:
        job = add_contours(begun_job(), [BOX])
        self.assertEqual(job.machine_of(job.sheet).id, "plasma-table")
        wood = replace(job, sheets=(replace(job.sheet, material="birch plywood"),))
        self.assertEqual(wood.machine_of(wood.sheet).id, "desk-laser")
        worked = add_operation(wood, CutThrough(contours=("contour-1",)))
        self.assertEqual(worked.sheet.machine, "desk-laser")
        again = replace(worked, sheets=(replace(worked.sheet, material="steel"),))
        self.assertEqual(again.machine_of(again.sheet).id, "desk-laser")

    def test_metal_alone_is_parted_by_plasma_and_what_must_not_be_burnt_is_told(self) -> None:
        for material, machine, other in (
            ("plywood", "plasma-table", "Take the desk laser"),
            ("PVC", "desk-laser", "Take the gantry router"),
        ):
            (finding,) = told(cut(material, 3.0, machine), "material")
            self.assertEqual((finding.gravity, finding.mend_words), (Gravity.STOPS, other))
            assert finding.mend
            self.assertEqual(told(finding.mend(cut(material, 3.0, machine)), "material"), [])
        for material, machine in (
            ("steel", "plasma-table"),
            ("who knows", "plasma-table"),
            ("plywood", "desk-laser"),
            ("PVC", "gantry-router"),
        ):
            self.assertEqual(told(cut(material, 3.0, machine), "material"), [], material)

    def test_a_machine_that_nobody_chose_is_asked_for_where_the_material_tells_none(self) -> None:
        job = add_contours(begun_job(), [BOX])
        job = replace(job, sheets=(replace(job.sheet, material="unobtainium"),))
        self.assertEqual(told(job, "no-machine"), [])
        made = add_operation(job, CutThrough(contours=("contour-1",)))
        (finding,) = told(made, "no-machine")
        self.assertIn("unobtainium, 3 mm, tells none", finding.words)
        self.assertEqual(told(cut("unobtainium", 3.0, "desk-laser"), "no-machine"), [])

    def test_a_pierce_on_the_edge_is_told_and_a_new_cut_has_a_lead(self) -> None:
        (finding,) = told(cut("steel", 3.0, "plasma-table", width=1.5), "pierce")
        assert finding.mend
        mended = finding.mend(cut("steel", 3.0, "plasma-table", width=1.5))
        self.assertEqual((told(mended, "pierce"), mended.operations[0].lead), ([], 3.0))
        self.assertEqual(told(cut("plywood", 3.0, "desk-laser"), "pierce"), [])
        first = first_of(CutThrough, cut("steel", 3.0, "plasma-table"))
        self.assertEqual((first.lead, first.width), (3.0, 1.5))
        self.assertEqual(first_of(CutThrough, cut("plywood", 3.0, "desk-laser")).lead, 0.0)

    def test_a_pass_deeper_than_its_tool_takes_is_told(self) -> None:
        (finding,) = told(cut("oak", 12.0, "gantry-router"), "pass")
        self.assertIn("12 mm deep in one pass; a tool of 3.175 mm takes 3.175 mm", finding.words)
        assert finding.mend
        mended = finding.mend(cut("oak", 12.0, "gantry-router"))
        self.assertEqual((told(mended, "pass"), mended.operations[0].pass_depth), ([], 3.175))
        self.assertEqual(told(cut("oak", 3.0, "gantry-router"), "pass"), [])
        for thick, pass_depth in ((12.0, 3.175), (3.0, 0.0)):  # what a new one begins with
            first = first_of(CutThrough, cut("oak", thick, "gantry-router"))
            self.assertEqual(first.pass_depth, pass_depth)
        self.assertEqual(told(cut("oak", 12.0, "gantry-router", passes=4), "pass"), [])
        self.assertEqual(told(cut("oak", 12.0, "desk-laser"), "pass"), [])
        job = cut("oak", 12.0, "gantry-router", passes=4)
        router = job.machine_of(job.sheet)
        short = tuple(replace(each, a_pass=2.0) for each in router.cutters)
        (finding,) = told(set_machine(job, replace(router, cutters=short)), "pass")
        self.assertIn("takes 2 mm", finding.words)
        deep = Pocket(contours=("contour-1",), diameter=3.175, depth=8.0, pass_depth=4.0)
        job = add_operation(add_contours(Job(sheets=job.sheets), [BOX]), deep)
        self.assertEqual(len(told(job, "pass")), 1)

    def test_a_recipe_that_is_near_is_offered_with_how_it_differs(self) -> None:
        (finding,) = told(cut("Birch plywood", 3.175, "desk-laser"), "no-recipe")
        self.assertIn("near is Plywood 3 mm (for plywood, 0.175 mm thinner)", finding.words)
        assert finding.mend
        taken = finding.mend(cut("Birch plywood", 3.175, "desk-laser"))
        self.assertEqual(taken.operations[0].feed, 600.0)
        for material, thick in (("Birch plywood", 9.0), ("cork", 3.0)):
            (finding,) = told(cut(material, thick, "desk-laser"), "no-recipe")
            self.assertIn("there is none for", finding.words)
            self.assertIsNone(finding.mend)


class Purposes(unittest.TestCase):
    """Findings follow what a job is for; what is silent for one is told for another."""

    def drawn(self) -> Job:
        plan = [
            BOX,
            Contour.make([(20.4, 20.4), (119, 20.4), (119, 89), (20.4, 89)]),
            Contour.circle(50, 50, 0.2),
        ]
        stroke = Contour.make([(30, 30), (90, 60)], closed=False)
        return add_contours(begun_job(), [*plan, stroke, stroke])

    def test_a_drawing_and_a_picture_are_spared_what_work_is_told(self) -> None:
        job = add_picture(self.drawn(), "Plan.png", b"", (100, 100), Affine.scaled(30))[0]
        kinds = {
            purpose: {
                each.kind.split("-picture")[0]
                for each in findings_of(set_setup(job, purpose=purpose))
            }
            for purpose in PURPOSES
        }
        scaled = {"drawn-twice", "unsized"}
        work = {*scaled, "open", "no-operation", "too-small", "picture-reach", "thin-wall"}
        self.assertEqual(kinds["work"], work)
        self.assertEqual(kinds[""], kinds["work"])
        self.assertEqual(kinds["drawing"], scaled)
        self.assertEqual(kinds["picture"], set())

    def test_an_operation_makes_it_work_again(self) -> None:
        drawing = set_setup(self.drawn(), purpose="drawing")
        self.assertEqual(told(drawing, "no-operation"), [])
        made = add_operation(drawing, CutThrough(contours=("contour-1",)))
        self.assertTrue(made.is_worked and told(made, "no-operation"))

    def test_a_drawing_is_signed_off_by_what_is_drawn(self) -> None:
        job = set_setup(self.drawn(), purpose="drawing")
        self.assertEqual((job.sheets_that_leave, job.sheets_with_work), (job.sheets, ()))
        signed = hand_off_noted(job, "a.svg", job.sheet.id)
        self.assertTrue(signed.is_handed_off(job.sheet))
        for other in (
            colour_contours(signed, ["contour-1"], "#ff0000"),
            set_lines(signed, ["contour-4"], 2.0),
            add_contours(signed, [BOX]),
            set_setup(signed, purpose="work"),
        ):
            self.assertFalse(other.is_handed_off(job.sheet))

    def test_open_contours_may_be_where_they_are_scored_or_drawn_alone(self) -> None:
        job = self.drawn()
        for operation, number in ((Score, 0), (Draw, 0), (CutThrough, 1), (Engrave, 1)):
            made = add_operation(job, operation(contours=("contour-4", "contour-5")))
            with self.subTest(operation.__name__):
                self.assertEqual(len(told(made, "open")), number)
        both = add_operation(job, Score(contours=("contour-4", "contour-5")))
        both = add_operation(both, CutThrough(contours=("contour-4",)))
        (finding,) = told(both, "open")
        self.assertEqual(finding.ids, ("contour-4",))

    def test_the_size_is_not_asked_for_where_it_was_typed_or_is_meant(self) -> None:
        empty = begun_job()
        job, name = add_picture(empty, "Leaf.png", b"", (100, 100), Affine())
        job = add_contours(job, [BOX, Contour.circle(60, 60, 9)], name)
        (finding,) = told(job, "unsized")
        assert finding.mend
        self.assertEqual(told(finding.mend(job), "unsized"), [])
        ids = [item.id for item in job.contours]
        for some, number in ((ids, 0), (ids[:1], 1)):  # a part of it says nothing of the picture
            self.assertEqual(len(told(sized_with(job, set(some)), "unsized")), number)
        cut, _ = cut_out(finding.mend(job), name, (0, 0, 50, 50))
        self.assertEqual(len(told(cut, "unsized")), 1)

    def test_only_what_is_cut_parts_islands_and_leaves_walls(self) -> None:
        ring, near = Contour.circle(60, 55, 20), Contour.circle(80.4, 55, 0.3)
        job = add_contours(Job(sheets=(Sheet(machine="desk-laser"),)), [BOX, ring])
        job = add_contours(job, [Contour.circle(60, 55, 10), near])
        names = tuple(item.id for item in job.contours)
        self.assertEqual(len(told(job, "thin-wall")), 1)  # nothing is cut yet
        for some, islands, walls in ((2, 0, 0), (3, 1, 0), (4, 1, 1)):
            cut = add_operation(job, CutThrough(contours=names[:some], width=0.1))
            with self.subTest(some):
                found = len(told(cut, "island")), len(told(cut, "thin-wall"))
                self.assertEqual(found, (islands, walls))

    def test_the_edge_of_a_neighbour_that_is_worked_needs_no_operation(self) -> None:
        left = Contour.make([(0, 0), (40, 0), (40, 30), (0, 30)])
        right = Contour.make([(40, 0), (80, 0), (80, 30), (40, 30)])
        hole = Contour.make([(40, 0), (0, 0), (0, 30), (40, 30)])
        longer = Contour.make([(0, 0), (40, 0), (80, 0), (80, 30), (40, 30), (0, 30)])
        job = add_contours(Job(), [left, right, hole, longer])
        made = add_operation(job, CutThrough(contours=("contour-1", "contour-2")))
        self.assertEqual(told(made, "no-operation"), [])
        made = add_operation(job, CutThrough(contours=("contour-1",)))
        (finding,) = told(made, "no-operation")
        self.assertEqual(finding.ids, ("contour-2", "contour-4"))
        corners = Contour.make(
            [(0, 0), (40, 30), (0, 30)]
        )  # its corners alone are those of another
        made = add_operation(
            add_contours(Job(), [left, corners]), CutThrough(contours=("contour-1",))
        )
        self.assertEqual(told(made, "no-operation")[0].ids, ("contour-2",))

    def test_a_frame_that_is_filled_instead_of_cut_is_told(self) -> None:
        inner = [Contour.circle(40 + 20 * k, 55, 6) for k in range(3)]
        job = add_contours(Job(sheets=(Sheet(machine="desk-laser"),)), [BOX, *inner])
        names = tuple(item.id for item in job.contours)
        filled = add_operation(job, Engrave(contours=names))
        (finding,) = told(filled, "filled-frame")
        assert finding.mend
        mended = finding.mend(filled)
        self.assertEqual(told(mended, "filled-frame"), [])
        self.assertEqual(told(mended, "no-operation")[0].ids, names[:1])
        for silent in (
            add_operation(job, Engrave(contours=names[1:])),
            add_operation(filled, CutThrough(contours=names[:1])),
            add_operation(
                add_contours(job, [Contour.circle(300, 300, 5)]), Engrave(contours=names)
            ),
        ):
            self.assertEqual(told(silent, "filled-frame"), [])

    def test_a_picture_larger_than_the_reach_is_told_in_gather(self) -> None:
        for size, number in ((500.0, 1), (390.0, 0)):
            sheet = Sheet(width=2000, height=1000, machine="desk-laser")
            place = Affine.scaled(size / 100)
            job, _ = add_picture(Job(sheets=(sheet,)), "Sign.png", b"", (100, 100), place)
            found = told(job, "picture-reach")
            self.assertEqual(([each.stage for each in found]), ["gather"] * number)
