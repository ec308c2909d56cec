"""Nodes, handles and spans of chosen contours are picked and dragged."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.crossings import nearest_on
from draxet.geometry.pieces import begun_at
from draxet.geometry.spans import ARC, CUBIC, LINE
from draxet.job.edits import change_contours, map_contours
from draxet.job.findings import count_words
from draxet.mend.corners import chamfer_corners, round_corners
from draxet.mend.ends import joined_ends, parted
from draxet.mend.find import contour_at, node_at, nodes_within
from draxet.mend.nodes import (
    bend_span, make_corners, make_kind, make_smooth, make_symmetrical, move_handle, move_node, place_node, remove_nodes, split_span, square_handles, swell_span,
)  # fmt: skip
from draxet.ui.canvas.tool import ContourMark, LineMark, Mark, Pointer, Prompt, SignMark
from draxet.ui.shell.session import Session
from draxet.ui.stages.picking import REACH, PickTool

__all__ = ["ShapingTool"]

_MOST_NODES = 4000
_PROBES = np.linspace(0, 1, 33)
_LETTERS = {"K": "corner", "M": "smooth", "Y": "symmetrical", "H": "square", "L": "line", "U": "curve", "O": "arc"}
_AT_NODES = {"corner": make_corners, "smooth": make_smooth, "symmetrical": make_symmetrical, "square": square_handles}
_SAID = {"square": "lay handles level or upright"}
_KINDS = {"line": LINE, "curve": CUBIC, "arc": ARC}
Node = tuple[str, int]
_ACTS = {"N": "add_node", "P": "part", "J": "join", "I": "begin_here"}


@dataclass(frozen=True)
class _Grip:
    """What is held: a ``node``, a ``handle`` (of a span, at its start 0 or end 1) or a ``span`` (at a parameter) of a contour."""

    what: str
    contour: str
    number: int
    end: int = 0
    t: float = 0.0


class ShapingTool(PickTool):
    """Drag a node, a handle or the span itself; choose nodes by a click or a box, and change all of them at once."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.nodes: frozenset[Node] = frozenset()
        self._grip: _Grip | None = None
        self._moved: dict[str, Contour] = {}
        self._hot: Node | None = None
        self._pointer: Pointer | None = None
        self.preview: Callable[[], tuple[Contour, ...]] = tuple
        """What is proposed for the chosen contours, to be drawn."""

    def prompt(self) -> Prompt:
        if self._grip:
            return Prompt(f"{self.title}: let it go where it belongs.", keys=(("Esc", "leave it where it was"),))
        if not self._session.job.contours:
            return super().prompt()
        if self.nodes:
            keys = (("K", "corner"), ("M", "smooth"), ("L", "straight"), ("U", "curve"), ("O", "arc"), ("P", "part"), ("Del", "remove"))
            return Prompt(f"{self.title}: {count_words(len(self.nodes), 'node')} chosen.", keys=keys)
        if self._session.selection:
            return Prompt(f"{self.title}: drag a node, a handle or a span.", keys=(("Shift", "add"), ("N", "new node"), ("Del", "remove")))
        return Prompt(f"{self.title}: click or box contours.", keys=(("Shift", "add"), ("Ctrl+A", "all")))

    # --- what is held

    def press(self, at: Pointer) -> None:
        super().press(at)
        self._grip = self._grip_at(at)
        if self._grip and self._grip.what == "node":
            node = (self._grip.contour, self._grip.number)
            if at.adds:
                self.nodes, self._grip = self.nodes ^ {node}, None
                self._from = None
            elif node not in self.nodes:
                self.nodes = frozenset({node})

    def _grip_at(self, at: Pointer) -> _Grip | None:
        chosen, reach = self._session.chosen(), REACH * at.pixel
        node = node_at(chosen, at.x, at.y, reach)
        if node:
            return _Grip("node", *node)
        for contour, span, end, x, y in self._handles():
            if abs(x - at.x) + abs(y - at.y) <= reach:
                return _Grip("handle", contour, span, end)
        contour_id = None if at.adds else contour_at(chosen, at.x, at.y, reach)
        if contour_id is None:
            return None
        span, t = self._span_near(contour_id, at)
        return _Grip("span", contour_id, span, 0, t)

    def _span_near(self, contour_id: str, at: Pointer) -> tuple[int, float]:
        spans = self._session.job.contour_by_id[contour_id].contour.spans
        which = np.repeat(np.arange(len(spans)), len(_PROBES))
        away = np.hypot(*(spans.at(which, np.tile(_PROBES, len(spans))) - (at.x, at.y)).T)
        best = int(away.argmin())
        t, _ = nearest_on(spans, which[best : best + 1], np.array([[at.x, at.y]]), np.array([_PROBES[best % len(_PROBES)]]))
        return int(which[best]), float(t[0])

    def _handles(self) -> list[tuple[str, int, int, float, float]]:
        """Handles beside chosen nodes: contour, span, end, and where each is."""
        found = []
        for contour_id, node in sorted(self.nodes):
            item = self._session.job.contour_by_id.get(contour_id)
            if item is None or node >= len(item.contour.nodes):
                continue
            contour = self._moved.get(contour_id, item.contour)
            count = len(contour.kinds)
            for span, end in ((node if node < count else None, 0), ((node - 1) % count if contour.closed or node else None, 1)):
                if span is not None and contour.kinds[span] == CUBIC:
                    x, y = contour.handles[span, end].tolist()
                    found.append((contour_id, span, end, x, y))
        return found

    def move(self, at: Pointer) -> None:
        super().move(at)
        self._pointer = at
        grip = self._grip
        if grip is None or self._from is None:
            self._hot = node_at(self._session.chosen(), at.x, at.y, REACH * at.pixel) if self._from is None else None
            return
        item = self._session.job.contour_by_id.get(grip.contour)
        if item is None or grip.number >= max(len(item.contour.nodes), len(item.contour.kinds)):
            self.forget()
            return
        dx, dy = at.x - self._from.x, at.y - self._from.y
        if grip.what == "node":
            self._moved = self._with_nodes(lambda contour, node: move_node(contour, node, dx, dy))
        elif grip.what == "handle":
            self._moved = {grip.contour: move_handle(item.contour, grip.number, grip.end, dx, dy, alone=at.free)}
        else:
            self._moved = {grip.contour: (swell_span if at.free else bend_span)(item.contour, grip.number, grip.t, dx, dy)}

    def _with_nodes(self, change: Callable[[Contour, int], Contour]) -> dict[str, Contour]:
        """The contours with each chosen node changed."""
        found: dict[str, Contour] = {}
        for contour_id, node in sorted(self.nodes):
            item = self._session.job.contour_by_id.get(contour_id)
            if item is not None and node < len(item.contour.nodes):
                found[contour_id] = change(found.get(contour_id, item.contour), node)
        return found

    def release(self, at: Pointer) -> None:
        grip, self._grip = self._grip, None
        moved, self._moved = self._moved, {}
        begun = self._from
        if grip is None or begun is None:
            super().release(at)
            return
        self._from = None
        if abs(at.x - begun.x) + abs(at.y - begun.y) > 3 * at.pixel and moved:
            words = {"node": "move nodes" if len(self.nodes) > 1 else "move a node", "handle": "turn a handle", "span": "bend a span"}[grip.what]
            self._session.edit(words, change_contours(self._session.job, moved))
        elif grip.what == "span":
            self.take({grip.contour}, at.adds, alone=at.free)
            self.nodes = frozenset()
        self._session.tool_changed.emit()

    def boxed(self, a: Pointer, b: Pointer) -> None:
        """Contours that lie in the box; where none does, the nodes of chosen contours that do."""
        x0, x1, y0, y1 = min(a.x, b.x), max(a.x, b.x), min(a.y, b.y), max(a.y, b.y)
        inside = {
            (item.id, int(k)) for item in self._session.chosen()
            for k in np.flatnonzero((item.contour.nodes >= (x0, y0)).all(axis=1) & (item.contour.nodes <= (x1, y1)).all(axis=1))
        }  # fmt: skip
        if not self._choose_nodes(inside, b.adds):
            super().boxed(a, b)

    def rounded(self, line: list[tuple[float, float]], at: Pointer) -> None:
        """Contours within the line; where none is, the nodes of chosen contours that are."""
        inside = {(item.id, k) for item in self._session.chosen() for k in nodes_within(item.contour, line)} if len(line) > 2 else set()
        if not self._choose_nodes(inside, at.adds):
            super().rounded(line, at)

    def _choose_nodes(self, inside: set[Node], adds: bool) -> bool:
        """Choose nodes, where they are some but not all of a chosen contour's; whether they are."""
        by_id = self._session.job.contour_by_id
        some = any(sum(c == name for c, _ in inside) < len(by_id[name].contour.nodes) for name in {c for c, _ in inside})
        self.nodes = (self.nodes ^ inside if adds else frozenset(inside)) if some else frozenset()
        return some

    def take(self, ids: set[str], adds: bool, *, alone: bool = False) -> None:
        self.nodes = frozenset()
        super().take(ids, adds, alone=alone)

    # --- what is done to chosen nodes

    def wants_key(self, key: str) -> bool:
        letter = key.upper()
        return self._grip is None and ((bool(self.nodes) and letter in {*_LETTERS, "P", "I"}) or (bool(self._session.selection) and letter in ("N", "J")))

    def key(self, key: str) -> None:
        letter = key.upper()
        if letter in _ACTS:
            getattr(self, _ACTS[letter])()
        else:
            self.make(_LETTERS[key.upper()])

    def make(self, what: str) -> None:
        """Chosen nodes become ``corner``, ``smooth`` or ``symmetrical``, their handles ``square`` to the sheet; the spans between them ``line``, ``arc`` or ``curve``, or both spans beside a
        node that is chosen alone."""
        if what in _KINDS:
            changed = {contour: make_kind(self._session.job.contour_by_id[contour].contour, spans, _KINDS[what]) for contour, spans in self._spans_meant().items()}
        else:
            changed = self._with_nodes(lambda contour, node: _AT_NODES[what](contour, [node]))
        if changed:
            said = _SAID.get(what, f"make nodes {what}" if what in _AT_NODES else f"make spans: {what}")
            self._session.edit(said, change_contours(self._session.job, changed))
        self._session.tool_changed.emit()

    def part(self) -> None:
        """Contours are parted at the chosen nodes: a closed one opens there, of an open one two are made. The ends lie on each other and
        are moved one by one."""
        job, new = self._session.job, set[str]()
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            places = sorted({float(n) for c, n in self.nodes if c == contour_id})
            job, made = parted(job, contour_id, places)
            new |= made
        self.nodes = frozenset()
        self._session.edit("part at nodes", job)
        self._session.select(new & self._session.job.contour_by_id.keys())

    def join(self) -> None:
        """Chosen open contours become one by the ends that are nearest to each other; one alone is closed."""
        items = [item for item in self._session.chosen() if not item.contour.closed]
        if not items:
            self._session.refused.emit("Choose open contours to join: one is closed, several become one.")
            return
        job, made = joined_ends(self._session.job, [item.id for item in items])
        self.nodes = frozenset()
        self._session.edit("close a contour" if len(items) == 1 else "join contours", job)
        self._session.select({made})

    def begin_here(self) -> None:
        """Closed contours begin at a chosen node."""
        changed = {}
        for contour_id, node in sorted(self.nodes):
            contour = self._session.job.contour_by_id[contour_id].contour
            if contour.closed:
                changed[contour_id] = begun_at(contour, float(node))
        self.nodes = frozenset()
        if changed:
            self._session.edit("choose the start", change_contours(self._session.job, changed))
        else:
            self._session.refused.emit("Only a closed contour can begin elsewhere.")

    def reverse(self) -> None:
        """Chosen contours run the other way."""
        self.nodes = frozenset()
        self._session.edit("run the other way", change_contours(self._session.job, {item.id: item.contour.reversed() for item in self._session.chosen()}))

    def nudge(self, dx: float, dy: float) -> bool:
        """Chosen nodes, or else chosen contours, move by the typed step."""
        session = self._session
        if self._grip is not None or not session.selection:
            return False
        if self.nodes:
            job = change_contours(session.job, self._with_nodes(lambda contour, node: move_node(contour, node, dx, dy)))
        else:
            job = map_contours(session.job, session.selection, Affine.moved(dx, dy), by_hand=True)
        session.edit("move nodes" if self.nodes else "move contours", job, session.nudge_gesture)
        return True

    def spans_between(self) -> dict[str, list[int]]:
        """Spans both of whose nodes are chosen, by contour."""
        found: dict[str, list[int]] = {}
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            item = self._session.job.contour_by_id.get(contour_id)
            nodes = {n for c, n in self.nodes if c == contour_id}
            if item is not None:
                found[contour_id] = [k for k in range(len(item.contour.kinds)) if k in nodes and (k + 1) % len(item.contour.nodes) in nodes]
        return found

    def _spans_meant(self) -> dict[str, list[int]]:
        meant: dict[str, list[int]] = {}
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            contour = self._session.job.contour_by_id[contour_id].contour
            nodes, count = {n for c, n in self.nodes if c == contour_id}, len(contour.kinds)
            between = self.spans_between()[contour_id]
            beside = [k for k in range(count) if k in nodes or (k + 1) % len(contour.nodes) in nodes]
            meant[contour_id] = between or beside
        return meant

    def add_node(self) -> None:
        """One more node where the pointer is nearest to a chosen contour."""
        at = self._pointer
        contour_id = contour_at(self._session.chosen(), at.x, at.y, 4 * REACH * at.pixel) if at else None
        if at is None or contour_id is None:
            self._session.refused.emit("Point at a chosen contour first: the node comes where the pointer is.")
            return
        span, t = self._span_near(contour_id, at)
        if 1e-6 < t < 1 - 1e-6:
            contour = split_span(self._session.job.contour_by_id[contour_id].contour, span, t)
            self._session.edit("add a node", change_contours(self._session.job, {contour_id: contour}))
            self.nodes = frozenset({(contour_id, span + 1)})
            self._session.tool_changed.emit()

    def place(self, x: float | None, y: float | None) -> None:
        """Put all chosen nodes to a typed x or y, in job space."""
        def put(contour: Contour, node: int) -> Contour:
            now = contour.nodes[node]
            return place_node(contour, node, float(now[0]) if x is None else x, float(now[1]) if y is None else y)

        changed = self._with_nodes(put)
        if changed:
            self._session.edit("place nodes by number", change_contours(self._session.job, changed))

    def cut_corners(self, size: float, *, rounded: bool) -> None:
        """Round or chamfer the chosen corners, or every corner of the chosen contours where no node is chosen."""
        by_id, meant = self._session.job.contour_by_id, sorted({contour for contour, _ in self.nodes}) or sorted(self._session.selection)
        changed, refused = {}, 0
        for contour_id in meant:
            contour = by_id[contour_id].contour
            nodes = [n for c, n in self.nodes if c == contour_id] if self.nodes else np.flatnonzero(contour.corners()).tolist()
            found, left = (round_corners if rounded else chamfer_corners)(contour, nodes, size)
            refused += left
            if found is not contour:
                changed[contour_id] = found
        self.nodes = frozenset()
        if changed:
            self._session.edit("round corners" if rounded else "chamfer corners", change_contours(self._session.job, changed))
        self._session.tool_changed.emit()
        if refused:
            self._session.refused.emit(f"{count_words(refused, 'corner')} left as {'it was' if refused == 1 else 'they were'}: not between two lines, or no room on them.")

    def chosen_places(self) -> list[tuple[float, float]]:
        """Where the chosen nodes are."""
        by_id = self._session.job.contour_by_id
        return [tuple(by_id[c].contour.nodes[n].tolist()) for c, n in sorted(self.nodes) if c in by_id and n < len(by_id[c].contour.nodes)]

    def remove(self) -> bool:
        """Chosen nodes are removed, the shape kept as well as can be."""
        if self._grip is not None:
            self._session.refused.emit("Let go of what is held first.")
            return True
        if not self.nodes:
            return False
        changed, refused = {}, 0
        for contour_id in sorted({contour for contour, _ in self.nodes}):
            found = remove_nodes(self._session.job.contour_by_id[contour_id].contour, [n for c, n in self.nodes if c == contour_id])
            if found is None:
                refused += 1
            else:
                changed[contour_id] = found
        self.nodes = frozenset()
        if changed:
            self._session.edit("remove nodes", change_contours(self._session.job, changed))
        self._session.tool_changed.emit()
        if refused:
            self._session.refused.emit("A contour needs two nodes at the least; remove the contour itself.")
        return True

    def forget(self) -> None:
        super().forget()
        by_id = self._session.job.contour_by_id
        self.nodes = frozenset((c, n) for c, n in self.nodes if c in by_id and n < len(by_id[c].contour.nodes))
        self._grip, self._moved, self._hot = None, {}, None

    def cancel(self) -> bool:
        if self._grip is not None:
            self._grip, self._moved, self._from = None, {}, None
            return True
        if self.nodes:
            self.nodes = frozenset()
            self._session.tool_changed.emit()
            return True
        return super().cancel()

    def hidden(self) -> frozenset[str]:
        return frozenset(self._moved)

    def marks(self) -> list[Mark]:
        marks: list[Mark] = [ContourMark(tuple(self._moved.values()))] if self._moved else []
        if preview := self.preview():
            marks.append(ContourMark(preview, "offer"))
        chosen = self._session.chosen()
        if sum(len(item.contour.nodes) for item in chosen) <= _MOST_NODES:
            for item in chosen:
                contour = self._moved.get(item.id, item.contour)
                for k, ((x, y), corner) in enumerate(zip(contour.nodes.tolist(), contour.corners().tolist(), strict=True)):
                    marks.append(SignMark(x, y, "corner" if corner else "smooth", (item.id, k) in self.nodes or (item.id, k) == self._hot))
            for contour_id, span, end, x, y in self._handles():
                contour = self._moved.get(contour_id, self._session.job.contour_by_id[contour_id].contour)
                node = contour.nodes[(span + end) % len(contour.nodes)]
                marks += [LineMark(float(node[0]), float(node[1]), x, y), SignMark(x, y, "handle")]
        return marks + (super().marks() if self._grip is None else [])
