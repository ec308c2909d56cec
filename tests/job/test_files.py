"""Job files: what is unsound is refused or left out, whatever goes wrong while saving is one
sentence."""

import copy
import dataclasses
import json
import os
import random
import subprocess
import sys
import tempfile
import unittest
import zipfile
from hashlib import sha256
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np

from bench.damage import mutated, unsound_words
from draxet.files import write_whole
from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, change_contours
from draxet.job.file import JobFileError, OpenedJob, _grouped, open_job, read_job, save_job
from draxet.job.guide_edits import add_guide
from draxet.job.machine_kinds import MACHINES
from draxet.job.old_versions import words_of_now
from draxet.job.operating import add_operation, give_operation
from draxet.job.operations import OPERATION_KINDS, Raise, Side, Stitch, Turn
from draxet.job.picture_edits import add_picture, copy_picture
from draxet.job.picture_records import Exactness
from draxet.job.records import Job
from draxet.job.sheet_edits import set_setup
from draxet.job.sheet_records import Base
from draxet.job.sides import runs_of, side_of
from draxet.job.solid_base import set_base
from draxet.job.sound import job_fault
from draxet.job.steps import Cover, LineArt
from draxet.make.machine_files import machines_as_json, read_machines
from draxet.make.program_making import program_of
from draxet.prove.program_file import program_text
from tests.handing_off import hand_off
from tests.job.test_job import full_job

FILES = Path(__file__).parent / "files"


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "plate.draxet"

    def rewritten(self, change: Any, source: Path | None = None) -> Path:
        """A job file with other words in it, its checksums right."""
        if source is None:
            save_job(full_job(), self.path)
        with zipfile.ZipFile(source or self.path) as archive:
            parts = {name: archive.read(name) for name in archive.namelist()}
        words = _grouped(json.loads(parts["job.json"]))
        words = change(words) or words
        parts["job.json"] = json.dumps(words).encode()
        about = json.loads(parts.pop("about.json"))
        about.pop("lines", None)
        about["sha256"] = {name: sha256(data).hexdigest() for name, data in parts.items()}
        with zipfile.ZipFile(self.path, "w") as archive:
            for name, data in {"about.json": json.dumps(about).encode(), **parts}.items():
                archive.writestr(name, data)
        return self.path


