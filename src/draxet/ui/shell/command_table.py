"""The table of all commands of a window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from draxet.job.picture_edits import remove_picture
from draxet.job.sheet_edits import set_unit
from draxet.record import record
from draxet.ui.canvas.view import Canvas
from draxet.ui.shell.falling import Falling
from draxet.ui.shell.job_files import JobFiles
from draxet.ui.shell.opening import Opening
from draxet.ui.shell.session import Session, Stage
from draxet.ui.shell.window_commands import Command, tool_key
from draxet.ui.stages import together
from draxet.ui.stages.choosing_alike import choose_alike
from draxet.ui.stages.gather import gather_tools as gather
from draxet.ui.stages.make import make_tools as make
from draxet.ui.stages.mend import mend_tools as mend
from draxet.ui.stages.prove import prove_tools as prove
from draxet.ui.stages.row import ActRow, ToolRow, contours, picture
from draxet.ui.stages.slip import Slip
from draxet.ui.stages.trace import trace_tools as trace
from draxet.ui.stages.true_up import true_up_tools as true_up
from draxet.units import UNITS

__all__ = ["Hands", "all_commands"]


@record(frozen=True)
class Hands:
    """What commands act with."""

    session: Session
    jobs: JobFiles
    opening: Opening
    canvas: Canvas
    put_slip: Callable[[Slip], None]
    other_pane: Callable[[bool], None]
    find: Callable[[], None]
    show_keys: Callable[[], None]
    show_history: Callable[[], None]
    life_size: Callable[[bool], None]
    about: Callable[[], None]
    close: Callable[[], object]


def all_commands(hands: Hands) -> list[Command]:
    """Every command, menu by menu, then the stages' tools in the order of the card."""
    return [
        *_job_commands(hands),
        *_edit_commands(hands),
        *_view_commands(hands),
        *_tools(hands),
        *_belonging_commands(hands),
        *_help_commands(hands),
    ]


def _job_commands(h: Hands) -> list[Command]:
    return [
        Command("new", "New job", h.jobs.new_job, "Job", "Ctrl+N"),
        Command("open", "Open a job …", lambda: h.jobs.open_job(), "Job", "Ctrl+O"),
        Command(
            "new-from", "New from a template …", h.jobs.new_from_template, "Job", separated=True
        ),
        Command("keep-template", "Keep the set-up as a template …", h.jobs.keep_template, "Job"),
        Command("save", "Save", h.jobs.save, "Job", "Ctrl+S", separated=True),
        Command("save-as", "Save as …", h.jobs.save_as, "Job", "Ctrl+Shift+S"),
        Command("quit", "Quit", h.close, "Job", "Ctrl+Q", separated=True),
    ]


