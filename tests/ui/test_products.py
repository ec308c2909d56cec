"""What a machine makes of operations is a product: one from outside, which is no program, is worked
out, told, looked at, painted, and left as bytes."""

from __future__ import annotations

import struct
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import mock

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath

from draxet.geometry.contour import Contour
from draxet.job import machine_kinds
from draxet.job.contour_edits import add_contours
from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds.machine_kind import Machine, MachineKind
from draxet.job.operating import add_operation, choose_machine, set_machine
from draxet.job.operations import Score
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.leaving import LEAVING_KINDS
from draxet.leaving.leaving_kind import LeavingKind, ReadBack
from draxet.make import products
from draxet.prove import run
from draxet.record import record
from draxet.ui.canvas import programs
from draxet.ui.canvas.bunches import Bunch, ProgramPaths
from draxet.ui.model.stage import Stage
from draxet.ui.stages.prove.hand_off import HandOffSlip
from tests.ui.driver import WindowTest


@record(frozen=True)
class Press(Machine):
    """It presses a dot at every node."""

    traits = MachineKind(
        "press", works=("Score",), settings=frozenset(), checks=("Inked",), product="dots"
    )


@record(frozen=True)
class Dots:
    machine: Machine
    places: tuple[tuple[float, float], ...]

    product = "dots"
    cut_mm, travel_mm = 1.0, 0.0

    def __len__(self) -> int:
        return len(self.places)

    @property
    def told(self) -> str:
        return "glued"

    @property
    def seconds(self) -> float:
        return 30.0 * len(self)

    @property
    def box(self) -> tuple[float, float, float, float]:
        xs, ys = zip(*self.places, strict=True)
        return min(xs), min(ys), max(xs), max(ys)


def dots_of(job: Job, sheet: Sheet, machine: Machine, report: Any, before: Any) -> Dots:
    x, y = sheet.origin_place
    return Dots(
        machine,
        tuple(
            (float(there[0] - x), float(there[1] - y))
            for operation in job.operations
            for _, contour in job.worked_on(operation, sheet)
            for there in contour.nodes
        ),
    )


def close_dots(seen: Job, every: Job, sheet: Sheet, dots: Dots) -> Any:
    return (lambda: [Finding("dots", f"{len(dots)} dots to ink", Gravity.INFORMS, "make")],)


def dot_paths(dots: Dots, run: Any, report: Any) -> ProgramPaths:
    x0, y0 = run.sheet.origin_place
    path = QPainterPath()
    for x, y in dots.places:
        path.addEllipse(QPointF(x + x0, y + y0), 3.0, 3.0)
    return ProgramPaths((dots,), (Bunch(path, QRectF(path.boundingRect())),))


def read_dots(dots: Dots, path: Path, report: Any) -> ReadBack:
    found = tuple(struct.iter_unpack("<2d", path.read_bytes()))
    return ReadBack(found == dots.places, f"{len(found)} dots")


DOTS = LeavingKind(
    "dots",
    "Dots",
    ".dots",
    lambda leaving, path: leaving.product,
    lambda dots, report: b"".join(struct.pack("<2d", *place) for place in dots.places),
    read_dots,
    signs=True,
    of="dots",
)


class Products(WindowTest):
    def setUp(self) -> None:
        for registry, made in (
            (products.PRODUCTS, dots_of),
            (run.RUN_LOOKS, close_dots),
            (programs.PRODUCT_PATHS, dot_paths),
        ):
            planted = mock.patch.dict(registry, {"dots": made})
            planted.start()
            self.addCleanup(planted.stop)
        LEAVING_KINDS.append(DOTS)
        self.addCleanup(LEAVING_KINDS.remove, DOTS)
        kinds = (*machine_kinds.MACHINE_KINDS, Press)
        offered = mock.patch.object(machine_kinds, "MACHINE_KINDS", kinds)
        offered.start()
        self.addCleanup(offered.stop)
        super().setUp()

    def test_one_from_outside_is_told_looked_at_painted_and_left(self) -> None:
        drawn = Contour.make([(50, 50), (150, 50), (150, 120), (50, 120)])
        job = add_contours(Job("Plate", sheets=(Sheet(width=300, height=200),)), [drawn])
        job = choose_machine(set_machine(job, Press("press", "Press", 1.0)), "sheet-0", "press")
        self.session.start(add_operation(job, Score(contours=("contour-1",))), None)
        self.session.open_stage(Stage.MAKE)
        self.wait_for(lambda: bool(self.session.looked.products))
        (made,) = self.session.looked.products
        assert isinstance(made, Dots)
        self.assertEqual(len(made), 4)
        self.settle(200)
        self.assertEqual(self.window.facts.values["Time"].text(), "2 min 0 s")
        self.assertEqual(self.window.facts.values["Sewn"].text(), "glued")
        self.assertIn("4 dots to ink", [each.words for each in self.session.looked.findings])
        at = self.place(150, 123)
        before = self.canvas.grab().toImage().pixelColor(at)
        self.session.edit("less", replace(self.session.job, operations=()))
        self.wait_for(lambda: not self.session.looked.products)
        self.settle(200)
        self.assertNotEqual(self.canvas.grab().toImage().pixelColor(at), before)
        self.session.undo()
        self.session.open_stage(Stage.PROVE)
        self.take("hand-off")
        slip = self.slip_of(HandOffSlip)
        self.assertTrue(slip.ticks["program"].isHidden() and slip.ticks["pattern"].isHidden())
        for key, box in slip.ticks.items():
            if box.isChecked() != (key == "dots"):
                box.click()
        with tempfile.TemporaryDirectory() as folder:
            slip.leave_all(Path(folder), "Plate")
            self.wait_for(lambda: "Plate.dots handed off" in self.top_words)
            self.assertEqual((Path(folder) / "Plate.dots").stat().st_size, 4 * 16)
        self.assertTrue(self.session.job.is_handed_off(self.session.job.sheet))
        self.take("rehearse")
        self.settle(100)  # nothing of it is a program that could be played
