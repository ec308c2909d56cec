"""What a kind of file that leaves must say of itself, and what it is made from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field
from pathlib import Path
from typing import Annotated, Any, Generic, TypeVar

from draxet.cached import cached_property
from draxet.files import reason, write_together
from draxet.formats.layer import Format, FormatError, Layer
from draxet.gather.load import read_picture
from draxet.gather.prepare import prepared
from draxet.geometry.affine import Affine
from draxet.geometry.arrays import NDArray
from draxet.job.asked import Asked
from draxet.job.findings import Finding
from draxet.job.machine_kinds import Machine
from draxet.job.picture_records import Picture
from draxet.job.product import Product
from draxet.job.program import Program
from draxet.job.ranges import OneOf
from draxet.job.records import Job
from draxet.job.sheet_edits import choose_sheet
from draxet.job.sides import Run, side_of
from draxet.leaving.art_layers import art_layers
from draxet.leaving.drawn_layers import layers_of
from draxet.make.products import product_of
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = [
    "Leaving",
    "LeavingKind",
    "Left",
    "LeftTogether",
    "DRAWN_FOR",
    "LookSettings",
    "ReadBack",
    "leave_file",
    "leave_together",
]

_Wanted = TypeVar("_Wanted")
_Settings = TypeVar("_Settings")


def _pixels_of(picture: Picture, report: Progress) -> NDArray[Any]:
    """A picture as it is worked with."""
    base = read_picture(picture.source, picture.name, picture.page).pixels
    return prepared(base, picture.square, picture.steps, report)


DRAWN_FOR = {"": "cut", "work": "cut", "drawing": "lines", "picture": "look"}
"""How drawings, papers and pictures leave where nobody says otherwise, by what the job is for."""


@record
class LookSettings:
    """drawn : for ``cut``, which leaves what is worked, edge by edge; to ``look`` at, which leaves all
    contours as areas in their colours and lines as broad as they are; or all of them as ``lines``."""

    drawn: Annotated[
        str,
        OneOf(("cut", "look", "lines")),
        Asked(
            "Drawings, papers, pictures",
            choices=(("cut", "for cutting"), ("look", "as it looks"), ("lines", "lines")),
            tip="as it looks: all contours, areas filled with their colours; lines: all of them as lines; no operation is wanted for either",
        ),
    ] = "cut"

    @property
    def is_art(self) -> bool:
        """Whether all that is drawn leaves, whatever it is worked by."""
        return self.drawn != "cut"


@record(frozen=True, eq=False)
class Leaving:
    """What leaves: a run of a job. settings : records of what is asked, by their types; findings :
    that stand; known : what is made of it, where that was made already; pixels : gives those of a picture
    of the job; report : is told how far it is."""

    job: Job
    run: Run
    settings: Mapping[type, Any] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    known: Product | None = None
    pixels: Callable[[Picture, Progress], NDArray[Any]] = _pixels_of
    report: Progress = Unwatched()

    def set(self, kind: type[_Settings]) -> _Settings:
        """What is set of a kind."""
        found: _Settings = self.settings[kind] if kind in self.settings else kind()
        return found

    @cached_property
    def machine(self) -> Machine:
        return self.job.machine_of(self.run.sheet)

    @cached_property
    def side(self) -> Job:
        """The job as the machine meets it, with the run's sheet in hand."""
        return side_of(choose_sheet(self.job, self.run.sheet.id), self.run)

    @cached_property
    def product(self) -> Product:
        """What its machine makes of it."""
        if self.known is not None:
            return self.known
        return product_of(self.side, self.run.sheet, self.machine, self.report)

    @property
    def program(self) -> Program:
        """The same, where the machine runs a program.

        Raises
        ------
        FormatError : where it runs none.
        """
        if not isinstance(self.product, Program):
            raise FormatError(
                f"the {self.machine.name.lower()} runs no program; hand off what it goes by"
            )
        return self.product

    @cached_property
    def layers(self) -> list[Layer]:
        """What is worked, or all that is drawn as it looks, where it lies in the job.

        Raises
        ------
        FormatError : where that is nothing.
        """
        asked = self.set(LookSettings)
        found = (
            art_layers(self.side, filled=asked.drawn == "look")
            if asked.is_art
            else layers_of(self.side)
        )
        if not found:
            raise FormatError(
                "nothing would leave: there is no contour on this sheet"
                if asked.is_art
                else "nothing would leave: no contour on this sheet has an operation yet; give one in Make"
            )
        return found

    @cached_property
    def layers_on_sheet(self) -> list[Layer]:
        """The same, counted from the sheet's lower left."""
        away = Affine.moved(-self.run.sheet.x, -self.run.sheet.y)
        return [layer.transformed(away) for layer in self.layers]


