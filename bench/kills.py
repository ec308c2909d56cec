"""Kills during saving: a program that saves over and over is killed at any moment; the file must be
whole each time."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import time
from pathlib import Path

from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours
from draxet.job.file import JobFileError, read_job, save_job
from draxet.job.records import Job

__all__ = ["killed_saves"]

_SAVER = """
import sys
from pathlib import Path
from draxet.job.contour_edits import add_contours
from draxet.job.file import (save_job)
from draxet.job.records import (Job)
from draxet.geometry.contour import Contour
job = add_contours(Job("saved"), [Contour.circle(k, k, 5) for k in range(3000)])
print("ready", flush=True)
while True:
    save_job(job, Path(sys.argv[1]))
"""


def killed_saves(folder: Path, times: int) -> str:
    """Kill a saving program so many times; what was wrong afterwards, empty where nothing was."""
    path = folder / "work.draxet"
    save_job(Job("before"), path)
    rng = random.Random(1)
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    for number in range(times):
        saver = subprocess.Popen(
            [sys.executable, "-c", _SAVER, str(path)], stdout=subprocess.PIPE, env=environment
        )
        assert saver.stdout is not None
        saver.stdout.readline()
        time.sleep(rng.uniform(0.0, 0.25))
        saver.kill()
        saver.communicate()
        try:
            read_job(path)
        except JobFileError as error:
            return f"kill {number}: {error}"
    save_job(add_contours(Job("after"), [Contour.circle(0, 0, 1)]), path)
    litter = [entry.name for entry in folder.iterdir() if entry != path]
    return f"litter: {litter}" if litter else ""
