"""What ties contours to each other when they are made: an order by hand, and the clearance of parts
that go into one another."""

from __future__ import annotations

from collections.abc import Container, Iterable
from dataclasses import replace
from typing import Annotated

from draxet.job.ranges import Count, Id, Within
from draxet.record import record

__all__ = ["Fit", "Order", "fits_without", "orders_without"]


@record(frozen=True)
class Order:
    """Contours that are worked one right after the other, in this order."""

    id: Id
    contours: Annotated[tuple[str, ...], Count(2, 10_000)]


@record(frozen=True)
class Fit:
    """A part that goes into an opening with so much clearance all round (mm; under 0 for a press
    fit): the opening is cut so much wider."""

    id: Id
    part: Id
    opening: Id
    clearance: Annotated[float, Within(-5.0, 20.0)]


def orders_without(orders: tuple[Order, ...], gone: Container[str]) -> tuple[Order, ...]:
    """Orders without some contours; what orders nothing any more is gone."""
    left = (
        order
        if not any(name in gone for name in order.contours)
        else replace_contours(order, (name for name in order.contours if name not in gone))
        for order in orders
    )
    return tuple(order for order in left if order is not None)


def replace_contours(order: Order, names: Iterable[str]) -> Order | None:
    kept = tuple(names)
    return replace(order, contours=kept) if len(kept) > 1 else None


def fits_without(fits: tuple[Fit, ...], gone: Container[str]) -> tuple[Fit, ...]:
    return tuple(fit for fit in fits if fit.part not in gone and fit.opening not in gone)
