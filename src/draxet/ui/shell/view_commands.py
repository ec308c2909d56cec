"""Commands of what is seen and how: near or far, shown or hidden, in which unit, which stage."""

from __future__ import annotations

from functools import partial

from draxet.job.sheet_edits import set_unit
from draxet.ui.model.falling import Falling
from draxet.ui.model.session import Session
from draxet.ui.model.stage import Stage
from draxet.ui.shell.hands import Hands, why_none_chosen
from draxet.ui.shell.window_commands import Command
from draxet.ui.stages.row import contours, picture
from draxet.units import UNITS

__all__ = ["view_commands"]


def view_commands(h: Hands) -> list[Command]:
    """Those of the menu View."""
    return [
        *_zoom_commands(h),
        *_hiding_commands(h),
        *_showing_commands(h),
        *_pane_commands(h),
        *_stage_commands(h.session),
        *_unit_commands(h.session),
        Command("find", "Find a command …", h.find, "View", "Ctrl+K", separated=True),
    ]


def _zoom_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command("fit", "Fit all", lambda: h.bodies.seen.fit_all(), "View", "Ctrl+0"),
        Command(
            "fit-chosen",
            "Fit the chosen",
            h.canvas.fit_selection,
            "View",
            "Ctrl+9",
            why_not=lambda: why_none_chosen(s),
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
        Command("nearer", "Nearer", lambda: h.bodies.seen.zoom_by(1.25), "View", "Ctrl++"),
        Command("farther", "Farther", lambda: h.bodies.seen.zoom_by(0.8), "View", "Ctrl+-"),
    ]


def _hiding_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "hide",
            "Hide the chosen",
            lambda: s.selection.hide(s.selection.hidden | s.selection.ids),
            "View",
            "Ctrl+H",
            why_not=lambda: why_none_chosen(s),
            separated=True,
        ),
        Command(
            "only",
            "Show only the chosen",
            partial(_show_only, s),
            "View",
            "Ctrl+Shift+H",
            why_not=lambda: why_none_chosen(s),
        ),
        Command(
            "show-all",
            "Show all contours",
            lambda: s.selection.hide(frozenset()),
            "View",
            why_not=lambda: "" if s.selection.hidden else "no contour is hidden",
        ),
    ]


def _showing_commands(h: Hands) -> list[Command]:
    s = h.session
    return [
        Command(
            "inks",
            "Fills and line widths",
            lambda: s.desk.show_inks(not s.desk.shows_inks),
            "View",
            why_not=lambda: contours(s),
            checked=lambda: s.desk.shows_inks,
        ),
        Command(
            "what-falls",
            "What falls and stays",
            lambda: s.single(Falling).show(not s.desk.shows_falls),
            "View",
            "F5",
            why_not=lambda: contours(s),
            checked=lambda: s.desk.shows_falls,
        ),
        Command(
            "bodies",
            "Bodies",
            h.bodies.toggle,
            "View",
            "F3",
            why_not=lambda: contours(s),
            checked=lambda: h.bodies.shown,
        ),
        Command(
            "beside",
            "Picture beside the contours",
            lambda: _show_beside(s, not s.desk.beside),
            "View",
            "F7",
            why_not=lambda: picture(s),
            checked=lambda: s.desk.beside,
        ),
    ]


def _pane_commands(h: Hands) -> list[Command]:
    return [
        Command("next-pane", "Keys to the next pane", partial(h.other_pane, True), "View", "F6"),
        Command(
            "pane-before",
            "Keys to the pane before",
            partial(h.other_pane, False),
            "View",
            "Shift+F6",
        ),
    ]


def _stage_commands(s: Session) -> list[Command]:
    return [
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


def _unit_commands(s: Session) -> list[Command]:
    return [
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


def _show_beside(s: Session, beside: bool) -> None:
    s.desk.set_beside(beside)
    s.messages.fit_asked.emit()


def _show_only(s: Session) -> None:
    s.selection.hide(frozenset(item.id for item in s.layout.contours) - s.selection.ids)


def _show_in(s: Session, unit: str) -> None:
    if unit != s.job.unit:
        s.edit(f"show lengths in {unit}", set_unit(s.job, unit))


def _shows(s: Session, unit: str) -> bool:
    return s.job.unit == unit
