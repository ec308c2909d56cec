"""The lines of a picture, as tools follow them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from draxet.job.picture_records import Picture
from draxet.progress import Progress
from draxet.trace.middles import MiddleRequest, trace_middles
from draxet.trace.walk import WalkMap, edge_map, line_map
from draxet.ui.model.session import Session
from draxet.ui.stages.trace_settings import trace_settings

__all__ = ["lines_found"]

_LEAST = 12.0


def lines_found(
    session: Session, picture: Picture, way: str
) -> Callable[[Progress], WalkMap | None]:
    """Work for a worker: the lines of a picture, its ``edges`` or the ``middles`` of its
    strokes."""
    settings = trace_settings(session)
    store, ground, level = session.pictures, settings.ground(picture), settings.level
    least = max(settings.speck / picture.pixel_size**2, _LEAST)

    def work(report: Progress) -> WalkMap | None:
        report(0.1, "finding the lines")
        if way == "middles":
            return line_map(
                list(
                    trace_middles(
                        MiddleRequest(np.asarray(store.of(picture).grey), level, ground=ground),
                        report,
                    ).contours
                )
            )
        ready = ground.readied(np.asarray(store.of(picture).grey), level)
        return edge_map(ready.values, ready.level, least)

    return work
