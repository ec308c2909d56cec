"""What leaves: one record a kind of file, in the order in which they are offered and written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from draxet.formats.layer import Format, FormatError
from draxet.job.machine_kinds import Machine
from draxet.leaving.before_it_runs import LIST
from draxet.leaving.body_files import BODY_KINDS
from draxet.leaving.leaving_kind import Leaving, LeavingKind, LeftTogether, leave_together
from draxet.leaving.papers import JOB_SHEET, PAPER_KINDS
from draxet.leaving.run_files import FRAME, PROGRAM
from draxet.leaving.saw_paper import SAW_PATTERN
from draxet.leaving.sheet_drawings import DRAWING_KINDS
from draxet.leaving.sheet_picture import PICTURE
from draxet.leaving.stitch_files import STITCH_KINDS

__all__ = ["LEAVING_KINDS", "drawing_format", "kind_of", "leave"]

LEAVING_KINDS: list[LeavingKind[Any]] = [
    *DRAWING_KINDS,
    PROGRAM,
    FRAME,
    *PAPER_KINDS,
    SAW_PATTERN,
    PICTURE,
    LIST,
    JOB_SHEET,
    *STITCH_KINDS,
    *BODY_KINDS,
]


def leave(
    leaving: Leaving, kinds: Sequence[LeavingKind[Any]], folder: Path, name: str
) -> LeftTogether:
    """Write files of these kinds (see ``leave_together``)."""
    files = [(kind, leaving, kind.path_for(leaving, folder, name)) for kind in kinds]
    return LeftTogether(tuple(leave_together(files)), leaving.job.work_digest(leaving.run.sheet))


def kind_of(path: Path, machine: Machine | None = None) -> LeavingKind[Any]:
    """The kind of file that a path's ending names: of those that are offered of what a machine
    works (of all, where none is given) the one by which it counts as handed off, else the first.

    Raises
    ------
    FormatError : where it is none.
    """
    endings: dict[str, LeavingKind[Any]] = {}
    some = [each for each in LEAVING_KINDS if machine is None or each.offered(machine)]
    for kind in sorted(some, key=lambda each: machine is None or not each.signs):
        for ending in filter(None, (kind.ending, kind.plotted)):
            endings.setdefault(Path(f"a{ending}").suffix, kind)
    if path.suffix.lower() in endings:
        return endings[path.suffix.lower()]
    raise FormatError(f"the file name must end in {_either(list(endings))}, got {path.name!r}")


def drawing_format(path: Path) -> Format:
    """The kind of drawing that a path's ending names.

    Raises
    ------
    FormatError : where it is none of them.
    """
    formats = [kind.format for kind in LEAVING_KINDS if kind.format is not None]
    for each in formats:
        if path.suffix.lower() == f".{each.ending}":
            return each
    raise FormatError(
        f"the file name must end in {_either([f'.{each.ending}' for each in formats])}, got {path.name!r}"
    )


def _either(words: Sequence[str]) -> str:
    return f"{', '.join(words[:-1])} or {words[-1]}"
