"""Places along contours at which they are looked at."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, dots, norms
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.spans import Spans
from draxet.record import record

__all__ = ["Places", "places_along"]


@record(frozen=True, eq=False)
class Places:
    """n places: `points` and the contours' directions there, `along` (n, 2); the contour of each,
    `owner` (n,); the span of each among all `spans`, `span` (n,), and how far along that from its
    start and to its end, `behind` and `ahead` (n,). `spans_owner` says which contour each span is
    of."""

    points: Points
    along: Points
    owner: Ints
    spans: Spans
    spans_owner: Ints
    span: Ints
    behind: Floats
    ahead: Floats

    def before(self) -> Ints:
        """The span before each one, round its contour."""
        firsts = np.flatnonzero(np.diff(self.spans_owner, prepend=-1) > 0)
        before = np.arange(len(self.spans)) - 1
        before[firsts] = np.append(firsts[1:], len(before))[: len(firsts)] - 1
        return before

    def turns(self) -> Floats:
        """How far in radians the contour turns at the start of each span; 0 where it begins
        there."""
        before = self.before()
        leave, reach = self.spans.tangents()
        joined = (self.spans.ends[before] == self.spans.starts).all(axis=1)
        return np.where(joined, np.arccos(np.clip(dots(leave, reach[before]), -1.0, 1.0)), 0.0)

    def meetings(self) -> Ints:
        """How many contours go through the start of each span."""
        _, which, counts = np.unique(
            self.spans.starts, axis=0, return_inverse=True, return_counts=True
        )
        return np.asarray(counts[which.ravel()])


def places_along(contours: Sequence[Contour], step: float) -> Places:
    """Places about `step` apart, at least one to a span."""
    spans, of = joined_spans(contours)
    lengths = spans.lengths()
    counts = np.maximum(1, np.rint(lengths / step)).astype(np.int64)
    span = np.repeat(np.arange(len(counts)), counts)
    t = (np.arange(len(span)) - (np.cumsum(counts) - counts)[span] + 0.5) / counts[span]
    along = spans.at(span, np.minimum(t + 1e-4, 1.0)) - spans.at(span, np.maximum(t - 1e-4, 0.0))
    along /= np.maximum(norms(along), 1e-12)[:, None]
    return Places(
        spans.at(span, t),
        along,
        of[span],
        spans,
        of,
        span,
        t * lengths[span],
        (1 - t) * lengths[span],
    )
