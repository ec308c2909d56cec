"""Commands of what is done to a job as a whole: taken back, copied, removed, chosen, put
together."""

from __future__ import annotations

from functools import partial

from draxet.job.picture_edits import remove_picture
from draxet.ui.model.session import Session
from draxet.ui.shell.canvas_words import step_contours
from draxet.ui.shell.hands import Hands, why_none_chosen
from draxet.ui.shell.top_line import OFFER_KEY
from draxet.ui.shell.window_commands import Command
from draxet.ui.stages import chosen_acts
from draxet.ui.stages.choosing_alike import choose_alike
from draxet.ui.stages.row import contours, picture

__all__ = ["belonging_commands", "edit_commands"]


def edit_commands(h: Hands) -> list[Command]:
    """Those of the menus Edit and Picture that need no tool."""
    return [*_step_commands(h), *_taking_commands(h), *_choosing_commands(h), *_alike_commands(h)]


def _step_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "undo",
            "Undo",
            s.undo,
            "Edit",
            "Ctrl+Z",
            why_not=lambda: (
                "" if s.document.history.undo_words or s.tool is not None else "nothing to undo"
            ),
        ),
        Command(
            "redo",
            "Redo",
            s.redo,
            "Edit",
            "Ctrl+Shift+Z",
            why_not=lambda: "" if s.document.history.redo_words else "nothing to redo",
        ),
        Command(
            "take-offer",
            "Do what is offered",
            s.messages.take_offer,
            "Edit",
            OFFER_KEY,
            why_not=lambda: "" if s.messages.offers else "nothing is offered now",
        ),
        Command(
            "history",
            "History …",
            h.show_history,
            "Edit",
            "F8",
            why_not=lambda: "" if len(s.document.history.states) > 1 else "nothing was done yet",
        ),
    ]


def _taking_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "copy",
            "Copy contours",
            partial(chosen_acts.copy_chosen, s),
            "Edit",
            "Ctrl+C",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command("paste-anywhere", "Paste in place", partial(_paste, h), "Edit", "Ctrl+V"),
        Command(
            "remove",
            "Remove the chosen contours",
            partial(_remove_chosen, s),
            "Edit",
            "Del",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command("recent", "Recent pictures …", h.opening.choose_recent, "Picture"),
        Command(
            "bring-aside",
            "Bring in what was left out",
            h.opening.bring_aside,
            "Picture",
            why_not=lambda: "" if h.opening.has_aside else "nothing was left out of a drawing",
        ),
        Command(
            "remove-picture",
            "Remove the picture in hand",
            partial(_remove_picture, s),
            "Edit",
            why_not=lambda: picture(s),
        ),
    ]


def _choosing_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "all",
            "Choose all contours",
            lambda: s.selection.choose({i.id for i in s.selection.shown}),
            "Edit",
            "Ctrl+A",
            why_not=lambda: contours(s),
        ),
        Command(
            "none",
            "Choose none",
            lambda: s.selection.choose(set()),
            "Edit",
            "Ctrl+Shift+A",
            why_not=lambda: why_none_chosen(s),
        ),
    ]


def _alike_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "next-contour",
            "Next contour",
            partial(step_contours, s, 1),
            "Edit",
            "Ctrl+.",
            why_not=lambda: "" if s.job.contours else "there are no contours yet",
            separated=True,
        ),
        Command(
            "contour-before",
            "Contour before",
            partial(step_contours, s, -1),
            "Edit",
            "Ctrl+,",
            why_not=lambda: "" if s.job.contours else "there are no contours yet",
        ),
        Command(
            "alike-size",
            "Choose alike in size",
            partial(choose_alike, s, "size"),
            "Edit",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command(
            "alike-colour",
            "Choose alike in colour",
            partial(choose_alike, s, "colour"),
            "Edit",
            why_not=lambda: why_none_chosen(s),
        ),
        Command(
            "choose-open",
            "Choose open ones",
            partial(choose_alike, s, "open"),
            "Edit",
            why_not=lambda: contours(s),
        ),
        Command(
            "choose-tiny",
            "Choose tiny ones",
            partial(choose_alike, s, "tiny"),
            "Edit",
            why_not=lambda: contours(s),
        ),
    ]


def belonging_commands(h: Hands) -> list[Command]:
    """Those of the menu Contour that need no tool."""
    return [*_part_commands(h), *_order_commands(h)]


def _part_commands(h: Hands) -> list[Command]:
    s = h.session

    def is_part() -> str:
        return why_none_chosen(s) or (
            "" if chosen_acts.part_in_hand(s) else "what is chosen is no part"
        )

    return [
        Command(
            "part",
            "Make a part",
            partial(chosen_acts.make_part_of_chosen, s),
            "Contour",
            "Ctrl+G",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command(
            "apart",
            "Take the part apart",
            partial(chosen_acts.take_chosen_apart, s),
            "Contour",
            "Ctrl+Shift+G",
            why_not=is_part,
        ),
        Command(
            "own",
            "Make it its own",
            partial(chosen_acts.free_links, s),
            "Contour",
            why_not=lambda: why_none_chosen(s) or chosen_acts.why_no_links(s),
        ),
    ]


def _order_commands(h: Hands) -> list[Command]:
    s = h.session

    def helped() -> str:
        return "" if s.job.helpers else "there are no helper contours"

    return [
        Command(
            "to-front",
            "To the front",
            partial(chosen_acts.order, s, True),
            "Contour",
            "Ctrl+PgUp",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command(
            "to-back",
            "To the back",
            partial(chosen_acts.order, s, False),
            "Contour",
            "Ctrl+PgDown",
            why_not=lambda: why_none_chosen(s),
        ),
        Command(
            "helpers",
            "Make helper contours of the chosen",
            partial(chosen_acts.to_helpers, s),
            "Contour",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command(
            "free-helpers",
            "Helper contours back to the others",
            partial(chosen_acts.from_helpers, s),
            "Contour",
            why_not=helped,
        ),
    ]


def _remove_chosen(s: Session) -> None:
    from draxet.ui.stages.picking import remove_chosen

    if s.tool is None or not s.tool.remove():
        remove_chosen(s)


def _paste(h: Hands) -> None:
    if not chosen_acts.paste(h.session):
        h.opening.paste_picture()


def _remove_picture(s: Session) -> None:
    if s.selection.picture:
        s.edit("remove a picture", remove_picture(s.job, s.selection.picture.id))
