"""A picture's colours: which ones it is made of, and which of them each pixel belongs to.

Colours are compared in CIE L*a*b* (1976), where equal distances look about equally different. Rims
between two colours are mixtures of them and never a colour of their own.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, NDArray
from draxet.record import record

__all__ = [
    "Palette",
    "areas_verdict",
    "fewer_than_wanted",
    "labelled",
    "split_colour",
    "suggested_palette",
    "to_lab",
]

_BIN = 6.0
_APART = 14.0
_MOST = 16
_LEAST_SHARE = 0.0015
_FLAT = 5.0
_REACH = 5.0
_WORK_PIXELS = 600_000
_PURE = 16.0
_MIXED = 9.0


@record(frozen=True, eq=False)
class Palette:
    """`colours` (k, 3) red, green, blue of 0..255, and the share of the picture's even pixels that
    each has (k,)."""

    colours: NDArray[np.uint8]
    shares: Floats

    def __len__(self) -> int:
        return len(self.colours)


def to_lab(pixels: NDArray[Any]) -> NDArray[np.float32]:
    """Pixels (…, 3) of uint8 as L*a*b*, float32; grey ones (rows, columns) too."""
    colours = cv2.cvtColor(pixels, cv2.COLOR_GRAY2RGB) if pixels.ndim == 2 else pixels
    return np.asarray(
        cv2.cvtColor(np.ascontiguousarray(colours).astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    )


def _even(lab: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Pixels round which the colour hardly changes."""
    soft = cv2.GaussianBlur(lab, (0, 0), 0.8)
    slope = [
        plane * plane
        for dx, dy in ((1, 0), (0, 1))
        for plane in cv2.split(cv2.Sobel(soft, cv2.CV_32F, dx, dy, scale=0.125))
    ]
    return np.asarray(sum(slope[1:], slope[0]) < _FLAT**2)


def suggested_palette(pixels: NDArray[Any], count: int | None = None) -> Palette:
    """The colours a picture is made of.

    Parameters
    ----------
    count : how many are wanted, 2 or more; by default as many as stand clearly apart, 16 at the
    most.

    Raises
    ------
    ValueError : where `count` is under 1 or over 64.
    """
    if count is not None and not 1 <= count <= 64:
        raise ValueError(f"the number of colours must be from 1 to 64, got {count}")
    shrink = max(1, int(np.sqrt(pixels.shape[0] * pixels.shape[1] / _WORK_PIXELS)))
    part = pixels[::shrink, ::shrink]  # taken, not averaged: averages would make mixtures
    soft = cv2.medianBlur(np.ascontiguousarray(part), 3) if min(part.shape[:2]) >= 3 else part
    lab = to_lab(soft)
    even = _even(lab)
    samples = lab[even] if even.sum() > 64 else lab.reshape(-1, 3)
    seeds = _peaks(samples, count)
    centres, shares = _settled(samples, seeds)
    order = np.argsort(-shares, kind="stable")
    rgb = cv2.cvtColor(centres[order][None].astype(np.float32), cv2.COLOR_LAB2RGB)[0]
    return Palette(np.clip(rgb * 255 + 0.5, 0, 255).astype(np.uint8), shares[order])


def fewer_than_wanted(palette: Palette, wanted: int | None) -> str:
    """Why there are fewer colours than were wanted, as a sentence; empty where there are not."""
    found = len(palette.colours)
    return (
        f"Only {found} of {wanted} colours: no more stand apart in the picture."
        if wanted and found < wanted
        else ""
    )


def _peaks(samples: NDArray[np.float32], count: int | None) -> Floats:
    """Most frequent colours, each well apart from those before it."""
    bins = np.floor(samples / _BIN).astype(np.int64)
    keys, inverse, sizes = np.unique(
        bins @ np.array([1, 1000, 1_000_000]), return_inverse=True, return_counts=True
    )
    means = (
        np.stack(
            [np.bincount(inverse.ravel(), samples[:, k], minlength=len(keys)) for k in range(3)],
            axis=1,
        )
        / sizes[:, None]
    )
    weight = sizes.astype(np.float64)
    crowd = (
        np.array(
            [
                weight[
                    np.hypot(*(means - mean)[:, 1:].T) + np.abs(means[:, 0] - mean[0]) < 1.5 * _BIN
                ].sum()
                for mean in means
            ]
        )
        if len(keys) < 4000
        else weight
    )
    found: list[Floats] = []
    passes = (
        [(_APART, _LEAST_SHARE)] if count is None else [(_APART, _LEAST_SHARE), (_APART / 2, 0.0)]
    )
    for (
        apart,
        least,
    ) in passes:  # what stands clearly apart comes before shades of what is there already
        for k in np.argsort(-crowd, kind="stable").tolist():
            if len(found) == (count or _MOST) or crowd[k] < least * len(samples):
                break
            if all(np.linalg.norm(means[k] - other) >= apart for other in found):
                found.append(means[k])
    return np.array(found)


