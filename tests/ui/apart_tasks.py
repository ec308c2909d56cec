"""What tests have done in a process apart."""

from __future__ import annotations

import os
import time

from draxet.progress import Progress


def counted(report: Progress, values: tuple[int, ...], word: str) -> tuple[int, ...]:
    report(0.5, word)
    return (*values, len(values))


def for_ever(report: Progress) -> None:
    """Within a library that asks nobody."""
    time.sleep(10_000)


def until_told(report: Progress) -> None:
    while True:
        report(0.1, "on and on")
        time.sleep(0.005)


def too_much(report: Progress) -> int:
    return len(bytearray(20 << 30))


def failing(report: Progress) -> None:
    raise ValueError("as it was meant to")


def crashing(report: Progress) -> None:
    os.abort()


def its_process(report: Progress) -> int:
    return os.getpid()
