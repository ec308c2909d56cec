"""Shafts: an outline goes up to another one, straight or by a curve.

At each height the section lies between both outlines, place by place: those in one direction from their
middles belong together, or, where an outline is no star about its middle, those at one share of its
length. A curve makes the section larger or smaller by as much as it lies beside its ends' way.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from draxet.geometry.arrays import Floats, Ints, Points
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, walls_between, welded
from draxet.record import record

__all__ = ["Shaft", "away_of", "radius_of", "rise_of", "shaft", "shaft_amiss"]

_FINE, _SHARE = 0.005, 2e-4
"""mm that straight pieces may be off; of a small outline that share of its extent."""
_WELD = 1e-6
_LEAST = 1e-6
_TRIED = 96


@record(frozen=True, eq=False)
class Shaft:
    """From an outline with its openings, `height` mm up from a `level`, to the outline `top`; without
    one to the same, so large that its mean radius is `above`; where that is 0 as the curve ends, or as
    large as below. curve : drawn upright beside it; what is farther from the outline's middle is larger."""

    outline: Contour
    openings: tuple[Contour, ...]
    height: float
    level: float
    above: float = 0.0
    top: Contour | None = None
    curve: Contour | None = None


def radius_of(outline: Contour) -> float:
    """The radius of a circle as large."""
    return math.sqrt(abs(outline.area) / math.pi)


def _middle(ring: Points) -> Points:
    found: Points = shapely.get_coordinates(shapely.centroid(shapely.Polygon(ring)))[0]
    return found


def away_of(of: Shaft, curve: Contour) -> float:
    """1 where right is away from the outline, else -1."""
    x0, _, x1, _ = of.outline.box
    left, _, right, _ = curve.box
    return 1.0 if left + right >= x0 + x1 else -1.0


def rise_of(of: Shaft) -> Points:
    """How the mean radius goes: shares of the height and mm (n, 2)."""
    low = radius_of(of.outline)
    high = radius_of(of.top) if of.top is not None else of.above
    if of.curve is None:
        return np.array([(0.0, low), (1.0, high or low)])
    places = of.curve.flattened(min(_FINE, _SHARE * max(of.height, low)))
    places = places if places[0, 1] <= places[-1, 1] else places[::-1]
    tall = max(float(places[-1, 1] - places[0, 1]), _LEAST)
    out = away_of(of, of.curve) * (places[:, 0] - places[0, 0]) * of.height / tall
    share = (places[:, 1] - places[0, 1]) / tall
    high = high or low + float(out[-1])
    found: Points = np.column_stack([share, low + out + share * (high - low - out[-1])])
    return found


def shaft_amiss(of: Shaft) -> tuple[float, float] | None:
    """Where a curve does not rise, or comes in so far that nothing is left; or where the outline would
    run into itself; None where it is well."""
    rise = rise_of(of)
    if of.curve is not None:
        places = of.curve.flattened(_FINE)
        places = places if places[0, 1] <= places[-1, 1] else places[::-1]
        wrong = np.flatnonzero(np.diff(places[:, 1]) <= 0)
        if len(wrong) or of.curve.closed:
            x, y = places[int(wrong[0]) if len(wrong) else 0].tolist()
            return x, y
        if (rise[:, 1] <= _LEAST).any():
            x, y = places[min(int(np.argmin(rise[:, 1])), len(places) - 1)].tolist()
            return x, y
    elif (rise[:, 1] <= _LEAST).any():
        x, y = of.outline.nodes[0].tolist()
        return x, y
    sections = _sections(of, rise)
    for at in np.unique(np.linspace(0, len(sections) - 1, 9).astype(int)).tolist():
        outline, *openings = sections[at]
        if not shapely.is_valid(
            shapely.Polygon(outline[:, :2], [each[:, :2] for each in openings])
        ):
            x, y = of.outline.nodes[0].tolist()
            return x, y
    return None


def shaft(of: Shaft, name: str = "", colour: str = "") -> Mesh:
    """The body of one that is not amiss."""
    sections = _sections(of, rise_of(of))
    rings = sections[0]
    sizes = [len(ring) for ring in rings]
    places = np.vstack([np.vstack(section) for section in sections])
    triangles = np.vstack(
        [
            walls_between(sizes, len(sections)),
            _cap(sections[0])[:, ::-1],
            _cap(sections[-1]) + sum(sizes) * (len(sections) - 1),
        ]
    )
    return welded(Mesh(places, np.ascontiguousarray(triangles), name, colour), _WELD)


