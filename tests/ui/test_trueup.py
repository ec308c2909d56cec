"""True up in the real window: matching, measuring, scales, fixed sizes."""

import math
from unittest import mock

import bracket
import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.job.contour_edits import add_contours
from draxet.job.picture_edits import map_picture, set_known_lengths
from draxet.job.picture_records import KnownLength
from draxet.ui.demo import demo_job
from draxet.ui.stages.gather.place_slip import PlaceSlip
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.trueup.fixed_size import FixedSlip
from draxet.ui.stages.trueup.length_tools import KnownLengthTool
from draxet.ui.stages.trueup.level import LevelSlip
from draxet.ui.stages.trueup.match import MatchSlip, MatchTool
from draxet.ui.stages.trueup.measure import MeasureSlip, MeasureTool
from draxet.ui.stages.trueup.scale_tools import ScaleSlip
from tests.ui.driver import WindowTest

Key = Qt.Key


class TrueUpTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        job = demo_job()
        a, b = (bracket.part_to_pixels().point(x, 0) for x in (0, 240))
        self.session.start(
            set_known_lengths(
                job,
                job.pictures[0].id,
                [KnownLength(a, b, 240, Covariance.round(0.2), Covariance.round(0.2))],
            ),
            None,
        )
        scale = 25.4 / bracket.DPI / job.pictures[0].pixel_size
        self.session.edit(
            "scale", map_picture(self.session.job, job.pictures[0].id, Affine.scaled(scale))
        )
        self.canvas.fit_all()

    def on_part(self, x: float, y: float) -> tuple[float, float]:
        picture = self.session.job.pictures[0]
        return picture.to_job.point(*bracket.part_to_pixels().point(x, y))

    def typed(self, field: object, words: str) -> None:
        field.setFocus()  # type: ignore[attr-defined]
        field.selectAll()  # type: ignore[attr-defined]
        self.keys(*words, Key.Key_Return, on=field)


