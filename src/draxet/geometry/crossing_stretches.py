"""Stretches along which spans run together, and crossings at joints."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, norms
from draxet.geometry.crossing_places import nearest_on
from draxet.geometry.crossing_records import WITHIN, Crossings
from draxet.geometry.spans import Spans
from draxet.geometry.steps import SAME

__all__ = ["at_joint", "with_stretches"]

_TOUCH = 0.01
"""mm: a stretch in common that is no longer is a touch."""

_ALONG_PROBES = (0.2, 0.4, 0.6, 0.8)

_MANY = 3
"""So many places on one pair of spans, and they may run along each other."""


def with_stretches(spans: Spans, others: Spans, found: Crossings) -> Crossings:
    """Where two spans run along each other, the two ends of the stretch stand for all of it."""
    keep, along, touch = np.ones(len(found), dtype=bool), found.along.copy(), found.touch.copy()
    begins = np.flatnonzero(
        np.append(True, (np.diff(found.first) != 0) | (np.diff(found.second) != 0))
    )
    sizes = np.diff(np.append(begins, len(found)))
    some = (sizes >= 2) & ((sizes >= _MANY) | np.logical_or.reduceat(touch, begins))
    runs_on = _running_on(spans, others, found, np.repeat(some, sizes))
    for a, b in zip(begins[some].tolist(), (begins + sizes)[some].tolist(), strict=True):
        k = a
        while k + 1 < b:
            end = k
            while end + 1 < b and runs_on[end]:
                end += 1
            if (
                end > k and np.hypot(*(found.points[end] - found.points[k])) <= _TOUCH
            ):  # a touch: so flat that it has no one place
                keep[k : end + 1] = False
                keep[(k + end) // 2] = touch[(k + end) // 2] = True
            elif end > k:
                keep[k + 1 : end] = False
                along[[k, end]] = touch[[k, end]] = True
            k = end + 1
    return Crossings(found.first, found.second, found.t, found.u, found.points, touch, along).take(
        keep
    )


def _running_on(spans: Spans, others: Spans, found: Crossings, asked: Bools) -> list[bool]:
    """Whether from each place of those `asked` for to the next one, which is on the same pair of
    spans, the first span lies on the second."""
    pair = (found.first[1:] == found.first[:-1]) & (found.second[1:] == found.second[:-1])
    k = np.flatnonzero(pair & asked[:-1] & (np.abs(np.diff(found.t)) > 1e-9))
    on = np.zeros(len(found), dtype=bool)
    if k.size:
        share = np.tile(_ALONG_PROBES, len(k))
        k4 = np.repeat(k, len(_ALONG_PROBES))
        points = spans.at(found.first[k4], found.t[k4] + share * (found.t[k4 + 1] - found.t[k4]))
        _, off = nearest_on(
            others, found.second[k4], points, found.u[k4] + share * (found.u[k4 + 1] - found.u[k4])
        )
        on[k] = (off.reshape(len(k), -1) <= 4 * WITHIN).all(axis=1)
    return on.tolist()


def at_joint(spans: Spans, found: Crossings) -> Bools:
    """Whether the places (k,) are where one span goes over into the next: where both run the same
    way there, also what lies so near to the joint that it is the same place."""
    joint = np.zeros(len(found), dtype=bool)
    for one, other in ((found.first, found.second), (found.second, found.first)):
        a, b = spans.ends[one], spans.starts[other]
        joint |= (a == b).all(axis=1) & (norms(found.points - a) <= SAME)
    return joint
