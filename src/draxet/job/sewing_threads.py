"""Threads to sew with: a list with plain words, and the nearest of some to a colour."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

from draxet.job.ranges import Colour, Words
from draxet.record import record

__all__ = ["THREADS", "Thread", "apart", "nearest_thread"]


@record(frozen=True)
class Thread:
    """A thread by its name and colour (#rrggbb)."""

    name: Words
    colour: Colour


_OURS = """
black 000000, soot 2b2d30, slate 4a5058, pewter 74797e, grey 8f9397, silver b9bcbe, mist dcdedd,
white ffffff, chalk f4f1ea, cream f2e6c6, linen ddd0b3, sand cdb588, straw e0bd5c, butter f3dd83,
lemon f5e03a, yellow f6c619, amber eda10f, ochre b9812b, honey d99a3a, orange ea7619, rust b2521f,
apricot f3b37e, peach f6cbaa, salmon ee917c, red cf4a3c, scarlet c4202a, poppy e0322b, brick a03a2c,
wine 741f33, plum 5b2346, rose d9607e, pink f0a4b5, blush f7d6d3, magenta b9257a, mauve a5719b,
lilac c5a9d0, violet 6b3d8f, indigo 372f6b, navy 1e3550, midnight 141d33, marine 24508c, blue 2a63b8,
azure 3f8fd0, sky 8fc1e3, ice cfe4ee, teal 1c7480, lagoon 35a3a3, mint a5d9c2, sea 5fb59a,
green 3c8259, emerald 12b04a, grass 2b8a3a, leaf 5da33f, lime a5c93c, sage 9cae8c, olive 7a7a35, fir 1f4a35,
bottle 123327, tan b58b5e, copper a1653a, brown 6f4526, bark 4a3021, cocoa 8a5f48, umber 2f2018
"""
THREADS = tuple(
    Thread(name, f"#{colour}")
    for each in _OURS.replace("\n", " ").split(",")
    for name, colour in (each.split(),)
)
"""Those that ship: names and colours of our own."""

_TO_XYZ = ((0.4339, 0.3762, 0.1899), (0.2126, 0.7152, 0.0722), (0.0177, 0.1095, 0.8729))
"""Of linear sRGB, relative to white (IEC 61966-2-1, D65)."""


def nearest_thread(threads: Sequence[Thread], colour: str) -> Thread:
    """The thread whose colour looks most like another one (#rrggbb)."""
    return min(threads, key=lambda each: apart(each.colour, colour))


def apart(one: str, other: str) -> float:
    """How unlike two colours look: about 2 is hardly seen, 20 is another colour (CIE 1976 L*a*b*)."""
    return math.dist(_lab(one.lower()), _lab(other.lower()))


@lru_cache(maxsize=10_000)
def _lab(colour: str) -> tuple[float, float, float]:
    rgb = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in rgb]
    x, y, z = (_root(sum(a * b for a, b in zip(row, linear, strict=True))) for row in _TO_XYZ)
    return 116 * y - 16, 500 * (x - y), 200 * (y - z)


def _root(share: float) -> float:
    return math.cbrt(share) if share > (6 / 29) ** 3 else share * (29 / 6) ** 2 / 3 + 4 / 29
