"""Truing: a picture made level and brought to its real size, and how far its lengths can be
trusted.

*Trust* is what may be said of a length: two standard deviations to either side (19 times in 20).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from draxet.geometry.affine import Affine
from draxet.geometry.arrays import Points
from draxet.geometry.covariance import Covariance
from draxet.geometry.pairs import Freedom, fit_pairs
from draxet.job.picture_edits import map_picture, set_known_lengths
from draxet.job.picture_records import KnownLength, Picture
from draxet.job.records import Job
from draxet.record import record
from draxet.trueup.lengths import fit_lengths
from draxet.trueup.pick import Pick

__all__ = [
    "BORDER_SPREAD",
    "TrustedLength",
    "known_length",
    "level_picture",
    "level_trust",
    "match_picture",
    "measure",
    "measured_again",
    "set_true_lengths",
    "size_picture",
    "trust_of",
]

_SIGMAS = 2.0
_MATCH_SPREAD = 0.5
_LEAST = Covariance.round(0.05)
BORDER_SPREAD = Covariance.round(0.3)
"""Of a picture's border, in pixels."""
_MOST_KNOWN = 15


@record(frozen=True)
class TrustedLength:
    """A length in mm and its trust, plus or minus, in mm."""

    length: float
    trust: float


def known_length(picture: Picture, first: Pick, second: Pick, length: float) -> KnownLength:
    """A known length from two picks.

    Raises
    ------
    ValueError : where the length is not over 0 or the picks are the same place.
    """
    if not length > 0:
        raise ValueError(f"the real length must be over 0, got {length:g} mm")
    pixels = math.hypot(second.x - first.x, second.y - first.y)
    if pixels < 2:
        raise ValueError(
            f"the two ends must lie at least 2 pixels apart, got {pixels:.1f}; pick them again farther apart"
        )
    return KnownLength(
        (first.x, first.y), (second.x, second.y), length, first.spread, second.spread
    )


def set_true_lengths(
    job: Job, picture_id: str, known: Sequence[KnownLength], *, unstretched: bool = False
) -> Job:
    """The picture at the scale that fits its known lengths best, about its middle; unstretched too,
    where that is asked.

    Without any known length the picture stays as it lies and its size is not known any more.
    """
    picture = job.picture_by_id[picture_id]
    job = set_known_lengths(job, picture_id, known, unstretched=unstretched)
    if not known:
        return job
    fitted = fit_lengths(known, unstretched=unstretched).linear_part(picture.to_job)
    (x, y), (fx, fy) = (
        m.point(picture.width / 2, picture.height / 2) for m in (picture.to_job, fitted)
    )
    return map_picture(
        job, picture_id, picture.to_job.inverse().then(fitted.then(Affine.moved(x - fx, y - fy)))
    )


def level_trust(first: Pick, second: Pick) -> float:
    """How far, plus or minus in degrees, the direction of the line through two picks may be off."""
    dx, dy = second.x - first.x, second.y - first.y
    across = math.hypot(first.spread.along(-dy, dx), second.spread.along(-dy, dx))
    return math.degrees(_SIGMAS * across / math.hypot(dx, dy))


def level_picture(
    job: Job, picture_id: str, first: Pick, second: Pick, *, angle: float = 0.0
) -> Job:
    """The picture turned about the line's middle so that the line of the two picks lies at `angle`
    degrees from level (90 for upright), by the smaller turn; which pick came first does not matter.

    Raises
    ------
    ValueError : where the picks are the same place.
    """
    picture = job.picture_by_id[picture_id]
    (ax, ay), (bx, by) = (
        picture.to_job.point(first.x, first.y),
        picture.to_job.point(second.x, second.y),
    )
    if math.hypot(second.x - first.x, second.y - first.y) < 2:
        raise ValueError(
            "the two ends must lie at least 2 pixels apart; pick them again farther apart"
        )
    turn = angle - math.degrees(math.atan2(by - ay, bx - ax))
    turn = (turn + 90.0) % 180.0 - 90.0
    return map_picture(job, picture_id, Affine.turned(turn).about((ax + bx) / 2, (ay + by) / 2))