def _settled(samples: NDArray[np.float32], seeds: Floats, rounds: int = 8) -> tuple[Floats, Floats]:
    """Each colour moved to the median of the samples nearest to it, over and over (Lloyd, 1982)."""
    step = max(1, len(samples) // 60_000)
    some = samples[::step].astype(np.float64)
    centres = seeds.copy()
    owner = np.zeros(len(some), dtype=np.int64)
    for _ in range(rounds):
        owner = ((centres**2).sum(axis=1) - 2 * some @ centres.T).argmin(
            axis=1
        )  # squared distances, but for what all have in common
        for k in range(len(centres)):
            if (owner == k).any():
                centres[k] = np.median(some[owner == k], axis=0)
    return centres, np.bincount(owner, minlength=len(centres)) / len(some)


def labelled(
    pixels: NDArray[Any], colours: NDArray[np.uint8], smooth: float = 0.0
) -> NDArray[np.uint8]:
    """Which of `colours` (k, 3) each pixel belongs to (rows, columns).

    A pixel that is not purely one colour may only take one that lies purely within a few pixels of
    it, and of two that it is a mixture of takes the nearer: so rims make no thin bands of a third
    colour.

    Parameters
    ----------
    smooth : standard deviation in pixels of a smoothing that comes first, for grain.
    """
    if not 1 <= len(colours) <= 64:
        raise ValueError(f"there must be from 1 to 64 colours, got {len(colours)}")
    source = cv2.GaussianBlur(pixels, (0, 0), smooth) if smooth > 0 else pixels
    lab = to_lab(source)
    palette = to_lab(colours[None])[0]
    distances = [_distance(lab, colour) for colour in palette]
    nearest, least = _least(distances)
    if len(colours) < 2:
        return nearest
    pure = _without_slivers((least < _PURE) & _even(lab), nearest)
    allowed = [
        _where_pure_near(distance, pure & (nearest == k)) for k, distance in enumerate(distances)
    ]
    label, best = _least(allowed)
    lonely = ~np.isfinite(best)
    label[lonely] = nearest[lonely]
    thin = _fine_lines(lab, palette, nearest, label, least)
    label[thin] = nearest[thin]
    label[pure] = nearest[pure]
    return label


def _distance(lab: NDArray[np.float32], colour: NDArray[np.float32]) -> NDArray[np.float32]:
    """How far each pixel (rows, columns) is from a colour."""
    squares = [(lab[..., k] - colour[k]) ** 2 for k in range(3)]
    return np.asarray(np.sqrt(squares[0] + squares[1] + squares[2]))


def _least(images: Sequence[NDArray[np.float32]]) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
    """Which of several images is the least at each pixel, the first of equal ones, and how much it
    is there."""
    which, least = np.zeros(images[0].shape, np.uint8), images[0].copy()
    for k, image in enumerate(images[1:], 1):
        which[image < least] = k
        np.minimum(least, image, out=least)
    return which, least


def _where_pure_near(distance: NDArray[np.float32], mine: NDArray[np.bool_]) -> NDArray[np.float32]:
    """Distances to a colour where pixels purely of it are near, endless elsewhere."""
    if not mine.any():
        return np.full(distance.shape, np.inf, dtype=np.float32)
    away = cv2.distanceTransform((~mine).view(np.uint8), cv2.DIST_L2, 3)
    return np.where(away <= _REACH, distance, np.float32(np.inf))


def _without_slivers(pure: NDArray[np.bool_], nearest: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Pure pixels whose whole neighbourhood is of their own colour: a band two pixels wide along an
    edge is none."""
    kernel = np.ones((3, 3), np.uint8)
    same = (cv2.erode(nearest, kernel) == nearest) & (cv2.dilate(nearest, kernel) == nearest)
    return np.asarray(pure & same)


def _fine_lines(
    lab: NDArray[np.float32],
    palette: NDArray[np.float32],
    nearest: NDArray[np.uint8],
    label: NDArray[np.uint8],
    least: NDArray[np.float32],
) -> NDArray[np.bool_]:
    """Pixels of a colour that is nowhere pure here but is no mixture of its neighbours either:
    lines a pixel or two wide."""
    unsure = np.flatnonzero((nearest != label) & (least < _PURE))
    found = np.zeros(label.shape, dtype=bool)
    if not unsure.size:
        return found
    kernel = np.ones((7, 7), np.uint8)
    present = np.stack(
        [
            cv2.dilate((label == k).astype(np.uint8), kernel).ravel()[unsure] > 0
            for k in range(len(palette))
        ]
    )
    colours = lab.reshape(-1, 3)[unsure]
    off = np.full(len(unsure), np.inf)
    for i in range(len(palette)):
        for j in range(i, len(palette)):
            both = present[i] & present[j]
            if both.any():
                off[both] = np.minimum(
                    off[both], _off_segment(colours[both], palette[i], palette[j])
                )
    found.ravel()[unsure] = off > _MIXED
    return found


def _off_segment(
    colours: NDArray[np.float32], a: NDArray[np.float32], b: NDArray[np.float32]
) -> Floats:
    """Distance of colours from the mixtures of two."""
    step = (b - a).astype(np.float64)
    size = float(step @ step)
    t = np.clip((colours - a) @ step / size, 0, 1) if size > 0 else np.zeros(len(colours))
    return np.asarray(np.sqrt(((colours - (a + t[:, None] * step)) ** 2).sum(axis=1)))


def split_colour(
    pixels: NDArray[Any], colours: NDArray[np.uint8], number: int
) -> tuple[tuple[int, int, int], tuple[int, int, int]]:
    """The two colours that the pixels nearest to colour `number` fall into."""
    shrink = max(1, int(np.sqrt(pixels.shape[0] * pixels.shape[1] / _WORK_PIXELS)))
    lab = to_lab(np.ascontiguousarray(pixels[::shrink, ::shrink]))
    centres = to_lab(colours[None])[0]
    mine = lab[
        _even(lab) & (((lab[..., None, :] - centres) ** 2).sum(axis=3).argmin(axis=2) == number)
    ]
    if len(mine) < 8:
        mine = lab.reshape(-1, 3)
    middle = mine.mean(axis=0)
    _, _, ways = np.linalg.svd((mine - middle)[:: max(1, len(mine) // 5000)], full_matrices=False)
    spread = float(np.std((mine - middle) @ ways[0])) + 1.0
    pair, _ = _settled(
        mine, np.array([middle + spread * ways[0], middle - spread * ways[0]], dtype=np.float64)
    )
    rgb = np.clip(
        cv2.cvtColor(pair[None].astype(np.float32), cv2.COLOR_LAB2RGB)[0] * 255 + 0.5, 0, 255
    ).astype(int)
    (a, b, c), (d, e, f) = rgb.tolist()
    return (a, b, c), (d, e, f)


_BESIDE = 3
"""Pixels on either side of an edge between areas at which its step is looked at."""
_WEAK = 0.45
"""Of how much two colours differ: a smaller step between their areas is none."""
_LEAST_EDGES = 60


def areas_verdict(
    pixels: NDArray[Any], palette: Sequence[Sequence[int]] | NDArray[np.uint8]
) -> str:
    """Why a picture has no separable areas of these colours, as one sentence; empty where it
    has."""
    shrink = max(1, int(np.sqrt(pixels.shape[0] * pixels.shape[1] / _WORK_PIXELS)))
    lab = to_lab(np.ascontiguousarray(pixels[::shrink, ::shrink]))
    centres = to_lab(np.array(palette, dtype=np.uint8)[None])[0]
    which, nearest = _least([_distance(lab, centre) for centre in centres])
    calm = cv2.medianBlur(lab, 3)
    even = float(_even(calm).mean())
    fits = float((nearest < _PURE).mean())
    if even < 0.45:
        return "The colours change all over this picture, so it has no separable areas; trace what you need by hand, or make line art of it."
    if fits < 0.6:
        return f"Only {100 * fits:.0f} % of the picture is near one of these colours; it is shaded rather than flat: take more colours, or trace by hand."
    if len(centres) > 1 and _run_into_one_another(calm, which, centres):
        return "The colours run into one another; the picture is shaded rather than flat, and where its areas end is anybody's guess: trace by hand, or make line art of it."
    return ""


def _run_into_one_another(lab: NDArray[Any], which: NDArray[Any], centres: NDArray[Any]) -> bool:
    """Whether most of the edges between areas are no steps: beside them a picture (rows, columns,
    3) changes far less than the two colours differ."""
    weak = total = 0
    for labels, values in ((which, lab), (which.T, lab.transpose(1, 0, 2))):
        away = labels.shape[1] - 2 * _BESIDE - 1
        if away < 1:
            continue
        row, at = np.nonzero(
            labels[:, _BESIDE : _BESIDE + away] != labels[:, _BESIDE + 1 : _BESIDE + 1 + away]
        )
        one, other = labels[row, at + _BESIDE], labels[row, at + _BESIDE + 1]
        near = [
            values[row, at + k].astype(np.float64) for k in range(2 * _BESIDE + 2)
        ]  # thin lines have the same on either side
        step = np.max(
            [
                np.linalg.norm(near[k] - first, axis=1)
                for first in near[:_BESIDE]
                for k in range(_BESIDE, len(near))
            ],
            axis=0,
        )
        apart = np.linalg.norm(centres[one].astype(np.float64) - centres[other], axis=1)
        weak, total = weak + int((step < _WEAK * apart).sum()), total + len(row)
    return total >= _LEAST_EDGES and weak > total / 2
