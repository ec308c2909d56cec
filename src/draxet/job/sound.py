"""Sound jobs: every value in its range, every id once, every reference to something that is there.

What Draxet holds is always sound: edits that would not be are refused, and of a file's parts only
the sound ones are kept.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any, TypeVar, get_args

from draxet.geometry.contour import know_extremes
from draxet.job.codec import fields_of
from draxet.job.contour_records import ContourItem, Part, Placement
from draxet.job.layout_counts import laid_count, stands
from draxet.job.picture_records import Picture
from draxet.job.ranges import Each
from draxet.job.records import Job
from draxet.job.references import references_of, without
from draxet.job.sheet_records import Sheet
from draxet.job.value_faults import fault_now, fault_of

__all__ = ["job_fault", "mended"]

_MOST_ID = 1_000_000_000
_MOST_LAID = 1_000_000
_Item = TypeVar("_Item", Sheet, Picture, ContourItem, Any)


def job_fault(job: Job, before: Job | None = None) -> str:
    """What is unsound about a job, as a sentence; empty where nothing is.

    Parameters
    ----------
    before : a sound job that shares what was not changed; only the rest is looked at.
    """
    for name, of, _ in fields_of(Job):
        value, old = getattr(job, name), getattr(before, name) if before else None
        if value is old:
            continue
        if isinstance(value, tuple):
            new, gone = _differing(value, old or ())
            olds, each = _by_id(gone), get_args(get_args(of)[0])[0]
            know_extremes([e.contour for e in new if isinstance(e, ContourItem)])
            faults = (
                fault_now(each, entry, olds.get(getattr(entry, "id", None)), name.removesuffix("s"))
                for entry in new
            )
            fault = next((words for words in faults if words), "")
        else:
            fault = fault_of(of, value, name)
        if fault:
            return fault
    if job.placements and (fault := _layout_fault(job)):
        return fault
    return "" if job.sheets else "the job must have a sheet"


def _differing(new: Sequence[Any], old: Sequence[Any]) -> tuple[list[Any], list[Any]]:
    """Those of new entries that are not among old ones, and those of the old ones that are not among
    these."""
    if len(new) == len(old):
        apart = [(a, b) for a, b in zip(new, old, strict=True) if a is not b]
        new, old = [a for a, _ in apart], [b for _, b in apart]
    known, now = set(map(id, old)), set(map(id, new))
    return [e for e in new if id(e) not in known], [e for e in old if id(e) not in now]


def _by_id(entries: Sequence[Any]) -> dict[Any, Any]:
    return {entry.id: entry for entry in entries if hasattr(entry, "id")}


def mended(job: Job, drop: Callable[[str, str], None]) -> Job:
    """A job of sound parts in which every id stands once and every reference leads somewhere;
    `drop` is told what is left out.

    Raises
    ------
    ValueError : where no sheet is left.
    """
    seen: set[str] = set()
    lists: dict[str, Any] = {
        name: _once(getattr(job, name), seen, what, drop) for name, what in _records_of_job()
    }
    if not lists["sheets"]:
        raise ValueError("the job has no sheet")
    lists["parts"] = _in_a_tree(lists["parts"])
    known = {name: {each.id for each in of if hasattr(each, "id")} for name, of in lists.items()}
    lists["placements"] = _laid_soundly(job, lists, known, drop)
    names = ("sheets", "contours", "parts", "placements")
    whole = replace(job, **{name: lists[name] for name in names})
    for name in ("contours", "parts"):
        known[name] = _Standing(known[name], whole, name == "parts")
    for name in lists.keys() - {"parts", "operations", "placements"}:
        lists[name] = tuple(
            left for each in lists[name] if (left := _tied(each, known, whole)) is not None
        )
    taken = dict[str, list[Any]]()
    left = known["contours"]
    operations = []
    for operation in (_led_somewhere(each, known) for each in lists["operations"]):
        ids = tuple(
            dict.fromkeys(
                c
                for c in operation.contours
                if c in left and not any(map(operation.displaces, taken.get(c, ())))
            )
        )
        for c in ids:
            taken.setdefault(c, []).append(operation)
        if ids or (operation.stands and not operation.contours):
            operations.append(
                operation if ids == operation.contours else operation.with_contours(ids)
            )
        else:
            drop("operation", f"{operation.name} names no contour of the job")
    lists["operations"] = tuple(operations)
    sheet_id = job.sheet_id if job.sheet_id in known["sheets"] else lists["sheets"][0].id
    return replace(
        job, **lists, sheet_id=sheet_id, next_id=max(job.next_id, 1 + _greatest_number(seen))
    )


def _led_somewhere(operation: Any, known: dict[str, set[str]]) -> Any:
    """An operation that refers to nothing that is not there, but for the contours that it works."""
    lost = {
        field: ""
        for field, refers in references_of(operation).items()
        if isinstance(value := getattr(operation, field), str)
        and value
        and value not in known.get(refers.field, ())
    }
    return replace(operation, **lost) if lost else operation


def _once(
    items: Sequence[Any], seen: set[str], what: str, drop: Callable[[str, str], None]
) -> tuple[Any, ...]:
    kept = []
    for item in items:
        name = getattr(item, "id", None)
        if name in seen:
            drop(what, f"its id {name!r} stands twice")
        else:
            kept.append(item)
            seen |= {name} if name else set()
    return tuple(kept)


class _Standing(set[str]):
    """Ids of what is drawn, and of all that is laid of it."""

    def __init__(self, names: set[str], job: Job, parts: bool) -> None:
        super().__init__(names)
        self._job, self._parts = job, parts

    def __contains__(self, name: object) -> bool:
        return super().__contains__(name) or (
            isinstance(name, str)
            and bool(self._job.placements)
            and stands(self._job, name, part=self._parts)
        )


def _laid_soundly(
    job: Job,
    lists: dict[str, Any],
    known: dict[str, set[str]],
    drop: Callable[[str, str], None],
) -> tuple[Placement, ...]:
    """Placements of parts that are there; none where they hold each other or are too many."""
    found = [_tied(each, known, job) for each in lists["placements"]]
    for before, each in zip(lists["placements"], found, strict=True):
        if each is None:
            drop("placement", f"its part {before.part!r} is not there")
    kept = tuple(each for each in found if each is not None)
    names = ("contours", "parts")
    fault = _layout_fault(replace(job, **{k: lists[k] for k in names}, placements=kept))
    for _ in kept if fault else ():
        drop("placement", fault)
    return () if fault else kept


def _layout_fault(job: Job) -> str:
    """What is wrong with the placements of a job as a whole; empty where nothing is."""
    count = laid_count(job)
    if count < 0:
        return "a part cannot be laid within itself"
    if count > _MOST_LAID:
        return f"placements may lay {_MOST_LAID:,} contours, got {count:,}".replace(",", " ")
    return ""


def _in_a_tree(groups: tuple[Part, ...]) -> tuple[Part, ...]:
    """Groups of which each stands in one that is there or in none, and none in itself."""
    parent: dict[str, str] = {}
    for group in groups:
        above = group.within
        while above in parent:
            above = parent[above]
        known = any(other.id == group.within for other in groups)
        parent[group.id] = group.within if known and above != group.id else ""
    return tuple(
        group if group.within == parent[group.id] else replace(group, within=parent[group.id])
        for group in groups
    )


def _tied(record: Any, known: dict[str, set[str]], job: Job) -> Any:
    """A record that refers to what is there, or to nothing; None where it goes along with what is
    not. A contour belongs to a sheet that is there."""
    lost = {
        name
        for field, refers in references_of(record).items()
        if refers.field in known
        for name in _named(getattr(record, field))
        if name and name not in known[refers.field]
    }
    record = without(record, lost) if lost else record
    if isinstance(record, ContourItem) and not record.sheet:
        return replace(record, sheet=job.sheet_under(record.box) or job.sheet.id)
    return record


def _named(value: Any) -> tuple[str, ...]:
    return value if isinstance(value, tuple) else (value,)


@functools.cache
def _records_of_job() -> tuple[tuple[str, str], ...]:
    """The fields of a job that hold records of their own, and what one of them is called."""
    return tuple(
        (name, note.what)
        for name, of, _ in fields_of(Job)
        for note in get_args(of)[1:]
        if isinstance(note, Each)
    )


def _greatest_number(ids: set[str]) -> int:
    """The greatest number that an id ends in, of those that Draxet gives."""
    ends = (name.rsplit("-", 1)[-1] for name in ids)
    return max(
        (int(end) for end in ends if end.isascii() and end.isdigit() and len(end) < 10), default=0
    )
