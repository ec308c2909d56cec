"""True shapes on anything: what is nearly level, upright, square, parallel, equal, round,
concentric, tangent, symmetrical, or in a row with others, is found and offered as exactly so, with how far it would move
what is there.

Nothing is offered that would move anything farther than is allowed.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.contour_edits import change_contours, set_ellipse
from draxet.job.contour_moves import map_contours
from draxet.job.records import Job
from draxet.mend.forms import fitted_form
from draxet.mend.truth_record import Truth
from draxet.mend.truth_shapes import like, mirror_mean, of_length, straightened
from draxet.mend.truths_in_gaps import equal_gaps, with_equal_gaps
from draxet.mend.truths_in_rows import common_lines, common_stems, of_one_width, on_line
from draxet.mend.truths_seen import truths_between, truths_of_one
from draxet.progress import Progress, Unwatched

__all__ = ["MOST_CONTOURS", "all_taken", "taken", "truths_of"]

MOST_CONTOURS = 300

_MOST_TRUTHS = 400

_MOST_TIMES = 4

_PHASES = (
    ("round", "oval", "concentric", "equal", "symmetrical"),
    ("level", "upright", "square", "parallel"),
    ("base", "top", "stem"),
    ("gap",),
    ("tangent",),
)
"""All are taken in this order: directions last but one, so that nothing turns lines after they are
true."""


def truths_of(
    job: Job, ids: Sequence[str], most: float, report: Progress = Unwatched()
) -> list[Truth]:
    """What is nearly so among some contours (of more than ``MOST_CONTOURS`` among the first ones),
    without moving anything farther than `most` mm; what moves least first."""
    return _found(job, ids, most, {}, report)


def _found(
    job: Job,
    ids: Sequence[str],
    most: float,
    known: dict[int, tuple[Contour, list[Truth]]],
    report: Progress,
) -> list[Truth]:
    """The same; of contours that are in `known` nothing is looked at again."""
    some = frozenset(ids)
    items = [item for item in job.layout.contours if item.id in some][:MOST_CONTOURS]
    found = [
        *truths_between(items, most),
        *common_lines(items, most),
        *common_stems(items, most),
        *equal_gaps(items, most),
    ]
    for number, item in enumerate(items):
        if id(item.contour) not in known:
            report(number / len(items), "looking for what is nearly true")
            known[id(item.contour)] = (item.contour, list(truths_of_one(item, most)))
        found += known[id(item.contour)][1]
    return sorted((truth for truth in found if truth.moves <= most), key=lambda truth: truth.moves)[
        :_MOST_TRUTHS
    ]


def taken(job: Job, truth: Truth) -> Job:
    """The job with one thing made exactly so."""
    if any(k not in job.layout.contour_by_id for k in truth.ids):
        return job
    item = job.layout.contour_by_id[truth.ids[0]]
    contour = item.contour
    if truth.kind in ("level", "upright", "square", "parallel"):
        return change_contours(job, {item.id: straightened(contour, truth)})
    if truth.kind == "equal" and truth.spans:
        return change_contours(job, {item.id: of_length(contour, truth.spans, truth.value[0])})
    if truth.kind == "equal":
        return _of_one_radius(job, truth)
    if truth.kind in ("base", "top"):
        return _on_one_line(job, truth)
    if truth.kind == "stem":
        by_id = job.layout.contour_by_id
        return change_contours(
            job, {k: of_one_width(by_id[k].contour, *truth.value) for k in truth.ids}
        )
    if truth.kind == "gap":
        return with_equal_gaps(job, truth)
    if truth.kind == "concentric":
        return _about_one_centre(job, truth)
    if truth.kind in ("round", "oval"):
        found = fitted_form(contour, "circle" if truth.kind == "round" else "ellipse")
        if found is None:
            return job
        return (
            set_ellipse(job, item.id, found.ellipse)
            if found.ellipse is not None
            else change_contours(job, {item.id: found.contour})
        )
    if truth.kind == "tangent":
        bulges = contour.bulges.copy()
        bulges[truth.spans[0]] = truth.value[0]
        return change_contours(
            job,
            {
                item.id: Contour.make(
                    contour.nodes, contour.kinds, bulges, contour.handles, closed=contour.closed
                )
            },
        )
    x, y, angle = truth.value
    made = mirror_mean(contour, (x, y, angle))
    return change_contours(job, {item.id: made}) if made is not None else job


def _on_one_line(job: Job, truth: Truth) -> Job:
    """Flat ends laid on the line that was chosen."""
    (line, most), top = truth.value, truth.kind == "top"
    by_id = job.layout.contour_by_id
    return change_contours(
        job, {k: on_line(by_id[k].contour, line, most, top=top) for k in truth.ids}
    )


def _of_one_radius(job: Job, truth: Truth) -> Job:
    """Circles of the radius that was chosen, each about its own centre."""
    circles = {k: job.layout.contour_by_id[k].contour for k in truth.ids}
    shapes = {k: circle.circle_shape for k, circle in circles.items()}
    return change_contours(
        job,
        {
            k: like(circles[k], Contour.circle(shape[0], shape[1], truth.value[0]))
            for k, shape in shapes.items()
            if shape
        },
    )


def _about_one_centre(job: Job, truth: Truth) -> Job:
    """Circles moved to the centre that was chosen."""
    for k in truth.ids:
        shape = job.layout.contour_by_id[k].contour.circle_shape
        if shape:
            after = Affine.moved(truth.value[0] - shape[0], truth.value[1] - shape[1])
            job = map_contours(job, [k], after, by_hand=True, alone=truth.ids)
    return job


def all_taken(
    job: Job, ids: Sequence[str], most: float, kinds: frozenset[str], report: Progress = Unwatched()
) -> tuple[Job, int]:
    """The job with everything of some kinds made exactly so, one after the other, and how many
    there were. What one does may undo or do another: the list is looked at anew after each, and
    nothing is done more than a few times."""
    done: Counter[tuple[str, tuple[str, ...], tuple[int, ...]]] = Counter()
    known: dict[int, tuple[Contour, list[Truth]]] = {}
    for phase in _PHASES:
        while True:
            left = [
                t
                for t in _found(job, ids, most, known, report)
                if t.kind in kinds
                and t.kind in phase
                and done[t.kind, t.ids, t.spans] < _MOST_TIMES
            ]
            if not left:
                break
            first = min(left, key=lambda t: (phase.index(t.kind), t.moves))
            done[first.kind, first.ids, first.spans] += 1
            job = taken(job, first)
    return job, len(done)
