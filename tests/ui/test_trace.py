"""Trace in the real window: edges, middles, colours, the chosen area, and how near they come."""

from dataclasses import replace
from unittest import mock

import bracket
import cv2
import numpy as np
from PyQt6.QtCore import Qt

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.geometry.shapes import ellipse
from draxet.geometry.spans import CUBIC
from draxet.job.contour_edits import add_contours, remove_contours
from draxet.job.picture_edits import add_picture, map_picture, set_known_lengths
from draxet.job.picture_records import KnownLength
from draxet.job.records import Job
from draxet.machines.simulated_camera import CARD_MM, leaf_stencil
from draxet.ui.demo import demo_job
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.trace.colours_tool import ColoursSlip, ColoursTool
from draxet.ui.stages.trace.ink import EdgesSlip, EdgesTool, MiddlesSlip, MiddlesTool
from draxet.ui.stages.trace.nearness import NearnessTool
from draxet.ui.stages.trace.nearness_slip import NearnessSlip
from draxet.ui.stages.trueup.square_tool import SquareSlip
from tests.pixels.test_light import lit, page
from tests.shapes import apart
from tests.ui.driver import WindowTest

Key = Qt.Key


class TraceTest(WindowTest):
    demo = "bracket"

    def setUp(self) -> None:
        super().setUp()
        job = demo_job(self.demo)
        picture = job.pictures[0]
        if self.demo == "bracket":
            a, b = (bracket.part_to_pixels().point(x, 0) for x in (0, 240))
            known = KnownLength(a, b, 240, Covariance.round(0.2), Covariance.round(0.2))
            scale = 25.4 / bracket.DPI / picture.pixel_size
        else:
            known, scale = (
                KnownLength((0, 350), (900, 350), 90, Covariance.round(0.2), Covariance.round(0.2)),
                0.1 / picture.pixel_size,
            )
        job = set_known_lengths(job, picture.id, [known])
        self.session.start(map_picture(job, picture.id, Affine.scaled(scale)), None)
        self.canvas.fit_all()

    def on_part(self, x: float, y: float) -> tuple[float, float]:
        return self.session.job.pictures[0].to_job.point(*bracket.part_to_pixels().point(x, y))

    def typed(self, field: object, words: str) -> None:
        field.setFocus()  # type: ignore[attr-defined]
        field.selectAll()  # type: ignore[attr-defined]
        self.keys(*words, Key.Key_Return, on=field)
        self.settle(200)

    def take(self, tool: str) -> None:
        self.window.commands[tool].run()
        self.settle(50)


