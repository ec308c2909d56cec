import dataclasses
import json
import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest import mock

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.job.contour_edits import add_contours, remove_contours, replace_contours, retrace
from draxet.job.file import JobFileError, read_job, save_job
from draxet.job.guide_edits import add_note
from draxet.job.history import History
from draxet.job.operating import give_operation
from draxet.job.operations import Side
from draxet.job.picture_edits import add_picture, map_picture, remove_picture, set_known_lengths
from draxet.job.picture_records import KnownLength
from draxet.job.records import Job
from draxet.job.sheet_edits import add_sheet, remove_sheet, set_sheet, set_unit
from draxet.job.sheet_records import Sheet
from tests.shapes import mixed_contour


def full_job() -> Job:
    job, picture = add_picture(
        Job("Plate", "in", (Sheet(width=123.4),)),
        "scan.png",
        b"\x89PNG not really",
        (30, 20),
        Affine(0.1, 0.01, 3, -0.01, -0.1, 1 / 3),
    )
    job = set_known_lengths(
        job,
        picture,
        [
            KnownLength(
                (1.5, 2),
                (20, 1 / 7),
                239.7125,
                Covariance(0.01, 0.002, 0.02),
                Covariance.round(0.3),
            )
        ],
        unstretched=True,
    )
    slit = Contour.make([(0, 0), (1, 1 / 3)], closed=False)
    job = add_contours(job, [mixed_contour(), Contour.circle(1, 2, 1 / 3), slit], picture)
    return give_operation(job, "Cut openings", [job.contours[1].id], Side.INSIDE, 1.5, 2400)


class Edits(unittest.TestCase):
    def test_they_leave_the_job_they_are_given_and_share_what_they_do_not_touch(self) -> None:
        job = full_job()
        before = dataclasses.replace(job)
        first = job.contours[0].id
        for after in (
            remove_contours(job, [first]),
            map_picture(job, job.pictures[0].id, Affine.scaled(2)),
            set_unit(job, "mm"),
            replace_contours(job, {first: Contour.circle(0, 0, 1)}),
            retrace(job, job.pictures[0].id, []),
        ):
            self.assertEqual(job, before)
            self.assertNotEqual(after, job)
            self.assertIs(after.sheet, job.sheet)
        self.assertIs(
            replace_contours(job, {first: Contour.circle(0, 0, 1)}).contours[1],
            job.contours[1],
        )

    def test_removing_a_contour_takes_it_out_of_its_operation_and_an_empty_operation_goes(
        self,
    ) -> None:
        job = full_job()
        self.assertEqual(remove_contours(job, [job.contours[1].id]).operations, ())

    def test_a_contour_has_one_operation_at_the_most(self) -> None:
        job = full_job()
        again = give_operation(
            job, "Other", [job.contours[1].id, job.contours[0].id], Side.ON, 1, 100
        )
        self.assertEqual([operation.name for operation in again.operations], ["Other"])

    def test_contours_follow_the_picture_they_were_traced_from_and_others_stay(self) -> None:
        job = add_contours(full_job(), [Contour.circle(0, 0, 1)])
        moved = map_picture(job, job.pictures[0].id, Affine.scaled(2))
        self.assertAlmostEqual(moved.contours[0].contour.area, 4 * job.contours[0].contour.area)
        self.assertIs(moved.contours[-1], job.contours[-1])

    def test_ids_are_never_used_twice(self) -> None:
        job = full_job()
        job = add_contours(remove_contours(job, [job.contours[-1].id]), [Contour.circle(0, 0, 1)])
        self.assertEqual(len({item.id for item in job.contours}), len(job.contours))
        self.assertNotIn(job.contours[-1].id, {item.id for item in full_job().contours})

    def test_what_lies_on_a_sheet_moves_with_it_and_belongs_to_it(self) -> None:
        job, second = add_sheet(full_job())
        x = job.sheet.x
        job = add_note(
            add_contours(job, [Contour.circle(x + 50, 50, 10)]),
            "distance",
            [(x + 5, 5), (x + 40, 5)],
            "35 mm",
        )
        self.assertEqual([item.sheet for item in job.contours], ["sheet-0"] * 3 + [second])
        grown = set_sheet(job, dataclasses.replace(job.sheets[0], width=job.sheets[0].width + 77))
        self.assertAlmostEqual(grown.sheets[1].x, x + 77)
        self.assertAlmostEqual(grown.contours[3].contour.box[0], x + 77 + 40)
        self.assertEqual(grown.notes[0].places, ((x + 82, 5), (x + 117, 5)))
        self.assertIs(grown.contours[0], job.contours[0])
        left = remove_sheet(grown, second)
        self.assertEqual({item.sheet for item in left.contours}, {"sheet-0"})

    def test_a_removed_pictures_contours_stay_and_name_it_no_more(self) -> None:
        job = remove_picture(full_job(), "picture-1")
        self.assertEqual([item.picture for item in job.contours], ["", "", ""])


