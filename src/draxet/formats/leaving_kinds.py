"""The kinds of file in which contours leave."""

from __future__ import annotations

from pathlib import Path

from draxet.formats.dxf import DXF
from draxet.formats.layer import Format, FormatError
from draxet.formats.svg import SVG

__all__ = ["FORMATS", "format_of"]

FORMATS = (DXF, SVG)


def format_of(path: Path) -> Format:
    """The kind of file that a path's ending names.

    Raises
    ------
    FormatError : where it is none of them.
    """
    for each in FORMATS:
        if path.suffix.lower() == f".{each.ending}":
            return each
    raise FormatError(
        f"the file name must end in {' or '.join(f'.{each.ending}' for each in FORMATS)}, got {path.name!r}"
    )
