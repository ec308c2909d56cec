"""The codec: frozen records to plain values for JSON and back, by their fields and those fields'
types.

A record becomes an object with its fields by name; where several kinds are possible it bears its
kind's name as ``kind``. Fields that are not there take their defaults, so files of older versions
can be read. Arrays and files go into ``Parts``, beside the JSON, and are named in it by where they
lie.
"""

from __future__ import annotations

import dataclasses
import functools
import math
import types
from collections.abc import Callable
from enum import Enum
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin, get_type_hints

from draxet.geometry.contour import Contour
from draxet.job.codec_parts import CodecError, Parts, quoted
from draxet.job.ranges import Each

__all__ = ["fields_of", "notes_of", "read_record", "written"]

Record = TypeVar("Record")


def written(hint: Any, value: Any, parts: Parts) -> Any:
    """A value of the type `hint` as what JSON can hold."""
    return None if value is None else _writer(hint)(value, parts)


@functools.cache
def _writer(hint: Any) -> Callable[[Any, Parts], Any]:
    """What writes values of a type, other than None."""
    origin, arguments = get_origin(hint), get_args(hint)
    if origin is Annotated:
        return _writer(arguments[0])
    if origin in (Union, types.UnionType):
        kinds = [each for each in arguments if each is not type(None)]
        return (
            _writer(kinds[0])
            if len(kinds) == 1
            else lambda value, parts: {
                "kind": type(value).__name__,
                **written(type(value), value, parts),
            }
        )
    if origin is tuple and arguments[-1] is not Ellipsis:
        return lambda value, parts: [
            written(of, entry, parts) for of, entry in zip(arguments, value, strict=True)
        ]
    if origin in (tuple, list, set):
        return lambda value, parts: [
            written(arguments[0], entry, parts)
            for entry in (sorted(value) if origin is set else value)
        ]
    if hint is Contour:
        return lambda value, parts: parts.put_contour(value)
    if hint is bytes:
        return lambda value, parts: parts.put_file(value)
    if dataclasses.is_dataclass(hint):
        kind: Any = hint
        fields = [(name, of) for name, of, _ in fields_of(kind)]
        return lambda value, parts: {
            name: written(of, getattr(value, name), parts) for name, of in fields
        }
    if isinstance(hint, type) and issubclass(hint, Enum):
        return lambda value, parts: value.value
    return lambda value, parts: hint(value)  # a NumPy number becomes a plain one


@functools.cache
def fields_of(record: Any) -> tuple[tuple[str, Any, Any], ...]:
    """Names, types and defaults (``MISSING`` where there is none) of a record's fields."""
    hints = get_type_hints(record, include_extras=True)
    return tuple(
        (
            f.name,
            hints[f.name],
            f.default_factory() if f.default_factory is not dataclasses.MISSING else f.default,
        )
        for f in dataclasses.fields(record)
    )


def notes_of(record: Any) -> dict[str, tuple[Any, ...]]:
    """What is noted beside each field of a record (ranges, choices, how it is asked for)."""
    kind: Any = type(record)
    return {
        name: get_args(of)[1:] if get_origin(of) is Annotated else ()
        for name, of, _ in fields_of(kind)
    }


def read_record(
    hint: type[Record],
    words: Any,
    parts: Parts,
    where: str,
    drop: Callable[[str, str], None],
    sound: Callable[[Any, Any, str], str],
    *,
    lenient: bool = False,
) -> Record:
    """A record from what JSON held.

    Parameters
    ----------
    where : the record's name, for messages.
    drop : told, for an entry that is left out because it is unsound, what it is and why.
    sound : says of a type, a value and its name what is unsound about it; empty where nothing is.
    lenient : whether a field of the record that
        cannot be read takes its default, which `drop` is told.

    Raises
    ------
    CodecError : where it is no sound record; one sentence says which value.
    """
    reader = _Reader(parts, drop, sound)
    found: Record = (
        reader.record(hint, words, where, lenient=lenient)
        if dataclasses.is_dataclass(hint)
        else reader.value(hint, words, where)  # one of several kinds
    )
    return found


