"""Each look at a job names all the fields that it goes by, so that none of its findings outlives
what it was found in."""

import dataclasses
import unittest
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from draxet.geometry.contour import Contour
from draxet.job.bridge_edits import add_bridges
from draxet.job.contour_edits import add_contours
from draxet.job.contour_records import Bridge
from draxet.job.contour_ties import Fit
from draxet.job.file import read_job
from draxet.job.findings import Finding
from draxet.job.layout import LAID_FIELDS
from draxet.job.operating import add_operation, choose_machine
from draxet.job.operations import CutThrough, Drill, Pocket, Side
from draxet.job.records import Job
from draxet.job.sheet_records import Limit, Sheet
from draxet.prove.looking import LONG_LOOKS, LOOKS, Look, Watch
from draxet.ui.demo import DEMOS, demo_job

FIELDS = {field.name for field in dataclasses.fields(Job)}


class Watched(Job):
    """A job that notes which of its fields are asked for."""

    def __getattribute__(self, name: str) -> Any:
        if name in FIELDS:
            object.__getattribute__(self, "__dict__").setdefault("asked", set()).add(name)
        return super().__getattribute__(name)


def asked_by(look: Look | type, job: Job) -> set[str]:
    watched = Watched.__new__(Watched)
    watched.__dict__.update({name: getattr(job, name) for name in FIELDS})
    one: Look = look() if isinstance(look, type) else look
    one(watched)
    found: set[str] = watched.__dict__.get("asked", set())
    return found


def jobs() -> Iterator[Job]:
    yield read_job(Path(__file__).parents[1] / "job" / "files" / "version-3.draxet")
    yield from (demo_job(name) for name in DEMOS)
    job = Job(
        sheets=(Sheet(width=200, height=100), Sheet("sheet-1", "Two", 100, 100, x=300)),
        limit=Limit("hoop", Contour.circle(50, 50, 40)),
    )
    job = add_contours(
        job,
        [
            Contour.circle(50, 50, 30),
            Contour.circle(50, 50, 0.3),
            Contour.circle(320, 50, 30),
            Contour.make([(5, 5), (9, 5)], closed=False),
            Contour.circle(190, 50, 9.9),
            Contour.circle(50, 50, 8),
        ],
    )
    ids = [item.id for item in job.contours]
    for machine in ("plasma-table", "desk-laser", "gantry-router"):
        made = add_operation(
            choose_machine(job, "sheet-0", machine),
            CutThrough(contours=tuple(ids[:5]), side=Side.INSIDE, width=2.0),
        )
        made = add_operation(
            add_operation(made, Pocket(contours=(ids[0], ids[5]), diameter=9.0)),
            Drill(contours=(ids[5],), at_points=True),
        )
        yield replace(
            add_bridges(made, [Bridge("", 400, 400, 2.0), Bridge("", 80, 50, 2.0, ids[0])]),
            fits=(Fit("fit-1", ids[5], ids[0], 0.2),),
        )
    yield replace(job, contours=())


class Looks(unittest.TestCase):
    def test_they_name_every_field_that_they_go_by(self) -> None:
        some = list(jobs())
        for look, fields, _ in (*LOOKS, *LONG_LOOKS):
            for number, job in enumerate(some):
                with self.subTest(look=getattr(look, "__name__", look), job=number):
                    known = {*fields, "purpose", *LAID_FIELDS}  # by which each is remembered
                    self.assertEqual(asked_by(look, job) - known, set())

    def test_a_field_that_is_not_named_is_told(self) -> None:
        def sly(job: Job) -> list[Finding]:
            return [Finding("x", job.sheet.name, 1, "make")] if job.contours else []  # type: ignore[arg-type]

        self.assertEqual(asked_by(sly, next(jobs())), {"contours", "sheets", "sheet_id"})

    def test_what_is_remembered_is_what_a_fresh_look_finds(self) -> None:
        """Whatever field changes, one after the other."""
        some: Sequence[Job] = list(jobs())
        watch, long = Watch(), Watch(LONG_LOOKS)
        job = some[-2]
        for other in some:
            for name in sorted(FIELDS - {"contours", "operations", "sheets", "pictures"}):
                changed = (
                    replace(job, **{name: getattr(other, name)})
                    if name != "sheet_id"
                    else replace(job, sheet_id="sheet-1")
                )
                for each, looks in ((watch, LOOKS), (long, LONG_LOOKS)):
                    self.assertEqual(
                        [f.words for f in each.of(changed)],
                        [f.words for f in Watch(looks).of(changed)],
                        name,
                    )
                    each.of(job)
