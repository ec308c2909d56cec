"""Nodes, handles and spans of chosen contours are picked and dragged."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.catching import Caught
from draxet.geometry.contour import Contour
from draxet.geometry.spans import CUBIC
from draxet.job.contour_edits import change_contours
from draxet.job.find import contour_at, node_at, nodes_within
from draxet.job.findings import count_words
from draxet.mend.nodes import bend_span, move_handle, move_node, swell_span
from draxet.ui.model.session import Session
from draxet.ui.model.tool import (
    ContourMark,
    LineMark,
    Mark,
    NodeInHand,
    Pointer,
    Prompt,
    SignMark,
    StartMark,
)
from draxet.ui.stages.colour_menu import colour_under
from draxet.ui.stages.mend.node_choice import Node
from draxet.ui.stages.mend.whole_drag import Grip, WholeDrag
from draxet.ui.stages.picking import REACH

__all__ = ["ShapingTool"]

_MOST_NODES = 4000
_MOST_STARTS = 40


class ShapingTool(WholeDrag):
    """Drag a node, a handle or the span itself; choose nodes by a click or a box, and change all of
    them at once."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._hot: Node | None = None
        self.preview: Callable[[], tuple[Contour, ...]] = tuple
        """What is proposed for the chosen contours, to be drawn."""
        self._drops: Callable[[str], object] | None = None
        """What takes the colour of the picture where it is clicked next."""

    def drop_colour(self, take: Callable[[str], object]) -> None:
        """Let the next click in a picture say a colour."""
        self._drops = take
        self._session.tool_changed.emit()
        self._session.messages.canvas_asked.emit()

    def prompt(self) -> Prompt:
        if self._drops:
            return Prompt(
                f"{self.title}: click the colour in the picture.", keys=(("Esc", "none"),)
            )
        if self._grip:
            return self.held_prompt()
        if not self._session.job.contours:
            return super().prompt()
        if self.nodes:
            keys = (
                ("Del", "remove"),
                ("K", "corner"),
                ("M", "smooth"),
                ("L", "straight"),
                ("U", "curve"),
                ("O", "arc"),
                ("P", "part"),
            )
            return Prompt(
                f"{self.title}: {count_words(len(self.nodes), 'node')} chosen.",
                self.removal_words(),
                keys,
            )
        if self._session.selection.ids:
            return Prompt(
                f"{self.title}: drag a node, a handle or a span.",
                keys=(("Shift", "add"), ("N", "new node"), ("B", "all nodes"), ("Del", "remove")),
            )
        return Prompt(
            f"{self.title}: click or box contours, or drag one.",
            keys=(("Shift", "add"), ("Ctrl+A", "all")),
        )

    # --- what is held

    def press(self, at: Pointer) -> None:
        if self._drops:
            if colour := colour_under(self._session, at.x, at.y):
                take, self._drops = self._drops, None
                take(colour)
                self._session.tool_changed.emit()
            return
        self.let_go()
        super().press(at)
        self._pointer, self._grip = at, self._grip_at(at)
        if self._grip and self._grip.what == "box" and not self._may_hold(self._grip):
            self.let_go()
        if self._grip and self._grip.what == "node":
            node = (self._grip.contour, self._grip.number)
            if at.adds:
                self.nodes, self._grip = self.nodes ^ {node}, None
                self._from = None
            elif node not in self.nodes:
                self.nodes = frozenset({node})

    def _grip_at(self, at: Pointer) -> Grip | None:
        chosen, reach = self._session.selection.items, REACH * at.pixel
        if at.adds:  # what is nearest is meant, if it is another contour than a chosen one
            nearest = contour_at(self._session.selection.pickable, at.x, at.y, reach)
            if nearest is not None and nearest not in self._session.selection.ids:
                return None
        node = node_at(chosen, at.x, at.y, reach)
        if node:
            return Grip("node", *node, place=self._place_of(*node))
        for contour, span, end, x, y in self._handles():
            if abs(x - at.x) + abs(y - at.y) <= reach:
                return Grip("handle", contour, span, end)
        if grip := self._hold_of_box(at, rim=False):
            return grip
        contour_id = None if at.adds else contour_at(chosen, at.x, at.y, reach)
        if contour_id is None:
            if at.adds or self.lasso:
                return None
            return self._whole_at(at) or self._hold_of_box(at, rim=True)
        span, t = self._span_near(contour_id, at)
        return Grip("span", contour_id, span, 0, t)

    def _handles(self) -> list[tuple[str, int, int, float, float]]:
        """Handles beside chosen nodes: contour, span, end, and where each is."""
        found = []
        for contour_id, node in sorted(self.nodes):
            item = self._session.layout.contour_by_id.get(contour_id)
            if item is None or node >= len(item.contour.nodes):
                continue
            contour = self._moved.get(contour_id, item.contour)
            count = len(contour.kinds)
            for span, end in (
                (node if node < count else None, 0),
                ((node - 1) % count if contour.closed or node else None, 1),
            ):
                if span is not None and contour.kinds[span] == CUBIC:
                    x, y = contour.handles[span, end].tolist()
                    found.append((contour_id, span, end, x, y))
        return found

    def move(self, at: Pointer) -> None:
        super().move(at)
        self._pointer = at
        grip = self._grip
        if grip is None or self._from is None:
            free = self._from is None
            self._hot = (
                node_at(self._session.selection.items, at.x, at.y, REACH * at.pixel)
                if free
                else None
            )
            held = self._hold_of_box(at, rim=False) if free and not self._hot else None
            self._hot_hold = held.hold if held else None
            return
        if grip.what in ("whole", "box"):
            if grip.contour and grip.contour not in self._session.layout.contour_by_id:
                self.forget()
            else:
                self._drag_whole(grip, self._from, at)
            return
        item = self._session.layout.contour_by_id.get(grip.contour)
        if item is None or grip.number >= max(len(item.contour.nodes), len(item.contour.kinds)):
            self.forget()
            return
        dx, dy = self._dragged_by(grip, self._from, at)
        if grip.what == "node":
            self._moved = self._with_nodes(lambda contour, node: move_node(contour, node, dx, dy))
        elif grip.what == "handle":
            self._moved = {
                grip.contour: move_handle(
                    item.contour, grip.number, grip.end, dx, dy, alone=at.free
                )
            }
        else:
            self._moved = {
                grip.contour: (swell_span if at.free else bend_span)(
                    item.contour, grip.number, grip.t, dx, dy
                )
            }

    def release(self, at: Pointer) -> None:
        if self._moved and self._from is not None:
            self.move(at)  # as the keys are held now
        grip, begun, moved, to = self._grip, self._from, self._moved, self._goes
        self._caught = Caught(at.x, at.y)
        if grip is not None and grip.hold is not None and grip.hold.number and not moved:
            self._from, self._waits = None, True  # a handle that is clicked asks for its number
            self._session.tool_changed.emit()
            return
        if self.typed_fault():  # what was typed is no number: nothing is sized by a guess
            self._from, self._moved, self._waits = None, {}, True
            return
        if grip is None or begun is None or (grip.what in ("whole", "box") and not moved):
            self._grip = None
            super().release(at)
            return
        self.let_go()
        if grip.what in ("whole", "box"):
            if to is not None and (self._has_moved(begun, at) or to != Affine.moved(0, 0)):
                self._let_go_whole(grip, to, copy=at.edge)
        elif self._has_moved(begun, at) and moved:
            words = {
                "node": "move nodes" if len(self.nodes) > 1 else "move a node",
                "handle": "turn a handle",
                "span": "bend a span",
            }[grip.what]
            self._session.edit(words, change_contours(self._session.job, moved))
        elif grip.what == "span":
            self.take({grip.contour}, at.adds, alone=at.free)
            self.nodes = frozenset()
        self._session.tool_changed.emit()

    def boxed(self, a: Pointer, b: Pointer) -> None:
        """Contours that lie in the box; where none does, the nodes of chosen contours that do."""
        x0, x1, y0, y1 = min(a.x, b.x), max(a.x, b.x), min(a.y, b.y), max(a.y, b.y)
        inside = {
            (item.id, int(k))
            for item in self._session.selection.items
            for k in np.flatnonzero(
                (item.contour.nodes >= (x0, y0)).all(axis=1)
                & (item.contour.nodes <= (x1, y1)).all(axis=1)
            )
        }
        if not self._choose_nodes(inside, b.adds):
            super().boxed(a, b)

    def rounded(self, line: list[tuple[float, float]], at: Pointer) -> None:
        """Contours within the line; where none is, the nodes of chosen contours that are."""
        inside = (
            {
                (item.id, k)
                for item in self._session.selection.items
                for k in nodes_within(item.contour, line)
            }
            if len(line) > 2
            else set()
        )
        if not self._choose_nodes(inside, at.adds):
            super().rounded(line, at)

    def take(self, ids: set[str], adds: bool, *, alone: bool = False) -> None:
        self.nodes = frozenset()
        super().take(ids, adds, alone=alone)

    def forget(self) -> None:
        super().forget()
        by_id = self._session.layout.contour_by_id
        self.nodes = frozenset(
            (c, n) for c, n in self.nodes if c in by_id and n < len(by_id[c].contour.nodes)
        )
        self.let_go()
        self._hot = self._hot_hold = None

    def cancel(self) -> bool:
        if self._drops:
            self._drops = None
            self._session.tool_changed.emit()
            return True
        if self._grip is not None:
            self.let_go()
            self._session.tool_changed.emit()
            return True
        if self.nodes:
            self.nodes = frozenset()
            self._session.tool_changed.emit()
            return True
        return super().cancel()

    def nodes_in_hand(self) -> frozenset[NodeInHand]:
        return self.nodes

    def hold_nodes(self, nodes: frozenset[NodeInHand]) -> None:
        if self._grip is None:
            self.nodes = nodes
            self._session.tool_changed.emit()

    def hidden(self) -> frozenset[str]:
        return frozenset(self._moved)

    def marks(self) -> list[Mark]:
        marks: list[Mark] = [ContourMark(tuple(self._moved.values()))] if self._moved else []
        marks += [*self.caught_marks(), *self.box_marks()]
        if preview := self.preview():
            marks.append(ContourMark(preview, "preview"))
        chosen = self._session.selection.items
        if (
            len(chosen) <= _MOST_NODES
            and sum(len(item.contour.nodes) for item in chosen) <= _MOST_NODES
        ):
            for item in chosen:
                contour = self._moved.get(item.id, item.contour)
                for k, ((x, y), corner) in enumerate(
                    zip(contour.nodes.tolist(), contour.corners().tolist(), strict=True)
                ):
                    marks.append(
                        SignMark(
                            x,
                            y,
                            "corner" if corner else "smooth",
                            (item.id, k) in self.nodes or (item.id, k) == self._hot,
                        )
                    )
            marks += [
                _start(self._moved.get(item.id, item.contour)) for item in chosen[:_MOST_STARTS]
            ]
            for contour_id, span, end, x, y in self._handles():
                contour = self._moved.get(
                    contour_id, self._session.layout.contour_by_id[contour_id].contour
                )
                node = contour.nodes[(span + end) % len(contour.nodes)]
                marks += [LineMark(float(node[0]), float(node[1]), x, y), SignMark(x, y, "handle")]
        return marks + (super().marks() if self._grip is None else [])


def _start(contour: Contour) -> Mark:
    """Where a contour begins, and which way it runs."""
    x, y = contour.nodes[0].tolist()
    dx, dy = contour.spans.tangents()[0][0].tolist()
    return StartMark(x, y, math.atan2(dy, dx))
