"""What a reader hears, what keys reach, and what a weak eye can tell apart, over all stages and
slips."""

import ast
import re
import unittest
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from unittest import mock

import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QDialog, QScrollArea, QScrollBar, QWidget

from draxet.geometry.arrays import Floats
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.operating import set_operation
from draxet.job.recipe import Recipe
from draxet.job.records import Job
from draxet.ui.app import make_app
from draxet.ui.canvas import reader
from draxet.ui.controls.fields import Field, SliderField, WordField
from draxet.ui.controls.questions import _Question
from draxet.ui.controls.slip_parts import Button
from draxet.ui.demo import demo_job
from draxet.ui.look.style import dress
from draxet.ui.look.tokens import LIGHT
from draxet.ui.model.stage import Stage
from draxet.ui.shell.camera_window import CameraWindow
from draxet.ui.shell.finder import Finder
from draxet.ui.shell.history_page import HistoryPage
from draxet.ui.shell.keys_page import KeysPage
from draxet.ui.shell.left_behind import LeftBehindChooser
from draxet.ui.shell.life_size import LifeSizePage
from draxet.ui.shell.menus import with_letter
from draxet.ui.shell.pages import ThumbnailChooser
from draxet.ui.shell.window import Window
from draxet.ui.stages.make.colourings_page import ColouringsPage
from draxet.ui.stages.make.recipe_chooser import RecipeChooser
from draxet.ui.stages.trace.attempt import attempt_by
from draxet.ui.stages.trace_settings import trace_settings
from tests.shapes import ROOT
from tests.ui.driver import WindowTest

Key, Held = Qt.Key, Qt.KeyboardModifier
UI = ROOT / "src" / "draxet" / "ui"
SIGNS, WORDS = 3.0, 4.5


