"""Line art: a photo becomes dark clean lines on white, without shading.

The photo is smoothed with its edges kept (bilateral filter: Tomasi and Manduchi, 1998). Differences
of Gaussians are then taken across the local direction of the edges and gathered along it, so that
lines hang together and grain does not (Kang, Lee and Chui, "Coherent line drawing", 2007;
directions from the smoothed structure tensor).
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np

from draxet.geometry.arrays import NDArray
from draxet.progress import Progress, Unwatched

__all__ = ["line_art"]

_BAND_ROWS = 384
_WIDER = 1.6
_ALONG = 3.0
_REFERENCE = 1400.0


def line_art(
    grey: NDArray[Any], strength: int = 50, detail: int = 50, progress: Progress | None = None
) -> NDArray[Any]:
    """A picture's lines.

    Parameters
    ----------
    grey : (rows, columns) of uint8.
    strength : 0..100, how faint an edge still becomes a line (from 14 grey levels down to 1).
    detail : 0..100, how fine the lines and the smallest parts are.

    Returns
    -------
    (rows, columns) of uint8, lines dark on 255.

    Raises
    ------
    Cancelled : where `progress` says so.
    """
    report = progress or Unwatched()
    large = max(1.0, max(grey.shape) / _REFERENCE) ** 0.5
    across = large * 2.2 * 0.3 ** (detail / 100)
    faintest = 14.0 * (1 / 14.0) ** (strength / 100) * 0.12
    reach = int(np.ceil(2.5 * across * _WIDER + 2 * _ALONG * large + 8))
    out = np.empty_like(grey)
    for top in range(0, grey.shape[0], _BAND_ROWS):
        report(top / grey.shape[0], "finding the lines")
        low, high = max(0, top - reach), min(grey.shape[0], top + _BAND_ROWS + reach)
        lines = _lines(grey[low:high], across, _ALONG * large, faintest)
        rows = min(_BAND_ROWS, grey.shape[0] - top)
        out[top : top + rows] = lines[top - low : top - low + rows]
    report(0.95, "dropping scraps")
    return _without_scraps(out, round((6 + 26 * (1 - detail / 100)) * large))


def _lines(grey: NDArray[Any], across: float, along: float, faintest: float) -> NDArray[Any]:
    soft = cv2.bilateralFilter(grey, -1, 18, 1.2 + across).astype(np.float32)
    tx, ty = _directions(soft, 1.5 + 1.5 * across)
    response = _across(soft, tx, ty, across)
    response = _gathered(response, tx, ty, along)
    dark = np.clip((-response - 0.5 * faintest) / faintest, 0, 1)
    return np.asarray(255 - 255 * dark * dark * (3 - 2 * dark)).astype(np.uint8)


def _directions(soft: NDArray[Any], spread: float) -> tuple[NDArray[Any], NDArray[Any]]:
    """Unit vectors along the edges, from the structure tensor's lesser eigenvector."""
    gx, gy = cv2.Sobel(soft, cv2.CV_32F, 1, 0), cv2.Sobel(soft, cv2.CV_32F, 0, 1)
    xx, yy, xy = (cv2.GaussianBlur(v, (0, 0), spread) for v in (gx * gx, gy * gy, gx * gy))
    angle = 0.5 * np.arctan2(2 * xy, xx - yy) + np.float32(np.pi / 2)
    return np.cos(angle), np.sin(angle)


def _across(soft: NDArray[Any], tx: NDArray[Any], ty: NDArray[Any], sigma: float) -> NDArray[Any]:
    """Difference of a narrow and a wide Gaussian along the cut square to the edge at each place."""
    count = int(np.ceil(2.5 * sigma * _WIDER))
    rows, columns = (v.astype(np.float32) for v in np.indices(soft.shape))
    offsets = np.arange(-count, count + 1)
    narrow, wide = (np.exp(-(offsets**2) / (2 * s * s)) for s in (sigma, sigma * _WIDER))
    weights = narrow / narrow.sum() - wide / wide.sum()
    total = np.zeros_like(soft)
    for offset, weight in zip(offsets.tolist(), weights.tolist(), strict=True):
        at_x, at_y = columns - np.float32(offset) * ty, rows + np.float32(offset) * tx
        total += np.float32(weight) * cv2.remap(
            soft, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
    return total


def _gathered(
    response: NDArray[Any], tx: NDArray[Any], ty: NDArray[Any], sigma: float
) -> NDArray[Any]:
    """The response averaged (Gaussian) along the stream of directions through each place."""
    places: NDArray[Any] = np.indices(response.shape).astype(np.float32)
    total: NDArray[Any] = response.copy()
    weights = 1.0
    for way in (1.0, -1.0):
        x: NDArray[Any] = places[1]
        y: NDArray[Any] = places[0]
        dx: NDArray[Any] = way * tx
        dy: NDArray[Any] = way * ty
        for step in range(1, int(np.ceil(2 * sigma)) + 1):
            x, y = x + dx, y + dy
            weight = float(np.exp(-(step**2) / (2 * sigma * sigma)))
            total += np.float32(weight) * cv2.remap(
                response, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
            )
            weights += weight
            nx, ny = (
                cv2.remap(v, x, y, cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)
                for v in (tx, ty)
            )
            same = np.sign(nx * dx + ny * dy)
            dx, dy = nx * same, ny * same
    return np.asarray(total / np.float32(weights))


def _without_scraps(lines: NDArray[Any], least: int) -> NDArray[Any]:
    """Lines whose extent is under `least` pixels both ways taken out."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats(
        (lines < 160).astype(np.uint8), connectivity=8
    )
    short = np.maximum(stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT]) < least
    short[0] = False
    if not short.any():
        return lines
    out = lines.copy()
    out[cv2.dilate(short[labels].astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)] = 255
    return out
