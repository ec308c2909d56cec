"""The job and what it holds: frozen records with stable ids. Lengths are millimetres in job space.

A *job* is one piece of work: its *sheet* of stock, its *pictures*, the *contours* drawn or traced on them and the
*operations* that cut them. Every edit makes a new job that shares what it did not touch.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour

__all__ = ["ContourItem", "CutThrough", "HandedOff", "Job", "KnownLength", "Picture", "Sheet", "Side", "SquareStep", "Tones"]


class Side(StrEnum):
    """On which side of a contour the cut runs."""

    INSIDE = "inside"
    ON = "on"
    OUTSIDE = "outside"


@dataclass(frozen=True)
class Sheet:
    """Stock on the bench, its lower left corner in the origin."""

    id: str = "sheet-1"
    name: str = "Sheet 1"
    width: float = 600.0
    height: float = 400.0
    thickness: float = 3.0
    material: str = "plywood"


@dataclass(frozen=True)
class KnownLength:
    """Two places on a picture (in its pixels), the real length between them, and one standard deviation of each pick."""

    first: tuple[float, float]
    second: tuple[float, float]
    length: float
    first_spread: float
    second_spread: float


@dataclass(frozen=True)
class SquareStep:
    """A photo squared to a plan: four `corners` found on it, the `real` width and height between them in mm, the lens
    `curve`, the map from the plan's pixels to the photo's (`matrix`, nine numbers row by row), the `plan`'s size in pixels,
    and the size the photo had."""

    corners: tuple[tuple[float, float], ...]
    real: tuple[float, float]
    curve: float
    matrix: tuple[float, ...]
    plan: tuple[int, int]
    photo: tuple[int, int]
    residual: float = 0.0


@dataclass(frozen=True)
class Tones:
    """How a picture's brightness is prepared; as it came where all is at rest.

    even_light : uneven light and paper shade taken out. specks : spots up to so many pixels wide taken out, 0 for none.
    contrast : from 0 (as it is) to 100 (black and white only). invert : dark and light exchanged.
    """

    even_light: bool = False
    specks: int = 0
    contrast: int = 0
    invert: bool = False


@dataclass(frozen=True)
class Picture:
    """A picture: its file as it came (`source`), its size in pixels as it is worked with, and its map from those to job space.

    A `locked` one is not moved by hand; `came_from` and `may_be_used` are notes of where it is from and what it may be used for.
    """

    id: str
    name: str
    source: bytes = field(repr=False)
    width: int
    height: int
    to_job: Affine
    dpi: float | None = None
    visible: bool = True
    known_lengths: tuple[KnownLength, ...] = ()
    unstretched: bool = False
    square: SquareStep | None = None
    page: int = 0
    tones: Tones = Tones()
    locked: bool = False
    came_from: str = ""
    may_be_used: str = ""

    @cached_property
    def digest(self) -> str:
        """SHA-256 of the file."""
        return hashlib.sha256(self.source).hexdigest()

    @property
    def pixel_size(self) -> float:
        """Millimetres a pixel."""
        return self.to_job.scale


@dataclass(frozen=True)
class ContourItem:
    """A contour of the job and the picture it was traced from (empty where none)."""

    id: str
    contour: Contour
    picture: str = ""


@dataclass(frozen=True)
class CutThrough:
    """An operation: contours cut right through, the cut `width` wide and lying on one `side` of them; `feed` in mm/min."""

    id: str
    name: str
    contours: tuple[str, ...]
    side: Side
    width: float = 1.5
    feed: float = 2400.0


@dataclass(frozen=True)
class HandedOff:
    """A file that left, and the state of the work it held."""

    file: str
    work: str


@dataclass(frozen=True)
class Job:
    """Everything of one piece of work, as a value."""

    name: str = "Untitled job"
    unit: str = "mm"
    sheet: Sheet = Sheet()
    pictures: tuple[Picture, ...] = ()
    contours: tuple[ContourItem, ...] = ()
    operations: tuple[CutThrough, ...] = ()
    handed_off: HandedOff | None = None
    next_id: int = 1

    @cached_property
    def contour_by_id(self) -> dict[str, ContourItem]:
        return {item.id: item for item in self.contours}

    @cached_property
    def picture_by_id(self) -> dict[str, Picture]:
        return {picture.id: picture for picture in self.pictures}

    @cached_property
    def operation_of(self) -> dict[str, CutThrough]:
        """Contour id to its operation."""
        return {contour: operation for operation in self.operations for contour in operation.contours}

    @cached_property
    def work_digest(self) -> str:
        """Tells whether what would be handed off has changed."""
        state = hashlib.sha256()
        for operation in self.operations:
            state.update(repr((operation.name, operation.side, operation.width)).encode())
            for contour_id in operation.contours:
                contour = self.contour_by_id[contour_id].contour
                for array in (contour.nodes, contour.kinds, contour.bulges, contour.handles):
                    state.update(array.tobytes())
        return state.hexdigest()
