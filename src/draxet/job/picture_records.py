"""Pictures in a job: where they lie, what they are known to measure, what was done to them."""

from __future__ import annotations

import math
from dataclasses import field, replace
from enum import StrEnum
from typing import Annotated, Self

from draxet.cached import cached_property
from draxet.geometry.affine import Affine
from draxet.geometry.covariance import Covariance
from draxet.job.place_types import Box, Pixel, PixelCount
from draxet.job.ranges import Count, Each, Id, Length, Share, Within, Words
from draxet.job.steps import Frame, PrepareStep, worked_frame
from draxet.record import record

__all__ = ["Exactness", "KnownLength", "Picture", "SquareStep"]


class Exactness(StrEnum):
    """How exact the work must be; `tolerance` (mm) is what tracing, simplifying and checking go
    by."""

    PLAN = "plan"
    CUT = "cut"
    FIT = "fit"

    @property
    def tolerance(self) -> float:
        return {"plan": 0.5, "cut": 0.1, "fit": 0.03}[self.value]


@record(frozen=True)
class KnownLength:
    """Two places on a picture (in its pixels), the real length between them, and the spread of each
    pick."""

    first: Pixel
    second: Pixel
    length: Length
    first_spread: Covariance
    second_spread: Covariance

    @property
    def pixels(self) -> float:
        """The length between the places in pixels."""
        return math.hypot(self.second[0] - self.first[0], self.second[1] - self.first[1])

    @property
    def deviation(self) -> float:
        """One standard deviation of that length, in pixels."""
        dx, dy = self.second[0] - self.first[0], self.second[1] - self.first[1]
        return math.hypot(self.first_spread.along(dx, dy), self.second_spread.along(dx, dy))


@record(frozen=True)
class SquareStep:
    """A photo squared to a plan: four `corners` found on it, the `real` width and height between
    them in mm, the lens `curve`, the map from the plan's pixels to the photo's (`matrix`, nine
    numbers row by row), and the `plan`'s size in pixels."""

    corners: Annotated[tuple[Pixel, ...], Count(4, 4)]
    real: tuple[Length, Length]
    curve: Annotated[float, Within(-1.0, 1.0)]
    matrix: Annotated[tuple[float, ...], Count(9, 9)]
    plan: tuple[PixelCount, PixelCount]
    residual: Annotated[float, Within(0.0, 1e6)] = 0.0


@record(frozen=True)
class Picture:
    """A picture: its file as it came (`source`), its size in base pixels, its prepare steps, and
    its map to job space.

    file_size : width and height of the file's picture. to_job : from the pixels that are worked
    with (after `square` and `steps`) to job space. A `locked` one is not moved by hand; `strength`
    0..1 is its own, beside each stage's; `came_from` and `may_be_used` are notes of where it is
    from and what it may be used for.
    """

    id: Id
    name: Words
    source: bytes = field(repr=False)
    file_size: tuple[PixelCount, PixelCount]
    to_job: Affine
    dpi: Annotated[float, Within(1.0, 1e6)] | None = None
    visible: bool = True
    known_lengths: Annotated[tuple[KnownLength, ...], Each("known length")] = ()
    unstretched: bool = False
    square: SquareStep | None = None
    page: Annotated[int, Within(0, 1_000_000)] = 0
    steps: Annotated[tuple[PrepareStep, ...], Each("prepare step")] = ()
    locked: bool = False
    strength: Share = 1.0
    came_from: Words = ""
    may_be_used: Words = ""
    meant: bool = False
    """Whether somebody said that the size it has is meant, without a known length."""

    @property
    def is_sized(self) -> bool:
        """Whether its size is known or meant."""
        return bool(self.known_lengths) or self.meant

    @property
    def base_size(self) -> tuple[int, int]:
        """Width and height in base pixels: the plan's where it is squared, else the file's."""
        return self.square.plan if self.square else self.file_size

    @cached_property
    def _frame(self) -> Frame:
        return worked_frame(self.base_size, self.steps)

    @property
    def width(self) -> int:
        """Width in the pixels that are worked with."""
        return self._frame.size[0]

    @property
    def height(self) -> int:
        """Height in the pixels that are worked with."""
        return self._frame.size[1]

    @property
    def to_base(self) -> Affine:
        """From the pixels that are worked with to base pixels."""
        return self._frame.to_base

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle in job space."""
        return self.to_job.point(self.width / 2, self.height / 2)

    @property
    def box(self) -> Box:
        """Its extent in job space."""
        corners = [self.to_job.point(x, y) for x in (0, self.width) for y in (0, self.height)]
        return (
            min(x for x, _ in corners),
            min(y for _, y in corners),
            max(x for x, _ in corners),
            max(y for _, y in corners),
        )

    def mapped(self, after: Affine) -> Self:
        return replace(self, to_job=self.to_job.then(after))

    @property
    def distortion(self) -> float:
        """How much longer its most stretched direction lies than its least stretched one, as a
        share."""
        m = self.to_job
        a, b = m.a * m.a + m.d * m.d + m.b * m.b + m.e * m.e, abs(m.determinant)
        big = math.sqrt((a + math.sqrt(max(a * a - 4 * b * b, 0.0))) / 2)
        return big * big / b - 1 if b else math.inf

    @property
    def pixel_size(self) -> float:
        """Millimetres a pixel."""
        return self.to_job.scale
