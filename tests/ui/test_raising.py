"""From a picture to bodies through the real window: a badge at three heights on a plaque, a gear sunk
into a plate from below, each with a mistake that is found and mended."""

from __future__ import annotations

import io
import math
import tempfile
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from PIL import Image
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from draxet.geometry.contour import Contour
from draxet.geometry.mesh import is_closed, volume_of
from draxet.job.contour_edits import add_contours, change_contours
from draxet.job.findings import Gravity
from draxet.job.guide_edits import add_guide, remove_guides
from draxet.job.operations import Raise
from draxet.make.solids.solid_sheet import SolidSheet
from draxet.ui.controls.fields import Field
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.bodies_view import BodiesView
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.make.raise_tool import RaiseTool
from draxet.ui.stages.make.turn_tool import TurnTool
from draxet.ui.stages.prove.hand_off import HandOffSlip
from draxet.ui.stages.trace.colours_tool import ColoursSlip
from tests.ui.driver import WindowTest

Key = Qt.Key
Left = Qt.MouseButton.LeftButton


def gear(x: float, y: float) -> list[Contour]:
    turns = np.linspace(0, 2 * math.pi, 48, endpoint=False)
    reach = np.where(np.arange(48) % 4 < 2, 26.0, 21.0)
    places = np.column_stack([x + reach * np.cos(turns), y + reach * np.sin(turns)])
    return [Contour.make(places), Contour.circle(x, y, 6.0)]


class BodiesTest(WindowTest):
    """What tests of bodies do by hand."""

    def made(self) -> SolidSheet:
        """The bodies of the job, once they stand."""
        self.settle(300)
        self.wait_for(lambda: not self.window.workers.busy())
        (found,) = self.session.looked.products
        assert isinstance(found, SolidSheet)
        return found

    def findings(self, gravity: Gravity) -> list[str]:
        found = self.session.looked.findings
        return [each.words for each in found if each.gravity is gravity]

    def field(self, name: str) -> Field:
        slip = self.slip_of(OperationSlip)
        return next(f for f in slip.findChildren(Field) if f.accessibleName() == name)

    def see(self) -> BodiesView:
        """The view of bodies, once what it shows is at rest."""
        if not self.window.bodies.shown:
            self.window.commands["bodies"].run()
        view = self.window.bodies.view
        assert view is not None
        self.settle(300)
        self.wait_for(lambda: not self.window.workers.busy() and view.frame.value is not None)
        return view

    def seen(self, view: BodiesView) -> Any:
        frame = view.frame.value
        assert frame is not None
        return frame.look

    def push(self, words: str) -> None:
        slip = self.slip_of(OperationSlip)
        self.press(next(b for b in slip.findChildren(QPushButton) if b.text() == words))
        self.settle(20)

    def leave(self, *kinds: str) -> Path:
        """What leaves as these kinds of files, all of it read back."""
        self.session.open_stage(Stage.PROVE)
        self.take("hand-off")
        slip = self.slip_of(HandOffSlip)
        for key, box in slip.ticks.items():
            if not box.isHidden() and box.isChecked() is not (key in kinds):
                self.press(box)
        own = tempfile.TemporaryDirectory()
        self.addCleanup(own.cleanup)
        slip.leave_all(Path(own.name), "body")
        self.settle(300)
        self.wait_for(lambda: not self.window.workers.busy())
        left = self.session.left
        assert left is not None and left.matches, left
        return Path(own.name)


