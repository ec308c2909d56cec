"""What a kind of machine is: a record, which is all that the rest of the program asks of it."""

from __future__ import annotations

from draxet.record import record

__all__ = ["RUN_FIELDS", "RUN_SETTINGS", "MachineKind"]

RUN_SETTINGS = frozenset(
    {"feed", "passes", "air", "tabs", "tab", "lead", "lead_shape", "overrun", "direction"}
)
"""Settings of operations that count wherever a program runs."""
RUN_FIELDS = frozenset(
    {
        "reach_x",
        "reach_y",
        "speeds",
        "most_feed",
        "travel",
        "acceleration",
        "least_step",
        "most_moves",
        "safe_height",
        "arcs",
        "dialect",
        "outline",
        "keep_clear",
    }
)
"""Fields of whatever runs a program."""


@record(frozen=True)
class MachineKind:
    """A kind of machine.

    Parameters
    ----------
    key : its name, in files and where it is chosen.
    works : the kinds of operation that it can do.
    settings : of the settings of operations that count on some kinds alone, those that count here.
    fields : of the fields of machines that some kinds alone have, those that it has.
    checks : what the person beside it sees to before it runs; ``{zero}`` is what heights count from.
    at_work : how one says that it is in the material, or on.
    lowers : whether its tool turns, and goes down to a depth.
    has_power : whether its program says how strong it works.
    goes_through : whether whatever it works is parted through the whole sheet.
    draws : whether it leaves lines, and takes nothing away.
    plots : whether it speaks the language of plotters too.
    led_by_hand : whether it runs no program, but goes by a pattern.
    """

    key: str
    works: tuple[str, ...]
    settings: frozenset[str]
    fields: frozenset[str]
    checks: tuple[str, ...]
    at_work: str = "beam on"
    lowers: bool = False
    has_power: bool = False
    goes_through: bool = False
    draws: bool = False
    plots: bool = False
    led_by_hand: bool = False
