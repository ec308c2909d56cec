"""Catching: the best place near a pointer among what is drawn.

A place is *caught* by what it is: an end, a node, a middle, a crossing, a centre, a point, square
to or tangent from where one comes, on a line, level with an earlier point, on a guide, on a sheet's
edge. Single places go before lines; among either the nearest wins, and of two that are as near the
more exact kind. Nothing stays bound to what was caught.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import field
from typing import Protocol

import numpy as np

from draxet.geometry.arrays import Floats, Ints, Points, norms
from draxet.geometry.contour import Contour, boxes_of, joined_spans
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.crossings import crossings_of
from draxet.geometry.spans import ARC, Spans
from draxet.record import record

__all__ = ["KINDS", "Catcher", "Caught", "Surroundings"]

KINDS = (
    "end",
    "node",
    "point",
    "centre",
    "crossing",
    "middle",
    "square",
    "tangent",
    "guide",
    "on line",
    "sheet edge",
    "level",
)
"""What can be caught, the more exact before the less."""
_TIE = 0.15
"""Of the reach: places that differ by less are as near."""
_MOST_CROSSED = 60
"""Of more spans than that near one place crossings are not looked for."""


class Drawn(Protocol):
    """What can be caught: a contour by its id."""

    @property
    def id(self) -> str: ...

    @property
    def contour(self) -> Contour: ...


@record(frozen=True)
class Caught:
    """A place, what it is in a word, the direction (radians) of the line it lies on, and the
    contour it belongs to."""

    x: float
    y: float
    word: str = "free"
    direction: float | None = None
    contour: str = ""

    @property
    def place(self) -> tuple[float, float]:
        return self.x, self.y


def _caught(place: Points, word: str, direction: float | None = None, contour: str = "") -> Caught:
    return Caught(float(place[0]), float(place[1]), word, direction, contour)


@record(frozen=True)
class Surroundings:
    """What else can be caught: single `points`, infinite lines (`guides`: a place and a direction
    each), straight `edges` of sheets, places that were set `earlier` in the same gesture, and where
    one comes `start`-ing from (for square and tangent)."""

    points: tuple[tuple[float, float], ...] = ()
    guides: tuple[tuple[float, float, float], ...] = ()
    edges: tuple[tuple[float, float, float, float], ...] = ()
    earlier: tuple[tuple[float, float], ...] = ()
    start: tuple[float, float] | None = None


@record
class _Near:
    """The spans near a pointer, with the contour of each and its number in that contour."""

    spans: Spans
    contour: list[str]
    number: Ints
    open_ends: Points

    def pairs(self) -> tuple[Ints, Ints]:
        """Spans that may cross: not those of which one goes over into the other."""
        first, second = np.triu_indices(len(self.spans), 1)
        s, boxes = self.spans, self.spans.boxes()
        joined = (s.ends[first] == s.starts[second]).all(axis=1) | (
            s.ends[second] == s.starts[first]
        ).all(axis=1)
        a, b = boxes[first], boxes[second]
        meet = (a[:, :2] <= b[:, 2:]).all(axis=1) & (b[:, :2] <= a[:, 2:]).all(axis=1)
        return first[meet & ~joined], second[meet & ~joined]


@record
class Catcher:
    """Keeps what a job draws, and answers for a pointer. What an edit leaves alone is not looked at
    again."""

    _items: tuple[Drawn, ...] = ()
    _boxes: Floats = field(default_factory=lambda: np.zeros((0, 4)))
    _crossed: dict[tuple[tuple[str, int], ...], Points] = field(default_factory=dict)

    def show(self, items: Sequence[Drawn]) -> None:
        """Catch among these from now on."""
        if items is self._items:
            return
        new = items if isinstance(items, tuple) else tuple(items)
        if not len(self._items):
            self._boxes = boxes_of([item.contour for item in new])
        elif len(new) == len(self._items):
            changed = [
                k for k, (a, b) in enumerate(zip(new, self._items, strict=True)) if a is not b
            ]
            for k in changed:
                self._boxes[k] = new[k].contour.box
        else:
            known = {id(item): box for item, box in zip(self._items, self._boxes, strict=True)}
            self._boxes = np.array(
                [known[id(item)] if id(item) in known else item.contour.box for item in new]
            ).reshape(-1, 4)
        self._items = new
        self._crossed.clear()

    def catch(
        self,
        x: float,
        y: float,
        reach: float,
        around: Surroundings = Surroundings(),
        kinds: frozenset[str] = frozenset(KINDS),
        without: frozenset[str] = frozenset(),
    ) -> Caught:
        """The best place within `reach` of (x, y); ``free`` where there is none.

        Parameters
        ----------
        kinds : what is caught at all. without : ids of contours that do not count.
        """
        near = self._near(x, y, reach, without)
        singles = [
            *self._singles(near, x, y, reach, kinds),
            *_single_points(around, kinds),
            *_on_guides(near, around, x, y, reach, kinds),
            *_from_start(near, around, x, y, reach, kinds),
        ]
        best = _best([c for c in singles if np.hypot(c.x - x, c.y - y) <= reach], x, y, reach)
        if best is None or best.word == "square":  # what is level beats that where it is nearer
            lines = [
                c
                for c in _lines(near, around, x, y, kinds)
                if np.hypot(c.x - x, c.y - y) <= reach and (best is None or c.word == "level")
            ]
            best = _best([*lines, *([best] if best else [])], x, y, reach)
        return best or Caught(x, y)

    def _near(self, x: float, y: float, reach: float, without: frozenset[str]) -> _Near:
        b = self._boxes
        hit = np.flatnonzero(
            (b[:, 0] <= x + reach)
            & (b[:, 2] >= x - reach)
            & (b[:, 1] <= y + reach)
            & (b[:, 3] >= y - reach)
        ).tolist()
        items = [self._items[k] for k in hit if self._items[k].id not in without]
        parts, names, numbers = [], [], []
        for item in items:
            boxes = item.contour.span_boxes
            inside = np.flatnonzero(
                (boxes[:, 0] <= x + reach)
                & (boxes[:, 2] >= x - reach)
                & (boxes[:, 1] <= y + reach)
                & (boxes[:, 3] >= y - reach)
            )
            parts.append(item.contour.spans.take(inside))
            names += [item.id] * len(inside)
            numbers += inside.tolist()
        ends = [
            node
            for item in items
            if not item.contour.closed
            for node in (item.contour.nodes[0], item.contour.nodes[-1])
        ]
        return _Near(
            _joined(parts), names, np.array(numbers, dtype=np.int64), np.array(ends).reshape(-1, 2)
        )

    def _singles(
        self, near: _Near, x: float, y: float, reach: float, kinds: frozenset[str]
    ) -> list[Caught]:
        spans, found = near.spans, self._centres(x, y, reach, kinds)
        if not len(spans):
            return found
        for k in range(len(spans)):
            for place in (spans.starts[k], spans.ends[k]):
                word = (
                    "end"
                    if len(near.open_ends) and (near.open_ends == place).all(axis=1).any()
                    else "node"
                )
                found.append(_caught(place, word, None, near.contour[k]))
        middles = spans.at(np.arange(len(spans)), np.full(len(spans), 0.5))
        found += [
            _caught(place, "middle", None, near.contour[k]) for k, place in enumerate(middles)
        ]
        if "crossing" in kinds and 2 <= len(spans) <= _MOST_CROSSED:
            found += [_caught(place, "crossing") for place in self._crossings(near)]
        return [c for c in found if c.word in kinds]

    def _crossings(self, near: _Near) -> Points:
        key = tuple(zip(near.contour, near.number.tolist(), strict=True))
        if key not in self._crossed:
            self._crossed[key] = crossings_of(near.spans, *near.pairs()).points
        return self._crossed[key]

    def _centres(self, x: float, y: float, reach: float, kinds: frozenset[str]) -> list[Caught]:
        """Centres of circles and arcs lie away from their lines, so they are looked for on their
        own."""
        if "centre" not in kinds:
            return []
        b = self._boxes
        found = []
        for k in np.flatnonzero(
            (b[:, 0] <= x) & (b[:, 2] >= x) & (b[:, 1] <= y) & (b[:, 3] >= y)
        ).tolist():
            contour = self._items[k].contour
            arcs = np.flatnonzero((contour.kinds == ARC) & (contour.bulges != 0))
            if arcs.size:
                centres = contour.spans.take(arcs).arc_shapes().centres
                for place in centres[norms(centres - (x, y)) <= reach][:1]:
                    found.append(_caught(place, "centre", None, self._items[k].id))
        return found


def _joined(parts: Sequence[Spans]) -> Spans:
    if not parts:
        return joined_spans([])[0]
    return Spans(
        *(
            np.concatenate([getattr(part, name) for part in parts])
            for name in ("starts", "ends", "kinds", "bulges", "handles")
        )
    )


def _single_points(around: Surroundings, kinds: frozenset[str]) -> list[Caught]:
    return [Caught(x, y, "point") for x, y in around.points] if "point" in kinds else []


def _on_guides(
    near: _Near, around: Surroundings, x: float, y: float, reach: float, kinds: frozenset[str]
) -> list[Caught]:
    """Where infinite lines cross what is drawn near a pointer."""
    count, guides = len(near.spans), list[Spans]()
    for px, py, angle in around.guides:
        foot = _foot(x, y, px, py, angle, "")
        if math.dist(foot.place, (x, y)) <= reach:
            way = 2 * reach * np.array((math.cos(angle), math.sin(angle)))
            guides.append(Contour.make([foot.place - way, foot.place + way], closed=False).spans)
    if not {"crossing", "guide"} <= kinds or not guides or not 0 < count <= _MOST_CROSSED:
        return []
    spans, every = _joined([near.spans, *guides]), np.arange(count)
    pairs = np.tile(every, len(guides)), np.repeat(count + np.arange(len(guides)), count)
    return [_caught(place, "crossing") for place in crossings_of(spans, *pairs).points]


def _from_start(
    near: _Near, around: Surroundings, x: float, y: float, reach: float, kinds: frozenset[str]
) -> list[Caught]:
    """Where the line from the start meets a span squarely, or touches it."""
    if around.start is None or not len(near.spans):
        return []
    start = np.array(around.start)
    found = []
    if "square" in kinds:
        every = np.arange(len(near.spans))
        t, _ = nearest_on(
            near.spans,
            every,
            np.repeat(start[None], len(every), axis=0),
            _param_near(near.spans, x, y),
        )
        for k in every[(t > 1e-9) & (t < 1 - 1e-9)].tolist():
            place = near.spans.at(np.array([k]), t[k : k + 1])[0]
            found.append(_caught(place, "square", None, near.contour[k]))
    if "tangent" in kinds:
        found += _tangents(near, start)
    return found


def _tangents(near: _Near, start: Points) -> list[Caught]:
    arcs = np.flatnonzero((near.spans.kinds == ARC) & (near.spans.bulges != 0))
    if not arcs.size:
        return []
    shape, found = near.spans.take(arcs).arc_shapes(), []
    for n, k in enumerate(arcs.tolist()):
        away = start - shape.centres[n]
        apart = float(np.hypot(*away))
        if apart <= shape.radii[n]:
            continue
        turn, along = np.arccos(shape.radii[n] / apart), np.arctan2(away[1], away[0])
        for angle in (along + turn, along - turn):
            place = shape.centres[n] + shape.radii[n] * np.array([np.cos(angle), np.sin(angle)])
            _, off = nearest_on(
                near.spans,
                np.array([k]),
                place[None],
                _param_near(near.spans.take(np.array([k])), float(place[0]), float(place[1])),
            )
            if off[0] <= 1e-6:
                found.append(_caught(place, "tangent", None, near.contour[k]))
    return found


_PROBES = tuple(k / 8 for k in range(9))


def _param_near(spans: Spans, x: float, y: float) -> Floats:
    """A parameter on each span near its place that is nearest to (x, y)."""
    every, probes = np.tile(np.arange(len(spans)), len(_PROBES)), np.array(_PROBES)
    away = norms(spans.at(every, np.repeat(probes, len(spans))) - (x, y)).reshape(len(probes), -1)
    return np.asarray(probes[away.argmin(axis=0)])


def _lines(
    near: _Near, around: Surroundings, x: float, y: float, kinds: frozenset[str]
) -> list[Caught]:
    found = []
    if len(near.spans) and "on line" in kinds:
        every = np.arange(len(near.spans))
        t, _ = nearest_on(
            near.spans, every, np.full((len(every), 2), (x, y)), _param_near(near.spans, x, y)
        )
        places = near.spans.at(every, t)
        ahead = near.spans.at(every, np.minimum(t + 1e-4, 1.0)) - near.spans.at(
            every, np.maximum(t - 1e-4, 0.0)
        )
        for k in every.tolist():
            found.append(
                _caught(
                    places[k],
                    "on line",
                    float(np.arctan2(ahead[k, 1], ahead[k, 0])),
                    near.contour[k],
                )
            )
    for word, lines in (
        ("guide", around.guides),
        ("sheet edge", [_as_line(edge) for edge in around.edges]),
    ):
        found += [_foot(x, y, px, py, angle, word) for px, py, angle in lines if word in kinds]
    if "level" in kinds:
        found += [
            _foot(x, y, px, py, angle, "level")
            for px, py in around.earlier
            for angle in (0.0, np.pi / 2)
        ]
    return found


def _as_line(edge: tuple[float, float, float, float]) -> tuple[float, float, float]:
    x0, y0, x1, y1 = edge
    return x0, y0, float(np.arctan2(y1 - y0, x1 - x0))


def _foot(x: float, y: float, px: float, py: float, angle: float, word: str) -> Caught:
    cos, sin = float(np.cos(angle)), float(np.sin(angle))
    along = (x - px) * cos + (y - py) * sin
    return Caught(px + along * cos, py + along * sin, word, angle)


def _best(found: Sequence[Caught], x: float, y: float, reach: float) -> Caught | None:
    """The nearest; of those that are as near, the most exact kind."""
    if not found:
        return None
    away = [float(np.hypot(c.x - x, c.y - y)) for c in found]
    least = min(away)
    as_near = [k for k in range(len(found)) if away[k] <= least + _TIE * reach]
    return found[min(as_near, key=lambda k: (KINDS.index(found[k].word), away[k]))]