def _edit_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "undo",
            "Undo",
            s.undo,
            "Edit",
            "Ctrl+Z",
            why_not=lambda: "" if s.history.undo_words or s.tool is not None else "nothing to undo",
        ),
        Command(
            "redo",
            "Redo",
            s.redo,
            "Edit",
            "Ctrl+Shift+Z",
            why_not=lambda: "" if s.history.redo_words else "nothing to redo",
        ),
        Command(
            "history",
            "History …",
            h.show_history,
            "Edit",
            "F8",
            why_not=lambda: "" if len(s.history.states) > 1 else "nothing was done yet",
        ),
        Command(
            "copy",
            "Copy contours",
            partial(together.copy_chosen, s),
            "Edit",
            "Ctrl+C",
            why_not=lambda: _chosen(s),
            separated=True,
        ),
        Command("paste-anywhere", "Paste in place", partial(_paste, h), "Edit", "Ctrl+V"),
        Command(
            "remove",
            "Remove the chosen contours",
            partial(_remove_chosen, s),
            "Edit",
            "Del",
            why_not=lambda: _chosen(s),
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
        Command(
            "all",
            "Choose all contours",
            lambda: s.select({i.id for i in s.shown_contours}),
            "Edit",
            "Ctrl+A",
            why_not=lambda: contours(s),
        ),
        Command(
            "none",
            "Choose none",
            lambda: s.select(set()),
            "Edit",
            "Ctrl+Shift+A",
            why_not=lambda: _chosen(s),
        ),
        Command(
            "alike-size",
            "Choose alike in size",
            partial(choose_alike, s, "size"),
            "Edit",
            why_not=lambda: _chosen(s),
            separated=True,
        ),
        Command(
            "alike-colour",
            "Choose alike in colour",
            partial(choose_alike, s, "colour"),
            "Edit",
            why_not=lambda: _chosen(s),
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


def _belonging_commands(h: Hands) -> list[Command]:
    s = h.session

    def grouped() -> str:
        return _chosen(s) or ("" if together.group_in_hand(s) else "what is chosen is no group")

    def helped() -> str:
        return "" if s.job.helpers else "there are no helper contours"

    return [
        Command(
            "group",
            "Make a part",
            partial(together.group, s),
            "Contour",
            "Ctrl+G",
            why_not=lambda: _chosen(s),
            separated=True,
        ),
        Command(
            "ungroup",
            "Take the part apart",
            partial(together.ungroup_chosen, s),
            "Contour",
            "Ctrl+Shift+G",
            why_not=grouped,
        ),
        Command(
            "own",
            "Make it its own",
            partial(together.free_links, s),
            "Contour",
            why_not=lambda: _chosen(s) or together.why_no_links(s),
        ),
        Command(
            "to-front",
            "To the front",
            partial(together.order, s, True),
            "Contour",
            "Ctrl+PgUp",
            why_not=lambda: _chosen(s),
            separated=True,
        ),
        Command(
            "to-back",
            "To the back",
            partial(together.order, s, False),
            "Contour",
            "Ctrl+PgDown",
            why_not=lambda: _chosen(s),
        ),
        Command(
            "helpers",
            "Make helper contours of the chosen",
            partial(together.to_helpers, s),
            "Contour",
            why_not=lambda: _chosen(s),
            separated=True,
        ),
        Command(
            "free-helpers",
            "Helper contours back to the others",
            partial(together.from_helpers, s),
            "Contour",
            why_not=helped,
        ),
    ]


def _view_commands(h: Hands) -> list[Command]:
    s = h.session
    units = [
        Command(
            f"unit-{name}",
            f"Show lengths in {name}",
            partial(_show_in, s, name),
            "View",
            checked=partial(_shows, s, name),
            separated=name == "mm",
        )
        for name in UNITS
    ]
    stages = [
        Command(
            f"stage-{stage.value}",
            stage.words,
            partial(s.open_stage, stage),
            "View",
            str(int(stage)),
            separated=stage is Stage.GATHER,
        )
        for stage in Stage
    ]
    return [
        Command("fit", "Fit all", h.canvas.fit_all, "View", "Ctrl+0"),
        Command(
            "fit-chosen",
            "Fit the chosen",
            h.canvas.fit_selection,
            "View",
            "Ctrl+9",
            why_not=lambda: _chosen(s),
        ),
        Command(
            "view-before",
            "The view before",
            h.canvas.view_before,
            "View",
            "F9",
            why_not=lambda: "" if h.canvas.has_view_before else "there was no other view yet",
        ),
        Command("life-size", "Life size", partial(h.life_size, False), "View", "Ctrl+1"),
        Command("set-life-size", "Set life size by a card …", partial(h.life_size, True), "View"),
        Command("nearer", "Nearer", lambda: h.canvas.zoom_by(1.25), "View", "Ctrl++"),
        Command("farther", "Farther", lambda: h.canvas.zoom_by(0.8), "View", "Ctrl+-"),
        Command(
            "hide",
            "Hide the chosen",
            lambda: s.hide(s.hidden | s.selection),
            "View",
            "Ctrl+H",
            why_not=lambda: _chosen(s),
            separated=True,
        ),
        Command(
            "only",
            "Show only the chosen",
            partial(_show_only, s),
            "View",
            "Ctrl+Shift+H",
            why_not=lambda: _chosen(s),
        ),
        Command(
            "show-all",
            "Show all contours",
            lambda: s.hide(frozenset()),
            "View",
            why_not=lambda: "" if s.hidden else "no contour is hidden",
        ),
        Command(
            "inks",
            "Fills and line widths",
            lambda: s.show_inks(not s.shows_inks),
            "View",
            why_not=lambda: contours(s),
            checked=lambda: s.shows_inks,
        ),
        Command(
            "what-falls",
            "What falls and stays",
            lambda: s.one(Falling).show(not s.shows_falls),
            "View",
            "F5",
            why_not=lambda: contours(s),
            checked=lambda: s.shows_falls,
        ),
        Command(
            "beside",
            "Picture beside the contours",
            lambda: s.set_beside(not s.beside),
            "View",
            "F7",
            why_not=lambda: picture(s),
            checked=lambda: s.beside,
        ),
        Command("next-pane", "Keys to the next pane", partial(h.other_pane, True), "View", "F6"),
        Command(
            "pane-before",
            "Keys to the pane before",
            partial(h.other_pane, False),
            "View",
            "Shift+F6",
        ),
        *stages,
        *units,
        Command("find", "Find a command …", h.find, "View", "Ctrl+K", separated=True),
    ]


def _help_commands(h: Hands) -> list[Command]:
    return [
        Command("keys", "Keys …", h.show_keys, "Help", "F1"),
        Command("about", "About Draxet …", h.about, "Help"),
    ]


_STAGES: tuple[tuple[Stage, str, str, Sequence[ToolRow | ActRow]], ...] = (
    (Stage.GATHER, "gather", "Picture", gather.TOOLS),
    (Stage.TRUE_UP, "true_up", "Picture", true_up.TOOLS),
    (Stage.TRACE, "trace", "Contour", trace.TOOLS),
    (Stage.MEND, "mend", "Contour", mend.TOOLS),
    (Stage.MAKE, "make", "Make", make.TOOLS),
    (Stage.PROVE, "prove", "Make", prove.TOOLS),
)
"""Each stage with its folder, the menu of its tools, and the tools in the order of the card."""


def _tools(h: Hands) -> list[Command]:
    return [
        _tool(h, stage, folder, menu, row, place)
        for stage, folder, menu, rows in _STAGES
        for place, row in _placed(rows)
    ]


def _placed(rows: Sequence[ToolRow | ActRow]) -> list[tuple[int, ToolRow | ActRow]]:
    """Rows with their places on the card; -1 for one that another row stands for."""
    own = [row for row in rows if not getattr(row, "of", "")]
    return [(own.index(row) if row in own else -1, row) for row in rows]


def _tool(
    h: Hands, stage: Stage, folder: str, menu: str, row: ToolRow | ActRow, place: int
) -> Command:
    run = partial(row.act, h) if isinstance(row, ActRow) else partial(_take, h, stage, folder, row)
    of = row.of if isinstance(row, ToolRow) else ""
    key = "" if of else tool_key(place)
    return Command(
        row.id,
        row.words,
        run,
        menu,
        key,
        row.icon,
        stage,
        partial(row.needs, h.session),
        separated=not place,
        of=of,
    )


def _take(h: Hands, stage: Stage, folder: str, row: ToolRow) -> None:
    s = h.session
    s.leaving.emit()
    s.open_stage(stage)
    s.put_tool_away()  # the one before gives up its work before this one begins its own
    tool, slip = row.made(f"draxet.ui.stages.{folder}", s)
    h.put_slip(slip)
    s.take_tool(row.id, tool)
    h.canvas.setFocus()


def _remove_chosen(s: Session) -> None:
    from draxet.ui.stages.picking import remove_chosen

    if s.tool is None or not s.tool.remove():
        remove_chosen(s)


def _paste(h: Hands) -> None:
    if not together.paste(h.session):
        h.opening.paste_picture()


def _show_only(s: Session) -> None:
    s.hide(frozenset(item.id for item in s.job.contours) - s.selection)


def _remove_picture(s: Session) -> None:
    if s.picture:
        s.edit("remove a picture", remove_picture(s.job, s.picture.id))


def _show_in(s: Session, unit: str) -> None:
    if unit != s.job.unit:
        s.edit(f"show lengths in {unit}", set_unit(s.job, unit))


def _shows(s: Session, unit: str) -> bool:
    return s.job.unit == unit


def _chosen(s: Session) -> str:
    return "" if s.selection else "no contour is chosen"
