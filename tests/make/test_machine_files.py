"""Machines as files, and the frame of a job: what is written is read as it was, and what cannot be
is told by its row."""

import json
import unittest
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.machine_kinds import MACHINES
from draxet.job.operating import choose_machine
from draxet.job.program import empty_program
from draxet.job.records import Job
from draxet.job.sides import runs_of, side_of
from draxet.machines.controller import read_program
from draxet.machines.rehearsal import rehearse
from draxet.machines.rehearsal_records import Rehearsal, Stock
from draxet.machines.resume import resumed
from draxet.make.cutting_through import give_cut
from draxet.make.frame import FRAMES, frame_program
from draxet.make.machine_files import machines_as_json, read_machines
from draxet.make.program_making import program_of
from draxet.make.rows import RowError
from draxet.prove.program_file import program_text, stock_of


class Files(unittest.TestCase):
    def test_every_machine_comes_back_as_it_was(self) -> None:
        self.assertEqual(read_machines(machines_as_json(MACHINES), "m.json"), list(MACHINES))

    def test_what_is_wrong_is_told_by_file_row_and_value(self) -> None:
        text = machines_as_json(MACHINES)
        words = json.loads(text)
        far = json.loads(text)
        far["machines"][1]["reach_x"] = -5
        odd = json.loads(text)
        odd["machines"][0]["kind"] = "oven"
        for wrong, told in (
            (text[:40], "no sound JSON"),
            ("[]", "holds no machines"),
            (json.dumps({**words, "format": "other"}), "holds no machines"),
            (json.dumps({**words, "machines": [7]}), "m.json: machine 1"),
            (json.dumps(far), "m.json: machine 2.reach_x must be .*, got -5"),
            (json.dumps(odd), "m.json: machine 1 must be one of .*oven"),
            (json.dumps({**words, "machines": [words["machines"][0]] * 1001}), "1,001 machines"),
        ):
            with self.assertRaisesRegex(RowError, told):
                read_machines(wrong, "m.json")


class Run:
    """Some parts on a machine, and their program."""

    def __init__(self, machine: str) -> None:
        shapes = [Contour.circle(60, 60, 25), Contour.make([(120, 20), (170, 30), (130, 90)])]
        job = choose_machine(add_contours(Job(), shapes), "sheet-0", machine)
        self.job = give_cut(job, [item.id for item in job.contours], 1.5, 1500)
        (self.run,) = runs_of(self.job)
        self.machine = self.job.machine_of(self.run.sheet)
        self.program = program_of(side_of(self.job, self.run), self.run.sheet, self.machine)


class Frames(unittest.TestCase):
    def test_a_frame_goes_round_all_that_is_worked_and_no_farther(self) -> None:
        for machine in MACHINES:
            made = Run(machine.id)
            begins, to = made.program.beginnings, made.program.to
            some = made.program.work
            worked = shapely.MultiPoint(np.vstack([begins[some], to[some]]))
            for how in FRAMES:
                frame = frame_program(made.program, how)
                ring = shapely.Polygon(frame.to)
                self.assertTrue(ring.buffer(0.02).covers(worked), (machine.id, how))
                self.assertFalse(frame.work.any(), "nothing is on")
                truth = shapely.box(*made.program.box) if how == "box" else worked.convex_hull
                if how == "box":
                    self.assertAlmostEqual(ring.area, truth.area, 6)
                else:  # arcs reach beyond their ends
                    self.assertGreaterEqual(ring.area, truth.area - 1e-6)
                    self.assertLessEqual(ring.area, shapely.box(*made.program.box).area)

    def test_it_burns_by_a_laser_alone_and_there_must_be_work(self) -> None:
        for machine in MACHINES:
            lit = frame_program(Run(machine.id).program, "box", 3.0)
            self.assertEqual(bool(lit.work.any()), machine.kind == "laser", machine.id)
        with self.assertRaisesRegex(ValueError, "no work to run round"):
            frame_program(empty_program(MACHINES[0]))


class GoingOn(unittest.TestCase):
    def test_from_any_moment_on_the_same_places_are_worked_as_from_there_in_the_whole_run(
        self,
    ) -> None:
        for machine in MACHINES[:4]:
            made = Run(machine.id)
            stock = stock_of(made.run, made.job)
            text = program_text(made.job, made.run, made.program)
            whole = rehearse(read_program(text, machine.dialect), made.machine, stock)
            for move in range(0, len(whole.steps), max(len(whole.steps) // 12, 1)):
                if not whole.work[move:].any():
                    continue
                again = self.gone_on(made, resumed(whole, move), stock)
                first = move + int(np.flatnonzero(whole.work[move:])[0])
                begins = int(np.flatnonzero(whole.run == whole.run[first])[0])
                wanted = whole.steps.to[begins:][whole.work[begins:], :2]
                found = again.steps.to[again.work, :2]
                self.assertGreaterEqual(len(found), len(wanted), (machine.id, move))
                np.testing.assert_allclose(found[len(found) - len(wanted) :], wanted, atol=1e-6)
                self.assertEqual(again.troubles, (), (machine.id, move))

    def gone_on(self, made: Run, text: str, stock: Stock) -> Rehearsal:
        return rehearse(read_program(text, made.machine.dialect), made.machine, stock)

    def test_after_the_end_there_is_nothing_to_go_on_with(self) -> None:
        made = Run(MACHINES[0].id)
        text = program_text(made.job, made.run, made.program)
        run = rehearse(
            read_program(text, made.machine.dialect), made.machine, replace(stock_of(made.run))
        )
        last = int(np.flatnonzero(run.work)[-1])
        with self.assertRaisesRegex(ValueError, "nothing is worked from there on"):
            resumed(run, last + 1)
