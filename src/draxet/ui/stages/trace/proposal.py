"""What a trace proposes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.record import record
from draxet.trace.closeness import Closeness
from draxet.trace.fitness import Fitness

__all__ = ["Proposal"]


@record(frozen=True, eq=False)
class Proposal:
    """What a trace gives: contours in job space, a colour (#rrggbb) for each where they have any,
    what it says of itself, how near it lies to the picture, whether it can be cut, what each
    contour follows (as in ``ContourItem``), the colours it went by, and why it may be no good."""

    contours: tuple[Contour, ...]
    colours: tuple[str, ...] = ()
    level: float | None = None
    facts: tuple[tuple[str, str], ...] = ()
    closeness: Closeness | None = None
    fitness: Fitness | None = None
    traced: tuple[str, ...] = ()
    palette: tuple[tuple[int, int, int], ...] = ()
    warning: str = ""

    def only(self, numbers: Sequence[int]) -> Proposal:
        """The same of some of its contours."""
        colours = tuple(self.colours[k] for k in numbers) if self.colours else ()
        traced = tuple(self.traced[k] for k in numbers) if self.traced else ()
        return replace(
            self, contours=tuple(self.contours[k] for k in numbers), colours=colours, traced=traced
        )
