"""The layer printer: it lays down one layer of a molten thread after the other."""

from __future__ import annotations

from typing import Annotated

from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.machine_kinds.machine_kind import Machine, MachineKind
from draxet.job.ranges import Size, Within
from draxet.record import record

__all__ = ["LAYER_PRINTER", "Printer"]


@record(frozen=True)
class Printer(Machine):
    """A layer printer. box_x, box_y, box_z : what it has room for, in mm. layer : how thick one is.
    flow : mm³ that it lays down a second."""

    box_x: Annotated[Size, Asked("Room, right", "mm")] = 220.0
    box_y: Annotated[Size, Asked("Room, back", "mm")] = 220.0
    box_z: Annotated[Size, Asked("Room, up", "mm")] = 250.0
    layer: Annotated[Size, Asked("Layer thick", "mm")] = 0.2
    flow: Annotated[
        float,
        Within(0.01, 1e4),
        Asked("Lays down", " mm³/s", tip="what it needs for a body of one piece, filled"),
    ] = 8.0

    most_feed = 12_000.0
    travel = 12_000.0
    acceleration = 2_000.0

    traits = MachineKind(
        "printer",
        works=("Raise", "Turn"),
        settings=frozenset({"takes"}),
        checks=(
            "Bed clean and level, the first layer sticks",
            "Thread dry, and enough of it on the spool",
            "Body in the middle of the bed, underside down",
        ),
        at_work="laying down",
        draws=True,
        product="bodies",
        unplayed="What it runs is made of the body by its own program: hand off the body",
        made="Raised",
        line="outline",
        least_lines=0.4,
    )

    @property
    def reach(self) -> Contour | None:
        """What lies on a sheet may be larger: bodies are moved onto the bed."""
        return None


LAYER_PRINTER = Printer("layer-printer", "Layer printer", cut_width=0.4)
