"""Laws over all that a job holds, read from the types of its fields: what is added tomorrow is held
to them. A kind of thing and a field of contours are planted here from outside, and held to them
too."""

from __future__ import annotations

import dataclasses
import unittest
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated, Any

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job import part_edits
from draxet.job.bridge_edits import add_bridges
from draxet.job.codec import read_record, written
from draxet.job.codec_parts import Parts
from draxet.job.contour_edits import (
    add_contours,
    change_contours,
    colour_contours,
    fix_size,
    remove_contours,
    set_ellipse,
)
from draxet.job.contour_moves import map_contours
from draxet.job.contour_records import Bridge, ContourItem, DropOut, Lettering
from draxet.job.copies import copied_out, made_own, place_copies, take_in
from draxet.job.file import open_job, save_job
from draxet.job.fixed import resized
from draxet.job.guide_edits import add_guide, add_note
from draxet.job.helper_edits import free_helpers, make_helpers
from draxet.job.history import History
from draxet.job.lettering import add_lettering
from draxet.job.make_edits import add_fit, order_by_hand, put_start, put_tab
from draxet.job.operating import add_operation, choose_machine
from draxet.job.operations import CutThrough, Drill, Engrave, Raise, Side, Turn
from draxet.job.picture_edits import add_picture, map_picture, remove_picture
from draxet.job.place_types import Box
from draxet.job.placed import lying_on, map_placed, placed_fields
from draxet.job.point_edits import add_point
from draxet.job.ranges import Coordinate, Each, Id, Refers, Text, Words
from draxet.job.records import Job
from draxet.job.references import lists_of, removed
from draxet.job.sheet_edits import hand_off_noted, remove_sheet, set_sheet
from draxet.job.sheet_records import Base, Sheet
from draxet.job.solid_base import set_base
from draxet.job.sound import mended
from draxet.job.value_faults import fault_of
from draxet.record import record

A, B = "sheet-0", "sheet-1"
TIES = {"id", "contour", "picture", "by_hand", "traced", "sheet", "part"}
"""Of a copied contour: its id, its place, and where it came from."""


@record(frozen=True)
class Stamp:
    """A kind that the program does not know: it rides on a contour."""

    id: Id
    x: Coordinate
    y: Coordinate
    contour: Annotated[str, Text(100), Refers("contours", rides=True, goes=True)] = ""

    @property
    def box(self) -> Box:
        return self.x - 1, self.y - 1, self.x + 1, self.y + 1

    def mapped(self, after: Affine) -> Stamp:
        x, y = after.point(self.x, self.y)
        return replace(self, x=x, y=y)


@record(frozen=True)
class RemarkedItem(ContourItem):
    """A contour with a field that the program does not know."""

    remark: Words = ""


@record(frozen=True)
class StampedJob(Job):
    """A job with a list that the program does not know."""

    contours: Annotated[tuple[RemarkedItem, ...], Each("contour")] = ()  # type: ignore[assignment]
    stamps: Annotated[tuple[Stamp, ...], Each("stamp")] = ()


def everything(seed: int) -> StampedJob:
    """One of every kind on either of two sheets, all tied to each other."""
    rng = np.random.default_rng(seed)
    job: Any = StampedJob(
        sheets=(Sheet(A, width=300, height=200), Sheet(B, "Two", 300, 200, x=400))
    )
    for x in (0.0, 400.0):
        first = len(job.contours)
        sizes = rng.uniform(5, 12, 3).tolist()
        plate = Contour.make([(x + 20, 20), (x + 150, 20), (x + 150, 100), (x + 20, 100)])
        open_line = Contour.make([(x + 20, 150), (x + 90, 160)], closed=False)
        circles = [Contour.circle(x + 40 + 30 * k, 50, size) for k, size in enumerate(sizes)]
        job, picture = add_picture(
            job, "scan.png", b"\x89PNG", (30, 20), Affine(1, 0, x + 10, 0, -1, 90)
        )
        job = add_contours(job, [plate, *circles, open_line], picture)
        own = [item.id for item in job.contours[first:]]
        job, _ = place_copies(job, [own[3]], [Affine.moved(0, 25)], linked=True)
        job, _ = part_edits.make_part(job, own[1:3])
        job = make_helpers(job, [own[4]])
        job, _ = add_lettering(
            job, Lettering("", "", "tram", "Bitter Bold", 8.0, placed=Affine.moved(x + 160, 150))
        )
        job, _ = add_lettering(
            job, Lettering("", "", "shed", "Bitter Bold", 8.0, along=own[0], near=(x + 60, 20))
        )
        job = add_guide(add_point(job, x + 30, 140), x + 10, 10, 30)
        job = add_note(job, "distance", [(x + 5, 5), (x + 40, 5)], "35 mm")
        job = add_bridges(job, [Bridge("", x + 150, 50, 2.0, own[0], True, 20.0)])
        cut = CutThrough(contours=tuple(own[:2]), side=Side.OUTSIDE, width=1.0, tabs=2)
        job = add_operation(add_operation(job, cut), Engrave(contours=(own[2],)))
        job = put_tab(put_start(job, own[0], 0.3), own[0], 0.6)
        job = order_by_hand(add_fit(job, own[1], own[3], 0.1), own[1:3])
        job = set_base(job, Base(A if not x else B, "contour", contour=own[0]))
        job = add_operation(job, Raise(contours=tuple(own[1:3])))
        job = add_operation(job, Turn(contours=(own[2],), axis=job.guides[-1].id, path=own[0]))
        job = fix_size(job, [own[2]], True)
        number = job.next_id
        job = replace(
            job,
            drop_outs=(*job.drop_outs, DropOut(f"drop-out-{number}", x + 40.0, 50.0)),
            stamps=(*job.stamps, Stamp(f"stamp-{number + 1}", x + 40.0, 50.0, own[1])),
            next_id=number + 2,
        )
    job = hand_off_noted(add_operation(job, Drill(at_points=True)), "plate.nc", B)
    contours = tuple(RemarkedItem(**vars(item), remark="mind the grain") for item in job.contours)
    found: StampedJob = replace(job, contours=contours)
    return found


