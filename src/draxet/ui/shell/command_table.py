"""The table of all commands of a window."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from draxet.ui.model.stage import Stage
from draxet.ui.shell.edit_commands import belonging_commands, edit_commands
from draxet.ui.shell.hands import Hands
from draxet.ui.shell.view_commands import view_commands
from draxet.ui.shell.window_commands import Command
from draxet.ui.stages.gather import gather_tools as gather
from draxet.ui.stages.make import make_tools as make
from draxet.ui.stages.mend import mend_tools as mend
from draxet.ui.stages.prove import prove_tools as prove
from draxet.ui.stages.row import ActRow, ToolRow
from draxet.ui.stages.trace import trace_tools as trace
from draxet.ui.stages.trueup import trueup_tools as trueup

__all__ = ["all_commands"]


def all_commands(hands: Hands) -> list[Command]:
    """Every command, menu by menu, then the stages' tools in the order of the card."""
    return [
        *_job_commands(hands),
        *edit_commands(hands),
        *view_commands(hands),
        *_tools(hands),
        *belonging_commands(hands),
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


def _help_commands(h: Hands) -> list[Command]:
    return [
        Command("keys", "Keys …", h.show_keys, "Help", "F1"),
        Command("about", "About Draxet …", h.about, "Help"),
    ]


_STAGES: tuple[tuple[Stage, str, str, Sequence[ToolRow | ActRow]], ...] = (
    (Stage.GATHER, "gather", "Picture", gather.TOOLS),
    (Stage.TRUE_UP, "trueup", "Picture", trueup.TOOLS),
    (Stage.TRACE, "trace", "Contour", trace.TOOLS),
    (Stage.MEND, "mend", "Contour", mend.TOOLS),
    (Stage.MAKE, "make", "Make", make.TOOLS),
    (Stage.PROVE, "prove", "Make", prove.TOOLS),
)
"""Each stage with its folder, the menu of its tools, and the tools in the order of the card."""


def _tools(h: Hands) -> list[Command]:
    return [
        _tool(h, stage, folder, menu, row, first=row is rows[0])
        for stage, folder, menu, rows in _STAGES
        for row in rows
    ]


def _tool(
    h: Hands, stage: Stage, folder: str, menu: str, row: ToolRow | ActRow, *, first: bool
) -> Command:
    run = partial(row.act, h) if isinstance(row, ActRow) else partial(_take, h, stage, folder, row)
    return Command(
        row.id,
        row.words,
        run,
        menu,
        row.key,
        row.icon,
        stage,
        partial(row.needs, h.session),
        separated=first,
        of=row.of,
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
