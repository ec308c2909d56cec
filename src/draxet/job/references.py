"""What refers to what in a job, read from the types of its records' fields (``Refers``): so that
nothing is left referring to what is gone, and what is copied refers to copies.

A record whose references want more than to be cleared has a method `without` of its own.
"""

from __future__ import annotations

import functools
import types
from collections.abc import Container, Iterable, Iterator, Mapping
from dataclasses import is_dataclass, replace
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin

from draxet.job.codec import fields_of
from draxet.job.ranges import Each, Refers
from draxet.job.records import Job

__all__ = [
    "all_renamed",
    "lists_of",
    "references_of",
    "references_of_kind",
    "removed",
    "renamed",
    "without",
]

_Record = TypeVar("_Record")


def lists_of(job: Job) -> dict[str, tuple[Any, ...]]:
    """The fields of a job that hold records of their own, and of which kinds these are."""
    kind: Any = type(job)
    return _lists_of(kind)


@functools.cache
def _lists_of(job: Any) -> dict[str, tuple[Any, ...]]:
    return {
        name: _kinds(get_args(get_args(of)[0])[0])
        for name, of, _ in fields_of(job)
        if any(isinstance(note, Each) for note in get_args(of)[1:])
    }


def _kinds(hint: Any) -> tuple[Any, ...]:
    return get_args(hint) if get_origin(hint) in (Union, types.UnionType) else (hint,)


def references_of(record: object) -> dict[str, Refers]:
    """The fields of a record that refer to something, be it to several."""
    kind: Any = type(record)
    return references_of_kind(kind)


@functools.cache
def references_of_kind(kind: Any) -> dict[str, Refers]:
    """The same of a kind of records."""
    found = ((name, _refers(of)) for name, of, _ in fields_of(kind))
    return {name: refers for name, refers in found if refers is not None}


def _refers(hint: Any) -> Refers | None:
    if get_origin(hint) is Annotated:
        own = (note for note in get_args(hint)[1:] if isinstance(note, Refers))
        return next(own, None) or _refers(get_args(hint)[0])
    return _refers(get_args(hint)[0]) if get_origin(hint) is tuple else None


@functools.cache
def _fields_meant(kind: Any) -> frozenset[str]:
    """The fields of a job that a record refers to, itself or in the records that it holds."""
    inner = (each for _, of, _ in fields_of(kind) for each in _records_in(of))
    own = {refers.field for refers in references_of_kind(kind).values()}
    return frozenset(own).union(*map(_fields_meant, inner))


def _records_in(hint: Any) -> Iterator[type]:
    for each in get_args(hint):
        if isinstance(each, type) and is_dataclass(each):
            yield each
        else:
            yield from _records_in(each)


def without(record: _Record, gone: Container[str]) -> _Record | None:
    """A record that refers to nothing that is gone; None where it goes along. The same one where it
    does not."""
    own = getattr(record, "without", None)
    if own is not None:
        found: _Record | None = own(gone)
        return found
    lost = [name for name in references_of(record) if getattr(record, name) in gone]
    if any(references_of(record)[name].goes for name in lost):
        return None
    return replace(record, **dict.fromkeys(lost, "")) if lost else record  # type: ignore[type-var]


def renamed(record: _Record, names: Mapping[str, str]) -> _Record:
    """A record that refers to others in the place of those that have another name now."""
    changes: dict[str, Any] = {}
    for name in references_of(record):
        value = getattr(record, name)
        now = (
            tuple(names.get(each, each) for each in value)
            if isinstance(value, tuple)
            else names.get(value, value)
        )
        if now != value:
            changes[name] = now
    return replace(record, **changes) if changes else record  # type: ignore[type-var]


def all_renamed(job: Job, names: Mapping[str, str]) -> Job:
    """A job in which everything that refers to others refers to those of another name."""
    changes: dict[str, Any] = {}
    for field in lists_of(job):
        old = getattr(job, field)
        new = tuple(_renamed_within(each, names) for each in old)
        if any(one is not other for one, other in zip(old, new, strict=True)):
            changes[field] = new
    return replace(job, **changes) if changes else job


def _renamed_within(record: Any, names: Mapping[str, str]) -> Any:
    """The same of the records that one holds as well."""
    record = renamed(record, names)
    kind: Any = type(record)
    for field, of, _ in fields_of(kind):
        if any(references_of_kind(kind) for kind in _records_in(of)):
            old = getattr(record, field)
            if isinstance(old, tuple):
                new = tuple(_renamed_within(each, names) for each in old)
                if new != old:
                    record = replace(record, **{field: new})
    return record


def removed(job: Job, field: str, ids: Iterable[str], *, kept: bool = False) -> Job:
    """The job without some records of a field, without what goes with them, and with no reference
    to either. `kept` : the records themselves stay."""
    waiting, stays = {field: frozenset(ids)}, field if kept else ""
    while waiting:  # what goes along may take others with it
        field, some = waiting.popitem()
        gone: frozenset[str] = some if stays == field else _Gone(some)
        changes = dict[str, Any]()
        for other, kinds in lists_of(job).items():
            left = getattr(job, other)
            if other == field and field != stays:
                left = tuple(each for each in left if each.id not in gone)
            if any(_meant_by(field) & _fields_meant(kind) for kind in kinds):
                now = [(each, without(each, gone)) for each in left]
                went = frozenset(_id(each) for each, kept in now if kept is None) - {""}
                if went:
                    waiting[other] = waiting.get(other, frozenset()) | went
                if any(kept is not each for each, kept in now):
                    left = tuple(kept for _, kept in now if kept is not None)
            if left is not getattr(job, other):
                changes[other] = left
        job = replace(job, **changes) if changes else job
    return job


class _Gone(frozenset[str]):
    """Ids of what is gone, and of all that was laid of it or by it."""

    def __contains__(self, name: object) -> bool:
        return super().__contains__(name) or (
            isinstance(name, str)
            and "/" in name
            and any(frozenset.__contains__(self, each) for each in name.split("/"))
        )


def _meant_by(field: str) -> frozenset[str]:
    """The fields whose things go with those of a field: with a placement what it lays."""
    return frozenset({field, "contours", "parts"} if field == "placements" else {field})


def _id(record: Any) -> str:
    """Its id; empty where it has none, and nothing can refer to it."""
    return str(getattr(record, "id", ""))
