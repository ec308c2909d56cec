"""Profiles turned about an axis, or led along a path of lines and arcs, as exact solids."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.exact_solids import ExactSolid, Pose
from draxet.geometry.spans import ARC, CUBIC
from draxet.make.solids.exact_cells import NotExact
from draxet.make.solids.exact_sweeps import Station, Step, swept
from draxet.make.solids.shaft_bodies import Shaft, away_of, rise_of
from draxet.make.solids.turned_bodies import Axis, side_count
from draxet.record import record

__all__ = ["Profile", "exact_profile", "led_exactly", "shaft_exactly", "turned_exactly"]

_ON = 1e-4
"""mm: what is no farther from the axis lies on it."""
_NONE = 1e-9
_SMOOTH = 2e-5
"""Radians by which an arc of a path may turn from what is beside it."""
_FINE = 0.002


@record(frozen=True, eq=False)
class Profile:
    """An outline (anticlockwise) and its openings (clockwise), x away from the axis and y along it;
    the axis with what is turned on its left; and whether y counts against the drawing's up."""

    rings: tuple[Contour, ...]
    axis: Axis
    downwards: bool

    @property
    def low(self) -> float:
        return min(ring.box[1] for ring in self.rings)

    @property
    def high(self) -> float:
        return max(ring.box[3] for ring in self.rings)


def exact_profile(
    contours: Sequence[Contour], axis: Axis, name: str, *, crosses: bool = False
) -> Profile:
    """What contours are to an axis (``turned_bodies.profile_of``).

    Raises
    ------
    NotExact : where they cross themselves, or an open one is led.
    """
    places = np.vstack([each.flattened(_FINE) for each in contours])
    if crosses:
        axis = axis.turned_round if math.sin(math.radians(axis.angle)) > 0 else axis
    elif axis.seen_from(places)[:, 0].sum() <= 0:
        axis = axis.turned_round
    way = math.radians(axis.angle)
    cos, sin = math.cos(way), math.sin(way)
    seen = Affine.moved(-axis.x, -axis.y).then(
        Affine(-sin, cos, 0.0, cos, sin, 0.0)
        if not crosses
        else Affine(-sin, cos, 0.0, -cos, -sin, 0.0)
    )
    rings = [_ring(each.transformed(seen), name, crosses=crosses) for each in contours]
    outline, *holes = (ring.flattened(_FINE) for ring in rings)
    if not shapely.is_valid(shapely.Polygon(outline, holes)):
        raise NotExact(f"the profile {name} crosses or touches itself; mend it first")
    turned = tuple(
        ring if (ring.area > 0) == (k == 0) else ring.reversed() for k, ring in enumerate(rings)
    )
    up = sin if abs(sin) > 1e-9 else cos
    return Profile(turned, axis, up < 0)


def _ring(seen: Contour, name: str, *, crosses: bool) -> Contour:
    """A ring of a profile; one that is open is closed to the axis."""
    nodes = seen.nodes.copy()
    if not crosses:
        nodes[np.abs(nodes[:, 0]) < _ON, 0] = 0.0
    kinds, bulges, handles = seen.kinds, seen.bulges, seen.handles
    if not seen.closed:
        if crosses:
            raise NotExact(f"the profile {name} is open; close it first")
        nodes = np.vstack([nodes, (0.0, nodes[-1, 1]), (0.0, nodes[0, 1])])
        kinds, bulges = np.append(kinds, (0, 0, 0)), np.append(bulges, (0.0, 0.0, 0.0))
        handles = np.concatenate([handles, np.zeros((3, 2, 2))])
    chord = np.hypot(*(np.roll(nodes, -1, axis=0) - nodes).T)
    kept = (chord > _NONE) | (kinds == CUBIC) & (np.ptp(handles, axis=1).max(axis=1) > _NONE)
    return Contour.make(nodes[kept], kinds[kept], bulges[kept], handles[kept])


def turned_exactly(
    profile: Profile,
    angle: float,
    sides: int,
    *,
    standing: bool,
    level: float,
    name: str,
    colour: str,
) -> ExactSolid:
    """A body (``turned_bodies.turned``): round, a whole turn in two halves, or by flat sides."""
    whole = angle > 360.0 - 1e-9
    steps = side_count(sides, angle) if sides else math.ceil(angle / 180.0 - 1e-9)
    each = math.radians(angle) / steps
    turns = each * np.arange(steps if whole else steps + 1)
    stations = [
        Station(np.zeros(3), np.array([math.cos(turn), math.sin(turn), 0.0]))
        for turn in turns.tolist()
    ]
    way = Step("chord" if sides else "round", np.zeros(2), each)
    made = swept(profile.rings, stations, [way] * steps, name, colour, turned=True)
    return made.posed(_pose(profile, standing=standing, level=level))


def _pose(profile: Profile, *, standing: bool, level: float) -> Pose:
    axis, radians = profile.axis, math.radians(profile.axis.angle)
    along = np.array([math.cos(radians), math.sin(radians), 0.0])
    foot = np.array([axis.x, axis.y, level])
    if not standing:
        left, up = np.array([-along[1], along[0], 0.0]), np.array([0.0, 0.0, 1.0])
        return Pose(np.column_stack([left, up, along]), foot)
    if profile.downwards:
        shift = foot + profile.high * along + (0.0, 0.0, profile.high)
        return Pose(np.diag([1.0, -1.0, -1.0]), shift)
    return Pose(np.eye(3), foot + profile.low * along - (0.0, 0.0, profile.low))