class Edges(TraceTest):
    def test_presets_sliders_and_the_local_level_change_what_is_proposed(self) -> None:
        self.take("edges")
        slip, tool = self.slip_of(EdgesSlip), self.tool_of(EdgesTool)
        before = sum(len(c.nodes) for c in tool.offer.contours)
        slip.shape["detail"].slider.setValue(20)
        self.settle(250)
        self.assertLess(sum(len(c.nodes) for c in tool.offer.contours), before)
        deviation = slip.facts["Greatest deviation"][1].text()
        self.assertRegex(deviation, r"px · .* mm")
        menu = slip.preset.menu()
        next(action for action in menu.actions() if action.text().startswith("Pencil")).trigger()
        self.settle(250)
        self.assertTrue(slip.local.isChecked())
        self.assertEqual(slip.preset.text(), "Kind of picture: pencil")
        self.typed(slip.asked["speck"], "bad")
        self.assertIn("Smallest speck must be an area", self.top_words)
        self.take("edges")
        self.assertEqual(self.slip_of(EdgesSlip).preset.text(), "Kind of picture: pencil")  # kept

    def test_tracing_anew_keeps_what_was_changed_by_hand_and_start_over_keeps_the_picture(
        self,
    ) -> None:
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).make)
        count = len(self.session.layout.contours)
        outer = max(self.session.layout.contours, key=lambda item: abs(item.contour.area))
        self.take("pick")
        self.session.selection.choose({outer.id})
        x, y = outer.contour.nodes[0].tolist()
        self.drag((x, y), (x + 8, y + 8))
        moved = self.session.layout.contour_by_id[outer.id]
        self.assertTrue(moved.by_hand)
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).make)
        self.assertIs(self.session.layout.contour_by_id[outer.id], moved)
        self.assertEqual(len(self.session.layout.contours), count)
        self.assertIn("1 changed by hand kept", self.top_words)
        self.press(self.slip_of(EdgesSlip).over)
        self.assertEqual((self.session.layout.contours, len(self.session.job.pictures)), ((), 1))
        self.session.undo()
        self.assertEqual(len(self.session.layout.contours), count)

    def test_a_proposal_follows_its_picture_and_is_never_made_where_that_was(self) -> None:
        self.session.edit(
            "scale",
            map_picture(self.session.job, self.session.job.pictures[0].id, Affine.scaled(1.5)),
        )
        self.take("edges")
        self.session.undo()
        self.press(self.slip_of(EdgesSlip).make)
        self.assertEqual(self.session.layout.contours, ())
        self.settle(300)
        self.press(self.slip_of(EdgesSlip).make)
        outer = max(
            (item.contour for item in self.session.layout.contours), key=lambda c: abs(c.area)
        )
        x0, _, x1, _ = outer.transformed(Affine.turned(bracket.SKEW_DEGREES)).box
        self.assertTrue(min(abs(x1 - x0 - 240.4), abs(x1 - x0 - 240)) < 3, x1 - x0)

    def test_contours_taken_back_are_offered_again_and_made_again_by_redo_or_the_button(
        self,
    ) -> None:
        self.take("edges")
        tool = self.tool_of(EdgesTool)
        offer, empty = tool.offer, self.session.job
        self.press(self.slip_of(EdgesSlip).make)
        made = self.session.job
        for again in (
            lambda: self.session.redo(),
            lambda: self.press(self.slip_of(EdgesSlip).make),
        ):
            self.keys("Z", held=Qt.KeyboardModifier.ControlModifier, on=self.canvas)
            self.assertIs(self.session.job, empty)
            self.assertIs(tool.offer, offer)
            self.assertTrue(self.slip_of(EdgesSlip).make.isEnabled())
            again()
            self.assertEqual(
                [item.contour for item in self.session.layout.contours],
                [item.contour for item in made.contours],
            )
            self.assertEqual(tool.offer.contours, ())
            self.assertFalse(self.slip_of(EdgesSlip).make.isEnabled())

    def test_settings_of_one_job_do_not_reach_the_next(self) -> None:
        self.take("trace-area")
        self.drag(self.on_part(25, 10), self.on_part(65, 50))
        self.session.start(demo_job("badge"), None)
        self.take("colours")
        self.assertEqual(self.tool_of(ColoursTool).settings.area, ())
        self.assertEqual(len(self.tool_of(ColoursTool).settings.swatches), 4)

    def test_only_the_chosen_area_is_traced_and_contours_outside_stay(self) -> None:
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).make)
        count = len(self.session.layout.contours)
        self.take("trace-area")
        self.drag(self.on_part(25, 10), self.on_part(65, 50))
        self.take("edges")
        self.assertEqual(len(self.tool_of(EdgesTool).offer.contours), 2)  # both edges of one hole
        self.press(self.slip_of(EdgesSlip).make)
        self.assertEqual(len(self.session.layout.contours), count)
        self.take("trace-area")
        self.click(*self.on_part(120, 200))
        self.assertIn("whole picture", self.top_words)


class Middles(TraceTest):
    def test_strokes_become_single_lines_with_their_width(self) -> None:
        self.take("middles")
        self.assertIn("mm", self.slip_of(MiddlesSlip).facts["Strokes are wide"][1].text())
        self.press(self.slip_of(MiddlesSlip).make)
        closed = [item for item in self.session.layout.contours if item.contour.closed]
        circles = sorted(
            item.contour.circle_shape[2] for item in closed if item.contour.circle_shape
        )
        np.testing.assert_allclose(circles[:3], (11, 11, 17), atol=0.1)
        self.assertIn("open", self.top_words)
        self.assertTrue(all(item.traced == "middles" for item in self.session.layout.contours))
        self.typed(self.slip_of(MiddlesSlip).asked["min_length"], "60 mm")
        long = [c for c in self.tool_of(MiddlesTool).offer.contours if not c.closed]
        self.assertTrue(long and all(c.length >= 59.5 for c in long))


