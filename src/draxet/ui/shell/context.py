"""The menu on the right button: what fits the thing beneath the pointer."""

from __future__ import annotations

from collections.abc import Callable

from draxet.job.find import contour_at
from draxet.job.part_edits import with_whole_parts
from draxet.job.picture_edits import change_picture
from draxet.record import record
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer
from draxet.ui.stages.in_hand import picture_at

__all__ = ["Entry", "entries_at"]

_REACH = 8.0


@record(frozen=True)
class Entry:
    """A line of the menu: a command by its id, or words with what they do; neither for a rule
    between two lines."""

    command: str = ""
    words: str = ""
    key: str = ""
    run: Callable[[], object] | None = None


_RULE = Entry()
_CONTOUR = (
    "remove",
    "copy",
    "",
    "part",
    "apart",
    "own",
    "helpers",
    "",
    "to-front",
    "to-back",
    "",
    "hide",
    "only",
    "fit-chosen",
    "none",
)
_PICTURE = (
    "place",
    "prepare",
    "crop",
    "cover",
    "",
    "level",
    "known-length",
    "square",
    "",
    "edges",
    "middles",
    "walk",
    "",
    "beside",
    "remove-picture",
)
_NOTHING = ("paste-anywhere", "all", "show-all", "", "fit", "view-before", "life-size")


def entries_at(session: Session, at: Pointer) -> list[Entry]:
    """What can be done with what lies beneath the pointer; that is chosen as well."""
    own = [
        Entry("", words, key, run)
        for words, key, run in (session.tool.menu(at) if session.tool else [])
    ]
    found = (
        contour_at(session.selection.pickable, at.x, at.y, _REACH * at.pixel) if not own else None
    )
    picture = picture_at(session, at.x, at.y) if not own and found is None else None
    if found is not None:
        if found not in session.selection.ids:
            session.selection.choose(with_whole_parts(session.job, {found}))
        middle = _commands(_CONTOUR)
    elif picture is not None:
        session.selection.choose_picture(picture.id)
        hide = Entry(
            "",
            f"Hide {picture.name}",
            "",
            lambda: session.edit(
                "hide a picture", change_picture(session.job, picture.id, visible=False)
            ),
        )
        lock = Entry(
            "",
            "Free it" if picture.locked else "Lock it",
            "",
            lambda: session.edit(
                "lock a picture", change_picture(session.job, picture.id, locked=not picture.locked)
            ),
        )
        middle = [*_commands(_PICTURE), hide, lock]
    else:
        middle = [] if own else _commands(_NOTHING)
    if session.selection.ids and own:
        middle = _commands(("fit-chosen", "none"))
    return [
        *own,
        *([_RULE] if own and middle else []),
        *middle,
        _RULE,
        *_commands(("undo", "redo")),
    ]


def _commands(ids: tuple[str, ...]) -> list[Entry]:
    return [Entry(name) if name else _RULE for name in ids]