def size_picture(job: Job, picture_id: str, after: Affine) -> Job:
    """A picture resized by `after`; its size from then on is that of its two sides, as they lie
    now."""
    job = map_picture(job, picture_id, after)
    picture = job.picture_by_id[picture_id]
    m, width, height = picture.to_job, float(picture.width), float(picture.height)
    sides = [
        KnownLength(
            (0.0, height / 2),
            (width, height / 2),
            width * math.hypot(m.a, m.d),
            BORDER_SPREAD,
            BORDER_SPREAD,
        ),
        KnownLength(
            (width / 2, 0.0),
            (width / 2, height),
            height * math.hypot(m.b, m.e),
            BORDER_SPREAD,
            BORDER_SPREAD,
        ),
    ]
    return set_known_lengths(job, picture_id, sides, unstretched=True)


def match_picture(
    job: Job,
    picture_id: str,
    sources: Points,
    targets: Points,
    freedom: Freedom,
    spreads: Sequence[tuple[Covariance, Covariance]] = (),
) -> Job:
    """The picture moved so that places on it (n, 2, its pixels) lie nearest to `targets` (n, 2, job
    space).

    Where its size may change, it is known from then on by the distances between the targets.

    Parameters
    ----------
    spreads : for each pair that of the place on the picture (in its pixels) and of its target (in
    mm).

    Raises
    ------
    ValueError : as ``fit_pairs``.
    """
    picture = job.picture_by_id[picture_id]
    fit = fit_pairs(picture.to_job.apply(sources), targets, freedom)
    moved = map_picture(job, picture_id, fit.affine)
    if freedom is Freedom.RIGID or len(sources) < 2:
        return moved
    rest = Covariance.round(
        max(0.0 if spreads else _MATCH_SPREAD, fit.mean / picture.pixel_size / fit.affine.scale)
    )
    back = picture.to_job.then(fit.affine).inverse()
    sure = [
        source.plus(target.mapped(back)).plus(rest).plus(_LEAST) for source, target in spreads
    ] or [rest] * len(sources)
    known = [
        KnownLength(
            tuple(sources[i].tolist()),
            tuple(sources[j].tolist()),
            float(math.hypot(*(targets[j] - targets[i]))),
            sure[i],
            sure[j],
        )
        for i in range(len(sources))
        for j in range(i + 1, len(sources))
        if math.hypot(*(targets[j] - targets[i])) > 0
    ]
    return set_known_lengths(
        moved, picture_id, known[:_MOST_KNOWN], unstretched=freedom is Freedom.STRETCH
    )


def measure(picture: Picture, first: Pick, second: Pick) -> TrustedLength:
    """The length between two picks: its trust comes from both picks and from the picture's own
    scale."""
    dx, dy = second.x - first.x, second.y - first.y
    own = (
        _SIGMAS
        * math.hypot(first.spread.along(dx, dy), second.spread.along(dx, dy))
        * picture.pixel_size
    )
    length = _job_distance(picture, first, second)
    return TrustedLength(length, math.hypot(own, trust_of(picture, length, dx, dy) or 0.0))


def measured_again(picture: Picture) -> list[TrustedLength]:
    """The known lengths measured again on the picture as it lies now."""
    again = []
    for known in picture.known_lengths:
        (ax, ay), (bx, by) = picture.to_job.point(*known.first), picture.to_job.point(*known.second)
        trust = trust_of(
            picture,
            known.length,
            known.second[0] - known.first[0],
            known.second[1] - known.first[1],
        )
        again.append(TrustedLength(math.hypot(bx - ax, by - ay), trust or 0.0))
    return again


def trust_of(picture: Picture, length: float, dx: float = 1.0, dy: float = 0.0) -> float | None:
    """How far a length of `length` mm along (dx, dy) of the picture may be off for its scale alone,
    plus or minus in mm; None where it is not to scale."""
    if not picture.known_lengths:
        return None
    return (
        _SIGMAS
        * fit_lengths(picture.known_lengths, unstretched=picture.unstretched).share_spread(dx, dy)
        * length
    )


def _job_distance(picture: Picture, first: Pick, second: Pick) -> float:
    (ax, ay), (bx, by) = (
        picture.to_job.point(first.x, first.y),
        picture.to_job.point(second.x, second.y),
    )
    return math.hypot(bx - ax, by - ay)