class Raising(BodiesTest):
    def test_the_badge_stands_at_three_heights_on_a_plaque(self) -> None:
        self.session.start(demo_job("plaque"), None)
        self.session.open_stage(Stage.TRACE)
        self.take("colours")
        self.wait_for(lambda: self.slip_of(ColoursSlip).make.isEnabled())
        self.press(self.slip_of(ColoursSlip).make)
        self.assertEqual([mesh.name for mesh in self.made().meshes][0], "base")
        self.session.open_stage(Stage.MAKE)
        self.take("raise")
        self.fill(self.field("Height of red"), "300")  # taller than the printer
        self.fill(self.field("Height of yellow"), "4")
        self.made()
        (words,) = self.findings(Gravity.STOPS)
        self.assertIn("has room for 220 × 220 × 250 mm", words)
        self.fill(self.field("Height of red"), "three")
        self.assertEqual(self.field("Height of red").property("fault"), "true")
        self.fill(self.field("Height of red"), "3 mm")
        solid = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        tops = {mesh.name: float(mesh.places[:, 2].max()) for mesh in solid.meshes}
        self.assertEqual(tops, {"base": 3.0, "dark blue": 5.0, "red": 6.0, "yellow": 7.0})
        self.session.undo()
        self.assertGreater(self.made().size[2], 300)
        self.session.redo()
        self.assertEqual(self.made().size[2], 7.0)
        base = solid.made["base", "#b7b2a7"]
        self.fill(self.field("Height of red"), "3.5")
        self.assertIs(self.made().made["base", "#b7b2a7"], base)  # it is not made anew
        self.assertTrue(any("whole number of layers" in f for f in self.findings(Gravity.INFORMS)))
        self.session.undo()

        view = self.see()
        self.assertFalse(self.canvas.isVisible())
        look = self.seen(view)
        colours = look.pixels[look.which >= 0].reshape(-1, 3).astype(int)
        red = (colours[:, 0] > 1.8 * colours[:, 1]) & (colours[:, 0] > 1.8 * colours[:, 2])
        self.assertGreater(int(red.sum()), 0.02 * len(colours))
        middle = view.rect().center()
        QTest.mousePress(view, Left, pos=middle)
        for k in range(1, 12):
            QTest.mouseMove(view, middle + (view.rect().topRight() - middle) * k / 40)
        self.window.commands["remove"].why_not()  # asked in the midst of a drag
        QTest.mouseRelease(view, Left, pos=middle)
        self.assertNotEqual(view.seen_so.turned, -28.0)
        view.setFocus()
        QTest.keyClick(view, Key.Key_PageUp)
        self.assertEqual((view.seen_so.turned, view.seen_so.above), (0.0, 90.0))
        scale = view.view.scale if view.view else 0.0
        at = QPointF(middle)
        QApplication.sendEvent(
            view,
            QWheelEvent(
                at,
                view.mapToGlobal(at),
                middle * 0,
                middle * 0 + middle.__class__(0, 240),
                Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase,
                False,
            ),
        )
        self.assertGreater(view.view.scale if view.view else 0.0, 1.3 * scale)
        QTest.keyClick(view, Key.Key_Home)
        folder = self.leave("bodies-3mf", "bodies-stl", "bodies-png")
        loaded: Any = trimesh.load(folder / "body.stl")
        self.assertTrue(loaded.is_watertight and loaded.volume > 0)
        self.assertAlmostEqual(loaded.volume / solid.volume, 1, delta=1e-3)
        with zipfile.ZipFile(folder / "body.3mf") as packed:
            model = packed.read("3D/3dmodel.model").decode()
        self.assertEqual(model.count("<mesh>"), 4)
        picture = Image.open(io.BytesIO((folder / "body - bodies.png").read_bytes()))
        self.assertEqual(picture.size, (1600, 1000))
        self.assertTrue(self.session.job.is_handed_off(self.session.job.sheet))

    def test_a_gear_is_sunk_into_a_plate_from_below_and_its_picture_does_not_hide_it(self) -> None:
        job = replace(demo_job("plaque"), operations=(), bases=())
        opened = Contour.make(gear(60, 45)[0].nodes, closed=False)
        self.session.start(add_contours(job, [opened, gear(60, 45)[1]], ""), None)
        self.session.open_stage(Stage.MAKE)
        self.take("raise")
        slip, tool = self.slip_of(OperationSlip), self.tool_of(RaiseTool)
        self.press(slip.asked["sunk"].button(True))
        self.press(slip.asked["counts"].button("underside"))
        self.fill(slip.asked["height"], "2")
        self.session.selection.choose(frozenset(i.id for i in self.session.job.contours))
        self.press(slip.give)  # refused where it is open
        self.assertEqual((len(self.session.job.operations), slip.give.text()), (0, "Close it"))
        self.assertIn("it is open here", tool.prompt().waits)
        self.assertEqual(len(tool.marks()), 3)
        self.press(slip.give)
        self.assertTrue(all(item.contour.closed for item in self.session.job.contours))
        (made,) = self.session.job.operations
        self.assertEqual(made.levels(3.0) if isinstance(made, Raise) else (), (0.0, 2.0))
        self.made()
        self.assertTrue(any("nothing to sink" in words for words in self.findings(Gravity.STOPS)))
        self.push("the sheet")
        solid = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        (plate,) = solid.meshes
        sunk = abs(gear(60, 45)[0].area) - math.pi * 36
        self.assertTrue(is_closed(plate))
        self.assertAlmostEqual(volume_of(plate), 120 * 90 * 3 - 2 * sunk, delta=0.001 * 2 * sunk)
        view = self.see()
        self.press(view.strip.picture)
        plain = self.seen(self.see()).pixels.copy()
        self.assertGreater(len(np.unique(plain.reshape(-1, 3), axis=0)), 1000)  # a photo is on it
        view.setFocus()
        for _ in range(6):
            QTest.keyClick(view, Key.Key_Down)  # until it is seen from below
        look = self.seen(self.see())
        scene = view.scene.value
        assert scene is not None and view.seen_so.above < 0
        deep = look.which[look.which >= 0]
        floors = np.abs(scene.whole.corners[deep][:, :, 2].mean(axis=1) - 2.0) < 1e-3
        self.assertGreater(int(floors.sum()), 1000)
        shown = look.pixels[look.which >= 0][floors].reshape(-1, 3)
        self.assertLess(len(np.unique(shown, axis=0)), 5)  # and not on what is sunk
        self.press(view.strip.cut.button("y"))
        self.see()
        self.fill(view.strip.place, "45")
        self.assertAlmostEqual(view.seen_so.at, 0.5, 3)
        self.fill(view.strip.place, "450")  # beyond it
        self.assertEqual(view.strip.place.property("fault"), "true")
        view.setFocus()
        QTest.keyClick(view, Key.Key_Escape)
        self.assertTrue(self.canvas.isVisible() and not view.isVisible())
        self.session.start(demo_job("leaf"), None)
        self.assertFalse(self.window.bodies.shown)

    def test_a_knob_is_turned_about_an_axis_that_is_put_by_two_clicks(self) -> None:
        job = replace(demo_job("plaque"), operations=(), bases=(), pictures=())
        nodes = [(60, 10), (74, 10), (74, 13), (68, 17), (65, 30), (70, 42), (66, 62), (60, 64)]
        self.session.start(add_contours(job, [Contour.make(nodes, closed=False)], ""), None)
        self.session.open_stage(Stage.MAKE)
        self.take("turned")
        slip = self.slip_of(OperationSlip)
        self.press(slip.give)  # without an axis
        self.assertIn("choose a guide as the axis first", self.top_words)
        self.push("Put an axis by two places")
        self.click(90, 40)
        self.key_on_canvas(Key.Key_Escape)
        self.assertIsNone(self.tool_of(TurnTool).places)
        self.push("Put an axis by two places")
        self.click(66, 30)
        self.click(66, 80)  # through the profile
        self.press(slip.give)
        self.assertIn("reaches over its axis", self.top_words)
        self.assertEqual(self.session.job.operations, ())
        self.session.undo()
        self.assertEqual(self.session.job.guides, ())
        self.push("Put an axis by two places")
        self.click(60, 64)  # they are caught
        self.click(60, 10)
        self.press(slip.give)
        solid = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        (knob,) = solid.meshes
        self.assertAlmostEqual(solid.size[2], 54.0, 3)
        self.assertTrue(is_closed(knob))
        volume = volume_of(knob)
        self.fill(slip.asked["sides"], "5")  # too few
        self.assertEqual(slip.asked["sides"].property("fault"), "true")
        self.assertIn("from 12", self.top_words)
        self.fill(slip.asked["sides"], "12")
        share = 6 / math.pi * math.sin(math.pi / 6)
        self.assertAlmostEqual(self.made().volume / volume, share, delta=2e-3)
        self.fill(slip.asked["sides"], "round")
        self.press(slip.asked["standing"].button(False))
        self.assertAlmostEqual(self.made().size[1], 54.0, 3)
        self.session.undo()
        view = self.see()
        self.assertGreater(int((self.seen(view).which >= 0).sum()), 10_000)
        (guide,) = self.session.job.guides
        self.session.edit("remove the guide", remove_guides(self.session.job, [guide.id]))
        self.made()
        self.assertTrue(any("no axis to turn" in words for words in self.findings(Gravity.STOPS)))
        self.session.undo()
        folder = self.leave("bodies-stl")
        self.assertTrue(trimesh.load(folder / "body.stl").is_watertight)

    def test_a_moulding_is_led_along_a_ring(self) -> None:
        job = replace(demo_job("plaque"), operations=(), bases=(), pictures=())
        shape = Contour.make([(20, 70), (24, 70), (22, 76), (20, 76)])
        job = add_contours(job, [shape, Contour.circle(70, 40, 25)], "")
        moulding, ring = (item.id for item in job.contours)
        self.session.start(add_guide(job, 20.0, 0.0, 90.0), None)
        self.session.open_stage(Stage.MAKE)
        self.take("turned")
        self.click(20, 5)  # the guide is the axis
        tool = self.tool_of(TurnTool)
        self.assertIsNotNone(tool.axis)
        self.push("Lead along the chosen contour")  # nothing is chosen
        self.assertIn("choose one contour, the path", self.top_words)
        self.session.selection.choose(frozenset([ring]))
        self.push("Lead along the chosen contour")
        self.press(self.slip_of(OperationSlip).give)
        (led,) = self.session.job.operations
        self.assertEqual((led.contours, led.path), ((moulding,), ring))
        solid = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        middle = 25 + (12 * 1.0 + 6 * (2 + 2 / 3)) / 18  # by the middle of what is led
        self.assertAlmostEqual(solid.volume / (18 * 2 * math.pi * middle), 1, delta=2e-3)
        size = solid.size
        self.session.undo()
        self.session.redo()
        self.assertEqual(self.made().size, size)
        self.session.edit(
            "smaller", change_contours(self.session.job, {ring: Contour.circle(70, 40, 10)})
        )
        self.assertLess(self.made().size[0], size[0] - 25)
        self.assertTrue(self.window.session.job.worked >= {ring, moulding})

    def key_on_canvas(self, key: Qt.Key) -> None:
        self.canvas.setFocus()
        QTest.keyClick(self.canvas, key)

    def test_bodies_go_with_what_is_done_meanwhile(self) -> None:
        job = replace(demo_job("plaque"), operations=(), bases=())
        self.session.start(add_contours(job, gear(60, 45), ""), None)
        self.session.open_stage(Stage.MAKE)
        self.take("raise")
        self.press(self.slip_of(OperationSlip).give)
        view = self.see()
        self.assertIsNotNone(view.scene.value)
        self.session.undo()
        self.see()
        self.assertIsNone(view.scene.value)
        self.assertIn("nothing is raised", view.prompt().waits)
        self.session.redo()
        self.see()
        QTest.mousePress(view, Left, pos=view.rect().center())
        self.session.start(job, None)  # another job in the midst of a drag
        QTest.mouseRelease(view, Left, pos=view.rect().center())
        self.assertFalse(view.isVisible())
        crossed = Contour.make([(20, 20), (60, 60), (60, 20), (20, 60)])
        self.session.start(add_contours(job, [crossed], ""), None)
        self.session.open_stage(Stage.MAKE)
        self.take("raise")
        self.wait_for(lambda: bool(self.session.looked.findings))
        slip = self.slip_of(OperationSlip)
        self.press(slip.give)
        self.assertEqual(slip.give.text(), "Part it where it crosses")
        self.press(slip.give)
        self.assertEqual(len(self.session.job.contours), 2)
        self.settle(50)
        self.press(slip.give)
        self.assertEqual(sum(len(o.contours) for o in self.session.job.operations), 2)
