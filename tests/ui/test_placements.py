"""Copies that follow, through the real window: laid, changed, worked, taken away and had back; and a
great many of them painted as they are."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours
from draxet.job.copies import place_copies
from draxet.job.layout_counts import laid_count
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.canvas import contours, placed_parts
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.arrange_tools import ArrangeSlip
from draxet.ui.stages.mend.pick_tool import MendSlip
from tests.ui.driver import WindowTest

Key, Held = Qt.Key, Qt.KeyboardModifier
PLATE, HOLE = "contour-1", "contour-2"


class Followers(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        plate = rounded_polygon([(20, 20, 4), (60, 20, 4), (60, 50, 4), (20, 50, 4)])
        job = Job("Plates", sheets=(Sheet(width=300, height=200),))
        self.session.start(add_contours(job, [plate, Contour.circle(40, 35, 6)]), None)
        self.take("pick")
        self.session.selection.choose({PLATE, HOLE})

    def lay(self, places: int) -> None:
        """A ring of copies that follow, by hand."""
        self.take("ring")
        self.press(self.slip_of(ArrangeSlip).asked["linked"])
        self.hover(150, 100)
        self.type_over(f"{places}\n")
        self.take("pick")
        self.keys(Key.Key_Escape, on=self.canvas)

    def radii(self) -> set[float]:
        items = (i for i in self.session.layout.contours if i.contour.circle_shape)
        return {round(i.contour.circle_shape[2], 6) for i in items if i.contour.circle_shape}

    def middle(self, number: int, name: str = HOLE) -> tuple[float, float]:
        laid = self.session.layout.contour_by_id
        box = laid[f"{self.session.job.placements[number].id}/{name}"].contour.box
        return (box[0] + box[2]) / 2, (box[1] + box[3]) / 2

    def test_they_are_chosen_as_a_whole_changed_together_moved_removed_and_had_back(self) -> None:
        self.lay(4)
        job = self.session.job
        self.assertEqual((len(job.contours), len(job.placements), laid_count(job)), (2, 3, 6))
        x, y = self.middle(1)
        self.click(x + 6, y)
        own = {f"{job.placements[1].id}/{name}" for name in (PLATE, HOLE)}
        self.assertEqual(self.session.selection.ids, own)
        self.keys(Key.Key_Right, on=self.canvas)
        moved = self.session.job
        self.assertEqual(moved.contours, job.contours)
        self.assertAlmostEqual(self.middle(1)[0], x + self.session.desk.nudge_mm)
        self.assertEqual(moved.placements[0], job.placements[0])
        self.keys(Key.Key_Escape, on=self.canvas)
        self.click(x + 6 + self.session.desk.nudge_mm, y, Held.AltModifier)
        self.assertEqual(len(self.session.selection.ids), 1)
        self.fill(self.slip_of(MendSlip).numbers.radius, "9 mm")
        self.assertEqual(self.radii(), {9.0})
        self.session.selection.choose(own)
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(len(self.session.layout.contours), 6)
        for _ in range(4):
            self.session.undo()
        self.assertEqual((len(self.session.job.placements), self.radii()), (0, {6.0}))

    def test_they_are_worked_as_their_part_is_or_by_themselves_and_leave_by_programs(self) -> None:
        self.lay(3)
        self.session.open_stage(Stage.MAKE)
        self.take("cut")
        self.press(self.slip_of(OperationSlip).give)
        self.settle()
        self.assertEqual([len(o.contours) for o in self.session.job.operations], [1, 1])
        self.assertEqual([len(o.contours) for o in self.session.layout.operations], [3, 3])
        self.assertEqual(self.session.job.worked, self.session.layout.contour_by_id.keys())
        (program,) = self.session.looked.products
        alone = program.cut_mm
        self.session.open_stage(Stage.MEND)
        self.take("pick")
        name = self.session.job.placements[0].id
        self.session.selection.choose({f"{name}/{PLATE}", f"{name}/{HOLE}"})
        self.slip_of(MendSlip).by_itself.click()
        self.assertTrue(self.session.job.placements[0].by_itself)
        self.session.open_stage(Stage.MAKE)
        self.take("score")
        self.press(self.slip_of(OperationSlip).give)
        self.settle()
        self.assertEqual(len(self.session.job.operations[-1].contours), 2)
        self.session.undo()
        self.session.undo()
        self.settle()
        self.assertEqual(sum(p.cut_mm for p in self.session.looked.products), alone)

    def test_a_great_many_are_painted_as_they_are(self) -> None:
        places = [
            Affine.turned(7.0 * k).then(Affine.moved(20 * (k % 9), 15 * (k // 9)))
            for k in range(40)
        ]
        job, _ = place_copies(self.session.job, [PLATE, HOLE], places, linked=True)
        self.session.edit("lay", job)
        self.keys(Key.Key_Escape, Key.Key_Escape, on=self.canvas)
        self.session.selection.hide(frozenset({f"{job.placements[3].id}/{HOLE}", HOLE}))

        def seen() -> np.ndarray:
            self.canvas.show_anew()
            self.settle()
            image = self.canvas.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
            bits = image.constBits()
            assert bits is not None
            bits.setsize(image.sizeInBytes())
            pixels = np.frombuffer(bytes(bits), np.uint8)
            return pixels.reshape(image.height(), -1, 4)[:, :, :3].astype(int)

        thin = mock.patch.object(contours, "_FEW_SPANS", 0)
        thin.start()
        self.addCleanup(thin.stop)
        plain = seen()
        with mock.patch.object(placed_parts, "_MANY", 10):
            self.assertTrue(placed_parts.paints_parts(self.session.job))
            parts = seen()
            self.session.selection.hide(frozenset())
            all_of_it = seen()
        off = np.abs(plain - parts).max(axis=2) > 100
        self.assertLess(off.mean(), 0.002)
        self.assertGreater((np.abs(plain - all_of_it).max(axis=2) > 100).mean(), off.mean())


if __name__ == "__main__":
    unittest.main()
