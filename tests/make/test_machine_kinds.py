"""A kind of machine is a record: one that is added from outside by a module and a line is offered,
kept in files, asked what it works, and run."""

import itertools
import os
import subprocess
import sys
import unittest
from pathlib import Path

import numpy as np
import shapely

from draxet.geometry.arrays import Points, norms
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, change_contours
from draxet.job.dialect import Dialect
from draxet.job.machine_kinds import MACHINE_KINDS, MACHINES, RunMachine, counts_on, of_kind
from draxet.job.operating import add_operation, choose_machine, set_machine
from draxet.job.operations import OPERATION_KINDS, Draw
from draxet.job.records import Job
from draxet.job.sides import runs_of
from draxet.make.program_making import program_of
from draxet.prove.place_looks import out_of_reach
from draxet.prove.program_file import compared, program_text, rehearsed
from draxet.record import record

SOURCES = Path(__file__).resolve().parents[2] / "src"
PLANTED = """
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Union
from draxet.job import machine_kinds, records
from draxet.job.asked import Asked
from draxet.job.machine_kinds.machine_kind import MachineKind, RunMachine
from draxet.job.ranges import Within
from draxet.record import record


@record(frozen=True)
class Knife(RunMachine):
    plunge: Annotated[float, Within(1.0, 1e6), Asked("Plunge", "mm/min")] = 600.0
    blunt: Annotated[float, Within(0.0, 9.0), Asked("Blunt after", " m")] = 4.0

    traits = MachineKind(
        "knife",
        works=("CutThrough",),
        settings=frozenset({"pass_depth"}),
        checks=("Blade in, and square to the first line",),
        at_work="blade down",
        lowers=True,
    )


KNIFE = Knife("knife-0", "Knife", 0.4, 500.0, 500.0, 3000.0, 9000.0, 900.0)
machine_kinds.MACHINES += (KNIFE,)
machine_kinds.MACHINE_KINDS += (Knife,)
machine_kinds.AnyMachine = Union[machine_kinds.MACHINE_KINDS]
records.AnyMachine, records.MACHINES = machine_kinds.AnyMachine, machine_kinds.MACHINES

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job, save_job
from draxet.job.operating import add_operation, choose_machine, set_machine
from draxet.job.operations import CutThrough, Engrave, Side
from draxet.job.records import Job
from draxet.job.sides import runs_of
from draxet.make.operator import operators_list
from draxet.make.program_making import program_of
from draxet.prove.looking import findings_of
from draxet.prove.program_file import program_text, stock_of
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse

box = Contour.make([(10, 10), (60, 10), (60, 40), (10, 40)])
knife = replace(KNIFE, id="knife-1", name="Long knife", blunt=6.0)
job = set_machine(add_contours(Job(), [box]), knife)
job = choose_machine(job, job.sheet.id, knife.id)
cut = CutThrough(contours=("contour-1",), side=Side.ON, width=0.4, pass_depth=1.0)
job = add_operation(job, cut)
with tempfile.TemporaryDirectory() as folder:
    save_job(job, Path(folder) / "knife.draxet")
    again = read_job(Path(folder) / "knife.draxet")
assert again.machines == job.machines and again.machines[0].blunt == 6.0
assert "Blade in, and square to the first line" in operators_list(job, job.sheet)
(run,) = runs_of(job)
program = program_of(job, run.sheet, knife)
assert sorted(set(program.depth[program.work].tolist())) == [1.0, 2.0, 3.0], program.depth
text = program_text(job, run, program)
played = rehearse(read_program(text, knife.dialect), knife, stock_of(run, job))
assert not played.troubles, played.troubles
assert not knife.can_do(Engrave())
unfit = add_operation(job, Engrave(contours=("contour-1",)))
assert any("knife cannot engrave" in each.words for each in findings_of(unfit)), findings_of(unfit)

from PyQt6.QtWidgets import QApplication
from draxet.ui.app import make_app
app = make_app()
from draxet.ui.shell.window import Window
from draxet.ui.model.stage import Stage
window = Window()
window.session.start(job, None)
window.session.open_stage(Stage.MAKE)
window.commands["machine"].run()
slip = window.slips.slip
hidden = [name for name in ("plunge", "burn", "spindle") if slip.asked.rows[name].isHidden()]
assert hidden == ["burn", "spindle"], hidden
slip.kind["kind"].button("laser").click()
assert window.session.job.machines[0].kind == "laser"
window.session.undo()
assert window.session.job.machines[0] == knife
print("all seen", flush=True)
import os
os._exit(0)
"""


