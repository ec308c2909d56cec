"""Runs everything that must hold: type check, format, imports, documents' links, unit tests
offscreen and the real window under Xvfb.

``./draxet test`` calls this. Arguments, if any, are test modules to run instead
(``tests.test_units``). Modules are shared out among as many processes as there are processors; a
module's own tests run one after the other.
"""

from __future__ import annotations

import faulthandler
import io
import multiprocessing
import os
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
_MOST_PROCESSES = 8
_BY_EAR = "tests.ui.by_ear"
"""Wants a bus for a reader of the screen, and is no test without one."""
_ENDED = "ended.txt"
"""In a process's folder: where its threads were when a library ended it."""


@dataclass(frozen=True)
class Outcome:
    """How many tests were run, how many of them failed, what was printed of them, and the seconds
    that they took."""

    run: int
    failed: int
    words: str = ""
    seconds: float = 0.0


def types_hold() -> Outcome:
    cache = os.environ.get("XDG_CACHE_HOME", str(Path.home() / ".cache"))
    return _ended([sys.executable, "-m", "mypy", "--cache-dir", f"{cache}/draxet-mypy"])


def format_holds() -> Outcome:
    """Every file is as the formatter writes it."""
    return _ended([sys.executable, "-m", "ruff", "format", "--check", "--no-cache", "."])


def under_xvfb(module: str, *, read: bool = False) -> Outcome:
    """Run one test module with a real X window; `read` : and with a bus on which a reader of the
    screen hears."""
    for need, package in (("Xvfb", "xvfb"), ("dbus-run-session", "dbus-daemon at-spi2-core")):
        if not shutil.which(need):
            return Outcome(
                1,
                1,
                f"the tests of the real window need {need}; install it with: sudo apt-get install {package}",
            )
    command = [
        *(["dbus-run-session", "--"] if read else []),
        "xvfb-run",
        "-a",
        "-s",
        "-screen 0 1400x900x24 -noreset",  # it would reset as the first window closes, just as another comes
        sys.executable,
        "-X",
        "faulthandler",
        "-m",
        "unittest",
        "-v",
        module,
    ]
    heard = {"QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"} if read else {}
    return _ended(command, QT_QPA_PLATFORM="xcb", **heard)


def _ended(command: list[str], **environment: str) -> Outcome:
    begin = time.monotonic()
    done = subprocess.run(
        command,
        cwd=ROOT,
        env={**os.environ, **environment},
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        errors="replace",
    )
    return Outcome(1, int(done.returncode != 0), done.stdout, time.monotonic() - begin)


def run_module(name: str) -> Outcome:
    """Run a module's tests in this process."""
    said, begin = io.StringIO(), time.monotonic()
    result = unittest.TextTestRunner(said, verbosity=1).run(
        unittest.TestLoader().loadTestsFromName(name)
    )
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return Outcome(
        result.testsRun,
        failed or int(not result.testsRun),
        said.getvalue(),
        time.monotonic() - begin,
    )


def _begin(own: str) -> None:
    """Ready a process for tests: they leave nothing in the user's own folders, and find nothing
    that another process left."""
    own = tempfile.mkdtemp(dir=own)
    faulthandler.enable((Path(own) / _ENDED).open("w"))
    os.environ |= {"XDG_STATE_HOME": own, "XDG_CONFIG_HOME": own}
    os.environ |= {
        "OPENCV_FOR_THREADS_NUM": "1",
        "OPENBLAS_NUM_THREADS": "1",
    }  # every processor has a process already


def _how_it_ended(own: str) -> str:
    """Where the threads were of each process that a library has ended, the one that did it last."""
    texts = [path.read_text() for path in Path(own).glob(f"*/{_ENDED}")]
    return "\n\n".join(
        "\n\n".join(sorted(text.split("\n\n"), key=lambda part: "Current thread" in part))
        for text in texts
        if text
    )


def _all_modules() -> list[str]:
    """Every test module, those of the window and the longest first."""
    paths = sorted(
        ROOT.glob("tests/**/test_*.py"),
        key=lambda path: (path.parent.name != "ui", -path.stat().st_size),
    )
    return [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in paths]


def main() -> int:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["PYTHONPATH"] = os.pathsep.join([str(ROOT / "src"), str(ROOT)])
    sys.path[:0] = [str(ROOT), str(ROOT / "src")]  # handed on to every process
    named = sys.argv[1:]
    run = failed = 0
    with tempfile.TemporaryDirectory(prefix="draxet-test-") as own:
        processes = min(os.cpu_count() or 1, _MOST_PROCESSES)
        with ProcessPoolExecutor(
            processes, multiprocessing.get_context("spawn"), _begin, (own,)
        ) as pool:
            waited: dict[Future[Outcome], str] = {}
            if not named:
                waited[pool.submit(types_hold)] = "types"
                waited[pool.submit(format_holds)] = "format"
                waited[pool.submit(under_xvfb, "tests.ui.test_journey")] = (
                    "the real window, under Xvfb"
                )
            for name in [_BY_EAR, *_all_modules()] if not named else named:
                waited[
                    pool.submit(under_xvfb, name, read=True)
                    if name == _BY_EAR
                    else pool.submit(run_module, name)
                ] = name
            for future in as_completed(waited):
                try:
                    outcome = future.result()
                except BrokenProcessPool:
                    print(_how_it_ended(own))
                    print(
                        "a library ended the process of a test: see above in which; nothing more was run",
                        flush=True,
                    )
                    run, failed = run + 1, failed + 1
                    break
                run, failed = run + outcome.run, failed + outcome.failed
                print(
                    f"{waited[future]}: {outcome.run - outcome.failed} passed, {outcome.failed} failed in {outcome.seconds:.0f} s",
                    flush=True,
                )
                if outcome.failed:
                    print(outcome.words, flush=True)
    print(f"{run - failed} passed, {failed} failed")
    return int(failed > 0)


if __name__ == "__main__":
    sys.exit(main())
