"""Where cuts begin and tabs hold (*spots*): told by how far along its contour each is, so that they
move, turn and grow with it; carried over to the place that was meant where its shape is another
one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from draxet.geometry.contour import Contour
from draxet.job.contour_records import ContourItem
from draxet.job.operations import Operation, Spot

__all__ = ["share_near", "spots_carried"]


def share_near(contour: Contour, x: float, y: float) -> float:
    """How far along a contour, of its whole length, the place is that is nearest to another one."""
    from draxet.geometry.arc_length import ArcLength  # not needed to show a window
    from draxet.geometry.pieces import position_near

    measured = ArcLength(contour)
    return (
        min(measured.length_at(position_near(contour, x, y)) / measured.length, 1.0)
        if measured.length
        else 0.0
    )


def spots_carried(
    operations: tuple[Operation, ...],
    before: Mapping[str, ContourItem],
    after: Mapping[str, ContourItem],
) -> tuple[Operation, ...]:
    """Operations whose spots lie on contours of other shapes where they lay on the old ones. The
    same tuple where none does."""
    changed = {
        name
        for name, item in after.items()
        if name in before and item.contour is not before[name].contour
    }
    if not any(any(spot.contour in changed for spot in each.spots) for each in operations):
        return operations

    def carried(spot: Spot) -> Spot:
        if spot.contour not in changed:
            return spot
        from draxet.geometry.arc_length import ArcLength

        old = ArcLength(before[spot.contour].contour)
        x, y = old.place(spot.share * old.length).tolist()
        return replace(spot, share=share_near(after[spot.contour].contour, x, y))

    return tuple(
        each.changed(spots=tuple(map(carried, each.spots))) if each.spots else each
        for each in operations
    )
