"""Shapes made ready to be asked often."""

from __future__ import annotations

from typing import Any

import shapely

__all__ = ["prepared"]


def prepared(shapes: Any) -> Any:
    """Copies of shapes (n,) that are ready to be asked often; nothing of none.

    What is prepared works out its index when it is first asked, and holds no lock meanwhile: where two
    threads ask the same one at once, memory is spoilt. So nothing that others may hold is prepared
    itself.
    """
    found: Any = shapely.from_wkb(shapely.to_wkb(shapes))
    shapely.prepare(found)
    return found
