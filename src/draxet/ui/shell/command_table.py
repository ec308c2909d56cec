"""The table of all commands of a window."""

from __future__ import annotations

from functools import partial
from importlib import import_module

from draxet.ui.model.stage import Stage
from draxet.ui.shell.edit_commands import belonging_commands, edit_commands
from draxet.ui.shell.hands import Hands
from draxet.ui.shell.view_commands import view_commands
from draxet.ui.shell.window_commands import Command
from draxet.ui.stages.row import ActRow, ToolRow

__all__ = ["all_commands", "tools_of"]


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


def tools_of(stage: Stage) -> tuple[ToolRow | ActRow, ...]:
    """A stage's tools in the order of the card."""
    listed = import_module(f"draxet.ui.stages.{stage.folder}.{stage.folder}_tools")
    return tuple(listed.TOOLS)


def _tools(h: Hands) -> list[Command]:
    return [
        _tool(h, stage, row, first=not number)
        for stage in Stage
        for number, row in enumerate(tools_of(stage))
    ]


def _tool(h: Hands, stage: Stage, row: ToolRow | ActRow, *, first: bool) -> Command:
    run = partial(row.act, h) if isinstance(row, ActRow) else partial(_take, h, stage, row)
    return Command(
        row.id,
        row.words,
        run,
        stage.menu,
        row.key,
        row.icon,
        stage,
        partial(row.needs, h.session),
        separated=first,
        of=row.of,
    )


def _take(h: Hands, stage: Stage, row: ToolRow) -> None:
    s = h.session
    s.messages.leaving.emit()
    s.open_stage(stage)
    s.put_tool_away()  # the one before gives up its work before this one begins its own
    tool, slip = row.made(f"draxet.ui.stages.{stage.folder}", s)
    h.put_slip(slip)
    s.take_tool(row.id, tool)
    h.canvas.setFocus()
