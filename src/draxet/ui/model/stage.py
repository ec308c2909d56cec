"""The stages of the work: a row each."""

from __future__ import annotations

from enum import IntEnum

__all__ = ["Stage"]


class Stage(IntEnum):
    """The stages in the order of the work. Another one is a row here, a folder with its tools, and
    what signs it off (``ui/shell/signoffs.py``).

    Each has its number; the folder under ``ui/stages`` whose ``…_tools`` module lists its tools;
    the menu in which these stand; how strongly pictures are seen in it at first; the tool that is
    taken as it opens, where one is; and what the canvas shows in it beside contours and pictures.
    """

    folder: str
    menu: str
    strength: float
    first: str
    shown: frozenset[str]

    def __new__(
        cls, number: int, folder: str, menu: str, strength: float, first: str, *shown: str
    ) -> Stage:
        made = int.__new__(cls, number)
        made._value_, made.folder, made.menu = number, folder, menu
        made.strength, made.first, made.shown = strength, first, frozenset(shown)
        return made

    GATHER = 1, "gather", "Picture", 1.0, ""
    TRUE_UP = 2, "trueup", "Picture", 1.0, "known-length", "measurements"
    TRACE = 3, "trace", "Contour", 0.55, "edges", "inks", "bridges"
    MEND = 4, "mend", "Contour", 0.22, "pick", "inks", "bridges"
    MAKE = 5, "make", "Make", 0.0, "cut", "work", "bridges"
    PROVE = 6, "prove", "Make", 0.0, "hand-off", "work", "bridges"

    @classmethod
    def numbered(cls, number: int) -> Stage:
        """The one with a number, from 1."""
        return list(cls)[number - 1]

    @property
    def words(self) -> str:
        return self.name.replace("_", " ").capitalize()

    def shows(self, what: str) -> bool:
        """Whether the canvas shows that in it: ``measurements``, ``inks``, ``bridges`` or the
        ``work``."""
        return not what or what in self.shown
