"""Truing: a picture made level and brought to its real size, and how far its lengths can be trusted.

*Trust* is what may be said of a length: two standard deviations to either side (19 times in 20).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from draxet.geometry.affine import Affine
from draxet.job.edits import map_picture, set_known_length
from draxet.job.records import Job, KnownLength, Picture
from draxet.trueup.pick import Pick

__all__ = ["Measured", "known_length_result", "level_picture", "measure", "set_true_length", "trust_of"]

_SIGMAS = 2.0


@dataclass(frozen=True)
class Measured:
    """A length in mm and its trust, plus or minus, in mm."""

    length: float
    trust: float


def set_true_length(job: Job, picture_id: str, first: Pick, second: Pick, length: float) -> Job:
    """The picture scaled about its middle so that the two picks lie `length` apart.

    Raises
    ------
    ValueError : where the length is not over 0 or the picks are the same place.
    """
    if not length > 0:
        raise ValueError(f"the real length must be over 0, got {length:g} mm")
    picture = job.picture_by_id[picture_id]
    pixels = math.hypot(second.x - first.x, second.y - first.y)
    if pixels < 2:
        raise ValueError(f"the two ends must lie at least 2 pixels apart, got {pixels:.1f}; pick them again farther apart")
    now = _job_distance(picture, first, second)
    middle = picture.to_job.point(picture.width / 2, picture.height / 2)
    scaled = map_picture(job, picture_id, Affine.scaled(length / now).about(*middle))
    known = KnownLength((first.x, first.y), (second.x, second.y), length, first.spread, second.spread)
    return set_known_length(scaled, picture_id, known)


def level_picture(job: Job, picture_id: str, first: Pick, second: Pick, *, upright: bool) -> Job:
    """The picture turned about the line's middle so that the line of the two picks is level (or upright), by the smaller turn.

    Raises
    ------
    ValueError : where the picks are the same place.
    """
    picture = job.picture_by_id[picture_id]
    (ax, ay), (bx, by) = picture.to_job.point(first.x, first.y), picture.to_job.point(second.x, second.y)
    if math.hypot(second.x - first.x, second.y - first.y) < 2:
        raise ValueError("the two ends must lie at least 2 pixels apart; pick them again farther apart")
    turn = (90.0 if upright else 0.0) - math.degrees(math.atan2(by - ay, bx - ax))
    turn = (turn + 90.0) % 180.0 - 90.0
    return map_picture(job, picture_id, Affine.turned(turn).about((ax + bx) / 2, (ay + by) / 2))


def measure(picture: Picture, first: Pick, second: Pick) -> Measured:
    """The length between two picks: its trust comes from both picks and from the picture's own scale."""
    length = _job_distance(picture, first, second)
    own = _SIGMAS * math.hypot(first.spread, second.spread) * picture.pixel_size
    return Measured(length, math.hypot(own, trust_of(picture, length) or 0.0))


def known_length_result(picture: Picture) -> Measured | None:
    """The known length measured again on the picture as it lies now."""
    known = picture.known_length
    if known is None:
        return None
    (ax, ay), (bx, by) = picture.to_job.point(*known.first), picture.to_job.point(*known.second)
    return Measured(math.hypot(bx - ax, by - ay), trust_of(picture, known.length) or 0.0)


def trust_of(picture: Picture, length: float) -> float | None:
    """How far a length of `length` mm on the picture may be off for its scale alone, plus or minus in mm; None where not to scale."""
    known = picture.known_length
    if known is None:
        return None
    pixels = math.hypot(known.second[0] - known.first[0], known.second[1] - known.first[1])
    return _SIGMAS * math.hypot(known.first_spread, known.second_spread) / pixels * length


def _job_distance(picture: Picture, first: Pick, second: Pick) -> float:
    (ax, ay), (bx, by) = picture.to_job.point(first.x, first.y), picture.to_job.point(second.x, second.y)
    return math.hypot(bx - ax, by - ay)
