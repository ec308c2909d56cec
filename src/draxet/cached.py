"""What an object works out once and keeps.

As ``functools.cached_property``, which in Python 3.11 lets one thread alone work out a property, of
whichever object: a worker that goes through thousands of contours would hold up the window for
each. Without that lock two threads may work out the same thing, which is as right.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__all__ = ["cached_property"]

if TYPE_CHECKING:
    from functools import cached_property
else:

    class cached_property:  # noqa: N801
        """To be used in its place."""

        def __init__(self, work: Any) -> None:
            self.work, self.__doc__ = work, work.__doc__

        def __set_name__(self, owner: type, name: str) -> None:
            self.name = name

        def __get__(self, one: Any, owner: type | None = None) -> Any:
            if one is None:
                return self
            found = one.__dict__[self.name] = self.work(one)
            return found
