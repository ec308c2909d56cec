"""What a screen reader is told for which the Python binding of Qt has no words: announcements, and
what kind of thing the canvas is.

Qt keeps its binary interface for as long as its first number is the same; these few functions of it
are called as they are. Where one of them is lacking nothing is told, and names and descriptions,
which every widget has, must do.
"""

from __future__ import annotations

import atexit
import contextlib
import ctypes
from functools import cache
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QT_VERSION, QMetaObject
from PyQt6.QtWidgets import QWidget

__all__ = ["announce", "are_canvases", "is_read"]

_address: Any = sip.unwrapinstance
_wrapped: Any = sip.wrapinstance
_VTABLE = 2 * ctypes.sizeof(ctypes.c_void_p)
"""Before the first function of a class's table stand its offset and its type."""
_ENOUGH = 256
"""Bytes for a widget's accessible object, of which Qt 6 needs a part."""


class _Words(ctypes.Structure):
    """A string of Qt, which only borrows its letters."""

    _fields_ = (
        ("shared", ctypes.c_void_p),
        ("letters", ctypes.c_void_p),
        ("count", ctypes.c_ssize_t),
    )


class _Event(ctypes.Structure):
    """An announcement: what all events have, and its own."""

    _fields_ = (
        ("table", ctypes.c_void_p),
        ("kind", ctypes.c_int),
        ("thing", ctypes.c_void_p),
        ("child", ctypes.c_int),
        ("message", _Words),
        ("urgent", ctypes.c_int),
    )


_Factory = ctypes.CFUNCTYPE(ctypes.c_void_p, ctypes.POINTER(_Words), ctypes.c_void_p)


class _Qt:
    """The functions of Qt that are called here; AttributeError or OSError where one is not there."""

    def __init__(self) -> None:
        if QT_VERSION >> 16 != 6 or ctypes.sizeof(ctypes.c_void_p) != 8:
            raise OSError("another Qt")
        gui, widgets = ctypes.CDLL("libQt6Gui.so.6"), ctypes.CDLL("libQt6Widgets.so.6")
        self.active = gui._ZN11QAccessible8isActiveEv
        self.active.restype = ctypes.c_bool
        self.tell = gui._ZN11QAccessible19updateAccessibilityEP16QAccessibleEvent
        self.tell.argtypes = (ctypes.c_void_p,)
        self.tell.restype = None
        self.install = (
            gui._ZN11QAccessible14installFactoryEPFP20QAccessibleInterfaceRK7QStringP7QObjectE
        )
        self.install.argtypes = (_Factory,)
        self.install.restype = None
        self.remove = (
            gui._ZN11QAccessible13removeFactoryEPFP20QAccessibleInterfaceRK7QStringP7QObjectE
        )
        self.remove.argtypes = (_Factory,)
        self.remove.restype = None
        self.make = widgets._ZN17QAccessibleWidgetC1EP7QWidgetN11QAccessible4RoleERK7QString
        self.make.argtypes = (
            ctypes.c_void_p,
            ctypes.c_void_p,
            ctypes.c_int,
            ctypes.POINTER(_Words),
        )
        self.make.restype = None
        self.new = ctypes.CDLL("libstdc++.so.6")._Znwm
        self.new.argtypes, self.new.restype = (ctypes.c_size_t,), ctypes.c_void_p
        self.announcement = self._table(gui, "_ZTV28QAccessibleAnnouncementEvent")
        all_words = ctypes.addressof(
            ctypes.c_char.in_dll(gui, "_ZN11QAccessible16staticMetaObjectE")
        )
        self._enums: QMetaObject = _wrapped(all_words, QMetaObject)
        self.role = self._number("Role", "Canvas")
        self.announces = self._number("Event", "Announcement")
        self.factory = _Factory(self._made)
        self.roles: dict[str, int] = {}

    @staticmethod
    def _table(library: ctypes.CDLL, name: str) -> int:
        return ctypes.addressof(ctypes.c_char.in_dll(library, name)) + _VTABLE

    def _number(self, enum: str, name: str) -> int:
        found, known = self._enums.enumerator(self._enums.indexOfEnumerator(enum)).keyToValue(name)
        if not known:
            raise OSError(f"no {enum} {name}")
        return int(found)

    def _made(self, key: Any, thing: int | None) -> int | None:
        """An accessible object for a widget of a class that has its own role."""
        words = key.contents
        name = ctypes.string_at(words.letters, 2 * words.count).decode("utf-16-le")
        if thing is None or name not in self.roles:
            return None
        made: int = self.new(_ENOUGH)
        self.make(made, thing, self.roles[name], ctypes.byref(_Words()))
        return made


@cache
def _qt() -> _Qt | None:
    with contextlib.suppress(OSError, AttributeError, ValueError):
        return _Qt()
    return None


def is_read() -> bool:
    """Whether somebody listens; also where that cannot be asked."""
    qt = _qt()
    return qt is None or bool(qt.active())


def announce(widget: QWidget, words: str, *, urgent: bool = False) -> None:
    """Have words read out, wherever the keys are."""
    qt = _qt()
    if qt is None or not qt.active():
        return
    letters = ctypes.create_string_buffer(words.encode("utf-16-le") + b"\0\0")
    event = _Event(
        qt.announcement,
        qt.announces,
        _address(widget),
        -1,
        _Words(None, ctypes.addressof(letters), len(letters) // 2 - 1),
        int(urgent),
    )
    qt.tell(ctypes.byref(event))


def are_canvases(kind: type[QWidget]) -> None:
    """Widgets of a class are canvases: what is in them is drawn. To be said before there is one."""
    qt = _qt()
    if qt is not None:
        if not qt.roles:
            qt.install(qt.factory)
            atexit.register(qt.remove, qt.factory)
        qt.roles[kind.__name__] = qt.role
