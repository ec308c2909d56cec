"""What becomes of contours where some of the areas between them are kept, joined or dropped: only
what bounds these changes."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np

from draxet.geometry.arrangement import Arrangement
from draxet.geometry.arrays import Bools
from draxet.geometry.contour import Contour
from draxet.geometry.shared_edges import equal_outlines
from draxet.record import record

__all__ = ["Taken", "combined", "regions_taken"]


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
    every = [*(ground.contours[k] for k in concerned), *made]
    stay, same = set[int](), set[int]()
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
