"""The table of all commands of a window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from draxet.job.edits import remove_picture, set_unit
from draxet.job.looks import open_ends
from draxet.ui.canvas.tool import Tool
from draxet.ui.canvas.view import Canvas
from draxet.ui.shell.commands import Command, tool_key
from draxet.ui.shell.job_files import JobFiles
from draxet.ui.shell.opening import Opening
from draxet.ui.shell.preparing import Preparing
from draxet.ui.shell.session import Session, Stage
from draxet.ui.shell.workers import Workers
from draxet.ui.stages.slip import Slip
from draxet.units import UNITS

__all__ = ["Hands", "all_commands"]


@dataclass(frozen=True)
class Hands:
    """What commands act with."""

    session: Session
    workers: Workers
    jobs: JobFiles
    opening: Opening
    preparing: Preparing
    canvas: Canvas
    put_slip: Callable[[Slip], None]
    find: Callable[[], None]
    show_keys: Callable[[], None]
    about: Callable[[], None]
    close: Callable[[], object]


def all_commands(hands: Hands) -> list[Command]:
    """Every command, menu by menu, then the stages' tools in the order of the card."""
    return [*_job_commands(hands), *_edit_commands(hands), *_view_commands(hands), *_tools(hands), *_help_commands(hands)]


def _job_commands(h: Hands) -> list[Command]:
    return [
        Command("new", "New job", h.jobs.new_job, "Job", "Ctrl+N"),
        Command("open", "Open a job …", lambda: h.jobs.open_job(), "Job", "Ctrl+O"),
        Command("new-from", "New from a template …", h.jobs.new_from_template, "Job", separated=True),
        Command("keep-template", "Keep the set-up as a template …", h.jobs.keep_template, "Job"),
        Command("save", "Save", h.jobs.save, "Job", "Ctrl+S", separated=True),
        Command("save-as", "Save as …", h.jobs.save_as, "Job", "Ctrl+Shift+S"),
        Command("quit", "Quit", h.close, "Job", "Ctrl+Q", separated=True),
    ]


def _edit_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command("undo", "Undo", s.undo, "Edit", "Ctrl+Z", why_not=lambda: "" if s.history.undo_words else "nothing to undo"),
        Command("redo", "Redo", s.redo, "Edit", "Ctrl+Shift+Z", why_not=lambda: "" if s.history.redo_words else "nothing to redo"),
        Command("paste-anywhere", "Paste", h.opening.paste_picture, "Edit", "Ctrl+V", separated=True),
        Command("remove", "Remove the chosen contours", partial(_remove_chosen, h), "Edit", "Del", why_not=lambda: _chosen(s), separated=True),
        Command("recent", "Recent pictures …", h.opening.choose_recent, "Picture"),
        Command(
            "bring-aside", "Bring in what was left out", h.opening.bring_aside, "Picture",
            why_not=lambda: "" if h.opening.has_aside else "nothing was left out of a drawing",
        ),
        Command("remove-picture", "Remove the picture in hand", partial(_remove_picture, s), "Edit", why_not=lambda: _pictures(s)),
        Command("all", "Choose all contours", lambda: s.select({i.id for i in s.job.contours}), "Edit", "Ctrl+A", why_not=lambda: _contours(s)),
        Command("none", "Choose none", lambda: s.select(set()), "Edit", "Ctrl+Shift+A", why_not=lambda: _chosen(s)),
    ]


def _view_commands(h: Hands) -> list[Command]:
    s = h.session
    units = [
        Command(f"unit-{name}", f"Show lengths in {name}", partial(_show_in, s, name), "View", checked=partial(_shows, s, name), separated=name == "mm")
        for name in UNITS
    ]
    stages = [
        Command(f"stage-{stage.value}", stage.words, partial(s.open_stage, stage), "View", str(int(stage)), separated=stage is Stage.GATHER)
        for stage in Stage
    ]
    return [
        Command("fit", "Fit all", h.canvas.fit_all, "View", "Ctrl+0"),
        Command("fit-chosen", "Fit the chosen", h.canvas.fit_selection, "View", "Ctrl+9", why_not=lambda: _chosen(s)),
        Command("nearer", "Nearer", lambda: h.canvas.zoom_by(1.25), "View", "Ctrl++"),
        Command("farther", "Farther", lambda: h.canvas.zoom_by(0.8), "View", "Ctrl+-"),
        Command("beside", "Picture beside the contours", lambda: s.set_beside(not s.beside), "View", "F7", why_not=lambda: _pictures(s), checked=lambda: s.beside),
        *stages,
        *units,
        Command("find", "Find a command …", h.find, "View", "Ctrl+K", separated=True),
    ]


def _help_commands(h: Hands) -> list[Command]:
    return [Command("keys", "Keys …", h.show_keys, "Help", "F1"), Command("about", "About Draxet …", h.about, "Help")]


