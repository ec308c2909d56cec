"""Leads: a closed cut begins and ends beside the part, and runs on over its beginning a little."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from draxet.geometry.arc_length import ArcLength
from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import opened_at, piece, strung
from draxet.geometry.spans import ARC
from draxet.geometry.winding import winds
from draxet.job.operations import Toolpath

__all__ = ["with_leads"]

_BESIDE = 1e-3
_QUARTER = math.tan(math.pi / 8)
_SHORTER = (1.0, 0.5, 0.25)
"""Shares of a lead's length that are tried, where an opening has no room for all of it."""


def with_leads(path: Toolpath) -> Toolpath:
    """A closed line from its first node with its overrun, or a piece that tabs left of one, led in
    and out on the side of the waste; shorter leads, or none, where an opening has no room."""
    line = path.line
    if not line.closed and path.whole is not None and path.lead and path.waste:
        return _piece_with_leads(path, path.whole)
    if not line.closed or not (path.overrun or (path.lead and path.waste)):
        return path
    way = opened_at(line, 0.0)
    if path.overrun:
        measured = ArcLength(line)
        on = piece(line, 0.0, measured.position(min(path.overrun, measured.length / 2)))
        way = strung(way, on) if on is not None else way
    lead = _fitting(path) if path.waste else 0.0
    if lead:
        before, after = (
            _lead(way, lead, path.waste, path.shape, out=False),
            _lead(way, lead, path.waste, path.shape, out=True),
        )
        way = strung(strung(before, way), after)
    return replace(path, line=way)


def _piece_with_leads(path: Toolpath, whole: Contour) -> Toolpath:
    """Straight leads: an arc would bend over the tab beside it, and cut it off on its other
    side."""
    path = replace(path, shape="straight")
    lead = _fitting(path)
    if not lead:
        return path
    before, after = (
        _lead(path.line, lead, path.waste, path.shape, out=out) for out in (False, True)
    )
    return replace(path, line=strung(strung(before, path.line), after))


def _fitting(path: Toolpath) -> float:
    whole = path.whole or path.line
    spots = 1 if path.line.closed else 2
    inside = winds(whole, *_beside(path).tolist())
    for share in _SHORTER:
        lead = path.lead * share
        ends = [
            _lead(path.line, lead, path.waste, path.shape, out=bool(out))
            .nodes[-1 if out else 0]
            .tolist()
            for out in range(spots)
        ]
        if all(winds(whole, x, y) == inside for x, y in ends) and (
            not inside or 2 * lead < _breadth(whole)
        ):
            return lead
    return 0.0


def _beside(path: Toolpath) -> Points:
    """A place just beside the beginning of a line, on the side of the waste."""
    leave, _ = path.line.spans.tangents()
    place: Points = path.line.nodes[0] + _BESIDE * path.waste * np.array(
        [-leave[0, 1], leave[0, 0]]
    )
    return place


def _breadth(line: Contour) -> float:
    x0, y0, x1, y1 = line.box
    return min(x1 - x0, y1 - y0)


def _lead(line: Contour, lead: float, waste: int, shape: str, *, out: bool) -> Contour:
    """The way in to the beginning of a line, or out from its end."""
    leave, reach = line.spans.tangents()
    at, along = (
        (line.nodes[-1], reach[-1]) if out and not line.closed else (line.nodes[0], leave[0])
    )
    aside = waste * np.array([-along[1], along[0]])
    if shape == "straight":
        ends = [at, at + lead * aside] if out else [at + lead * aside, at]
        return Contour.make(ends, closed=False)
    centre = at + lead * aside
    ends = [at, centre + lead * along] if out else [centre - lead * along, at]
    return Contour.make(ends, [ARC], [waste * _QUARTER], closed=False)
