"""Everything that is wrong with contours is found, and mended step by step until nothing changes."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.geometry.contour import Contour
from draxet.mend.doubles import doubles
from draxet.mend.flaws import Flaw, without_conflicts
from draxet.mend.gaps import gaps
from draxet.mend.overshoots import overshoots
from draxet.mend.scraps import scraps
from draxet.mend.tangents import tangent_ends
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = ["Cleaning", "cleaned", "flaws_of"]

_ROUNDS = 8

_STEPS = (frozenset({"twice"}), frozenset({"past"}), frozenset({"past", "gaps"}))

_ALL_STEPS = frozenset().union(*_STEPS)
"""What is drawn twice, with scraps, goes first, then what goes past, then gaps."""


@record(frozen=True)
class Cleaning:
    """What is mended, and within which limits in mm (mm² for scraps); None where it is left
    alone."""

    gaps: float | None = None
    overshoots: float | None = None
    doubles: float | None = None
    scraps: float | None = None
    manner: str = "best"


def flaws_of(
    contours: Sequence[Contour],
    limits: Cleaning,
    without: frozenset[int] = frozenset(),
    report: Progress = Unwatched(),
    steps: frozenset[str] = _ALL_STEPS,
) -> list[Flaw]:
    """Everything that is wrong within the limits, kind by kind. `without` : numbers of open
    contours that are meant to be open. `steps` : which steps of mending are looked for."""
    found: list[Flaw] = []
    if "twice" in steps:
        report(0.1, "looking for lines drawn twice")
        found += doubles(contours, limits.doubles) if limits.doubles is not None else []
        found += scraps(contours, limits.scraps) if limits.scraps is not None else []
    twice = frozenset(k for flaw in found if flaw.kind == "double" for k in flaw.concerns)
    if "past" in steps and limits.overshoots is not None:
        report(0.4, "looking for overshoots")
        tangent = tangent_ends(contours, limits.overshoots, limits.gaps or 0.0, without | twice)
        found += tangent
        found += overshoots(
            contours,
            limits.overshoots,
            without | frozenset(k for flaw in tangent for k in flaw.concerns),
            twice,
        )
    if "gaps" in steps and limits.gaps is not None:
        report(0.8, "looking for gaps")
        found += gaps(
            contours, limits.gaps, limits.manner, without | twice, limits.overshoots or 0.0
        )
    return found


def cleaned(
    contours: Sequence[Contour],
    limits: Cleaning,
    without: frozenset[int] = frozenset(),
    report: Progress = Unwatched(),
) -> tuple[list[tuple[int, Contour]], list[Flaw]]:
    """Contours with everything mended, each with the number of the one that it came from, and what
    was done: first what is drawn twice, then what goes past, then gaps. What one mend leaves is
    looked at again, until nothing is left."""
    now = list(enumerate(contours))
    done: list[Flaw] = []
    for step in range(_ROUNDS):
        report(step / _ROUNDS, "mending")
        before = len(done)
        for part in _STEPS:
            for _ in range(_ROUNDS):
                meant = frozenset(k for k, (origin, _) in enumerate(now) if origin in without)
                flaws = without_conflicts(
                    [
                        flaw
                        for flaw in flaws_of(
                            [contour for _, contour in now], limits, meant, steps=part
                        )
                        if flaw.becomes
                    ]
                )
                if not flaws:
                    break
                becomes = {k: left for flaw in flaws for k, left in flaw.becomes.items()}
                now = [
                    (origin, made)
                    for k, (origin, contour) in enumerate(now)
                    for made in becomes.get(k, (contour,))
                ]
                done += flaws
        if len(done) == before:
            break
    return now, done
