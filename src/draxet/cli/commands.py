"""The commands without a window. Each ends with status 0, or with 2 and one sentence on standard error."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from typing import NoReturn

from draxet import __version__
from draxet.cli.trace import add_trace, run_trace

__all__ = ["run"]


class _Sentences(argparse.ArgumentParser):
    """A parser that answers a wrong call with one sentence."""

    def error(self, message: str) -> NoReturn:
        raise ValueError(f"{message}; see ./draxet {self.prog.split()[-1]} --help")


def run(arguments: Sequence[str]) -> int:
    """Run one command line (without the program's own name) and return its exit status."""
    parser = _Sentences(prog="draxet", description="From a picture to true-size, closed, machine-ready contours.")
    parser.add_argument("--version", action="version", version=f"draxet {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Sentences)
    add_trace(commands)
    try:
        return run_trace(parser.parse_args(arguments))
    except (ValueError, OSError, MemoryError) as error:
        words = str(error) if isinstance(error, ValueError) else f"{type(error).__name__}: {error}"
        print(f"draxet: {' '.join(words.split())}", file=sys.stderr)
        return 2
