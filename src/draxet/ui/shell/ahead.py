"""What the stages need is loaded while nobody waits for it, so that the first key into a stage is
answered as soon as the later ones."""

from __future__ import annotations

import importlib
import pkgutil
import time

from PyQt6.QtCore import QTimer

import draxet.ui.stages
from draxet.progress import Progress
from draxet.ui.model.workers import Workers

__all__ = ["load_ahead"]

_LANE = "ahead"
_AFTER_MS = 1500
_REST_S = 0.005
"""Between two modules, for the window's thread."""
_LIBRARIES = ("scipy.sparse.csgraph", "scipy.spatial", "scipy.optimize", "shapely")
"""What the tools' modules load when they first use it."""


def load_ahead(workers: Workers) -> None:
    """Have all tools and slips loaded by a worker, some time after the window stands."""
    after = QTimer(workers)
    after.setSingleShot(True)
    after.timeout.connect(
        lambda: workers.run(_LANE, _load, lambda done: None, lambda error: None, of_job=False)
    )
    after.start(_AFTER_MS)


def _load(report: Progress) -> None:
    for module in pkgutil.walk_packages(draxet.ui.stages.__path__, "draxet.ui.stages."):
        report(0.0, module.name)
        importlib.import_module(module.name)
        time.sleep(_REST_S)
    for name in _LIBRARIES:
        report(0.0, name)
        importlib.import_module(name)
        time.sleep(_REST_S)
    from draxet.lettering.faces import shipped_faces  # loaded above

    shipped_faces()
