"""Libraries that take long to load are loaded when first used, so that the window stands at once.

Modules import them at their top as usual; what they get until then is a stand-in that fills itself when it is asked for
anything.
"""

from __future__ import annotations

import importlib
import sys
from types import ModuleType
from typing import Any

__all__ = ["load_when_used"]

_SLOW = ("cv2", "shapely")


class _StandIn(ModuleType):
    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):
            raise AttributeError(name)
        if sys.modules.get(self.__name__) is self:
            del sys.modules[self.__name__]
        real = importlib.import_module(self.__name__)
        self.__dict__.update(real.__dict__)
        return getattr(real, name)


def load_when_used() -> None:
    """Put stand-ins in the place of the slow libraries; to be called before anything imports them."""
    for name in _SLOW:
        if name not in sys.modules:
            sys.modules[name] = _StandIn(name)
