"""Drawings as the commands take them."""

from __future__ import annotations

from pathlib import Path

from draxet.files import reason
from draxet.formats.drawing import Drawing
from draxet.formats.layer import FormatError
from draxet.gather.drawings import read_drawing

__all__ = ["drawing_at"]


def drawing_at(path: Path) -> Drawing:
    """The drawing in a file; ValueError with one sentence where it cannot be read."""
    try:
        return read_drawing(path.read_bytes(), path.name)
    except FormatError as error:
        raise ValueError(str(error)) from error
    except OSError as error:
        raise ValueError(f"{path} could not be read: {reason(error)}") from error
