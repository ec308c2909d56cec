"""Which nodes and spans are chosen."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from draxet.geometry.contour import Contour
from draxet.geometry.crossing_places import nearest_on
from draxet.mend.without_nodes import NodesGone
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer
from draxet.ui.stages.picking import PickTool

__all__ = ["Node", "NodeChoice"]

_PROBES = np.linspace(0, 1, 33)
Node = tuple[str, int]


class NodeChoice(PickTool):
    """A tool that knows which nodes of contours are meant."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.nodes: frozenset[Node] = frozenset()
        self._without: tuple[tuple[object, frozenset[Node]], dict[str, NodesGone | None]] | None = (
            None
        )
        self._pointer: Pointer | None = None

    @property
    def _holds(self) -> bool:
        """Whether something is being dragged."""
        return False

    def _span_near(self, contour_id: str, at: Pointer) -> tuple[int, float]:
        spans = self._session.layout.contour_by_id[contour_id].contour.spans
        which = np.repeat(np.arange(len(spans)), len(_PROBES))
        away = np.hypot(*(spans.at(which, np.tile(_PROBES, len(spans))) - (at.x, at.y)).T)
        best = int(away.argmin())
        t, _ = nearest_on(
            spans,
            which[best : best + 1],
            np.array([[at.x, at.y]]),
            np.array([_PROBES[best % len(_PROBES)]]),
        )
        return int(which[best]), float(t[0])

    def _with_nodes(self, change: Callable[[Contour, int], Contour]) -> dict[str, Contour]:
        """The contours with each chosen node changed."""
        found: dict[str, Contour] = {}
        for contour_id, node in sorted(self.nodes):
            item = self._session.layout.contour_by_id.get(contour_id)
            if item is not None and node < len(item.contour.nodes):
                found[contour_id] = change(found.get(contour_id, item.contour), node)
        return found

    def _choose_nodes(self, inside: set[Node], adds: bool) -> bool:
        """Choose nodes, where they are some but not all of a chosen contour's; whether they are."""
        by_id = self._session.layout.contour_by_id
        some = any(
            sum(c == name for c, _ in inside) < len(by_id[name].contour.nodes)
            for name in {c for c, _ in inside}
        )
        self.nodes = (self.nodes ^ inside if adds else frozenset(inside)) if some else frozenset()
        return some

    def spans_between(self) -> dict[str, list[int]]:
        """Spans both of whose nodes are chosen, by contour."""
        found: dict[str, list[int]] = {}
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            item = self._session.layout.contour_by_id.get(contour_id)
            nodes = {n for c, n in self.nodes if c == contour_id}
            if item is not None:
                found[contour_id] = [
                    k
                    for k in range(len(item.contour.kinds))
                    if k in nodes and (k + 1) % len(item.contour.nodes) in nodes
                ]
        return found

    def _spans_meant(self) -> dict[str, list[int]]:
        meant: dict[str, list[int]] = {}
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            contour = self._session.layout.contour_by_id[contour_id].contour
            nodes, count = {n for c, n in self.nodes if c == contour_id}, len(contour.kinds)
            between = self.spans_between()[contour_id]
            beside = [
                k for k in range(count) if k in nodes or (k + 1) % len(contour.nodes) in nodes
            ]
            meant[contour_id] = between or beside
        return meant

    def chosen_places(self) -> list[tuple[float, float]]:
        """Where the chosen nodes are."""
        by_id = self._session.layout.contour_by_id
        return [
            tuple(by_id[c].contour.nodes[n].tolist())
            for c, n in sorted(self.nodes)
            if c in by_id and n < len(by_id[c].contour.nodes)
        ]
