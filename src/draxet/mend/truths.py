"""True shapes on anything: what is nearly level, upright, square, parallel, equal, round,
concentric, tangent or symmetrical is found and offered as exactly so, with how far it would move
what is there.

Nothing is offered that would move anything farther than is allowed.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterator, Sequence

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.constructions import mirror_line, mirrored_by
from draxet.geometry.contour import Contour
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.contour_edits import change_contours, map_contours, set_ellipse
from draxet.job.contour_records import ContourItem
from draxet.job.records import Job
from draxet.mend.forms import fitted_form
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["MOST_CONTOURS", "Truth", "all_taken", "taken", "truths_of"]

_WIDEST = math.radians(6.0)
_EXACT = 1e-7
"""mm, or radians: what differs by less is so already."""
MOST_CONTOURS = 300
_MOST_SPANS = 400
_MOST_PAIRED = 30
_BUCKETS = 7
"""Lines whose lengths differ little are as long: which one the others are told against does not
change with every small move."""
_MOST_TRUTHS = 400
_MOST_TIMES = 4
_PHASES = (
    ("round", "oval", "concentric", "equal", "symmetrical"),
    ("level", "upright", "square", "parallel"),
    ("tangent",),
)
"""All are taken in this order: directions last but one, so that nothing turns lines after they are
true."""


@record(frozen=True)
class Truth:
    """Something that is nearly so. kind : ``level``, ``upright``, ``square``, ``parallel``,
    ``equal``, ``round``, ``oval``, ``concentric``, ``tangent`` or ``symmetrical``. ids : the
    contours, spans : those of the first of them that are meant. moves : how far anything would
    move, in mm; place : where, in job space. value : what it is made to (a radius, a length, a
    centre), where there is one."""

    kind: str
    ids: tuple[str, ...]
    spans: tuple[int, ...]
    moves: float
    place: tuple[float, float]
    value: tuple[float, ...] = ()

    @property
    def words(self) -> str:
        return {
            "level": "level line",
            "upright": "upright line",
            "square": "square to each other",
            "parallel": "parallel lines",
            "equal": "equal lines" if self.spans else "equal radii",
            "round": "a circle",
            "oval": "an ellipse",
            "concentric": "one centre",
            "tangent": "smooth arc",
            "symmetrical": "symmetrical",
        }[self.kind]


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
    items = [item for item in job.contours if item.id in some][:MOST_CONTOURS]
    found = list(_between(items, most))
    for number, item in enumerate(items):
        if id(item.contour) not in known:
            report(number / len(items), "looking for what is nearly true")
            known[id(item.contour)] = (item.contour, list(_of_one(item, most)))
        found += known[id(item.contour)][1]
    return sorted((truth for truth in found if truth.moves <= most), key=lambda truth: truth.moves)[
        :_MOST_TRUTHS
    ]


def _of_one(item: ContourItem, most: float) -> Iterator[Truth]:
    contour = item.contour
    if len(contour.kinds) <= _MOST_SPANS:
        yield from _lines(item)
        yield from _tangents(item)
    if item.ellipse is None and contour.circle_shape is None and contour.closed:
        yield from _round(item, most)
    if len(contour.nodes) > 2 and len(contour.kinds) <= _MOST_SPANS:
        yield from _symmetrical(item, most)


# --- lines


def _ways(contour: Contour) -> dict[int, tuple[Points, float, float]]:
    """Of each line its middle, its length and its angle."""
    steps = contour.spans.ends - contour.spans.starts
    return {
        k: (
            (contour.spans.starts[k] + contour.spans.ends[k]) / 2,
            float(np.hypot(*steps[k])),
            math.atan2(steps[k, 1], steps[k, 0]),
        )
        for k in np.flatnonzero(contour.kinds == LINE).tolist()
    }


def _off_from(angle: float, other: float, period: float) -> float:
    return (angle - other + period / 2) % period - period / 2


def _lines(item: ContourItem) -> Iterator[Truth]:
    ways = _ways(item.contour)
    leaning = {}
    for k, (middle, length, angle) in ways.items():
        level, upright = _off_from(angle, 0.0, math.pi), _off_from(angle, math.pi / 2, math.pi)
        off, kind = (level, "level") if abs(level) < abs(upright) else (upright, "upright")
        if abs(off) <= _WIDEST and length > 0:
            leaning[k] = abs(off) <= _EXACT
            if abs(off) > _EXACT:
                yield _turning(item, kind, (k,), {k: -off}, middle)
    longest = sorted(
        (k for k in ways if k not in leaning),
        key=lambda k: (-round(_BUCKETS * math.log(max(ways[k][1], 1e-9))), k),
    )[:_MOST_PAIRED]
    leading: list[int] = []
    for b in longest:  # each is told against one longer one, so that what is made true stays so
        offs = [
            (_off_from(ways[b][2], ways[a][2] + turn, math.pi), a, kind)
            for a in leading
            for kind, turn in (("parallel", 0.0), ("square", math.pi / 2))
        ]
        off, a, kind = min(offs, key=lambda each: abs(each[0]), default=(math.inf, b, ""))
        if abs(off) > _WIDEST / 2:
            leading.append(b)
        elif abs(off) > _EXACT:
            yield _turning(item, kind, (a, b), {b: -off}, ways[b][0])
    lengths = sorted((length, k) for k, (_, length, _) in ways.items())
    for (shorter, a), (longer, b) in itertools.pairwise(lengths):
        if _EXACT < longer - shorter <= 0.03 * longer:
            yield Truth(
                "equal",
                (item.id,),
                (a, b),
                (longer - shorter) / 4,
                _place(ways[b][0]),
                ((longer + shorter) / 2,),
            )


def _turning(
    item: ContourItem, kind: str, spans: tuple[int, ...], turns: dict[int, float], at: Points
) -> Truth:
    made = _turned_lines(item.contour, turns)
    return Truth(
        kind,
        (item.id,),
        spans,
        float(np.hypot(*(made.nodes - item.contour.nodes).T).max()),
        _place(at),
    )


def _place(point: Points) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def _turned_lines(contour: Contour, turns: dict[int, float]) -> Contour:
    """A contour of which some lines are turned about their middles; lines that meet are led to
    where they cross."""
    ways = {
        k: (middle, angle + turns.get(k, 0.0)) for k, (middle, _, angle) in _ways(contour).items()
    }
    nodes, handles, count = contour.nodes.copy(), contour.handles.copy(), len(contour.kinds)
    for node in {n % len(nodes) for k in turns for n in (k, k + 1)}:
        before = (node - 1) % count if contour.closed or node else None
        after = node if node < count else None
        touching = [ways[k] for k in (before, after) if k is not None and k in ways]
        new = _crossing(*touching) if len(touching) == 2 else None
        if new is None:
            turned = next(ways[k] for k in (before, after) if k is not None and k in turns)
            way = np.array([math.cos(turned[1]), math.sin(turned[1])])
            new = turned[0] + ((nodes[node] - turned[0]) @ way) * way
        for span, end in ((before, 1), (after, 0)):
            if span is not None and contour.kinds[span] == CUBIC:
                handles[span, end] += new - nodes[node]
        nodes[node] = new
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


def _crossing(one: tuple[Points, float], other: tuple[Points, float]) -> Points | None:
    u, v = (np.array([math.cos(angle), math.sin(angle)]) for _, angle in (one, other))
    across = float(u[0] * v[1] - u[1] * v[0])
    if abs(across) < 0.05:
        return None
    d = other[0] - one[0]
    return np.asarray(one[0] + float(d[0] * v[1] - d[1] * v[0]) / across * u)


def _of_length(contour: Contour, spans: Sequence[int], length: float) -> Contour:
    """A contour whose lines `spans` are so long, each drawn out or in by both its ends."""
    nodes, handles, count = contour.nodes.copy(), contour.handles.copy(), len(contour.nodes)
    for k in spans:
        a, b = nodes[k], nodes[(k + 1) % count]
        by = (b - a) * (length / np.hypot(*(b - a)) - 1) / 2
        for node, move in ((k, -by), ((k + 1) % count, by)):
            nodes[node] = nodes[node] + move
    return Contour.make(nodes, contour.kinds, contour.bulges, handles, closed=contour.closed)


# --- arcs, circles, ellipses


def _tangents(item: ContourItem) -> Iterator[Truth]:
    """Arcs that nearly go on as the line or curve beside them."""
    contour = item.contour
    leave, reach = contour.spans.tangents()
    count = len(contour.kinds)
    for k in np.flatnonzero((contour.kinds == ARC) & (contour.bulges != 0)).tolist():
        before, after = ((k - 1) % count, (k + 1) % count) if contour.closed else (k - 1, k + 1)
        offs = []
        if 0 <= before < count and before != k:
            offs.append((_turn(reach[before], leave[k]), before))
        if 0 <= after < count and after != k:
            offs.append((_turn(reach[k], leave[after]), after))
        small = [off for off, _ in offs if abs(off) <= _WIDEST]
        if small and max(map(abs, small)) > 1e-5 and len(small) == len(offs) >= 1:
            bulge = math.tan(math.atan(contour.bulges[k]) + sum(small) / len(small) / 2)
            chord = float(np.hypot(*(contour.spans.ends[k] - contour.spans.starts[k])))
            if len(small) == 1 or abs(small[0] - small[1]) < 1e-3:
                yield Truth(
                    "tangent",
                    (item.id,),
                    (k,),
                    abs(bulge - float(contour.bulges[k])) * chord / 2,
                    _place(contour.spans.at(np.array([k]), np.array([0.5]))[0]),
                    (bulge,),
                )


def _turn(one: Points, other: Points) -> float:
    return math.atan2(float(one[0] * other[1] - one[1] * other[0]), float(one @ other))


def _round(item: ContourItem, most: float) -> Iterator[Truth]:
    for kind, form in (("round", "circle"), ("oval", "ellipse")):
        found = fitted_form(item.contour, form)
        if found is not None and found.off <= most:
            x0, y0, x1, y1 = item.contour.box
            yield Truth(kind, (item.id,), (), found.off, ((x0 + x1) / 2, (y0 + y1) / 2))
            return


def _symmetrical(item: ContourItem, most: float) -> Iterator[Truth]:
    contour = item.contour
    line = (
        mirror_line(contour, most)
        if contour.circle_shape is None and item.ellipse is None
        else None
    )
    made = _mirror_mean(contour, line) if line else None
    if line and made is not None:
        moves = float(np.hypot(*(made.nodes - contour.nodes).T).max())
        if moves > 1e-6:
            yield Truth("symmetrical", (item.id,), (), moves, line[:2], line)


def _mirror_mean(contour: Contour, line: tuple[float, float, float]) -> Contour | None:
    """The mean of a contour and its mirror, node by node; None where the nodes do not answer to
    each other."""
    other = contour.transformed(mirrored_by(*line)).reversed()
    if len(other.nodes) != len(contour.nodes):
        return None
    count = len(contour.nodes)
    shifts = range(count) if contour.closed else range(1)
    best = min(
        shifts,
        key=lambda k: float(np.hypot(*(np.roll(other.nodes, k, axis=0) - contour.nodes).T).max()),
    )
    nodes, kinds, bulges, handles = (
        np.roll(a, best, axis=0) if contour.closed else a
        for a in (other.nodes, other.kinds, other.bulges, other.handles)
    )
    if (
        not (kinds == contour.kinds).all()
        or np.sign(bulges).tolist() != np.sign(contour.bulges).tolist()
    ):
        return None
    return Contour.make(
        (nodes + contour.nodes) / 2,
        kinds,
        np.tan((np.arctan(bulges) + np.arctan(contour.bulges)) / 2),
        (handles + contour.handles) / 2,
        closed=contour.closed,
    )


def _between(items: Sequence[ContourItem], most: float) -> Iterator[Truth]:
    """Equal radii and common centres of whole circles."""
    circles = [
        (item, circle) for item in items if (circle := item.contour.circle_shape) is not None
    ]
    by_radius = sorted(circles, key=lambda each: each[1][2])
    for run in _runs(by_radius, lambda a, b: b[1][2] - a[1][2] <= min(most, 0.05 * b[1][2])):
        radii = [circle[2] for _, circle in run]
        if np.ptp(radii) > _EXACT:
            mean = float(np.mean(radii))
            yield Truth(
                "equal",
                tuple(item.id for item, _ in run),
                (),
                max(abs(r - mean) for r in radii),
                run[0][1][:2],
                (mean,),
            )
    left = list(circles)
    while left:
        item, circle = max(left, key=lambda each: each[1][2])
        near = [each for each in left if math.dist(each[1][:2], circle[:2]) <= most]
        left = [each for each in left if each not in near]
        off = max(math.dist(each[1][:2], circle[:2]) for each in near)
        if len(near) > 1 and off > _EXACT:
            yield Truth(
                "concentric", tuple(each[0].id for each in near), (), off, circle[:2], circle[:2]
            )


def _runs(
    each: Sequence[tuple[ContourItem, tuple[float, float, float]]], together: object
) -> Iterator[list[tuple[ContourItem, tuple[float, float, float]]]]:
    run: list[tuple[ContourItem, tuple[float, float, float]]] = []
    for one in each:
        if run and not together(run[0], one):  # type: ignore[operator]
            if len(run) > 1:
                yield run
            run = []
        run.append(one)
    if len(run) > 1:
        yield run


# --- taken


def taken(job: Job, truth: Truth) -> Job:
    """The job with one thing made exactly so."""
    if any(k not in job.contour_by_id for k in truth.ids):
        return job
    item = job.contour_by_id[truth.ids[0]]
    contour = item.contour
    if truth.kind in ("level", "upright", "square", "parallel"):
        return change_contours(job, {item.id: _straightened(contour, truth)})
    if truth.kind == "equal" and truth.spans:
        return change_contours(job, {item.id: _of_length(contour, truth.spans, truth.value[0])})
    if truth.kind == "equal":
        return _of_one_radius(job, truth)
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
    made = _mirror_mean(contour, (x, y, angle))
    return change_contours(job, {item.id: made}) if made is not None else job


def _of_one_radius(job: Job, truth: Truth) -> Job:
    """Circles of the radius that was chosen, each about its own centre."""
    circles = {k: job.contour_by_id[k].contour for k in truth.ids}
    shapes = {k: circle.circle_shape for k, circle in circles.items()}
    return change_contours(
        job,
        {
            k: _like(circles[k], Contour.circle(shape[0], shape[1], truth.value[0]))
            for k, shape in shapes.items()
            if shape
        },
    )


def _about_one_centre(job: Job, truth: Truth) -> Job:
    """Circles moved to the centre that was chosen."""
    for k in truth.ids:
        shape = job.contour_by_id[k].contour.circle_shape
        if shape:
            after = Affine.moved(truth.value[0] - shape[0], truth.value[1] - shape[1])
            job = map_contours(job, [k], after, by_hand=True, alone=truth.ids)
    return job


def _straightened(contour: Contour, truth: Truth) -> Contour:
    ways = _ways(contour)
    if truth.kind in ("level", "upright"):
        (k,) = truth.spans
        return _turned_lines(
            contour,
            {k: -_off_from(ways[k][2], 0.0 if truth.kind == "level" else math.pi / 2, math.pi)},
        )
    a, b = truth.spans
    return _turned_lines(
        contour,
        {
            b: -_off_from(
                ways[b][2], ways[a][2] + (math.pi / 2 if truth.kind == "square" else 0.0), math.pi
            )
        },
    )


def _like(old: Contour, new: Contour) -> Contour:
    return new if old.area >= 0 else new.reversed()


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
