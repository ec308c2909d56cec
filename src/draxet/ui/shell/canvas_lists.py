"""The canvas's contours, nodes in hand and findings, as a reader of the screen goes through them."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from draxet.job.contour_records import ContourItem
from draxet.job.findings import Finding, Gravity
from draxet.ui.canvas.reader import announce, is_read
from draxet.ui.canvas.said_list import Box, SaidList
from draxet.ui.canvas.viewed_canvas import ViewedCanvas
from draxet.ui.model.session import Session
from draxet.ui.model.tool import NodeInHand
from draxet.ui.shell.canvas_words import words_of_contour, words_of_node
from draxet.ui.stages.findings_list import jump_to, words_of_finding

__all__ = ["CanvasLists"]

_MOST_NODES = 5000
"""Of more nodes than these those in hand alone are told."""


class CanvasLists:
    """Made when somebody listens for the first time, and kept in step from then on."""

    def __init__(self, session: Session, canvas: ViewedCanvas) -> None:
        self._session, self._canvas = session, canvas
        self.lists: tuple[SaidList, ...] = ()
        self._stops: frozenset[str] = frozenset()
        self._nodes: tuple[object, tuple[NodeInHand, ...]] = (None, ())

    def refresh(self) -> None:
        """Bring them up to date, where somebody listens."""
        if not is_read():
            return
        session = self._session
        if not self.lists:
            self.lists = self._made()
        contours, nodes, findings = self.lists
        items, ids = session.selection.pickable, session.selection.ids
        contours.show_things(
            items, ids, lambda: [k for k, item in enumerate(items) if item.id in ids]
        )
        held = session.tool.nodes_in_hand() if session.tool else frozenset()
        there = self._nodes_there(held)
        nodes.show_things(there, held, lambda: [k for k, node in enumerate(there) if node in held])
        findings.show_things(session.looked.findings, None, list)
        self._tell_of(session.looked.findings)
        for each in self.lists:
            each.setVisible(bool(each.things))

    def _tell_of(self, findings: tuple[Finding, ...]) -> None:
        """Say what stops the work and did not before, and when nothing does any more."""
        stops = {found.kind: found for found in findings if found.gravity is Gravity.STOPS}
        new = [found for kind, found in stops.items() if kind not in self._stops]
        if new:
            announce(self._canvas, ". ".join(map(words_of_finding, new)))
        elif self._stops and not stops:
            announce(self._canvas, "Nothing stops the work any more")
        self._stops = frozenset(stops)

    def _made(self) -> tuple[SaidList, SaidList, SaidList]:
        session, canvas = self._session, self._canvas
        return (
            SaidList(
                canvas,
                "Contours",
                lambda item: words_of_contour(session, item),
                lambda item: item.contour.box,
                self._choose,
            ),
            SaidList(
                canvas,
                "Nodes of what is chosen",
                lambda node: words_of_node(session, node),
                self._box_of_node,
                self._hold,
            ),
            SaidList(
                canvas,
                "Findings",
                words_of_finding,
                self._box_of_finding,
                self._go_to,
            ),
        )

    def _nodes_there(self, held: frozenset[NodeInHand]) -> tuple[NodeInHand, ...]:
        """Those of all that is chosen, where a tool has nodes in hand."""
        items = self._session.selection.items
        if not held:
            return ()
        if self._nodes[0] is not items or not set(held) <= set(self._nodes[1]):
            many = sum(len(item.contour.nodes) for item in items) > _MOST_NODES
            there = () if many else _all_nodes(items)
            self._nodes = items, tuple(dict.fromkeys((*there, *sorted(held))))
        return self._nodes[1]

    def _box_of_node(self, node: NodeInHand) -> Box:
        item = self._session.layout.contour_by_id.get(node[0])
        if item is None or node[1] >= len(item.contour.nodes):
            return 0.0, 0.0, 0.0, 0.0
        x, y = item.contour.nodes[node[1]].tolist()
        return x, y, x, y

    def _choose(self, items: list[ContourItem]) -> None:
        """What is gone since the list was read is left out."""
        by_id = self._session.layout.contour_by_id
        self._session.selection.choose({item.id for item in items if item.id in by_id})

    def _hold(self, nodes: list[NodeInHand]) -> None:
        by_id = self._session.layout.contour_by_id
        there = {(c, n) for c, n in nodes if c in by_id and n < len(by_id[c].contour.nodes)}
        if self._session.tool is not None:
            self._session.tool.hold_nodes(frozenset(there))

    def _box_of_finding(self, found: Finding) -> Box:
        if found.places:
            places = np.array(found.places)
            (x0, y0), (x1, y1) = places.min(axis=0).tolist(), places.max(axis=0).tolist()
            return x0, y0, x1, y1
        by_id = self._session.layout.contour_by_id
        boxes = np.array([by_id[one].contour.box for one in found.ids if one in by_id])
        if not len(boxes):
            return self._session.job.sheet.box
        (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
        return x0, y0, x1, y1

    def _go_to(self, findings: list[Finding]) -> None:
        for found in findings[-1:]:
            jump_to(self._session, found)


def _all_nodes(items: Iterable[ContourItem]) -> tuple[NodeInHand, ...]:
    return tuple((item.id, k) for item in items for k in range(len(item.contour.nodes)))
