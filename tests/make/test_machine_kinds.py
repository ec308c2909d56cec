"""A kind of machine is a record: one that is added from outside by a module and a line is offered,
kept in files, asked what it works, and run."""

import os
import subprocess
import sys
import unittest
from pathlib import Path

from draxet.job.machine_kinds import MACHINE_KINDS, counts_on, has_field
from draxet.job.operations import OPERATION_KINDS

SOURCES = Path(__file__).resolve().parents[2] / "src"
PLANTED = """
import tempfile
from dataclasses import replace
from pathlib import Path
from draxet.job import machine_kinds
from draxet.job.machine_kinds.machine_kind import MachineKind

KNIFE = MachineKind(
    "knife",
    works=("CutThrough",),
    settings=frozenset({"pass_depth"}),
    fields=frozenset({"plunge"}),
    checks=("Blade in, and square to the first line",),
    at_work="blade down",
    lowers=True,
)
machine_kinds.MACHINE_KINDS[KNIFE.key] = KNIFE

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import read_job, save_job
from draxet.job.machine import MACHINES, Machine
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
knife = replace(MACHINES[1], id="knife-1", name="Knife", kind="knife", cutters=(), spindle=0.0)
job = set_machine(add_contours(Job(), [box]), knife)
job = choose_machine(job, job.sheet.id, knife.id)
cut = CutThrough(contours=("contour-1",), side=Side.ON, width=0.4, pass_depth=1.0)
job = add_operation(job, cut)
with tempfile.TemporaryDirectory() as folder:
    save_job(job, Path(folder) / "knife.draxet")
    again = read_job(Path(folder) / "knife.draxet")
assert again.machines == job.machines and again.machines[0].traits is KNIFE
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
slip.asked["kind"].button("knife")
hidden = [name for name in ("plunge", "burn", "spindle") if slip.asked.rows[name].isHidden()]
assert hidden == ["burn", "spindle"], hidden
print("all seen", flush=True)
import os
os._exit(0)
"""


class MachineKinds(unittest.TestCase):
    def test_each_works_kinds_of_operation_and_has_fields_that_there_are(self) -> None:
        titles = {kind.__name__ for kind in OPERATION_KINDS}
        settings = {name for kind in OPERATION_KINDS for name in kind.__dataclass_fields__}
        for key, kind in MACHINE_KINDS.items():
            with self.subTest(key):
                self.assertEqual(kind.key, key)
                self.assertLessEqual(set(kind.works), titles)
                self.assertLessEqual(kind.settings, settings)
                self.assertTrue(all(counts_on(kind, name) for name in ("width", *kind.settings)))
                self.assertTrue(all(has_field(kind, name) for name in ("cut_width", *kind.fields)))
        self.assertFalse(counts_on(MACHINE_KINDS["laser"], "pass_depth"))

    def test_a_kind_from_outside_is_offered_kept_worked_written_and_rehearsed(self) -> None:
        done = subprocess.run(
            [sys.executable, "-c", PLANTED],
            capture_output=True,
            text=True,
            env={**os.environ, "PYTHONPATH": str(SOURCES), "QT_QPA_PLATFORM": "offscreen"},
        )
        self.assertIn("all seen", done.stdout, done.stderr)