class OlderVersions(Folder):
    def test_files_of_the_first_version_open_whole(self) -> None:
        opened = open_job(FILES / "version-1.draxet")
        job = opened.job
        self.assertEqual(opened.remarks, ())
        self.assertEqual(
            (
                len(job.pictures),
                len(job.contours),
                len(job.sheets),
                len(job.notes),
                len(job.operations),
            ),
            (3, 4, 2, 1, 1),
        )
        self.assertEqual(job.exactness, Exactness.FIT)
        kinds = [type(step.kind) for step in job.pictures[1].steps]
        self.assertEqual(len(kinds), 12)
        self.assertEqual(job.pictures[1].steps[10].kind, LineArt(40, 60))
        self.assertEqual(job.pictures[1].steps[11].kind, Cover(((1, 1), (5, 1), (5, 5))))
        self.assertAlmostEqual(job.pictures[0].known_lengths[0].first_spread.greatest, 0.1)
        self.assertEqual(job.contours[1].contour, Contour.circle(1, 2, 0.5))
        self.assertAlmostEqual(job.limit.outline.area if job.limit else 0, np.pi * 2500)
        save_job(job, self.path)
        self.assertEqual(read_job(self.path), job)
        plywood = (dataclasses.replace(Job().sheet, material="plywood"),)  # where nobody had said
        self.assertEqual(read_job(FILES / "version-1-empty.draxet"), Job(sheets=plywood))

    def test_a_file_of_today_opens_for_ever(self) -> None:
        opened = open_job(FILES / "version-2.draxet")
        self.assertEqual(
            (opened.remarks, len(opened.job.contours), len(opened.job.pictures)), ((), 4, 3)
        )
        self.assertEqual(opened.job, read_job(FILES / "version-1.draxet"))
        whole = open_job(FILES / "version-5.draxet")
        self.assertEqual(
            ([(each.x, each.y) for each in whole.job.drop_outs], whole.remarks), ([(10, 20)], ())
        )
        opened = open_job(FILES / "version-4.draxet")
        self.assertEqual(opened.job, open_job(FILES / "version-3.draxet").job)
        self.assertEqual(
            opened.job, dataclasses.replace(whole.job, drop_outs=(), next_id=opened.job.next_id)
        )
        kinds = {type(operation) for operation in opened.job.operations}
        self.assertEqual(
            (opened.remarks, kinds, len(opened.job.bridges), len(opened.job.recipes)),
            ((), set(OPERATION_KINDS) - {Stitch, Raise, Turn}, 1, 1),  # which came later
        )
        self.assertEqual(
            (opened.job.letterings[0].words, opened.job.machines[0].name),
            ("Shed 24", "Shed router"),
        )

    def test_what_is_raised_and_sunk_and_turned_is_there_again(self) -> None:
        job = add_guide(add_contours(Job(), [Contour.circle(50, 50, 9)]), 20, 0, 90)
        (ring,), (guide,) = ([item.id for item in job.contours], [g.id for g in job.guides])
        for made in (
            Raise(contours=(ring,)),
            Raise(contours=(ring,), sunk=True, height=1.0),
            Turn(contours=(ring,), axis=guide),
        ):
            job = add_operation(job, made)
        job = set_base(job, Base("sheet-0", "contour", contour=ring))
        save_job(job, self.path)
        self.assertEqual(read_job(self.path), job)
        self.assertEqual([each.contours for each in job.operations], [(ring,)] * 3)

    def test_contours_that_followed_each_other_are_placements_and_make_the_same_to_the_byte(
        self,
    ) -> None:
        opened = open_job(FILES / "version-5-followers.draxet")
        job = opened.job
        self.assertEqual((opened.remarks, len(job.contours), len(job.layout.contours)), ((), 5, 11))
        self.assertEqual(sorted(each.symmetric for each in job.placements), [False] * 5 + [True])
        (run,) = runs_of(job)
        seen = side_of(job, run)
        program = program_of(seen, run.sheet, job.machine_of(run.sheet))
        written = (FILES / "version-5-followers.nc").read_text()
        text = program_text(seen, run, program).replace("(cut width: 1 mm)\n", "")  # said since
        self.assertEqual(text, written)
        hand_off(job, self.folder / "now.svg")
        drawn = (FILES / "version-5-followers.svg").read_bytes()
        self.assertEqual((self.folder / "now.svg").read_bytes(), drawn)
        (first, *_) = [each for each in job.placements if each.part == job.placements[0].part]
        changed = change_contours(job, {f"{first.id}/contour-1": Contour.circle(100.0, 100.0, 9.0)})
        circles = [
            i
            for i in changed.layout.contours
            if i.contour.circle_shape and i.id.endswith("contour-1")
        ]
        self.assertEqual(len(circles), 4)
        save_job(job, self.path)
        self.assertEqual(read_job(self.path), job)
        self.assertEqual(read_job(FILES / "version-6.draxet"), job)

    def test_cutters_of_machines_are_found_under_the_names_that_they_had(self) -> None:
        router = next(machine for machine in MACHINES if machine.kind == "router")
        words = machines_as_json([dataclasses.replace(router, cutter_change=True)])
        before = words.replace('"cutters"', '"tools"').replace('"cutter_change"', '"tool_change"')
        self.assertNotEqual(words, before)
        self.assertEqual(read_machines(before, "a.json"), read_machines(words, "a.json"))
        job = words_of_now({"machines": [{"name": "a", "tools": [1], "tool_change": True}]}, 5)
        self.assertEqual(job["machines"], [{"name": "a", "cutters": [1], "cutter_change": True}])

    def test_machines_of_one_record_for_all_kinds_become_ones_of_their_kind(self) -> None:
        job = read_job(FILES / "version-6-machines.draxet")
        self.assertEqual(
            [(machine.name, machine.kind, machine.cut_width) for machine in job.machines],
            [
                ("Long laser", "laser", 0.15),
                ("Old router", "router", 3.175),
                ("Second plasma", "plasma", 1.5),
                ("Wide pen", "pen", 0.5),
                ("Fret saw", "saw", 0.6),
            ],
        )
        laser, router, plasma, pen, saw = job.machines
        self.assertEqual((laser.reach.box[2], laser.burn, laser.least_step), (900.0, 30.0, 0.02))
        self.assertEqual((router.spindle, router.plunge, router.reach.box[2]), (18e3, 450.0, 800.0))
        self.assertEqual(len(router.keep_clear), 1)
        self.assertEqual((plasma.pierce, plasma.dialect.decimals), (0.9, 4))
        self.assertEqual((pen.cutter_change, pen.most_moves, saw.pilot), (True, 300.0, 2.0))
        self.assertTrue(job.is_handed_off(job.sheet))
        save_job(job, self.path)
        self.assertEqual(read_job(self.path), job)

    def test_drop_outs_of_earlier_versions_are_where_they_were(self) -> None:
        for words in (
            [["drop_outs", [[1.0, 2.0], [3.5, 4.0]]], ["name", "x"]],
            {"drop_outs": [[1.0, 2.0], [3.5, 4.0]]},
        ):
            found = words_of_now(words, 4)
            listed = (
                found["drop_outs"]
                if isinstance(found, dict)
                else [v for k, v in found if k == "drop_outs"]
            )
            self.assertEqual([(each["x"], each["y"]) for each in listed], [(1.0, 2.0), (3.5, 4.0)])
            self.assertEqual(len({each["id"] for each in listed}), 2)
            self.assertEqual(words_of_now(found, 4), found)


