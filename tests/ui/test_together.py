"""Parts, copies that follow, helper contours, points, symmetry and the history, through the real
window."""

import math
from dataclasses import fields, replace
from unittest import mock

import numpy as np
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import QApplication

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.bridge_edits import add_bridges
from draxet.job.contour_edits import add_contours
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Bridge
from draxet.job.copies import place_copies
from draxet.job.lettering import contours_of
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sound import job_fault
from draxet.ui.canvas.placed_signs import SIGNS, PlacedSign
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.model.tool import SignMark
from draxet.ui.shell.context import entries_at
from draxet.ui.shell.history_page import HistoryPage
from draxet.ui.shell.life_size import keep_scale, kept_scale
from draxet.ui.stages.caught import CatchSettings
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.arrange_tools import ArrangeSlip
from draxet.ui.stages.mend.pick_tool import MendSlip
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.ui.stages.mirrored import Symmetry
from draxet.ui.stages.trace.draw_tools import DrawTool
from draxet.ui.stages.trace.point import ConstructSlip
from draxet.ui.stages.trace.symmetry import SymmetrySlip
from draxet.ui.stages.trace.text_slip import TextSlip
from tests.job.test_laws import Stamp, StampedJob
from tests.ui.driver import WindowTest

Key, Held = Qt.Key, Qt.KeyboardModifier


