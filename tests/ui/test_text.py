"""Words through the real window: set, changed, moved, laid along a contour; and stencil lettering
whose every island is held."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PyQt6.QtCore import Qt

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.mend.bridge_slip import BridgeSlip
from draxet.ui.stages.mend.fall_tool import FallTool
from draxet.ui.stages.trace.text_slip import TextSlip
from tests.handing_off import counted, hand_off
from tests.ui.driver import WindowTest

Key = Qt.Key


class Words(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(Job("Route plate", sheets=(Sheet(width=360, height=120),)), None)
        self.settle()

    def write(self, words: str) -> None:
        self.slip_of(TextSlip).words.setFocus()
        self.keys(*words, on=self.slip_of(TextSlip).words)
        self.settle()

    @property
    def box(self) -> tuple[float, ...]:
        boxes = [item.contour.box for item in self.session.layout.contours]
        return (
            min(b[0] for b in boxes),
            min(b[1] for b in boxes),
            max(b[2] for b in boxes),
            max(b[3] for b in boxes),
        )

    def test_words_are_typed_where_one_clicks_changed_moved_and_taken_back(self) -> None:
        self.take("text")
        self.click(40, 50)
        self.assertIn("type the words", self.top_words)
        self.write("TRAM")
        self.assertEqual(
            len(self.session.document.history.states), 2
        )  # one step, however many letters
        self.assertEqual(self.session.job.letterings[0].words, "TRAM")
        self.assertAlmostEqual(self.box[3] - self.session.job.letterings[0].placed.f, 20, delta=0.1)
        self.fill(self.slip_of(TextSlip).asked["height"], "1 in")
        self.assertAlmostEqual(self.session.job.letterings[0].height, 25.4)
        self.fill(self.slip_of(TextSlip).asked["height"], "tall")
        self.assertIn("got 'tall'", self.top_words)
        self.slip_of(TextSlip).words.insertPlainText(" 電")
        self.assertIn("has no 電", self.top_words)
        self.assertEqual(self.session.job.letterings[0].words, "TRAM")
        before = self.box
        self.drag((50, 60), (90, 80))
        self.assertAlmostEqual(self.box[0] - before[0], 40, delta=0.6)
        self.session.undo()
        self.assertEqual(self.box, before)
        self.keys(Key.Key_Delete, on=self.canvas)
        self.assertEqual(
            (self.session.layout.contours, self.session.job.letterings, self.session.job.parts),
            ((), (), ()),
        )
        self.session.undo()
        self.click(50, 60)
        self.press(self.slip_of(TextSlip).turn)
        self.assertEqual(self.session.job.letterings, ())
        self.assertEqual(len(self.session.selection.ids), len(self.session.layout.contours))

    def test_words_run_along_a_contour_and_follow_it(self) -> None:
        self.session.edit("draw", add_contours(self.session.job, [Contour.circle(180, 50, 40)]))
        self.take("text")
        self.write("shed")
        self.press(self.slip_of(TextSlip).asked["way"].button("along"))
        self.press(self.slip_of(TextSlip).asked["align"].button("middle"))
        self.click(20, 100)
        self.assertIn("There is no contour here", self.top_words)
        self.click(180, 90)
        (lettering,) = self.session.job.letterings
        self.assertAlmostEqual((self.box[0] + self.box[2]) / 2, 180, delta=6)
        self.assertGreater(self.box[3], 105)
        self.press(self.slip_of(TextSlip).asked["other_side"])
        self.assertLess(self.box[3], 91)
        self.assertEqual(self.session.job.letterings[0].along, lettering.along)

    def test_stencil_lettering_whose_every_island_is_held(self) -> None:
        self.session.edit(
            "plate",
            add_contours(
                self.session.job, [Contour.make([(10, 10), (350, 10), (350, 110), (10, 110)])]
            ),
        )
        self.take("text")
        self.fill(self.slip_of(TextSlip).asked["height"], "30")
        self.click(25, 40)
        self.write("BRINDLECOTE")
        self.assertLess(self.box[2], 351)
        self.take("cut")
        self.session.selection.choose(frozenset())
        self.press(self.slip_of(OperationSlip).give)
        self.settle(50)
        islands = 5  # B has two, R, D and O one each
        self.wait_for(lambda: any(f.kind == "island" for f in self.session.looked.findings))
        self.assertIn(
            f"{islands} islands fall out",
            next(f.words for f in self.session.looked.findings if f.kind == "island"),
        )
        self.take("bridges")
        self.press(self.slip_of(BridgeSlip).all)
        self.assertIn(f"{2 * islands} bridges hold {islands} islands", self.top_words)
        self.take("falls")
        self.settle(100)
        pieces = self.tool_of(FallTool).fallout.pieces
        self.assertEqual(sum(not piece.falls for piece in pieces), 1)
        self.assertEqual(self.tool_of(FallTool).fallout.islands, [])
        self.assertGreaterEqual(
            len(pieces), 1 + 7 + 4 * 2
        )  # the plate; I N L E C T E; B, R, D and O in two and more
        self.wait_for(lambda: not any(f.kind == "island" for f in self.session.looked.findings))
        with tempfile.TemporaryDirectory() as folder:
            found = hand_off(self.session.job, Path(folder) / "plate.svg")
            contours, closed, _ = counted(Path(folder) / "plate.svg")
        self.assertTrue(found.matches)
        self.assertEqual(closed, contours)
