"""Which scale? A drawing's size on paper against the real size gives its ratio and the standard
scale that is nearest.

Standard scales are those of ISO 5455 (1979), with the multiples that building drawings use.
"""

from __future__ import annotations

from draxet.job.picture_records import Picture
from draxet.record import record
from draxet.trueup.lengths import fit_lengths

__all__ = ["STANDARD", "DrawnScale", "drawn_scale"]

MM_PER_INCH = 25.4
STANDARD = (
    50.0,
    20.0,
    10.0,
    5.0,
    2.0,
    1.0,
    1 / 2,
    1 / 2.5,
    1 / 4,
    1 / 5,
    1 / 8,
    1 / 10,
    1 / 12,
    1 / 16,
    1 / 20,
    1 / 24,
    1 / 25,
    1 / 32,
    1 / 48,
    1 / 50,
    1 / 64,
    1 / 76,
    1 / 87,
    1 / 96,
    1 / 100,
    1 / 125,
    1 / 200,
    1 / 250,
    1 / 500,
    1 / 1000,
    1 / 1250,
    1 / 2500,
    1 / 5000,
    1 / 10000,
)
_CLOSE = 0.015


@record(frozen=True)
class DrawnScale:
    """`ratio` of paper to reality, the `nearest` standard one, how far off that is as a share, and
    whether that is close enough."""

    ratio: float
    nearest: float
    off: float

    @property
    def is_standard(self) -> bool:
        return abs(self.off) <= _CLOSE

    @staticmethod
    def words(ratio: float) -> str:
        """As drawings write it: 1 : 20, or 5 : 1."""
        return f"1 : {1 / ratio:.4g}" if ratio <= 1 else f"{ratio:.4g} : 1"


def drawn_scale(picture: Picture) -> DrawnScale:
    """The scale a picture was drawn at, from its resolution (its size on paper) and its known
    lengths.

    Raises
    ------
    ValueError : where its resolution or its real size is not known; one sentence says which.
    """
    if picture.dpi is None:
        raise ValueError("the picture does not say its resolution; type the dpi it was scanned at")
    if not picture.known_lengths:
        raise ValueError("the picture's real size is not known; set a known length first")
    paper_mm = MM_PER_INCH / picture.dpi * picture.to_base.scale  # mm on paper a pixel
    ratio = paper_mm / fit_lengths(picture.known_lengths, unstretched=picture.unstretched).scale
    nearest = min(STANDARD, key=lambda s: abs(s / ratio - 1))
    return DrawnScale(ratio, nearest, ratio / nearest - 1)
