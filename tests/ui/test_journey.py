"""From an empty window to a DXF that measures right, by mouse and keys, with wrong clicks and undo
on the way."""

import os
import tempfile
import unittest
from pathlib import Path

import bracket  # the demo's own script: the truth
import ezdxf
import numpy as np
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.trace.ink import EdgesSlip
from draxet.ui.stages.trueup.length_tools import KnownLengthSlip
from draxet.ui.stages.trueup.level import LevelSlip
from tests.shapes import ROOT, apart
from tests.ui.driver import WindowTest

Key = Qt.Key


class TheWholeJourney(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def on_part(self, x: float, y: float) -> tuple[float, float]:
        """Where a place of the bracket (its own mm) lies in job space now."""
        picture = self.session.selection.picture
        assert picture is not None
        return picture.to_job.point(*bracket.part_to_pixels().point(x, y))

    def drop(self, *paths: Path) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        self.drop_data(data)

    def drop_data(self, data: QMimeData) -> None:
        event = QDropEvent(
            QPointF(600, 400),
            Qt.DropAction.CopyAction,
            data,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        self.window.dropEvent(event)  # as Qt calls it once the pointer lets go
        self.settle()

    def test_a_picture_dragged_out_of_a_page_comes_in_and_a_bare_address_is_refused(self) -> None:
        image = QImage(400, 200, QImage.Format.Format_RGB32)
        image.fill(0xFFFFFFFF)
        page = QUrl("https://example.org/leaf.png")
        for pixels, number in ((False, 0), (True, 1)):
            data = QMimeData()
            data.setUrls([page])
            if pixels:
                data.setImageData(image)
            self.drop_data(data)
            self.assertEqual(len(self.session.job.pictures), number, self.top_words)
            self.assertIn("is here" if pixels else "only a web address", self.top_words)
        (picture,) = self.session.job.pictures
        x0, _, x1, _ = picture.box
        self.assertIsNone(picture.dpi)  # a screen's
        self.assertAlmostEqual(x1 - x0, 0.9 * self.session.job.sheet.width, 3)
        text = QMimeData()
        text.setText("https://example.org")
        self.drop_data(text)
        self.assertIn("only a web address in what was dropped", self.top_words)
        text = QMimeData()
        text.setText("nonsense")
        self.drop_data(text)
        self.assertIn("no picture in what was dropped", self.top_words)
        (contour,) = self.draw_a_box()
        self.session.selection.choose({contour})
        self.drop_data(data)
        self.assertEqual(
            self.session.selection.ids, frozenset()
        )  # the picture is in hand, not the box
        self.take("place")
        self.assertIn("Dropped picture", self.slip.about.text())

    def draw_a_box(self) -> set[str]:
        job = add_contours(self.session.job, [Contour.circle(50, 50, 10)])
        self.session.edit("draw", job)
        return {item.id for item in self.session.layout.contours}

    def test_from_an_empty_window_to_a_file_that_measures_right(self) -> None:
        self.gather()
        self.true_up()
        self.trace()
        self.take_away_what_is_written()
        self.make()
        self.prove()
        self.save_and_open()

    def gather(self) -> None:
        self.assertIn("Choose a picture, drop one here or paste one", self.top_words)
        self.keys("4", on=self.canvas)
        self.assertEqual(self.session.desk.stage, Stage.MEND)  # any stage at any time
        self.keys("1", on=self.canvas)
        broken = self.folder / "broken.png"
        broken.write_bytes(b"\x89PNG\r\n\x1a\n123")
        self.drop(broken)
        self.assertIn("broken.png", self.top_words)
        self.assertEqual(self.session.job.pictures, ())
        self.drop(ROOT / "demo" / "bracket.jpg")
        self.assertEqual(len(self.session.job.pictures), 1)
        x0, y0, x1, y1 = self.canvas.everything()
        for x, y in ((x0, y0), (x1, y1)):
            self.assertTrue(self.canvas.rect().contains(self.place(x, y)))

    def true_up(self) -> None:
        self.keys("2", "Q", on=self.canvas)
        self.click(*self.on_part(26, 0))
        self.click(*self.on_part(140, 0.5))
        self.press(self.slip_of(LevelSlip).turn)
        a, b = self.on_part(30, 0), self.on_part(140, 0)
        self.assertAlmostEqual(a[1], b[1], delta=0.02)
        self.keys("W", on=self.canvas)
        self.click(-1e4, 1)  # beside every picture
        self.assertIn("no picture under the pointer", self.top_words)
        self.click(*self.on_part(100, 100))  # a wrong click, on bare paper
        self.keys(Key.Key_Escape, on=self.canvas)
        self.click(*self.on_part(1.2, -20))
        self.click(*self.on_part(239, -20.5))
        self.keys("2", "3", "x", Key.Key_Return)
        self.assertIn("Real length must be", self.top_words)
        self.assertEqual(self.session.job.pictures[0].known_lengths, ())
        self.keys(*[Key.Key_Backspace] * 3, "-", "5", Key.Key_Return)
        self.assertIn("Real length must be", self.top_words)
        self.assertIn("-5", self.top_words)
        self.assertEqual(self.session.job.pictures[0].known_lengths, ())
        self.keys(Key.Key_Backspace, Key.Key_Backspace, *"240", Key.Key_Return)
        (x0, _), (x1, _) = self.on_part(0, 0), self.on_part(240, 0)
        self.assertAlmostEqual(x1 - x0, 240, delta=0.15)
        self.assertIn("Measured again: 240 mm", self.slip_of(KnownLengthSlip)._again.text())
        self.assertIn("±", self.window.facts.values["Trust"].text())

    def trace(self) -> None:
        self.keys("3", on=self.canvas)
        self.settle()
        slip = self.slip_of(EdgesSlip)
        self.press(slip.asked["middles"].button(True))
        self.settle(200)
        slip.threshold.slider.setFocus()
        self.keys(Key.Key_Right, Key.Key_Left)
        self.settle(200)
        self.press(slip.auto)
        self.settle(200)
        self.press(slip.make)
        self.assertGreaterEqual(len(self.session.layout.contours), 5)
        self.assertIn("0 open", self.window.facts.values["Contours"].text())

    def take_away_what_is_written(self) -> None:
        self.keys("4", on=self.canvas)
        first = self.session.job
        self.click(*self.on_part(0, 100))
        (item,) = self.session.selection.items
        node = item.contour.nodes[3].tolist()
        self.drag((node[0], node[1]), (node[0] + 12, node[1] + 9))
        self.assertNotEqual(self.session.job, first)
        self.keys("Z", held=Qt.KeyboardModifier.ControlModifier, on=self.canvas)
        self.assertIs(self.session.job, first)
        written = [c.id for c in first.contours if abs(c.contour.area) < 100]
        for item_id in written:
            x, y = first.contour_by_id[item_id].contour.nodes[0].tolist()
            self.click(x, y, Qt.KeyboardModifier.NoModifier)
            self.keys(Key.Key_Delete, on=self.canvas)
            if item_id in self.session.layout.contour_by_id:  # a neighbour was nearer
                self.session.selection.choose({item_id})
                self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(len(self.session.layout.contours), 5)
        x0, y0, x1, y1 = self.canvas.everything()
        self.drag((x0 + 1, y0 + 1), (x1 - 1, y1 - 1))
        self.assertEqual(len(self.session.selection.ids), 5)
        self.keys(Key.Key_Delete, on=self.canvas)  # too much: everything went
        self.assertEqual(self.session.layout.contours, ())
        self.keys("Z", held=Qt.KeyboardModifier.ControlModifier, on=self.canvas)
        self.assertEqual(len(self.session.layout.contours), 5)

    def make(self) -> None:
        self.keys("5", on=self.canvas)
        self.press(self.slip_of(OperationSlip).give)
        self.assertEqual([len(o.contours) for o in self.session.job.operations], [4, 1])

    def prove(self) -> None:
        self.keys("6", on=self.canvas)
        for ending in ("svg", "dxf"):
            self.hand_off(self.folder / f"bracket.{ending}")
            self.settle()
            assert self.session.left is not None
            self.assertTrue(self.session.left.matches)
        self.assertEqual(self.window.card._signed.text(), "6 of 6 signed off")
        document = ezdxf.readfile(self.folder / "bracket.dxf")  # type: ignore[attr-defined]
        entities = list(document.modelspace())
        radii = sorted(e.dxf.radius for e in entities if e.dxftype() == "CIRCLE")
        np.testing.assert_allclose(radii, [11, 11, 17], atol=0.2)
        boxes = []
        for entity in entities:
            if entity.dxftype() == "LWPOLYLINE":
                points = np.array([p[:2] for p in entity.get_points("xy")])  # type: ignore[attr-defined]
                boxes.append(np.ptp(points, axis=0))
        widths = sorted(boxes, key=lambda b: -b[0])
        self.assertAlmostEqual(widths[0][0], bracket.WRITTEN["width"], delta=0.4)
        self.assertAlmostEqual(widths[0][1], bracket.WRITTEN["height"], delta=0.4)
        self.assertAlmostEqual(widths[1][0], bracket.WRITTEN["window width"], delta=0.4)
        self.whole_outline_is_true()

    def whole_outline_is_true(self) -> None:
        outline = max((i.contour for i in self.session.layout.contours), key=lambda c: abs(c.area))
        picture = self.session.selection.picture
        assert picture is not None
        truth = bracket.part()[0].transformed(bracket.part_to_pixels()).transformed(picture.to_job)
        self.assertLess(apart(outline, truth)[1], 0.15)
        self.assertEqual(len(outline.nodes), len(truth.nodes))

    def save_and_open(self) -> None:
        path = self.folder / "bracket.draxet"
        self.assertTrue(self.window.windowTitle().startswith("Untitled job *"))
        self.window.jobs.save_to(path)
        self.settle()
        self.assertEqual(read_job(path), self.session.job)
        self.wait_for(lambda: self.window.windowTitle().startswith("bracket.draxet –"))
        saved = self.session.job
        self.drop(path)
        self.assertEqual(self.session.job, saved)
        self.session.selection.choose({saved.contours[0].id})
        self.window.commands["remove"].run()
        for answer, stays in (("Cancel", True), ("Leave without saving", False)):
            self.answer(answer)
            self.window.close()
            self.wait_for(lambda: not self.is_waiting)
            self.settle()
            self.assertEqual(self.window.isVisible(), stays)


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    unittest.main()
