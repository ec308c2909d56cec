"""What becomes of contours where some of the areas between them are kept, joined or dropped: only
what bounds these changes."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np

from draxet.geometry.arrangement import Arrangement
from draxet.geometry.arrays import Bools
from draxet.geometry.contour import Contour
from draxet.geometry.shared_edges import equal_outlines
from draxet.geometry.spans import ARC
from draxet.record import record

__all__ = ["Taken", "combined", "regions_taken"]

_SAME = 1e-7
_MOST_SWEEP = np.radians(350.0)
"""An arc of more is kept in parts."""


@record(frozen=True)
class Taken:
    """Numbers of the contours that go, and what comes in their place."""

    gone: tuple[int, ...]
    made: tuple[Contour, ...]


def regions_taken(ground: Arrangement, chosen: Collection[int], how: str) -> Taken:
    """Each of the chosen regions a contour of its own (``each``), ``one`` outline of them, or what
    they leave of the contours that they lie in (``but``)."""
    bounding = _bounding(ground, chosen)
    if how == "each":
        made = [contour for k in sorted(chosen) for contour in ground.outline_of([k])]
    elif how == "one":
        made = ground.outline_of(chosen)
    else:
        bounding |= frozenset(k for number in chosen for k in ground.regions[number].covered)
        made = ground.outline_of(
            k
            for k, region in enumerate(ground.regions)
            if region.covered & bounding and k not in chosen
        )
    return _settled(ground, sorted(bounding), made)


def combined(ground: Arrangement, how: str) -> Taken:
    """All closed contours: ``unite``, ``intersect`` (what all cover), ``exclude`` (what only one
    covers), or ``subtract`` all others from the first."""
    closed = frozenset(k for k, contour in enumerate(ground.contours) if contour.closed)
    first = frozenset({min(closed, default=-1)})
    wanted: Callable[[frozenset[int]], bool] = {
        "unite": lambda covered: bool(covered),
        "intersect": lambda covered: bool(closed) and covered == closed,
        "exclude": lambda covered: len(covered) == 1,
        "subtract": lambda covered: covered == first,
    }[how]
    return _settled(
        ground,
        sorted(closed),
        ground.outline_of(k for k, region in enumerate(ground.regions) if wanted(region.covered)),
    )


def _bounding(ground: Arrangement, chosen: Collection[int]) -> frozenset[int]:
    """The contours of which an edge bounds one of the regions on one side, and something else on
    the other or another one of them."""
    mine = np.zeros(len(ground.regions) + 1, dtype=bool)
    mine[list(chosen)] = True
    mine[-1] = False
    edges: Bools = mine[ground.left] | mine[ground.right]
    return frozenset(k for edge in np.flatnonzero(edges).tolist() for k in ground.owners[edge])


def _settled(ground: Arrangement, concerned: Sequence[int], made: Sequence[Contour]) -> Taken:
    """Contours that would come again just as they are stay."""
    circles = [shape for k in concerned if (shape := ground.contours[k].circle_shape)]
    made = [_without_needless(contour, circles) for contour in made] if circles else made
    stay, same = set[int](), set[int]()
    every = [*(ground.contours[k] for k in concerned), *made]
    for group in equal_outlines(every):
        old, new = (
            [k for k in group if k < len(concerned)],
            [k - len(concerned) for k in group if k >= len(concerned)],
        )
        stay |= {concerned[k] for k, _ in zip(old, new, strict=False)}
        same |= {k for _, k in zip(old, new, strict=False)}
    return Taken(
        tuple(k for k in concerned if k not in stay),
        tuple(contour for k, contour in enumerate(made) if k not in same),
    )


def _without_needless(contour: Contour, circles: Sequence[tuple[float, float, float]]) -> Contour:
    """A contour whose arcs of one of the circles (centre and radius) run on in one another as one,
    where together they are no whole turn: a circle begins somewhere, and nobody put a node there."""
    n = len(contour.kinds)
    if not contour.closed or n < 3 or contour.circle_shape is not None:
        return contour
    shapes, on = contour.spans.arc_shapes(), np.full(n, -1)
    for k, (x, y, radius) in enumerate(circles):
        with np.errstate(invalid="ignore"):
            off = np.abs(shapes.centres - (x, y)).max(axis=1) + np.abs(shapes.radii - radius)
        on[(contour.kinds == ARC) & (off <= _SAME * max(radius, 1.0))] = k
    goes_on = (on >= 0) & (on == np.roll(on, 1)) & (shapes.sweep * np.roll(shapes.sweep, 1) > 0)
    begins = np.flatnonzero(~goes_on)  # of spans that do not go on from the one before
    if len(begins) == n or not len(begins):
        return contour
    nodes, kinds, bulges, handles = [], [], [], []
    for first, after in zip(begins, [*begins[1:], begins[0] + n], strict=True):
        run = np.arange(first, after) % n
        sweep = float(shapes.sweep[run].sum()) if len(run) > 1 else 0.0
        for k in run[:1] if 0 < abs(sweep) < _MOST_SWEEP else run:
            nodes.append(contour.nodes[k])
            kinds.append(contour.kinds[k])
            bulges.append(np.tan(sweep / 4) if 0 < abs(sweep) < _MOST_SWEEP else contour.bulges[k])
            handles.append(contour.handles[k])
    return Contour.make(np.array(nodes), np.array(kinds), np.array(bulges), np.array(handles))