@record(frozen=True)
class Hung(RunMachine):
    """A pen on two cords that are wound up at two places above the sheet: its motors are told how
    long the cords are."""

    traits = MACHINES[3].traits
    straight = False
    _left, _right = np.array([-150.0, 700.0]), np.array([550.0, 700.0])

    @property
    def reach(self) -> Contour:
        return Contour.make([(0, 0), (400, 0), (200, 500)])

    def to_motors(self, places: Points) -> Points:
        return np.column_stack([norms(places - self._left), norms(places - self._right)])

    def from_motors(self, motors: Points) -> Points:
        apart = float(np.hypot(*(self._right - self._left)))
        along = (motors[:, 0] ** 2 - motors[:, 1] ** 2 + apart**2) / (2 * apart)
        down = np.sqrt(motors[:, 0] ** 2 - along**2)
        return np.column_stack([self._left[0] + along, self._left[1] - down])


class MachineKinds(unittest.TestCase):
    def test_motors_that_are_no_x_and_y_lead_along_what_is_drawn_and_reach_what_they_reach(
        self,
    ) -> None:
        hung = Hung("hung", "Hung pen", 0.5, 1.0, 1.0, 3e3, 9e3, 900.0, dialect=Dialect(decimals=4))
        drawn = [Contour.make([(60, 20), (330, 40), (220, 220)]), Contour.circle(200, 120, 60)]
        job = choose_machine(set_machine(add_contours(Job(), drawn), hung), "sheet-0", "hung")
        job = add_operation(job, Draw(contours=("contour-1", "contour-2")))
        (run,) = runs_of(job)
        program = program_of(job, run.sheet, hung)
        text = program_text(job, run, program)
        self.assertTrue(compared("a.nc", text, run, program).matches)
        played = rehearsed(text, run, job)
        self.assertFalse(played.troubles)
        # between two places the motors go evenly: where the pen is then
        led, told = played.steps.begins[:, :2], played.steps.to[:, :2]
        off = 0.0
        lines = [shapely.LinearRing(each.flattened(1e-4)) for each in drawn]
        for share in np.linspace(0, 1, 7):
            motors = (1 - share) * hung.to_motors(led) + share * hung.to_motors(told)
            places = shapely.points(hung.from_motors(motors)[played.work])
            off = max(off, float(np.min([shapely.distance(places, x) for x in lines], 0).max()))
        self.assertLess(off, 0.021)
        self.assertAlmostEqual(played.cut_mm, sum(each.length for each in drawn), delta=0.5)
        corners = [(100.0, 30.0), (330.0, 250.0), (330.0, 400.0)]
        beyond = change_contours(job, {"contour-1": Contour.make(corners)})
        self.assertEqual([f.kind for f in out_of_reach(beyond)], ["out-of-reach"])
        self.assertEqual(out_of_reach(job), [])
        program = program_of(beyond, run.sheet, hung)
        told = rehearsed(program_text(beyond, run, program), run, beyond).troubles
        self.assertIn("out-of-reach", {trouble.kind for trouble in told})

    def test_each_works_kinds_of_operation_and_has_fields_that_there_are(self) -> None:
        titles = {kind.__name__ for kind in OPERATION_KINDS}
        settings = {name for kind in OPERATION_KINDS for name in kind.__dataclass_fields__}
        for machine in MACHINES:
            kind = machine.traits
            with self.subTest(kind.key):
                self.assertLessEqual(set(kind.works), titles)
                self.assertLessEqual(kind.settings, settings)
                self.assertTrue(all(counts_on(kind, name) for name in ("width", *kind.settings)))
        self.assertEqual(len({kind.traits.key for kind in MACHINE_KINDS}), len(MACHINE_KINDS))
        self.assertFalse(counts_on(MACHINES[0].traits, "pass_depth"))

    def test_each_has_its_own_fields_alone_and_what_it_lacks_reads_as_none(self) -> None:
        laser, router, _, _, saw, stitcher, printer = MACHINES
        self.assertTrue(laser.has("burn") and router.has("plunge") and saw.has("pilot"))
        self.assertFalse(router.has("burn") or laser.has("plunge") or saw.has("dialect"))
        self.assertEqual((laser.cutters, saw.keep_clear, saw.reach), ((), (), None))
        self.assertTrue(stitcher.has("a_minute") and not stitcher.has("dialect"))
        self.assertTrue(printer.has("box_z") and not laser.has("box_z"))
        with self.assertRaises(AttributeError):
            laser.pilot

    def test_one_made_of_another_kind_keeps_what_both_have(self) -> None:
        for machine, kind in itertools.product(MACHINES, MACHINE_KINDS):
            made = of_kind(machine, kind)
            with self.subTest(machine=machine.id, kind=kind.__name__):
                self.assertIs(type(made), kind)
                self.assertEqual((made.id, made.name), (machine.id, machine.name))
                if isinstance(machine, RunMachine) and isinstance(made, RunMachine):
                    self.assertEqual((made.reach, made.dialect), (machine.reach, machine.dialect))

    def test_a_kind_from_outside_is_offered_kept_worked_written_and_rehearsed(self) -> None:
        done = subprocess.run(
            [sys.executable, "-c", PLANTED],
            capture_output=True,
            text=True,
            env={**os.environ, "PYTHONPATH": str(SOURCES), "QT_QPA_PLATFORM": "offscreen"},
        )
        self.assertIn("all seen", done.stdout, done.stderr)
