"""A look at what holds once every cut has run."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.job.fallout import Piece
from draxet.job.falls import Falls
from draxet.job.findings import Finding, Gravity, count_words
from draxet.job.records import Job
from draxet.prove.look_places import HAIR, MOST_PLACES

__all__ = ["WhatHolds"]


class WhatHolds:
    """Islands that fall out with what is round them, and walls and necks of what stays that are
    thinner than the smallest feature, once every cut has run. As long as nothing is to be cut
    through, all lines count."""

    def __init__(self) -> None:
        self._falls = Falls()

    def __call__(self, job: Job) -> list[Finding]:
        if not job.contours:
            return []
        cut = [item for item in job.contours if item.id in job.cut_of]
        fallout = self._falls.of(job, cut or job.contours, HAIR, job.smallest_feature)
        return [
            *_islands(fallout.islands if job.operations else ()),
            *self._walls(job, fallout.pieces),
        ]

    @staticmethod
    def _walls(job: Job, pieces: Sequence[Piece]) -> list[Finding]:
        walls = [wall for piece in pieces for wall in piece.walls]
        places = [
            *((wall.x, wall.y) for wall in walls),
            *(place for piece in pieces for place in piece.threads),
        ]
        if not places:
            return []
        thinnest = (
            f": {min(wall.left for wall in walls):.2f} mm are left at the thinnest" if walls else ""
        )
        words = f"{count_words(len(places), 'wall')} thinner than the smallest feature, {job.smallest_feature:g} mm{thinnest}"
        return [
            Finding("thin-wall", words, Gravity.WARNS, "mend", places=tuple(places[:MOST_PLACES]))
        ]


def _islands(islands: Sequence[Piece]) -> list[Finding]:
    if not islands:
        return []
    one = len(islands) == 1
    fall, them, are = ("falls", "it", "it is") if one else ("fall", "them", "they are")
    words = f"{count_words(len(islands), 'island')} {fall} out with what is round {them}; hold {them} by bridges, or say in Falls or stays that {are} meant to"
    return [
        Finding(
            "island",
            words,
            Gravity.WARNS,
            "mend",
            places=tuple(piece.place for piece in islands[:MOST_PLACES]),
        )
    ]