def led_exactly(
    profile: Profile, path: Contour, level: float, name: str, colour: str
) -> ExactSolid:
    """A body (``led_bodies.led``): the profile stands on the path, its foot at a level.

    Raises
    ------
    NotExact : where the path has other spans than lines and arcs, an arc begins at a corner, or bends
        more tightly than the profile is broad.
    """
    if path.closed and path.area < 0:
        path = path.reversed()
    if (path.kinds == CUBIC).any():
        raise NotExact(
            f"{name} is led along free curves; STEP takes paths of lines and arcs: make it lines and arcs in Mend"
        )
    down = Affine.moved(0.0, -profile.low)
    rings = [ring.transformed(down) for ring in profile.rings]
    stations = [
        Station(np.append(place, level), np.append(right, 0.0))
        for place, right in zip(path.nodes, _rights(path, name), strict=True)
    ]
    least, most = min(ring.box[0] for ring in rings), max(ring.box[2] for ring in rings)
    steps = list[Step]()
    shapes = path.spans.arc_shapes()
    for k, kind in enumerate(path.kinds.tolist()):
        if kind != ARC:
            steps.append(Step("straight", np.zeros(2)))
            continue
        inner = -least if path.bulges[k] > 0 else most
        if inner >= shapes.radii[k] - _ON:
            x, y = path.nodes[k].tolist()
            raise NotExact(
                f"{name} is broader than its path bends at ({x:.4g}, {y:.4g}) mm; make the bend wider"
            )
        steps.append(Step("round", shapes.centres[k], float(shapes.sweep[k])))
    return swept(rings, stations, steps, name, colour)


def shaft_exactly(of: Shaft, name: str, colour: str) -> ExactSolid:
    """A shaft between two radii (``shaft_bodies.shaft``): turned.

    Raises
    ------
    NotExact : where it goes up from or to another outline than a circle, or its curve is stretched.
    """
    round_ = of.outline.circle_shape
    if round_ is None or of.top is not None or of.openings:
        raise NotExact(
            f"{name} is a shaft between outlines; STEP takes shafts between two radii, from a circle without openings"
        )
    x, y, low = round_
    high = float(rise_of(of)[-1, 1])
    side = Contour.make([(low, 0.0), (high, of.height)], closed=False)
    if of.curve is not None:
        side = _upright_curve(of, low, high, name)
    profile = exact_profile([side], Axis(0.0, 0.0, 90.0), name)
    made = turned_exactly(
        profile, 360.0, 0, standing=True, level=of.level, name=name, colour=colour
    )
    return made.posed(Pose(np.eye(3), np.array([x, y, 0.0])))


def _upright_curve(of: Shaft, low: float, high: float, name: str) -> Contour:
    """The curve as the profile of a shaft, (radius, height)."""
    assert of.curve is not None
    curve = of.curve if of.curve.nodes[0, 1] <= of.curve.nodes[-1, 1] else of.curve.reversed()
    (x0, y0), (x1, y1) = curve.nodes[[0, -1]].tolist()
    tall, away = of.height / (y1 - y0), away_of(of, curve)
    lean = (high - low - away * (x1 - x0) * tall) / of.height
    to = Affine(away * tall, lean * tall, 0.0, 0.0, tall, 0.0)
    stretched = Affine.moved(-x0, -y0).then(to).then(Affine.moved(low, 0.0))
    if (curve.kinds == ARC).any() and not stretched.is_similarity:
        raise NotExact(
            f"the curve of {name} has arcs and is stretched; end it as far from its foot as the shaft does, or make it free curves in Mend"
        )
    return curve.transformed(stretched)


def _rights(path: Contour, name: str) -> Points:
    """Where a profile's x goes at each node: along the mitre of a corner, as an arc beside it says."""
    leave, reach = path.spans.tangents()
    arcs = path.kinds == ARC
    if path.closed:
        before, after = np.roll(reach, 1, axis=0), leave
        arc_before, arc_after = np.roll(arcs, 1), arcs
    else:
        before, after = np.vstack([leave[:1], reach]), np.vstack([leave, reach[-1:]])
        arc_before, arc_after = np.append(False, arcs), np.append(arcs, False)
    cross = np.abs(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0])
    sharp = (cross > _SMOOTH) | ((before * after).sum(axis=1) < 0)
    wrong = sharp & (arc_before | arc_after)
    if wrong.any():
        x, y = path.nodes[int(np.flatnonzero(wrong)[0])].tolist()
        raise NotExact(
            f"an arc of the path of {name} begins at a corner at ({x:.4g}, {y:.4g}) mm; STEP takes arcs that run on smoothly from what is beside them"
        )
    after = np.where((~sharp & ~arc_after)[:, None], before, after)
    before = np.where((~sharp)[:, None], after, before)
    ways = (before + after) / (1.0 + (before * after).sum(axis=1))[:, None]
    return np.column_stack([ways[:, 1], -ways[:, 0]])
