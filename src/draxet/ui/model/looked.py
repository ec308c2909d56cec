"""What was found by looking at the job as a whole."""

from __future__ import annotations

from draxet.job.findings import Finding
from draxet.job.program import Program
from draxet.job.work import CutWork
from draxet.record import record

__all__ = ["Looked"]


@record(frozen=True)
class Looked:
    """What is worked out from the whole job: its findings, the gravest first, what is cut, and the
    program of each sheet."""

    findings: tuple[Finding, ...] = ()
    work: tuple[CutWork, ...] = ()
    programs: tuple[Program, ...] = ()