class Together(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        holes = [
            Contour.circle(40, 40, 8),
            Contour.circle(80, 40, 8),
            rounded_polygon([(20, 20, 4), (100, 20, 4), (100, 60, 4), (20, 60, 4)]),
        ]
        self.session.start(
            add_contours(Job("Plate", sheets=(Sheet(width=200, height=160),)), holes), None
        )
        self.take("pick")

    def ids(self) -> list[str]:
        return [item.id for item in self.session.layout.contours]

    def test_a_kind_that_the_program_does_not_know_is_drawn_moved_copied_and_taken_back(
        self,
    ) -> None:
        """It says its box, gives itself mapped, and has a sign."""
        hole = self.ids()[0]
        job = StampedJob(
            **{each.name: getattr(self.session.job, each.name) for each in fields(Job)}
        )
        sign = PlacedSign(lambda stamp, view: [SignMark(stamp.x, stamp.y, "corner")])

        def is_drawn(x: float, y: float) -> bool:
            self.settle()
            around = [x - 3, y - 3, x + 3, y + 3]
            (x0, y1), (x1, y0) = (
                self.canvas.camera.view(*around[:2]),
                self.canvas.camera.view(*around[2:]),
            )
            seen = self.canvas.grab(QRect(int(x0), int(y0), int(x1 - x0), int(y1 - y0))).toImage()
            colours = {seen.pixel(k, m) for k in range(seen.width()) for m in range(seen.height())}
            return len(colours) > 1

        with mock.patch.dict(SIGNS, {Stamp: sign}):
            self.session.start(replace(job, stamps=(Stamp("stamp-90", 150, 120, hole),)), None)
            self.take("pick")
            self.assertTrue(is_drawn(150, 120))
            self.assertFalse(is_drawn(150, 100))
            self.click(40, 48)
            self.keys(Key.Key_Down, Key.Key_Down, held=Held.ShiftModifier, on=self.canvas)
            (stamp,) = self.session.job.stamps  # type: ignore[attr-defined]
            self.assertLess(stamp.y, 120)
            self.keys(Key.Key_Escape, on=self.canvas)
            self.assertTrue(is_drawn(150, stamp.y))
            copied, _ = place_copies(self.session.job, [hole], [Affine.moved(0, -60)])
            self.session.edit("copy", copied)
            self.assertEqual(len(self.session.job.stamps), 2)  # type: ignore[attr-defined]
            self.assertTrue(is_drawn(150, stamp.y - 60))
            for _ in range(5):
                self.window.commands["undo"].run()
            self.assertTrue(is_drawn(150, 120))

    def test_what_is_pasted_and_deleted_takes_its_bridge_along(self) -> None:
        """One left behind would hold the contour that it was copied from."""
        plate = self.ids()[2]
        job = add_bridges(self.session.job, [Bridge("", 20, 40, 2.0, plate)])
        self.session.start(job, None)
        self.take("pick")
        self.session.selection.choose({plate})
        self.window.commands["copy"].run()
        self.window.commands["paste-anywhere"].run()
        self.assertEqual(len(self.session.job.bridges), 2)
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual([each.contour for each in self.session.job.bridges], [plate])
        self.session.undo()
        self.assertEqual(len(self.session.job.bridges), 2)

    def test_a_part_is_chosen_as_one_named_locked_and_taken_apart(self) -> None:
        a, b, plate = self.ids()
        self.click(40, 48)
        self.click(80, 48, Held.ShiftModifier)
        self.keys(Key.Key_G, held=Held.ControlModifier, on=self.window)
        self.keys(Key.Key_Escape, Key.Key_Escape, on=self.canvas)
        self.take("pick")
        self.click(40, 48)
        self.assertEqual(self.session.selection.ids, {a, b})
        self.fill(self.slip_of(MendSlip).part_name, "Holes")
        self.assertEqual([group.name for group in self.session.job.parts], ["Holes"])
        self.window.slips._lock(self.session.job.parts[0])
        self.click(40, 48)
        self.assertNotIn(a, self.session.selection.ids)
        self.window.slips._lock(self.session.job.parts[0])
        self.session.selection.choose({a, b})
        self.window.commands["apart"].run()
        self.assertEqual(self.session.job.parts, ())
        self.click(40, 48)
        self.assertEqual(self.session.selection.ids, {a})
        for _ in range(5):
            self.session.undo()
        self.assertEqual(self.session.job.parts, ())
        self.assertEqual(len(self.ids()), 3)

    def test_copies_follow_the_original_until_one_is_made_its_own(self) -> None:
        hole = self.ids()[0]
        self.session.selection.choose({hole})
        self.take("ring")
        self.press(self.slip_of(ArrangeSlip).asked["linked"])
        self.hover(60, 90)
        self.type_over("4\n")
        copies = [item for item in self.session.layout.contours if item.part]
        self.assertEqual(len(copies), 4)
        self.take("pick")
        self.session.selection.choose({hole})
        self.fill(self.slip_of(MendSlip).numbers.radius, "5 mm")
        self.assertEqual(
            [
                round(item.contour.circle_shape[2], 9)
                for item in self.session.layout.contours
                if item.part
            ],
            [5.0] * 4,
        )
        self.session.selection.choose({copies[1].id})
        self.window.commands["own"].run()
        self.fill(self.slip_of(MendSlip).numbers.radius, "3 mm")
        self.assertEqual(
            sorted(
                round(i.contour.circle_shape[2], 9)
                for i in self.session.layout.contours
                if i.contour.circle_shape
            ),
            [3, 5, 5, 5, 8],
        )
        self.session.undo()
        self.session.undo()
        self.assertEqual(sum(bool(item.part) for item in self.session.layout.contours), 4)

    def test_contours_are_pasted_in_the_very_place_also_into_another_job_and_pictures_still_are(
        self,
    ) -> None:
        self.session.selection.choose(set(self.ids()[:2]))
        self.keys(Key.Key_C, held=Held.ControlModifier, on=self.window)
        self.keys(Key.Key_V, held=Held.ControlModifier, on=self.window)
        new = [
            item for item in self.session.layout.contours if item.id in self.session.selection.ids
        ]
        self.assertEqual(
            [item.contour for item in new],
            [item.contour for item in self.session.layout.contours[:2]],
        )
        self.session.start(Job("Other"), None)
        self.window.commands["paste-anywhere"].run()
        self.assertEqual(len(self.session.layout.contours), 2)
        board = QApplication.clipboard()
        assert board
        board.clear()
        self.window.commands["paste-anywhere"].run()
        self.assertIn("no picture on the clipboard", self.top_words)

    def test_helper_contours_are_caught_but_neither_picked_nor_cut(self) -> None:
        self.session.selection.choose({self.ids()[2]})
        self.window.commands["helpers"].run()
        self.assertEqual(len(self.session.job.helpers), 1)
        self.take("pick")
        self.click(60, 20)
        self.assertEqual(self.session.selection.ids, frozenset())
        self.take("draw")
        self.hover(60.4, 20.6)
        self.assertEqual(self.tool_of(DrawTool)._at.word, "middle")
        self.take("cut")
        self.press(self.slip_of(OperationSlip).give)
        self.assertEqual(sum(len(o.contours) for o in self.session.job.operations), 2)
        self.window.commands["free-helpers"].run()
        self.assertEqual(len(self.session.layout.contours), 3)

    def test_the_history_goes_back_and_on_by_a_click_and_views_can_be_had_again(self) -> None:
        start = self.session.job
        for x in (1.0, 2.0, 3.0):
            self.session.edit(
                f"draw {x}", add_contours(self.session.job, [Contour.circle(150, 100, x)])
            )
        last = self.session.job
        page = HistoryPage(self.session, self.window)
        page.show()
        page.list.setCurrentRow(0)
        self.assertEqual(self.session.job, start)
        page.list.setCurrentRow(3)
        self.assertEqual(self.session.job, last)
        page.close()
        self.settle(800)  # what follows at once belongs to the move before
        before = self.canvas.camera
        self.wheel(100, 80, 5)
        self.assertNotEqual(self.canvas.camera, before)
        self.canvas.view_before()
        self.assertEqual(self.canvas.camera, before)
        keep_scale(4.0)
        self.window.commands["life-size"].run()
        self.assertAlmostEqual(self.canvas.camera.zoom, 4.0)
        self.assertEqual(kept_scale(), 4.0)

    def test_the_menu_fits_what_lies_beneath(self) -> None:
        tool = self.tool_of(ShapingTool)
        assert tool is not None

        def words(x: float, y: float) -> list[str]:
            at = self.place(x, y)
            job = self.canvas.camera.job(at.x(), at.y())
            self.canvas._pointer = (float(at.x()), float(at.y()))
            return [
                entry.words or entry.command
                for entry in entries_at(self.session, self.canvas._pointed(Held.NoModifier))
                if job
            ]

        self.assertIn("part", words(40 + 8 * math.cos(0.7), 40 + 8 * math.sin(0.7)))
        self.assertEqual(self.session.selection.ids, {self.ids()[0]})
        self.assertIn("Corner", words(*self.session.layout.contours[0].contour.nodes[0]))
        self.assertIn("New node here", words(40, 32))
        self.assertIn("fit", words(170, 140))
        self.session.start(demo_job("leaf"), None)
        self.window.commands["choose"]
        picture = self.session.job.pictures[0]
        self.assertIn("edges", words(*picture.middle))


class ByConstruction(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(Job("Ring", sheets=(Sheet(width=200, height=160),)), None)
        self.session.open_stage(Stage.TRACE)

    def contours(self) -> list[Contour]:
        return [item.contour for item in self.session.layout.contours]

    def symmetry(self, by: str, *places: tuple[float, float]) -> None:
        self.take("symmetry")
        self.press(self.slip_of(SymmetrySlip).asked["by"].button(by))
        for place in places:
            self.click(*place)

    def test_what_is_drawn_in_a_half_is_drawn_in_the_other_and_follows_it(self) -> None:
        self.symmetry("line", (100, 20), (100, 140))
        self.take("circle")
        self.click(130, 80)
        self.type_over("10\n")
        self.assertEqual(len(self.contours()), 2)
        (ax, ay, ar), (bx, by, br) = (contour.circle_shape for contour in self.contours())
        line = self.session.desk.settings("symmetry", type(self.session.desk._settings["symmetry"]))
        self.assertAlmostEqual((ax + bx) / 2, line.x, 6)
        self.assertAlmostEqual(ay, by, 6)
        self.take("pick")
        self.session.selection.choose({self.session.layout.contours[1].id})
        self.fill(self.slip_of(MendSlip).numbers.radius, "4")
        self.assertEqual([round(c.circle_shape[2], 9) for c in self.contours()], [4.0, 4.0])
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.contours(), [])

    def test_the_other_half_goes_along_when_the_drawn_one_is_moved(self) -> None:
        self.symmetry("line", (100, 20), (100, 140))
        x = self.session.desk.settings("symmetry", type(self.session.desk._settings["symmetry"])).x
        self.take("circle")
        self.click(130, 80)
        self.type_over("10\n")
        self.take("pick")
        for half, (dx, dy) in ((0, (5.0, 0.0)), (1, (0.0, -3.0))):
            before = [contour.circle_shape for contour in self.contours()]
            self.session.selection.choose({self.session.layout.contours[half].id})
            self.fill(self.slip_of(MendSlip).nudge, str(abs(dx + dy)))
            self.keys(Key.Key_Right if dx else Key.Key_Down, on=self.canvas)
            now = [contour.circle_shape for contour in self.contours()]
            self.assertAlmostEqual(now[half][0] - before[half][0], dx, 6)
            self.assertAlmostEqual(now[half][1] - before[half][1], dy, 6)
            self.assertAlmostEqual((now[0][0] + now[1][0]) / 2, x, 6)
            self.assertAlmostEqual(now[0][1], now[1][1], 6)
        self.session.undo()
        self.session.undo()
        self.assertAlmostEqual(self.contours()[0].circle_shape[0], 130, delta=0.5)
        copies, _ = place_copies(
            self.session.job,
            [self.session.layout.contours[0].id],
            [Affine.moved(0, 30)],
            linked=True,
        )
        self.session.edit("copy", copies)  # a copy that follows in shape stays where it is
        moved = map_contours(
            self.session.job,
            [self.session.layout.contours[0].id],
            Affine.turned(30).about(100, 80),
            by_hand=True,
        )
        one, other, copy = (item.contour.circle_shape for item in moved.layout.contours)
        self.assertAlmostEqual((one[0] + other[0]) / 2, x, 6)
        np.testing.assert_allclose(copy, self.contours()[2].circle_shape, atol=1e-9)

    def test_words_are_set_in_every_sector_and_go_along(self) -> None:
        self.symmetry("ring", (100, 80))
        s = self.session.desk.settings("symmetry", type(self.session.desk._settings["symmetry"]))
        self.take("text")
        self.click(125, 80)
        self.slip_of(TextSlip).words.setFocus()
        self.keys(*"LO", on=self.slip_of(TextSlip).words)

        def like_a_ring(letters: int) -> None:
            contours = self.contours()
            self.assertEqual(len(contours), 6 * letters, [round(c.area) for c in contours])
            away = np.hypot(
                *np.array([c.nodes.mean(axis=0) - (s.x, s.y) for c in contours]).T
            ).reshape(6, letters)
            np.testing.assert_allclose(away, np.tile(away[0], (6, 1)), atol=1e-6)
            np.testing.assert_allclose(
                [abs(c.area) for c in contours],
                [abs(c.area) for c in contours[:letters]] * 6,
                rtol=1e-9,
            )

        like_a_ring(3)
        self.assertEqual(job_fault(self.session.job), "")
        before = self.contours()
        self.drag((130, 85), (140, 85))
        like_a_ring(3)
        self.assertAlmostEqual(self.contours()[0].box[0] - before[0].box[0], 10, delta=0.7)
        self.fill(self.slip_of(TextSlip).asked["height"], "10")
        like_a_ring(3)
        self.slip_of(TextSlip).words.setPlainText("LL")
        like_a_ring(2)
        moved = map_contours(
            self.session.job,
            [item.id for item in self.session.layout.contours],
            Affine.turned(20).about(90, 70),
            by_hand=True,
        )
        lettering = moved.letterings[0]
        for contour, item in zip(contours_of(moved, lettering), moved.contours, strict=True):
            np.testing.assert_allclose(
                contour.box, item.contour.box, atol=1e-6
            )  # moved as a whole they are still what they say

    def test_a_half_from_line_to_line_and_a_sector_become_one_closed_contour(self) -> None:
        self.symmetry("line", (100, 20), (100, 140))
        x = self.session.desk.settings("symmetry", type(self.session.desk._settings["symmetry"])).x
        self.take("draw")
        self.click(x, 40)
        self.type_over("40\t0\n")
        self.type_over("30\t90\n")
        self.type_over("40\t180\n")
        self.keys(Key.Key_Return, on=self.canvas)
        (whole,) = self.contours()
        self.assertTrue(whole.closed)
        self.assertAlmostEqual(abs(whole.area), 80 * 30, 3)
        self.session.undo()
        self.symmetry("ring", (100, 80))
        s = self.session.desk.settings("symmetry", type(self.session.desk._settings["symmetry"]))
        self.take("draw")
        self.click(s.x + 40, s.y)
        at = self.tool_of(DrawTool)._answers[0].place
        reach, turn = math.dist(at, (s.x, s.y)), math.atan2(at[1] - s.y, at[0] - s.x) + math.pi / 3
        end = (s.x + reach * math.cos(turn), s.y + reach * math.sin(turn))
        self.hover(s.x + 30, s.y + 20)
        self.type_over(
            f"{math.dist(at, end):.9f}\t{math.degrees(math.atan2(end[1] - at[1], end[0] - at[0])):.9f}\n"
        )
        self.keys(Key.Key_Return, on=self.canvas)
        (ring,) = self.contours()
        self.assertTrue(ring.closed)
        self.assertEqual(len(ring.nodes), 6)

    def test_symmetrys_line_is_caught_and_what_ends_beside_it_is_told(self) -> None:
        self.symmetric()
        pixel = 1 / self.canvas.camera.zoom
        for off, keys in (
            (6, Qt.KeyboardModifier.NoModifier),
            (1.2, Qt.KeyboardModifier.AltModifier),
        ):
            before = len(self.session.layout.contours)
            self.take("draw")
            for x, y in ((off * pixel, 20), (40, 30), (40, 60), (off * pixel, 70)):
                self.click(100 + x, y, held=keys)
            self.keys(Qt.Key.Key_Return, on=self.canvas)
            drawn = self.session.layout.contours[before:]
            if keys == Qt.KeyboardModifier.AltModifier:
                self.assertEqual([item.contour.closed for item in drawn], [False, False])
                self.assertIn("beside the edge of symmetry", self.top_words)
                continue
            (whole,) = [item.contour for item in drawn]
            self.assertTrue(whole.closed)
            self.assertEqual(len(whole.nodes), 6)
            for k in (0, 3):
                self.assertAlmostEqual(float(whole.nodes[k, 0]), 100.0, places=9)

    def test_a_shape_that_nearly_lies_on_its_mirror_is_drawn_once_and_said(self) -> None:
        self.symmetric()
        self.session.desk.settings("catching", CatchSettings).on = False
        before = len(self.session.layout.contours)
        self.take("circle")
        self.click(100 + 0.7 / self.canvas.camera.zoom, 60)
        self.type_over("10\n")
        self.assertEqual(len(self.session.layout.contours) - before, 1)
        self.assertIn("own mirror", self.top_words)
        self.keys(Key.Key_F12, on=self.canvas)  # what is offered: both all the same
        self.assertEqual(len(self.session.layout.contours) - before, 2)
        self.assertFalse(self.session.messages.offers)
        self.session.undo()
        self.settle()
        self.click(140, 60)
        self.type_over("10\n")
        self.assertEqual(len(self.session.layout.contours) - before, 3)
        for _ in range(12):
            self.window.commands["farther"].run()
        self.settle()
        self.click(102, 60)  # a small hole, and another one beside it: however small they look
        self.type_over("1.2\n")
        self.assertEqual(len(self.session.layout.contours) - before, 5)

    def symmetric(self) -> None:
        """Live symmetry by the upright line x = 100."""
        settings = self.session.desk.settings("symmetry", Symmetry)
        settings.by, settings.x, settings.y, settings.angle = "line", 100.0, 0.0, 90.0
        settings.placed = True

    def test_points_are_set_moved_caught_removed_and_constructed(self) -> None:
        self.session.edit(
            "draw",
            add_contours(
                self.session.job, [Contour.circle(60, 80, 20), Contour.circle(140, 80, 10)]
            ),
        )
        self.take("point")
        self.click(20, 20)
        self.drag((20, 20), (40, 30))
        self.assertEqual(len(self.session.job.points), 1)
        np.testing.assert_allclose(
            (self.session.job.points[0].x, self.session.job.points[0].y), (40, 30), atol=0.6
        )
        self.hover(40, 30)
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(self.session.job.points, ())
        self.take("construct")
        for way, clicks, count in (
            ("centre", [(80, 80)], 1),
            ("division", [(150, 80)], 6),
            ("gap", [(20, 140), (180, 140)], 6),
            ("middle", [(20, 10), (180, 10)], 1),
        ):
            self.press(self.slip_of(ConstructSlip).asked["way"].button(way))
            if way in ("division", "gap"):
                self.fill(
                    self.slip_of(ConstructSlip).asked["parts"], "6" if way == "division" else "7"
                )
            before = len(self.session.job.points)
            for place in clicks:
                self.click(*place)
            self.assertEqual(len(self.session.job.points) - before, count, way)
        self.assertEqual((self.session.job.points[0].x, self.session.job.points[0].y), (60, 80))
        self.press(self.slip_of(ConstructSlip).asked["way"].button("tangents"))
        self.click(60, 100)
        self.click(140, 90)
        self.assertEqual(len(self.contours()), 6)
        self.press(self.slip_of(ConstructSlip).asked["way"].button("mirror"))
        self.click(5, 5)
        self.assertIn("no contour under the pointer", self.top_words)
        self.take("draw")
        self.hover(60.5, 80.4)
        self.assertIn(self.tool_of(DrawTool)._at.word, ("point", "centre"))
