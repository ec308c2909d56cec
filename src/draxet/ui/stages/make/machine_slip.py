"""Machine: on which one the sheet in hand is worked, and what that can do."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Annotated, Any

from PyQt6.QtWidgets import QVBoxLayout

from draxet.geometry.affine import Affine
from draxet.job.asked import Asked
from draxet.job.machine_kinds import MACHINE_KINDS, MACHINES, Machine, of_kind
from draxet.job.materials import machine_for
from draxet.job.operating import choose_machine, set_machine
from draxet.job.operations import CutThrough, Engrave
from draxet.job.program import Program
from draxet.job.records import Job
from draxet.job.sides import runs_of
from draxet.make.coupons import grid_coupon, slat_coupon, width_of_cut
from draxet.make.operator import cost_of, operators_list
from draxet.record import record
from draxet.ui.controls.fields import WordField
from draxet.ui.controls.slip_parts import button, emptied, fact_row, field_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.model.shelf import kept_machines
from draxet.ui.model.tool import ContourMark, LineMark, Mark, Prompt, TagMark, Waiting
from draxet.ui.stages.make.machine_exchange import MachineFiles
from draxet.ui.stages.make.machine_parts import MachineParts
from draxet.ui.stages.make.machine_words import MachineWords

__all__ = ["MachineSlip", "MachineTool"]

_ASKED = (
    "reach_x",
    "reach_y",
    "speeds",
    "most_feed",
    "travel",
    "acceleration",
    "least_step",
    "most_moves",
    "cut_width",
    "pierce",
    "power_scale",
    "burn",
    "spindle",
    "safe_height",
    "plunge",
    "has_air",
    "height_control",
    "cutter_change",
    "arcs",
    "pilot",
    "hoop_x",
    "hoop_y",
    "is_round",
    "at_x",
    "at_y",
    "needles",
    "trims_itself",
    "a_minute",
    "longest",
    "shortest",
    "densest",
    "trim",
    "change",
    "box_x",
    "box_y",
    "box_z",
    "layer",
    "flow",
)


@record
class _Kind:
    kind: Annotated[
        str, Asked("Kind", choices=tuple((of.traits.key, of.traits.key) for of in MACHINE_KINDS))
    ] = ""


class MachineTool(Waiting):
    """Shows how far the machine reaches."""

    title = "Machine"

    def __init__(self, session: Session) -> None:
        super().__init__(
            Prompt(
                "Machine: choose the one that this sheet is worked on.",
                "its reach is drawn on the sheet",
            )
        )
        self._session = session

    def marks(self) -> list[Mark]:
        sheet = self._session.job.sheet
        machine = self._session.job.machine_of(sheet)
        if machine.reach is None:
            return []
        there = Affine.moved(sheet.x, sheet.y)
        reach = machine.reach.transformed(there)
        x0, _, _, y1 = reach.box
        shown: list[Mark] = [ContourMark((reach,), "hand")]
        if machine.reach_is_box:
            corners = reach.nodes.tolist()
            sides = zip(corners, [*corners[1:], corners[0]], strict=True)
            shown = [LineMark(*begin, *end) for begin, end in sides]
        clear = (
            [
                ContourMark(
                    tuple(area.outline.transformed(there) for area in machine.keep_clear), "fault"
                )
            ]
            if machine.keep_clear
            else []
        )
        return [*shown, *clear, TagMark(x0, y1, f"reach of the {machine.name.lower()}", "note")]


class MachineSlip(MachineFiles):
    """The machines there are, and the settings of the one that is chosen; a changed one belongs to
    this job."""

    def __init__(self, session: Session, tool: MachineTool) -> None:
        super().__init__(
            session,
            "Machine",
            "Each sheet has its machine. One that is changed here belongs to this job alone.",
        )
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self.body.addLayout(self._list)
        self.copy = button("One like it", "plain", self._copy)
        self.keep = button("Keep for all jobs", "plain", self._keep)
        self._kept = kept_machines()
        self.name = WordField("Name of the machine", 60)
        self.name.entered.connect(
            lambda words: self._change("name", words) if words else self.refresh()
        )
        self._kind_row, self._kind = fact_row("Kind")
        self.add(
            side_by_side(self.copy, self.keep), field_row("Name", self.name, 160), self._kind_row
        )
        self.kind = self.ask(_Kind(), self._change_kind)
        self.asked = self.ask(self.machine, self._change, _ASKED, MACHINES)
        self.parts = MachineParts(self, self._change)
        self.program_words = MachineWords(
            self, self.machine.dialect, lambda dialect: self._change("dialect", dialect)
        )
        self.add(self.parts, self.program_words)
        self.add(
            label(
                "What it takes away, how fast it goes and how it speeds up give the time in the strip below.",
                "quiet",
                wrap=True,
            )
        )
        self._lay_out_facts()
        self._lay_out_files()
        self._shown: object = None
        self.refresh()

    def _lay_out_facts(self) -> None:
        """What it has to do here."""
        share, self._share = fact_row("Of the sheet")
        time, self._time = fact_row("Machine time")
        self._before = label("", "quiet", wrap=True)
        thin, self._thin = fact_row("Places left out")
        self.add(share, time, thin, label("Before it runs", "section"), self._before)

    def _lay_out_files(self) -> None:
        """Machines and recipes from and to files, and coupons."""
        for what, read, write in (
            ("Machines", self._ask_machines, self.write_machines),
            ("Recipes", self._ask_recipes, self.write_recipes),
        ):
            come = button("From a file …", "plain", read)
            go = button("To a file …", "plain", partial(self._ask_where, what, write))
            come.setAccessibleName(f"{what} from a file …")
            go.setAccessibleName(f"{what} to a file …")
            self.add(label(what, "section"), side_by_side(come, go))
        self.gap = self.length_field("Gap of the slats")
        self.gap.entered.connect(self._take_gap)
        self.add(
            label("Coupons, as jobs of their own", "section"),
            side_by_side(
                button("Power by feed", "plain", self._grid),
                button("Cut width", "plain", self._slats),
            ),
        )
        self.add(field_row("Gap of the slats", self.gap, 110))

    # --- recipes and coupons

    def _grid(self) -> None:
        sheet, machine = self.session.job.sheet, self.machine
        if machine.traits.draws or not machine.runs_program:
            self.session.messages.refused.emit(
                f"The {machine.name.lower()} has no power to try; choose another machine."
            )
            return
        most = min(machine.most_feed, 12_000.0)
        feeds = tuple(round(most * share) for share in (0.1, 0.25, 0.5, 0.75, 1.0))
        laser = machine.traits.has_power
        job = grid_coupon(
            machine,
            sheet.material,
            sheet.thickness,
            (20.0, 40.0, 60.0, 80.0, 100.0) if laser else (100.0,),
            feeds,
            Engrave if laser else CutThrough,
        )
        self.session.messages.coupon_asked.emit(job)

    def _slats(self) -> None:
        sheet, job = self.session.job.sheet, self.session.job
        last = next(
            (each for each in reversed(job.operations) if each.through),
            CutThrough(width=self.machine.cut_width),
        )
        self.session.messages.coupon_asked.emit(
            slat_coupon(self.machine, sheet.material, sheet.thickness, last)
        )

    def _take_gap(self, mm: float) -> None:
        """The gap that a cut coupon's slats left becomes the machine's cut width."""
        width = width_of_cut(mm)
        self._change("cut_width", width)
        self.gap.empty()
        self.session.messages.announced.emit(
            f"The cut is {width:.3f} mm wide; the machine goes by it from now on"
        )

    def _change(self, name: str, value: object, gesture: object = None) -> None:
        changed: dict[str, Any] = {name: value}
        self.session.edit(
            "set the machine",
            set_machine(self.session.job, replace(self.machine, **changed)),
            gesture,
        )
        self.session.tool_changed.emit()

    def _change_kind(self, name: str, key: str, gesture: object) -> None:
        kind = next(each for each in MACHINE_KINDS if each.traits.key == key)
        made = of_kind(self.machine, kind)
        self.session.edit("set the machine", set_machine(self.session.job, made))
        self.session.tool_changed.emit()

    def _copy(self) -> None:
        job, like = self.session.job, self.machine
        made = replace(like, id=f"machine-{job.next_id}", name=f"{like.name} 2")
        job = set_machine(replace(job, next_id=job.next_id + 1), made)
        self.session.edit("make a machine", choose_machine(job, job.sheet.id, made.id))
        self.session.tool_changed.emit()

    def _choose(self, machine: Machine) -> None:
        job = self.session.job
        if machine not in job.every_machine:  # from the shelf
            machine = replace(machine, id=f"machine-{job.next_id}")
            job = set_machine(replace(job, next_id=job.next_id + 1), machine)
        self.session.edit("choose the machine", choose_machine(job, job.sheet.id, machine.id))
        self.session.tool_changed.emit()

    def _choose_id(self, machine_id: str) -> None:
        """One of those of the job, or none: the one that goes by the material."""
        job = self.session.job
        self.session.edit("choose the machine", choose_machine(job, job.sheet.id, machine_id))
        self.session.tool_changed.emit()

    def refresh(self) -> None:
        job, machine = self.session.job, self.machine
        self.asked.show_of(machine)
        self.parts.refresh()
        self.program_words.show_of(machine.dialect)
        self.name.set_value(machine.name)
        self._kind.setText(machine.kind)
        self._refresh_facts(job, machine)
        is_own = machine.id not in {each.id for each in MACHINES}
        for name, row in self.asked.rows.items():
            row.setVisible(machine.has(name))
        self.kind.show_of(_Kind(machine.kind))
        self.kind.setVisible(is_own)
        self._kind_row.setVisible(not is_own)
        if machine.outline is not None:
            for name in ("reach_x", "reach_y"):
                self.asked.rows[name].hide()
        self.program_words.setVisible(machine.has("dialect"))
        self.parts.setVisible(machine.has("keep_clear"))
        state = job.every_machine, job.sheet
        if self._shown != state:
            self._shown = state
            self._list_machines(job, machine)

    def _list_machines(self, job: Job, machine: Machine) -> None:
        """Those of the job, and those kept for all jobs."""
        emptied(self._list)
        names = {each.name for each in job.every_machine}
        kept = (each for each in self._kept if each.name not in names)
        by_itself = machine_for(job.every_machine, job.sheet.material, job.sheet.thickness)
        first = button(
            f"By the material · {by_itself.name}" if by_itself else "By the material · none fits",
            "row",
            partial(self._choose_id, ""),
        )
        first.setCheckable(True)
        first.setChecked(not job.sheet.machine)
        self._list.addWidget(first)
        for each in (*job.every_machine, *kept):
            row = button(f"{each.name} · {each.kind}", "row", partial(self._choose, each))
            row.setCheckable(True)
            row.setChecked(each.id == job.sheet.machine)
            self._list.addWidget(row)

    def _refresh_facts(self, job: Job, machine: Machine) -> None:
        """What it has to do on this sheet, and what is to be seen to before."""
        runs = runs_of(job)
        seconds = sum(
            program.seconds
            for run, program in zip(runs, self.session.looked.products, strict=False)
            if run.sheet == job.sheet
        )
        cost = cost_of(job, job.sheet, seconds)
        self._share.setText(f"{100 * cost.share:.0f} %")
        self._time.setText(f"{cost.seconds / 60:.1f} min" if cost.seconds else "–")
        count, off = max(
            (
                product.thinned
                for product in self.session.looked.products
                if isinstance(product, Program)
            ),
            default=(0, 0.0),
        )
        self._thin.setText(f"{count} · within {off:.3f} mm" if count else "none")
        before = operators_list(job, job.sheet)
        self._before.setText("\n".join(f"· {words}" for words in before))
