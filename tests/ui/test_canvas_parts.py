"""Parts of the canvas that need no window."""

import unittest

from draxet.ui.canvas.camera import Camera
from draxet.ui.canvas.rulers import nice_step


class TheCamera(unittest.TestCase):
    def test_view_and_job_are_each_others_way_back(self) -> None:
        camera = Camera(2.5, 100, 400)
        for x, y in ((0, 0), (12.5, -7), (300, 200)):
            self.assertEqual(tuple(round(v, 9) for v in camera.job(*camera.view(x, y))), (x, y))

    def test_fitting_shows_all_of_a_box_in_the_middle(self) -> None:
        for box in ((0, 0, 100, 10), (-50, 20, -40, 900), (5, 5, 5, 5)):
            camera = Camera.fitted(box, 760, 700)
            (x0, y1), (x1, y0) = camera.view(*box[:2]), camera.view(*box[2:])
            self.assertTrue(0 <= x0 <= x1 <= 760 and 0 <= y0 <= y1 <= 700)
            self.assertAlmostEqual(x0 + x1, 760, delta=2)

    def test_zooming_keeps_the_place_under_the_pointer_and_has_ends(self) -> None:
        camera = Camera(1, 10, 500)
        before = camera.job(321, 123)
        after = camera.zoomed(1.7, 321, 123).job(321, 123)
        self.assertLess(max(abs(a - b) for a, b in zip(before, after, strict=True)), 0.5)
        for factor in (1e9, 1e-9):
            self.assertTrue(0.001 < camera.zoomed(factor, 0, 0).zoom < 5000)


class Rulers(unittest.TestCase):
    def test_steps_are_round_in_the_jobs_unit(self) -> None:
        for least, unit, step in ((3, "mm", 5), (60, "mm", 100), (0.3, "mm", 0.5), (13, "cm", 20), (20, "in", 25.4), (7, "in", 12.7), (2, "in", 3.175)):
            with self.subTest(least=least, unit=unit):
                self.assertAlmostEqual(nice_step(least, unit), step)
