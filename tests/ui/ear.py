"""A reader of the screen: it knows of a window what the accessibility bus says of it, by a D-Bus
library that shares nothing with Qt."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from jeepney import DBusAddress, HeaderFields, MatchRule, MessageType, message_bus, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection

_ACCESSIBLE, _PROPERTIES = "org.a11y.atspi.Accessible", "org.freedesktop.DBus.Properties"
_REGISTRY = DBusAddress(
    "/org/a11y/atspi/registry", "org.a11y.atspi.Registry", "org.a11y.atspi.Registry"
)
_HEARD = (
    "object:announcement",
    "object:property-change:accessible-name",
    "object:state-changed:focused",
)
_WAIT_S = 20.0
_STATES = {
    1: "active",
    4: "checked",
    8: "enabled",
    11: "focusable",
    12: "focused",
    23: "selected",
    25: "showing",
}


@dataclass(frozen=True)
class Thing:
    """Something in the tree: whose, and by which path."""

    owner: str
    path: str


def _opened() -> DBusConnection:
    session = open_dbus_connection("SESSION")
    bus = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
    address = session.send_and_get_reply(new_method_call(bus, "GetAddress")).body[0]
    session.close()
    return open_dbus_connection(address)


class Ear:
    """What it hears is put down in `said` while it listens."""

    def __init__(self) -> None:
        self._bus, self._closed = _opened(), False
        self.said: list[tuple[str, str, bool]] = []
        """Announcement or name, its words, and whether it was urgent."""
        self._hears = _opened()
        for event in _HEARD:
            self._hears.send_and_get_reply(
                new_method_call(_REGISTRY, "RegisterEvent", "sass", (event, [], ""))
            )
        rule = MatchRule(type="signal", interface="org.a11y.atspi.Event.Object")
        self._hears.send_and_get_reply(message_bus.AddMatch(rule))
        self._thread = threading.Thread(target=self._listen)
        self._thread.start()

    def close(self) -> None:
        self._closed = True
        self._thread.join()
        self._hears.close()
        self._bus.close()

    def _listen(self) -> None:
        while not self._closed:
            try:
                told = self._hears.receive(timeout=0.2)
            except TimeoutError:
                continue
            if told.header.message_type is not MessageType.signal:
                continue
            kind, fields = told.header.fields[HeaderFields.member], told.body
            if kind == "Announcement":
                self.said.append(("announced", fields[3][1], fields[1] == 2))
            elif kind == "PropertyChange" and fields[0] == "accessible-name":
                self.said.append(("named", fields[3][1], False))

    def _call(self, thing: Thing, interface: str, method: str, form: str = "", *of: Any) -> Any:
        at = DBusAddress(thing.path, thing.owner, interface)
        call = new_method_call(at, method, form or None, of)
        answer = self._bus.send_and_get_reply(call, timeout=_WAIT_S)
        if answer.header.message_type is MessageType.error:
            raise LookupError(f"{method}: {answer.body}")
        return answer.body[0] if answer.body else None

    def application(self) -> Thing:
        """The one that is there."""
        root = Thing("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")
        until = time.monotonic() + _WAIT_S
        while time.monotonic() < until:
            if found := self.children(root):
                return found[0]
            time.sleep(0.2)
        raise LookupError("no application came")

    def children(self, thing: Thing) -> list[Thing]:
        return [Thing(*each) for each in self._call(thing, _ACCESSIBLE, "GetChildren")]

    def role(self, thing: Thing) -> str:
        return str(self._call(thing, _ACCESSIBLE, "GetRoleName"))

    def name(self, thing: Thing) -> str:
        return str(self._call(thing, _PROPERTIES, "Get", "ss", _ACCESSIBLE, "Name")[1])

    def description(self, thing: Thing) -> str:
        return str(self._call(thing, _PROPERTIES, "Get", "ss", _ACCESSIBLE, "Description")[1])

    def states(self, thing: Thing) -> set[str]:
        low = self._call(thing, _ACCESSIBLE, "GetState")[0]
        return {name for bit, name in _STATES.items() if low >> bit & 1}

    def box(self, thing: Thing) -> tuple[int, int, int, int]:
        """Left, top, width and height on the screen."""
        x, y, wide, high = self._call(thing, "org.a11y.atspi.Component", "GetExtents", "u", 0)
        return x, y, wide, high

    def value(self, thing: Thing) -> float:
        """What a slider shows."""
        form = "org.a11y.atspi.Value", "CurrentValue"
        return float(self._call(thing, _PROPERTIES, "Get", "ss", *form)[1])

    def choose(self, thing: Thing, number: int) -> bool:
        """Choose a child of a list."""
        return bool(self._call(thing, "org.a11y.atspi.Selection", "SelectChild", "i", number))

    def clear(self, thing: Thing) -> bool:
        """Choose nothing of a list."""
        return bool(self._call(thing, "org.a11y.atspi.Selection", "ClearSelection"))

    def walk(
        self, thing: Thing, enters: Callable[[str], bool] = lambda role: True
    ) -> Iterator[Thing]:
        """All beneath a thing."""
        for child in self.children(thing):
            yield child
            if enters(self.role(child)):
                yield from self.walk(child, enters)
