"""Runs everything that must hold: type check, imports, documents' links, unit tests offscreen and the real window under Xvfb.

``./draxet test`` calls this. Arguments, if any, are test modules to run instead (``tests.test_units``).
"""

from __future__ import annotations

import faulthandler
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def types_hold() -> bool:
    print("types:", flush=True)
    cache = os.environ.get("XDG_CACHE_HOME", str(Path.home() / ".cache"))
    return subprocess.run([sys.executable, "-m", "mypy", "--cache-dir", f"{cache}/draxet-mypy"], cwd=ROOT).returncode == 0


def under_xvfb(module: str) -> bool:
    """Run one test module with a real X window."""
    if not shutil.which("Xvfb"):
        print("the tests of the real window need Xvfb; install it with: sudo apt-get install xvfb")
        return False
    print("the real window, under Xvfb:", flush=True)
    environment = {**os.environ, "QT_QPA_PLATFORM": "xcb"}
    command = ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", sys.executable, "-m", "unittest", "-v", module]
    return subprocess.run(command, cwd=ROOT, env=environment, stdin=subprocess.DEVNULL).returncode == 0


def main() -> int:
    faulthandler.enable()  # where a library ends the program, it is seen from which test
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    own = tempfile.mkdtemp(prefix="draxet-test-")  # tests leave nothing in the user's own folders
    os.environ |= {"XDG_STATE_HOME": own, "XDG_CONFIG_HOME": own}
    os.environ["PYTHONPATH"] = os.pathsep.join([str(ROOT / "src"), str(ROOT)])
    sys.path[:0] = [str(ROOT), str(ROOT / "src")]
    named = sys.argv[1:]
    good = True if named else types_hold()
    loader = unittest.TestLoader()
    suite = loader.loadTestsFromNames(named) if named else loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    good &= result.wasSuccessful() and result.testsRun > 0
    if not named:
        good &= under_xvfb("tests.ui.test_journey")
    failed = len(result.failures) + len(result.errors) + (not good and result.wasSuccessful())
    print(f"{result.testsRun - failed} passed, {failed} failed")
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