class MatchingPoints(TrueUpTest):
    def setUp(self) -> None:
        super().setUp()
        self.truth = Affine.moved(60, 40)
        parts = [contour.transformed(self.truth) for contour in bracket.part()]
        self.session.edit("draw", add_contours(self.session.job, parts))
        self.canvas.fit_all()
        self.window.commands["match"].run()

    def pair(self, x: float, y: float) -> None:
        self.click(*self.on_part(x, y))
        self.click(*self.truth.point(x, y))

    def test_three_pairs_lay_the_drawing_on_its_contours(self) -> None:
        for place in ((96, 222), (40, 130), (124, 130)):
            self.pair(*place)
        self.assertEqual(len(self.tool_of(MatchTool).targets), 3)
        self.press(self.slip_of(MatchSlip).go)
        for place in ((0, 100), (206, 226), (240, 264)):
            np.testing.assert_allclose(self.on_part(*place), self.truth.point(*place), atol=0.4)
        self.session.undo()
        self.assertGreater(math.dist(self.on_part(0, 100), self.truth.point(0, 100)), 5)

    def test_a_wrong_pair_is_named_and_can_be_taken_back(self) -> None:
        for place in ((96, 222), (40, 130), (124, 130)):
            self.pair(*place)
        self.click(*self.on_part(0, 150))
        self.click(*self.truth.point(206, 226))  # a wrong place
        self.assertIn("Pair 4 does not go with the others", self.slip_of(MatchSlip)._advice.text())
        self.keys(Key.Key_Escape, on=self.canvas)
        self.assertTrue(self.tool_of(MatchTool).waits_for_target)
        self.keys(Key.Key_Escape, on=self.canvas)
        self.assertEqual(len(self.tool_of(MatchTool).sources), 3)
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertEqual(self.session.document.history.undo_words, "match points")

    def test_a_corner_that_is_rounded_away_is_found_from_its_two_edges(self) -> None:
        self.keys("C", on=self.canvas)
        self.assertIn("pick one edge of the corner", self.top_words)
        self.click(*self.on_part(0, 100))
        self.click(*self.on_part(80, 0))
        self.assertTrue(self.tool_of(MatchTool).waits_for_target)
        self.keys("C", on=self.canvas)
        self.click(*self.truth.point(0, 100))
        self.click(*self.truth.point(80, 0))
        tool = self.tool_of(MatchTool)
        np.testing.assert_allclose(
            (tool.sources[0].x, tool.sources[0].y), self.on_part(0, 0), atol=0.1
        )
        np.testing.assert_allclose(
            (tool.targets[0].x, tool.targets[0].y), self.truth.point(0, 0), atol=1e-6
        )

    def test_a_pair_taken_back_leaves_the_others_also_where_a_corner_took_two_edges(self) -> None:
        tool = self.tool_of(MatchTool)
        self.pair(96, 222)
        self.keys("C", on=self.canvas)
        self.click(*self.on_part(0, 100))
        self.click(*self.on_part(80, 0))
        self.click(*self.truth.point(0, 0), Qt.KeyboardModifier.AltModifier)
        self.pair(124, 130)
        kept = [tool.sources[0], tool.sources[2]]
        tool.without(1)
        self.assertEqual((tool.sources, len(tool.targets)), (kept, 2))
        self.session.undo()  # in the midst of a gesture: its last pick
        self.assertTrue(tool.waits_for_target)
        self.press(self.slip_of(MatchSlip).go)
        self.assertEqual(self.session.document.history.undo_words, "match points")
        np.testing.assert_allclose(self.on_part(96, 222), self.truth.point(96, 222), atol=0.5)

    def test_one_side_typed_alone_keeps_the_proportion_and_both_say_what_they_say(self) -> None:
        plate = self.session.layout.contours[0]
        x0, y0, x1, y1 = plate.contour.box
        for wide, high, wanted in ((60.0, None, 60 / (x1 - x0) * (y1 - y0)), (60.0, 20.0, 20.0)):
            self.session.selection.choose({plate.id})
            self.take("fixed-size")
            slip = self.slip_of(FixedSlip)
            self.typed(slip.wide, f"{wide:g}")
            if high is not None:
                self.typed(slip.high, f"{high:g}")
            self.press(slip.go)
            box = self.session.layout.contour_by_id[plate.id].contour.box
            self.assertAlmostEqual(box[2] - box[0], wide, 6)
            self.assertAlmostEqual(box[3] - box[1], wanted, 6)
            self.session.undo()

    def test_chosen_contours_move_instead_and_a_fixed_size_is_not_resized(self) -> None:
        hole = self.session.layout.contours[2]
        self.session.selection.choose({hole.id})
        self.window.commands["fixed-size"].run()
        self.typed(self.slip_of(FixedSlip).wide, "36")
        self.typed(self.slip_of(FixedSlip).high, "36")
        self.press(self.slip_of(FixedSlip).go)
        self.assertTrue(self.session.layout.contour_by_id[hole.id].fixed)
        locked = self.session.job
        self.window.commands["place"].run()
        self.typed(self.slip_of(PlaceSlip).wide, "50")
        self.assertIn("has a fixed size", self.top_words)
        self.assertIs(self.session.job, locked)
        self.window.commands["match"].run()
        self.press(self.slip_of(MatchSlip).freedom.button("size"))
        alt = Qt.KeyboardModifier.AltModifier
        for x in (260, 290):
            self.click(x, 260, alt)
            self.click(2 * x - 260, 300, alt)
        before = self.session.job
        self.press(self.slip_of(MatchSlip).go)
        self.assertIn("fixed size and would be resized", self.top_words)
        self.assertIs(self.session.job, before)
        self.press(self.slip_of(MatchSlip).freedom.button("rigid"))
        self.press(self.slip_of(MatchSlip).go)
        circle = self.session.layout.contour_by_id[hole.id].contour.circle_shape
        assert circle is not None
        self.assertAlmostEqual(circle[2], 18, 6)