class LinesAndArcs(TraceTest):
    def test_one_way_adds_to_what_another_made_where_that_is_asked_for(self) -> None:
        def ways() -> set[str]:
            return {item.traced for item in self.session.layout.contours}

        self.take("edges")
        slip = self.slip_of(EdgesSlip)
        self.assertTrue(slip.adds.isHidden())  # nothing was traced yet
        self.assertRegex(slip.facts["Lines · arcs · curves"][1].text(), r"^\d+ · \d+ · \d+$")
        self.press(slip.make)
        edges = len(self.session.layout.contours)
        self.take("middles")
        other = self.slip_of(MiddlesSlip)
        self.assertFalse(other.adds.isHidden())
        self.press(other.adds["adds"])
        self.press(other.make)
        self.settle(50)
        both = len(self.session.layout.contours)
        self.assertEqual(ways(), {"edges", "middles"})
        self.assertGreater(both, edges)
        self.take("middles")  # the same again: what lies on that already is left out
        other = self.slip_of(MiddlesSlip)
        self.settle(50)
        self.press(other.make)
        self.assertEqual(len(self.session.layout.contours), both)
        self.press(other.adds["adds"])
        self.take("edges")
        self.settle(50)
        self.press(self.slip_of(EdgesSlip).make)
        self.assertEqual((ways(), len(self.session.layout.contours)), ({"edges"}, edges))
        self.session.undo()
        self.assertEqual(len(self.session.layout.contours), both)

    def test_curves_become_lines_and_arcs_within_a_tolerance(self) -> None:
        curve = ellipse(100, 100, 60, 30)
        self.session.edit("draw", add_contours(self.session.job, [curve]))
        self.take("pick")
        self.session.selection.choose({self.session.layout.contours[0].id})
        self.typed(self.slip_of(MendSlip).within, "0.02")
        self.press(self.slip_of(MendSlip).arcs)
        self.settle()
        self.assertTrue(
            (self.session.layout.contours[0].contour.kinds == CUBIC).all()
        )  # told and drawn, not done yet
        self.assertIn("become", self.slip_of(MendSlip).preview.words.text())
        self.press(self.slip_of(MendSlip).preview.do)
        plain = self.session.layout.contours[0].contour
        self.assertFalse((plain.kinds == CUBIC).any())
        self.assertLess(apart(plain, curve)[1], 0.025)
        self.press(self.slip_of(MendSlip).arcs)
        self.settle()
        self.assertIn("no curves but arcs already", self.top_words)


class FromAPhoto(WindowTest):
    def test_a_photo_at_an_angle_is_squared_by_its_card_and_the_stencil_traced_true_to_size(
        self,
    ) -> None:
        self.session.start(demo_job("leaf"), None)
        self.window.commands["square"].run()
        self.settle(50)
        self.press(self.slip_of(SquareSlip).lens)
        self.press(self.slip_of(SquareSlip).go)
        self.window.commands["edges"].run()
        self.settle(50)
        menu = self.slip_of(EdgesSlip).preset.menu()
        next(action for action in menu.actions() if action.text().startswith("Shape")).trigger()
        self.settle(300)
        self.press(self.slip_of(EdgesSlip).make)
        areas = [abs(item.contour.area) for item in self.session.layout.contours]
        plate, half, _, hole = (abs(contour.area) for contour in leaf_stencil())
        for truth, within in (
            (plate, 0.004),
            (half, 0.01),
            (hole, 0.02),
            (CARD_MM[0] * CARD_MM[1], 0.01),
        ):
            self.assertLess(min(abs(area / truth - 1) for area in areas), within)


class HowNear(TraceTest):
    def test_the_map_the_worst_places_and_the_verdict(self) -> None:
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).make)
        self.take("nearness")
        self.wait_for(lambda: self.tool_of(NearnessTool).answer is not None)
        before = self.tool_of(NearnessTool).answer.closeness.greatest
        self.assertLess(self.tool_of(NearnessTool).answer.closeness.mean, 0.2)
        self.assertIn(
            "under 1 mm", " ".join(f.words for f in self.slip_of(NearnessSlip)._verdict.shown)
        )  # both edges of a pencil line
        outer = max(self.session.layout.contours, key=lambda item: abs(item.contour.area))
        self.take("pick")
        self.session.selection.choose({outer.id})
        x, y = outer.contour.nodes[2].tolist()
        self.drag((x, y), (x + 5, y + 4))
        self.take("nearness")
        self.settle(100)
        self.assertGreater(self.tool_of(NearnessTool).answer.closeness.greatest, before)
        row = self.slip_of(NearnessSlip)._list.itemAt(0).widget()
        self.press(row)
        self.assertEqual(self.session.selection.ids, {outer.id})
        shown = self.canvas.camera.view(*self.tool_of(NearnessTool).looked)
        np.testing.assert_allclose(
            shown, (self.canvas.width() / 2, self.canvas.height() / 2), atol=2
        )

    def test_contours_drawn_by_hand_are_judged_too_and_what_has_nothing_to_do_with_the_picture_is_not(
        self,
    ) -> None:
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).make)
        job = self.session.job
        drawn = tuple(replace(item, picture="", traced="") for item in job.contours)
        self.session.edit(
            "draw",
            add_contours(
                replace(job, contours=drawn),
                [Contour.circle(*job.pictures[0].to_job.point(30, 30), 3.0)],
            ),
        )
        self.take("nearness")
        self.wait_for(lambda: self.tool_of(NearnessTool).answer is not None)
        answer = self.tool_of(NearnessTool).answer
        self.assertLess(answer.closeness.mean, 0.3)
        self.assertEqual(answer.fitness.contours, len(drawn))
        self.assertEqual(self.slip_of(NearnessSlip)._lines.text(), "none")
        self.session.edit("remove", remove_contours(self.session.job, [drawn[0].id]))
        self.take("nearness")
        self.settle(60)
        self.assertRegex(
            self.slip_of(NearnessSlip)._lines.text(), r"^\d+ · [\d.]+ mm · [\d.]+ mm²$"
        )


