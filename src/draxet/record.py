"""A record: a dataclass whose methods are made when it is first used, so that a hundred kinds of them do not hold the window up."""

from __future__ import annotations

import dataclasses
import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

__all__ = ["record"]

_MAKING = threading.RLock()
_FIELDS, _START, _RESTORE = "__dataclass_fields__", "__init__", "__setstate__"

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
    """Stands on a class in the place of its fields, and makes them when anybody asks for them, or for a first record."""

    def __init__(self, kind: type, how: dict[str, Any]) -> None:
        self.kind, self.how, self.made = kind, how, False
        for name, stand_in in ((_FIELDS, self), (_START, _starting(self)), (_RESTORE, _restoring(self))):
            setattr(kind, name, stand_in)

    def __get__(self, one: object, owner: type) -> Any:
        self.make()
        return getattr(owner, _FIELDS)

    def make(self) -> None:
        """Make the dataclass beside the class, then take over what it has: other threads never see one half made."""
        with _MAKING:
            if self.made:
                return
            kind = self.kind
            own = {name: value for name, value in vars(kind).items() if name not in (_FIELDS, _START, _RESTORE, "__dict__", "__weakref__")}
            done = vars(dataclasses.dataclass(**self.how)(type(kind)(kind.__name__, kind.__bases__, own)))
            for name in own.keys() - done.keys():
                delattr(kind, name)  # a field that was described, without a default
            new = {name: value for name, value in done.items() if name not in ("__dict__", "__weakref__") and own.get(name, self) is not value}
            for name in sorted(new, key=(_FIELDS, _START).__contains__):
                setattr(kind, name, new[name])
            delattr(kind, _RESTORE)
            self.made = True


def _starting(waiting: _Waiting) -> Callable[..., None]:
    def __init__(self: Any, *given: Any, **named: Any) -> None:
        waiting.make()
        getattr(waiting.kind, _START)(self, *given, **named)

    return __init__


def _restoring(waiting: _Waiting) -> Callable[..., None]:
    def __setstate__(self: Any, state: dict[str, Any]) -> None:
        waiting.make()
        self.__dict__.update(state)

    return __setstate__
