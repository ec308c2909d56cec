"""Work that was not saved: who lives keeps his copy to himself, what was left is found, newest
first, and nothing but plain values is read."""

import os
import pickle
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from draxet.geometry.contour import Contour
from draxet.job.choosing import chosen_by
from draxet.job.contour_edits import add_contours
from draxet.job.file import JobFileError
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.records import Job
from draxet.job.recovery import Keeper, left_behind, read_left, rescue
from tests.job.test_files import full_job


class Left(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "copies"

    def test_a_copy_is_its_keepers_while_it_lives_and_is_found_once_it_does_not(self) -> None:
        job, keeper = full_job(), Keeper(self.folder)
        self.assertEqual(left_behind(self.folder), [])
        keeper.keep(job, {})
        self.assertEqual(left_behind(self.folder), [], "its keeper lives")
        assert keeper.place is not None and keeper._lock is not None
        os.close(keeper._lock)  # as when a program ends
        (left,) = left_behind(self.folder)
        self.assertEqual(left.place, keeper.place)
        self.assertEqual(read_left(left.place).job, job)
        other = Keeper(self.folder)
        self.assertEqual(other.claim(left.place), left.place)
        self.assertEqual(left_behind(self.folder), [], "another one has taken it over")
        other.drop()
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_rescue_holds_the_whole_job_and_the_newer_of_two_is_offered(self) -> None:
        job = full_job()
        keeper = Keeper(self.folder)
        keeper.keep(replace(job, name="older"), {})
        assert keeper.place is not None and keeper._lock is not None
        os.close(keeper._lock)
        place = rescue(job, self.folder, keeper.place.stem)
        os.utime(keeper.place, (1_000_000, 1_000_000))
        (left,) = left_behind(self.folder)
        self.assertEqual(left.place, place)
        self.assertEqual(read_left(place).job, job)
        left.drop()
        self.assertEqual(left_behind(self.folder), [])

    def test_a_rescue_that_holds_anything_else_is_refused_in_a_sentence(self) -> None:
        self.folder.mkdir()
        whole = rescue(full_job(), self.folder).read_bytes()
        place = self.folder / "odd.rescue"
        marker = self.folder / "ran"
        hostile = pickle.dumps(_Touches(str(marker)))
        for data in (b"", b"nonsense", whole[: len(whole) // 2], hostile, pickle.dumps([1, 2])):
            place.write_bytes(data)
            with self.assertRaisesRegex(JobFileError, "odd.rescue cannot be read"):
                read_left(place)
        self.assertFalse(marker.exists())


class _Touches:
    """What a hostile file would have run."""

    def __init__(self, path: str) -> None:
        self.path = path

    def __reduce__(self) -> tuple[object, tuple[str]]:
        return os.mkdir, (self.path,)


class Choosing(unittest.TestCase):
    def test_every_way_names_those_it_fits_and_none_is_empty(self) -> None:
        plate = Contour.make([(0, 0), (90, 0), (90, 90), (0, 90)])
        hole, dot = Contour.circle(40, 40, 20), Contour.circle(40, 40, 5)
        line = Contour.make([(100, 0), (120, 9)], closed=False)
        job = add_contours(Job(), [plate, hole, dot, line], layers=["", "a", "", "b"])
        job = give_operation(job, "Cut", ["contour-1"], Side.OUTSIDE, 1.5, 100)
        job = replace(
            job,
            contours=tuple(
                replace(item, colour="#aa0000" if item.id == "contour-3" else "")
                for item in job.contours
            ),
        )
        named = {
            words: sorted(int(name.rsplit("-", 1)[1]) for name in ids)
            for words, ids, _ in chosen_by(job)
        }
        self.assertEqual(
            named,
            {
                "Outlines": [1, 3],
                "Openings": [2],
                "Circles": [2, 3],
                "Open lines": [4],
                "Without an operation": [2, 3, 4],
                "Red": [3],
                "Layer a": [2],
                "Layer b": [4],
            },
        )
        self.assertEqual(chosen_by(Job()), [])
