"""Coupons: every power with every feed, labels that say which, and the cut's width from the gap
that slats leave."""

from __future__ import annotations

import unittest

import numpy as np

from draxet.job.findings import Gravity
from draxet.job.machine_kinds import MACHINES
from draxet.job.operations import CutThrough, Engrave
from draxet.job.sound import job_fault
from draxet.make.coupons import SLATS, grid_coupon, slat_coupon, width_of_cut
from draxet.make.program_making import program_of
from draxet.prove.looking import findings_of


class Coupons(unittest.TestCase):
    def test_each_square_has_its_power_and_its_feed_and_nothing_stops_it(self) -> None:
        powers, feeds = (20.0, 60.0, 100.0), (1000.0, 4000.0)
        job = grid_coupon(MACHINES[0], "plywood", 3.0, powers, feeds)
        self.assertEqual(job_fault(job), "")
        squares = [operation for operation in job.operations if isinstance(operation, Engrave)]
        self.assertEqual(
            sorted((each.power, each.feed) for each in squares),
            sorted((power, feed) for power in powers for feed in feeds),
        )
        self.assertEqual(
            sorted(lettering.words for lettering in job.letterings),
            sorted(["20", "60", "100", "1000", "4000"]),
        )
        places = {
            each.contours[0]: job.contour_by_id[each.contours[0]].contour.box for each in squares
        }
        self.assertTrue(
            all(
                places[a.contours[0]][1] < places[b.contours[0]][1]
                for a in squares
                for b in squares
                if a.power < b.power
            )
        )
        self.assertFalse(
            [finding for finding in findings_of(job) if finding.gravity is Gravity.STOPS]
        )
        program = program_of(job, job.sheet, MACHINES[0])
        for number, operation in enumerate(job.operations):
            moves = program.work & (program.operation == number)
            self.assertTrue(moves.any())
            self.assertEqual(set(program.feed[moves]), {operation.feed})

    def test_slats_leave_all_cuts_as_one_gap(self) -> None:
        job = slat_coupon(MACHINES[2], "steel", 3.0, CutThrough(width=1.5, tabs=3, lead=4.0))
        program = program_of(job, job.sheet, MACHINES[2])
        upright = [
            path
            for path in range(len(program.ids))
            if np.ptp(program.to[program.path == path][:, 0]) < 1e-6
            and np.ptp(
                np.vstack(
                    [program.beginnings[program.path == path], program.to[program.path == path]]
                )[:, 1]
            )
            > 20
        ]
        self.assertEqual(len(upright), SLATS)
        self.assertAlmostEqual(width_of_cut(SLATS * 1.43), 1.43)
        with self.assertRaisesRegex(ValueError, "over 0"):
            width_of_cut(0.0)


if __name__ == "__main__":
    unittest.main()
