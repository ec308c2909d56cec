import unittest

import numpy as np

from draxet.geometry.affine import Affine
from draxet.job.picture_edits import add_picture
from draxet.job.records import Job
from draxet.machines.simulated_camera import (
    CARD_MM,
    SimulatedCamera,
    View,
    card_corners,
    stencil_on_bench,
)
from draxet.pixels.grey_levels import grey_of
from draxet.trueup.edge_lines import sharpened
from draxet.trueup.rectangles import find_corners
from draxet.trueup.square import square_photo


class TheSimulatedCamera(unittest.TestCase):
    def test_its_frames_differ_by_noise_only_and_show_the_card_where_it_says(self) -> None:
        camera, view = SimulatedCamera((640, 480)), View()
        first, second = camera.frame(view).astype(int), camera.frame(view).astype(int)
        self.assertGreater(np.abs(first - second).max(), 5)
        self.assertLess(np.abs(first.mean() - second.mean()), 0.2)
        middle = camera.seen(view, card_corners().mean(axis=0)[None])[0]
        x, y = (int(v) for v in middle)
        self.assertGreater(first[y, x].mean(), first.mean() + 60)

    def test_a_shot_squared_by_its_card_measures_the_stencil_right(self) -> None:
        camera, view = SimulatedCamera((1600, 1200)), View(tilt=18, curve=0.0)
        grey = grey_of(camera.frame(view))
        found = find_corners(grey)
        assert found is not None
        corners = sharpened(grey, found.places)
        self.assertLess(
            np.sort(
                np.hypot(
                    *(corners.places[:, None] - camera.seen(view, card_corners())[None]).transpose(
                        2, 0, 1
                    )
                ).min(axis=1)
            )[-1],
            1.5,
        )
        job, picture_id = add_picture(Job(), "shot", b"", (1600, 1200), Affine(1, 0, 0, 0, -1, 0))
        picture = square_photo(job, picture_id, corners, CARD_MM).pictures[0]
        assert picture.square is not None
        plate = stencil_on_bench()[0]
        x0, _, x1, _ = plate.transformed(Affine.turned(6)).box
        self.assertAlmostEqual(x1 - x0, 140, 6)
        ends = Affine.turned(-6).apply(np.array([(-70.0, 0), (70, 0)])) + np.array([262.0, 160])
        to_plan = np.linalg.inv(np.array(picture.square.matrix).reshape(3, 3))
        seen = np.column_stack([camera.seen(view, ends), np.ones(2)]) @ to_plan.T
        plan = seen[:, :2] / seen[:, 2:]
        self.assertAlmostEqual(
            float(np.hypot(*(plan[1] - plan[0]))) * picture.pixel_size / 140, 1, delta=0.004
        )


if __name__ == "__main__":
    unittest.main()
