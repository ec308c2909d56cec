"""What is kept of a job that was not saved is read again, whichever Python wrote it."""

import json
import pickle
import sys
import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest import mock

from draxet.job.file import JobFileError, read_job
from draxet.job.picture_records import Exactness
from draxet.job.recovery import read_left, rescue
from tests.job.test_job import full_job

FILES = Path(__file__).parent / "files"


class Rescues(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_every_kind_of_record_comes_back(self) -> None:
        for job in (full_job(), *(read_job(FILES / f"version-{k}.draxet") for k in (1, 2, 3))):
            opened = read_left(rescue(job, self.folder))
            self.assertEqual((opened.job, opened.remarks), (job, ()))
            self.assertIs(type(opened.job.exactness), Exactness)
            self.assertFalse(opened.job.contours[0].contour.nodes.flags.writeable)

    def test_what_other_pythons_wrote_is_read(self) -> None:
        """Written by Debian's 3.11 (whose enums are pickled otherwise than those of 3.13) and by
        newer ones."""
        written = sorted(FILES.glob("python-*.rescue"))
        self.assertGreaterEqual(len(written), 3)
        for place in written:
            with self.subTest(place.name):
                self.assertEqual(read_left(place).job, read_job(FILES / "version-3.draxet"))

    def test_what_earlier_versions_left_is_brought_to_now_as_their_files_are(self) -> None:
        """With what stands in a file as it stands in a rescue."""
        for name in ("version-4", "version-5", "version-6-machines"):
            file = read_job(FILES / f"{name}.draxet")
            with zipfile.ZipFile(FILES / f"{name}.draxet") as archive:
                pairs = json.loads(archive.read("job.json"))
            left = {
                field: [value for each, value in pairs if each == field]
                for field in ("sheets", "machines")
            }
            place = self.folder / "x.rescue"
            place.write_bytes(pickle.dumps({"kind": "Job", "version": int(name[8]), **left}))
            found = read_left(place).job
            with self.subTest(name):
                plain = tuple(each for each in file.machines if not each.keep_clear)  # no arrays
                self.assertEqual((found.machines, found.sheets), (plain, file.sheets))
        self.assertEqual(len(found.machines), 4)

    def test_it_names_no_class_at_all(self) -> None:
        """So nothing depends on how a Python pickles one."""
        place = rescue(read_job(FILES / "version-3.draxet"), self.folder)
        with mock.patch.dict(
            sys.modules, {name: None for name in list(sys.modules) if name.startswith("draxet.")}
        ):
            self.assertEqual(pickle.loads(place.read_bytes())["kind"], "Job")

    def test_what_is_no_plain_value_is_refused(self) -> None:
        place = self.folder / "x.rescue"
        for data in (
            b"cposix\nsystem\n(S'true'\ntR.",
            pickle.dumps(full_job()),
            pickle.dumps([1]),
            pickle.dumps({"sheets": [], "name": "x"}),
            b"",
            b"\x80",
        ):
            place.write_bytes(data)
            with (
                self.subTest(data=data[:30]),
                self.assertRaisesRegex(JobFileError, "cannot be read"),
            ):
                read_left(place)
