"""Edits of how contours are made: where cuts begin and tabs hold, what is worked after what, and
what goes into what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from draxet.geometry.arc_length import ArcLength
from draxet.job.contour_ties import Fit, Order
from draxet.job.cut_middles import middles_of
from draxet.job.layout import worked_name
from draxet.job.layout_names import drawn_name, split_name
from draxet.job.operating import set_operation
from draxet.job.operations import Operation, Spot
from draxet.job.records import Job
from draxet.job.spots import share_near

__all__ = [
    "add_fit",
    "clear_spots",
    "move_tab",
    "order_by_hand",
    "put_across",
    "put_start",
    "put_tab",
    "remove_fit",
    "remove_order",
    "remove_tab",
    "tab_shares",
]


def tab_shares(job: Job, contour_id: str) -> list[float]:
    """Where along a contour that is cut through its tabs are, as shares of its length."""
    operation, contour = job.cut_of[contour_id], job.layout.contour_by_id[contour_id].contour
    put = [
        spot.share for spot in operation.spots if spot.contour == contour_id and spot.what == "tab"
    ]
    if put or not operation.tabs or not contour.closed:
        return put
    found = []
    for line in middles_of(contour, operation.side, operation.width):
        measured = ArcLength(line)
        found += [
            share_near(contour, *measured.place(at).tolist())
            for at in operation.tabs_on(contour, line, (contour_id,))
        ]
    return found


def put_start(job: Job, contour_id: str, share: float, what: str = "start") -> Job:
    """The work of a contour begun at a place, or ended there (`what` is ``end``)."""
    contour_id, operation = _begun_by(job, contour_id)
    others = tuple(
        spot for spot in operation.spots if spot.contour != contour_id or spot.what != what
    )
    return set_operation(job, operation.changed(spots=(*others, Spot(contour_id, share, what))))


def put_across(
    job: Job, operation: Operation, one: tuple[str, float], other: tuple[str, float]
) -> Job:
    """Stitches led across from a place on a contour (its id, its share) to another."""
    number = max((spot.pair for spot in operation.spots), default=0) + 1
    ends = (Spot(worked_name(job, name), share, "across", number) for name, share in (one, other))
    return set_operation(job, operation.changed(spots=(*operation.spots, *ends)))


def put_tab(job: Job, contour_id: str, share: float) -> Job:
    """One more tab; those that it had stay where they are."""
    return _with_tabs(job, contour_id, [*tab_shares(job, contour_id), share])


def move_tab(job: Job, contour_id: str, number: int, share: float) -> Job:
    """A tab somewhere else; the others stay where they are."""
    shares = tab_shares(job, contour_id)
    return _with_tabs(job, contour_id, [*shares[:number], share, *shares[number + 1 :]])


def remove_tab(job: Job, contour_id: str, number: int) -> Job:
    """A contour held by one tab fewer, as long as one is left."""
    shares = tab_shares(job, contour_id)
    return _with_tabs(job, contour_id, [*shares[:number], *shares[number + 1 :]])


def clear_spots(job: Job, ids: Sequence[str]) -> Job:
    """Starts and tabs of contours found by the operation again."""
    some = {worked_name(job, name) for name in ids}
    for operation in job.operations:
        if any(spot.contour in some for spot in operation.spots):
            job = set_operation(
                job,
                operation.changed(
                    spots=tuple(spot for spot in operation.spots if spot.contour not in some),
                ),
            )
    return job


def _cut_of(job: Job, contour_id: str) -> tuple[str, Operation]:
    """The id by which operations name a contour of the layout, and the one that cuts it."""
    name = worked_name(job, contour_id)
    return name, next(each for each in job.operations if each.through and name in each.contours)


def _begun_by(job: Job, contour_id: str) -> tuple[str, Operation]:
    """The id by which operations name a contour of the layout, and the one that is told where to
    begin on it."""
    name = worked_name(job, contour_id)
    return name, next(
        each for each in job.operations[::-1] if each.begins and name in each.contours
    )


def _with_tabs(job: Job, contour_id: str, shares: Sequence[float]) -> Job:
    contour_id, operation = _cut_of(job, contour_id)
    others = tuple(
        spot for spot in operation.spots if spot.contour != contour_id or spot.what != "tab"
    )
    return set_operation(
        job,
        operation.changed(spots=(*others, *(Spot(contour_id, share, "tab") for share in shares))),
    )


def order_by_hand(job: Job, ids: Sequence[str]) -> Job:
    """Contours worked one right after the other; they leave other orders."""
    names = _tied(job, ids)
    order = Order(f"order-{job.next_id}", tuple(names))
    others = tuple(left for each in job.orders if (left := each.without(frozenset(names))))
    return replace(job, orders=(*others, order), next_id=job.next_id + 1)


def _tied(job: Job, ids: Sequence[str]) -> list[str]:
    """Contours of the layout that are tied to each other, by their part's names where one
    placement lays all of them."""
    placements = {split_name(name)[0] for name in ids}
    names = [worked_name(job, name) for name in ids]
    return names if len(placements) == 1 else list(ids)


def remove_order(job: Job, order_id: str) -> Job:
    return replace(
        job, orders=tuple(order for order in job.orders if order.id != drawn_name(order_id))
    )


def add_fit(job: Job, part: str, opening: str, clearance: float) -> Job:
    """An opening made to take a part; it takes no other."""
    part, opening = _tied(job, (part, opening))
    fit = Fit(f"fit-{job.next_id}", part, opening, clearance)
    return replace(
        job,
        fits=(*(each for each in job.fits if each.opening != opening), fit),
        next_id=job.next_id + 1,
    )


def remove_fit(job: Job, fit_id: str) -> Job:
    return replace(job, fits=tuple(fit for fit in job.fits if fit.id != drawn_name(fit_id)))
