"""A painter's state, kept for a while."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PyQt6.QtGui import QPainter

__all__ = ["saved"]


@contextmanager
def saved(painter: QPainter) -> Iterator[None]:
    """Whatever is set within is as it was afterwards, also where painting in steps is given up in
    their midst."""
    painter.save()
    try:
        yield
    finally:
        painter.restore()
