"""Every operation on every machine that can do it, with whatever can be set of it: its program is
made, written, read back and rehearsed."""

import itertools
import random
import unittest
from dataclasses import fields, replace
from typing import Any

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import rounded_polygon
from draxet.job.codec import fields_of, notes_of
from draxet.job.contour_edits import add_contours
from draxet.job.machine_kinds import MACHINES, Machine
from draxet.job.operating import add_operation, set_machine
from draxet.job.operations import OPERATION_KINDS, Operation
from draxet.job.ranges import OneOf, Within
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.job.sides import runs_of, side_of
from draxet.machines.controller import read_program
from draxet.make.program_making import program_of
from draxet.prove.program_file import compared, program_text, rehearsed

RING = [Contour.circle(40, 40, 30), Contour.circle(40, 40, 12)]
SHAPES = {
    "circle": [Contour.circle(30, 30, 8)],
    "ring": RING,
    "round": [rounded_polygon([(10, 10, 4), (70, 14, 9), (60, 60, 3), (20, 50, 6)])],
    "free": [
        Contour.make(
            [(20, 20), (60, 30)], [2, 2], None, [[(30, -10), (60, 0)], [(60, 70), (10, 60)]]
        )
    ],
    "open": [Contour.make([(10, 10), (60, 10), (60, 50)], [0, 1], [0, 0.4], closed=False)],
}
PROGRAMMED = tuple(machine for machine in MACHINES if machine.traits.product == "lines")
NUMBERS: dict[str, tuple[float, ...]] = {
    "passes": (3,),
    "pass_depth": (0.7, 1.0),
    "tabs": (2,),
    "tab_height": (1.0,),
    "lead": (3.0,),
    "overrun": (0.0, 2.0),
    "depth": (0.0, 0.9, 2.2),
    "peck": (0.5,),
    "slope": (20.0,),
    "finish": (0.3,),
    "small": (40.0,),
    "pierce": (0.4,),
    "pen": (3,),
    "spacing": (1.0,),
    "diameter": (3.0, 3.175),
    "width": (3.175, 1.0),
    "feed": (600.0, 1234.5),
}
"""Values of numbers that lead elsewhere in the program; those of choices and switches are all there
are."""


def settings_of(kind: type[Operation]) -> dict[str, tuple[Any, ...]]:
    found: dict[str, tuple[Any, ...]] = {}
    for name, of, default in fields_of(kind):
        notes = notes_of(kind())[name]
        choices = next((note.choices for note in notes if isinstance(note, OneOf)), ())
        if type(default) is bool:
            found[name] = (True, False)
        elif choices or isinstance(of, type) and hasattr(of, "__members__"):
            found[name] = choices or tuple(of)
        elif name in NUMBERS:
            found[name] = tuple(
                value
                for value in NUMBERS[name]
                if not any(isinstance(note, Within) and note.wants(value) for note in notes)
            )
    return found


def cases(kind: type[Operation], machine: Machine) -> list[tuple[str, Operation]]:
    """Each setting alone, and some dozens of them together."""
    rng, settings = random.Random(f"{kind.__name__} {machine.id}"), settings_of(kind)
    alone: list[dict[str, Any]] = [
        {name: value} for name, values in settings.items() for value in values
    ]
    together = [
        {name: rng.choice(values) for name, values in settings.items() if rng.random() < 0.6}
        for _ in range(24)
    ]
    quick = {"spacing": 1.5} if "spacing" in settings else {}
    return [
        (", ".join(f"{k} {v}" for k, v in some.items()), kind(**{**quick, **some}))
        for some in ({}, *alone, *together)
    ]


class EveryOperation(unittest.TestCase):
    def test_what_can_be_set_is_known_here(self) -> None:
        """A number that is added tomorrow is either harmless or stands in the table."""
        harmless = {"power", "angle", "stepover", "tab", "small_feed"}
        for kind in OPERATION_KINDS:
            if not any(machine.can_do(kind()) for machine in PROGRAMMED):
                continue
            numbers = {f.name for f in fields(kind) if type(f.default) in (int, float)}  # type: ignore[arg-type]
            self.assertEqual(numbers - NUMBERS.keys() - harmless, set(), kind)

    def test_its_file_reads_back_and_its_run_is_sound(self) -> None:
        tried = 0
        for machine, kind in itertools.product(PROGRAMMED, OPERATION_KINDS):
            if not machine.can_do(kind()):
                continue
            for n, (words, operation) in enumerate(cases(kind, machine)):
                shape = list(SHAPES)[n % len(SHAPES)] if n % 7 else "circle"
                job = self.job_of(operation, shape, machine)
                with self.subTest(
                    machine=machine.id, kind=kind.__name__, shape=shape, settings=words
                ):
                    tried += self.tried(job, machine)
        self.assertGreater(tried, 250)

    def job_of(self, operation: Operation, shape: str, machine: Machine) -> Job:
        if operation.wrong_with([("a", contour) for contour in SHAPES[shape]]):
            shape = "circle"
        job = add_contours(
            Job(sheets=(Sheet(width=120, height=120, thickness=3.0, machine=machine.id),)),
            SHAPES[shape],
        )
        return add_operation(
            set_machine(job, machine),
            replace(operation, contours=tuple(item.id for item in job.contours)),
        )  # type: ignore[type-var]

    def tried(self, job: Job, machine: Machine) -> int:
        (run,) = runs_of(job)
        program = program_of(side_of(job, run), run.sheet, machine)
        if not len(program):  # a pocket without room for its tool
            return 0
        for dialect in (machine.dialect, replace(machine.dialect, inches=True, decimals=4)):
            program = replace(program, machine=replace(machine, dialect=dialect))
            there = set_machine(job, program.machine)
            text = program_text(there, run, program)
            found = compared("o.nc", text, run, program)
            self.assertTrue(found.matches, found)
            played = rehearsed(text, run, there)
            self.assertEqual(
                [trouble.words for trouble in played.troubles if trouble.kind not in ("loose",)], []
            )
            steps = read_program(text, dialect)
            down = (steps.to[:, 2] < steps.begins[:, 2] - 1e-9) & (
                np.hypot(*(steps.to - steps.begins)[:, :2].T) < 1e-9
            )
            into = down & (steps.to[:, 2] < 0)
            self.assertTrue(
                (steps.feed[into] <= machine.plunge * 1.001).all() and not steps.rapid[into].any(),
                "straight down faster than the plunge",
            )
            if played.work.any():  # what is scored 0 deep only touches the sheet
                self.assertAlmostEqual(
                    played.seconds, program.seconds, delta=0.35 * program.seconds + 2.0
                )
        return 1
