"""What lies on the desk of a job beside the job itself: settings, view, stage."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, TypeVar

from draxet.job.codec import read_record
from draxet.job.codec_parts import CodecError, Parts
from draxet.job.ranges import OfPicture, Share, Size, Within
from draxet.job.value_faults import fault_of
from draxet.record import record
from draxet.ui.model.stage import Stage

__all__ = ["Desk", "read_desk", "read_kept"]


_Kept = TypeVar("_Kept")


@record(frozen=True)
class Desk:
    """How the desk was left: the open `stage`, the `view` (its middle in job space and its zoom, in
    pixels a mm), the pictures' `strengths` stage by stage, the picture in hand, and the arrow keys'
    step in mm."""

    stage: Annotated[int, Within(1, len(Stage))] = 1
    view: (
        tuple[
            Annotated[float, Within(-1e8, 1e8)],
            Annotated[float, Within(-1e8, 1e8)],
            Annotated[float, Within(1e-4, 1e5)],
        ]
        | None
    ) = None
    strengths: tuple[Share, ...] = tuple(stage.strength for stage in Stage)
    picture: OfPicture = ""
    nudge_mm: Size = 1.0


def read_desk(words: Mapping[str, Any]) -> Desk:
    return read_kept(Desk, dict(words))


def read_kept(kind: type[_Kept], words: Any) -> _Kept:
    """A record of settings as it was kept; with its defaults where that is damaged."""
    try:
        found = read_record(kind, words, Parts(), "desk", lambda what, why: None, fault_of)
        return found if not fault_of(kind, found, "desk") else kind()
    except (CodecError, RecursionError):
        return kind()
