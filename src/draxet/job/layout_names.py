"""The ids of a layout: what a placement lays has the id of what is drawn, led by the placement's:
``placement-7/contour-3``."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["called", "drawn_ids", "drawn_name", "laid_name", "split_name"]

_MARK = "/"


def split_name(name: str) -> tuple[str, str]:
    """The placement that a layout's id begins with, and the id within its part; no placement for
    what lies there itself."""
    placement, mark, rest = name.partition(_MARK)
    return (placement, rest) if mark else ("", name)


def laid_name(placement: str, name: str) -> str:
    """The id in the layout of what a placement lays."""
    return f"{placement}{_MARK}{name}"


def drawn_name(name: str) -> str:
    """The id of what is drawn, of an id in the layout."""
    return name.rpartition(_MARK)[2]


def called(name: str) -> str:
    """What a contour of the layout is called where people read it: one that was a contour in a job
    of an earlier version as it was called then."""
    placement, _ = split_name(name)
    return name if not placement or placement.startswith("placement-") else placement


def drawn_ids(names: Iterable[str]) -> frozenset[str]:
    """The same of many."""
    return frozenset(map(drawn_name, names))