class _Reader:
    def __init__(
        self, parts: Parts, drop: Callable[[str, str], None], sound: Callable[[Any, Any, str], str]
    ) -> None:
        self.parts, self.drop, self.sound = parts, drop, sound

    def value(self, hint: Any, words: Any, where: str) -> Any:
        return _way_in(hint)(self, words, where)

    def record(self, hint: Any, words: Any, where: str, *, lenient: bool = False) -> Any:
        if not isinstance(words, dict):
            raise CodecError(f"{where} must be an object, got {quoted(words)}")
        values = {}
        for name, of, default in fields_of(hint):
            if name in words:
                try:
                    values[name] = self.value(of, words[name], f"{where}.{name}")
                except CodecError as error:
                    if not lenient or default is dataclasses.MISSING:
                        raise
                    self.drop(name.replace("_", " "), str(error))
            elif default is dataclasses.MISSING:
                raise CodecError(f"{where} has no {name}")
        return hint(**values)

    def entries(self, hint: Any, words: Any, where: str, each: Each) -> Any:
        """A list of which the sound entries are kept."""
        _look_at_list(words, where)
        of, kept = get_args(hint)[0], []
        for number, entry in enumerate(words):
            try:
                value = self.value(of, entry, f"{where}[{number}]")
                if fault := self.sound(of, value, f"{where}[{number}]"):
                    raise CodecError(fault)
                kept.append(value)
            except CodecError as error:
                self.drop(each.what, str(error))
        return tuple(kept)

    def many(self, origin: Any, arguments: Any, words: Any, where: str) -> list[Any]:
        _look_at_list(words, where)
        fixed = origin is tuple and arguments[-1] is not Ellipsis
        if fixed and len(words) != len(arguments):
            raise CodecError(f"{where} must have {len(arguments)} entries, got {len(words)}")
        return [
            self.value(arguments[k] if fixed else arguments[0], entry, f"{where}[{k}]")
            for k, entry in enumerate(words)
        ]

    def one_of(self, kinds: Any, words: Any, where: str) -> Any:
        if words is None and type(None) in kinds:
            return None
        real = [kind for kind in kinds if kind is not type(None)]
        if len(real) == 1:
            return self.value(real[0], words, where)
        by_name = {kind.__name__: kind for kind in real}
        name = words.get("kind") if isinstance(words, dict) else None
        if not isinstance(name, str) or name not in by_name:
            raise CodecError(f"{where} must be one of {', '.join(by_name)}, got {quoted(name)}")
        return self.record(by_name[name], words, where)

    def plain(self, hint: Any, words: Any, where: str) -> Any:
        if hint is float and type(words) in (int, float):
            try:
                value = float(words)
            except OverflowError:
                value = math.inf
            if math.isfinite(value):
                return value
            raise CodecError(f"{where} must be a finite number, got {quoted(words)}")
        if hint in (int, str, bool) and type(words) is hint:
            return words
        if isinstance(hint, type) and issubclass(hint, Enum):
            if isinstance(words, str) and any(words == member.value for member in hint):
                return hint(words)
            raise CodecError(
                f"{where} must be one of {', '.join(str(member.value) for member in hint)}, got {quoted(words)}"
            )
        raise CodecError(
            f"{where} must be of kind {getattr(hint, '__name__', hint)}, got {quoted(words)}"
        )


@functools.cache
def _way_in(hint: Any) -> Callable[[_Reader, Any, str], Any]:
    """What reads values of a type."""
    origin, arguments = get_origin(hint), get_args(hint)
    if origin is Annotated:
        each = next((note for note in arguments[1:] if isinstance(note, Each)), None)
        return (
            _way_in(arguments[0])
            if each is None
            else lambda reader, words, where: reader.entries(arguments[0], words, where, each)
        )
    if origin in (Union, types.UnionType):
        return lambda reader, words, where: reader.one_of(arguments, words, where)
    if origin in (tuple, list, set):
        kind: Any = origin
        return lambda reader, words, where: kind(reader.many(origin, arguments, words, where))
    if hint is Contour:
        return lambda reader, words, where: reader.parts.contour(words, where)
    if hint is bytes:
        return lambda reader, words, where: reader.parts.file(words, where)
    if dataclasses.is_dataclass(hint):
        return lambda reader, words, where: reader.record(hint, words, where)
    return lambda reader, words, where: reader.plain(hint, words, where)


def _look_at_list(words: Any, where: str) -> None:
    if not isinstance(words, list):
        raise CodecError(f"{where} must be a list, got {quoted(words)}")
