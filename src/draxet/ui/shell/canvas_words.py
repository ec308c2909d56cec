"""What the canvas shows, in words, and its contours one by one."""

from __future__ import annotations

from draxet.job.contour_records import ContourItem
from draxet.job.findings import count_words
from draxet.job.layout_counts import counted
from draxet.ui.model.chosen import Chosen
from draxet.ui.model.session import Session
from draxet.ui.model.tool import NodeInHand
from draxet.units import format_length

__all__ = ["step_contours", "words_of_canvas", "words_of_contour", "words_of_node"]


def words_of_canvas(session: Session, enter: str = "") -> str:
    """What is on it, what of that is chosen and how large it is, what Enter does, and how one leaves
    it."""
    job, unit = session.job, session.job.unit
    closed, opened = counted(job)
    said = [
        count_words(len(job.pictures), "picture") if job.pictures else "no picture",
        count_words(closed + opened, "contour") if closed + opened else "no contour",
    ]
    if opened:
        said.append(f"{opened} of them open")
    facts = session.single(Chosen).facts
    if session.selection.ids:
        size = (
            f", {' × '.join(format_length(side, unit, places=2) for side in facts.size)}"
            if facts
            else ""
        )
        said.append(f"{len(session.selection.ids)} chosen{size}")
    enters = f" {enter}." if enter else ""
    held = session.tool.nodes_in_hand() if session.tool else frozenset()
    walks = "nodes" if held else "contours"
    return f"{', '.join(said)}.{enters} Ctrl+. goes through the {walks}, F6 leaves the canvas"


def words_of_contour(session: Session, item: ContourItem) -> str:
    """One contour: what it is, how large, and where."""
    unit = session.job.unit
    x0, y0, x1, y1 = item.contour.box
    if not item.contour.closed:
        kind = "slit" if item.slit else "open contour"
    else:
        kind = "circle" if item.contour.circle_shape else "closed contour"
    size = " × ".join(format_length(side, unit, places=2) for side in (x1 - x0, y1 - y0))
    at = " and ".join(format_length(side, unit, places=1) for side in (x0, y0))
    layer = f", layer {item.layer}" if item.layer else ""
    return f"{kind}, {size}, from {at} on{layer}"


def words_of_node(session: Session, node: NodeInHand) -> str:
    """One node: which, what it is, and where."""
    item = session.layout.contour_by_id.get(node[0])
    if item is None or node[1] >= len(item.contour.nodes):
        return "node that is gone"
    kind = "corner" if item.contour.corners()[node[1]] else "smooth"
    x, y = item.contour.nodes[node[1]].tolist()
    at = " and ".join(format_length(side, session.job.unit, places=2) for side in (x, y))
    return f"node {node[1] + 1} of {len(item.contour.nodes)}, {kind}, {at} on"


def step_contours(session: Session, step: int) -> None:
    """Choose the next contour that is shown, or the one before, bring it into sight and say what it
    is; where nodes are in hand, the next node of the contour."""
    held = session.tool.nodes_in_hand() if session.tool else frozenset()
    name, number = (max(held) if step > 0 else min(held)) if held else ("", 0)
    if session.tool and name in session.layout.contour_by_id:
        nodes = session.layout.contour_by_id[name].contour.nodes
        node = name, (number + step) % len(nodes)
        session.tool.hold_nodes(frozenset({node}))
        session.messages.place_asked.emit(*nodes[node[1]].tolist())
        session.messages.announced.emit(words_of_node(session, node))
        return
    items = session.selection.pickable
    if not items:
        session.messages.refused.emit("There is no contour to go to.")
        return
    chosen = [k for k, item in enumerate(items) if item.id in session.selection.ids]
    at = (chosen[-1 if step > 0 else 0] + step) % len(items) if chosen else 0 if step > 0 else -1
    item = items[at]
    session.selection.choose({item.id})
    x0, y0, x1, y1 = item.contour.box
    session.messages.place_asked.emit((x0 + x1) / 2, (y0 + y1) / 2)
    session.messages.announced.emit(
        f"{at % len(items) + 1} of {len(items)}: {words_of_contour(session, item)}"
    )
