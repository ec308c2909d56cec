"""Flaws of contours as they come from elsewhere: what is wrong, where, how much, and what it would be mended to."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from draxet.geometry.contour import Contour

__all__ = ["Flaw", "WORDS", "without_conflicts"]

WORDS = {
    "gap": ("gap", "gaps"), "overshoot": ("overshoot", "overshoots"), "double": ("line drawn twice", "drawn twice"),
    "stretch": ("stretch drawn twice", "twice in part"), "scrap": ("scrap", "scraps"), "shared": ("shared edge, as meant", "shared, as meant"),
}  # fmt: skip
"""Of each kind of flaw its words, one and many."""


@dataclass(frozen=True, eq=False)
class Flaw:
    """Something to be mended. kind : a key of ``WORDS``. size : in mm (how broad a gap is, how long what goes). place : where. becomes : of
    the contours concerned, by number, what each becomes; none where it goes. manner : how, in a word. shown : what would go or come."""

    kind: str
    size: float
    place: tuple[float, float]
    becomes: Mapping[int, tuple[Contour, ...]] = field(default_factory=dict)
    manner: str = ""
    shown: tuple[Contour, ...] = ()

    @property
    def is_meant(self) -> bool:
        """Whether it is listed only, and nothing is done about it."""
        return not self.becomes


def without_conflicts(flaws: Sequence[Flaw]) -> list[Flaw]:
    """Those of the flaws that can be mended at once: no two of them concern the same contour; the first ones go before."""
    taken: set[int] = set()
    found = []
    for flaw in flaws:
        if not flaw.is_meant and not taken & flaw.becomes.keys():
            taken |= flaw.becomes.keys()
            found.append(flaw)
    return found
