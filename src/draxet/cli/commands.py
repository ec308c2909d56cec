"""The commands without a window. Each ends with status 0, or with 2 and one sentence on standard
error."""

from __future__ import annotations

import argparse
import contextlib
import importlib
import os
import sys
from collections.abc import Sequence
from types import ModuleType
from typing import Any, NoReturn

from draxet import __version__
from draxet.files import reason

__all__ = ["run"]


_MODULES = {
    "trace": "trace",
    "mend": "mend",
    "make": "make",
    "machines": "machine_list",
    "rehearse": "rehearse",
    "stitch": "stitch_command",
    "solid": "solid_command",
}
"""The module of each command."""


class _Sentences(argparse.ArgumentParser):
    """A parser that answers a wrong call with one sentence, and guesses at no shortened option."""

    def __init__(self, *arguments: Any, **settings: Any) -> None:
        super().__init__(*arguments, **{**settings, "allow_abbrev": False})

    def error(self, message: str) -> NoReturn:
        raise ValueError(f"{message}; see ./{self.prog} --help")


def run(arguments: Sequence[str]) -> int:
    """Run one command line (without the program's own name) and return its exit status."""
    try:
        status = _run(arguments)
        sys.stdout.flush()
        return status
    except KeyboardInterrupt:
        return _fail("stopped; nothing was written")
    except BrokenPipeError:
        return _fail("nobody reads what is printed any more", hush=True)
    except OSError as error:
        return _fail(f"what was found could not be printed: {reason(error)}", hush=True)
    except ValueError as error:
        return _fail(str(error))
    except Exception as error:  # whatever it is, one sentence
        return _fail(f"this could not be done: {reason(error)}")


def _run(arguments: Sequence[str]) -> int:
    parser = _Sentences(
        prog="draxet", description="From a picture to true-size, closed, machine-ready contours."
    )
    parser.add_argument("--version", action="version", version=f"draxet {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Sentences)
    named = [name for name in _MODULES if name in arguments[:1]]  # others need not be loaded
    for name in named or _MODULES:
        getattr(_module(name), f"add_{name}")(commands)
    try:
        options = parser.parse_args(arguments)
        return int(getattr(_module(options.command), f"run_{options.command}")(options))
    except SystemExit as end:  # after --help and --version
        return int(end.code or 0)


def _module(name: str) -> ModuleType:
    return importlib.import_module(f"draxet.cli.{_MODULES[name]}")


def _fail(words: str, *, hush: bool = False) -> int:
    """Say why on standard error. `hush`: what still waits to be printed is thrown away, as it would
    fail again at the end."""
    if hush:
        with contextlib.suppress(OSError, ValueError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    with contextlib.suppress(OSError):
        print(
            f"draxet: {' '.join(words.split())}".encode("utf-8", "replace").decode(),
            file=sys.stderr,
        )
    return 2
