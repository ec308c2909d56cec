"""Nodes removed: what lay between those that stay becomes one span, or two straight ones, that
nothing else is hurt by."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from draxet.geometry.arrays import Ints, Points, norms
from draxet.geometry.contour import Contour, joined_spans
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.crossings import crossings, self_crossings
from draxet.geometry.fitting.cubics import fit_cubics
from draxet.geometry.fitting.intervals import Chords, Intervals
from draxet.geometry.spans import ARC, CUBIC, LINE, Spans
from draxet.record import record

__all__ = ["NodesGone", "nodes_gone", "remove_nodes"]

_SAMPLES = 48
_BULGE = 0.05
"""Of its length: a curve may reach so far beyond what it stands for."""
_FARTHEST = 3.0
"""Tangents are led on to where they meet no farther than so many times as far as the ends are
apart."""
_LED_ON_LATER = 1.2
"""A curve that lies so many times as far off as straight runs is still the better one."""
_ENDS = 1e-6


@record(frozen=True, eq=False)
class NodesGone:
    """A contour without some nodes, how far what went lies from it at the most, in mm, and how it
    was closed where no curve would do: ``led on``, ``straight``, or empty; `crosses` : whether even
    a straight run crosses something anew."""

    contour: Contour
    off: float
    manner: str = ""
    crosses: bool = False


@record(frozen=True, eq=False)
class _Run:
    """What stands for spans that follow each other: nodes (k, 2) between, kinds (k + 1,), bulges (k
    + 1,) and handles (k + 1, 2, 2)."""

    nodes: Points
    kinds: tuple[int, ...]
    bulges: tuple[float, ...]
    handles: Points
    manner: str = ""

    def spans(self, start: Points, end: Points) -> Spans:
        every = np.vstack([start[None], self.nodes, end[None]])
        return Spans(
            every[:-1], every[1:], np.array(self.kinds), np.array(self.bulges), self.handles
        )


def remove_nodes(contour: Contour, nodes: Iterable[int]) -> Contour | None:
    """As ``nodes_gone``, where only the contour is wanted."""
    found = nodes_gone(contour, nodes)
    return found.contour if found else None


def nodes_gone(
    contour: Contour, nodes: Iterable[int], others: Sequence[Contour] = ()
) -> NodesGone | None:
    """A contour without some nodes; what lay between those that stay becomes one span, fitted to
    it: a line where all of it was straight, else the nearest curve; where that would cross its own
    contour or `others` anew, or bulge beyond what it stands for, its tangents led on till they
    meet, else a straight run. None where fewer than two nodes would be left, or one for a closed
    one.

    An open contour's own ends go with the spans beside them.
    """
    gone = {k % len(contour.nodes) for k in nodes}
    stay = [k for k in range(len(contour.nodes)) if k not in gone]
    if len(stay) < 2:
        return None
    pairs = (
        list(zip(stay, [*stay[1:], stay[0]], strict=True))
        if contour.closed
        else list(zip(stay[:-1], stay[1:], strict=True))
    )
    places: list[Points] = []
    kinds: list[int] = []
    bulges: list[float] = []
    handles: list[Points] = []
    off, manner, crossed = 0.0, "", False
    for a, b in pairs:
        count = (b - a) % len(contour.nodes) or len(contour.nodes)
        numbers = (a + np.arange(count)) % len(contour.kinds)
        run, away, crosses = _run_for(contour, numbers, others)
        off, crossed = max(off, away), crossed or crosses
        manner = max(manner, run.manner)  # straight says more than led on
        places += [contour.nodes[a][None], run.nodes]
        kinds += run.kinds
        bulges += run.bulges
        handles.append(run.handles)
    if not contour.closed:
        places.append(contour.nodes[stay[-1]][None])
    return NodesGone(
        Contour.make(
            np.vstack(places), kinds, bulges, np.concatenate(handles), closed=contour.closed
        ),
        off,
        manner,
        crossed,
    )


def _run_for(
    contour: Contour, numbers: Ints, others: Sequence[Contour]
) -> tuple[_Run, float, bool]:
    """What stands for spans of a contour, how far they lie from it at the most, and whether it
    crosses something that they did not."""
    some = contour.spans.take(numbers)
    start, end = some.starts[0], some.ends[-1]
    kind, bulge, handle = _one_span(some)
    one = _Run(np.zeros((0, 2)), (kind,), (bulge,), handle[None])
    if len(numbers) == 1:
        return one, 0.0, False
    samples = _sampled(some)
    rest = contour.spans.take(np.setdiff1d(np.arange(len(contour.kinds)), numbers))
    near = [other for other in others if _meet(other.box, samples)]
    around = joined_spans(near)[0] if near else None
    before = _crosses(some, rest, around)
    tips = _tips_led_on(some)
    straight = _Run(
        np.zeros((0, 2)), (LINE,), (0.0,), np.zeros((1, 2, 2)), "straight" if kind == CUBIC else ""
    )
    good = []
    for run in (one, *([tips] if tips is not None and kind == CUBIC else [])):
        spans = run.spans(start, end)
        if (
            not (kind == CUBIC and _bulges(spans, samples))
            and _crosses(spans, rest, around) <= before
        ):
            good.append((_off_run(samples, spans), run))
    if good:
        off, run = min(good, key=lambda each: each[0] * (_LED_ON_LATER if each[1].manner else 1.0))
        return run, off, False
    spans = straight.spans(start, end)
    return straight, _off_run(samples, spans), _crosses(spans, rest, around) > before


def _sampled(some: Spans) -> Points:
    places: Points = np.vstack(
        [
            some.at(
                np.repeat(np.arange(len(some)), _SAMPLES),
                np.tile(np.arange(_SAMPLES) / _SAMPLES, len(some)),
            ),
            some.ends[-1:],
        ]
    )
    return places


def _meet(box: tuple[float, float, float, float], places: Points) -> bool:
    (x0, y0), (x1, y1) = places.min(axis=0), places.max(axis=0)
    return bool(box[0] <= x1 and box[2] >= x0 and box[1] <= y1 and box[3] >= y0)


def _crosses(spans: Spans, rest: Spans, around: Spans | None) -> int:
    """How often a run crosses itself, the rest of its contour and others; where it joins its
    contour does not count."""
    met = crossings(spans, rest)
    joined = np.zeros(len(met.first), dtype=bool)
    for place in (spans.starts[0], spans.ends[-1]):
        joined |= norms(met.points - place) <= _ENDS
    return (
        int((~joined).sum())
        + len(self_crossings(spans))
        + (len(crossings(spans, around)) if around is not None else 0)
    )


def _bulges(spans: Spans, samples: Points) -> bool:
    """Whether a run reaches beyond what it stands for, by more than a little of its length."""
    slack = _BULGE * float(norms(np.diff(samples, axis=0)).sum())
    places = _sampled(spans)
    return bool(
        (places.min(axis=0) < samples.min(axis=0) - slack).any()
        or (places.max(axis=0) > samples.max(axis=0) + slack).any()
    )


def _tips_led_on(some: Spans) -> _Run | None:
    """Two straight spans along the tangents at both ends, up to where they meet; None where they do
    not, or only far off."""
    into, out = some.tangents()[0][0], some.tangents()[1][-1]
    start, end = some.starts[0], some.ends[-1]
    across = float(into[0] * out[1] - into[1] * out[0])
    if abs(across) < 0.05:
        return None
    d = end - start
    t, u = (
        float(d[0] * out[1] - d[1] * out[0]) / across,
        float(d[0] * into[1] - d[1] * into[0]) / across,
    )
    most = _FARTHEST * float(np.hypot(*d))
    if not (0 < t <= most and 0 < -u <= most):
        return None
    return _Run((start + t * into)[None], (LINE, LINE), (0.0, 0.0), np.zeros((2, 2, 2)), "led on")


def _off_run(samples: Points, spans: Spans) -> float:
    """How far samples lie from spans at the most."""
    best = np.full(len(samples), math.inf)
    for k in range(len(spans)):
        which = np.full(len(samples), k, dtype=np.int64)
        for begin in (0.2, 0.5, 0.8):
            best = np.minimum(
                best, nearest_on(spans, which, samples, np.full(len(samples), begin))[1]
            )
    return float(best.max())


def _one_span(some: Spans) -> tuple[int, float, Points]:
    """The one span that comes nearest to several that follow each other."""
    none = np.zeros((2, 2))
    if len(some) == 1:
        return int(some.kinds[0]), float(some.bulges[0]), some.handles[0]
    samples = _sampled(some)
    start, end = samples[0], samples[-1]
    chord = end - start
    long = float(np.hypot(*chord))
    off = np.abs(chord[0] * (samples - start)[:, 1] - chord[1] * (samples - start)[:, 0]) / max(
        long, 1e-300
    )
    if (some.kinds == LINE).all() or off.max() <= 1e-6 * max(long, 1.0):
        return LINE, 0.0, none
    whole = _same_circle(some)
    if whole is not None:
        return ARC, whole, none
    leave, reach = some.tangents()[0][:1], some.tangents()[1][-1:]
    scale = len(samples) / max(
        norms(np.diff(samples, axis=0)).sum(), 1e-300
    )  # samples about one apart, as fits want them
    part = Chords.of(
        Intervals.of(samples * scale, np.array([0]), np.array([len(samples) - 1])),
        samples[:1] * scale,
        samples[-1:] * scale,
    )
    fitted, off, _ = fit_cubics(part, leave, reach, 12)
    before = _before_it_was_split(some)
    if before is not None and _off(samples, start, before, end) <= float(off[0]) / scale:
        return CUBIC, 0.0, before
    return CUBIC, 0.0, fitted[0] / scale


def _before_it_was_split(spans: Spans) -> Points | None:
    """Handles of the one cubic of which two are halves, by the lengths of their handles in the
    middle; None where they cannot be."""
    if len(spans) != 2 or (spans.kinds != CUBIC).any():
        return None
    near, far = (
        float(norms(spans.ends[0] - spans.handles[0, 1])),
        float(norms(spans.handles[1, 0] - spans.starts[1])),
    )
    if min(near, far) <= 1e-12 * max(near, far, 1e-300):
        return None
    t = near / (near + far)
    return np.stack(
        [
            spans.starts[0] + (spans.handles[0, 0] - spans.starts[0]) / t,
            spans.ends[1] + (spans.handles[1, 1] - spans.ends[1]) / (1 - t),
        ]
    )


def _off(samples: Points, start: Points, handles: Points, end: Points) -> float:
    """How far samples lie from a cubic at the most."""
    cubic = Spans(start[None], end[None], np.array([CUBIC]), np.zeros(1), handles[None])
    _, off = nearest_on(
        cubic, np.zeros(len(samples), dtype=np.int64), samples, np.linspace(0, 1, len(samples))
    )
    return float(off.max())


def _same_circle(spans: Spans) -> float | None:
    """The bulge of the one arc that arcs of one circle make together; None where they are none, or
    more than most of a circle."""
    if not (spans.kinds == ARC).all() or (spans.bulges == 0).any():
        return None
    shape = spans.arc_shapes()
    if np.ptp(shape.centres, axis=0).max() + np.ptp(shape.radii) > 1e-6 * shape.radii[0]:
        return None
    sweep = float(shape.sweep.sum())
    return float(np.tan(sweep / 4)) if abs(sweep) < 6.2 else None
