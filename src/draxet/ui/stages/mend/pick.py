"""Mend: contours are picked, moved by their nodes and removed; open ends are seen and visited."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from draxet.geometry.biarcs import as_lines_and_arcs
from draxet.geometry.spans import CUBIC
from draxet.job.findings import count_words
from draxet.job.edits import change_contours, mean_slits
from draxet.mend.simplify import simplified
from draxet.ui.canvas.tool import Tool
from draxet.ui.shell.fields import Choice, button, fact_row, field_row, label, menu_button, side_by_side
from draxet.ui.shell.session import Session
from draxet.ui.stages.alike import choose_alike
from draxet.ui.stages.findings import FindingRows
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.ui.stages.picking import remove_chosen
from draxet.ui.stages.slip import Slip

__all__ = ["MendSlip"]


class MendSlip(Slip):
    """What is chosen, and how many contours are closed and open."""

    def __init__(self, session: Session, tool: Tool) -> None:
        super().__init__(session, "Pick", "Closed contours can be cut; open ends are marked by a split ring.")
        closed, self._closed = fact_row("Closed contours")
        opened, self._open = fact_row("Open contours")
        chosen, self._chosen = fact_row("Chosen")
        size, self._size = fact_row("Width × height")
        nodes, self._nodes = fact_row("Nodes")
        colour, self._colour = fact_row("Colour")
        self.remove = button("Remove", "plain", lambda: remove_chosen(session))
        self.within = self.length_field("Within")
        self.within.set_value(session.job.exactness.tolerance / 4)
        self.arcs = button("Lines and arcs", "plain", self._to_arcs)
        self._colour_row = colour
        self._findings = FindingRows(session, "")
        self._sheet_row, self._sheet = fact_row("Sheet")
        self._layer_row, self._layer = fact_row("Layer")
        self.slits = QCheckBox("Meant as slits: open on purpose")
        self.slits.clicked.connect(self._mean)
        alike = [("in size", "size"), ("in colour", "colour"), ("open ones", "open"), ("tiny ones", "tiny")]
        self.alike = menu_button("Choose alike", [(words, partial(choose_alike, session, how)) for words, how in alike])
        self.hide_button = button("Hide", "plain", lambda: session.hide(session.hidden | session.selection))
        self.only = button("Show only these", "plain", lambda: session.hide(frozenset(item.id for item in session.job.contours) - session.selection))
        self.add(closed, opened, self._findings, chosen, size, nodes, colour, self._sheet_row, self._layer_row, self.slits, side_by_side(self.remove, self.alike))
        self.add(side_by_side(self.hide_button, self.only))
        self._add_nodes(tool)
        self.radius = self.length_field("Corner radius")
        self.radius.set_value(5.0)
        self.rounded = button("Round", "plain", lambda: self._cut_corners(rounded=True))
        self.chamfered = button("Chamfer", "plain", lambda: self._cut_corners(rounded=False))
        self.add(label("Corners", "section"), field_row("Radius, or how far", self.radius, 110), side_by_side(self.rounded, self.chamfered))
        self.add(label("Simpler, or of lines and arcs", "section"))
        self.simpler = button("Simplify", "plain", self._simplify)
        self.add(field_row("Within", self.within), side_by_side(self.simpler, self.arcs))
        self.refresh()

    def _add_nodes(self, tool: Tool) -> None:
        """What is done to the nodes that are chosen, and where they are."""
        self._tool = tool if isinstance(tool, ShapingTool) else None
        self._node_part = QWidget()
        rows = QVBoxLayout(self._node_part)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        self._nodes_words = label("", "section")
        self.node_x, self.node_y = (self.length_field(name, positive=False) for name in ("Node x", "Node y"))
        self.node_x.entered.connect(lambda mm: self._place(mm, None))
        self.node_y.entered.connect(lambda mm: self._place(None, mm))
        self.corners = Choice((("corner", "corner"), ("smooth", "smooth")), "Nodes")
        self.kinds = Choice((("line", "straight"), ("curve", "curve"), ("arc", "arc")), "Spans between them")
        for choice in (self.corners, self.kinds):
            choice.act_only()
            choice.chosen.connect(self._make)
        for widget in (self._nodes_words, self.corners, self.kinds, field_row("x", self.node_x), field_row("y", self.node_y)):
            rows.addWidget(widget)
        self.add(self._node_part)

    def _cut_corners(self, *, rounded: bool) -> None:
        size = self.radius.try_read()
        if size is not None and self._tool is not None:
            self._tool.cut_corners(size, rounded=rounded)

    def _make(self, what: str) -> None:
        if self._tool is not None:
            self._tool.make(what)
        self.session.canvas_asked.emit()

    def _place(self, x: float | None, y: float | None) -> None:
        if self._tool is not None:
            ox, oy = self.session.job.sheet.origin_place
            self._tool.place(None if x is None else x + ox, None if y is None else y + oy)

    def _refresh_nodes(self) -> None:
        places = self._tool.chosen_places() if self._tool else []
        self._node_part.setVisible(bool(places))
        if places:
            self._nodes_words.setText(f"{count_words(len(places), 'node')} chosen".capitalize())
            ox, oy = self.session.job.sheet.origin_place
            for field, k, off in ((self.node_x, 0, ox), (self.node_y, 1, oy)):
                if len({round(place[k], 6) for place in places}) == 1:
                    field.set_value(places[0][k] - off)
                else:
                    field.empty()
                    field.setPlaceholderText("several")

    def _to_arcs(self) -> None:
        """The chosen contours of lines and arcs alone, as machines without curves want them."""
        within = self.within.try_read()
        if within is None:
            return
        items = self.session.chosen()
        before = sum(len(item.contour.nodes) for item in items)
        plain = {item.id: as_lines_and_arcs(item.contour, within) for item in items if (item.contour.kinds == CUBIC).any()}
        if not plain:
            self.session.refused.emit("The chosen contours have no curves but arcs already.")
            return
        self.session.edit("curves to lines and arcs", change_contours(self.session.job, plain))
        after = sum(len(item.contour.nodes) for item in self.session.chosen())
        self.session.said.emit(f"{len(plain)} contours are lines and arcs now, within {self.length(within)}: {before} nodes became {after}")

    def _simplify(self) -> None:
        """The chosen contours with fewer nodes, within the tolerance; how far they came to lie off is told."""
        within = self.within.try_read()
        if within is None or within <= 0:
            return
        items = self.session.chosen()
        found = {item.id: simplified(item.contour, within) for item in items}
        changed = {k: contour for k, (contour, _) in found.items() if contour is not self.session.job.contour_by_id[k].contour}
        if not changed:
            self.session.refused.emit(f"Nothing is simpler within {self.length(within)}; allow more, or choose contours with more nodes.")
            return
        before = sum(len(item.contour.nodes) for item in items)
        self.session.edit("simplify", change_contours(self.session.job, changed))
        after = sum(len(item.contour.nodes) for item in self.session.chosen())
        self.session.said.emit(f"{before} nodes became {after}, nowhere more than {self.length(max(off for _, off in found.values()), 3)} off")

    def _mean(self, on: bool) -> None:
        words = "mean slits" if on else "mean no slits"
        self.session.edit(words, mean_slits(self.session.job, self.session.selection, on))

    def _refresh_belonging(self) -> None:
        """The sheet and the layer of what is chosen."""
        job, chosen = self.session.job, self.session.chosen()
        names = {sheet.id: sheet.name for sheet in job.sheets}
        for row, value, found, shown in (
            (self._sheet_row, self._sheet, {names.get(item.sheet, "none") for item in chosen}, len(job.sheets) > 1),
            (self._layer_row, self._layer, {item.layer for item in chosen}, any(item.layer for item in chosen)),
        ):
            words = next(iter(found)) if len(found) == 1 else "several"
            value.setText(words if len(words) <= 24 else f"{words[:22]}…")
            value.setToolTip(words)
            row.setVisible(bool(chosen) and shown)
        opened = [item for item in chosen if not item.contour.closed]
        self.slits.setVisible(bool(opened))
        self.slits.setChecked(bool(opened) and all(item.slit for item in opened))

    def refresh(self) -> None:
        self._refresh_belonging()
        self._refresh_nodes()
        self._findings.show_findings([finding for finding in self.session.looked.findings if finding.stage == "mend"])
        job, chosen = self.session.job, self.session.chosen()
        for control in (self.arcs, self.hide_button, self.only, self.rounded, self.chamfered, self.simpler):
            control.setEnabled(bool(chosen))
        colours = {item.colour for item in chosen}
        self._colour.setText(next(iter(colours)) if len(colours) == 1 else "several")
        self._colour_row.setVisible(bool(colours - {""}))
        opened = sum(not item.contour.closed for item in job.contours)
        self._closed.setText(str(len(job.contours) - opened))
        self._open.setText(str(opened))
        self._chosen.setText(str(len(chosen)) if chosen else "none")
        self._nodes.setText(str(sum(len(item.contour.nodes) for item in chosen)) if chosen else "–")
        self.remove.setEnabled(bool(chosen))
        boxes = [item.contour.box for item in chosen]
        if boxes:
            wide, high = max(b[2] for b in boxes) - min(b[0] for b in boxes), max(b[3] for b in boxes) - min(b[1] for b in boxes)
            self._size.setText(f"{self.length(wide, 2)} × {self.length(high, 2)}")
        else:
            self._size.setText("–")