class HistoryWalks(unittest.TestCase):
    def test_undo_and_redo_give_back_the_very_same_jobs(self) -> None:
        jobs = [Job(f"job {k}") for k in range(6)]
        history = History.of(jobs[0])
        for job in jobs[1:]:
            history = history.after(job.name, job)
        for job in reversed(jobs):
            self.assertIs(history.job, job)
            history = history.undone()
        self.assertIs(history.job, jobs[0])
        for job in jobs[1:]:
            history = history.redone()
            self.assertIs(history.job, job)
        self.assertIs(history.redone().job, jobs[-1])

    def test_a_new_step_drops_what_was_undone_and_the_same_job_is_no_step(self) -> None:
        history = History.of(Job()).after("a", Job("a")).undone().after("b", Job("b"))
        self.assertEqual((history.undo_words, history.redo_words), ("b", ""))
        self.assertIs(history.after("nothing", history.job), history)

    def test_it_knows_whether_the_job_is_saved(self) -> None:
        history = History.of(Job()).after("a", Job("a"))
        self.assertFalse(history.is_saved)
        self.assertTrue(history.after_save().is_saved)
        self.assertFalse(history.after_save().undone().is_saved)


class JobFiles(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "plate.draxet"

    def test_a_job_opens_just_as_it_was_saved(self) -> None:
        job = full_job()
        save_job(job, self.path)
        self.assertEqual(read_job(self.path), job)
        again = self.folder / "again.draxet"
        save_job(read_job(self.path), again)
        self.assertEqual(again.read_bytes(), self.path.read_bytes())

    def test_it_is_a_zip_with_readable_json_and_the_picture_as_it_came(self) -> None:
        save_job(full_job(), self.path)
        with zipfile.ZipFile(self.path) as archive:
            self.assertIn(["name", "Plate"], json.loads(archive.read("job.json")))
            self.assertEqual(
                archive.read(next(n for n in archive.namelist() if n.startswith("pictures/"))),
                b"\x89PNG not really",
            )
            self.assertEqual(json.loads(archive.read("about.json"))["version"], 7)

    def rewritten(self, **parts: bytes) -> None:
        save_job(full_job(), self.path)
        with zipfile.ZipFile(self.path) as archive:
            all_parts = {name: archive.read(name) for name in archive.namelist()}
        with zipfile.ZipFile(self.path, "w") as archive:
            for name, data in {
                **all_parts,
                **{k.replace("_", "."): v for k, v in parts.items()},
            }.items():
                archive.writestr(name, data)

    def test_what_is_no_sound_job_is_refused_in_one_sentence(self) -> None:
        save_job(full_job(), self.path)
        whole = self.path.read_bytes()
        cases = {
            "cut short": whole[:150],
            "empty": b"",
            "text": b"hello",
            "a picture": b"\x89PNG\r\n\x1a\n" + b"0" * 99,
        }
        for what, data in cases.items():
            self.path.write_bytes(data)
            with (
                self.subTest(what),
                self.assertRaisesRegex(
                    JobFileError, "^plate.draxet is no Draxet job or is damaged"
                ),
            ):
                read_job(self.path)

    def test_tampering_newer_versions_and_missing_files_are_told_apart(self) -> None:
        self.rewritten(job_json=b"{}")
        with self.assertRaisesRegex(JobFileError, "is no Draxet job or is damaged"):
            read_job(self.path)
        self.rewritten(
            about_json=json.dumps({"format": "draxet job", "version": 99, "sha256": {}}).encode()
        )
        with self.assertRaisesRegex(JobFileError, "newer Draxet"):
            read_job(self.path)
        with self.assertRaisesRegex(JobFileError, "could not be opened"):
            read_job(self.folder / "nowhere.draxet")

    def test_a_full_disk_leaves_the_file_before_untouched_and_nothing_beside_it(self) -> None:
        save_job(Job("old"), self.path)
        with (
            mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")),
            self.assertRaisesRegex(JobFileError, "No space left"),
        ):
            save_job(full_job(), self.path)
        self.assertEqual(read_job(self.path).name, "old")
        self.assertEqual([p.name for p in self.folder.iterdir()], ["plate.draxet"])
