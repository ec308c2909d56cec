"""Recipes: applied, kept, told where they do not fit, and read back equal from their files."""

from __future__ import annotations

import unittest
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.operating import add_operation, add_recipes
from draxet.job.operations import CutThrough, Drill, Score
from draxet.job.recipe import RECIPES, best_first, recipe_like
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.recipes import read_recipes, recipes_as_csv, recipes_as_json
from draxet.make.rows import RowError
from draxet.prove.looking import findings_of


class Recipes(unittest.TestCase):
    def test_the_same_material_comes_first_then_the_nearest_thickness(self) -> None:
        found = best_first(RECIPES, "plasma-table", "Steel", 5.0, "CutThrough")
        self.assertEqual([recipe.thickness for recipe in found], [6.0, 3.0, 2.0])
        self.assertEqual(best_first(RECIPES, "pen-plotter", "steel", 3.0, "CutThrough"), [])

    def test_it_says_what_the_operation_has_and_no_more(self) -> None:
        recipe = replace(RECIPES[1], power=80.0, spacing=3.0)
        cut = recipe.applied(CutThrough(contours=("a",), tabs=3))
        assert isinstance(cut, CutThrough)
        self.assertEqual(
            (cut.feed, cut.width, cut.power, cut.tabs, cut.recipe),
            (2400.0, 1.5, 80.0, 3, recipe.id),
        )
        drill = RECIPES[9].applied(Drill(diameter=4.0))
        self.assertEqual((drill.feed, drill.recipe), (300.0, RECIPES[9].id))
        again = recipe_like(cut, 4, "Own", "plasma-table", "steel", 3.0).applied(CutThrough())
        self.assertEqual((again.feed, again.recipe), (2400.0, "recipe-4"))

    def test_one_for_another_thickness_or_that_is_gone_is_told(self) -> None:
        job = add_contours(
            Job(sheets=(Sheet(thickness=4.0, material="steel"),)), [Contour.circle(50, 50, 20)]
        )
        cut = add_operation(
            job, RECIPES[1].applied(CutThrough(contours=(job.contours[0].id,), lead=3.0))
        )
        (finding,) = findings_of(cut)
        self.assertIn("made for 3 mm; its sheet is 4 mm thick", finding.words)
        self.assertEqual(findings_of(replace(cut, sheets=(replace(cut.sheet, thickness=3.0),))), ())
        (finding,) = findings_of(
            add_operation(
                job,
                replace(CutThrough(contours=(job.contours[0].id,), lead=3.0), recipe="recipe-77"),
            )
        )
        self.assertIn("is not in this job", finding.words)

    def test_files_are_read_back_equal_and_one_of_the_same_gives_way(self) -> None:
        own = recipe_like(
            Score(power=33.0), 1, 'Shed "best", thin', "desk-laser", "card & glue", 0.8
        )
        for text in (recipes_as_json([*RECIPES, own]), recipes_as_csv([*RECIPES, own])):
            self.assertEqual(read_recipes(text, "recipes"), [*RECIPES, own])
        job = add_recipes(add_recipes(Job(), [own]), [replace(own, power=44.0)])
        self.assertEqual([recipe.power for recipe in job.recipes], [44.0])

    def test_what_cannot_be_read_is_one_sentence(self) -> None:
        good = recipes_as_csv(RECIPES[:1])
        for text, words in (
            ("", "holds no recipes"),
            ("[1, 2]", "holds no recipes"),
            ("{broken", "no sound JSON"),
            ("a,b\n1,2\n", "first line must name the columns"),
            (good.replace("3200.0", "quick"), "feed in row 1 must be a number, got 'quick'"),
            (good.replace("3200.0", "-5"), "feed"),
            (good.replace("CutThrough", "Vanish"), "kind"),
            (recipes_as_json(RECIPES[:1]).replace("3200.0", "1e99"), "feed"),
        ):
            with self.subTest(text=text[:30]), self.assertRaisesRegex(RowError, words):
                read_recipes(text, "mine.csv")


if __name__ == "__main__":
    unittest.main()
