"""Contours are mirrored, turned and repeated in the real window."""

import numpy as np
from PyQt6.QtCore import Qt

from draxet.geometry.contour import Contour
from draxet.geometry.drawn import Stop, contour_of
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.stages.mend.arrange_tools import ArrangeSlip
from tests.ui.driver import WindowTest

Key = Qt.Key


class Arranging(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(Job("Ring", sheets=(Sheet(width=200, height=160),)), None)
        self.settle()

    def draw(self, contour: Contour) -> None:
        self.session.edit("draw", add_contours(self.session.job, [contour]))

    def contours(self) -> list[Contour]:
        return [item.contour for item in self.session.layout.contours]

    def test_a_ring_of_copies_round_a_caught_centre_with_places_left_out(self) -> None:
        self.draw(Contour.circle(100, 80, 40))
        self.draw(Contour.circle(130, 80, 5))
        self.session.selection.choose({self.session.layout.contours[1].id})
        self.take("ring")
        self.slip_of(ArrangeSlip)._set_empty("3")
        self.hover(99, 79)
        self.type_over("8\n")
        holes = [c.circle_shape for c in self.contours()[1:]]
        self.assertEqual(len(holes), 7)
        for x, y, r in holes:
            self.assertAlmostEqual(np.hypot(x - 100, y - 80), 30, 9)
            self.assertAlmostEqual(r, 5, 9)
        self.session.undo()
        self.assertEqual(len(self.contours()), 2)

    def test_a_half_is_mirrored_into_a_whole_and_a_wrong_line_is_refused(self) -> None:
        half = contour_of(
            [Stop(100, 20), Stop(140, 40, "curve"), Stop(150, 90, "curve"), Stop(100, 120, "line")]
        )
        self.draw(half)
        self.take("mirror")
        self.click(100, 20)
        self.click(100, 20)
        self.assertEqual(len(self.contours()), 1)
        self.click(100, 20)
        self.click(100, 120)
        (whole,) = self.contours()
        self.assertTrue(whole.closed)
        self.assertAlmostEqual(whole.box[0], 200 - whole.box[2], 6)
        self.session.undo()
        self.assertEqual(self.contours(), [half])

    def test_a_turn_by_a_typed_angle_and_rows_by_number(self) -> None:
        self.draw(Contour.make([(100, 80), (140, 80), (140, 90), (100, 90)]))
        self.take("turn")
        self.click(100, 80)
        self.click(140, 80)
        self.type_over("90\n")
        np.testing.assert_allclose(self.contours()[0].box, (90, 80, 100, 120), atol=1e-6)
        self.take("ring")
        (
            self.slip_of(ArrangeSlip).settings.columns,
            self.slip_of(ArrangeSlip).settings.rows,
            self.slip_of(ArrangeSlip).settings.right,
        ) = 3, 1, 15.0
        self.slip_of(ArrangeSlip)._repeat()
        self.assertEqual([round(c.box[0]) for c in self.contours()], [90, 105, 120])
        self.type_over("1x\n")
        self.assertIn("places must be a whole number", self.top_words)