@record(frozen=True)
class ReadBack:
    """What was found in a file: whether it is what was to be written, and in words."""

    matches: bool
    words: str


@record(frozen=True)
class LeavingKind(Generic[_Wanted]):
    """A kind of file that leaves.

    key : what settings and commands name it by; words : for people. ending : what its name ends
    with, behind the one that all files of a run begin with; plotted : the same where the machine
    speaks the language of plotters. asks : records of settings of its own, each with a default for
    every field. wanted : what is to leave in a file of that path; write : that as bytes; read_back :
    the file read by another reader and compared with it.
    runs : whether a machine runs it, so that none leaves beside a fault. signs : whether the work
    counts as handed off by it. format : of a drawing, the kind of file that commands write too.
    of : the product that it holds; without one it is offered whatever a machine makes.
    """

    key: str
    words: str
    ending: str
    wanted: Callable[[Leaving, Path], _Wanted]
    write: Callable[[_Wanted, Progress], bytes]
    read_back: Callable[[_Wanted, Path, Progress], ReadBack]
    asks: tuple[type, ...] = ()
    plotted: str = ""
    runs: bool = False
    signs: bool = False
    format: Format | None = None
    of: str = ""

    def offered(self, machine: Machine) -> bool:
        """Whether it is, of what a machine works."""
        return not self.of or machine.traits.product == self.of

    def path_for(self, leaving: Leaving, folder: Path, name: str) -> Path:
        """The name that its file really has."""
        plotter = self.plotted and leaving.machine.traits.plots
        return folder / f"{name}{self.plotted if plotter else self.ending}"


@record(frozen=True)
class Left:
    """A file that was to leave, and what was found in it; it was kept where that matches."""

    kind: str
    file: str
    read_back: ReadBack


@record(frozen=True)
class LeftTogether:
    """Files that were to leave together, as far as they were read back; `work` tells which state of
    the sheet's work they hold."""

    files: tuple[Left, ...]
    work: str

    @property
    def matches(self) -> bool:
        """Whether all of them are as they should be, and were kept."""
        return all(left.read_back.matches for left in self.files)


class _Differs(Exception):
    """What was read back is not what was written."""


def leave_file(kind: LeavingKind[Any], leaving: Leaving, path: Path) -> Left:
    """Write a file beside its place, read it back, and put it there where it is as it should be;
    one that is not takes nobody's place.

    Raises
    ------
    FormatError : where there is nothing to write, or the disk refuses.
    """
    return leave_together([(kind, leaving, path)])[0]


def leave_together(files: Sequence[tuple[LeavingKind[Any], Leaving, Path]]) -> list[Left]:
    """Write several files, each read back; they take their places only where all of them are as
    they should be.

    Raises
    ------
    FormatError : as ``leave_file``.
    """
    left: list[Left] = []
    try:
        write_together([_to_write(*each, left) for each in files])
    except _Differs:
        pass
    except OSError as error:
        name = Path(str(error.filename or files[0][2])).name
        raise FormatError(
            f"{name} could not be written: {reason(error)}; nothing was written"
        ) from error
    return left


def _to_write(
    kind: LeavingKind[Any], leaving: Leaving, path: Path, left: list[Left]
) -> tuple[Path, bytes, Callable[[Path], None]]:
    """A file's place, what is in it, and what looks at it and tells `left`."""
    leaving.report(0.0, f"writing {path.name}")
    wanted = kind.wanted(leaving, path)

    def look(written: Path) -> None:
        leaving.report(0.5, f"reading {path.name} back")
        left.append(Left(kind.key, path.name, kind.read_back(wanted, written, leaving.report)))
        if not left[-1].read_back.matches:
            raise _Differs

    return path, kind.write(wanted, leaving.report), look
