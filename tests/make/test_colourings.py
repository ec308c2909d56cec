"""Colourings exchange what is sewn and its cloth all at once, and nothing else."""

from __future__ import annotations

import unittest
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.make.colourings import as_it_is, other_colourings, recoloured
from tests.make.test_sewn_as_told import job_of, made_of, plate

NAVY, STRAW, RED = "#1e3550", "#e0bd5c", "#c4202a"


class Colourings(unittest.TestCase):
    def test_two_threads_that_change_places_do_so_at_once_and_the_rest_stays(self) -> None:
        job = job_of((plate(10, 10, 60, 40), NAVY), (plate(20, 20, 20, 10), STRAW))
        job = add_contours(job, [Contour.circle(150, 150, 10)], colours=["#3c8259"])  # not sewn
        light_for_dark, *_ = other_colourings(job)
        made = recoloured(job, light_for_dark)
        self.assertEqual([item.colour for item in made.contours], [STRAW, NAVY, "#3c8259"])
        self.assertEqual(made.sheet.colour, light_for_dark.cloth)
        self.assertEqual(replace(made, contours=job.contours, sheets=job.sheets), job)
        self.assertEqual(
            [thread for _, thread in as_it_is(made).threads],
            sorted((STRAW, NAVY), key=lambda colour: colour != STRAW),
        )

    def test_what_is_proposed_are_threads_there_are_and_none_becomes_another_s(self) -> None:
        job = job_of(
            *[
                (plate(10 + 30 * k, 10, 20, 20), c)
                for k, c in enumerate((NAVY, STRAW, RED, "#c82f2f"))
            ]
        )
        known = {thread.colour for thread in job.every_thread}
        for colouring in other_colourings(job)[1:]:
            now = [thread for _, thread in colouring.threads]
            self.assertEqual(len(set(now)), 4, colouring.name)
            self.assertLessEqual(set(now), known)

    def test_what_has_no_colour_is_sewn_in_ink_and_can_be_exchanged(self) -> None:
        job = job_of((plate(10, 10, 60, 40), ""))
        own = as_it_is(job)
        self.assertEqual([was for was, _ in own.threads], ["#000000"])
        made = recoloured(job, own.with_thread("#000000", RED))
        self.assertEqual([item.colour for item in made.contours], [RED])
        self.assertEqual(made_of(made).plan.colours, [RED])


if __name__ == "__main__":
    unittest.main()
