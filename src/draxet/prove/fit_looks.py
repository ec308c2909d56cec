"""Looks at whether a sheet, its machine and what is done with them fit each other."""

from __future__ import annotations

from functools import partial

from draxet.job.findings import Finding, Gravity
from draxet.job.machine_kinds import Machine
from draxet.job.materials import is_metal, machine_for, must_not_burn
from draxet.job.operating import choose_machine, set_operation
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.prove.look_places import ids_and_middles

__all__ = ["passes_too_deep", "pierced_edges", "unchosen_machine", "unfit_material"]

_LEAD, _LEAST_LEAD = 2.0, 3.0
"""A lead that keeps a pierce off the part: so many cut widths, and so many mm at the least."""


def unchosen_machine(job: Job) -> list[Finding]:
    """Sheets that are worked on no machine that anybody chose, and whose material tells none."""
    found = []
    for sheet in job.sheets:
        if sheet.machine or not any(job.has_work(each, sheet) for each in job.operations):
            continue
        if machine_for(job.every_machine, sheet.material, sheet.thickness) is None:
            words = f"No machine is chosen for {sheet.name}, and {sheet.material}, {sheet.thickness:g} mm, tells none: choose one"
            found.append(Finding(f"no-machine-{sheet.id}", words, Gravity.STOPS, "make"))
    return found


def unfit_material(job: Job) -> list[Finding]:
    """Machines that cannot work what their sheet is made of, or must not."""
    found = []
    for sheet in job.sheets:
        machine = job.machine_of(sheet)
        some = [each for each in job.operations if job.has_work(each, sheet)]
        if why := _unfit(machine, sheet.material) if some else "":
            ids = {name for each in some for name in each.contours}
            items = [item for item in job.contours if item.id in ids and item.sheet == sheet.id]
            other = _other_machine(job, sheet, machine)
            found.append(
                Finding(
                    f"material-{sheet.id}",
                    f"{sheet.name} is {sheet.material}: {why}",
                    Gravity.STOPS,
                    "make",
                    *ids_and_middles(items),
                    partial(choose_machine, sheet_id=sheet.id, machine_id=other.id)
                    if other
                    else None,
                    f"Take the {other.name.lower()}" if other else "",
                )
            )
    return found


def _unfit(machine: Machine, material: str) -> str:
    if machine.traits.parts_metal and is_metal(material) is False:
        return f"the {machine.name.lower()} parts metal alone, by a current through it"
    if machine.traits.has_power and (why := must_not_burn(material)):
        return f"it must not be burnt, as it {why}"
    return ""


def _other_machine(job: Job, sheet: Sheet, machine: Machine) -> Machine | None:
    """The machine that goes by the material in its place."""
    other = machine_for(job.every_machine, sheet.material, sheet.thickness)
    if other is None or other.id == machine.id or _unfit(other, sheet.material):
        return None
    return other


def pierced_edges(job: Job) -> list[Finding]:
    """Cuts that begin on the part's edge on a machine that pierces: the hole is broader than the
    cut, and bites into the part."""
    found = []
    for sheet in job.sheets:
        machine = job.machine_of(sheet)
        if not machine.traits.pierces:
            continue
        for each in job.operations:
            if not each.through or each.lead > 0:
                continue
            here = {name for name, contour in job.worked_on(each, sheet) if contour.closed}
            if here:
                lead = max(_LEAD * each.width, _LEAST_LEAD)
                items = [job.contour_by_id[name] for name in each.contours if name in here]
                words = f"{each.name} pierces on the part's edge, and the hole bites into it: give it a lead-in"
                mend = partial(_changed, operation_id=each.id, name="lead", value=lead)
                found.append(
                    Finding(
                        f"pierce-{sheet.id}-{each.id}",
                        words,
                        Gravity.WARNS,
                        "make",
                        *ids_and_middles(items),
                        mend,
                        f"Lead-in {lead:g} mm",
                    )
                )
    return found


def passes_too_deep(job: Job) -> list[Finding]:
    """Passes that go deeper at once than their tool takes."""
    found = []
    for sheet in job.sheets:
        machine = job.machine_of(sheet)
        for each in job.operations:
            deepest = each.on(machine.traits).deepest_pass(sheet.thickness)
            most = machine.takes_at_once(each.broad)
            if deepest <= most + 1e-6 or not machine.traits.lowers or not job.has_work(each, sheet):
                continue
            words = f"{each.name} goes {deepest:.3g} mm deep in one pass; a tool of {each.broad:g} mm takes {most:g} mm"
            mend = partial(_changed, operation_id=each.id, name="pass_depth", value=most)
            ids = tuple(name for name in each.contours if name in job.contour_by_id)
            found.append(
                Finding(
                    f"pass-{sheet.id}-{each.id}",
                    words,
                    Gravity.WARNS,
                    "make",
                    ids,
                    (),
                    mend,
                    f"Depth a pass {most:g} mm",
                )
            )
    return found


def _changed(job: Job, operation_id: str, name: str, value: float) -> Job:
    operation = next(each for each in job.operations if each.id == operation_id)
    return set_operation(job, operation.changed(**{name: value}))