def _tools(h: Hands) -> list[Command]:
    s = h.session

    def take(tool_id: str, stage: Stage, make: Callable[[Hands], tuple[Tool, Slip]]) -> Callable[[], None]:
        def run() -> None:
            s.leaving.emit()
            s.open_stage(stage)
            s.put_tool_away()  # the one before gives up its work before this one begins its own
            tool, slip = make(h)
            h.put_slip(slip)
            s.take_tool(tool_id, tool)
            h.canvas.setFocus()

        return run

    rows: Sequence[tuple[Stage, str, str, str, Callable[[], object], Callable[[], str]]] = [
        (Stage.GATHER, "choose", "Choose a picture …", "picture", h.opening.choose_picture, lambda: ""),
        (Stage.GATHER, "paste", "Paste a picture", "paste", h.opening.paste_picture, lambda: ""),
        (Stage.GATHER, "camera", "Camera …", "camera", h.opening.take_from_camera, lambda: ""),
        (Stage.GATHER, "place", "Place", "move", take("place", Stage.GATHER, _place), lambda: _anything(s)),
        (Stage.GATHER, "prepare", "Prepare", "prepare", take("prepare", Stage.GATHER, _prepare), lambda: _pictures(s)),
        (Stage.GATHER, "crop", "Crop", "crop", take("crop", Stage.GATHER, _crop), lambda: _pictures(s)),
        (Stage.GATHER, "cover", "Cover", "cover", take("cover", Stage.GATHER, _cover), lambda: _pictures(s)),
        (Stage.GATHER, "sheets", "Sheets", "sheet", take("sheets", Stage.GATHER, _sheets), lambda: ""),
        (Stage.GATHER, "limits", "Limits", "limit", take("limits", Stage.GATHER, _limits), lambda: ""),
        (Stage.TRUE_UP, "level", "Level a line", "level", take("level", Stage.TRUE_UP, _level), lambda: _pictures(s)),
        (Stage.TRUE_UP, "known-length", "Known length", "length", take("known-length", Stage.TRUE_UP, _known_length), lambda: _pictures(s)),
        (Stage.TRUE_UP, "several-lengths", "Several lengths", "lengths", take("several-lengths", Stage.TRUE_UP, _several_lengths), lambda: _pictures(s)),
        (Stage.TRUE_UP, "square", "Square a photo", "square", take("square", Stage.TRUE_UP, _square), lambda: _pictures(s)),
        (Stage.TRUE_UP, "match", "Match points", "match", take("match", Stage.TRUE_UP, _match), lambda: _anything(s)),
        (Stage.TRUE_UP, "which-scale", "Which scale", "scale", take("which-scale", Stage.TRUE_UP, _which_scale), lambda: _pictures(s)),
        (Stage.TRUE_UP, "own-scale", "Own scale", "region", take("own-scale", Stage.TRUE_UP, _own_scale), lambda: _pictures(s)),
        (Stage.TRUE_UP, "fixed-size", "Fixed size", "fixed", take("fixed-size", Stage.TRUE_UP, _fixed_size), lambda: _contours(s)),
        (Stage.TRUE_UP, "measure", "Measure", "measure", take("measure", Stage.TRUE_UP, _measure), lambda: _anything(s)),
        (Stage.TRACE, "edges", "Edges", "edges", take("edges", Stage.TRACE, _edges), lambda: _pictures(s)),
        (Stage.TRACE, "middles", "Middles", "middles", take("middles", Stage.TRACE, _middles), lambda: _pictures(s)),
        (Stage.TRACE, "colours", "Colours", "colours", take("colours", Stage.TRACE, _colours), lambda: _pictures(s)),
        (Stage.TRACE, "trace-area", "Chosen area", "region", take("trace-area", Stage.TRACE, _trace_area), lambda: _pictures(s)),
        (Stage.TRACE, "nearness", "How near", "near", take("nearness", Stage.TRACE, _nearness), lambda: _contours(s)),
        (Stage.MEND, "pick", "Pick and move nodes", "pick", take("pick", Stage.MEND, _pick), lambda: _contours(s)),
        (Stage.MEND, "next-end", "Next open end", "ends", _next_end(h), lambda: "" if open_ends(s.job) else "no contour is open"),
        (Stage.MAKE, "cut", "Cut through", "cut", take("cut", Stage.MAKE, _cut), lambda: _contours(s)),
        (Stage.PROVE, "hand-off", "Hand off", "handoff", take("hand-off", Stage.PROVE, _hand_off), lambda: ""),
    ]  # fmt: skip
    places: dict[Stage, int] = {}
    tools = []
    for stage, tool_id, words, icon, run, why_not in rows:
        key = tool_key(places.get(stage, 0))
        places[stage] = places.get(stage, 0) + 1
        menu = {Stage.GATHER: "Picture", Stage.TRUE_UP: "Picture", Stage.TRACE: "Contour", Stage.MEND: "Contour"}.get(stage, "Make")
        tools.append(Command(tool_id, words, run, menu, key, icon, stage, why_not))
    return tools


# A stage's module is loaded when one of its tools is first taken: the window stands sooner.


