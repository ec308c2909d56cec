"""Pieces of a contour in its place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import add_contours, change_contours, remove_contours
from draxet.job.contour_records import ContourItem
from draxet.job.copies import made_own, removed_alone
from draxet.job.layout import way_to
from draxet.job.layout_names import drawn_name
from draxet.job.records import Job

__all__ = ["put_all", "put_instead", "put_pieces"]

_FLAT = 0.01
"""mm: so finely lines are compared."""
_SAME = 1e-6
"""mm: nodes so near to each other are the same."""


def put_pieces(job: Job, contour_id: str, pieces: Sequence[Contour]) -> tuple[Job, tuple[str, ...]]:
    """The pieces of a contour of the layout in its place, worked as it was, and their ids; it is
    gone where there are none. Whatever follows it is in pieces as well."""
    if not pieces:
        return remove_contours(job, [contour_id]), ()
    to, name = way_to(job, contour_id), drawn_name(contour_id)
    own = [piece.transformed(to.inverse()) for piece in pieces] if to else list(pieces)
    item = job.contour_by_id[name]
    job = change_contours(job, {name: own[0]})
    before, more = len(job.contours), len(own) - 1
    job = add_contours(
        job,
        own[1:],
        item.picture,
        [item.colour] * more,
        [item.traced] * more,
        [item.layer] * more,
    )
    new = [other.id for other in job.contours[before:]]
    contours = tuple(
        replace(i, part=item.part, by_hand=True, line=item.line, sheet=item.sheet or i.sheet)
        if i.id in new
        else i
        for i in job.contours
    )
    operations = tuple(
        each.with_contours([*each.contours, *_beside(each.contours, name, new)])
        if any(drawn_name(known) == name for known in each.contours)
        else each
        for each in job.operations
    )
    made = replace(job, contours=contours, operations=operations)
    return made, (contour_id, *_beside([contour_id], name, new))


def put_all(job: Job, pieces: Mapping[str, Sequence[Contour]]) -> Job:
    """The pieces of several contours of the layout in their places. What follows one is in pieces
    as well; where copies of a part are to become unlike each other, they are its own from then
    on."""
    laid = job.layout.contour_by_id
    changed = {
        name: made
        for name, made in pieces.items()
        if len(made) != 1 or made[0] is not laid[name].contour
    }
    unlike = [name for name in changed if not _alike_wherever(job, changed, name)]
    job, names = made_own(job, unlike) if unlike else (job, {})
    done = set[str]()
    for name, made in changed.items():
        now = names.get(name, name)
        if drawn_name(now) not in done:
            done.add(drawn_name(now))
            job, _ = put_pieces(job, now, made)
    return job


def put_instead(job: Job, gone: Sequence[str], made: Sequence[Contour]) -> Job:
    """Contours in place of others of the layout: each has the colour, the line, the layer and the
    operations of the one that it runs along most."""
    items = [job.layout.contour_by_id[name] for name in gone]
    heirs = [items[_along_most(items, contour)] for contour in made] if items else []
    before = len(job.contours)
    layers = [heir.layer for heir in heirs]
    job = add_contours(job, made, colours=[heir.colour for heir in heirs], layers=layers)
    of = {item.id: heir for item, heir in zip(job.contours[before:], heirs, strict=False)}
    contours = tuple(
        replace(item, line=of[item.id].line) if item.id in of else item for item in job.contours
    )
    operations = tuple(
        each.with_contours([*each.contours, *new])
        if (new := [name for name, heir in of.items() if heir.id in laid.contours])
        else each
        for each, laid in zip(job.operations, job.layout.operations, strict=True)
    )
    return removed_alone(replace(job, contours=contours, operations=operations), gone)


def _along_most(items: Sequence[ContourItem], contour: Contour) -> int:
    """Which of them a contour runs along most; the first where along none."""
    points = shapely.points(contour.flattened(_FLAT))
    lines = [shapely.LineString(_round(item.contour.flattened(_FLAT))) for item in items]
    shares = [int((shapely.distance(line, points) < 2 * _FLAT).sum()) for line in lines]
    return int(np.argmax(shares))


def _round(points: Points) -> Points:
    return np.vstack([points, points[:1]])


def _alike_wherever(job: Job, changed: Mapping[str, Sequence[Contour]], name: str) -> bool:
    """Whether all copies of its part that are changed become what this one does."""
    drawn = job.contour_by_id[drawn_name(name)]
    if not job.placements or not drawn.part:
        return True
    kin = [k for k in changed if job.contour_by_id[drawn_name(k)].part == drawn.part]
    holders = {k.removesuffix(drawn_name(k)) for k in kin}
    own = _as_drawn(job, name, changed[name])
    return len(holders) == 1 or all(
        holder + drawn.id in changed
        and _same(own, _as_drawn(job, holder + drawn.id, changed[holder + drawn.id]))
        for holder in holders
    )


def _as_drawn(job: Job, name: str, pieces: Sequence[Contour]) -> list[Contour]:
    to = way_to(job, name)
    return [piece.transformed(to.inverse()) for piece in pieces] if to else list(pieces)


def _same(some: Sequence[Contour], others: Sequence[Contour]) -> bool:
    return len(some) == len(others) and all(
        one.closed == other.closed
        and len(one.nodes) == len(other.nodes)
        and bool(np.allclose(one.nodes, other.nodes, atol=_SAME))
        for one, other in zip(some, others, strict=True)
    )


def _beside(known: Sequence[str], name: str, new: Sequence[str]) -> list[str]:
    """The ids of new contours wherever the one of a name is laid."""
    return [
        each.removesuffix(name) + other
        for each in known
        if drawn_name(each) == name
        for other in new
    ]
