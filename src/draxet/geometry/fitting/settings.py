"""How loops are fitted."""

from __future__ import annotations

from dataclasses import dataclass, replace

__all__ = ["FitSettings"]


@dataclass(frozen=True)
class FitSettings:
    """How loops are fitted; distances in the samples' unit (pixels), reaches along them in samples.

    tolerance : greatest distance of a sample from its span.
    corner_degrees : least sharp turn that is a corner; corner_reach : samples to either side over which it is seen.
    straight_rms, straight_bow, straight_least : see ``straight_runs``.
    blur : standard deviation of the picture's blur, which rounds every tip.
    circles : whether a loop that a circle fits becomes one.
    noise : how far samples stray (standard deviation); found by ``fit_loops`` itself.
    join_within : a straight run is drawn out to a corner, or to the next run, over at most so many blurred samples.
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

    def for_noise(self, noise: float) -> FitSettings:
        """The settings for samples that stray by `noise` (standard deviation): nothing is asked for that noise hides."""
        return replace(
            self,
            noise=noise,
            tolerance=max(self.tolerance, 3.0 * noise),
            straight_rms=max(self.straight_rms, 0.05 + 1.4 * noise),
            straight_bow=max(self.straight_bow, 1.2 * noise),
            straight_least=self.straight_least if noise < 0.06 else self.straight_least + 4,
        )
