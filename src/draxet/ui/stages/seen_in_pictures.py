"""What a picture shows beneath the pointer: looked for as long as a move may take, then by a worker
once the pointer rests, and at once where it is clicked."""

from __future__ import annotations

import time
from collections.abc import Callable

from draxet.progress import Cancelled, Progress, Unwatched
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer, Tool
from draxet.ui.stages.sure_places import FindsPlace, SurePlace

__all__ = ["SeenInPictures"]

_MOMENT_S = 0.008
"""So long what a picture shows is looked for while the pointer moves."""
_RESTS_MS = 40
"""So long the pointer rests before a worker looks."""


class SeenInPictures:
    """Keeps the place that a picture shows where the pointer is; `told` once a worker has found
    one."""

    def __init__(self, session: Session, tool: Tool, told: Callable[[], object]) -> None:
        self._session = session
        self._known = Derived[SurePlace | None](
            session,
            "caught on a picture",
            None,
            "What a picture shows there could not be looked for",
            tool=tool,
            keeps=False,
            told=told,
        )

    def at(self, at: Pointer, find: FindsPlace, *of: str, at_once: bool) -> SurePlace | None:
        """What is found there, if that takes a moment or is wanted at once; else None until a
        worker has looked. `of` : what else it goes by."""
        pictures, known = self._session.job.pictures, self._known
        ready = tuple(self._session.pictures.ready(picture) for picture in pictures)
        where = (at.x, at.y, at.pixel, at.edge, at.free, *of, pictures, ready)
        if known.known(where) and (known.value is not None or not at_once):
            return known.value
        try:
            known.know(where, find(Unwatched() if at_once else _for_a_moment()))
        except Cancelled:
            known.ask(where, find, _RESTS_MS)
        return known.value


def _for_a_moment() -> Progress:
    """Progress that ends work which takes longer than a move of the pointer may."""
    until = time.thread_time() + _MOMENT_S

    def report(share: float, words: str) -> None:
        if time.thread_time() > until:
            raise Cancelled

    return report