class UnevenLight(TraceTest):
    def test_automatic_follows_it_says_so_and_can_be_told_not_to(self) -> None:
        data = cv2.imencode(".png", lit(page(4)[0], "corner", 4))[1].tobytes()
        job, _ = add_picture(
            Job("Page"), "page.png", data, (1000, 700), Affine(0.2, 0, 0, 0, -0.2, 140)
        )
        self.session.start(job, None)
        self.take("edges")
        slip, tool = self.slip_of(EdgesSlip), self.tool_of(EdgesTool)
        followed = len(tool.offer.contours)
        self.assertTrue(slip.local.isChecked() and slip.auto.isChecked())
        self.assertIn("automatic follows it", slip._light.text())
        slip.local.click()
        self.settle(60)
        self.assertFalse(slip.local.isChecked() or slip.auto.isChecked())
        self.wait_for(lambda: len(tool.offer.contours) < followed)
        slip.auto.click()
        self.wait_for(lambda: len(tool.offer.contours) == followed)
        slip.auto.click()  # held where it is: the same contours
        self.settle(60)
        self.assertTrue(slip.local.isChecked())
        self.assertEqual(len(tool.offer.contours), followed)


class Colours(TraceTest):
    demo = "badge"

    def test_of_a_picture_that_is_still_prepared_no_colour_is_picked_or_split(self) -> None:
        self.take("colours")
        slip, tool = self.slip_of(ColoursSlip), self.tool_of(ColoursTool)
        with mock.patch.object(self.session.pictures, "ready", return_value=False):
            slip._boxes[1].click()
            self.press(slip.split)
            self.assertIn("still being prepared", self.top_words)
            self.press(slip.pick)
            self.click(*self.session.job.pictures[0].to_job.point(250, 350))
        self.assertEqual(len(tool.settings.swatches), 4)

    def test_swatches_are_named_merged_dropped_split_and_picked_and_areas_keep_their_colour(
        self,
    ) -> None:
        self.take("colours")
        slip, tool = self.slip_of(ColoursSlip), self.tool_of(ColoursTool)
        self.assertEqual(len(tool.settings.swatches), 4)
        slip._rename(1, "navy")
        self.assertEqual(tool.settings.swatches[1].name, "navy")
        self.press(slip.merge)
        self.assertIn("Choose two colours", self.top_words)
        for box in slip._boxes[2:4]:
            box.click()
        self.press(slip.merge)
        self.settle(50)
        self.assertEqual(len(tool.settings.swatches), 3)
        self.press(slip.pick)
        picture = self.session.job.pictures[0]
        self.click(*picture.to_job.point(250, 350))  # the red band
        self.settle(50)
        self.assertEqual(len(tool.settings.swatches), 4)
        red = tool.settings.swatches[3].colour
        self.assertTrue(red[0] > 120 > red[1])
        slip._boxes[0].click()
        self.press(slip.drop)
        self.settle(50)
        self.press(slip.make)
        colours = {item.colour for item in self.session.layout.contours}
        self.assertEqual(len(colours), 3)
        self.assertTrue(all(item.contour.closed for item in self.session.layout.contours))
        self.typed(slip.count, "99")
        self.assertIn("number of colours must be from 2 to 32", self.top_words)
        self.typed(slip.count, "2")
        self.assertEqual(len(tool.settings.swatches), 2)
        slip._boxes[0].click()
        self.press(slip.split)
        self.settle(50)
        self.assertEqual(len(tool.settings.swatches), 3)

    def test_colours_asked_for_once_more_are_there_again_with_their_areas(self) -> None:
        self.window.commands["colours"].run()
        self.settle()
        tool = self.tool_of(ColoursTool)
        for _ in range(2):
            tool.suggest(3)
            self.settle()
            self.assertEqual(len(tool.settings.swatches), 3)
            self.assertTrue(tool.offer.contours)

    def test_a_contour_takes_the_pictures_colour(self) -> None:
        self.take("edges")
        self.press(self.slip_of(EdgesSlip).make)
        self.take("nearness")
        self.settle(50)
        inner = min(self.session.layout.contours, key=lambda item: abs(item.contour.area))
        self.session.selection.choose({inner.id})
        self.press(self.slip_of(NearnessSlip).colour)
        self.assertRegex(self.session.layout.contour_by_id[inner.id].colour, r"^#[0-9a-f]{6}$")


if __name__ == "__main__":
    import unittest

    unittest.main()