class Measuring(TrueUpTest):
    def measured(self, kind: str, *places: tuple[float, float]) -> str:
        self.tool_of(MeasureTool).set_kind(kind)
        for place in places:
            self.click(*self.on_part(*place))
        return self.tool_of(MeasureTool).words()

    def test_every_kind_on_the_picture_and_what_is_kept(self) -> None:
        self.window.commands["measure"].run()
        length = float(self.measured("distance", (40, 130), (124, 130)).split()[0])
        self.assertAlmostEqual(length, 84, delta=0.15)
        self.press(self.slip_of(MeasureSlip).keep)
        self.assertAlmostEqual(
            float(self.measured("angle", (40, 100), (40, 130), (90, 130)).rstrip("°")),
            90,
            delta=0.15,
        )
        ring = [(206 + 17 * math.cos(a), 226 + 17 * math.sin(a)) for a in (0.3, 2.3, 4.4)]
        self.assertAlmostEqual(float(self.measured("radius", *ring).split()[1]), 17, delta=0.15)
        self.measured("area", (40, 130), (124, 130), (124, 90), (40, 90))
        self.keys(Key.Key_Return, on=self.canvas)
        self.assertAlmostEqual(
            float(self.tool_of(MeasureTool).words().split()[0]), 84 * 40, delta=40
        )
        self.assertEqual([note.kind for note in self.session.job.notes], ["distance"])
        self.assertIn("±", self.slip_of(MeasureSlip)._trust.text())
        self.slip_of(MeasureSlip)._remove(self.session.job.notes[0].id)
        self.session.undo()
        self.assertEqual(len(self.session.job.notes), 1)

    def test_the_middle_of_a_circle_is_found_from_its_rim_and_a_straight_line_has_none(
        self,
    ) -> None:
        self.window.commands["measure"].run()
        self.tool_of(MeasureTool).set_kind("distance")
        self.keys("O", on=self.canvas)
        self.assertIn("pick the rim of a circle", self.top_words)
        self.click(*self.on_part(82, 130))  # a straight line
        self.assertIn("No circle is seen there", self.top_words)
        self.click(*self.on_part(206 + 17 * math.cos(2), 226 + 17 * math.sin(2)))
        self.keys("O", on=self.canvas)
        self.keys("O", on=self.canvas)  # a corner is a place like others
        self.click(*self.on_part(40, 130))
        self.assertAlmostEqual(
            float(self.tool_of(MeasureTool).words().split()[0]),
            math.dist((206, 226), (40, 130)),
            delta=0.2,
        )
        self.keys(Key.Key_Escape, on=self.canvas)
        self.keys(Key.Key_Escape, on=self.canvas)
        self.assertEqual(self.session.job.notes, ())

    def test_the_middle_of_a_contours_arc_is_exact(self) -> None:
        self.session.edit(
            "draw",
            add_contours(
                self.session.job,
                [Contour.circle(150, 140, 20), Contour.make([(20, 20), (60, 20)], closed=False)],
            ),
        )
        self.window.commands["measure"].run()
        self.tool_of(MeasureTool).set_kind("distance")
        self.keys("O", on=self.canvas)
        self.click(40, 20)
        self.assertIn("No circle is seen there", self.top_words)
        self.click(150 + 20 * math.cos(0.7), 140 + 20 * math.sin(0.7))
        self.click(60, 20)
        self.assertEqual(
            float(self.tool_of(MeasureTool).words().split()[0]),
            round(math.dist((150, 140), (60, 20)), 3),
        )

    def test_a_place_is_looked_for_anew_once_its_picture_is_there(self) -> None:
        self.window.commands["measure"].run()
        tool, store = self.session.tool, type(self.session.pictures)
        assert isinstance(tool, GestureTool)
        with (
            mock.patch.object(store, "latest", return_value=None),
            mock.patch.object(store, "ready", return_value=False),
        ):
            self.hover(*self.on_part(40, 130))
            self.assertEqual(tool._at.word, "free")
        QTest.mouseClick(
            self.canvas,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            self.place(*self.on_part(40, 130)),
        )
        self.assertNotIn(tool._answers[0].caught.word, ("free", ""))

    def test_zooming_and_panning_between_the_picks_changes_nothing(self) -> None:
        self.window.commands["measure"].run()
        self.click(*self.on_part(40, 130))
        self.wheel(*self.on_part(40, 130), 6)
        self.drag(self.on_part(44, 130), self.on_part(30, 128), Qt.MouseButton.MiddleButton)
        self.canvas.fit_all()
        self.wheel(*self.on_part(124, 130), 5)
        self.click(*self.on_part(124, 130))
        self.assertAlmostEqual(float(self.tool_of(MeasureTool).words().split()[0]), 84, delta=0.2)

    def test_contours_are_measured_exactly(self) -> None:
        self.session.edit("draw", add_contours(self.session.job, bracket.part()))
        self.window.commands["measure"].run()
        self.tool_of(MeasureTool).set_kind("along")
        self.click(206 + 17, 226)
        self.assertEqual(self.tool_of(MeasureTool).words(), "106.81 mm")
        self.tool_of(MeasureTool).set_kind("distance")
        self.click(206, 226)
        self.click(44, 30)
        self.assertAlmostEqual(
            float(self.tool_of(MeasureTool).words().split()[0]), math.dist((206, 226), (44, 30)), 2
        )


