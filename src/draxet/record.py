"""A record: a dataclass whose methods are made when they are needed, so that a hundred kinds of
them do not hold the window up.

The first few records of a kind are put together without them; whoever compares, prints or changes
one, asks for its fields, or makes many, has the dataclass made.
"""

from __future__ import annotations

import dataclasses
import threading
from collections.abc import Callable, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Any

__all__ = ["record"]

_MAKING = threading.RLock()
_FIELDS, _START, _RESTORE = "__dataclass_fields__", "__init__", "__setstate__"
_FEW = 200
_NONE = object()
_NOT_PLAIN = ("ClassVar", "InitVar", "KW_ONLY")

if TYPE_CHECKING:
    from dataclasses import dataclass as record
else:

    def record(kind: type | None = None, **how: Any) -> Any:
        """As `dataclasses.dataclass`, and to be used in its place; slots are not for it."""
        if kind is None:
            return lambda kind: record(kind, **how)
        _Waiting(kind, how)
        return kind


class _Waiting:
    """Stands on a class in the place of its fields, and makes the dataclass when that is needed."""

    def __init__(self, kind: type, how: dict[str, Any]) -> None:
        self.kind, self.how, self.made, self._few = kind, how, False, _FEW
        compared, frozen = how.get("eq", True), how.get("frozen", False)
        asked = (
            "__repr__",
            *(("__eq__", "__hash__") if compared else ()),
            *(("__setattr__", "__delattr__") if frozen else ()),
        )
        self.stand_ins = {_FIELDS: self, _START: _starting(self), _RESTORE: _restoring(self)}
        self.stand_ins |= {
            name: _asking(self, name) if frozen or name != "__hash__" else None
            for name in asked
            if name not in vars(kind)
        }
        for name, stand_in in self.stand_ins.items():
            setattr(kind, name, stand_in)

    def __get__(self, one: object, owner: type) -> Any:
        self.make()
        return getattr(owner, _FIELDS)

    def make(self) -> None:
        """Make the dataclass beside the class, then take over what it has: other threads never see
        one half made."""
        with _MAKING:
            if self.made:
                return
            kind = self.kind
            own = {
                name: value
                for name, value in vars(kind).items()
                if name not in self.stand_ins and name not in ("__dict__", "__weakref__")
            }
            done = vars(
                dataclasses.dataclass(**self.how)(type(kind)(kind.__name__, kind.__bases__, own))
            )
            for name in own.keys() - done.keys():
                delattr(kind, name)  # a field that was described, without a default
            new = {
                name: value
                for name, value in done.items()
                if name not in ("__dict__", "__weakref__") and own.get(name, self) is not value
            }
            for name in sorted(new, key=(_FIELDS, _START).__contains__):
                setattr(kind, name, new[name])
            for name in self.stand_ins.keys() - new.keys():
                delattr(kind, name)
            self.made = True

    def values(self, given: tuple[Any, ...], named: Mapping[str, Any]) -> dict[str, Any] | None:
        """The fields of one of the first few records; None where it is to be left to the
        dataclass."""
        if not self._few or self.made or self.plain is None or len(given) > len(self.plain):
            return None
        self._few -= 1
        found = dict(zip(self.plain, given, strict=False))
        if found.keys() & named.keys() or not named.keys() <= self.plain.keys():
            return None
        for name in list(self.plain)[len(given) :]:
            found[name] = named.get(name, self.plain[name])
            if found[name] is _NONE:
                return None
        return found

    @cached_property
    def plain(self) -> dict[str, Any] | None:
        """Every field with its default; None where one of them is more than a name with a value."""
        found = dict[str, Any]()
        for base in self.kind.__mro__[-1:0:-1]:
            fields = vars(base).get(_FIELDS, {})
            if isinstance(fields, _Waiting):
                if fields.plain is None:
                    return None
                found |= fields.plain
                continue
            if any(
                not each.init or each.kw_only or each.default_factory is not dataclasses.MISSING
                for each in fields.values()
            ):
                return None
            found |= {
                name: _NONE if each.default is dataclasses.MISSING else each.default
                for name, each in fields.items()
            }
        for (
            name,
            kind,
        ) in self.kind.__annotations__.items():  # its own alone, wherever a Python keeps them
            found[name] = getattr(self.kind, name, _NONE)
            if isinstance(found[name], dataclasses.Field) or any(
                word in str(kind) for word in _NOT_PLAIN
            ):
                return None
        return found


def _starting(waiting: _Waiting) -> Callable[..., None]:
    def __init__(self: Any, *given: Any, **named: Any) -> None:
        values = waiting.values(given, named)
        if values is None:
            waiting.make()
            getattr(waiting.kind, _START)(self, *given, **named)
        else:
            vars(self).update(values)
            if ready := getattr(self, "__post_init__", None):
                ready()

    return __init__


def _restoring(waiting: _Waiting) -> Callable[..., None]:
    def __setstate__(self: Any, state: dict[str, Any]) -> None:
        waiting.make()
        self.__dict__.update(state)

    return __setstate__


def _asking(waiting: _Waiting, name: str) -> Callable[..., Any]:
    """A method that has the dataclass made and is then its own."""

    def ask(self: Any, *given: Any) -> Any:
        waiting.make()
        return getattr(waiting.kind, name)(self, *given)

    return ask
