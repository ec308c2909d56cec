"""Nodes of chosen contours, and what is done to them: at a node, to the spans between, to the
contours that they belong to."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.nesting import nesting_depths
from draxet.geometry.pieces import begun_at
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.contour_edits import change_contours
from draxet.job.contour_moves import map_contours
from draxet.job.find import contour_at, node_at, numbers_touching
from draxet.job.findings import count_words
from draxet.job.layout import items_named
from draxet.mend.corners import chamfer_corners, relieve_corners, round_corners, tool_corners
from draxet.mend.ends import joined_ends, parted
from draxet.mend.nodes import (
    make_corners,
    make_kind,
    make_smooth,
    make_symmetrical,
    move_node,
    place_node,
    split_span,
    square_handles,
)
from draxet.mend.without_nodes import NodesGone, nodes_gone
from draxet.ui.model.tool import Pointer
from draxet.ui.stages.mend.node_choice import Node, NodeChoice
from draxet.ui.stages.picking import REACH, remove_chosen
from draxet.units import format_length

__all__ = ["ChosenNodes", "Node"]

_MOST_OFFERED = 200
"""Of more chosen nodes than that it is not said what removing them would do."""
_MOST_CHOSEN = 4000
_LETTERS = {
    "K": "corner",
    "M": "smooth",
    "Y": "symmetrical",
    "H": "square",
    "L": "line",
    "U": "curve",
    "O": "arc",
}
_AT_NODES = {
    "corner": make_corners,
    "smooth": make_smooth,
    "symmetrical": make_symmetrical,
    "square": square_handles,
}
_SAID = {"square": "lay handles level or upright"}
_KINDS = {"line": LINE, "curve": CUBIC, "arc": ARC}
_ACTS = {"N": "add_node", "P": "part", "J": "join", "I": "begin_here", "B": "choose_all"}


class ChosenNodes(NodeChoice):
    """The nodes that are chosen, by their contours' ids and their numbers."""

    def wants_key(self, key: str) -> bool:
        letter = key.upper()
        return not self._holds and (
            (bool(self.nodes) and letter in {*_LETTERS, "P", "I"})
            or (bool(self._session.selection.ids) and letter in ("N", "J", "B"))
        )

    def key(self, key: str) -> None:
        letter = key.upper()
        if letter in _ACTS:
            getattr(self, _ACTS[letter])()
        else:
            self.make(_LETTERS[key.upper()])

    def make(self, what: str) -> None:
        """Chosen nodes become ``corner``, ``smooth`` or ``symmetrical``, their handles ``square``
        to the sheet; the spans between them ``line``, ``arc`` or ``curve``, or both spans beside a
        node that is chosen alone."""
        if what in _KINDS:
            changed = {
                contour: make_kind(
                    self._session.layout.contour_by_id[contour].contour, spans, _KINDS[what]
                )
                for contour, spans in self._spans_meant().items()
            }
        else:
            changed = self._with_nodes(lambda contour, node: _AT_NODES[what](contour, [node]))
        if changed:
            said = _SAID.get(
                what, f"make nodes {what}" if what in _AT_NODES else f"make spans: {what}"
            )
            self._session.edit(said, change_contours(self._session.job, changed))
        self._session.tool_changed.emit()

    def part(self) -> None:
        """Contours are parted at the chosen nodes: a closed one opens there, of an open one two are
        made. The ends lie on each other and are moved one by one."""
        job, new = self._session.job, set[str]()
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            places = sorted({float(n) for c, n in self.nodes if c == contour_id})
            job, made = parted(job, contour_id, places)
            new |= set(made)
        self.nodes = frozenset()
        self._session.edit("part at nodes", job)
        self._session.selection.choose(new & self._session.layout.contour_by_id.keys())

    def join(self) -> None:
        """Chosen open contours become one by the ends that are nearest to each other; one alone is
        closed."""
        items = [item for item in self._session.selection.items if not item.contour.closed]
        if not items:
            self._session.messages.refused.emit(
                "Choose open contours to join: one is closed, several become one."
            )
            return
        job, made = joined_ends(self._session.job, [item.id for item in items])
        self.nodes = frozenset()
        self._session.edit("close a contour" if len(items) == 1 else "join contours", job)
        self._session.selection.choose({made})

    def choose_all(self) -> None:
        """All nodes of the chosen contours; where they are chosen already, none of them."""
        every = frozenset(
            (item.id, k)
            for item in self._session.selection.items
            for k in range(len(item.contour.nodes))
        )
        if len(every) > _MOST_CHOSEN:
            self._session.messages.refused.emit(
                f"All nodes of at most {_MOST_CHOSEN} can be chosen, these are {len(every)}; choose fewer contours, or box nodes."
            )
            return
        self.nodes = every if self.nodes != every else frozenset()
        self._session.tool_changed.emit()

    def begin_here(self) -> None:
        """Closed contours begin at a chosen node."""
        changed = {}
        for contour_id, node in sorted(self.nodes):
            contour = self._session.layout.contour_by_id[contour_id].contour
            if contour.closed:
                changed[contour_id] = begun_at(contour, float(node))
        self.nodes = frozenset()
        if changed:
            self._session.edit("choose the start", change_contours(self._session.job, changed))
        else:
            self._session.messages.refused.emit("Only a closed contour can begin elsewhere.")

    def reverse(self) -> None:
        """Chosen contours run the other way."""
        self.nodes = frozenset()
        self._session.edit_chosen(
            "run the other way",
            lambda job, ids: change_contours(
                job, {item.id: item.contour.reversed() for item in items_named(job, ids)}
            ),
        )

    def nudge(self, dx: float, dy: float) -> bool:
        """Chosen nodes, or else chosen contours, move by the typed step."""
        session = self._session
        if self._holds or not session.selection.ids:
            return False
        if self.nodes:
            job = change_contours(
                session.job,
                self._with_nodes(lambda contour, node: move_node(contour, node, dx, dy)),
            )
            session.edit("move nodes", job, session.desk.nudge_gesture)
            return True
        to = Affine.moved(dx, dy)
        session.edit_chosen(
            "move contours",
            lambda job, ids: map_contours(job, ids, to, by_hand=True),
            session.desk.nudge_gesture,
        )
        return True

    def add_node(self) -> None:
        """One more node where the pointer is nearest to a chosen contour."""
        at = self._pointer
        contour_id = (
            contour_at(self._session.selection.items, at.x, at.y, 4 * REACH * at.pixel)
            if at
            else None
        )
        if at is None or contour_id is None:
            self._session.messages.refused.emit(
                "Point at a chosen contour first: the node comes where the pointer is."
            )
            return
        span, t = self._span_near(contour_id, at)
        if 1e-6 < t < 1 - 1e-6:
            contour = split_span(self._session.layout.contour_by_id[contour_id].contour, span, t)
            self._session.edit(
                "add a node", change_contours(self._session.job, {contour_id: contour})
            )
            self.nodes = frozenset({(contour_id, span + 1)})
            self._session.tool_changed.emit()

    def menu(self, at: Pointer) -> list[tuple[str, str, Callable[[], object]]]:
        """For a node, or a span of a chosen contour."""
        self._pointer, chosen, reach = at, self._session.selection.items, REACH * at.pixel
        node = node_at(chosen, at.x, at.y, reach)
        if node is not None:
            self.nodes = self.nodes if node in self.nodes else frozenset({node})
            self._session.tool_changed.emit()
            made = [
                (words, key, partial(self.make, what))
                for words, key, what in (
                    ("Corner", "K", "corner"),
                    ("Smooth", "M", "smooth"),
                    ("Even handles", "Y", "symmetrical"),
                    ("Handles level or upright", "H", "square"),
                )
            ]
            return [
                *made,
                ("Part the contour here", "P", self.part),
                ("Begin the contour here", "I", self.begin_here),
                ("Remove, keeping the shape", "Del", self.remove),
            ]
        contour_id = contour_at(chosen, at.x, at.y, reach)
        if contour_id is None:
            return []
        span, _ = self._span_near(contour_id, at)
        count = len(self._session.layout.contour_by_id[contour_id].contour.nodes)
        kinds = [
            (words, key, partial(self._make_span, contour_id, {span, (span + 1) % count}, what))
            for words, key, what in (
                ("Straight", "L", "line"),
                ("Curve", "U", "curve"),
                ("Arc", "O", "arc"),
            )
        ]
        return [
            *kinds,
            ("New node here", "N", self.add_node),
            ("Choose all nodes", "B", self.choose_all),
            ("Join or close", "J", self.join),
            ("Run the other way", "", self.reverse),
            ("Remove the contour", "Del", partial(remove_chosen, self._session)),
        ]

    def _make_span(self, contour_id: str, nodes: set[int], what: str) -> None:
        self.nodes = frozenset((contour_id, node) for node in nodes)
        self.make(what)

    def place(self, x: float | None, y: float | None) -> None:
        """Put all chosen nodes to a typed x or y, in job space."""

        def put(contour: Contour, node: int) -> Contour:
            now = contour.nodes[node]
            return place_node(
                contour, node, float(now[0]) if x is None else x, float(now[1]) if y is None else y
            )

        changed = self._with_nodes(put)
        if changed:
            self._session.edit("place nodes by number", change_contours(self._session.job, changed))

    def cut_corners(self, size: float, way: str) -> None:
        """``round``, ``chamfer`` or ``relieve`` the chosen corners; where no node is chosen every
        corner of the chosen contours, or of those that are to be relieved the ones that a round
        tool cannot reach into."""
        by_id, meant = (
            self._session.layout.contour_by_id,
            sorted({contour for contour, _ in self.nodes}) or sorted(self._session.selection.ids),
        )
        cut = {"round": round_corners, "chamfer": chamfer_corners, "relieve": relieve_corners}[way]
        changed, refused = {}, 0
        for contour_id in meant:
            contour = by_id[contour_id].contour
            if self.nodes:
                nodes = [n for c, n in self.nodes if c == contour_id]
            else:
                nodes = (
                    tool_corners(contour, opening=self._is_opening(contour_id))
                    if way == "relieve"
                    else np.flatnonzero(contour.corners()).tolist()
                )
            found, left = cut(contour, nodes, size)
            refused += left
            if found is not contour:
                changed[contour_id] = found
        self.nodes = frozenset()
        if changed:
            self._session.edit(f"{way} corners", change_contours(self._session.job, changed))
        self._session.tool_changed.emit()
        if refused:
            self._session.messages.refused.emit(
                f"{count_words(refused, 'corner')} left as {'it was' if refused == 1 else 'they were'}: not between two lines, or no room on them."
            )
        elif not changed:
            self._session.messages.refused.emit("There is no such corner on what is chosen.")

    def _is_opening(self, contour_id: str) -> bool:
        """Whether it lies in another one, so that the tool works inside it."""
        items = self._session.layout.contours
        depths = nesting_depths([item.contour for item in items])
        return (
            int(depths[next(k for k, item in enumerate(items) if item.id == contour_id)]) % 2 == 1
        )

    def _without_chosen(self) -> dict[str, NodesGone | None]:
        """What contours would be without the chosen nodes; None where too few would be left."""
        items = self._session.selection.every
        if self._without is None or self._without[0] != (self._session.job, self.nodes):
            found = {}
            for contour_id in sorted({contour for contour, _ in self.nodes}):
                contour = self._session.layout.contour_by_id[contour_id].contour
                near = [
                    items[k].contour
                    for k in numbers_touching(items, contour.box)
                    if items[k].id != contour_id
                ]
                found[contour_id] = nodes_gone(
                    contour, [n for c, n in self.nodes if c == contour_id], near
                )
            self._without = (self._session.job, self.nodes), found
        return self._without[1]

    def removal_words(self) -> str:
        """What removing the chosen nodes would do; empty where that is not said."""
        by_id = self._session.layout.contour_by_id
        if (
            not self.nodes
            or len(self.nodes) > _MOST_OFFERED
            or any(c not in by_id or n >= len(by_id[c].contour.nodes) for c, n in self.nodes)
        ):
            return ""
        found = [each for each in self._without_chosen().values() if each]
        if not found:
            return ""
        off = format_length(max(each.off for each in found), self._session.job.unit, places=2)
        manner = max(each.manner for each in found)
        way = {
            "": "",
            "led on": ", with straight runs led on till they meet",
            "straight": ", with a straight run",
        }[manner]
        return f"removed, the contour lies up to {off} off{way}{' that crosses another line' * any(each.crosses for each in found)}"

    def remove(self) -> bool:
        """Chosen nodes are removed, the shape kept as well as can be."""
        if self._holds:
            self._session.messages.refused.emit("Let go of what is held first.")
            return True
        if not self.nodes:
            return False
        offered = self._without_chosen()
        changed = {contour_id: found.contour for contour_id, found in offered.items() if found}
        refused = sum(found is None for found in offered.values())
        self.nodes = frozenset()
        if changed:
            self._session.edit("remove nodes", change_contours(self._session.job, changed))
        self._session.tool_changed.emit()
        if refused:
            self._session.messages.refused.emit(
                "A contour needs two nodes at the least; remove the contour itself."
            )
        return True
