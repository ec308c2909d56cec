"""How long moves take: the one idea of it that programs and rehearsals share."""

from __future__ import annotations

import numpy as np

from draxet.geometry.arrays import Bools, Floats

__all__ = ["seconds_of"]


def seconds_of(
    lengths: Floats, speed: Floats, work: Bools, begins: Bools, acceleration: float
) -> Floats:
    """Seconds that each of m moves takes (m,).

    Parameters
    ----------
    lengths : in mm. speed : in mm a second. work : whether it works: such moves run on in one
    another, and each that `begins` a line speeds up; a travel speeds up and slows down.
    acceleration : in mm/s².
    """
    short = speed**2 / acceleration
    alone = np.where(
        lengths < short, 2 * np.sqrt(lengths / acceleration), lengths / speed + speed / acceleration
    )
    going = lengths / speed + np.where(begins, speed / acceleration, 0.0)
    return np.asarray(np.where(work, going, np.where(lengths > 0, alone, 0.0)))
