"""How loops are fitted."""

from __future__ import annotations

from dataclasses import replace

from draxet.record import record

__all__ = ["SHAPES_WITHIN", "FitSettings"]

SHAPES_WITHIN = 0.25
"""Pixels: the steps of pixels move single samples of a known shape so far."""


@record(frozen=True)
class FitSettings:
    """How loops are fitted; distances in the samples' unit (pixels), reaches along them in samples.

    tolerance : greatest distance of a sample from its span, where that is a line, a circle or an
    arc between lines or corners: what is
    known to be so is not given up for single samples. free : the same for curves of any other
    shape; as `tolerance` where 0.
    corner_degrees : least sharp turn that is a corner; corner_reach : samples to either side over
    which it is seen.
    straight_rms, straight_bow, straight_least : see ``straight_runs``.
    blur : standard deviation of the picture's blur, which rounds every tip.
    circles : whether a loop that a circle fits becomes one.
    noise : how far samples stray (standard deviation); found by ``fit_loops`` itself.
    join_within : a straight run is drawn out to a corner, or to the next run, over at most so many
    blurred samples.
    """

    tolerance: float = 0.35
    corner_degrees: float = 30.0
    corner_reach: int = 4
    straight_rms: float = 0.12
    straight_bow: float = 0.12
    straight_least: int = 14
    blur: float = 0.5
    circles: bool = True
    join_within: int = 5
    noise: float = 0.0
    free: float = 0.0

    @classmethod
    def exact_to(
        cls, tolerance: float, *, blur: float, corner_degrees: float = 30.0
    ) -> FitSettings:
        """The settings for contours that lie within `tolerance` pixels of a picture's edges. Known
        shapes are told from the pixels' own steps, which are no smaller for being asked to be."""
        return cls(max(tolerance, SHAPES_WITHIN), corner_degrees, blur=blur, free=tolerance)

    @property
    def curves(self) -> float:
        """Greatest distance of a sample from a free curve."""
        return self.free or self.tolerance

    def closer(self, share: float) -> FitSettings:
        """The settings for tolerances of that share."""
        return replace(self, tolerance=self.tolerance * share, free=self.free * share)

    def for_noise(self, noise: float) -> FitSettings:
        """The settings for samples that stray by `noise` (standard deviation): nothing is asked for
        that noise hides."""
        return replace(
            self,
            noise=noise,
            tolerance=max(self.tolerance, 3.0 * noise),
            free=max(self.curves, 3.0 * noise),
            straight_rms=max(self.straight_rms, 0.05 + 1.4 * noise),
            straight_bow=max(self.straight_bow, 1.2 * noise),
            straight_least=self.straight_least if noise < 0.06 else self.straight_least + 4,
        )
