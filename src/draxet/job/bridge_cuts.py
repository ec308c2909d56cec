"""Cuts that bridges hold, and what each bridge does."""

from __future__ import annotations

from draxet.geometry.contour import Contour
from draxet.job.contour_records import Bridge
from draxet.job.operations import Side
from draxet.record import record

__all__ = ["Cut", "EPSILON", "Effect", "HeldCuts", "STAYS"]

EPSILON = 1e-6


@record(frozen=True)
class Cut:
    """A contour as it is cut: on which side, how wide (mm), and the ids of the job's contours that
    it comes from."""

    contour: Contour
    side: Side
    width: float
    ids: tuple[str, ...]
    of: int = 0
    """The number of the cut, among those that were given, that says how it is cut."""


@record(frozen=True, eq=False)
class Effect:
    """What a bridge does: the strip (closed) or the stretch of the cut (open) that it keeps, and
    its middle; without a shape it holds nothing, for the reason in `lost`."""

    bridge: Bridge
    place: tuple[float, float]
    shape: Contour | None
    lost: str = ""


@record(frozen=True, eq=False)
class HeldCuts:
    """Cuts as they run with bridges, and what each bridge does."""

    cuts: tuple[Cut, ...]
    effects: tuple[Effect, ...]


STAYS = "what lies there stays anyway"
