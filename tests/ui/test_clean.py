"""Cleaning, regions, leaks and offsets through the real window, with wrong clicks and undo."""

import math
from unittest import mock

import cv2
import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import area_of
from draxet.geometry.offset import offset_area
from draxet.geometry.pieces import piece
from draxet.geometry.shapes import rounded_polygon
from draxet.job.contour_edits import add_contours, remove_contours
from draxet.job.picture_edits import add_picture, remove_picture
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.cutting_through import give_cut
from draxet.ui.stages import colour_menu
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.clean_tool import CleanSlip, CleanTool
from draxet.ui.stages.mend.narrowed_row import NarrowedRow
from draxet.ui.stages.mend.offset_tool import OffsetSlip, OffsetTool
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.mend.region_slip import RegionSlip
from draxet.ui.stages.mend.region_tool import RegionTool
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.ui.stages.mend.truth_tool import TruthSlip
from tests.shapes import apart
from tests.ui.driver import WindowTest

import bracket  # isort: skip
import worn  # isort: skip

Key, Held = Qt.Key, Qt.KeyboardModifier
PLATE = rounded_polygon([(30, 30, 10), (170, 30, 10), (170, 130, 10), (30, 130, 10)])


def line(*places: tuple[float, float]) -> Contour:
    return Contour.make(places, closed=False)


