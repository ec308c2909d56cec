"""A truth: what a drawing nearly is, and may be made exactly."""

from __future__ import annotations

from draxet.record import record

__all__ = ["Truth"]


@record(frozen=True)
class Truth:
    """Something that is nearly so. kind : ``level``, ``upright``, ``square``, ``parallel``,
    ``equal``, ``round``, ``oval``, ``concentric``, ``tangent``, ``symmetrical``, or with others on one
    ``base``, up to one ``top``, with ``stem``s of one width or with the same ``gap``s. ids : the
    contours, spans : those of the first of them that are meant. moves : how far anything would
    move, in mm; place : where, in job space. value : what it is made to (a radius, a length, a
    centre), where there is one."""

    kind: str
    ids: tuple[str, ...]
    spans: tuple[int, ...]
    moves: float
    place: tuple[float, float]
    value: tuple[float, ...] = ()

    @property
    def words(self) -> str:
        return {
            "level": "level line",
            "upright": "upright line",
            "square": "square to each other",
            "parallel": "parallel lines",
            "equal": "equal lines" if self.spans else "equal radii",
            "round": "a circle",
            "oval": "an ellipse",
            "concentric": "one centre",
            "tangent": "smooth arc",
            "symmetrical": "symmetrical",
            "base": "one base line",
            "top": "one top line",
            "stem": "stems of one width",
            "gap": "equal gaps",
        }[self.kind]