def luminance(colours: Floats) -> Floats:
    """Of colours (…, 3) from 0 to 255, as the accessibility guidelines for the web define it."""
    share = colours / 255.0
    linear = np.where(share <= 0.03928, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    found: Floats = linear @ np.array([0.2126, 0.7152, 0.0722])
    return found


def contrast(one: Floats, other: Floats) -> Floats:
    a, b = luminance(one), luminance(other)
    found: Floats = (np.maximum(a, b) + 0.05) / (np.minimum(a, b) + 0.05)
    return found


def of(name: str) -> Floats:
    return np.array([int(getattr(LIGHT, name)[k : k + 2], 16) for k in (1, 3, 5)], dtype=float)


def pixels(widget: QWidget) -> Floats:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    rows = np.frombuffer(bits, np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return rows[:, : image.width(), 2::-1].astype(float)


class Colours(unittest.TestCase):
    def test_words_and_signs_stand_out_from_what_lies_beneath(self) -> None:
        grounds = ("slip", "field", "bar", "brass_wash")
        for least, names, beneath in (
            (WORDS, ("graphite", "quiet", "brass_text", "moss_text", "coral_text"), grounds),
            (WORDS, ("card_text", "card_quiet", "card_note", "card_sound"), ("marking_blue",)),
            (WORDS, ("card_text", "card_quiet", "card_note"), ("card_open",)),
            (SIGNS, ("cut", "brass", "moss", "coral", "marking_blue"), ("sheet", "bench")),
            (SIGNS, ("ring", "edge", "marking_blue"), ("slip", "field")),
            (SIGNS, ("card_note",), ("card_open", "marking_blue")),
        ):
            for name in names:
                for ground in beneath:
                    with self.subTest(name, on=ground):
                        self.assertGreaterEqual(float(contrast(of(name), of(ground))), least)


class NoneDisabledSilently(unittest.TestCase):
    def test_what_a_slip_holds_is_allowed_with_a_reason_or_not_at_all(self) -> None:
        silent = [
            f"{path.name}: {ast.unparse(node)}"
            for path in (UI / "stages").rglob("*.py")
            for node in ast.walk(ast.parse(path.read_text("utf-8")))
            if isinstance(node, ast.Call)
            and isinstance(node.func, ast.Attribute)
            and node.func.attr in ("setEnabled", "setDisabled")
            and not ast.unparse(node.func.value).endswith("action")
        ]
        self.assertEqual(silent, [])


class EverySlip(WindowTest):
    def taken(self, demo: str) -> Iterator[str]:
        """Each tool that can be taken, in hand."""
        self.session.start(demo_job(demo), None)
        for command in self.window.commands.values():
            if command.stage and not command.why_not() and not command.words.endswith("…"):
                command.run()
                self.settle()
                yield command.id

    def controls(self) -> Iterator[QWidget]:
        for widget in self.window.findChildren(QWidget):
            if (
                widget.isVisible()
                and widget.focusPolicy() != Qt.FocusPolicy.NoFocus
                and not isinstance(widget, QScrollBar)
            ):
                yield widget

    def test_each_control_has_a_name_of_its_own_and_a_reason_where_it_cannot_be_used(self) -> None:
        seen = 0
        for demo in ("badge", "leaf"):
            for tool in self.taken(demo):
                names = Counter[str]()
                for control in self.controls():
                    words = control.text() if isinstance(control, QAbstractButton) else ""
                    name = control.accessibleName() or words
                    seen += 1
                    with self.subTest(tool, control=type(control).__name__, name=name):
                        self.assertTrue(name)
                        self.wait_for(lambda: min(control.height(), control.width()) >= 24)  # noqa: B023
                        if not control.isEnabled():
                            self.assertTrue(control.accessibleDescription())
                            self.assertTrue(control.toolTip())
                        if isinstance(control, SliderField):
                            self.assertTrue(control.slider.accessibleDescription())
                    if self.window.slips.isAncestorOf(control):
                        names[f"{type(control).__name__}: {name}"] += 1
                self.assertEqual({k for k, n in names.items() if n > 1}, set(), tool)
        self.assertGreater(seen, 1500)

    def test_what_has_the_keys_is_seen_by_its_shape_or_a_strong_line(self) -> None:
        weak, known = dict[tuple[object, ...], float](), set[tuple[object, ...]]()
        for _ in self.taken("badge"):
            for control in self.controls():
                checked = isinstance(control, QAbstractButton) and control.isChecked()
                kind = (type(control).__name__, control.property("part"), checked)
                if kind in known or control is self.canvas or not QWidget.isEnabled(control):
                    continue
                known.add(kind)
                self.canvas.setFocus()
                self.app.processEvents()
                before = pixels(control)
                control.setFocus(Qt.FocusReason.TabFocusReason)
                self.app.processEvents()
                after = pixels(control)
                if before.shape == after.shape:
                    plain = int((contrast(before, after) >= SIGNS).sum())
                    if plain < 40:
                        weak[kind] = plain
        self.assertGreater(len(known), 12)
        self.assertEqual(weak, {})


class EveryDialog(WindowTest):
    def dialogs(self) -> dict[str, QDialog]:
        """One of each kind."""
        window, session = self.window, self.session
        small = [(np.zeros((20, 20, 3), np.uint8), "first"), (np.zeros((20, 20, 3), np.uint8), "2")]
        attempt = attempt_by(trace_settings(session))
        recipe = Recipe("recipe-0", "Plain", "desk-laser", "plywood", 3.0, "cut")
        return {
            "_Question": _Question(
                window, "Name", "What is it called?", WordField("What is it called?"), "Take"
            ),
            "CameraWindow": CameraWindow(window.workers, window, attempt),
            "Finder": Finder(list(window.commands.values()), window),
            "HistoryPage": HistoryPage(session, window),
            "KeysPage": KeysPage(list(window.commands.values()), Stage.MEND, window),
            "LeftBehindChooser": LeftBehindChooser([], window),
            "LifeSizePage": LifeSizePage(3.8, window),
            "ThumbnailChooser": ThumbnailChooser("Pages", "Which page?", small, "Take", window),
            "ColouringsPage": ColouringsPage(window, session),
            "RecipeChooser": RecipeChooser(window, [recipe], [recipe], "Recipes", "mm/min"),
        }

    def test_each_control_of_each_dialog_has_a_name_of_its_own(self) -> None:
        kinds = {
            node.name
            for path in UI.rglob("*.py")
            for node in ast.walk(ast.parse(path.read_text("utf-8")))
            if isinstance(node, ast.ClassDef)
            and any(ast.unparse(base) == "QDialog" for base in node.bases)
        }
        job = add_contours(demo_job("patch"), [Contour.circle(60, 45, 15)], colours=["#cc2222"])
        stitch = replace(job.operations[0], contours=(job.contours[0].id,))
        self.session.start(set_operation(job, stitch), None)
        self.settle()
        dialogs = self.dialogs()
        self.assertEqual(set(dialogs), kinds, "a dialog that nobody looks at here")
        for kind, dialog in dialogs.items():
            dialog.show()
            QTest.qWait(30)
            names = Counter[str]()
            for control in dialog.findChildren(QWidget):
                if (
                    not control.isVisible()
                    or control.focusPolicy() == Qt.FocusPolicy.NoFocus
                    or isinstance(control, QScrollBar | QScrollArea)
                ):
                    continue
                words = control.text() if isinstance(control, QAbstractButton) else ""
                name = control.accessibleName() or words
                names[f"{type(control).__name__}: {name}"] += 1
                with self.subTest(kind, control=type(control).__name__, name=name):
                    self.assertTrue(name)
                    if not QWidget.isEnabled(control):
                        self.assertTrue(control.accessibleDescription())
            self.assertEqual({k for k, n in names.items() if n > 1}, set(), kind)
            self.assertGreater(len(names), 0, kind)
            dialog.close()
            if not sip.isdeleted(dialog):
                dialog.deleteLater()
            self.settle()


class Menus(WindowTest):
    def test_each_entry_has_a_letter_that_no_other_has_and_no_menu_is_higher_than_a_screen(
        self,
    ) -> None:
        self.session.start(demo_job(), None)
        self.settle()
        bar = self.window.menuBar()
        assert bar is not None
        waiting, found = [bar.actions()], set[str]()
        while waiting:
            entries = waiting.pop()
            texts = [act.text() for act in entries if not act.isSeparator()]
            letters = [
                text[text.replace("&&", "  ").find("&") + 1].lower()
                for text in texts
                if re.search("(?<!&)&(?!&)", text)
            ]
            with self.subTest(texts[0]):
                self.assertEqual(len(letters), len(set(letters)))
                self.assertGreaterEqual(len(letters), len(texts) - 2)
            found |= {act.data() for act in entries if act.data()}
            for act in entries:
                if (menu := act.menu()) is not None:
                    self.assertLessEqual(menu.sizeHint().height(), 540)
                    waiting.append(menu.actions())
        self.assertEqual(
            found, {command.id for command in self.window.commands.values() if command.menu}
        )

    def test_letters_stay_unique_however_words_repeat(self) -> None:
        taken = set[str]()
        made = [with_letter(words, taken) for words in ("Size", "Size", "Size", "A & B", "42")]
        self.assertEqual(made, ["&Size", "S&ize", "Si&ze", "&A && B", "42"])


class LargeWords(WindowTest):
    def test_card_and_slip_give_way_to_the_canvas_and_come_back(self) -> None:
        for scale, wide, high, folded, over in (
            (1.0, 960, 540, False, False),
            (1.0, 1280, 800, False, False),
            (1.5, 960, 540, True, False),
            (1.5, 1280, 800, False, False),
            (2.0, 960, 540, True, True),
            (2.0, 1280, 800, True, False),
        ):
            with self.subTest(scale=scale, wide=wide):
                dress(make_app(), LIGHT, scale)
                self.addCleanup(dress, make_app(), LIGHT, 1.0)
                window = Window()
                try:
                    window.resize(wide, high)
                    self.look_at(window, folded, over)
                finally:
                    window.session.document.history = window.session.document.history.after_save()
                    window.close()
                    window.deleteLater()
                    self.settle()

    def look_at(self, window: Window, folded: bool, over: bool) -> None:
        wide, high = window.width(), window.height()
        window.show()
        window.activateWindow()
        QTest.qWaitForWindowActive(window)
        window.session.start(demo_job("leaf"), None)
        window.session.open_stage(Stage.MEND)
        QTest.qWait(50)
        self.assertEqual((window.width(), window.height()), (wide, high))
        self.assertGreaterEqual(window.canvas.width(), 380)
        shown = [value for value in window.facts.values.values() if value.isVisible()]
        self.assertIn(window.facts.values["Size"], shown)
        self.wait_for(lambda: all(v.width() >= v.sizeHint().width() for v in shown))
        bar = window.menuBar()
        assert bar is not None
        last = bar.actionGeometry(bar.actions()[-1])
        self.assertLess(last.right(), bar.width() - window._name.width())
        self.assertGreater(last.width(), 0)
        button = window.card.buttons["pick"]
        self.assertEqual(button.folded, folded)
        self.assertTrue(button.accessibleName())
        self.assertNotEqual(window.slips.isVisible(), over)
        if over:
            self.slip_over_the_canvas(window)

    def slip_over_the_canvas(self, window: Window) -> None:
        window.canvas.setFocus()
        QTest.keyClick(window.canvas, Key.Key_F6)
        self.assertTrue(window.slips.isVisible())
        self.assertTrue(window.slips.isAncestorOf(self.app.focusWidget() or window))
        self.assertGreaterEqual(window.slips.x(), 0)
        QTest.keyClick(self.app.focusWidget() or window, Key.Key_Escape)
        self.assertFalse(window.slips.isVisible())
        self.assertIs(self.app.focusWidget(), window.canvas)
        window.session.open_stage(Stage.TRACE)
        window.commands["edges"].run()
        self.wait_for(lambda: not window.workers.busy())
        self.assertFalse(window.slips.isVisible())
        QTest.keyClick(window.canvas, Key.Key_Return)  # the brass button acts all the same
        self.wait_for(lambda: len(window.session.job.contours) > 0)
        self.press(window.room.opens)
        self.assertTrue(window.slips.isVisible())
        window.resize(1700, 540)
        QTest.qWait(30)
        self.assertTrue(window.slips.isVisible())
        self.assertEqual(window.slips.x() + window.slips.width(), window.room.width())
        self.assertTrue(window.room.opens.isHidden())


class Heard(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        plate = Contour.make([(20, 20), (100, 20), (100, 70), (20, 70)])
        some = [
            plate,
            Contour.circle(60, 45, 15),
            Contour.make([(150, 30), (190, 80)], closed=False),
        ]
        self.session.start(add_contours(Job("Plate"), some), None)
        self.settle()

    def test_the_canvas_says_what_it_shows_and_goes_through_its_contours_by_keys(self) -> None:
        self.assertIn("3 contours, 1 of them open", self.canvas.accessibleDescription())
        heard = []
        for key in (".", ".", ".", ".", ",", ","):
            self.keys(key, held=Held.ControlModifier, on=self.canvas)
            heard.append(self.canvas.accessibleName())
        for said, wanted in zip(
            heard,
            (
                "1 of 3: closed contour, 80 mm × 50 mm",
                "2 of 3: circle, 30 mm × 30 mm",
                "3 of 3: open contour",
                "1 of 3: closed",
                "3 of 3: open",
                "2 of 3: circle",
            ),
            strict=True,
        ):
            self.assertIn(wanted, said)
        self.assertIn("1 chosen, 30 mm × 30 mm", self.canvas.accessibleDescription())
        self.assertIn("F6 leaves", self.canvas.accessibleDescription())
        self.keys("z", held=Held.ControlModifier, on=self.canvas)
        self.assertIn(self.top_words, self.canvas.accessibleName())

    def test_where_qt_cannot_be_asked_the_lists_are_there_and_nothing_is_announced(self) -> None:
        self.assertEqual(self.window.heard.lists, ())  # nobody listens
        with mock.patch.object(reader, "_qt", lambda: None):
            self.session.selection.choose({self.session.job.contours[1].id})
            self.settle()
            reader.announce(self.canvas, "nobody hears this", urgent=True)
            contours, nodes, findings = self.window.heard.lists
            self.assertEqual([len(contours.things), len(nodes.things)], [3, 0])
            self.assertEqual([row.row() for row in contours.selectedIndexes()], [1])
            self.assertEqual([each.isVisible() for each in (contours, nodes)], [True, False])
            self.session.undo()
            self.settle()
            self.assertEqual(contours.things, self.session.selection.pickable)
            place = contours.visualRect(contours.model().index(7))
            self.assertTrue(place.isEmpty(), "a row that is not there lies nowhere")
            every = frozenset(item.id for item in self.session.job.contours)
            contours.selectAll()
            self.assertEqual(self.session.selection.ids, every)

    def test_lists_that_are_made_anew_keep_the_keys_on_their_row_or_the_next(self) -> None:
        self.session.start(add_contours(demo_job(), [Contour.circle(60, 45, 15)]), None)
        self.settle()

        def named(part: str) -> QAbstractButton:
            return next(
                each
                for each in self.window.slips.findChildren(QAbstractButton)
                if part in each.accessibleName() and each.isVisible()
            )

        eye = named("Hide ")
        eye.setFocus()
        self.keys(Key.Key_Space, on=eye)
        self.settle()
        self.assertIs(self.app.focusWidget(), named("Show "))
        for tool in ("cut", "score", "pocket"):
            self.take(tool)
            self.keys(Key.Key_Return, on=self.canvas)
        names = [operation.name for operation in self.session.job.operations]
        self.assertGreater(len(names), 2)
        away = named(f"Remove {names[0]}")
        away.setFocus()
        self.keys(Key.Key_Space, on=away)
        self.settle()
        self.assertEqual(len(self.session.job.operations), len(names) - 1)
        self.assertIs(self.app.focusWidget(), named(f"Remove {names[1]}"))

    def test_a_refused_field_says_why_until_it_is_right(self) -> None:
        self.take("pick")
        self.session.selection.choose({self.session.job.contours[0].id})
        self.settle()
        field = next(
            each for each in self.slip.findChildren(Field) if each.accessibleName() == "Line width"
        )
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "broad")
        self.keys(Key.Key_Tab, on=field)
        self.assertIn("not taken: ", field.accessibleDescription())
        self.assertIn("broad", field.accessibleDescription())
        field.setFocus()
        self.keys(Key.Key_Escape, on=field)
        self.assertEqual(field.accessibleDescription(), "")

    def test_a_button_that_cannot_be_pressed_is_reached_and_says_why(self) -> None:
        self.take("pick")
        self.session.selection.choose({self.session.job.contours[0].id})
        self.settle()
        button = next(
            each for each in self.slip.findChildren(Button) if each.text() == "Take it apart"
        )
        self.assertFalse(button.isEnabled())
        self.assertIn(button, self.window.slips._stops())
        job = self.session.job
        for press in (lambda: self.press(button), lambda: self.keys(Key.Key_Space, on=button)):
            self.session.messages.announced.emit("something else")
            button.setFocus()
            press()
            self.assertIn("choose a part first", self.top_words)
        self.assertIs(self.session.job, job)
        self.assertEqual(button.toolTip(), "Choose a part first")

    def test_the_finder_is_walked_row_by_row(self) -> None:
        finder = Finder(list(self.window.commands.values()), self.window)
        finder.show()
        finder.activateWindow()
        QTest.qWaitForWindowActive(finder)
        finder.field.setFocus()
        QTest.keyClicks(finder.field, "choose")
        self.keys(Key.Key_Down, on=finder.field)
        self.assertTrue(finder.list.hasFocus())
        self.assertEqual(finder.list.currentRow(), 1)
        self.keys("n", on=finder.list)
        self.assertTrue(finder.field.hasFocus())
        self.assertEqual(finder.field.text(), "choosen")
        self.keys(Key.Key_Backspace, Key.Key_Down, Key.Key_Up, Key.Key_Up, on=finder.field)
        finder.reject()
        finder.deleteLater()

    def test_f6_reaches_the_facts_too(self) -> None:
        self.canvas.setFocus()
        for _ in range(2):  # the slip has nothing to stop at
            self.keys(Key.Key_F6)
        self.assertTrue(self.window.facts.isAncestorOf(self.app.focusWidget() or self.canvas))
        self.keys(Key.Key_Escape)
        self.assertIs(self.app.focusWidget(), self.canvas)
