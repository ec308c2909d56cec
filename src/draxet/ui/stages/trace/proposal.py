"""What a trace proposes, and what of it is left out before it is made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.geometry.contour import Contour, boxes_of
from draxet.record import record
from draxet.trace.closeness import Closeness
from draxet.trace.fitness import Fitness

__all__ = ["Aside", "Proposal"]

_SAME = 0.04
"""Of a contour's size: so much other settings may change of where it ends."""


@record(frozen=True, eq=False)
class Proposal:
    """What a trace gives: contours in job space, a colour (#rrggbb) for each where they have any, what it says of itself, how near
    it lies to the picture, whether it can be cut, what each contour follows (as in ``ContourItem``), the colours it went by, and why
    it may be no good."""

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
        return replace(self, contours=tuple(self.contours[k] for k in numbers), colours=colours, traced=traced)


@record(frozen=True)
class Aside:
    """Extents (x0, y0, x1, y1) of contours that were left out of a proposal; what a later one has just there is left out as well."""

    boxes: tuple[tuple[float, float, float, float], ...] = ()

    @classmethod
    def of(cls, offer: Proposal, left_out: NDArray[np.bool_]) -> Aside:
        return cls(tuple(offer.contours[k].box for k in np.flatnonzero(left_out).tolist()))

    def among(self, offer: Proposal) -> NDArray[np.bool_]:
        """Which of a proposal's contours (n,) are left out."""
        if not offer.contours or not self.boxes:
            return np.zeros(len(offer.contours), dtype=bool)
        boxes, others = boxes_of(offer.contours), np.array(self.boxes, dtype=np.float64)
        near = _SAME * np.hypot(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
        return np.array([(np.abs(others - box).max(axis=1) <= reach).any() for box, reach in zip(boxes, near, strict=True)])

    def parted(self, offer: Proposal) -> tuple[Proposal, Proposal]:
        """What is kept of a proposal (the same where all of it is), and what is left out."""
        left = self.among(offer)
        if not left.any():
            return offer, offer.only([])
        return offer.only(np.flatnonzero(~left).tolist()), offer.only(np.flatnonzero(left).tolist())
