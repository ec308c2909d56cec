"""What is left of the material once every cut has run: its pieces, which of them drop out, and
where they hang by a thread."""

from __future__ import annotations

from draxet.geometry.arrays import Points
from draxet.record import record

__all__ = ["Fallout", "Piece", "Wall"]


@record(frozen=True, eq=False)
class Piece:
    """What hangs together. rings : its outline and its holes, (n, 2) each; area in mm²; place : one
    inside it; falls : whether it drops out,
    wanted : whether that is meant; depth : how many closed contours it lies in; threads : places at
    which it would part if it were narrowed; walls : where too little is left between two of its
    edges."""

    rings: tuple[Points, ...]
    area: float
    place: tuple[float, float]
    falls: bool
    wanted: bool = False
    depth: int = 0
    threads: tuple[tuple[float, float], ...] = ()
    walls: tuple[Wall, ...] = ()


@record(frozen=True)
class Wall:
    """The middle of what is left between two edges, and its width in mm."""

    x: float
    y: float
    left: float


@record(frozen=True, eq=False)
class Fallout:
    """All pieces, the largest first."""

    pieces: tuple[Piece, ...]

    @property
    def islands(self) -> list[Piece]:
        """Those that fall though they are no waste: what stands inside an opening and goes with
        it."""
        return [piece for piece in self.unwanted if piece.depth >= 3 and piece.depth % 2]

    @property
    def unwanted(self) -> list[Piece]:
        return [piece for piece in self.pieces if piece.falls and not piece.wanted]
