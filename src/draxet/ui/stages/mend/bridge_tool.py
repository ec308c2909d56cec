"""Bridges: clicked where a shape is to be held, moved by drag; whole islands get theirs at once."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from draxet.geometry.arrays import Points
from draxet.geometry.contour import Contour
from draxet.geometry.pieces import place_at, position_near
from draxet.geometry.winding import winds
from draxet.job.bridge_cuts import Effect
from draxet.job.bridge_edits import add_bridges, change_bridge, remove_bridges
from draxet.job.bridges import cuts_held
from draxet.job.contour_records import Bridge, ContourItem
from draxet.job.find import contour_at
from draxet.job.findings import count_words
from draxet.job.records import Job
from draxet.mend.islands import island_bridges, islands_of
from draxet.progress import Progress
from draxet.ui.model.tool import ContourMark, Mark, Pointer, Prompt, SignMark, TagMark
from draxet.ui.stages.mend.held_by_bridges import ISLAND_LANE, HeldByBridges
from draxet.ui.stages.picking import REACH
from draxet.units import format_length

__all__ = ["BridgeTool"]

_DRAGGED = 4.0

_AROUND = 150.0
"""mm: contours within so much of a place count for what is shown of a bridge before it is made."""

_MOST_ISLANDS = 2000

_TAGGED = 6


class BridgeTool(HeldByBridges):
    """Makes bridges, moves them along and takes them away; what is shown is what will be cut."""

    title = "Bridges"
    draws = frozenset({Bridge})

    def begin(self) -> None:
        self.held_cuts()

    def prompt(self) -> Prompt:
        if self._dragged:
            return Prompt(
                "Bridges: let it go where it is to hold.", keys=(("Esc", "leave it where it was"),)
            )
        if self.chosen:
            return Prompt(
                "Bridges: drag it along, or type its width on the right.",
                keys=(("Del", "remove it"), ("Esc", "let go")),
            )
        words = {
            "across": "click a contour where a bridge leads over to the next one",
            "line": "click a contour where its cut is to be interrupted",
            "island": "click an island, which is held on all sides",
        }
        return Prompt(
            f"Bridges: {words[self.settings.click]}.",
            ""
            if self.settings.click == "island"
            else "the side on which you click says where it leads"
            if self.settings.click == "across"
            else "next to another cut it stops short of that",
        )

    # --- the pointer

    def press(self, at: Pointer) -> None:
        self._pressed = at
        self.chosen = self._bridge_at(at)
        self.session.tool_changed.emit()

    def move(self, at: Pointer) -> None:
        if self._pressed is not None and self.chosen:
            begun, bridge = self._pressed, self._chosen_bridge()
            if bridge and (
                self._dragged or math.hypot(at.x - begun.x, at.y - begun.y) > _DRAGGED * at.pixel
            ):
                self._dragged = self._laid(bridge, at)
            return
        self._hot = self._bridge_at(at)
        self._offered = None if self._hot or self.settings.click == "island" else self._offer(at)

    def release(self, at: Pointer) -> None:
        begun, self._pressed = self._pressed, None
        dragged, self._dragged = self._dragged, None
        if begun is None:
            return
        if dragged:
            self.session.edit("move a bridge", change_bridge(self.session.job, dragged))
            self.session.tool_changed.emit()
        elif not self.chosen:
            self._make(at)

    def _make(self, at: Pointer) -> None:
        if self.settings.click == "island":
            self._hold_island_at(at)
            return
        offered = self._offer(at)
        if offered is None:
            self.session.messages.refused.emit("There is no contour here; click on one.")
        elif offered.shape is None:
            self.session.messages.refused.emit(f"A bridge would hold nothing here: {offered.lost}.")
        else:
            self.session.edit("hold by a bridge", add_bridges(self.session.job, [offered.bridge]))
            self._offered = None

    def _bridge_at(self, at: Pointer) -> str:
        """The bridge beneath the pointer; empty where none is."""
        reach, best = REACH * at.pixel, ""
        nearest = math.inf
        for effect in self.held_cuts().effects:
            away = math.hypot(effect.place[0] - at.x, effect.place[1] - at.y)
            x0, y0, x1, y1 = effect.shape.box if effect.shape is not None else (0.0, 0.0, 0.0, 0.0)
            if (
                effect.shape is not None
                and effect.shape.closed
                and x0 <= at.x <= x1
                and y0 <= at.y <= y1
                and winds(effect.shape, at.x, at.y)
            ):
                away = min(away, reach / 2)
            if away < min(reach, nearest):
                nearest, best = away, effect.bridge.id
        return best

    def _near(self, at: Pointer) -> list[ContourItem]:
        boxes = ((item, item.contour.box) for item in self.session.selection.pickable)
        return [
            item
            for item, (x0, y0, x1, y1) in boxes
            if x0 - _AROUND <= at.x <= x1 + _AROUND and y0 - _AROUND <= at.y <= y1 + _AROUND
        ]

    def _offer(self, at: Pointer) -> Effect | None:
        """What a bridge made here would do; None where there is no contour."""
        near = self._near(at)
        name = contour_at(near, at.x, at.y, REACH * at.pixel)
        if name is None:
            return None
        bridge = Bridge("", at.x, at.y, self.settings.width, name, self.settings.click == "across")
        return self._best(bridge, at, near)

    def _best(self, bridge: Bridge, at: Pointer, near: Sequence[ContourItem]) -> Effect:
        """A bridge laid on its contour at the place nearest to the pointer; one that leads across
        to the pointer's side, else to the other."""
        contour = self.session.layout.contour_by_id[bridge.contour].contour
        position = position_near(contour, at.x, at.y)
        place = place_at(contour, position)
        x, y = place.tolist()
        tries = [replace(bridge, x=x, y=y)]
        if bridge.across:
            square = _square_to(contour, position)
            side = 1.0 if (at.x - x) * square[0] + (at.y - y) * square[1] >= 0 else -1.0
            angles = (
                math.degrees(math.atan2(sign * side * square[1], sign * side * square[0]))
                for sign in (1, -1)
            )
            tries = [replace(bridge, x=x, y=y, angle=angle) for angle in angles]
        cuts = self.cuts(near)
        effects = [cuts_held(cuts, [each]).effects[0] for each in tries]
        return next((effect for effect in effects if effect.shape is not None), effects[0])

    def _laid(self, bridge: Bridge, at: Pointer) -> Bridge:
        """A bridge drawn along to the place nearest to the pointer; where it would hold nothing it
        stays where it was."""
        if bridge.contour not in self.session.layout.contour_by_id:
            return replace(bridge, x=at.x, y=at.y)
        contour = self.session.layout.contour_by_id[bridge.contour].contour
        position = position_near(contour, at.x, at.y)
        x, y = place_at(contour, position).tolist()
        laid = replace(bridge, x=x, y=y)
        if bridge.across:
            was, now = (
                _square_to(contour, position_near(contour, bridge.x, bridge.y)),
                _square_to(contour, position),
            )
            way = math.radians(bridge.angle)
            sign = 1.0 if was[0] * math.cos(way) + was[1] * math.sin(way) >= 0 else -1.0
            laid = replace(laid, angle=math.degrees(math.atan2(sign * now[1], sign * now[0])))
        shape = cuts_held(self.cuts(self._near(at)), [laid]).effects[0].shape
        return laid if shape is not None else self._dragged or bridge

    # --- islands

    def _hold_island_at(self, at: Pointer) -> None:
        inside = [
            i
            for i in self.session.selection.pickable
            if i.contour.closed and winds(i.contour, at.x, at.y)
        ]
        if not inside:
            self.session.messages.refused.emit("There is no island here; click inside one.")
            return
        self.hold([min(inside, key=lambda item: abs(item.contour.area)).id])

    def hold_all(self) -> None:
        """Bridges for every island of the chosen contours, or of all, that none holds yet."""
        session = self.session
        islands = islands_of(session.job, session.selection.ids)
        held = {bridge.contour for bridge in session.layout.bridges}
        if not islands:
            session.messages.refused.emit(
                "There are no islands: nothing stands inside an opening. Where lettering has no plate round it, choose the lettering first."
            )
        elif all(island in held for island in islands):
            session.messages.refused.emit(f"Every island is held already: {len(islands)} of them.")
        else:
            self.hold([island for island in islands if island not in held][:_MOST_ISLANDS])

    def hold(self, islands: Sequence[str]) -> None:
        """Bridges for some islands, found off the window's thread."""
        job, count, width = self.session.job, self.settings.count, self.settings.width

        def work(report: Progress) -> dict[str, list[Bridge]]:
            found = {}
            for k, island in enumerate(islands):
                report(k / len(islands), "finding places for bridges")
                found[island] = island_bridges(job, island, count, width)
            return found

        self.session.workers.run(
            ISLAND_LANE,
            work,
            lambda made: self._hold(job, made),
            lambda error: self.session.messages.refused.emit(
                f"Places for bridges could not be found: {error}"
            ),
        )

    def _hold(self, job: Job, made: dict[str, list[Bridge]]) -> None:
        session, bridges = self.session, [bridge for some in made.values() for bridge in some]
        left = sum(not some for some in made.values())
        if session.job is not job:
            session.messages.refused.emit(
                "The job was changed meanwhile; ask for the bridges again."
            )
            return
        if not bridges:
            session.messages.refused.emit(
                "There is no room for a bridge of that width here, or nothing round it to lead to; try a narrower one."
            )
            return
        session.edit("hold islands", add_bridges(job, bridges))
        some = (
            f"{count_words(len(bridges), 'bridge')} hold {count_words(len(made) - left, 'island')}"
        )
        session.messages.announced.emit(
            some if not left else f"{some}; {left} found no room for one of that width"
        )

    # --- what is chosen

    def _chosen_bridge(self) -> Bridge | None:
        return next(
            (bridge for bridge in self.session.layout.bridges if bridge.id == self.chosen), None
        )

    @property
    def width(self) -> float:
        """Of the chosen bridge, else of the next one."""
        bridge = self._chosen_bridge()
        return bridge.width if bridge else self.settings.width

    def set_width(self, mm: float) -> None:
        bridge = self._chosen_bridge()
        if bridge:
            self.session.edit(
                "another width of a bridge",
                change_bridge(self.session.job, replace(bridge, width=mm)),
            )
        else:
            self.settings.width = mm
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    def remove(self) -> bool:
        bridge = self._chosen_bridge()
        if bridge is None:
            return False
        self.chosen, self._dragged, self._pressed = "", None, None
        self.session.edit("remove a bridge", remove_bridges(self.session.job, [bridge.id]))
        self.session.tool_changed.emit()
        return True

    def remove_all(self) -> None:
        """Every bridge, or those of the chosen contours, are gone."""
        session = self.session
        gone = [
            bridge.id
            for bridge in session.layout.bridges
            if not session.selection.ids or bridge.contour in session.selection.ids
        ]
        self.chosen = ""
        session.edit(
            f"remove {count_words(len(gone), 'bridge')}", remove_bridges(session.job, gone)
        )
        session.tool_changed.emit()

    def cancel(self) -> bool:
        begun = bool(self.chosen or self._dragged)
        self.chosen, self._dragged, self._pressed = "", None, None
        self.session.tool_changed.emit()
        return begun

    def forget(self) -> None:
        self.chosen, self._hot, self._offered, self._dragged, self._pressed = (
            "",
            "",
            None,
            None,
            None,
        )

    # --- what it shows

    def hidden(self) -> frozenset[str]:
        return frozenset(name for cut in self._touched() for name in cut.ids)

    def marks(self) -> list[Mark]:
        held = self.held_cuts()
        marks: list[Mark] = [ContourMark(tuple(cut.contour for cut in self._touched()), "hand")]
        tagged = len(held.effects) <= _TAGGED
        for effect in held.effects:
            active = effect.bridge.id in (self._hot, self.chosen)
            if effect.shape is None:
                marks.append(
                    TagMark(
                        *effect.place,
                        f"holds nothing: {effect.lost}" if tagged or active else "holds nothing",
                        "note",
                    )
                )
                continue
            marks.append(SignMark(*effect.place, "bridge", active))
            if tagged or active:
                marks.append(
                    TagMark(
                        *effect.place,
                        self._length(effect.bridge.width),
                        "hand" if active else "note",
                    )
                )
        offered = self._offered
        if offered is not None and self._pressed is None:
            if offered.shape is not None:
                marks += [
                    ContourMark((offered.shape,), "preview"),
                    TagMark(*offered.place, f"{self._length(offered.bridge.width)} left"),
                ]
            else:
                marks.append(TagMark(*offered.place, offered.lost, "note"))
        return marks

    def _length(self, mm: float) -> str:
        return format_length(mm, self.session.layout.unit, places=2)


def _square_to(contour: Contour, position: float) -> Points:
    """The direction (2,) square to a contour at a position, to its right."""
    count = len(contour.kinds)
    a, b = (
        place_at(contour, min(max(position + step, 0.0), count - 1e-9)) for step in (-1e-4, 1e-4)
    )
    way = b - a
    return np.array([way[1], -way[0]]) / max(float(np.hypot(*way)), 1e-12)
