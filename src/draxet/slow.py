"""Libraries that take long to load are loaded when first used, so that the window stands at once.

Modules import them at their top as usual; what they get until then is a stand-in that fills itself
when it is asked for anything. So nothing that a window without a job needs may use them, nor may a
module where it is loaded.
"""

from __future__ import annotations

import importlib
import sys
from types import ModuleType
from typing import Any

__all__ = ["is_loaded", "load_when_used"]

_SLOW = ("numpy", "scipy", "cv2", "shapely", "inspect")
_ON_NUMPY = ("scipy", "cv2", "shapely")
_OF_THE_LOADER = ("__spec__", "__loader__", "__file__", "__warningregistry__")


class _StandIn(ModuleType):
    def __getattr__(self, name: str) -> Any:
        if name in _OF_THE_LOADER:
            raise AttributeError(name)
        if self.__name__ in _ON_NUMPY:
            _real(
                "numpy"
            )  # they are built on it, and look for its parts without asking for it first
        return getattr(_real(self.__name__, self), name)


def _real(name: str, stand_in: ModuleType | None = None) -> ModuleType:
    """The library itself, loaded now where it was not; a stand-in takes over all that it has."""
    held = stand_in or sys.modules.get(name)
    if isinstance(held, _StandIn) and sys.modules.get(name) is held:
        del sys.modules[name]
    real = importlib.import_module(name)
    if isinstance(held, _StandIn):
        held.__dict__.update(real.__dict__)
    return real


def load_when_used() -> None:
    """Put stand-ins in the place of the slow libraries; to be called before anything imports
    them."""
    for name in _SLOW:
        if name not in sys.modules:
            sys.modules[name] = _StandIn(name)


def is_loaded(name: str) -> bool:
    """Whether a library was loaded, not only its stand-in."""
    return name in sys.modules and not isinstance(sys.modules[name], _StandIn)
