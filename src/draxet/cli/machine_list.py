"""``draxet machines``: the machines that ship, one a line."""

from __future__ import annotations

import argparse
from typing import Any

from draxet.job.machine import MACHINES

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
        print(f"{machine.id} {machine.kind} {machine.reach_x:g}x{machine.reach_y:g}mm")
    return 0
