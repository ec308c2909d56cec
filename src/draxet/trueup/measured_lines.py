"""Lines measured finer than a pixel: by cuts across a drawn line or a brightness step at many
places along it, through which a line is laid."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.record import record

__all__ = [
    "LEAST_CONTRAST",
    "Stroke",
    "along_stroke",
    "away",
    "crossed_near",
    "crossing",
    "cuts_across",
    "direction_at",
    "directions_near",
    "edge_near",
    "foot",
    "line_through",
    "ranked",
    "slopes",
    "stroke_near",
]

LEAST_CONTRAST = 18.0
"""Grey levels that ink must be darker than its paper."""
_ALONG = 14.0
_STRAIGHT = 0.6
_EVEN = 1.6
_LEAST_CROSS = 0.3
_CLOSING_IN = 20


@record(frozen=True)
class Stroke:
    """A piece of a line through (x, y) at `angle` (radians) there, `width` pixels wide (0 for an
    edge), that turns `bend` radians a pixel (0 where it is straight); `unsure` : one standard
    deviation across, in pixels, by which its fit may be off where it is led on to."""

    x: float
    y: float
    angle: float
    width: float
    bend: float = 0.0
    unsure: float = 0.0

    def at(self, along: Floats) -> tuple[Floats, Floats, Floats]:
        """Places (x, y) and angles so far along it, in pixels."""
        half = self.bend * along / 2
        reach = along * np.sinc(half / np.pi)  # the chord
        return (
            self.x + reach * np.cos(self.angle + half),
            self.y + reach * np.sin(self.angle + half),
            self.angle + 2 * half,
        )

    def moved(self, along: float) -> Stroke:
        """The same line, its place so far along it."""
        x, y, angle = self.at(np.array([along]))
        return replace(self, x=float(x[0]), y=float(y[0]), angle=float(angle[0]))

    def turned(self) -> Stroke:
        """The same line, the other way along."""
        return replace(self, angle=self.angle + np.pi, bend=-self.bend)


def directions_near(ink: NDArray[Any], x: float, y: float, reach: float) -> list[float]:
    """Directions along which lines run near (x, y): the strongest first, a second where it is
    clearly another."""
    soft = cv2.GaussianBlur(ink, (0, 0), 1.2)
    gx, gy = cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)
    rows, columns = np.indices(ink.shape)
    near = np.exp(-((columns + 0.5 - x) ** 2 + (rows + 0.5 - y) ** 2) / (2 * (0.7 * reach) ** 2))
    angle = np.remainder(np.arctan2(gy, gx) + np.pi / 2, np.pi)
    counts, _ = np.histogram(angle, bins=60, range=(0, np.pi), weights=near * (gx * gx + gy * gy))
    ring = np.convolve(
        np.concatenate([counts[-4:], counts, counts[:4]]), [1, 2, 3, 2, 1], mode="same"
    )[4:-4]
    best = int(np.argmax(ring))
    distance = np.abs((np.arange(60) - best + 30) % 60 - 30)
    others = np.where(distance >= 10, ring, 0)
    second = int(np.argmax(others))
    found = [best] + [second] * bool(others[second] > 0.3 * ring[best])
    return [(k + 0.5) * np.pi / 60 for k in found]


def stroke_near(ink: NDArray[Any], x: float, y: float, angle: float, reach: float) -> Stroke | None:
    """The line of direction about `angle` nearest to (x, y)."""
    for _ in range(3):
        offsets = np.arange(-reach - 4, reach + 4.01, 0.5)
        along = np.arange(-_ALONG, _ALONG + 0.1, 1.0)
        cuts = cuts_across(ink, x, y, angle, along, offsets)
        middle, width = _ridge(np.median(cuts, axis=0), offsets)
        if width <= 0:
            return None
        near = np.abs(offsets - middle) <= max(1.5 * width, 3.0)
        weight = np.clip(cuts[:, near] - 0.35 * np.median(cuts[:, near].max(axis=1)), 0, None)
        total = weight.sum(axis=1)
        good = total > 0.4 * np.median(total) + 1e-6
        if good.sum() < 6 or _widens(total[good]):
            return None
        centre = (weight[good] * offsets[near]).sum(axis=1) / total[good]
        keep = np.abs(centre - np.median(centre)) < max(1.0, 0.6 * width)
        slope, base = (
            laid_through(along[good][keep], centre[keep]) if keep.sum() >= 5 else (0.0, middle)
        )
        x, y = x - base * np.sin(angle), y + base * np.cos(angle)
        angle += float(np.arctan(slope))
    return Stroke(x, y, float(angle), float(width))


def ranked(values: Floats, share: float) -> float:
    """The value below which about so great a share of the values lies: what a percentile is for
    long lists, much faster for short ones."""
    k = min(int(share * len(values)), len(values) - 1)
    return float(np.partition(values, k)[k])


def laid_through(along: Floats, off: Floats) -> tuple[float, float]:
    """Slope and base of the line of least squares through places."""
    middle, mean = float(along.mean()), float(off.mean())
    away = along - middle
    slope = float(away @ off) / max(float(away @ away), 1e-12)
    return slope, mean - slope * middle


def _widens(total: Floats) -> bool:
    """Whether ink across what is taken for a line grows along it: a wedge of an area, no line."""
    third = max(2, len(total) // 3)
    a, b = float(np.median(total[:third])), float(np.median(total[-third:]))
    return max(a, b) > _EVEN * min(a, b)


def line_through(
    ink: NDArray[Any], stroke: Stroke, along: Floats, window: float = 0.0
) -> Stroke | None:
    """The line through the middles of cuts at `along` from a stroke's place; None where too few
    cuts show it straight.

    Parameters
    ----------
    window : how far to either side the cuts reach; by default more than the line is wide.
    """
    window = window or max(1.2 * stroke.width, 3.0)
    offsets = np.arange(-window, window + 0.01, 0.5)
    cuts = cuts_across(ink, stroke.x, stroke.y, stroke.angle, along, offsets)
    peak = cuts.max(axis=1)
    usual = ranked(peak, 0.75)
    weight = np.maximum(cuts - 0.35 * peak[:, None], 0)
    middle = (weight @ offsets) / np.maximum(weight.sum(axis=1), 1e-9)
    good = (peak > 0.5 * usual) & (peak > LEAST_CONTRAST / 2)
    for _ in range(3):
        if good.sum() < 6:
            return None
        slope, base = laid_through(along[good], middle[good])
        off = np.abs(middle - (base + slope * along))
        good &= off < max(0.5, 2.5 * ranked(off[good], 0.5))
    if good.sum() < max(6, 0.3 * len(along)) or float(np.sqrt(np.mean(off[good] ** 2))) > _STRAIGHT:
        return None
    slope, base = laid_through(along[good], middle[good])
    x, y = stroke.x - base * np.sin(stroke.angle), stroke.y + base * np.cos(stroke.angle)
    return Stroke(float(x), float(y), stroke.angle + float(np.arctan(slope)), stroke.width)


def edge_near(part: NDArray[Any], x: float, y: float, angle: float, reach: float) -> Stroke | None:
    """The brightness step of direction about `angle` nearest to (x, y), as a line of no width."""
    along = np.arange(-_ALONG, _ALONG + 0.1, 1.0)
    near = reach
    for _ in range(3):
        offsets = np.arange(-near - 3, near + 3.01, 0.5)
        slope = np.abs(
            np.gradient(
                cv2.GaussianBlur(
                    cuts_across(part, x, y, angle, along, offsets), (0, 0), sigmaX=1.2, sigmaY=1.0
                ),
                axis=1,
            )
        )
        profile = np.median(slope, axis=0)
        tops = np.flatnonzero((profile[1:-1] >= profile[:-2]) & (profile[1:-1] > profile[2:])) + 1
        tops = tops[profile[tops] > max(0.35 * profile.max(), LEAST_CONTRAST / 16)]
        if not tops.size:
            return None
        middle = offsets[tops[np.argmin(np.abs(offsets[tops]))]]
        weight = np.where(np.abs(offsets - middle) <= 2.5, slope, 0.0) ** 2
        total = weight.sum(axis=1)
        good = total > 0.3 * np.median(total) + 1e-9
        if good.sum() < 6:
            return None
        place = (weight * offsets).sum(axis=1)[good] / total[good]
        keep = np.abs(place - np.median(place)) < 1.0
        if keep.sum() < 5:
            return None
        lean, base = laid_through(along[good][keep], place[keep])
        x, y = x - base * np.sin(angle), y + base * np.cos(angle)
        angle += float(np.arctan(lean))
        near = 3.0
    return Stroke(float(x), float(y), float(angle), 0.0)


def slopes(part: NDArray[Any]) -> NDArray[Any]:
    """How steep the brightness is: an edge becomes a line."""
    soft = cv2.GaussianBlur(part, (0, 0), 1.0)
    return np.asarray(
        cv2.magnitude(cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1))
    )


def cuts_across(
    ink: NDArray[Any], x: float, y: float, angle: float, along: Floats, offsets: Floats
) -> Floats:
    """Ink on cuts across a straight line: one row for each place along it, none where there is no
    place."""
    return along_stroke(ink, Stroke(x, y, angle, 0.0), along, offsets)


def along_stroke(ink: NDArray[Any], stroke: Stroke, along: Floats, offsets: Floats) -> Floats:
    """As ``cuts_across`` along a stroke, bent or straight."""
    if not (along.size and offsets.size):
        return np.zeros((along.size, offsets.size))
    x, y, angle = (v[:, None] for v in stroke.at(along))
    at_x = x - offsets[None] * np.sin(angle) - 0.5
    at_y = y + offsets[None] * np.cos(angle) - 0.5
    cuts = cv2.remap(
        ink,
        at_x.astype(np.float32),
        at_y.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
    )
    return np.asarray(cuts, dtype=np.float64)


def _ridge(cut: Floats, offsets: Floats) -> tuple[float, float]:
    """Middle and width at half height of the ridge on a cut that lies nearest to 0; width 0 where
    there is none."""
    peak = float(cut.max())
    if peak < LEAST_CONTRAST / 2:
        return 0.0, 0.0
    above = cut > peak / 2
    edges = np.flatnonzero(np.diff(np.concatenate([[0], above.view(np.int8), [0]])))
    begins, ends = edges[::2], edges[1::2] - 1
    middles = (offsets[begins] + offsets[ends]) / 2
    k = int(np.argmin(np.maximum(np.abs(middles) - (offsets[ends] - offsets[begins]) / 2, 0)))
    if (
        begins[k] == 0 or ends[k] == len(cut) - 1
    ):  # it goes on beyond what is looked at: an area, no line
        return 0.0, 0.0
    return float(middles[k]), _crossed(cut, offsets, int(ends[k]), peak / 2) - _crossed(
        cut, offsets, int(begins[k]) - 1, peak / 2
    )


def _crossed(cut: Floats, offsets: Floats, k: int, level: float) -> float:
    """Where a cut passes a level between its places k and k + 1."""
    return float(
        offsets[k] + (level - cut[k]) / (cut[k + 1] - cut[k]) * (offsets[k + 1] - offsets[k])
    )


def foot(stroke: Stroke, x: float, y: float) -> tuple[float, float]:
    """The place of a line nearest to another."""
    cos, sin = np.cos(stroke.angle), np.sin(stroke.angle)
    if stroke.bend:
        radius = 1 / stroke.bend
        middle_x, middle_y = stroke.x - radius * sin, stroke.y + radius * cos
        far = max(float(np.hypot(x - middle_x, y - middle_y)), 1e-9)
        return float(middle_x + (x - middle_x) * abs(radius) / far), float(
            middle_y + (y - middle_y) * abs(radius) / far
        )
    t = (x - stroke.x) * cos + (y - stroke.y) * sin
    return float(stroke.x + t * cos), float(stroke.y + t * sin)


def direction_at(stroke: Stroke, x: float, y: float) -> float:
    """A line's angle (radians) at its place nearest to another."""
    if not stroke.bend:
        return stroke.angle
    radius = 1 / stroke.bend
    middle_x, middle_y = (
        stroke.x - radius * np.sin(stroke.angle),
        stroke.y + radius * np.cos(stroke.angle),
    )
    return float(
        np.arctan2((y - middle_y) * np.sign(radius), (x - middle_x) * np.sign(radius)) + np.pi / 2
    )


def away(stroke: Stroke, x: float, y: float) -> float:
    return float(np.hypot(*np.subtract(foot(stroke, x, y), (x, y))))


def crossing(a: Stroke, b: Stroke) -> tuple[float, float] | None:
    """Where two straight lines cross; None where they hardly differ in direction."""
    cross = np.sin(b.angle - a.angle)
    if abs(cross) < _LEAST_CROSS:
        return None
    t = ((b.x - a.x) * np.sin(b.angle) - (b.y - a.y) * np.cos(b.angle)) / cross
    return float(a.x + t * np.cos(a.angle)), float(a.y + t * np.sin(a.angle))


def crossed_near(a: Stroke, b: Stroke, x: float, y: float) -> tuple[float, float] | None:
    """Where two lines, straight or bent, cross near a place; None where they do not or hardly
    differ in direction there."""
    at: tuple[float, float] | None = (x, y)
    for _ in range(_CLOSING_IN):
        assert at is not None
        tangents = [Stroke(*foot(s, *at), direction_at(s, *at), 0.0) for s in (a, b)]
        last, at = at, crossing(tangents[0], tangents[1])
        if at is None:
            return None
        if np.hypot(at[0] - last[0], at[1] - last[1]) < 1e-4:
            return at
    return None
