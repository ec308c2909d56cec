"""What was found by looking at the job as a whole."""

from __future__ import annotations

from draxet.job.findings import Finding
from draxet.job.product import Product
from draxet.job.work import CutWork
from draxet.record import record

__all__ = ["Looked"]


@record(frozen=True)
class Looked:
    """What is worked out from the whole job: its findings, the gravest first, what is cut, and the
    what is made of each sheet."""

    findings: tuple[Finding, ...] = ()
    work: tuple[CutWork, ...] = ()
    products: tuple[Product, ...] = ()
