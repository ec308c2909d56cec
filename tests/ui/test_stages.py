"""A stage is a row: a seventh one, added to the program's own text, is on the card, in the menus, on
its key and on the desk that is kept."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

SOURCES = Path(__file__).resolve().parents[2] / "src"
TOOLS = """
from draxet.ui.model.tool import Prompt, Waiting
from draxet.ui.stages.row import ToolRow
from draxet.ui.stages.slip import Slip


class CrateTool(Waiting):
    def __init__(self, session: object) -> None:
        super().__init__(Prompt("Crate: choose one."))


class CrateSlip(Slip):
    def __init__(self, session: object, tool: CrateTool) -> None:
        super().__init__(session, "Crate", "What it is sent in.")


TOOLS = (ToolRow("crate", "Crate", "pick", "pack_tools:CrateTool", "pack_tools:CrateSlip", key="E"),)
"""
WALKED = """
import os, sys
from pathlib import Path
from draxet.ui.app import make_app
app = make_app()
from draxet.job.records import Job
from draxet.job.file import open_job, save_job
from draxet.ui.model.desk import read_desk
from draxet.ui.model.stage import Stage
from draxet.ui.shell.window import Window
from PyQt6.QtTest import QTest
from PyQt6.QtCore import Qt
window = Window()
window.show()
window.activateWindow()
QTest.qWaitForWindowActive(window)
window.canvas.setFocus()
app.processEvents()
session = window.session
QTest.keyClick(window.canvas, Qt.Key.Key_7)
assert session.desk.stage is Stage.PACK and session.desk.strength == 0.3, session.desk.stage
assert window.commands["crate"].menu == "Make" and "crate" in window.card.buttons
QTest.keyClick(window.canvas, Qt.Key.Key_E)
assert window.slips.slip.heading.text() == "Crate"
session.desk.set_strength(0.7)
path = Path(sys.argv[1]) / "a.draxet"
save_job(Job("Sent"), path, session.desk.kept(session.selection.picture_id))
opened = open_job(path)
session.start(opened.job, path, desk=opened.desk)
assert session.desk.stage is Stage.PACK and session.desk.strength == 0.7
six = dict(opened.desk, stage=2, strengths=[0.1, 0.2, 0.3, 0.4, 0.5, 0.6])
session.start(opened.job, path, desk=six)
assert session.desk.strength == 0.2
session.open_stage(Stage.PACK)
assert session.desk.strength == 0.3, "as the row says, where the desk is older than the stage"
print("all seen", flush=True)
os._exit(0)
"""


class SeventhStage(unittest.TestCase):
    def test_a_row_a_folder_and_a_sign_off_make_a_stage(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "src"
            shutil.copytree(SOURCES, copy, ignore=shutil.ignore_patterns("__pycache__"))
            ui = copy / "draxet" / "ui"
            for file, before, added in (
                ("model/stage.py", "\n    @classmethod", '    PACK = 7, "pack", "Make", 0.3, ""\n'),
                ("shell/signoffs.py", "    }\n    for", "        Stage.PACK: SignOff(True),\n"),
            ):
                text = (ui / file).read_text()
                self.assertEqual(text.count(before), 1)
                (ui / file).write_text(text.replace(before, added + before))
            (ui / "stages" / "pack").mkdir()
            (ui / "stages" / "pack" / "pack_tools.py").write_text(TOOLS)
            done = subprocess.run(
                [sys.executable, "-c", WALKED, folder],
                capture_output=True,
                text=True,
                env={**os.environ, "PYTHONPATH": str(copy), "QT_QPA_PLATFORM": "offscreen"},
            )
        self.assertIn("all seen", done.stdout, done.stderr)
