"""Sheet, machine and operation fit each other, or that is told; each case that is silent has a twin
that is not."""

from __future__ import annotations

import unittest
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import MACHINES
from draxet.job.materials import is_metal, machine_for, must_not_burn
from draxet.job.operating import add_operation, set_machine
from draxet.job.operations import CutThrough, Pocket, Side
from draxet.job.records import Job, begun_job
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
