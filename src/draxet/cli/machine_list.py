"""``draxet machines``: the machines that ship, one a line."""

from __future__ import annotations

import argparse
from typing import Any

from draxet.job.machine_kinds import MACHINES

__all__ = ["add_machines", "run_machines"]


def add_machines(commands: Any) -> None:
    """Add the command to a parser's commands."""
    commands.add_parser(
        "machines",
        help="the machines there are, one a line",
        description="A name without spaces, the kind, the reach.",
    )


def run_machines(options: argparse.Namespace) -> int:
    """Print the machines that ship."""
    for machine in MACHINES:
        reach = machine.reach
        x0, y0, x1, y1 = reach.box if reach else (0, 0, 0, 0)
        far = f"{x1 - x0:g}x{y1 - y0:g}mm" if reach else "anywhere"
        print(f"{machine.id} {machine.kind} {far}")
    return 0
