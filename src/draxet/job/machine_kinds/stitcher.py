"""The stitcher: a needle over a hoop of cloth."""

from __future__ import annotations

from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.geometry.shapes import ellipse
from draxet.job.asked import Asked
from draxet.job.machine_kinds.machine_kind import Machine, MachineKind
from draxet.job.ranges import Coordinate, Size, Within
from draxet.record import record

__all__ = ["BENCH_STITCHER", "Stitcher"]


@record(frozen=True)
class Stitcher(Machine):
    """A stitcher. hoop_x, hoop_y : what its needle reaches in the hoop, in mm, whose lower left lies
    at_x, at_y from the sheet's; an ellipse where it is round. needles : so many threads it changes by
    itself, trims_itself : as it may cut them. a_minute : stitches. longest, shortest : stitch in mm;
    densest : needle points within 1 mm² that cloth stands; trim, change : seconds that a trim and another thread take."""

    cut_width: Annotated[Size, Asked("Thread is broad", "mm")] = 0.4
    hoop_x: Annotated[Size, Asked("Hoop, right", "mm")] = 180.0
    hoop_y: Annotated[Size, Asked("Hoop, up", "mm")] = 130.0
    is_round: Annotated[bool, Asked("Round hoop")] = False
    a_minute: Annotated[float, Within(50.0, 5000.0), Asked("Stitches a minute")] = 700.0
    longest: Annotated[float, Within(1.0, 12.7), Asked("Longest stitch", "mm")] = 7.0
    shortest: Annotated[float, Within(0.1, 5.0), Asked("Shortest stitch", "mm")] = 0.3
    densest: Annotated[
        float,
        Within(1.0, 200.0),
        Asked("Points in 1 mm²", tip="more needle points than that cut the cloth"),
    ] = 20.0
    needles: Annotated[
        int,
        Within(1, 100),
        Asked("Needles", tip="so many threads are changed without anybody's hand"),
    ] = 1
    trims_itself: Annotated[bool, Asked("Trims by itself")] = True
    at_x: Annotated[Coordinate, Asked("Hoop from the left", "mm")] = 0.0
    at_y: Annotated[Coordinate, Asked("Hoop from below", "mm")] = 0.0
    trim: Annotated[float, Within(0.0, 600.0), Asked("A trim takes", "s")] = 6.0
    change: Annotated[float, Within(0.0, 600.0), Asked("Another thread takes", "s")] = 15.0

    most_feed = 60_000.0
    travel = 20_000.0
    acceleration = 1e7
    """How fast its hoop goes, in mm a minute and mm/s²; a stitch takes as long as any."""

    traits = MachineKind(
        "stitcher",
        works=("Stitch",),
        settings=frozenset(
            {
                "pull",
                "underlay",
                "length",
                "line_stitch",
                "times",
                "overlap",
                "takes",
                "satin",
                "border",
                "mitred",
                "corners",
            }
        ),
        checks=(
            "Cloth tight in the hoop, with backing beneath it",
            "First thread through the needle, bobbin full",
            "Hoop clear of everything, its middle where the file has it",
            "Threads beside it in the order of the list",
        ),
        at_work="needle down",
        draws=True,
        product="stitches",
        line="thread",
        least_lines=2.5,
    )

    @property
    def reach(self) -> Contour | None:
        x, y, width, height = self.at_x, self.at_y, self.hoop_x, self.hoop_y
        if self.is_round:
            return ellipse(x + width / 2, y + height / 2, width / 2, height / 2)
        return Contour.make([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])


BENCH_STITCHER = Stitcher("bench-stitcher", "Bench stitcher", cut_width=0.4)
