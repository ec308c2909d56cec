"""Libraries that take long to load are loaded when first used, so that the window stands at once.

Modules import them at their top as usual; what they get until then is a stand-in that loads itself.
"""

from __future__ import annotations

import importlib.util
import sys

__all__ = ["load_when_used"]

_SLOW = ("cv2", "shapely")


def load_when_used() -> None:
    """Put stand-ins in the place of the slow libraries; to be called before anything imports them."""
    for name in _SLOW:
        spec = importlib.util.find_spec(name) if name not in sys.modules else None
        if spec is None or spec.loader is None:
            continue
        spec.loader = importlib.util.LazyLoader(spec.loader)
        module = importlib.util.module_from_spec(spec)
        sys.modules[name] = module
        spec.loader.exec_module(module)
