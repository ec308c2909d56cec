"""Whole works drawn by hand in the real window, in no more actions (clicks, drags, typed numbers,
Enter) than a practised hand needs, each measured against the shape that was meant."""

import math
import unittest

import cv2
import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import place_at, position_near
from draxet.geometry.spans import ARC, LINE
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.stages.mend.clean_tool import CleanTool
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.mend.region_slip import RegionSlip
from draxet.ui.stages.mend.region_tool import RegionTool
from draxet.ui.stages.trace.drawing_slip import DrawingSlip
from draxet.ui.stages.trace.ink import EdgesSlip
from draxet.ui.stages.trace.text_slip import TextSlip
from tests.shapes import apart
from tests.ui.driver import WindowTest

Free = Qt.KeyboardModifier.AltModifier
Shift, Plain = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier
Place = tuple[float, float]


class Works(WindowTest):
    """Counts what the hand does."""

    actions = 0

    def setUp(self) -> None:
        super().setUp()
        self.session.start(Job("Works", sheets=(Sheet(width=200, height=160),)), None)
        self.settle()
        self.actions = 0

    def contours(self) -> list[Contour]:
        return [item.contour for item in self.session.layout.contours]

    def hit(self, x: float, y: float, held: Qt.KeyboardModifier = Plain) -> None:
        self.actions += 1
        self.click(x, y, held)

    def pull(self, *places: Place) -> None:
        """Press at the first place, move through the others and let go at the last."""
        self.actions += 1
        at = [self.place(*each) for each in places]
        QTest.mouseMove(self.canvas, at[0])
        QTest.mousePress(self.canvas, Qt.MouseButton.LeftButton, Plain, at[0])
        for a, b in zip(at[:-1], at[1:], strict=True):
            for k in range(1, 7):
                QTest.mouseMove(self.canvas, a + (b - a) * k / 6)
        QTest.mouseRelease(self.canvas, Qt.MouseButton.LeftButton, Plain, at[-1])
        self.settle(5)

    def put(self, words: str) -> None:
        """Numbers parted by semicolons, and Enter at their end."""
        self.actions += sum(bool(each) for each in words.rstrip("\n").split(";"))
        self.actions += words.endswith("\n")
        self.type_over(words)

    def push(self, button: QWidget) -> None:
        self.actions += 1
        self.press(button)
        self.settle()

    def at_most(self, count: int) -> None:
        self.assertLessEqual(self.actions, count)

    def bring(self, pixels: np.ndarray) -> None:
        """A picture, and as many mm as it has tenths of pixels."""
        self.window.opening.take_picture(bytes(cv2.imencode(".png", pixels)[1]), "work.png")
        self.settle(60)

    # --- works

    def test_a_gear_by_circles_two_lines_a_ring_of_ten_and_regions(self) -> None:
        x, y, inner, outer = 100.0, 80.0, 30.0, 40.0
        self.take("circle")
        self.hit(x, y)
        self.put(f"{outer:g}\n")
        self.hit(x, y)
        self.put(f"{inner:g}\n")
        self.take("draw")
        for degrees in (9, -9):
            self.hit(x, y)
            self.put(f"45;{degrees}\n")
            self.put("\n")
        lines = {i.id for i in self.session.layout.contours if not i.contour.closed}
        self.assertEqual(len(lines), 2)
        self.take("pick")
        self.pull((x - 2, y + 12), (x + 46, y - 12))  # a box round them
        self.assertEqual(self.session.selection.ids, lines)
        self.take("ring")
        self.put("10")
        self.hit(x, y)
        self.assertEqual(len(self.contours()), 22)
        self.session.selection.choose(set())
        self.take("regions")
        self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
        teeth = [math.radians(36 * k) for k in range(10)]
        gaps = [math.radians(36 * k + 18) for k in range(10)]
        way = [
            (x + r * math.cos(a), y + r * math.sin(a))
            for tooth, gap in zip(teeth, gaps, strict=True)
            for r, a in ((20, tooth), (36, tooth), (20, tooth), (20, gap))
        ]
        self.pull(*way)
        self.push(self.slip_of(RegionSlip).join)
        self.at_most(26)
        (gear,) = [contour for contour in self.contours() if contour.closed]
        wanted = math.pi * inner**2 + 10 * 18 / 360 * math.pi * (outer**2 - inner**2)
        self.assertAlmostEqual(abs(gear.area), wanted, delta=wanted * 1e-6)
        reach = np.hypot(*(gear.flattened(0.01) - gear_middle(gear)).T)
        self.assertAlmostEqual(float(reach.max()), outer, places=3)
        self.assertAlmostEqual(float(reach.min()), inner, places=3)

    def test_a_heart_with_its_corner_over_a_pale_picture(self) -> None:
        turn = np.linspace(0, 2 * np.pi, 800, endpoint=False)
        heart = np.column_stack(
            [
                16 * np.sin(turn) ** 3,
                13 * np.cos(turn) - 5 * np.cos(2 * turn) - 2 * np.cos(3 * turn) - np.cos(4 * turn),
            ]
        )
        pixels = np.full((700, 700), 252, np.uint8)
        ink = np.round((heart * (16, -16) + (350, 320)) * 16).astype(np.int32)
        cv2.polylines(pixels, [ink], True, 235, 3, cv2.LINE_AA, 4)
        self.bring(pixels)
        to_job = self.session.selection.picture.to_job
        truth = to_job.apply(heart * (16, -16) + (350, 320))
        self.take("draw")
        self.type_over("u")
        size = float(np.ptp(truth[:, 0]))
        for k in (0, 100, 165, 400, 635, 700):
            self.hit(*truth[k].tolist(), held=Shift if k in (0, 400) else Plain)
        self.hit(*truth[0].tolist(), held=Shift)
        self.at_most(8)
        (drawn,) = self.contours()
        self.assertTrue(drawn.closed)
        self.assertEqual(np.flatnonzero(drawn.corners()).tolist(), [0, 3])
        mean, most = apart(drawn, Contour.make(truth))
        self.assertLess(mean / size, 0.02)
        self.assertLess(most / size, 0.035)

    def test_a_profile_of_four_arcs_and_five_lines(self) -> None:
        self.take("draw")
        self.hit(40, 40)
        for words, arc in (
            ("60;0\n", True),
            ("30;90\n", True),
            ("40;180\n", True),
            ("20;270\n", True),
        ):
            self.put(words)
            if arc:
                self.type_over("o")
                dx, dy = {"6": (10, 10), "3": (-10, 10), "4": (-10, -10), "2": (-5, -5)}[words[0]]
                end = self.last_stop()
                self.hit(end[0] + dx, end[1] + dy)
                self.type_over("l")
        self.hit(*self.first_stop())
        self.at_most(20)
        (profile,) = self.contours()
        self.assertTrue(profile.closed)
        self.assertEqual(int((profile.kinds == ARC).sum()), 4)
        self.assertEqual(int((profile.kinds == LINE).sum()), 5)
        lines = np.flatnonzero(profile.kinds == LINE)[:4]
        lengths = np.hypot(*(profile.spans.ends - profile.spans.starts)[lines].T)
        np.testing.assert_allclose(lengths, [60, 30, 40, 20], atol=1e-9)

    def stops(self) -> np.ndarray:
        from draxet.ui.stages.trace.draw_tools import DrawTool

        return np.array([each.place for each in self.tool_of(DrawTool)._answers if not each.key])

    def first_stop(self) -> list[float]:
        return self.stops()[0].tolist()

    def last_stop(self) -> list[float]:
        return self.stops()[-1].tolist()

    def test_a_half_drawn_again_and_joined_with_its_mirror(self) -> None:
        half = [(0, 60), (12, 60), (20, 46), (8, 34), (8, 18), (24, 8), (24, 0), (0, 0)]
        self.take("symmetry")
        self.hit(100, 20)
        self.put("90\n")
        self.take("draw")
        for x, y in half:
            self.hit(100 + x, 40 + y)
        self.put("\n")
        self.at_most(30)
        (whole,) = self.contours()
        self.assertTrue(whole.closed)
        self.assertFalse(self.session.messages.offers, "nothing falls of one closed contour")
        truth = [(100 + x, 40 + y) for x, y in half]
        truth += [(100 - x, 40 + y) for x, y in half[-2:0:-1]]
        mean, most = apart(whole, Contour.make(truth))
        self.assertLess(most, 0.5)
        self.assertLess(mean, 0.25)
        across = np.sort(whole.nodes[:, 0] - 100)
        np.testing.assert_allclose(across, -across[::-1], atol=1e-6)

    def test_an_emblem_of_ten_lines_and_two_circles_coloured_from_the_picture(self) -> None:
        colours = [(200, 30, 40), (30, 160, 60), (40, 60, 190), (230, 200, 40)]
        pixels = np.full((800, 800, 3), 255, np.uint8)
        for k, (r, g, b) in enumerate(colours):
            begin = 72 * k
            cv2.ellipse(pixels, (400, 400), (320, 320), 0, begin, begin + 36, (b, g, r), -1)
        cv2.circle(pixels, (400, 400), 160, (255, 255, 255), -1)
        self.bring(pixels)
        to_job = self.session.selection.picture.to_job
        x, y = to_job.point(400, 400)
        scale = math.dist(to_job.point(500, 400), (x, y)) / 100

        def round_about(radius: float, degrees: float) -> Place:
            return to_job.point(
                400 + radius * math.cos(math.radians(degrees)),
                400 + radius * math.sin(math.radians(degrees)),
            )

        self.take("circle")
        for radius in (320, 160):
            self.pull((x, y), round_about(radius, 20))
        self.take("draw")
        for k in range(10):
            self.pull(round_about(110, 36 * k), round_about(375, 36 * k))
            self.put("\n")
        self.take("regions")
        self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
        self.push(self.slip_of(RegionSlip).fill)
        self.at_most(26)
        for r, g, b in colours:
            found = [
                item
                for item in self.session.layout.contours
                if item.colour == f"#{r:02x}{g:02x}{b:02x}"
            ]
            self.assertEqual(len(found), 1)
            wanted = math.pi / 10 * (320**2 - 160**2) * scale**2
            self.assertAlmostEqual(abs(found[0].contour.area), wanted, delta=0.03 * wanted)

    def test_an_outline_by_eighteen_curve_clicks_with_a_slit_kept_open(self) -> None:
        turn = np.linspace(0, 2 * np.pi, 720, endpoint=False)
        reach = 50 + 6 * np.cos(3 * turn + 0.4)
        truth = np.column_stack([100 + reach * np.cos(turn), 80 + reach * np.sin(turn)])
        self.take("draw")
        self.type_over("u")
        for x, y in truth[::40].tolist():
            self.hit(x, y, held=Free)
        self.hit(*truth[0].tolist(), held=Free)
        self.type_over("l")
        self.pull((80, 80), (120, 84))
        self.put("\n")
        self.take("pick")
        self.hit(100, 82)
        self.push(self.slip_of(MendSlip).slits)
        self.at_most(30)
        outline, slit = self.session.layout.contours
        self.assertTrue(outline.contour.closed)
        self.assertEqual((slit.contour.closed, slit.slit), (False, True))
        mean, most = apart(outline.contour, Contour.make(truth))
        self.assertLess(mean, 0.3)
        self.assertLess(most, 1.0)
        self.take("clean")
        self.settle()
        self.assertEqual(self.tool_of(CleanTool).found, [])

    def test_strokes_into_a_fixed_piece_and_eight_copies(self) -> None:
        self.take("circle")
        self.hit(100, 80)
        self.put("60\n")
        plate = self.contours()[0]
        self.take("freehand")
        bow = np.linspace(0, np.pi, 30)
        spots = [(160 - 25 * math.sin(a) * 1.2, 80 - 12 * math.cos(a)) for a in bow]
        start, end = (math.asin(-12 / 60), math.asin(12 / 60))
        spots[0] = (100 + 59.3 * math.cos(start), 80 + 59.3 * math.sin(start))
        spots[-1] = (100 + 59.3 * math.cos(end), 80 + 59.3 * math.sin(end))
        self.pull(*spots)
        bay = self.contours()[1]
        assert plate.circle_shape is not None
        x, y, radius = plate.circle_shape
        for place in bay.nodes[[0, -1]]:
            self.assertAlmostEqual(math.dist(place, (x, y)), radius, places=6)
        self.take("pick")
        self.hit(*spots[15])
        self.take("ring")
        self.put("8")
        self.hit(100, 80)
        self.at_most(24)
        contours = self.contours()
        self.assertEqual(len(contours), 9)
        self.assertEqual(contours[0], plate)
        for k, copy in enumerate(contours[2:], 1):
            there = bay.transformed(Affine.turned(45 * k).about(x, y))
            self.assertLess(apart(copy, there)[1], 0.3)

    def test_a_figure_is_stripped_of_the_stick_that_it_is_held_by(self) -> None:
        pixels = np.full((700, 500), 255, np.uint8)
        cv2.circle(pixels, (250, 200), 130, 0, -1, cv2.LINE_AA)
        cv2.rectangle(pixels, (238, 300), (262, 650), 0, -1)
        self.bring(pixels)
        to_job = self.session.selection.picture.to_job
        self.take("edges")
        self.settle(60)
        self.push(self.slip_of(EdgesSlip).make)
        self.take("draw")  # by a clumsy hand first: it begins on the contour, not on the picture
        self.pull(to_job.point(180, 326), to_job.point(320, 326))
        self.put("\n")
        traced, begun = self.contours()[0], self.contours()[-1].nodes[0]
        position = position_near(traced, *begun.tolist())
        np.testing.assert_allclose(place_at(traced, position), begun, atol=1e-6)
        self.session.undo()
        self.pull(to_job.point(238, 330), to_job.point(262, 330))  # from corner to corner
        self.put("\n")
        self.take("regions")
        self.wait_for(lambda: self.tool_of(RegionTool).ground is not None)
        self.hit(*to_job.point(250, 200))
        self.push(self.slip_of(RegionSlip).keep)
        self.at_most(12)
        (figure,) = [contour for contour in self.contours() if contour.closed]
        middle, edge = to_job.point(250, 200), to_job.point(380, 200)
        wanted = math.pi * math.dist(middle, edge) ** 2
        self.assertAlmostEqual(abs(figure.area), wanted, delta=0.01 * wanted)

    def test_an_ellipse_and_a_word_of_which_a_letter_is_bent_later(self) -> None:
        self.take("ellipse")
        self.push(self.slip_of(DrawingSlip).asked["ellipse"].button("box"))
        self.hit(40, 30)
        self.hover(80, 60)
        self.put("120;70\n")
        self.take("text")
        self.hit(70, 60)
        words = self.slip_of(TextSlip).words
        words.setFocus()
        self.keys("T", "L", on=words)
        self.actions += 1
        self.settle()
        self.push(self.slip_of(TextSlip).turn)
        letters = self.session.layout.contours[1:]
        self.assertEqual(len(letters), 2)
        straight = letters[1].contour
        self.session.selection.choose(set())
        self.take("pick")
        x, y = straight.nodes[int(np.argmax(straight.nodes.sum(axis=1)))].tolist()
        self.hit(*((straight.nodes[0] + straight.nodes[1]) / 2).tolist())
        at = straight.nodes[int(np.argmax(straight.nodes[:, 1]))].tolist()
        self.pull((at[0], at[1]), (at[0] + 3, at[1] + 6))
        self.at_most(30)
        bent = self.session.layout.contours[2].contour
        self.assertEqual(int((np.abs(bent.nodes - straight.nodes).max(axis=1) > 1).sum()), 1)
        oval = self.session.layout.contours[0]
        self.assertIsNotNone(oval.ellipse)
        x0, y0, x1, y1 = oval.contour.box
        np.testing.assert_allclose((x1 - x0, y1 - y0), (120, 70), atol=1e-9)


def gear_middle(gear: Contour) -> np.ndarray:
    x0, y0, x1, y1 = gear.box
    return np.array([(x0 + x1) / 2, (y0 + y1) / 2])


if __name__ == "__main__":
    unittest.main()
