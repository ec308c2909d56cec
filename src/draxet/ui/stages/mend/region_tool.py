"""Regions: every area that contours bound between them lights up; by clicks or strokes some are
chosen, and kept, joined, dropped or coloured. A click in an area that leaks shows where."""

from __future__ import annotations

from draxet.geometry.arrangement import Arrangement, arrangement_of
from draxet.job.contour_pieces import put_all, put_instead
from draxet.job.findings import count_words
from draxet.mend.holes import hole_turned
from draxet.mend.leaks import Leak, leak_at
from draxet.mend.regions import Taken, combined, regions_taken
from draxet.progress import Progress
from draxet.ui.model.derived import Derived
from draxet.ui.model.session import Session
from draxet.ui.model.tool import AreaMark, ContourMark, Mark, Pointer, Prompt, TagMark, Tool
from draxet.ui.stages.mend.region_colours import RegionColours
from draxet.units import format_area

__all__ = ["RegionTool"]


_LEAK_LANE = "leak"

_LIT, _CHOSEN, _LEAKY = "#EBDDBF", "#D9B676", "#F2CFC8"

_WIDEST_LEAK = 25.0
"""mm: a gap that is broader is no leak but an opening."""

_MOST_SHOWN = 60


class RegionTool(Tool):
    """Areas of the chosen contours, or of all, found off the window's thread."""

    title = "Regions"

    def __init__(self, session: Session) -> None:
        self.session = session
        self._areas = Derived[tuple[Arrangement | None, list[str]]](
            session,
            "regions",
            (None, []),
            "The areas could not be found",
            tool=self,
            keeps=False,
        )
        self.colours = RegionColours(session, self._told, self._failed)
        self.chosen: frozenset[int] = frozenset()
        self.leak: Leak | None = None
        self._hot: int | None = None
        self._stroke: set[int] | None = None
        self._drops = False
        self.about = "each"
        """What the pointer is on that the chosen areas may become: ``each``, ``one`` or ``but``."""
        self._going: tuple[str, ...] = ()
        self._going_of: tuple[object, ...] = ()
        self.turns = False
        """Whether a click turns a hole solid, or back."""

    @property
    def ground(self) -> Arrangement | None:
        return self._areas.value[0]

    @property
    def ids(self) -> list[str]:
        return self._areas.value[1]

    def begin(self) -> None:
        self.look()

    def look(self) -> None:
        """Find the areas, where they are not known already."""
        items = self.session.selection.items or list(self.session.selection.pickable)
        contours, ids = [item.contour for item in items], [item.id for item in items]

        def work(report: Progress) -> tuple[Arrangement, list[str]]:
            workers = self.session.workers
            return workers.ended_if_long(report, contours, arrangement_of, contours), ids

        if self._areas.ask((self.session.layout.contours, ids), work):
            self.chosen, self.leak, self._hot = frozenset(), None, None

    def _failed(self, error: Exception) -> None:
        self.session.messages.refused.emit(f"The areas could not be found: {error}")

    def _told(self) -> None:
        self.session.tool_changed.emit()
        self.session.marks_changed.emit()

    @property
    def busy(self) -> bool:
        return self._areas.busy

    def prompt(self) -> Prompt:
        if self.colours.filling:
            return Prompt("Regions: taking the picture's colours …", keys=(("Esc", "stop it"),))
        if self.busy:
            return Prompt("Regions: finding the areas …", keys=(("Esc", "stop it"),))
        if self.ground is None:
            return Prompt("Regions: the areas are not known.", "take the tool once more")
        if self.turns:
            return Prompt("Regions: click a hole to turn it solid, or a solid one to turn it back.")
        if self.leak is not None and self.leak.parts:
            what = (
                "a line stops" if len(self.leak.gaps) == 1 else f"{len(self.leak.gaps)} lines stop"
            )
            return Prompt(
                f"Regions: in this area {what} short by {self.length(self.leak.gaps[-1].size)}.",
                "led on, it parts the area",
                (("Enter", "lead it on"), ("Esc", "leave it")),
            )
        if self.leak is not None:
            return Prompt(
                f"Regions: it leaks through {count_words(len(self.leak.gaps), 'gap')}.",
                f"the broadest is {self.length(self.leak.gaps[-1].size)}",
                (("Enter", "close it"), ("Esc", "leave it")),
            )
        keys = (("Enter", "keep them"), ("Esc", "none")) if self.chosen else ()
        return Prompt(
            "Regions: click areas, or draw a stroke across several.",
            "" if self.chosen else "a click in an open one shows where it leaks",
            keys,
        )

    def length(self, mm: float) -> str:
        from draxet.units import format_length

        return format_length(mm, self.session.job.unit, places=2)

    # --- the pointer

    def press(self, at: Pointer) -> None:
        self.leak = None
        if self.turns:
            self._turn_hole(at)
            return
        number = self.ground.at(at.x, at.y) if self.ground else None
        if number is None:
            self._look_for_leak(at)
            return
        self._drops = number in self.chosen
        self._stroke = {number}
        self._took()
        if not self._drops:
            self._look_for_leak(at)

    def move(self, at: Pointer) -> None:
        number = self.ground.at(at.x, at.y) if self.ground else None
        if number != self._hot:
            self._hot = number
            self.session.marks_changed.emit()
        if self._stroke is not None and number is not None and number not in self._stroke:
            self._stroke.add(number)
            self._took()

    def _took(self) -> None:
        some = frozenset(self._stroke or ())
        self.chosen = self.chosen - some if self._drops else self.chosen | some
        self._told()

    def release(self, at: Pointer) -> None:
        self._stroke = None

    def _turn_hole(self, at: Pointer) -> None:
        session, turned = self.session, hole_turned(self.session.job, at.x, at.y)
        if turned is None:
            session.messages.refused.emit(
                "There is no hole here: click inside a contour that stands in another one."
            )
            return
        job, solid = turned
        session.edit("turn a hole solid" if solid else "turn it back into a hole", job)
        self.look()
        session.messages.announced.emit(
            "Solid now; its contour is a helper contour, and another click turns it back"
            if solid
            else "A hole again"
        )

    def set_turns(self, what: str) -> None:
        self.turns = what == "holes"
        self.cancel()
        self._told()

    def _look_for_leak(self, at: Pointer) -> None:
        if self.ground is None:
            return
        contours, by_id = list(self.ground.contours), self.session.layout.contour_by_id
        slits = frozenset(n for n, k in enumerate(self.ids) if k in by_id and by_id[k].slit)

        bounded = self.ground.at(at.x, at.y) is not None

        def done(leak: Leak | None) -> None:
            self.leak = leak
            self._told()
            if leak is None and not bounded:
                self.session.messages.refused.emit(
                    "There is no area here: nothing bounds it, and no gap that is narrow enough would close it."
                )

        workers = self.session.workers
        workers.run(
            _LEAK_LANE,
            lambda report: workers.ended_if_long(
                report, contours, leak_at, contours, at.x, at.y, _WIDEST_LEAK, slits
            ),
            done,
            self._failed,
        )

    # --- what is done

    def enter(self) -> bool:
        if self.leak is not None:
            self.close_leak()
            return True
        return False

    def close_leak(self) -> None:
        """Close the gaps through which it leaks."""
        leak, job, ids = self.leak, self.session.job, list(self.ids)
        if leak is None:
            return
        self.leak = None
        if not leak.gaps[0].becomes:
            self.session.messages.refused.emit(
                "This gap cannot be closed: the contour would cross itself. Move its ends together first."
            )
            return
        for gap in leak.gaps[
            :1
        ]:  # the others are found anew: one mend may join contours that they concern
            job = put_all(job, {ids[number]: parts for number, parts in gap.becomes.items()})
        self.session.edit("lead a line on" if leak.parts else "close a leak", job)
        left = len(leak.gaps) - 1
        done, every = (
            ("Led on", "It is led on, and parts the area")
            if leak.parts
            else ("Closed", "The leak is closed")
        )
        self.session.messages.announced.emit(
            every if not left else f"{done}; {count_words(left, 'gap')} more, click again"
        )
        self.look()

    def keep(self, how: str) -> None:
        """``each`` chosen area a contour of its own, ``one`` outline of all of them, or all ``but``
        them; in place of the contours that bound them."""
        if self.ground is None or not self.chosen:
            self.session.messages.refused.emit("Regions: click the areas that you mean first.")
            return
        self._replace(
            {"each": "keep regions", "one": "join regions", "but": "drop regions"}[how],
            regions_taken(self.ground, self.chosen, how),
        )

    def combine(self, how: str) -> None:
        """All closed contours: ``unite``, ``intersect`` (what all cover), ``exclude`` (what only
        one covers), or ``subtract`` all others from the first."""
        if self.ground is None:
            return
        taken = combined(self.ground, how)
        if not taken.made and len(taken.gone) == sum(
            contour.closed for contour in self.ground.contours
        ):
            self.session.messages.refused.emit(
                "Regions: that would leave nothing; choose other contours."
            )
            return
        self._replace(
            {
                "unite": "unite",
                "intersect": "keep what overlaps",
                "exclude": "keep what does not overlap",
                "subtract": "subtract",
            }[how],
            taken,
        )

    def _replace(self, words: str, taken: Taken) -> None:
        session, by_id = self.session, self.session.layout.contour_by_id
        gone = [self.ids[k] for k in taken.gone if self.ids[k] in by_id]
        if not gone and not taken.made:
            session.messages.refused.emit(
                "Regions: these areas are contours of their own already; nothing changes."
            )
            return
        session.edit(words, put_instead(session.job, gone, taken.made))
        session.messages.announced.emit(
            f"{count_words(len(taken.made), 'contour')} in place of {len(gone)}"
        )
        session.selection.choose(frozenset())
        self.look()

    def meant(self, how: str) -> None:
        """What the chosen areas would become is what the pointer is on: what goes by it is
        shown."""
        if how != self.about:
            self.about = how
            self._told()

    @property
    def going(self) -> tuple[str, ...] | None:
        """Ids of the contours that would go; None where that would take long to say."""
        if (
            self.ground is None
            or not self.chosen
            or (self.about == "each" and len(self.chosen) > _MOST_SHOWN)
        ):
            return None
        state = (self.ground, self.chosen, self.about)
        if self._going_of != state:
            taken = regions_taken(self.ground, self.chosen, self.about)
            self._going_of, self._going = state, tuple(self.ids[k] for k in taken.gone)
        return self._going

    def colour(self, colour: str) -> None:
        """The chosen areas in a colour (#rrggbb; empty: the one that the picture has there)."""
        if self.ground is None or not self.chosen:
            self.session.messages.refused.emit("Regions: click the areas that you mean first.")
            return
        self.colours.give(self.ground, self.chosen, colour)

    def fill_all(self) -> None:
        """Every area takes the colour that the picture has there."""
        self.colours.fill(self.ground)

    def cancel(self) -> bool:
        begun = self.colours.stop() or bool(self.chosen) or self.leak is not None
        self.chosen, self.leak, self._stroke = frozenset(), None, None
        if not begun and self.session.selection.ids:  # the choice goes before the tool does
            self.session.selection.choose(frozenset())
            return True
        return begun

    def forget(self) -> None:
        self._areas.forget()
        self.chosen, self.leak, self._stroke, self._hot = frozenset(), None, None, None

    def put_away(self) -> None:
        self.session.workers.cancel(_LEAK_LANE)
        self.colours.stop()

    def marks(self) -> list[Mark]:
        if self.ground is None:
            return []
        marks: list[Mark] = [self._area(k, _CHOSEN) for k in sorted(self.chosen)]
        if self._hot is not None and self._hot not in self.chosen:
            marks.append(self._area(self._hot, _LIT))
        if gone := [
            self.session.layout.contour_by_id[k].contour
            for k in self.going or ()
            if k in self.session.layout.contour_by_id
        ]:
            marks.append(ContourMark(tuple(gone), "goes"))
        if self._hot is not None:
            region = self.ground.regions[self._hot]
            x, y = (region.box[0] + region.box[2]) / 2, region.box[1]
            marks.append(TagMark(x, y, format_area(region.area, self.session.job.unit)))
        if self.leak is not None:
            marks += [
                AreaMark((self.leak.outline,), _LEAKY),
                ContourMark(
                    tuple(bridge for gap in self.leak.gaps for bridge in gap.outlines), "lacking"
                ),
            ]
            what = "short" if self.leak.parts else "leak"
            marks.append(
                TagMark(
                    *self.leak.gaps[-1].place, f"{what}, {self.length(self.leak.gaps[-1].size)}"
                )
            )
        return marks

    def _area(self, number: int, colour: str) -> AreaMark:
        assert self.ground is not None
        region = self.ground.regions[number]
        return AreaMark((region.outline, *region.holes), colour)
