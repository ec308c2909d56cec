"""Programs in the open language of pen plotters: pen up and down, to places in steps of 0.025
mm."""

from __future__ import annotations

import numpy as np

from draxet.job.program import Program

__all__ = ["plotter_text"]

_STEP = 0.025


def plotter_text(program: Program) -> str:
    """A program as text; only straight moves, as a pen's programs have."""
    lines = ["IN;"]
    pens = {event.at: int(event.value) for event in program.events if event.what == "pen"}
    stops = {event.at for event in program.events if event.what == "stop"}
    feed = -1.0
    motors = program.machine.to_motors(program.to).tolist()
    for k, (to, work) in enumerate(zip(motors, program.work.tolist(), strict=True)):
        if k in stops:
            lines.append("PU;NR;")
        if k in pens:
            lines.append(f"PU;SP{pens[k]};")
        if work and program.feed[k] != feed:
            feed = float(program.feed[k])
            lines.append(f"VS{feed / 600:g};")
        lines.append(f"{'PD' if work else 'PU'}{round(to[0] / _STEP)},{round(to[1] / _STEP)};")
    x, y = program.machine.to_motors(np.zeros((1, 2)))[0].tolist()
    lines.append(f"PU{round(x / _STEP)},{round(y / _STEP)};")
    return "\n".join([*lines, "SP0;"]) + "\n"
