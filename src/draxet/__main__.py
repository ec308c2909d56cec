"""Where Draxet starts: a command without a window, or the window."""

from __future__ import annotations

import gc
import sys

from draxet.slow import load_when_used

__all__ = ["main"]


def main() -> int:
    """Run what the command line asks for; the exit status is 0, or 2 with one sentence on standard
    error."""
    arguments = sys.argv[1:]
    load_when_used()
    if arguments and arguments[0] in (
        "trace",
        "mend",
        "make",
        "machines",
        "rehearse",
        "stitch",
        "solid",
        "--help",
        "-h",
        "--version",
    ):
        from draxet.cli.commands import run

        return run(arguments)
    gc.disable()  # until the window stands: its own timer collects from then on
    from draxet.ui.app import run_window

    return run_window(arguments)


if __name__ == "__main__":
    sys.exit(main())
