"""What an operation comes to on a machine."""

from __future__ import annotations

from typing import Protocol

from draxet.job.machine_kinds import Machine

__all__ = ["LINES", "Product"]

LINES = "lines"
"""The product of machines that run a program."""


class Product(Protocol):
    """What a machine makes of all that it works on a side of a sheet. What is wrong with one, how it
    is painted, and which files it leaves in, stand under its `product` in ``RUN_LOOKS``
    (``prove/run.py``), ``PRODUCT_PATHS`` (``ui/canvas/programs.py``) and with each kind of file."""

    @property
    def product(self) -> str:
        """Which one it is."""

    @property
    def machine(self) -> Machine:
        """On which it is made."""

    def __len__(self) -> int:
        """Of how many moves it consists; 0 where nothing is worked."""

    @property
    def box(self) -> tuple[float, float, float, float]:
        """What is worked: least x, least y, greatest x, greatest y in mm, from the sheet's origin."""

    @property
    def cut_mm(self) -> float:
        """How long the work is."""

    @property
    def travel_mm(self) -> float:
        """How long the ways are on which nothing is worked."""

    @property
    def seconds(self) -> float:
        """How long it takes."""

    @property
    def told(self) -> str:
        """What else there is to tell of it in a few words; empty for nothing."""
