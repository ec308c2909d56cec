"""Commands as data: one table from which menus, the route card, context menus and the list of keys
are made."""

from __future__ import annotations

from collections.abc import Callable

from draxet.record import record
from draxet.ui.model.stage import Stage

__all__ = ["Command", "TOOL_KEYS"]

TOOL_KEYS = ("Q", "W", "E", "R", "T", "A", "S", "D", "F", "G", "Z", "X", "C", "V", "B")


@record(frozen=True)
class Command:
    """Something that can be done.

    id : stable name; words : as shown; run : does it; menu : the menu it stands in (empty for
    none).
    key : its key, or for a stage's tool the key of its place; stage : the stage whose tool it is,
    or None.
    why_not : a sentence where it cannot run now, else empty; checked : for a switch, whether it is
    on; of : the tool on the card that stands for it and its like.
    """

    id: str
    words: str
    run: Callable[[], object]
    menu: str = ""
    key: str = ""
    icon: str = ""
    stage: Stage | None = None
    why_not: Callable[[], str] = lambda: ""
    checked: Callable[[], bool] | None = None
    separated: bool = False
    of: str = ""
