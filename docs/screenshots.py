"""Makes docs/screenshots from the demo job: ``.venv/bin/python docs/screenshots.py``."""

from __future__ import annotations

import math
import os
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

HERE = Path(__file__).resolve().parent / "screenshots"
ROOT = HERE.parents[1]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
_OWN = tempfile.mkdtemp()
os.environ.update(
    XDG_STATE_HOME=f"{_OWN}/state", XDG_CONFIG_HOME=f"{_OWN}/config"
)  # nothing of this desk's
sys.path[:0] = [str(ROOT), str(ROOT / "src"), str(ROOT / "demo")]

import bracket  # noqa: E402
import canopy  # noqa: E402
from PyQt6.QtCore import QPoint, Qt  # noqa: E402
from PyQt6.QtTest import QTest  # noqa: E402

from draxet.geometry.affine import Affine  # noqa: E402
from draxet.geometry.contour import Contour  # noqa: E402
from draxet.geometry.covariance import Covariance  # noqa: E402
from draxet.job.colour_words import colour_word
from draxet.job.contour_edits import add_contours, colour_contours
from draxet.job.contour_records import Lettering
from draxet.job.copies import place_copies
from draxet.job.guide_edits import add_guide
from draxet.job.layout import names_laid
from draxet.job.lettering import add_lettering  # noqa: E402
from draxet.job.operating import add_operation, set_operation  # noqa: E402
from draxet.job.operations import Raise, Turn
from draxet.job.picture_records import KnownLength
from draxet.job.records import Job
from draxet.job.sheet_edits import set_sheet
from draxet.job.sheet_records import Sheet
from draxet.make.cutting_through import give_cut  # noqa: E402
from draxet.trueup.true import set_true_lengths  # noqa: E402
from draxet.ui.app import make_app  # noqa: E402
from draxet.ui.demo import demo_job  # noqa: E402
from draxet.ui.look.style import dress
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.stage import Stage
from draxet.ui.shell.window import Window  # noqa: E402
from draxet.ui.stages.make.raise_rows import raise_colour
from draxet.ui.stages.mend.arrange_settings import arrange_settings