def placed_things(job: Job) -> Iterator[tuple[str, Any]]:
    """Every placed thing with the field that it stands in."""
    for name in placed_fields(job):
        for thing in getattr(job, name):
            yield name, thing


def alike(one: Any, other: Any) -> bool:
    """Whether two values are the same but for rounding."""
    if isinstance(one, float):
        return abs(one - other) <= 1e-7 * max(1.0, abs(one))
    if isinstance(one, np.ndarray):
        return one.shape == other.shape and bool(np.allclose(one, other, atol=1e-7))
    if isinstance(one, tuple):
        return len(one) == len(other) and all(map(alike, one, other))
    if dataclasses.is_dataclass(one):
        names = [each.name for each in dataclasses.fields(one)]
        return type(one) is type(other) and all(
            alike(getattr(one, name), getattr(other, name)) for name in names
        )
    return bool(one == other)


def texts(value: Any) -> Iterator[str]:
    """Every text in a value, however deep."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, tuple):
        for each in value:
            yield from texts(each)
    elif dataclasses.is_dataclass(value) and not isinstance(value, Contour):
        for each in dataclasses.fields(value):
            yield from texts(getattr(value, each.name))


Edit = Callable[[Any, Any], Any]


def one_of(rng: np.random.Generator, things: Any) -> str:
    return str(things[int(rng.integers(len(things)))].id)


def some_of(rng: np.random.Generator, job: Any) -> list[str]:
    laid = job.layout.contours
    return [item.id for item in laid if rng.random() < 0.4] or [laid[0].id]


EDITS: dict[str, Edit] = {
    "moved": lambda job, rng: map_contours(
        job, some_of(rng, job), Affine.moved(7, -3), by_hand=True
    ),
    "turned": lambda job, rng: map_contours(job, some_of(rng, job), Affine.turned(33)),
    "mirrored": lambda job, rng: map_contours(job, some_of(rng, job), Affine.scaled(-1, 1)),
    "larger": lambda job, rng: map_contours(job, some_of(rng, job), Affine.scaled(1.7)),
    "squeezed": lambda job, rng: map_contours(job, some_of(rng, job), Affine.scaled(1.2, 0.8)),
    "removed": lambda job, rng: remove_contours(job, some_of(rng, job)),
    "copied": lambda job, rng: place_copies(job, some_of(rng, job), [Affine.turned(9)])[0],
    "linked": lambda job, rng: place_copies(
        job, some_of(rng, job), [Affine.scaled(-1, 1)], linked=True, symmetric=True
    )[0],
    "one's own": lambda job, rng: made_own(job, some_of(rng, job))[0],
    "a part": lambda job, rng: part_edits.make_part(job, some_of(rng, job))[0],
    "apart": lambda job, rng: (
        part_edits.take_apart(job, one_of(rng, job.parts)) if job.parts else job
    ),
    "helpers": lambda job, rng: make_helpers(job, some_of(rng, job)[:2]),
    "freed": lambda job, rng: free_helpers(job),
    "pasted": lambda job, rng: take_in(job, copied_out(job, some_of(rng, job)))[0],
    "coloured": lambda job, rng: colour_contours(job, some_of(rng, job), "#aabbcc"),
    "another shape": lambda job, rng: change_contours(
        job, {one_of(rng, job.layout.contours): Contour.circle(*rng.uniform(20, 90, 2), 9)}
    ),
    "an ellipse": lambda job, rng: set_ellipse(
        job, one_of(rng, job.layout.contours), Affine.scaled(9, 4).then(Affine.moved(60, 60))
    ),
    "a picture moved": lambda job, rng: (
        map_picture(job, one_of(rng, job.pictures), Affine.scaled(1.1)) if job.pictures else job
    ),
    "a picture gone": lambda job, rng: (
        remove_picture(job, one_of(rng, job.pictures)) if job.pictures else job
    ),
    "a wider sheet": lambda job, rng: set_sheet(
        job, replace(job.sheets[0], width=job.sheets[0].width + 9.0)
    ),
    "a sheet gone": lambda job, rng: remove_sheet(job, B),
    "another machine": lambda job, rng: choose_machine(job, A, job.every_machine[1].id),
}


class Laws(unittest.TestCase):
    def test_every_kind_with_a_place_is_held_to_them(self) -> None:
        """What has a place in the job's records has a box and can be mapped."""
        job = everything(0)
        self.assertEqual(
            set(lists_of(job)) - set(placed_fields(job)),
            {
                "sheets",
                "operations",
                "handed_off",
                "machines",
                "recipes",
                "orders",
                "fits",
                "threads",
                "bases",
            },
        )
        for name in placed_fields(job):
            self.assertTrue(getattr(job, name), f"the laws' job holds no {name}")

    def test_what_moves_a_sheet_moves_all_that_lies_on_it_and_nothing_else(self) -> None:
        job = everything(1)
        moved = set_sheet(job, replace(job.sheets[0], width=377.0))
        there = lying_on(job, B)
        for name in placed_fields(job):
            for one, other in zip(getattr(job, name), getattr(moved, name), strict=True):
                with self.subTest(name, id=one.id):
                    if one.box[0] > 350 or name in ("parts", "placements") and there(one):
                        self.assertTrue(there(one))
                        self.assertTrue(alike(other, one.mapped(Affine.moved(77, 0))))
                        self.assertAlmostEqual(other.box[0], one.box[0] + 77)
                    else:
                        self.assertIs(other, one)

    def test_mirrored_twice_is_as_before(self) -> None:
        job = everything(2)
        over = Affine.scaled(-1, 1).then(Affine.moved(300, 0))
        once = map_placed(job, lambda thing: True, over)
        for name, thing in placed_things(job):
            if name != "guides" or thing.angle:
                self.assertFalse(
                    alike(thing, next(t for t in getattr(once, name) if t.id == thing.id))
                )
        twice = map_placed(once, lambda thing: True, over)
        for name in placed_fields(job):
            for one, other in zip(getattr(job, name), getattr(twice, name), strict=True):
                with self.subTest(name, id=one.id):
                    self.assertTrue(alike(other, one), (one, other))

    def test_a_copy_is_its_original_but_for_ids_and_place(self) -> None:
        job, place = everything(3), Affine.turned(20).then(Affine.moved(3, 50))
        here = {item.id for item in job.contours if item.sheet == A}
        copied, _ = place_copies(job, here, [place])
        pasted, _ = take_in(
            replace(job, **dict.fromkeys(placed_fields(job), ())), copied_out(job, here)
        )
        carriers = here | {i.part for i in job.contours if i.id in here and i.part}
        for made, after, known in ((copied, place, job), (pasted, Affine(), None)):
            for name in placed_fields(job):
                old = {each.id for each in getattr(known, name)} if known else set()
                originals = [
                    each
                    for each in getattr(job, name)
                    if each.id in (carriers if name == "parts" else here)
                    or getattr(each, "contour", "") in here
                    or (name == "letterings" and each.part in carriers)
                ]
                copies = [each for each in getattr(made, name) if each.id not in old]
                self.assertEqual(len(copies), len(originals), name)
                for one, other in zip(originals, copies, strict=True):
                    with self.subTest(name, id=one.id):
                        self.assertNotEqual(other.id, one.id)
                        want = one.mapped(after)
                        ties = (
                            TIES
                            if name == "contours"
                            else {"id", "contour", "part", "along", "frame"}
                        )
                        for each in dataclasses.fields(one):
                            if each.name not in ties:
                                self.assertTrue(
                                    alike(getattr(other, each.name), getattr(want, each.name)),
                                    each.name,
                                )
                        self.assertTrue(alike(other.box, want.box))
                        self.assertFalse(carriers & set(texts(other)), "it refers to its own kind")

    def test_what_rides_on_a_contour_goes_along_with_it_and_stays_with_others(self) -> None:
        job, after = everything(6), Affine.turned(12).then(Affine.moved(4, 9))
        for chosen in ([i.id for i in job.contours if i.sheet == A], [job.contours[0].id]):
            whole = {i.part for i in job.contours} - {
                i.part for i in job.contours if i.id not in chosen
            }
            moved = map_contours(job, chosen, after)
            for name in ("bridges", "stamps", "letterings"):
                kept = {each.id: each for each in getattr(moved, name)}
                for one in getattr(job, name):
                    carried = getattr(one, "contour", "") in chosen or (
                        name == "letterings" and one.part in whole
                    )
                    with self.subTest(name, id=one.id):
                        self.assertTrue(alike(kept[one.id], one.mapped(after) if carried else one))

    def test_what_is_removed_leaves_no_reference(self) -> None:
        job = everything(4)
        for field in lists_of(job):
            for each in getattr(job, field):
                name = getattr(each, "id", "")
                if name and field != "sheets":
                    with self.subTest(field, id=name):
                        left = removed(job, field, [name])
                        self.assertNotIn(name, set(texts(left)))
                        self.assertEqual(len(getattr(left, field)), len(getattr(job, field)) - 1)
        self.assertNotIn(B, set(texts(remove_sheet(job, B))))
        gone = remove_contours(job, [item.id for item in job.layout.contours])
        self.assertFalse({item.id for item in job.contours} & set(texts(gone)))
        self.assertEqual((gone.letterings, gone.parts, gone.stamps), ((), (), ()))
        self.assertEqual(gone.placements, ())

    def test_work_on_one_sheet_touches_no_other(self) -> None:
        for seed in range(4):
            job = everything(seed)
            here = [item.id for item in job.contours if item.sheet == A]
            on_b = lying_on(job, B)
            for words, after in {
                "moved": map_contours(job, here, Affine.turned(5), by_hand=True),
                "removed": remove_contours(job, here),
                "copied": place_copies(job, here, [Affine.moved(1, 2)], linked=True)[0],
                "part": part_edits.make_part(job, here)[0],
            }.items():
                for name, thing in placed_things(job):
                    if on_b(thing):
                        with self.subTest(words, id=thing.id):
                            self.assertTrue(any(each is thing for each in getattr(after, name)))

    def test_after_whatever_edits_a_job_is_sound_keeps_locked_sizes_and_can_be_saved_and_undone(
        self,
    ) -> None:
        with TemporaryDirectory() as folder:
            for seed in range(6):
                rng = np.random.default_rng(seed)
                job: Any = everything(seed)
                plain = Job(
                    **{each.name: getattr(job, each.name) for each in dataclasses.fields(Job)}
                )
                plain = replace(
                    plain, contours=tuple(ContourItem(**_own(i)) for i in plain.contours)
                )
                history = History.of(plain)
                for words in rng.permutation(sorted(EDITS)).tolist():
                    with self.subTest(words, seed=seed):
                        before = history.job
                        if not before.contours:
                            break
                        after = EDITS[words](before, rng)
                        if words not in ("another shape", "an ellipse"):  # these are refused then
                            self.assertEqual(resized(before, after), "")
                        self.assertEqual(fault_of(Job, after, "job"), "")
                        lost: list[str] = []
                        self.assertEqual(mended(after, lambda what, why: lost.append(why)), after)
                        self.assertEqual(lost, [])
                        history = history.after(words, after)
                        self.assertIs(
                            history.undone().job,
                            before if after is not before else history.undone().job,
                        )
                path = Path(folder) / "job.draxet"
                save_job(history.job, path)
                self.assertEqual(open_job(path).job, history.job)

    def test_a_kind_and_a_field_that_the_program_does_not_know_are_saved(self) -> None:
        job, parts = everything(5), Parts()
        words = written(StampedJob, job, parts)
        found: list[str] = []
        held = Parts({**parts.files, **parts.arrays()})
        again = read_record(
            StampedJob, words, held, "job", lambda what, why: found.append(why), fault_of
        )
        self.assertEqual((again, found), (job, []))
        self.assertTrue(all(item.remark == "mind the grain" for item in again.contours))


def _own(item: ContourItem) -> dict[str, Any]:
    return {each.name: getattr(item, each.name) for each in dataclasses.fields(ContourItem)}


if __name__ == "__main__":
    unittest.main()