def _place(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.gather import MovePicture, PlaceSlip

    return MovePicture(h.session), PlaceSlip(h.session)


def _prepare(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.prepare import PrepareSlip
    from draxet.ui.stages.prepare_tools import PrepareTool

    tool = PrepareTool(h.session)
    return tool, PrepareSlip(h.session, tool, h.preparing)


def _crop(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.prepare import PrepareSlip
    from draxet.ui.stages.prepare_tools import CropTool

    tool = CropTool(h.session)
    return tool, PrepareSlip(h.session, tool, h.preparing)


def _cover(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.prepare import PrepareSlip
    from draxet.ui.stages.prepare_tools import CoverTool

    tool = CoverTool(h.session)
    return tool, PrepareSlip(h.session, tool, h.preparing)


def _sheets(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.setup import SheetSlip, SheetTool

    return SheetTool(h.session), SheetSlip(h.session)


def _limits(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.setup import LimitSlip, LimitTool

    return LimitTool(), LimitSlip(h.session)


def _match(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.match import MatchSlip, MatchTool

    tool = MatchTool(h.session)
    return tool, MatchSlip(h.session, tool)


def _which_scale(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.scale import ScaleSlip, ScaleTool

    return ScaleTool(), ScaleSlip(h.session)


def _own_scale(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.scale import DetailSlip, DetailTool

    return DetailTool(h.session), DetailSlip(h.session)


def _fixed_size(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.scale import FixedSlip, FixedTool

    return FixedTool(), FixedSlip(h.session)


def _level(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.trueup import LevelLine, LevelSlip

    tool = LevelLine(h.session)
    return tool, LevelSlip(h.session, tool)


def _known_length(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.lengths import KnownLengthSlip, KnownLengthTool

    tool = KnownLengthTool(h.session)
    return tool, KnownLengthSlip(h.session, tool)


def _several_lengths(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.lengths import SeveralLengthsSlip, SeveralLengthsTool

    tool = SeveralLengthsTool(h.session)
    return tool, SeveralLengthsSlip(h.session, tool)


def _square(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.square import SquareSlip, SquareTool

    tool = SquareTool(h.session, h.workers)
    tool.find()
    return tool, SquareSlip(h.session, tool)


def _measure(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.measure import MeasureSlip, MeasureTool

    tool = MeasureTool(h.session)
    return tool, MeasureSlip(h.session, tool)


def _edges(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.trace import EdgesSlip, EdgesTool

    tool = EdgesTool(h.session, h.workers)
    tool.run()
    return tool, EdgesSlip(h.session, tool)


def _middles(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.trace import MiddlesSlip, MiddlesTool

    tool = MiddlesTool(h.session, h.workers)
    tool.run()
    return tool, MiddlesSlip(h.session, tool)


def _colours(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.colours import ColoursSlip, ColoursTool

    tool = ColoursTool(h.session, h.workers)
    tool.run()
    return tool, ColoursSlip(h.session, tool)


def _trace_area(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.tracing import ChosenAreaSlip, ChosenAreaTool

    return ChosenAreaTool(h.session), ChosenAreaSlip(h.session)


def _nearness(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.nearness import NearnessSlip, NearnessTool

    tool = NearnessTool(h.session, h.workers)
    return tool, NearnessSlip(h.session, tool, h.canvas)


def _pick(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.mend import MendSlip, PickTool

    return PickTool(h.session), MendSlip(h.session)


def _remove_chosen(h: Hands) -> None:
    from draxet.ui.stages.mend import remove_chosen

    remove_chosen(h.session)


def _cut(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.make import CutSlip
    from draxet.ui.stages.mend import PickTool

    return PickTool(h.session, "Cut through", nodes=False), CutSlip(h.session)


def _hand_off(h: Hands) -> tuple[Tool, Slip]:
    from draxet.ui.stages.mend import PickTool
    from draxet.ui.stages.prove import HandOffSlip

    return PickTool(h.session, "Hand off", nodes=False), HandOffSlip(h.session)


def _next_end(h: Hands) -> Callable[[], None]:
    visited = [0]

    def run() -> None:
        h.session.open_stage(Stage.MEND)
        ends = open_ends(h.session.job)
        if ends:
            contour, x, y = ends[visited[0] % len(ends)]
            visited[0] += 1
            h.session.select({contour})
            h.canvas.look_at(x, y)

    return run


def _remove_picture(s: Session) -> None:
    if s.picture:
        s.edit("remove a picture", remove_picture(s.job, s.picture.id))


def _show_in(s: Session, unit: str) -> None:
    if unit != s.job.unit:
        s.edit(f"show lengths in {unit}", set_unit(s.job, unit))


def _shows(s: Session, unit: str) -> bool:
    return s.job.unit == unit


def _pictures(s: Session) -> str:
    return "" if s.job.pictures else "choose a picture first"


def _anything(s: Session) -> str:
    return "" if s.job.pictures or s.job.contours else "choose a picture first"


def _contours(s: Session) -> str:
    if s.job.contours:
        return ""
    return "a picture is not a contour and cannot be worked; trace it first (3)" if s.job.pictures else "there are no contours yet"


def _chosen(s: Session) -> str:
    return "" if s.selection else "no contour is chosen"
