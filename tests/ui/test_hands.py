"""The work by keys alone and by mouse alone, on every size of screen and of words."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from unittest import mock

import ezdxf
import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QWidget,
)

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.records import Job
from draxet.ui.app import make_app
from draxet.ui.controls.chooser import JobChooser
from draxet.ui.controls.fields import Field
from draxet.ui.demo import DEMOS, demo_job
from draxet.ui.look.style import dress
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.stage import Stage
from draxet.ui.shell.keys_page import KeysPage
from draxet.ui.stages.gather.picture_in_hand import GatherSlip
from draxet.ui.stages.gather.place_slip import PlaceSlip
from draxet.ui.stages.gather.sheets import SheetSlip
from draxet.ui.stages.trace.ink import EdgesTool
from draxet.ui.stages.trace.nearness import NearnessTool
from tests.shapes import ROOT
from tests.ui.driver import WindowTest

Key, Held = Qt.Key, Qt.KeyboardModifier
SIZES = ((1280, 800, 1.0), (960, 540, 1.0), (1280, 800, 1.5))


class Hands(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def focus(self) -> QWidget:
        found = self.app.focusWidget()
        assert found is not None
        return found

    def press_tool(self, name: str) -> None:
        self.press(self.window.card.buttons[name])

    def main_button(self) -> QPushButton:
        main = self.slip.foot.main
        assert main is not None
        return main

    def in_dialog(self, act: Callable[[QWidget], object]) -> None:
        """Act on the next dialog once it stands."""

        def look() -> None:
            dialog = QApplication.activeModalWidget()
            if dialog is None:
                QTimer.singleShot(20, look)
            else:
                QTimer.singleShot(
                    300, lambda: act(dialog)
                )  # people are no quicker, and the dialog reads its folder meanwhile

        QTimer.singleShot(20, look)

    def type_name(self, path: Path) -> None:
        def act(dialog: QWidget) -> None:
            field = dialog.findChild(QLineEdit, "fileNameEdit")
            assert field is not None
            field.setCompleter(
                None
            )  # what Qt offers of the folders there, as one types, is Qt's own and not the same on two machines
            field.selectAll()
            QTest.keyClicks(field, str(path))
            enter(dialog)

        def enter(dialog: QWidget) -> None:
            if not sip.isdeleted(dialog) and dialog.isVisible():
                QTest.keyClick(
                    dialog.findChild(QLineEdit, "fileNameEdit"), Key.Key_Return
                )  # made by Qt: not to be kept
                QTimer.singleShot(100, lambda: enter(dialog))

        self.in_dialog(act)


class Journeys(Hands):
    def check(self, path: Path) -> None:
        document = ezdxf.readfile(path)  # type: ignore[attr-defined]
        self.assertGreater(len(document.modelspace()), 10)
        self.assertEqual(self.session.job.handed_off[-1].sheet, self.session.job.sheet.id)

    def test_by_keys_alone(self) -> None:
        for wide, high, scale in SIZES:
            with self.subTest(wide=wide, high=high, scale=scale):
                self.begin(wide, high, scale)
                self.type_name(ROOT / "demo" / "bracket.jpg")
                self.keys("q")
                self.back_from_dialog()
                self.assertEqual(len(self.session.job.pictures), 1, self.top_words)
                self.keys("2")
                self.pick_by_keys(-40, 30)
                self.pick_by_keys(90, 10)
                self.keys("2", "4", "0", Key.Key_Return)
                self.assertEqual(len(self.session.job.pictures[0].known_lengths), 1, self.top_words)
                self.assertIs(self.focus(), self.canvas)
                self.keys("3")
                self.settle(60)
                self.keys(Key.Key_Return)
                self.assertGreater(len(self.session.layout.contours), 10)
                self.keys("5", Key.Key_Return)
                self.assertTrue(self.session.job.operations)
                self.keys("6")
                out = self.folder / f"{wide}-{scale}.dxf"
                self.type_name(out)
                self.keys(Key.Key_Return)
                self.back_from_dialog()
                self.check(out)

    def heard(self) -> str:
        """What a reader says of what has the keys, as it changes."""
        at = self.focus()
        return f"{at.accessibleName()}. {at.accessibleDescription()}"

    def test_by_keys_and_by_ear_alone(self) -> None:
        self.begin(1280, 800, 1.0)
        said = [self.heard()]
        self.type_name(ROOT / "demo" / "bracket.jpg")
        self.keys("q")
        self.back_from_dialog()
        for keys in (("2",), (), ("2", "4", "0", Key.Key_Return), ("3",), (Key.Key_Return,)):
            if not keys:
                said.append(self.heard())
                self.pick_by_keys(-40, 30)
                said.append(self.heard())
                self.pick_by_keys(90, 10)
            self.keys(*keys)
            self.settle(60)
            said.append(self.heard())
        self.keys("5", Key.Key_Return)
        said.append(self.heard())
        self.keys("6")
        said.append(self.heard())
        out = self.folder / "heard.dxf"
        self.type_name(out)
        self.keys(Key.Key_Return)
        self.back_from_dialog()
        said.append(self.heard())
        self.check(out)
        for heard, wanted in zip(
            said,
            (
                ("Choose a picture", "no picture"),
                ("Known length: pick one end", "1 picture"),
                ("Known length: pick one end",),
                ("pick the other end", "Backspace one back"),
                ("type the real length",),
                ("pick one end",),
                ("Edges", "Enter: Make contours (Makes 28 contours"),
                ("28 contours made, all closed", "1 picture, 28 contours"),
                ("Cut through",),
                ("Hand off", "Enter: Hand off"),
                ("heard.dxf handed off and read back: it matches the job",),
            ),
            strict=True,
        ):
            for words in wanted:
                self.assertIn(words, heard)
            self.assertIn("F6 leaves the canvas", heard)

    def back_from_dialog(self) -> None:
        """As a window manager does it."""
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window)
        self.settle(60)

    def begin(self, wide: int, high: int, scale: float) -> None:
        self.session.document.history = self.session.document.history.after_save()
        dress(make_app(), LIGHT, scale)
        self.addCleanup(dress, make_app(), LIGHT, 1.0)
        self.window.resize(wide, high)
        self.window.commands["new"].run()
        self.canvas.setFocus()
        self.canvas._pointer = None  # the mouse was never there
        self.settle()
        self.assertEqual((self.window.width(), self.window.height()), (wide, high))

    def pick_by_keys(self, right: int, up: int) -> None:
        """Steer the pointer from where it is, and click with Enter."""
        for count, keys in (
            (right, (Key.Key_Right, Key.Key_Left)),
            (up, (Key.Key_Up, Key.Key_Down)),
        ):
            for _ in range(abs(count) // 10):
                self.keys(keys[count < 0], held=Held.ShiftModifier, on=self.canvas)
        self.keys(Key.Key_Return, on=self.canvas)

    def test_by_mouse_alone(self) -> None:
        self.window.open_files([ROOT / "demo" / "bracket.jpg"])  # as by a drop
        self.settle(60)
        self.press(self.window.card._rows[Stage.TRACE])
        self.settle(60)
        self.press(self.main_button())
        self.drag((0, 0), (2, 2))  # a wrong drag on nothing
        self.press(self.window.card._rows[Stage.MAKE])
        self.press(self.main_button())
        self.press(self.window.card._rows[Stage.PROVE])
        out = self.folder / "mouse.dxf"
        with mock.patch(
            "draxet.ui.stages.prove.hand_off.ask_where", return_value=out
        ):  # the library's own dialog has its own tests
            self.press(self.main_button())
        self.settle(60)
        self.check(out)


class Panes(Hands):
    def setUp(self) -> None:
        super().setUp()
        self.session.start(demo_job(), None)
        self.window.commands["place"].run()
        self.settle()

    def test_keys_go_on_to_the_next_control_where_what_has_them_is_disabled_or_hidden(
        self,
    ) -> None:
        self.take("ring")
        stops = self.window.slips._stops()
        stops[2].setFocus()
        stops[2].setEnabled(False)
        self.settle()
        self.assertIs(self.app.focusWidget(), stops[3])
        stops[3].hide()
        self.settle()
        now = self.app.focusWidget()
        self.assertIn(now, [*stops[:2], *stops[4:]])  # the others moved up
        assert now is not None
        now.setEnabled(False)
        self.canvas.setFocus()
        self.settle()
        self.assertIs(self.app.focusWidget(), self.canvas)

    def test_f6_goes_round_and_tab_stays_within(self) -> None:
        self.keys(Key.Key_F6, on=self.canvas)
        self.assertTrue(self.window.slips.isAncestorOf(self.focus()))
        seen = []
        for _ in range(40):
            seen.append(self.focus())
            self.assertTrue(self.window.slips.isAncestorOf(self.focus()))
            self.keys(Key.Key_Tab)
        self.assertGreater(len(set(seen)), 12)
        self.assertIs(seen[0], seen[len(set(seen))])  # round and round
        self.keys(Key.Key_F6)
        self.assertTrue(self.window.card.isAncestorOf(self.focus()))
        self.keys(Key.Key_Tab, Key.Key_Tab, held=Held.ShiftModifier)
        self.assertTrue(self.window.card.isAncestorOf(self.focus()))
        self.keys(Key.Key_F6)
        self.assertTrue(self.window.facts.isAncestorOf(self.focus()))
        self.keys(Key.Key_F6)
        self.assertIs(self.focus(), self.canvas)

    def test_digits_open_stages_again_once_enter_took_what_was_typed(self) -> None:
        self.take("sheets")
        slip = self.slip_of(SheetSlip)
        self.fill(slip.wide, "333")
        self.assertEqual(self.session.job.sheet.width, 333.0)
        self.assertTrue(self.canvas.hasFocus())
        self.window.slips.enter()
        self.assertTrue(slip.wide.hasFocus())  # where it was left
        self.fill(slip.wide, "nonsense")
        self.assertTrue(slip.wide.hasFocus())
        self.keys("5", on=slip.wide)
        self.assertEqual(self.session.desk.stage, Stage.GATHER)
        self.fill(slip.wide, "444")
        self.keys("5", on=self.canvas)
        self.assertEqual(self.session.desk.stage, Stage.MAKE)
        self.assertEqual(self.session.job.sheet.width, 444.0)

    def test_escape_drops_what_is_typed_and_leaves_step_by_step(self) -> None:
        self.keys(Key.Key_F6, on=self.canvas)
        field = self.focus()
        assert isinstance(field, Field)
        before, shown = self.session.job, field.text()
        self.keys("9", "9", Key.Key_Escape)
        self.assertEqual((field.text(), self.session.job), (shown, before))
        self.assertIs(self.focus(), self.canvas)
        self.keys(Key.Key_Escape)
        self.assertIsNone(self.session.tool)
        named = self.slip_of(GatherSlip)
        self.keys(Key.Key_Escape)
        self.assertIsNot(self.slip, named)  # the picture is laid down, and its slip with it
        self.press(self.window.slips.findChildren(QPushButton)[-2])
        self.assertFalse(self.session.selection.hands_empty)

    def test_space_is_for_what_has_the_focus_and_pans_over_the_canvas(self) -> None:
        self.take("place")
        tick = next(each for each in self.slip.findChildren(QCheckBox) if each.isEnabled())
        tick.setFocus()
        QTest.mouseMove(self.canvas, QPoint(200, 200))
        was, before = tick.isChecked(), self.canvas.camera
        QTest.keyClick(tick, Key.Key_Space)
        self.assertIs(self.focus(), tick)
        self.assertEqual((tick.isChecked(), self.canvas.camera), (not was, before))
        QTest.keyClick(tick, Key.Key_Space)
        job = self.session.job
        QTest.keyPress(tick, Key.Key_Space)  # held there, and a button pressed over the canvas
        self.drag((100, 100), (140, 120))
        QTest.keyRelease(self.canvas, Key.Key_Space)
        self.assertNotEqual(self.canvas.camera, before)
        self.assertEqual((tick.isChecked(), self.session.job), (was, job))
        before = self.canvas.camera
        QTest.keyPress(self.canvas, Key.Key_Space)
        self.drag((100, 100), (140, 120))
        QTest.keyRelease(self.canvas, Key.Key_Space)
        self.assertNotEqual(self.canvas.camera, before)
        self.assertEqual(self.session.job, job)

    def test_space_that_opens_a_menu_is_not_held_over_the_canvas_afterwards(self) -> None:
        opener = QPushButton("Menu", self.window)
        menu = QMenu(opener)
        menu.addAction("one")
        opener.setMenu(menu)
        opener.show()
        opener.setFocus()

        def close() -> None:
            self.assertTrue(menu.isVisible())
            QTest.keyRelease(menu, Key.Key_Space)
            menu.close()

        QTimer.singleShot(50, close)
        QTest.keyPress(opener, Key.Key_Space)
        self.wait_for(lambda: not menu.isVisible())
        before = self.canvas.camera
        self.drag((100, 100), (140, 120))
        self.assertEqual(self.canvas.camera, before)
        opener.deleteLater()

    def test_a_tool_that_cannot_be_taken_is_reached_and_says_why(self) -> None:
        self.session.start(Job("Empty"), None)
        self.session.open_stage(Stage.MAKE)
        self.settle()
        button = self.window.card.buttons["cut"]
        why = button.command.why_not()
        self.assertTrue(why)
        self.assertEqual(button.accessibleDescription(), why)
        for take in (
            lambda: self.keys(button.command.key, on=self.canvas),
            lambda: self.press(button),
            lambda: QTest.keyClick(button, Key.Key_Space),
        ):
            self.session.messages.announced.emit("")
            take()
            self.assertIn(why, self.top_words)
            self.assertIsNone(self.session.tool)
            self.assertFalse(button.isChecked())
        bar = self.window.menuBar()
        assert bar is not None
        menus = [act.menu() for act in bar.actions()]
        menu = next(
            each for each in menus if each is not None and each.title().replace("&", "") == "Make"
        )
        action = next(each for each in menu.actions() if each.data() == "cut")
        menu.aboutToShow.emit()
        self.assertEqual((action.isEnabled(), action.toolTip()), (False, why))
        menu.aboutToHide.emit()
        self.assertTrue(action.isEnabled())

    def test_values_are_read_out_with_their_names(self) -> None:
        self.assertEqual(
            self.window.facts.values["Contours"].accessibleName(), "Contours: 0 closed · 0 open"
        )
        self.assertIn("size not known yet", self.window.card._rows[Stage.TRUE_UP].accessibleName())
        self.assertIn(
            "Distortion: none",
            [label.accessibleName() for label in self.slip_of(PlaceSlip).findChildren(QLabel)],
        )

    def test_nothing_is_cut_on_a_small_screen_or_with_large_words(self) -> None:
        self.session.start(demo_job("badge"), None)
        for wide, high, scale in SIZES:
            dress(make_app(), LIGHT, scale)
            self.addCleanup(dress, make_app(), LIGHT, 1.0)
            self.window.resize(wide, high)
            for command in [
                c
                for c in self.window.commands.values()
                if c.stage and not c.words.endswith("…") and c.id != "paste" and not c.why_not()
            ]:
                command.run()
                self.settle()
                with self.subTest(command.id, wide=wide, scale=scale):
                    self.assertEqual((self.window.width(), self.window.height()), (wide, high))
                    words = self.window.top_line.words
                    self.assertGreaterEqual(
                        words.height(),
                        words.heightForWidth(words.width())
                        if words.wordWrap()
                        else words.fontMetrics().height(),
                    )
                    self.assertLessEqual(
                        words.mapTo(self.window.top_line, QPoint(words.width(), 0)).x(),
                        self.window.top_line.width(),
                    )
                    self.assertLessEqual(self.slip.minimumSizeHint().width(), self.slip.width())


class FirstMinute(Hands):
    def test_a_job_saved_lately_and_a_demo_are_begun_with_a_click(self) -> None:
        self.session.start(demo_job("badge"), None)
        self.window.jobs.save_to(self.folder / "Kept.draxet")
        self.settle()
        self.window.commands["new"].run()
        self.wait_for(lambda: len(self.offers()) == 1 + len(DEMOS))
        self.assertEqual(self.session.desk.stage, Stage.GATHER)
        self.press(next(b for b in self.offers() if b.accessibleName().startswith("Leaf stencil")))
        self.settle()
        self.assertEqual(self.session.job.name, "Leaf stencil")
        self.assertFalse(self.window.first_page.isVisible())
        self.window.commands["new"].run()
        self.wait_for(lambda: any(b.accessibleName().startswith("Kept") for b in self.offers()))
        self.keys(Key.Key_F6, on=self.canvas)
        self.assertTrue(self.window.first_page.isAncestorOf(self.focus()))
        self.press(next(b for b in self.offers() if b.accessibleName().startswith("Kept")))
        self.wait_for(lambda: self.session.document.path is not None)
        self.assertEqual(self.session.document.path, self.folder / "Kept.draxet")

    def offers(self) -> list[QPushButton]:
        return [
            b
            for b in self.window.first_page.findChildren(QPushButton)
            if b.property("part") == "row"
        ]

    def test_the_chooser_of_jobs_shows_each_ones_picture_and_what_it_holds(self) -> None:
        self.session.start(add_contours(demo_job(), [Contour.circle(50, 50, 20)]), None)
        self.window.jobs.save_to(self.folder / "Bracket.draxet")
        (self.folder / "No job.draxet").write_bytes(b"nothing")
        self.settle()
        chooser = JobChooser(self.window.workers, self.window)
        chooser.look(str(self.folder / "Bracket.draxet"))
        self.settle()
        self.assertIn("1 contour\n", chooser.words.text())
        image = chooser.picture.pixmap().toImage()
        tones = {image.pixelColor(x, 110).lightness() // 8 for x in range(0, image.width(), 2)}
        self.assertGreater(len(tones), 2)
        chooser.look(str(self.folder / "No job.draxet"))
        self.settle()
        self.assertTrue(chooser.picture.pixmap().isNull())
        self.assertIn("No job.draxet", chooser.words.text())
        chooser.done(0)

    def test_the_keys_show_the_open_stages_tools_and_a_digit_another_ones(self) -> None:
        page = KeysPage(list(self.window.commands.values()), Stage.TRACE, self.window)
        self.assertIn("Q Edges", page.block.accessibleName())
        page.open()
        page.activateWindow()
        QTest.qWaitForWindowActive(page)
        QTest.keyClick(page, "4")
        self.assertEqual(page.block.stage, Stage.MEND)
        self.assertLessEqual(page.sizeHint().width(), 960)
        self.assertLessEqual(page.sizeHint().height(), 540)
        page.accept()
        page.deleteLater()


class HiddenAndAlike(Hands):
    def setUp(self) -> None:
        super().setUp()
        circles = [Contour.circle(20 + 30 * k, 50, r) for k, r in enumerate((5, 5.01, 9, 0.1))]
        self.session.start(
            add_contours(demo_job(), [*circles, Contour.make([(0, 0), (9, 0)], closed=False)]), None
        )
        self.ids = [item.id for item in self.session.layout.contours]
        self.window.commands["pick"].run()

    def test_what_is_hidden_is_not_picked_and_stays_in_the_job(self) -> None:
        job = self.session.job
        self.click(25, 50)
        self.assertEqual(self.session.selection.ids, {self.ids[0]})
        self.keys("h", held=Held.ControlModifier, on=self.canvas)
        self.click(25, 50)
        self.assertEqual((self.session.selection.ids, self.session.job), (frozenset(), job))
        self.keys("a", held=Held.ControlModifier, on=self.canvas)
        self.assertEqual(len(self.session.selection.ids), 4)
        self.session.selection.choose({self.ids[2]})
        self.keys("h", held=Held.ControlModifier | Held.ShiftModifier, on=self.canvas)
        self.assertEqual([item.id for item in self.session.selection.shown], [self.ids[2]])
        self.window.commands["show-all"].run()
        self.assertEqual(self.session.selection.shown, self.session.layout.contours)

    def test_alike_in_size_open_and_tiny(self) -> None:
        self.session.selection.choose({self.ids[0]})
        for command, wanted in (
            ("alike-size", self.ids[:2]),
            ("choose-open", self.ids[4:]),
            ("choose-tiny", [self.ids[3]]),
        ):
            self.window.commands[command].run()
            self.assertEqual(self.session.selection.ids, frozenset(wanted))


class LeftOut(Hands):
    @staticmethod
    def box_holds(contour: Contour) -> bool:
        x0, y0, x1, y1 = contour.box
        return 225 < x0 and x1 < 312 and 50 < y0 and y1 < 300

    def test_proposed_contours_are_left_out_brought_back_and_left_out_again_at_other_settings(
        self,
    ) -> None:
        self.session.start(demo_job(), None)
        self.window.commands["edges"].run()
        self.settle()
        tool = self.tool_of(EdgesTool)
        whole = len(tool.offer.contours)
        self.drag((225, 50), (312, 300))
        left = len(tool.parted_offer()[1].contours)
        self.assertGreater(left, 1)
        for tolerance, detail in (
            (0.06, None),
            (None, 90.0),
            (None, 20.0),
        ):  # what comes there at other settings stays out as well
            tool.settings.tolerance, tool.settings.detail = tolerance, detail or 50.0
            tool.run()
            self.settle()
            self.assertEqual([c for c in tool.parted_offer()[0].contours if self.box_holds(c)], [])
        tool.settings.detail = 50.0
        self.window.commands["pick"].run()
        self.settle()
        self.window.commands["edges"].run()  # another stage was looked at meanwhile
        self.settle()
        tool = self.tool_of(EdgesTool)
        whole, left = len(tool.offer.contours), len(tool.parted_offer()[1].contours)
        self.assertGreater(left, 1)
        self.drag((225, 50), (312, 300))
        self.assertEqual((tool.settings.left_out, len(tool.parted_offer()[1].contours)), ((), 0))
        self.drag((225, 50), (312, 300))
        self.press(self.main_button())
        self.assertEqual(len(self.session.layout.contours), whole - left)
        self.window.commands["nearness"].run()
        self.settle(60)
        lines = self.tool_of(NearnessTool).answer.untraced
        self.assertGreaterEqual(len(lines), 1)
        self.assertTrue(
            all(
                225 < self.session.selection.picture.to_job.point(*line.place)[0] < 312
                for line in lines
            )
        )
        self.assertTrue(np.isfinite([line.long for line in lines]).all())