class Damage(Folder):
    """Of a damaged file what is sound opens, and what is not is said."""

    def setUp(self) -> None:
        super().setUp()
        self.job = read_job(FILES / "version-4.draxet")
        big = bytes(np.random.default_rng(2).integers(0, 256, 3000, dtype=np.uint8))
        self.job, _ = add_picture(
            self.job, "second.png", big, (30, 20), Affine(0.1, 0, 0, 0, -0.1, 0)
        )
        self.job = add_contours(self.job, [Contour.circle(k, 5, 1 + k / 7) for k in range(40)])
        save_job(self.job, self.path, {"stage": 4})
        with zipfile.ZipFile(self.path) as archive:
            self.parts = {
                info.filename: (info.header_offset, info.compress_size)
                for info in archive.infolist()
            }
        self.whole = self.path.read_bytes()

    def places(self, name: str) -> range:
        """Where the data of a part lie."""
        start = self.parts[name][0] + 30 + len(name)
        return range(start, start + self.parts[name][1])

    def opened(self, data: bytes) -> OpenedJob:
        self.path.write_bytes(data)
        return open_job(self.path)

    def lost(self, job: Job) -> dict[str, int]:
        """How many entries of each field are not as they were; none may be another one."""
        found = {}
        for name in (field.name for field in dataclasses.fields(Job)):
            was, now = getattr(self.job, name), getattr(job, name)
            if isinstance(was, tuple) and was != now:
                found[name] = len(was) - len(now)
        return found

    def test_every_byte_of_every_part(self) -> None:
        """All other parts open: of a picture only that is lost, of contours only contours, of words
        only some lines, of the desk and of what it says of itself nothing."""
        may_lose = {"about.json": (), "desk.json": (), "job.json": None}
        for name in self.parts:
            places = self.places(name)
            for at in list(places)[:: max(len(places) // 20, 1)]:
                damaged = bytearray(self.whole)
                damaged[at] ^= 0x5A
                with self.subTest(part=name, byte=at - places[0]):
                    opened = self.opened(bytes(damaged))
                    self.assertEqual(job_fault(opened.job), "")
                    self.assertIn("plate.draxet is damaged", opened.remarks[0])
                    lost = self.lost(opened.job)
                    if name.startswith("pictures/"):
                        self.assertLessEqual(set(lost), {"pictures", "contours"})
                        self.assertEqual(
                            lost["pictures"],
                            sum(
                                f"pictures/{sha256(picture.source).hexdigest()[:32]}" == name
                                for picture in self.job.pictures
                            ),
                        )
                        self.assertEqual(len(opened.job.contours), len(self.job.contours))
                    elif name.startswith("contours/"):
                        self.assertEqual(len(opened.job.pictures), len(self.job.pictures))
                        self.assertTrue(
                            set(opened.job.contours) <= set(self.job.contours),
                            "no contour is another one",
                        )
                    elif may_lose.get(name) is not None:
                        self.assertEqual(lost, {})
                    else:
                        begin = self.whole.rindex(b"\n", 0, at) + 1
                        if b'["' in self.whole[begin:at] and b'",' in self.whole[begin + 2 : at]:
                            field = self.whole[begin + 2 : at].split(b'"')[0].decode()
                            self.assertRegex(
                                opened.remarks[1], f": (1 of )?its {field.replace('_', ' ')}"
                            )
                    self.assertEqual(opened.desk == {"stage": 4}, name != "desk.json")
                    with self.assertRaisesRegex(JobFileError, "is not whole|is damaged"):
                        read_job(self.path)

    def test_one_wrong_number_costs_one_contour(self) -> None:
        """Where the numbers are not packed, as those that do not pack."""
        with zipfile.ZipFile(self.path) as archive:
            parts = {name: archive.read(name) for name in archive.namelist()}
        with zipfile.ZipFile(self.path, "w") as archive:
            for name, data in parts.items():
                archive.writestr(name, data)
        whole = self.path.read_bytes()
        at = whole.index(parts["contours/nodes"]) + len(parts["contours/nodes"]) - 200
        opened = self.opened(whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :])
        self.assertEqual(
            (len(self.job.contours) - len(opened.job.contours), len(opened.job.pictures)),
            (1, len(self.job.pictures)),
        )
        self.assertIn("1 contour was damaged and left out", " ".join(opened.remarks))

    def test_a_part_that_is_gone_and_a_file_cut_short(self) -> None:
        for name in self.parts:
            start = self.parts[name][0]
            end = self.places(name)[-1] + 1 if self.parts[name][1] else start + 30 + len(name)
            if name == "job.json":
                continue
            with self.subTest(gone=name):
                opened = self.opened(self.whole[:start] + self.whole[end:])
                self.assertEqual(len(opened.job.sheets), len(self.job.sheets))
        last = -1
        for share in (0.35, 0.5, 0.75, 0.9, 0.999):
            with self.subTest(left=share):
                opened = self.opened(self.whole[: int(len(self.whole) * share)])
                there = (
                    len(opened.job.contours) + len(opened.job.pictures) + len(opened.job.operations)
                )
                self.assertGreaterEqual(there, last)
                last = there
        self.assertEqual(
            last,
            len(self.job.contours) + len(self.job.pictures) + len(self.job.operations),
            "only the list at the end was lost",
        )

    def test_damaged_files_of_older_versions_open_as_far_as_they_go(self) -> None:
        for version in (1, 2, 3, 4):
            whole = (FILES / f"version-{version}.draxet").read_bytes()
            job = read_job(FILES / f"version-{version}.draxet")
            with zipfile.ZipFile(FILES / f"version-{version}.draxet") as archive:
                info = next(
                    info for info in archive.infolist() if info.filename.startswith("pictures/")
                )
            at = info.header_offset + 30 + len(info.filename) + 2
            opened = self.opened(whole[:at] + bytes([whole[at] ^ 0x5A]) + whole[at + 1 :])
            self.assertLess(len(opened.job.pictures), len(job.pictures))
            self.assertEqual(len(opened.job.contours), len(job.contours))


class Saving(Folder):
    def test_numpys_truth_values_and_numbers_and_halves_of_letters_are_saved(self) -> None:
        closed = Contour.make([(0, 0), (1, 0), (1, 1)], closed=np.bool_(True))  # type: ignore[arg-type]
        self.assertIs(type(closed.closed), bool)
        job = add_contours(Job(name="scan \udcff"), [closed])
        job = set_setup(job, smallest_feature=np.float64(1.5))
        save_job(job, self.path)
        again = read_job(self.path)
        self.assertEqual(
            (again.name, again.contours, again.smallest_feature), ("scan ?", job.contours, 1.5)
        )

    def test_what_was_saved_opens_however_well_it_packs(self) -> None:
        rng = np.random.default_rng(4)
        k = np.arange(50_000)
        comb = Contour.make(
            np.column_stack([np.where(k % 200, k % 200, 199 - k % 200), k % 2]).astype(float),
            closed=False,
        )
        ring = np.column_stack([np.cos(np.arange(2000)), np.sin(np.arange(2000))]) * 40
        jobs = {
            "regular": [comb],
            "200 alike": [Contour.make(ring)] * 200,
            "200 unlike": [Contour.make(ring + rng.normal(0, 1, ring.shape)) for _ in range(200)],
            "tiny ones": [Contour.make([(0, 0), (1, 0), (0, 1)])] * 5_000,
            "a long one": [
                Contour.make(
                    np.column_stack([np.arange(300_000.0), np.zeros(300_000)]), closed=False
                )
            ],
        }
        for what, contours in jobs.items():
            with self.subTest(what):
                job = add_contours(Job("packs"), contours)
                save_job(job, self.path)
                again = read_job(self.path)
                self.assertEqual(
                    sum(map(len, (i.contour.nodes for i in again.contours))),
                    sum(map(len, (c.nodes for c in contours))),
                )
                self.assertEqual(again.contours[-1].contour, contours[-1])

    def test_what_would_not_open_again_is_not_saved(self) -> None:
        save_job(Job("old"), self.path)
        for limit in (
            "LARGEST",
            "_LARGEST_ARRAYS",
            "LARGEST_WORDS",
            "_MOST_COMMAS",
            "_MOST_BRACKETS",
        ):
            with (
                self.subTest(limit),
                mock.patch(f"draxet.job.file_limits.{limit}", 10),
                self.assertRaisesRegex(JobFileError, "more than a job may"),
            ):
                save_job(full_job(), self.path)
        self.assertEqual(read_job(self.path).name, "old")

    def test_the_same_picture_is_kept_once(self) -> None:
        job, _ = copy_picture(full_job(), "picture-1", 10, 0)
        save_job(job, self.path)
        with zipfile.ZipFile(self.path) as archive:
            self.assertEqual(sum(name.startswith("pictures/") for name in archive.namelist()), 1)
        self.assertEqual(read_job(self.path), job)

    def test_whatever_fails_is_one_sentence_and_the_old_file_stays(self) -> None:
        save_job(Job("old"), self.path)
        for fault in (
            TypeError("no JSON"),
            MemoryError(),
            OSError(28, "No space left on device"),
            RecursionError("deep"),
        ):
            with (
                self.subTest(fault=fault),
                mock.patch("draxet.job.file.written", side_effect=fault),
                self.assertRaisesRegex(JobFileError, "^plate.draxet could not be saved: "),
            ):
                save_job(full_job(), self.path)
        self.assertEqual(read_job(self.path).name, "old")
        self.assertEqual([p.name for p in self.folder.iterdir()], ["plate.draxet"])

    def test_links_are_followed_and_mode_and_write_protection_kept(self) -> None:
        save_job(Job("old"), self.path)
        os.chmod(self.path, 0o640)
        link = self.folder / "link.draxet"
        link.symlink_to(self.path)
        save_job(Job("new"), link)
        self.assertTrue(link.is_symlink())
        self.assertEqual(read_job(self.path).name, "new")
        self.assertEqual(self.path.stat().st_mode & 0o777, 0o640)
        os.chmod(self.path, 0o440)
        with self.assertRaisesRegex(JobFileError, "write-protected"):
            save_job(Job("newer"), self.path)
        self.assertEqual(read_job(self.path).name, "new")

    def test_what_is_no_file_is_neither_read_nor_replaced(self) -> None:
        pipe = self.folder / "pipe.draxet"
        os.mkfifo(pipe)
        for place in (pipe, self.folder):
            with self.subTest(place=place.name):
                with self.assertRaisesRegex(JobFileError, "is no file"):
                    read_job(place)
                with self.assertRaisesRegex(JobFileError, "no file"):
                    save_job(Job(), place)
        self.assertTrue(pipe.is_fifo())

    def test_names_of_250_letters_save_and_longer_ones_are_refused(self) -> None:
        long = self.folder / f"{'n' * 243}.draxet"
        save_job(Job("long"), long)
        self.assertEqual(read_job(long).name, "long")
        with self.assertRaises(JobFileError):
            save_job(Job("long"), self.folder / f"{'n' * 300}.draxet")

    def test_what_a_killed_save_left_is_swept_and_nothing_else(self) -> None:
        save_job(Job("old"), self.path)
        code = (
            "import os, sys; from pathlib import Path; from draxet.files import write_whole\n"
            "write_whole(Path(sys.argv[1]), lambda file: os.kill(os.getpid(), 9))"
        )
        subprocess.run([sys.executable, "-c", code, str(self.path)], check=False)
        others = [
            self.folder / ".plate.draxet.swp",
            self.folder / ".draxet-000000000000-12345678.part",
        ]
        (self.folder / ".plate.draxet.abcd_123").write_bytes(b"left by the first version")
        for other in others:
            other.write_bytes(b"somebody else's")
        self.assertEqual(len(list(self.folder.iterdir())), 5)
        save_job(Job("new"), self.path)
        self.assertEqual(sorted(self.folder.iterdir()), sorted([self.path, *others]))

    def test_a_file_being_written_by_another_program_is_not_swept(self) -> None:
        def write(file: Any) -> None:
            write_whole(self.path, b"the other one's")
            file.write(b"this one's")

        write_whole(self.path, write)
        self.assertEqual(self.path.read_bytes(), b"this one's")

    def test_kills_at_any_moment_lose_nothing(self) -> None:
        from bench.kills import killed_saves

        self.assertEqual(killed_saves(self.folder, 4), "")


class Opening(Folder):
    def test_every_unsound_value_is_refused_or_left_out_and_said(self) -> None:
        for version in (1, 2):
            for what, change in unsound_words(version):
                self.rewritten(change, FILES / f"version-{version}.draxet")
                with self.subTest(what, version=version):
                    try:
                        opened = open_job(self.path)
                    except JobFileError as error:
                        self.assertLess(len(str(error)), 400)
                    else:
                        self.assertEqual(job_fault(opened.job), "")
                        self.assertTrue(opened.remarks or "reference" in what, "nothing was said")
                        self._save_again(opened.job)

    def _save_again(self, job: Job) -> None:
        save_job(job, self.folder / "again.draxet")
        self.assertEqual(read_job(self.folder / "again.draxet"), job)

    def test_references_lead_somewhere_and_ids_stand_once(self) -> None:
        def change(words: dict[str, Any]) -> None:
            words["contours"].append(copy.deepcopy(words["contours"][0]))
            words["contours"][0]["picture"] = "picture-99"
            words["operations"][0]["contours"] += [
                "contour-99",
                words["operations"][0]["contours"][0],
            ]
            words["sheet_id"] = "nowhere"
            words["next_id"] = 1

        opened = open_job(self.rewritten(change))
        self.assertEqual(
            [item.picture for item in opened.job.contours], ["", "picture-1", "picture-1"]
        )
        self.assertEqual(len(opened.job.operations[0].contours), 1)
        self.assertEqual(opened.job.sheet_id, "sheet-0")
        self.assertGreater(opened.job.next_id, 4)
        self.assertRegex(opened.remarks[0], "1 contour was damaged and left out")

    def test_bombs_are_refused_before_they_unpack(self) -> None:
        with zipfile.ZipFile(self.path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(
                "about.json",
                json.dumps(
                    {
                        "format": "draxet job",
                        "version": 2,
                        "sha256": {"job.json": "", "pictures/a": ""},
                    }
                ),
            )
            archive.writestr("pictures/a", bytes(300_000_000))
        with self.assertRaisesRegex(JobFileError, "would unpack to"):
            open_job(self.path)
        deep = b"[" * 100_000
        for text in (
            deep,
            b'{"name":' * 50_000,
            b'{"next_id":' + b"9" * 100_000 + b"}",
            b"[" + b"[]," * 6_000_000 + b"1]",
        ):
            about = {
                "format": "draxet job",
                "version": 2,
                "sha256": {"job.json": sha256(text).hexdigest()},
            }
            with zipfile.ZipFile(self.path, "w") as archive:
                archive.writestr("about.json", json.dumps(about))
                archive.writestr("job.json", text)
            with self.assertRaises(JobFileError):
                open_job(self.path)

    def test_a_desk_comes_back_and_a_damaged_one_is_no_reason_to_refuse_a_job(self) -> None:
        save_job(full_job(), self.path, {"stage": 3})
        self.assertEqual(open_job(self.path).desk, {"stage": 3})

    def test_mutated_files_end_in_a_sound_job_or_one_sentence(self) -> None:
        random.seed(5)
        for source in (
            "version-1.draxet",
            "version-3.draxet",
            "version-4.draxet",
            "version-5.draxet",
        ):
            whole = (FILES / source).read_bytes()
            for seed in range(150):
                self.path.write_bytes(mutated(whole, seed))
                with self.subTest(source=source, seed=seed):
                    try:
                        job = read_job(self.path)
                    except JobFileError as error:
                        self.assertNotIn("\n", str(error))
                    else:
                        self.assertEqual(job_fault(job), "")


class SoundEdits(unittest.TestCase):
    def test_a_fault_in_any_field_is_found_also_where_the_entry_was_sound_before(self) -> None:
        job, found = full_job(), 0
        for field in dataclasses.fields(job):
            entries = getattr(job, field.name)
            if not (isinstance(entries, tuple) and entries and hasattr(entries[0], "id")):
                continue
            for each in dataclasses.fields(entries[0]):
                value = getattr(entries[0], each.name)
                odd = {float: float("inf"), str: "x" * 100_000}.get(type(value))
                if odd is None or each.name == "id":
                    continue
                wrong = dataclasses.replace(entries[0], **{each.name: odd})
                damaged = dataclasses.replace(job, **{field.name: (wrong, *entries[1:])})
                alone = job_fault(damaged)
                self.assertEqual(job_fault(damaged, job), alone, (field.name, each.name))
                found += bool(alone)
        self.assertGreater(found, 30)

    def test_only_what_changed_is_looked_at_and_faults_are_sentences(self) -> None:
        job = full_job()
        self.assertEqual(job_fault(job), "")
        wide = dataclasses.replace(job, sheets=(dataclasses.replace(job.sheet, width=1e9),))
        self.assertEqual(job_fault(wide, job), "sheet.width must be from 0.001 to 1e+06, got 1e+09")
        far = add_contours(job, [Contour.circle(1e12, 0, 5)])
        self.assertRegex(job_fault(far, job), "contour.contour must lie within 100 km")
        self.assertEqual(
            job_fault(give_operation(job, "n" * 5000, [job.contours[0].id], Side.ON, 1, 1), job)[
                :15
            ],
            "operation.name ",
        )
