"""The stages of the work."""

from __future__ import annotations

from enum import IntEnum

__all__ = ["Stage"]


class Stage(IntEnum):
    """The stages in the order of the work."""

    GATHER = 1
    TRUE_UP = 2
    TRACE = 3
    MEND = 4
    MAKE = 5
    PROVE = 6

    @property
    def words(self) -> str:
        return self.name.replace("_", " ").capitalize()
