"""Mend: contours are picked, moved by their nodes and removed; open ends are seen and visited."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from draxet.job.contour_edits import mean_slits
from draxet.job.contour_records import ContourItem
from draxet.job.findings import count_words
from draxet.job.layout_counts import counted
from draxet.job.part_edits import change_part
from draxet.job.records import Job
from draxet.mend.forms import FORMS
from draxet.ui.controls.fields import Choice, WordField
from draxet.ui.controls.slip_parts import (
    allow,
    button,
    fact_row,
    field_row,
    label,
    menu_button,
    side_by_side,
)
from draxet.ui.model.chosen import Chosen
from draxet.ui.model.session import Session
from draxet.ui.stages.choosing_alike import choose_alike
from draxet.ui.stages.chosen_acts import (
    followers_in_hand,
    free_links,
    make_part_of_chosen,
    part_in_hand,
    take_chosen_apart,
    work_by_itself,
)
from draxet.ui.stages.findings_list import FindingRows
from draxet.ui.stages.mend.colour_and_line import ColourAndLine
from draxet.ui.stages.mend.how_small_row import HowSmallRow
from draxet.ui.stages.mend.number_rows import NumberRows
from draxet.ui.stages.mend.preview import (
    PreviewRows,
    Work,
    form_of,
    lines_and_arcs,
    part_form_of,
    simpler,
    wider_spaced,
)
from draxet.ui.stages.mend.shaping import ShapingTool
from draxet.ui.stages.picking import remove_chosen
from draxet.ui.stages.slip import Slip

__all__ = ["MendSlip"]


class MendSlip(Slip):
    """What is chosen, and how many contours are closed and open."""

    def __init__(self, session: Session, tool: ShapingTool) -> None:
        super().__init__(
            session, "Pick", "Closed contours can be cut; open ends are marked by a split ring."
        )
        self._tool = tool
        self._work = QWidget()
        self._work_rows = QVBoxLayout(self._work)
        self._work_rows.setContentsMargins(0, 0, 0, 0)
        self._work_rows.setSpacing(8)
        self.preview = PreviewRows(session, tool, lambda mm: self.length(mm, 3))
        self.foot.add(self.preview)
        self._add_counts()
        self.add(self._work)
        self._add_facts()
        self._add_hiding()
        self._add_belonging()
        self._add_nodes()
        self._add_corners()
        self._add_forms()
        self.refresh()

    def _add_counts(self) -> None:
        """How many contours there are, what is wrong with them, and how they are chosen."""
        closed, self._closed = fact_row("Closed contours")
        opened, self._open = fact_row("Open contours")
        self._findings = FindingRows(self.session, "")
        self.lasso = Choice((("box", "by a box"), ("lasso", "by a line round")), "Dragging chooses")
        self.lasso.chosen.connect(self._set_lasso)
        self.add(closed, opened, self._findings, label("Dragging chooses"), self.lasso)

    def _add_facts(self) -> None:
        """What is chosen, and what is said of it."""
        session = self.session
        chosen, self._chosen = fact_row("Chosen")
        size, self._size = fact_row("Width × height")
        self.how_small = HowSmallRow(session, self._tool)
        nodes, self._nodes = fact_row("Nodes")
        self._sheet_row, self._sheet = fact_row("Sheet")
        self._layer_row, self._layer = fact_row("Layer")
        self.look = ColourAndLine(session, self._tool)
        self.slits = QCheckBox("Meant as slits: open on purpose")
        self.slits.clicked.connect(self._mean)
        self.remove = button("Remove", "plain", lambda: remove_chosen(session))
        kinds = {"in size": "size", "in colour": "colour", "open ones": "open", "tiny ones": "tiny"}
        self.alike = menu_button(
            "Choose alike",
            [(words, partial(choose_alike, session, how)) for words, how in kinds.items()],
        )
        self._add_work(
            chosen,
            size,
            self.how_small,
            nodes,
            self.look,
            self._sheet_row,
            self._layer_row,
            self.slits,
            side_by_side(self.remove, self.alike),
        )

    def _add_hiding(self) -> None:
        session = self.session
        self.hide_button = button(
            "Hide",
            "plain",
            lambda: session.selection.hide(session.selection.hidden | session.selection.ids),
        )
        self.only = button(
            "Show only these",
            "plain",
            lambda: session.selection.hide(
                frozenset(session.layout.contour_by_id) - session.selection.ids
            ),
        )
        self.nudge = self.length_field("Arrow keys move by")
        self.nudge.entered.connect(lambda mm: setattr(session.desk, "nudge_mm", mm))
        self._add_work(
            side_by_side(self.hide_button, self.only),
            field_row("Arrow keys move by", self.nudge, 96),
        )

    def _add_belonging(self) -> None:
        """Parts, joins, and copies that follow."""
        session, tool = self.session, self._tool
        self.part = button("Make a part", "plain", partial(make_part_of_chosen, session))
        self.take_apart = button("Take it apart", "plain", partial(take_chosen_apart, session))
        self.join = button("Join or close", "plain", tool.join)
        self.reverse = button("Other way round", "plain", tool.reverse)
        self.part_name = WordField("Name of the part", 60)
        self.part_name.entered.connect(self._rename)
        self._part_row = field_row("Part", self.part_name, 160)
        self._links_words = label("", "brass", wrap=True)
        self._links = side_by_side(
            self._links_words, button("Make it its own", "choice", partial(free_links, session))
        )
        self.by_itself = QCheckBox("Worked by itself")
        self.by_itself.clicked.connect(partial(work_by_itself, session))
        self.by_itself.setToolTip(
            "A copy is cut, scored and drilled as its part is; by itself it can be worked otherwise"
        )
        self._add_work(
            side_by_side(self.part, self.take_apart),
            side_by_side(self.join, self.reverse),
            self._part_row,
            self._links,
            self.by_itself,
        )

    def _add_corners(self) -> None:
        self.radius = self.length_field("Corner radius")
        self.radius.set_value(5.0)
        self.rounded = button("Round", "plain", lambda: self._cut_corners("round"))
        self.chamfered = button("Chamfer", "plain", lambda: self._cut_corners("chamfer"))
        self.relieved = button(
            "Relieve for a round tool", "plain", lambda: self._cut_corners("relieve")
        )
        self.relieved.setToolTip(
            "corners opened by the tool's diameter, so that square parts fit into them"
        )
        self._add_work(
            label("Corners", "section"),
            field_row("Radius, size, diameter", self.radius, 96),
            side_by_side(self.rounded, self.chamfered),
            self.relieved,
        )

    def _add_forms(self) -> None:
        """Other forms of the same contour, each shown before it is taken."""
        self.within = self.length_field("Within")
        self.within.set_value(self.session.job.exactness.tolerance / 4)
        self.simpler = button("Simplify", "plain", lambda: self._propose(simpler))
        self.arcs = button("Lines and arcs", "plain", lambda: self._propose(lines_and_arcs))
        self.wider = button("Least spacing", "plain", lambda: self._propose(wider_spaced))
        self.forms = menu_button(
            "Make it a …", [(form, partial(self._make_form, form)) for form in FORMS]
        )
        self._add_work(
            label("Simpler, or of lines and arcs", "section"),
            field_row("Within", self.within, 110),
            side_by_side(self.simpler, self.arcs),
            side_by_side(self.wider, self.forms),
        )

    def _add_work(self, *widgets: QWidget) -> None:
        """Rows that are there while something is chosen."""
        for widget in widgets:
            self._work_rows.addWidget(widget)

    def _add_nodes(self) -> None:
        """What is done to the nodes that are chosen, and where they are."""
        self._node_part = QWidget()
        rows = QVBoxLayout(self._node_part)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(8)
        self._nodes_words = label("", "section")
        self.node_x, self.node_y = (
            self.length_field(name, positive=False) for name in ("Node x", "Node y")
        )
        self.node_x.entered.connect(lambda mm: self._place(mm, None))
        self.node_y.entered.connect(lambda mm: self._place(None, mm))
        self.corners = Choice(
            (("corner", "corner"), ("smooth", "smooth"), ("symmetrical", "even")), "Nodes"
        )
        self.corners.button("symmetrical").setToolTip(
            "smooth, with handles of the same length on both sides"
        )
        self.kinds = Choice(
            (("line", "straight"), ("curve", "curve"), ("arc", "arc")), "Spans between them"
        )
        for choice in (self.corners, self.kinds):
            choice.act_only()
            choice.chosen.connect(self._make)
        self.part = button("Part here", "plain", self._tool.part)
        self.begin = button("Begin here", "plain", self._tool.begin_here)
        for widget in (
            self._nodes_words,
            self.corners,
            self.kinds,
            side_by_side(self.part, self.begin),
            field_row("x", self.node_x, 110),
            field_row("y", self.node_y, 110),
        ):
            rows.addWidget(widget)
        self._add_work(self._node_part)
        self.numbers = NumberRows(self.session, self._tool, self.length_field)
        self._tool.preview = lambda: self.preview.outlines
        self._add_work(self.numbers)

    def _propose(self, way: Callable[[float], Work]) -> None:
        within = self.within.try_read()
        if within is not None and within > 0:
            self.preview.propose(way(within))

    def _cut_corners(self, way: str) -> None:
        size = self.radius.try_read()
        if size is not None and size > 0:
            self._tool.cut_corners(size, way)

    def _make_form(self, form: str) -> None:
        """Of each chosen contour, or of the part between the nodes that are chosen."""
        nodes: dict[str, list[int]] = {}
        for contour, node in self._tool.nodes:
            nodes.setdefault(contour, []).append(node)
        parts = any(len(some) > 1 for some in nodes.values())
        self.preview.propose(part_form_of(form, nodes) if parts else form_of(form))

    def _make(self, what: str) -> None:
        self._tool.make(what)
        self.session.messages.canvas_asked.emit()

    def _place(self, x: float | None, y: float | None) -> None:
        ox, oy = self.session.job.sheet.origin_place
        self._tool.place(None if x is None else x + ox, None if y is None else y + oy)

    def _refresh_part(self) -> None:
        """The name of the part in hand, and how many of the chosen contours follow others."""
        found = part_in_hand(self.session)
        self._part_row.setVisible(bool(found))
        if found:
            self.part_name.set_value(self.session.layout.part_by_id[found].name)
        laid, followed = followers_in_hand(self.session)
        self._links.setVisible(bool(laid or followed))
        over = ", turned over" if laid and laid[0].turned_over else ""
        copies = (
            f"{len(laid)} copies that follow" if len(laid) > 1 else f"a copy that follows{over}"
        )
        followers = f"{len(followed)} copies follow" if len(followed) > 1 else "a copy follows it"
        self._links_words.setText(copies if laid else followers)
        self.by_itself.setVisible(bool(laid))
        self.by_itself.setChecked(bool(laid) and all(each.by_itself for each in laid))

    def _rename(self, words: str) -> None:
        found = part_in_hand(self.session)
        if found and words:
            self.session.edit("name a part", change_part(self.session.job, found, name=words))
        self.refresh()

    def _refresh_nodes(self) -> None:
        places = self._tool.chosen_places()
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

    def _set_lasso(self, key: str) -> None:
        self._tool.lasso = key == "lasso"
        self.session.messages.canvas_asked.emit()

    def _mean(self, on: bool) -> None:
        words = "mean slits" if on else "mean no slits"
        self.session.edit(words, mean_slits(self.session.job, self.session.selection.ids, on))

    def _refresh_belonging(self) -> None:
        """The sheet and the layer of what is chosen."""
        job, facts = self.session.job, self.session.single(Chosen).facts
        names = {sheet.id: sheet.name for sheet in job.sheets}
        sheets = {names.get(k, "none") for k in facts.sheets} if facts else set()
        layers = facts.layers if facts else frozenset()
        for row, value, found, shown in (
            (self._sheet_row, self._sheet, sheets, len(job.sheets) > 1),
            (self._layer_row, self._layer, layers, bool(layers - {""})),
        ):
            words = next(iter(found)) if len(found) == 1 else "several" if found else "…"
            value.setText(words if len(words) <= 24 else f"{words[:22]}…")
            value.setToolTip(words)
            row.setVisible(facts is not None and shown)
        self.slits.setVisible(facts is not None and bool(facts.opened))
        self.slits.setChecked(facts is not None and facts.slits)

    def refresh(self) -> None:
        self._refresh_belonging()
        self._refresh_nodes()
        self.nudge.set_value(self.session.desk.nudge_mm)
        self.preview.refresh()
        self.numbers.refresh()
        self._refresh_part()
        self._findings.show_findings(
            [finding for finding in self.session.looked.findings if finding.stage == "mend"]
        )
        job, chosen = self.session.job, self.session.selection.items
        self.lasso.set_value("lasso" if self._tool.lasso else "box")
        self._work.setVisible(bool(chosen))
        allow(self.take_apart, part_in_hand(self.session), "choose a part first")
        for control in (*self._for_chosen, self.remove):
            allow(control, chosen, "choose contours first")
        self.look.show_facts(self.session.single(Chosen).facts, len(chosen))
        self.how_small.show_items(chosen)
        self._refresh_facts(job, chosen)

    @property
    def _for_chosen(self) -> tuple[QWidget, ...]:
        """What acts on whatever is chosen."""
        return (
            self.arcs,
            self.hide_button,
            self.only,
            self.rounded,
            self.chamfered,
            self.relieved,
            self.simpler,
            self.wider,
            self.forms,
            self.part,
            self.join,
            self.reverse,
        )

    def _refresh_facts(self, job: Job, chosen: Sequence[ContourItem]) -> None:
        """How many contours there are, and how large what is chosen is."""
        closed, opened = counted(job)
        self._closed.setText(str(closed))
        self._open.setText(str(opened))
        self._chosen.setText(str(len(chosen)) if chosen else "none")
        facts = self.session.single(Chosen).facts
        unknown = "…" if chosen else "–"
        self._nodes.setText(str(facts.nodes) if facts else unknown)
        self._size.setText(
            " × ".join(self.length(side, 2) for side in facts.size) if facts else unknown
        )
