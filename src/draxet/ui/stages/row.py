"""A stage's tools as data: a row for each, in the order of the card.

A tool and its slip are named, not imported: their module is loaded when the tool is first taken, so
that the window stands sooner.
"""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any, Protocol

from draxet.record import record
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Prompt, Tool, Waiting
from draxet.ui.stages.slip import Slip

__all__ = [
    "NOT_A_CONTOUR",
    "ActRow",
    "Hands",
    "ToolRow",
    "anything",
    "contours",
    "nothing",
    "picture",
]


NOT_A_CONTOUR = "a picture is not a contour and cannot be worked; trace it first"


class Brings(Protocol):
    """Brings pictures in."""

    def choose_picture(self) -> object: ...

    def paste_picture(self) -> object: ...

    def take_from_camera(self) -> object: ...


class Hands(Protocol):
    """What acts act with."""

    @property
    def session(self) -> Session: ...

    @property
    def opening(self) -> Brings: ...


def nothing(session: Session) -> str:
    """Needs nothing."""
    return ""


def picture(session: Session) -> str:
    """Needs a picture."""
    return "" if session.job.pictures else "choose a picture first"


def anything(session: Session) -> str:
    """Needs a picture or a contour."""
    return "" if session.job.pictures or session.job.contours else "choose a picture first"


def contours(session: Session) -> str:
    """Needs contours: a picture is none."""
    if session.job.contours:
        return ""
    return NOT_A_CONTOUR if session.job.pictures else "there are no contours yet"


@record(frozen=True, eq=False)
class ToolRow:
    """A tool that is taken in hand.

    tool : its class as ``module:Class`` in the stage's folder (a module with its whole name may lie
    anywhere), made with the session, or the words of one that has nothing to click.
    slip : its slip's class likewise, made with the session and the tool. key : its place on the card,
    which is its own: others may be empty. needs : why it cannot be taken now, else empty. of : the row of the card that stands for it and its like; empty for one
    with a row of its own.
    """

    id: str
    words: str
    icon: str
    tool: str | Prompt
    slip: str
    needs: Callable[[Session], str] = nothing
    of: str = ""
    key: str = ""

    def made(self, folder: str, session: Session) -> tuple[Tool, Slip]:
        """The tool, begun, and its slip; `folder` is the stage's package."""
        tool: Tool = (
            Waiting(self.tool)
            if isinstance(self.tool, Prompt)
            else _named(folder, self.tool)(session)
        )
        tool.begin()
        slip: Slip = _named(folder, self.slip)(session, tool)
        return tool, slip


@record(frozen=True, eq=False)
class ActRow:
    """Something that is done at once; `key` and `of` as of a tool."""

    id: str
    words: str
    icon: str
    act: Callable[[Hands], object]
    needs: Callable[[Session], str] = nothing
    of: str = ""
    key: str = ""


def _named(folder: str, name: str) -> Any:
    module, cls = name.split(":")
    return getattr(import_module(module if "." in module else f"{folder}.{module}"), cls)