class Cleaning(WindowTest):
    def begin(self, *contours: Contour) -> None:
        self.session.start(
            add_contours(Job("Emblem", sheets=(Sheet(width=200, height=160),)), contours), None
        )
        self.settle()

    def test_what_a_pen_adds_round_a_coin_is_taken_off_everything_drawn_with_it(self) -> None:
        off, coin = 0.43, 23.25
        thing = Contour.make([(40, 30), (100, 30), (100, 70), (70, 90), (40, 70)])
        (drawn,) = offset_area([thing], off, "round")
        self.begin(drawn, Contour.circle(150, 60, coin / 2 + off))
        first, circle = (item.id for item in self.session.layout.contours)
        self.take("offset")
        slip = self.slip_of(OffsetSlip)
        self.fill(slip.coin, "23.25")
        self.assertIn("choose the line that was drawn round the coin", self.top_words)
        self.session.selection.choose({first})
        self.fill(slip.coin, "23.3")
        self.assertIn("must be a circle", self.top_words)
        self.session.selection.choose({circle})
        self.fill(slip.coin, "75")
        self.assertIn("must be about as wide as its line, 24.11 mm, got 75 mm", self.top_words)
        self.fill(slip.coin, "23.25")
        self.assertIn("ran 0.43 mm outside", self.top_words)
        self.session.selection.choose({first})
        self.wait_for(lambda: len(self.tool_of(OffsetTool).made) == 1)
        self.press(slip.make)
        self.settle(50)
        made = next(c for c in self.contours() if c.circle_shape is None)
        self.assertEqual(len(made.nodes), 5)
        found = area_of([made]).symmetric_difference(area_of([thing])).area
        self.assertLess(found, 0.01)
        self.session.undo()
        self.assertEqual(len(self.contours()), 2)

    def colours(self) -> list[str]:
        return [item.colour for item in self.session.layout.contours]

    def test_colours_are_given_exchanged_and_picked_from_the_picture_and_unite_keeps_them(
        self,
    ) -> None:
        self.begin(
            *(Contour.make([(x, 30), (x + 50, 30), (x + 50, 80), (x, 80)]) for x in (20, 60, 130))
        )
        pixels = np.full((160, 200, 3), 250, np.uint8)
        pixels[10:40, 10:40] = (40, 90, 230)  # orange, as OpenCV counts
        data = cv2.imencode(".png", pixels)[1].tobytes()
        self.window.opening.take_picture(data, "Patch.png", of_screen=True)
        self.wait_for(lambda: bool(self.session.job.pictures))
        self.settle()
        self.take("pick")
        ids = [item.id for item in self.session.layout.contours]
        look = self.slip_of(MendSlip).look

        def choose(words: str) -> None:
            look.colour.fill()
            menu = look.colour.menu()
            assert menu is not None
            next(each for each in menu.actions() if each.text() == words).trigger()

        self.session.selection.choose(set(ids[:2]))
        choose("Red")
        self.assertEqual(self.colours(), ["#cf4a3c", "#cf4a3c", ""])
        self.assertEqual(look.colour.text(), "Colour: red")
        self.session.selection.choose({ids[0]})
        self.assertFalse(look.everywhere.isHidden())
        self.press(look.everywhere)
        choose("Navy")
        self.assertEqual(self.colours(), ["#1e3550", "#1e3550", ""])
        self.session.undo()
        self.assertEqual(self.colours(), ["#cf4a3c", "#cf4a3c", ""])
        self.press(look.everywhere)
        self.session.selection.choose({ids[2]})
        choose("From a point of the picture")
        picture = self.session.selection.picture
        assert picture is not None
        self.click(-500, -500)
        self.assertIn("no picture under the pointer", self.top_words)
        self.assertIn("click the colour", str(self.tool_of(ShapingTool).prompt()))
        self.click(*picture.to_job.point(25, 25))
        self.assertEqual(self.colours(), ["#cf4a3c", "#cf4a3c", "#e65a28"])
        choose("From a point of the picture")
        self.keys(Key.Key_Escape, on=self.canvas)
        self.click(*picture.to_job.point(25, 25))  # picks again: no colour changes
        self.assertEqual(self.colours()[2], "#e65a28")
        self.session.selection.choose({ids[2]})
        for typed, colour in (("#0a0b0c", "#0a0b0c"), ("mauve", "#0a0b0c")):
            with mock.patch.object(colour_menu, "ask_name", return_value=typed):
                choose("Another …")
            self.assertEqual(self.colours()[2], colour, self.top_words)
        self.assertIn("must be like", self.top_words)
        self.take("cut")
        self.session.selection.choose({ids[0]})
        self.press(self.slip_of(OperationSlip).give)
        self.take("regions")
        self.session.selection.choose(set(ids[:2]))
        self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
        self.press(self.slip_of(RegionSlip).ways["unite"])
        self.assertEqual(sorted(self.colours()), ["#0a0b0c", "#cf4a3c"])
        (cut,) = self.session.job.operations
        self.assertEqual(len(cut.contours), 1)
        self.session.undo()
        self.assertEqual(len(self.colours()), 3)

    def contours(self) -> list[Contour]:
        return [item.contour for item in self.session.layout.contours]

    def stroke(self, *places: tuple[float, float]) -> None:
        at = [self.place(*place) for place in places]
        QTest.mouseMove(self.canvas, at[0])
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, Held.NoModifier, at[0])
        for a, b in zip(at[:-1], at[1:], strict=True):
            for k in range(1, 9):
                QTest.mouseMove(self.canvas, a + (b - a) * k / 8)
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, Held.NoModifier, at[-1])
        self.settle(5)

    def test_lines_become_outlines_and_outlines_middle_lines_that_know_their_width(self) -> None:
        self.begin(line((40, 40), (160, 40)), line((40, 80), (160, 80)))
        first, second = (item.id for item in self.session.layout.contours)
        self.take("pick")
        self.session.selection.choose({first})
        self.fill(self.slip_of(MendSlip).look.line, "6")
        self.assertEqual([item.line for item in self.session.layout.contours], [6.0, 0.0])
        self.fill(self.slip_of(MendSlip).look.line, "2000")
        self.assertIn("from 0", self.top_words)
        self.session.selection.choose({first, second})
        self.take("offset")
        self.press(self.slip_of(OffsetSlip).outline)
        self.assertEqual(sorted(round(c.box[3] - c.box[1], 3) for c in self.contours()), [1.0, 6.0])
        self.assertFalse(self.slip_of(OffsetSlip).middle.isEnabled())
        self.session.selection.choose({item.id for item in self.session.layout.contours})
        self.press(self.slip_of(OffsetSlip).middle)
        self.settle(50)
        self.assertEqual(self.session.document.history.undo_words, "outlines become middle lines")
        for item, width in zip(
            sorted(self.session.layout.contours, key=lambda item: item.line),
            (1.0, 6.0),
            strict=True,
        ):
            self.assertAlmostEqual(item.line, width, delta=0.02)
            self.assertAlmostEqual(item.contour.length, 120, delta=0.1)

    def test_a_worn_drawing_is_made_clean_in_under_ten_actions_and_lies_on_the_truth(self) -> None:
        ok, data = cv2.imencode(
            ".jpg", bracket.draw(worn.strokes()), [cv2.IMWRITE_JPEG_QUALITY, 90]
        )
        self.assertTrue(ok)
        move = Affine.moved(30, 30)
        job, _ = add_picture(
            Job("Worn", sheets=(Sheet(width=420, height=380),)),
            "Worn drawing.jpg",
            data.tobytes(),
            (3150, 2913),
            bracket.part_to_pixels().inverse().then(move),
        )
        self.session.start(job, None)
        self.take("middles")
        self.settle(100)
        self.keys(Key.Key_Return, on=self.canvas)
        self.settle(100)
        self.assertEqual(sum(not contour.closed for contour in self.contours()), 7)
        self.take("clean")  # 1
        self.fill(self.slip_of(CleanSlip).asked["gaps"], "3.5")  # 2
        self.fill(self.slip_of(CleanSlip).asked["overshoots"], "4")  # 3
        self.fill(self.slip_of(CleanSlip).asked["doubles"], "1.3")  # 4
        self.settle(50)
        actions = 4
        while self.tool_of(CleanTool).found and actions < 10:
            self.press(self.slip_of(CleanSlip).all)
            self.settle(50)
            actions += 1
        self.assertLess(actions, 10)
        truth = [contour.transformed(move) for contour in bracket.part()]
        self.assertEqual(len(self.contours()), len(truth))
        for contour in self.contours():
            self.assertTrue(contour.closed)
            self.assertLess(min(apart(contour, true)[1] for true in truth), 0.1)

    def test_a_hole_is_turned_solid_and_back_by_a_click(self) -> None:
        self.begin(PLATE, Contour.circle(70, 80, 15), Contour.circle(130, 80, 15))
        ids = [item.id for item in self.session.layout.contours]
        self.session.edit("cut", give_cut(self.session.job, ids, 1.0, 1000))
        start = self.session.job
        self.take("regions")
        self.press(self.slip_of(RegionSlip).click.button("holes"))
        self.click(100, 50)
        self.assertIn("There is no hole here", self.top_words)
        self.click(70, 80)
        self.assertEqual([item.id for item in self.session.layout.contours], [ids[0], ids[2]])
        self.assertEqual([item.id for item in self.session.job.helpers], [ids[1]])
        self.click(70, 80)
        self.assertEqual(self.session.job.helpers, ())
        self.assertEqual(self.session.job.cut_of[ids[1]].side, start.cut_of[ids[1]].side)
        for _ in range(2):
            self.session.undo()
        self.assertEqual(self.session.job, start)

    def test_a_broken_doubled_overshot_outline_is_clean_in_a_few_actions(self) -> None:
        first, second = piece(PLATE, 0.2, 3.49), piece(PLATE, 3.5, 7.3)
        assert first and second
        tail = line((100, 128), (100, 140.7))
        self.begin(
            first,
            second,
            PLATE.reversed(),
            Contour.circle(100, 80, 15),
            Contour.circle(20, 20, 0.1),
            line((60, 60), (60, 129.5)),
            tail,
        )
        start = self.session.job
        self.take("clean")
        kinds = self.slip_of(CleanSlip).list.kinds
        self.assertIn("drawn twice", kinds)
        self.press(self.slip_of(CleanSlip).take)
        self.assertIn("tick what is to be mended", self.top_words)
        kinds["drawn twice"].click()
        self.slip_of(CleanSlip).list.unfold("drawn twice")
        self.assertTrue(self.tool_of(CleanTool).hot)
        self.press(self.slip_of(CleanSlip).take)
        self.settle()
        self.assertLess(len(self.contours()), 7)
        self.press(self.slip_of(CleanSlip).all)
        self.settle()
        self.assertEqual(self.tool_of(CleanTool).found, [])
        outline = max(self.contours(), key=lambda c: abs(c.area))
        self.assertLess(max(apart(outline, PLATE)), 0.1)
        while self.session.document.history.at:
            self.session.undo()
        self.assertEqual(self.session.job, start)

    def test_a_choice_that_narrows_is_said_and_goes_before_the_tool(self) -> None:
        self.begin(PLATE, Contour.circle(60, 80, 9), Contour.circle(140, 80, 9))
        for name, kind in (("clean", CleanSlip), ("truths", TruthSlip), ("regions", RegionSlip)):
            with self.subTest(name):
                one = self.session.job.contours[1].id
                self.session.selection.choose(frozenset([one]))
                self.take(name)
                self.assertIsInstance(self.slip, kind)
                (narrowed,) = self.slip.findChildren(NarrowedRow)
                self.assertTrue(narrowed.isVisible())
                self.assertEqual(narrowed.words.text(), "Of 1 contour chosen, of 3")
                self.press(narrowed.all)
                self.settle()
                self.assertFalse(narrowed.isVisible())
                self.session.selection.choose(frozenset([one]))
                self.settle(100)  # until it rests
                self.keys(Key.Key_Escape, on=self.canvas)
                self.assertEqual(self.session.selection.ids, frozenset())
                self.assertEqual(self.session.tool_id, name)
                self.keys(Key.Key_Escape, on=self.canvas)
                self.assertEqual(self.session.tool_id, "")

    def test_slits_are_left_open(self) -> None:
        self.begin(line((20, 20), (60, 20)), line((60.5, 20), (90, 20)))
        self.take("pick")
        self.session.selection.choose({self.session.layout.contours[0].id})
        self.slip_of(MendSlip).slits.click()
        self.session.selection.choose(set())
        self.take("clean")
        self.assertEqual(self.tool_of(CleanTool).found, [])

    def test_all_areas_take_the_pictures_colours_at_once(self) -> None:
        told = {(0, 0): (200, 30, 40), (1, 0): (30, 160, 60), (0, 1): (40, 60, 190)}
        told[1, 1] = (230, 200, 40)
        pixels = np.zeros((400, 400, 3), np.uint8)
        for (column, row), colour in told.items():
            pixels[200 * row : 200 * row + 200, 200 * column : 200 * column + 200] = colour[::-1]
        self.window.opening.take_picture(bytes(cv2.imencode(".png", pixels)[1]), "patches.png")
        self.settle(60)
        to_job = self.session.selection.picture.to_job
        places = [to_job.point(x, y) for x, y in ((60, 60), (340, 340), (200, 20), (200, 380))]
        (x0, y0), (x1, y1), upper, lower = places
        box = Contour.make([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
        middle = ((upper[0] + lower[0]) / 2, (y0 + y1) / 2)
        beside = Contour.circle(x1 + 500, y1, 4)
        lines = [line(upper, lower), line((x0 - 3, middle[1]), (x1 + 3, middle[1]))]
        self.session.edit("lines", add_contours(self.session.job, [box, *lines, beside]))
        self.take("regions")
        self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
        self.press(self.slip_of(RegionSlip).fill)
        self.settle()
        found = {i.colour for i in self.session.layout.contours if i.colour}
        self.assertEqual(found, {f"#{r:02x}{g:02x}{b:02x}" for r, g, b in told.values()})
        self.session.undo()
        self.assertEqual({i.colour for i in self.session.layout.contours}, {""})
        start = self.session.job
        for meanwhile in (
            lambda: self.keys(Qt.Key.Key_Escape, on=self.canvas),
            lambda: self.session.edit("more", add_contours(self.session.job, [beside])),
            lambda: self.session.start(Job(), None),
        ):
            self.session.start(start, None)
            self.take("regions")
            self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
            self.slip_of(RegionSlip).fill.click()
            self.assertTrue(self.tool_of(RegionTool).colours.filling)
            meanwhile()
            after = self.session.job
            self.settle()
            self.assertIs(self.session.job, after)
            self.assertEqual({i.colour for i in after.layout.contours} - {""}, set())
        self.session.start(start, None)
        self.take("regions")
        self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
        self.session.edit(
            "no picture", remove_picture(self.session.job, self.session.job.pictures[0].id)
        )
        self.settle()
        self.assertFalse(self.slip_of(RegionSlip).fill.isEnabled())
        self.assertIn("no picture", self.slip_of(RegionSlip).fill.toolTip())

    def test_an_emblem_of_overshooting_lines_becomes_regions_by_strokes(self) -> None:
        rays = [
            line(
                (100 + 70 * math.cos(a), 80 + 70 * math.sin(a)),
                (100 - 70 * math.cos(a), 80 - 70 * math.sin(a)),
            )
            for a in np.linspace(0, math.pi, 4, endpoint=False)
        ]
        self.begin(*rays, Contour.circle(100, 80, 50), Contour.circle(100, 80, 25))
        start = self.session.job
        self.take("regions")
        self.assertEqual(len(self.tool_of(RegionTool).ground.regions), 16)
        self.press(self.slip_of(RegionSlip).keep)
        self.click(100 + 37 * math.cos(0.4), 80 + 37 * math.sin(0.4))
        self.stroke(
            *[(100 + 37 * math.cos(a), 80 + 37 * math.sin(a)) for a in np.linspace(1.2, 2.7, 6)]
        )
        self.assertEqual(len(self.tool_of(RegionTool).chosen), 4)
        self.click(100 + 37 * math.cos(0.4), 80 + 37 * math.sin(0.4))
        self.assertEqual(len(self.tool_of(RegionTool).chosen), 3)
        self.press(self.slip_of(RegionSlip).join)
        (sector,) = self.contours()
        self.assertAlmostEqual(abs(sector.area), math.pi * (2500 - 625) * 3 / 8, 3)
        self.session.undo()
        self.assertEqual(self.session.job, start)
        self.take("regions")
        self.press(self.slip_of(RegionSlip).ways["exclude"])
        self.assertAlmostEqual(
            area_of([c for c in self.contours() if c.closed]).area, math.pi * (2500 - 625), delta=3
        )
        self.assertEqual(sum(not c.closed for c in self.contours()), 4)

    def test_a_leak_is_shown_and_closed(self) -> None:
        opened = piece(PLATE, 0.3, 0.28)
        assert opened
        self.begin(opened)
        self.take("regions")
        self.click(100, 80)
        self.settle()
        self.assertIn("leaks through 1 gap", self.top_words)
        self.keys(Key.Key_Return, on=self.canvas)
        self.settle()
        self.assertTrue(self.contours()[0].closed)
        self.click(5, 5)
        self.settle()
        self.assertIn("no area here", self.top_words)
        self.click(100, 80)
        self.assertEqual(len(self.tool_of(RegionTool).chosen), 1)
        self.session.undo()
        self.assertEqual(self.contours(), [opened])

    def test_a_line_that_stops_short_inside_an_area_is_told_and_led_on(self) -> None:
        short = line((100, 30), (100, 129))  # the plate ends at 130
        self.begin(PLATE, short, line((60, 60), (60, 100)))
        self.take("regions")
        self.click(120, 80)
        self.settle()
        self.assertIn("in this area a line stops short by 1 mm", self.top_words)
        self.keys(Key.Key_Return, on=self.canvas)
        self.settle()
        self.assertAlmostEqual(max(self.contours()[1].nodes[:, 1]), 130)
        self.click(120, 80)
        self.settle()
        self.assertNotIn("stops short", self.top_words)
        self.assertLess(
            abs(
                self.tool_of(RegionTool)
                .ground.regions[next(iter(self.tool_of(RegionTool).chosen))]
                .outline.area
            ),
            0.9 * abs(PLATE.area),
        )
        self.session.undo()
        self.assertEqual(self.contours()[1], short)

    def test_lines_at_a_distance_are_shown_made_and_refused_where_nothing_is_left(self) -> None:
        self.begin(PLATE, Contour.circle(100, 80, 15))
        self.take("offset")
        self.fill(self.slip_of(OffsetSlip).asked["distance"], "5 mm")
        self.settle()
        self.press(self.slip_of(OffsetSlip).make)
        self.assertAlmostEqual(self.contours()[3].circle_shape[2], 10)
        self.assertEqual(self.top_words, "2 contours made")
        self.session.selection.choose({item.id for item in self.session.layout.contours[:2]})
        self.settle()
        self.press(self.slip_of(OffsetSlip).make)
        self.assertIn("is there already", self.top_words)
        self.session.edit(
            "remove", remove_contours(self.session.job, [self.session.layout.contours[3].id])
        )
        self.settle()
        self.press(self.slip_of(OffsetSlip).make)
        self.assertEqual(
            (self.top_words, len(self.contours())), ("1 contour made, 1 was there already", 4)
        )
        for _ in range(3):
            self.session.undo()
        self.session.selection.choose({self.session.layout.contours[1].id})
        self.press(self.slip_of(OffsetSlip).asked["side"].button("in"))
        self.fill(self.slip_of(OffsetSlip).asked["distance"], "20")
        self.settle()
        self.assertFalse(self.slip_of(OffsetSlip).make.isEnabled())
        self.fill(self.slip_of(OffsetSlip).line["width"], "2 mm")
        self.press(self.slip_of(OffsetSlip).outline)
        self.assertEqual(
            sorted(round(c.circle_shape[2]) for c in self.contours() if c.circle_shape), [14, 16]
        )
