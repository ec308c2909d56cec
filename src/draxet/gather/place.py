"""Where a picture lies when it arrives."""

from __future__ import annotations

from draxet.geometry.affine import Affine
from draxet.job.sheet_records import Sheet

__all__ = ["MM_PER_INCH", "arrival"]

MM_PER_INCH = 25.4
_FILLS = 0.9


def arrival(size: tuple[int, int], dpi: float | None, sheet: Sheet) -> Affine:
    """The map from pixels to job space for a picture of `size` (width, height): whole, upright, in
    the sheet's middle.

    Its size follows its dpi; where it has none, it fills nine tenths of the sheet.
    """
    width, height = size
    scale = MM_PER_INCH / dpi if dpi else _FILLS * min(sheet.width / width, sheet.height / height)
    return Affine(
        scale,
        0.0,
        sheet.x + (sheet.width - scale * width) / 2,
        0.0,
        -scale,
        sheet.y + (sheet.height + scale * height) / 2,
    )