def _cap(section: Sequence[Floats]) -> Ints:
    import manifold3d  # slow to load

    rings = [np.ascontiguousarray(ring[:, :2]) for ring in section]
    return np.asarray(manifold3d.triangulate(rings), dtype=np.int64)


def _sections(of: Shaft, rise: Points) -> list[list[Floats]]:
    """The rings at each height, the outline's first, (n, 3) each."""
    low, high = float(rise[0, 1]), float(rise[-1, 1])
    here = _ring(of.outline)
    middle = _middle(here)
    if of.top is None:
        there, above = middle + (here - middle) * high / low, middle
    else:
        there = _ring(of.top)
        above = _middle(there)
        here, there = _matched(here - middle, there - above)
        here, there = here + middle, there + above
    openings = [_ring(each)[::-1] for each in of.openings]
    found = list[list[Floats]]()
    for share, radius in rise.tolist():
        centre = middle + share * (above - middle)
        plain = here + share * (there - here)
        scale = radius / (low + share * (high - low))
        rings = [centre + (plain - centre) * scale]
        rings += [centre + (each - middle) * radius / low for each in openings]
        z = of.level + share * of.height
        found.append([np.column_stack([ring, np.full(len(ring), z)]) for ring in rings])
    return found


def _ring(contour: Contour) -> Points:
    """Anticlockwise."""
    fine = min(
        _FINE, _SHARE * max(contour.box[2] - contour.box[0], contour.box[3] - contour.box[1])
    )
    ring = contour.flattened(fine)
    return ring if contour.area > 0 else ring[::-1]


def _matched(one: Points, other: Points) -> tuple[Points, Points]:
    """As many places on two rings about their middles, those that belong together at one number."""
    if _is_star(one) and _is_star(other):
        angles = np.unique(np.round(np.concatenate([_angles(one), _angles(other)]), 9))
        return _seen_at(one, angles), _seen_at(other, angles)
    shares = [_shares(one, 0), _shares(other, _begin_like(one, other))]
    every = np.unique(np.round(np.concatenate([share for _, share in shares]), 9))
    every = every[every < 1.0 - 1e-9]
    return tuple(_at_shares(ring, share, every) for ring, share in shares)  # type: ignore[return-value]


def _angles(ring: Points) -> Floats:
    return np.arctan2(ring[:, 1], ring[:, 0]) % (2 * math.pi)


def _is_star(ring: Points) -> bool:
    """Whether its middle sees all of it."""
    onward = np.roll(ring, -1, axis=0)
    return bool((ring[:, 0] * onward[:, 1] - ring[:, 1] * onward[:, 0] > 0).all())


def _seen_at(ring: Points, angles: Floats) -> Points:
    """Where a star is met from its middle in some directions."""
    own = _angles(ring)
    first = int(np.argmin(own))
    ring, own = np.roll(ring, -first, axis=0), np.roll(own, -first)
    at = (np.searchsorted(own, angles + 1e-12, side="right") - 1) % len(ring)
    begin, way = ring[at], np.roll(ring, -1, axis=0)[at] - ring[at]
    u = np.column_stack([np.cos(angles), np.sin(angles)])
    far = (begin[:, 0] * way[:, 1] - begin[:, 1] * way[:, 0]) / (
        u[:, 0] * way[:, 1] - u[:, 1] * way[:, 0]
    )
    found: Points = u * far[:, None]
    return found


def _shares(ring: Points, begin: int) -> tuple[Points, Floats]:
    """A ring from a place on, closed, and the shares of its length."""
    ring = np.roll(ring, -begin, axis=0)
    ring = np.vstack([ring, ring[:1]])
    long = np.append(0.0, np.cumsum(np.hypot(*np.diff(ring, axis=0).T)))
    return ring, long / long[-1]


def _begin_like(one: Points, other: Points) -> int:
    """The place of another ring from which on it goes most like one, both as large."""
    even = np.arange(_TRIED) / _TRIED
    one, other = (ring / math.sqrt(shapely.area(shapely.Polygon(ring))) for ring in (one, other))
    wanted = _at_shares(*_shares(one, 0), even)
    begins = np.unique(np.linspace(0, len(other) - 1, _TRIED).astype(int)).tolist()
    off = [((_at_shares(*_shares(other, k), even) - wanted) ** 2).sum() for k in begins]
    found: int = begins[int(np.argmin(off))]
    return found


def _at_shares(ring: Points, own: Floats, shares: Floats) -> Points:
    return np.column_stack([np.interp(shares, own, ring[:, k]) for k in (0, 1)])