class Photographer:
    """Goes through the demo job and takes a picture of each view."""

    def __init__(self) -> None:
        self.app = make_app()
        self.window = Window()
        self.window.canvas.frame_seconds = math.inf
        self.window.show()
        self.session, self.canvas = self.window.session, self.window.canvas

    def settle(self, milliseconds: int = 80) -> None:
        until = time.monotonic() + milliseconds / 1000
        while time.monotonic() < until or self.window.workers.busy():
            QTest.qWait(10)
        QTest.qWait(30)  # the last answer's words find their places

    def take(self, name: str) -> None:
        self.settle()
        QTest.qWait(60)  # what was told last has found its place
        self.window.grab().save(str(HERE / f"{name}.png"))

    def place(self, x: float, y: float) -> QPoint:
        picture = self.session.selection.picture
        assert picture is not None
        at = picture.to_job.point(*bracket.part_to_pixels().point(x, y))
        return QPoint(*(round(v) for v in self.canvas.camera.view(*at)))

    def click(self, x: float, y: float) -> None:
        QTest.mouseMove(self.canvas, self.place(x, y))
        QTest.mouseClick(
            self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, self.place(x, y)
        )
        self.settle(20)

    def run(self) -> None:
        self.session.start(add_contours(demo_job(), bracket.part()), None)
        self.window.jobs.save_to(Path(_OWN) / "Stop-sign bracket.draxet")
        self.settle()
        self.window.commands["new"].run()
        self.settle(6200)  # what was said has gone
        self.take("empty")
        self.session.start(demo_job(), None)
        self.take("gather")
        self.session.open_stage(Stage.TRUE_UP)
        self.window.commands["level"].run()
        self.click(26, 0)
        self.click(140, 0)
        self.window.slips.slip.turn.click()
        self.window.commands["known-length"].run()
        self.click(0, -20)
        QTest.mouseMove(self.canvas, self.place(240, -22))
        self.take("true-up")
        self.click(240, -20)
        self.session.messages.number_typed.emit("240")
        self.window.slips.slip.real.returnPressed.emit()
        self.several_lengths()
        self.session.open_stage(Stage.TRACE)
        self.settle()
        self.drawing()
        self.window.commands["edges"].run()
        self.window.slips.slip.asked["middles"].button(True).click()
        self.settle(300)
        self.take("trace")
        self.window.slips.slip.make.click()
        self.session.open_stage(Stage.MEND)
        self.session.selection.choose(
            {i.id for i in self.session.job.contours if abs(i.contour.area) < 100}
        )
        self.window.commands["remove"].run()
        self.settle(600)
        self.click(0, 100)
        node = self.session.selection.items[0].contour.nodes[3]
        at = QPoint(*(round(v) for v in self.canvas.camera.view(*node.tolist())))
        QTest.mouseClick(self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        self.take("mend")
        self.copies()
        self.regions()
        self.window.commands["pick"].run()
        self.session.selection.choose(set())
        self.settle(1500)  # what was taken back flashes for a while
        self.session.open_stage(Stage.MAKE)
        self.window.slips.slip.give.click()
        self.take("make")
        self.session.open_stage(Stage.PROVE)
        with tempfile.TemporaryDirectory() as folder:
            self.window.slips.slip.leave_all(Path(folder), "stop-sign bracket")
            while self.window.workers.busy("leaving"):
                self.settle(50)
        self.take("prove")
        last = self.session.job.operations[-1]
        said = replace(last, stop="Clamp what is inside")
        self.session.edit("stop", set_operation(self.session.job, said))
        self.window.commands["rehearse"].run()
        self.settle(600)
        self.session.tool.go(self.session.tool.answer.run.stops[0][0])
        self.window.slips.slip.refresh()
        self.take("rehearse")
        self.session.undo()
        self.square()
        self.tracing()
        self.sewn()
        self.stencil()
        self.turned()
        self.raised()
        self.large()
        self.window.workers.close()

    def copies(self) -> None:
        """Rows of copies that follow, one of them in hand; taken back."""
        job = self.session.job
        self.session.edit("larger", set_sheet(job, replace(job.sheet, width=580.0, height=610.0)))
        self.session.selection.choose({item.id for item in job.contours})
        self.window.commands["ring"].run()
        wanted = arrange_settings(self.session)
        wanted.linked, wanted.columns, wanted.rows = True, 2, 2
        wanted.right, wanted.up = 270.0, 285.0
        self.window.slips.slip.refresh()
        self.window.slips.slip._repeat()
        self.window.commands["pick"].run()
        self.canvas.fit_all()
        placement = self.session.job.placements[0]
        laid = self.session.layout.contour_by_id.keys() & names_laid(self.session.job, placement)
        self.session.selection.choose(set(laid))
        self.settle(600)
        self.take("copies")
        self.session.undo()
        self.session.undo()
        self.canvas.fit_all()

    def drawing(self) -> None:
        self.window.commands["draw"].run()
        self.click(0, 40)
        self.click(0, 170)
        QTest.keyClick(self.canvas, "o")
        self.click(30, 200)
        QTest.keyClick(self.canvas, "l")
        self.click(90, 200)
        QTest.mouseMove(self.canvas, self.place(150, 250))
        for key in "60 mm":
            QTest.keyClick(self.canvas, " " if key == " " else key)
        self.take("draw")
        for _ in range(3):
            QTest.keyClick(self.canvas, Qt.Key.Key_Escape)
        while self.session.job.contours:
            self.session.undo()
        self.settle(600)

    def several_lengths(self) -> None:
        self.window.commands["several-lengths"].run()
        for start, end, words in (((265, 0), (265, 264), "264"), ((40, 140), (124, 140), "84")):
            self.click(*start)
            self.click(*end)
            self.session.messages.number_typed.emit(words)
            self.window.slips.slip.real.returnPressed.emit()
        self.match()

    def square(self) -> None:
        self.session.start(demo_job("leaf"), None)
        self.session.open_stage(Stage.TRUE_UP)
        self.window.commands["square"].run()
        self.take("square")

    def tracing(self) -> None:
        self.session.start(demo_job("badge"), None)
        picture = self.session.selection.picture
        known = KnownLength(
            (0.0, 350.0), (900.0, 350.0), 90.0, Covariance.round(0.2), Covariance.round(0.2)
        )
        self.session.edit("size", set_true_lengths(self.session.job, picture.id, [known]))
        self.canvas.fit_all()
        self.window.commands["colours"].run()
        self.settle(400)
        self.take("colours")
        self.window.slips.slip.make.click()
        self.window.commands["nearness"].run()
        self.settle(400)
        self.take("near")

    def raised(self) -> None:
        """The badge on a plaque, each colour at its height, cut open."""
        self.session.start(demo_job("plaque"), None)
        self.session.open_stage(Stage.TRACE)
        self.window.commands["colours"].run()
        self.settle(3000)
        self.window.slips.slip.make.click()
        self.session.open_stage(Stage.MAKE)
        self.window.commands["raise"].run()
        job = self.session.job
        for colour, height in zip(sorted({i.colour for i in job.contours}), (2, 3, 4), strict=True):
            ids = [item.id for item in job.contours if item.colour == colour]
            job = raise_colour(job, Raise(), colour_word(colour), ids, height)
        self.session.edit("heights", job)
        self.window.commands["bodies"].run()
        self.settle(4000)
        self.take("bodies")

    def turned(self) -> None:
        """Ten columns of the canopy from one, under a moulding that is led round."""
        base, curve, cap = (
            each.transformed(Affine.scaled(canopy.SCALE).about(*canopy.DETAIL))
            for each in canopy.column()
        )
        job = demo_job("canopy")
        ring, _, square, round_ = (
            each.transformed(Affine.moved(10, 10)) for each in canopy.canopy()
        )
        x, y = round_.circle_shape[:2]
        cap = cap.transformed(Affine.moved(x - cap.nodes[0, 0], y - cap.nodes[0, 1]))
        strip = Contour.make([(240, 150), (248, 150), (244, 156), (240, 156)])
        colours = ("#6d7f94", "#d9cfb8", "#d9cfb8", "#b98a3c", "#8b5e2f", "#4c5560")
        items = (square, round_, cap, strip, ring, curve)
        job = add_contours(job, items)
        ids = [item.id for item in job.contours]
        for name, colour in zip(ids, colours, strict=True):
            job = colour_contours(job, [name], colour)
        job = add_guide(add_guide(job, x, 0.0, 90.0), 240.0, 0.0, 90.0)
        upright, edge = (guide.id for guide in job.guides)
        high, top = base.box[3] - base.box[1], 42.0
        for operation in (
            Raise(contours=(ids[0],), height=high),
            Turn(contours=(ids[1],), how="shaft", height=top - high, level=high, curve=ids[5]),
            Turn(contours=(ids[2],), axis=upright, level=top),
            Turn(contours=(ids[3],), axis=edge, path=ids[4], level=48.0),
        ):
            job = add_operation(job, operation)
        middle = (canopy.PLAN[0] + 10, canopy.PLAN[1] + 10)
        places = [
            Affine.turned(30.0 * k).about(*middle) for k in range(1, 12) if k not in canopy.LEFT_OUT
        ]
        job, _ = place_copies(job, ids[:3], places, linked=True)
        self.session.start(job, None)
        self.session.open_stage(Stage.MAKE)
        self.window.commands["turned"].run()
        self.window.commands["bodies"].run()
        self.settle(4000)
        self.take("turned")

    def sewn(self) -> None:
        """The badge as a patch: its colours in thread, and a word in satin."""
        words = Lettering(
            "lettering-0",
            "part-0",
            "BRINDLECOTE",
            "Bitter Bold",
            6.6,
            placed=Affine.moved(28.2, 10),
        )
        job, _ = add_lettering(self.session.job, words)
        sheet = replace(job.sheet, material="felt", thickness=2.0, machine="bench-stitcher")
        self.session.edit("stitcher", set_sheet(job, sheet))
        self.session.open_stage(Stage.MAKE)
        self.window.commands["stitch"].run()
        self.window.slips.slip.give.click()
        self.settle(3000)
        self.canvas.fit_all()
        self.settle(4000)
        self.take("stitch")

    def regions(self) -> None:
        """Rays across two circles beside the bracket's opening, and some of the areas between
        them."""
        before = self.session.job
        rays = [(math.cos(k * math.pi / 4), math.sin(k * math.pi / 4)) for k in range(4)]
        drawn = [
            Contour.make([(120 + 70 * x, 120 + 70 * y), (120 - 70 * x, 120 - 70 * y)], closed=False)
            for x, y in rays
        ]
        self.session.edit(
            "draw",
            add_contours(
                replace(before, contours=()),
                [*drawn, Contour.circle(120, 120, 52), Contour.circle(120, 120, 26)],
            ),
        )
        self.window.commands["regions"].run()
        self.settle(200)
        for angle in (0.4, 1.2, 3.5):
            self.press(120 + 39 * math.cos(angle), 120 + 39 * math.sin(angle))
        QTest.mouseMove(self.canvas, self.at(120 - 8, 120 + 16))
        self.take("regions")
        self.session.undo()

    def stencil(self) -> None:
        """The line's name as stencil lettering, its islands held, and what falls out of it."""
        self.session.document.history = self.session.document.history.after_save()
        plate = [
            Contour.make([(6, 6), (334, 6), (334, 104), (6, 104)]),
            Contour.circle(24, 24, 6),
            Contour.circle(316, 24, 6),
        ]
        job = add_contours(
            Job("Route plate", sheets=(Sheet("sheet-0", "Sheet 1", 340, 110, 2, "steel"),)), plate
        )
        for words, height, x, y in (("BRINDLECOTE", 31, 27, 52), ("Shed & line 24", 20, 108, 18)):
            job, _ = add_lettering(
                job,
                Lettering(
                    "",
                    "",
                    words,
                    "Bitter Bold" if height > 20 else "Big Shoulders Stencil Bold",
                    height,
                    placed=Affine.moved(x, y),
                ),
            )
        self.session.start(give_cut(job, [item.id for item in job.contours], 0.8, 2400), None)
        self.session.open_stage(Stage.MEND)
        self.canvas.fit_all()
        self.window.commands["what-falls"].run()
        self.window.commands["bridges"].run()
        self.session.tool.settings.width = 2.0
        self.window.slips.slip.all.click()
        self.settle(600)
        bridge = self.session.job.bridges[-1]
        QTest.mouseMove(self.canvas, self.at(bridge.x, bridge.y))
        self.take("stencil")

    def at(self, x: float, y: float) -> QPoint:
        return QPoint(*(round(v) for v in self.canvas.camera.view(x, y)))

    def press(self, x: float, y: float) -> None:
        QTest.mouseMove(self.canvas, self.at(x, y))
        QTest.mouseClick(
            self.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.AltModifier, self.at(x, y)
        )
        self.settle(20)

    def large(self) -> None:
        """Words of twice the size in a small window: the card is folded, the slip over the canvas."""
        dress(self.app, LIGHT, 2.0)
        window = Window()
        window.resize(960, 540)
        window.show()
        window.session.start(demo_job("leaf"), None)
        window.session.open_stage(Stage.TRACE)
        window.commands["edges"].run()
        for _ in range(2):
            while window.workers.busy():
                QTest.qWait(30)
            QTest.qWait(400)
        window.grab().save(str(HERE / "large.png"))
        window.workers.close()
        dress(self.app, LIGHT, 1.0)

    def match(self) -> None:
        moved = Affine.moved(30, 0)
        self.session.edit(
            "draw",
            add_contours(
                self.session.job, [contour.transformed(moved) for contour in bracket.part()]
            ),
        )
        self.canvas.fit_all()
        self.window.commands["match"].run()
        for x, y in ((96, 222), (124, 130), (40, 130), (206, 226)):
            self.click(x, y)
            wrong = 1.5 if x == 40 else 0.0
            QTest.mouseClick(
                self.canvas,
                Qt.MouseButton.LeftButton,
                Qt.KeyboardModifier.AltModifier,
                QPoint(*(round(v) for v in self.canvas.camera.view(*moved.point(x + wrong, y)))),
            )
            self.settle(20)
        while self.session.document.history.undo_words == "draw":
            self.session.undo()
        self.settle(600)
        self.canvas.fit_all()


if __name__ == "__main__":
    Photographer().run()
