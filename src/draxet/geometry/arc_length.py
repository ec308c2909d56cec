"""A contour by length along it: where one is after so many millimetres."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Floats, Points
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import piece, place_at
from draxet.geometry.spans import LINE

__all__ = ["ArcLength"]

_PROBES = 64
_STEP = 1e-3


class ArcLength:
    """Lengths (mm) and positions on a contour, within what straight steps, 64 to a curved span,
    leave of it."""

    def __init__(self, contour: Contour) -> None:
        self.contour = contour
        count = len(contour.kinds)
        steps = np.where(contour.kinds == LINE, 1, _PROBES)
        which = np.repeat(np.arange(count), steps)
        first = np.repeat(np.cumsum(steps) - steps, steps)
        share = (np.arange(1, len(which) + 1) - first) / steps[which]
        places = np.vstack([contour.nodes[:1], contour.spans.at(which, share)])
        self._positions = np.concatenate([[0.0], which + share])
        self._lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(places, axis=0).T))])

    @property
    def length(self) -> float:
        return float(self._lengths[-1])

    def length_at(self, position: float) -> float:
        return float(np.interp(position, self._positions, self._lengths))

    def position(self, length: float) -> float:
        """The position so far along it; on a closed contour it goes round."""
        length = length % self.length if self.contour.closed else min(max(length, 0.0), self.length)
        return float(np.interp(length, self._lengths, self._positions))

    def place(self, length: float) -> Points:
        return place_at(self.contour, self.position(length))

    def places(self, lengths: Floats) -> Points:
        """The places (n, 2) so far along it (n,)."""
        lengths = (
            np.mod(lengths, self.length)
            if self.contour.closed
            else np.clip(lengths, 0.0, self.length)
        )
        at = np.interp(lengths, self._lengths, self._positions)
        which = np.minimum(at.astype(np.int64), len(self.contour.kinds) - 1)
        return self.contour.spans.at(which, at - which)

    def direction(self, length: float) -> Points:
        """The direction (2,) there, of length 1."""
        step = _STEP * self.length
        way = self.place(length + step) - self.place(length - step)
        size = float(np.hypot(*way))
        found: Points = way / size if size else np.array([1.0, 0.0])
        return found

    def without(self, begin: float, end: float) -> tuple[Contour | None, list[Contour]]:
        """The stretch from one length to another, and what is left without it."""
        if self.contour.closed:
            a, b = self.position(begin), self.position(end)
            rest = [piece(self.contour, b, a)]
        else:
            a, b = self.position(max(begin, 0.0)), self.position(min(end, self.length))
            rest = [
                piece(self.contour, 0.0, a),
                piece(self.contour, b, float(len(self.contour.kinds))),
            ]
        return piece(self.contour, a, b), [part for part in rest if part is not None]
