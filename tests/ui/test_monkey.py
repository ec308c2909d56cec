"""A short run of the monkey and of damaged files; the long ones are in the bench."""

import contextlib
import io
import logging
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from bench.fuzz import fuzz
from bench.monkey import Monkey
from tests.ui.driver import WindowTest


class AMonkey(WindowTest):
    def test_whatever_is_done_in_whatever_order_there_is_no_error_and_the_job_stays_sound(
        self,
    ) -> None:
        for seed in (1, 2):
            with (
                self.subTest(seed=seed),
                tempfile.TemporaryDirectory() as folder,
                mock.patch("platformdirs.user_state_path", return_value=Path(folder) / "state"),
            ):
                report = Monkey(self.window, seed, Path(folder)).run(130)
                self.assertEqual((report.actions, report.faults), (130, []))


class DamagedFiles(unittest.TestCase):
    def test_of_every_kind_end_in_something_sound_or_in_one_sentence(self) -> None:
        logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
        with tempfile.TemporaryDirectory() as folder, contextlib.redirect_stderr(io.StringIO()):
            report = fuzz(170, Path(folder))
        self.assertEqual(report.escaped, [])
        self.assertEqual(report.read + report.refused, 170)
        self.assertGreater(report.refused, 20)
        self.assertGreater(report.read, 20)
