"""From an old drawing to what is turned: the knob, and a canopy with its columns, through the real
window; each with what people do wrong on the way."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "demo"))

import canopy  # noqa: E402

from draxet.geometry.mesh import is_closed, volume_of
from draxet.job.findings import Gravity
from draxet.job.operations import Raise, Turn
from draxet.make.solids.solid_sheet import SolidSheet
from draxet.ui.demo import demo_job
from draxet.ui.model.stage import Stage
from draxet.ui.stages.make.operations import OperationSlip
from draxet.ui.stages.make.turn_tool import TurnTool
from draxet.ui.stages.mend.arrange_tools import ArrangeSlip
from tests.make.test_exact_solids import opened
from tests.ui.test_raising import BodiesTest

Key = Qt.Key
Shift = Qt.KeyboardModifier.ShiftModifier
Way = tuple[float, float]


class Turned(BodiesTest):
    def draw(self, *steps: tuple[str, Way]) -> str:
        """A contour by clicks, the kind of span changed by its key; the id of what came of it."""
        before = {item.id for item in self.session.job.contours}
        self.session.open_stage(Stage.TRACE)
        self.take("draw")
        for kind, place in steps:
            if kind:
                self.type_over(kind)
            self.click(*place, held=Qt.KeyboardModifier.AltModifier)
        self.keys(Key.Key_Return, on=self.canvas)
        (made,) = {item.id for item in self.session.job.contours} - before
        self.keys(Key.Key_Escape, on=self.canvas)
        return made

    def choose(self, *names: str) -> None:
        self.session.selection.choose(frozenset(names))
        self.settle()

    def operation(self, kind: type[Any]) -> Any:
        return [each for each in self.session.job.operations if isinstance(each, kind)][-1]


class Knob(Turned):
    def test_the_drawn_knob_is_traced_turned_and_leaves_as_exact_solid(self) -> None:
        self.session.start(demo_job("knob"), None)
        nodes = [(float(x), float(y)) for x, y in canopy.knob().nodes]
        kinds = ("", "l", "l", "u", "l", "u", "u")
        profile = self.draw(*zip(kinds, nodes, strict=True))
        self.assertFalse(self.session.job.contour_by_id[profile].contour.closed)
        self.session.open_stage(Stage.MAKE)
        self.take("turned")
        self.push("Along an edge")
        self.click(100, 80)  # there is none
        self.assertIn("no straight line here", self.top_words)
        self.click((nodes[0][0] + nodes[1][0]) / 2, nodes[0][1])  # the wrong edge: a level axis
        self.press(self.slip_of(OperationSlip).give)
        turned_flat = self.made()
        self.assertGreater(turned_flat.size[0], 100.0)  # turned about its foot
        self.session.undo()
        self.session.undo()
        self.push("By one place")
        self.click(*nodes[0], held=Qt.KeyboardModifier.AltModifier)
        self.press(self.slip_of(OperationSlip).give)
        knob = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        self.assertAlmostEqual(knob.size[2], 64.0, delta=0.5)
        self.assertAlmostEqual(knob.size[0], 34.0, delta=0.8)
        self.assertTrue(is_closed(knob.meshes[0]))
        folder = self.leave("bodies-step", "bodies-stl")
        ((valid, volume, _),) = opened((folder / "body.step").read_bytes())
        self.assertTrue(valid)
        self.assertAlmostEqual(volume / volume_of(knob.meshes[0]), 1, delta=2e-3)


class Canopy(Turned):
    def on_detail(self, x: float, y: float) -> Way:
        """A place of the detail's paper, where the detail lies now."""
        detail = self.session.job.pictures[-1]
        scale = canopy.DPI / 25.4
        pixel = (x * scale, (canopy.PAPER[1] - y) * scale)
        found: Way = detail.to_job.point(*detail.to_base.inverse().point(*pixel))
        return found

    def test_ten_columns_from_one_under_a_led_moulding(self) -> None:
        self.session.start(demo_job("canopy"), None)
        self.canvas.fit_all()
        aside = 10.0  # the paper lies in the middle of its sheet
        foot_x, foot_y = canopy.DETAIL
        whole = self.session.job.pictures[0]
        self.session.open_stage(Stage.TRUE_UP)
        self.take("own-scale")
        self.drag((foot_x - 8 + aside, 15 + aside), (foot_x + 40 + aside, 160 + aside))
        self.take("known-length")
        for y in (foot_y, foot_y + canopy.TOP):
            self.click(*self.on_detail(foot_x + 26, y), held=Qt.KeyboardModifier.AltModifier)
        self.keys("4", "8", Key.Key_Return)  # 2400 mm at 1 : 50
        self.assertEqual(self.session.job.pictures[0], whole)
        tall = self.on_detail(foot_x, foot_y + canopy.TOP)[1] - self.on_detail(foot_x, foot_y)[1]
        self.assertAlmostEqual(tall, 48.0, delta=0.3)
        _, shaft, cap = canopy.column()
        curve = self.draw(
            ("u", self.on_detail(*shaft.nodes[0])),
            *(
                ("", self.on_detail(*shaft.spans.at(np.array([0]), np.array([t]))[0]))
                for t in (0.5, 1)
            ),
        )
        capital = self.draw(
            *(("", self.on_detail(*place)) for place in cap.nodes[:2]),
            ("o", self.on_detail(*cap.nodes[2])),
            *(("l", self.on_detail(*place)) for place in cap.nodes[3:]),
        )
        middle = (canopy.PLAN[0] + aside, canopy.PLAN[1] + aside)
        column = (middle[0], middle[1] - canopy.COLUMNS)
        circles = [self.circle(*middle, canopy.ROOF), self.circle(*column, 3.0)]
        roof, round_ = circles
        self.take("box")
        self.click(column[0] - 4, column[1] - 4, held=Qt.KeyboardModifier.AltModifier)
        self.type_over("8\t8\n")
        square = self.session.job.contours[-1].id
        # the capital stands where its axis is put: at the column
        self.session.open_stage(Stage.MEND)
        self.choose(capital)
        self.take("move")
        foot = self.on_detail(*cap.nodes[0])
        self.click(*foot, held=Qt.KeyboardModifier.AltModifier)
        self.click(*column, held=Qt.KeyboardModifier.AltModifier)
        self.session.open_stage(Stage.MAKE)
        self.raise_square(square)
        self.put_shaft(round_, curve)
        self.turn_capital(capital, column)
        once = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        self.assertAlmostEqual(once.size[2], 48.0, delta=0.4)
        volume = once.volume
        self.ring(square, round_, capital)
        ten = self.made()
        self.assertAlmostEqual(ten.volume / volume, 10, delta=1e-3)
        self.assertAlmostEqual(ten.size[0], 2 * canopy.COLUMNS, delta=12)
        self.lead_moulding(roof)
        crowned = self.made()
        self.assertEqual(self.findings(Gravity.STOPS), [])
        self.assertGreater(crowned.volume, ten.volume)
        self.assertEqual((1, 10, 10, 1), self.kinds_of(crowned))
        self.session.open_stage(Stage.MAKE)
        given = next(o for o in self.session.job.operations if o.contours == (round_,))
        tool = self.tool_of(TurnTool)
        tool.take_in_hand(given)
        self.settle()
        self.fill(self.slip_of(OperationSlip).asked["above"], "2 mm")
        slim = self.made()
        self.assertEqual((1, 10, 10, 1), self.kinds_of(slim))
        before, after = (sorted(map(volume_of, each.meshes)) for each in (crowned, slim))
        changed = ~np.isclose(before, after, rtol=1e-9)
        self.assertEqual(10, int(changed.sum()))  # all of them by one number
        view = self.see()
        self.drag_view(view, 0, -260)
        self.assertLess(view.seen_so.above, -10.0)  # from below
        self.assertGreater(int((self.seen(view).which >= 0).sum()), 10_000)
        self.session.undo()
        self.assertAlmostEqual(self.made().volume, crowned.volume, 6)

    def kinds_of(self, solid: SolidSheet) -> tuple[int, ...]:
        """How many bodies there are of each volume: plinths as one, shafts, capitals, the moulding."""
        sizes = [round(volume_of(mesh), 1) for mesh in solid.meshes]
        return tuple(sizes.count(size) for size in dict.fromkeys(sizes))

    def drag_view(self, view: QWidget, dx: int, dy: int) -> None:
        begin = view.rect().center()
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=begin)
        for k in range(1, 6):
            QTest.mouseMove(view, begin + QPoint(dx, dy) * k / 5)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=begin + QPoint(dx, dy))
        self.settle(300)

    def circle(self, x: float, y: float, radius: float) -> str:
        self.session.open_stage(Stage.TRACE)
        self.take("circle")
        self.click(x, y, held=Qt.KeyboardModifier.AltModifier)
        self.type_over(f"{radius:g}\n")
        return self.session.job.contours[-1].id

    def raise_square(self, square: str) -> None:
        self.take("raise")
        self.choose(square)
        slip = self.slip_of(OperationSlip)
        self.fill(slip.asked["height"], "4 mm")
        self.press(slip.give)
        self.assertEqual(self.operation(Raise).contours, (square,))

    def put_shaft(self, round_: str, curve: str) -> None:
        self.take("turned")
        slip = self.slip_of(OperationSlip)
        self.press(slip.asked["how"].button("shaft"))
        self.fill(slip.asked["height"], "38 mm")
        self.fill(slip.asked["level"], "4 mm")
        self.choose(curve)
        self.press(slip.give)  # a shaft upon the curve
        self.assertIn("an outline is open here", self.top_words)
        self.choose(round_)
        self.push("By the chosen curve")  # the circle is no curve
        self.assertIn("the curve must be open", self.top_words)
        self.choose(curve)
        self.push("By the chosen curve")
        self.choose(round_)
        self.press(slip.give)
        self.assertEqual(
            (self.operation(Turn).contours, self.operation(Turn).curve), ((round_,), curve)
        )

    def turn_capital(self, capital: str, column: Way) -> None:
        self.keys(Key.Key_Escape, on=self.canvas)
        self.take("turned")
        slip = self.slip_of(OperationSlip)
        self.press(slip.asked["how"].button("turned"))
        self.fill(slip.asked["level"], "42 mm")
        self.push("By one place")
        self.click(column[0] + 2, column[1], held=Qt.KeyboardModifier.AltModifier)  # beside it
        self.choose(capital)
        self.press(slip.give)
        self.assertIn("reaches over its axis", self.top_words)
        self.session.undo()
        self.push("By one place")
        self.click(*column)  # the circle's middle is caught
        self.choose(capital)
        self.press(slip.give)
        self.assertEqual(self.operation(Turn).contours, (capital,))

    def ring(self, *names: str) -> None:
        self.session.open_stage(Stage.MEND)
        self.choose(*names)
        self.take("ring")
        slip = self.slip_of(ArrangeSlip)
        self.press(slip.asked["linked"])
        slip._set_empty("6, 8")
        self.hover(canopy.PLAN[0] + 10.5, canopy.PLAN[1] + 9.5)  # the middle of the roof
        self.type_over("12\n")
        self.session.open_stage(Stage.MAKE)

    def lead_moulding(self, roof: str) -> None:
        moulding = self.draw(
            *(
                (kind, place)
                for kind, place in zip(
                    ("l", "", "", ""), ((250, 150), (255, 150), (253, 156), (250, 156)), strict=True
                )
            )
        )
        self.session.open_stage(Stage.MEND)
        self.choose(moulding)
        self.take("pick")
        slip: Any = self.slip
        self.press(slip.join)
        moulding = self.session.job.contours[-1].id
        self.session.open_stage(Stage.MAKE)
        self.take("turned")
        self.fill(self.slip_of(OperationSlip).asked["level"], "48 mm")
        self.push("By one place")
        self.click(250, 150)
        self.choose(roof)
        self.push("Lead along the chosen contour")
        self.choose(moulding)
        self.press(self.slip_of(OperationSlip).give)
        self.assertEqual(
            (self.operation(Turn).contours, self.operation(Turn).path), ((moulding,), roof)
        )
