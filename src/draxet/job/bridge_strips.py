"""Strips that lead across cuts, and the cuts parted by them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.winding import winds
from draxet.job.bridge_cuts import EPSILON, STAYS, Cut, Effect
from draxet.job.bridge_rays import first_hits, foot
from draxet.job.contour_records import Bridge
from draxet.job.operations import Side
from draxet.record import record

__all__ = ["Strip", "cuts_crossed", "strips_of"]


@record(frozen=True, eq=False)
class Strip:
    """A strip from one cut to another (their numbers): its outline, and its ends."""

    bridge: Bridge
    first: int
    second: int
    start: Points
    end: Points
    outline: Contour


_NO_OTHER = "it leads to no other contour"


def strips_of(bridges: Sequence[tuple[Bridge, int]], cuts: Sequence[Cut]) -> list[Strip | str]:
    """The strip of each bridge, which begins on the cut of its number; or why it has none."""
    if not bridges:
        return []
    contours = [cut.contour for cut in cuts]
    starts = np.array([foot(contours[k], bridge.x, bridge.y) for bridge, k in bridges])
    hits = first_hits(contours, starts, np.radians([bridge.angle for bridge, _ in bridges]))
    found: list[Strip | str] = []
    for (bridge, number), start, hit in zip(bridges, starts, hits, strict=True):
        if hit is None or not contours[number].closed or not contours[hit[0]].closed:
            found.append(_NO_OTHER)
            continue
        second, end = hit
        taken = max(
            (cuts[k].width for k in (number, second) if cuts[k].side is Side.ON), default=0.0
        )
        found.append(
            Strip(
                bridge,
                number,
                second,
                start,
                end,
                _rectangle(start, end, (bridge.width + taken) / 2),
            )
        )
    return found


def _rectangle(start: Points, end: Points, half: float) -> Contour:
    """About a straight way, `half` to either side and twice that beyond its ends, so that it parts
    what curves away from it."""
    along = (end - start) / max(float(np.hypot(*(end - start))), EPSILON)
    aside = half * np.array([-along[1], along[0]])
    a, b = start - 2 * half * along, end + 2 * half * along
    return Contour.make([a + aside, a - aside, b - aside, b + aside])


def _tied(count: int, strips: Sequence[Strip]) -> list[tuple[list[int], list[Strip]]]:
    """So many cuts' numbers by what strips tie together, with those strips."""
    root = list(range(count))

    def root_of(k: int) -> int:
        while root[k] != k:
            k = root[k]
        return k

    for strip in strips:
        root[root_of(strip.second)] = root_of(strip.first)
    tying: dict[int, list[Strip]] = {}
    for strip in strips:
        tying.setdefault(root_of(strip.first), []).append(strip)
    members: dict[int, list[int]] = {name: [] for name in tying}
    for k in range(count):
        if root_of(k) in members:
            members[root_of(k)].append(k)
    return [(members[name], some) for name, some in tying.items()]


def cuts_crossed(cuts: list[Cut], strips: Sequence[Strip], effects: dict[str, Effect]) -> list[Cut]:
    """Cuts parted by the strips that lead over them; those that strips tie together are parted
    together."""
    clusters = _tied(len(cuts), strips)
    apart = set(range(len(cuts))) - {k for numbers, _ in clusters for k in numbers}
    left = [cuts[k] for k in sorted(apart)]
    for numbers, some in clusters:
        parted = _parted(
            tuple(cuts[k].contour for k in numbers),
            tuple(strip.outline for strip in some),
            tuple(_middle(strip) for strip in some),
        )
        ids = tuple(dict.fromkeys(each for k in numbers for each in cuts[k].ids))
        outer = cuts[numbers[parted.outer]]
        sound = outer.side is not Side.OUTSIDE
        for strip, lies_over in zip(some, parted.over, strict=True):
            holds = sound and lies_over
            x, y = _middle(strip)
            effects[strip.bridge.id] = Effect(
                strip.bridge, (x, y), strip.outline if holds else None, "" if holds else STAYS
            )
        if not sound or not all(parted.over):
            left += cuts_crossed(
                [cuts[k] for k in numbers],
                _renumbered(some, numbers, parted.over) if sound else [],
                {},
            )
            continue
        turned = {Side.INSIDE: Side.OUTSIDE, Side.ON: Side.ON}[outer.side]
        left += [
            Cut(contour, turned if hole else outer.side, outer.width, ids, outer.of)
            for contour, hole in parted.contours
        ]
    return sorted(left, key=lambda cut: cut.of)


def _middle(strip: Strip) -> tuple[float, float]:
    x, y = ((strip.start + strip.end) / 2).tolist()
    return x, y


def _renumbered(
    strips: Sequence[Strip], numbers: Sequence[int], over: Sequence[bool]
) -> list[Strip]:
    """Those of the strips that part something, their cuts counted among `numbers`."""
    of = {number: k for k, number in enumerate(numbers)}
    return [
        Strip(s.bridge, of[s.first], of[s.second], s.start, s.end, s.outline)
        for s, fine in zip(strips, over, strict=True)
        if fine
    ]


@record(frozen=True, eq=False)
class _Parted:
    """Contours and whether each is a hole; the number of the outermost contour that they come from;
    whether each strip leads over what is taken away."""

    contours: tuple[tuple[Contour, bool], ...]
    outer: int
    over: tuple[bool, ...]


def _parted(
    contours: tuple[Contour, ...],
    strips: tuple[Contour, ...],
    middles: tuple[tuple[float, float], ...],
) -> _Parted:
    """The area that contours bound, every second one a hole, less some strips."""
    from draxet.geometry.arrangement import arrangement_of

    outer = int(np.argmin(nesting_depths(contours)))
    over = tuple(
        sum(winds(contour, *middle) for contour in contours) % 2 == 1 for middle in middles
    )
    if not all(over):
        return _Parted((), outer, over)
    found = arrangement_of([*contours, *strips])
    count = len(contours)
    kept = [
        k
        for k, region in enumerate(found.regions)
        if sum(n < count for n in region.covered) % 2 == 1
        and all(n < count for n in region.covered)
    ]
    return _Parted(
        tuple((contour, contour.area < 0) for contour in found.outline_of(kept)), outer, over
    )