class UndoInTheMiddle(TrueUpTest):
    def test_what_is_half_picked_is_dropped_when_the_picture_beneath_it_changes(self) -> None:
        self.window.commands["known-length"].run()
        self.click(*self.on_part(0, 100))
        self.assertEqual(len(self.tool_of(KnownLengthTool).picks), 1)
        self.session.undo()
        self.assertEqual(self.tool_of(KnownLengthTool).picks, [])


class ScalesAndDetails(TrueUpTest):
    def test_a_detail_becomes_a_picture_of_its_own_and_only_it_is_resized(self) -> None:
        whole = self.session.job.pictures[0]
        self.window.commands["own-scale"].run()
        self.drag(self.on_part(20, 40), self.on_part(140, 165))
        detail = self.session.selection.picture
        assert detail is not None
        self.assertEqual((detail.name, detail.known_lengths), ("Detail of Bracket drawing.jpg", ()))
        corner = detail.to_base.inverse().point(*bracket.part_to_pixels().point(40, 60))
        np.testing.assert_allclose(detail.to_job.point(*corner), self.on_part(40, 60), atol=1e-9)
        self.window.commands["known-length"].run()
        self.click(*self.on_part(40, 130))
        self.click(*self.on_part(124, 130))
        self.keys("4", "2", Key.Key_Return)
        self.assertAlmostEqual(
            self.session.job.pictures[1].pixel_size, whole.pixel_size / 2, delta=0.001
        )
        self.assertEqual(self.session.job.pictures[0], whole)

    def test_which_scale_tells_the_ratio_and_sets_the_size_by_a_written_one(self) -> None:
        self.window.commands["which-scale"].run()
        slip = self.slip_of(ScaleSlip)
        self.assertIn("does not say its resolution", slip._note.text())
        self.typed(slip.dpi, "200")
        self.assertEqual(slip._ratio.text(), "1 : 1")
        self.typed(slip.written, "20")
        self.press(slip.go)
        self.assertEqual(slip._ratio.text(), "1 : 20")
        self.assertAlmostEqual(
            self.session.job.pictures[0].width * self.session.job.pictures[0].pixel_size,
            8001,
            delta=1,
        )
        self.typed(slip.written, "x")
        self.assertIn("Scale must be a number", self.top_words)

    def test_a_line_can_be_laid_at_a_typed_angle(self) -> None:
        self.window.commands["level"].run()
        self.click(*self.on_part(26, 0))
        self.click(*self.on_part(140, 0))
        self.press(self.slip_of(LevelSlip).choice.button("angle"))
        self.typed(self.slip_of(LevelSlip).angle, "30")
        self.press(self.slip_of(LevelSlip).turn)
        (x0, y0), (x1, y1) = self.on_part(26, 0), self.on_part(140, 0)
        self.assertAlmostEqual(math.degrees(math.atan2(y1 - y0, x1 - x0)), 30, delta=0.05)


if __name__ == "__main__":
    import unittest

    unittest.main()
