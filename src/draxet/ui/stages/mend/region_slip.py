"""The slip of regions: the areas that are there, and what can be made of them."""

from __future__ import annotations

from functools import partial

from draxet.job.findings import count_words
from draxet.ui.controls.fields import Choice, when_meant
from draxet.ui.controls.slip_parts import allow, button, fact_row, label, side_by_side
from draxet.ui.model.session import Session
from draxet.ui.stages.colour_menu import ColourMenu
from draxet.ui.stages.mend.narrowed_row import NarrowedRow
from draxet.ui.stages.mend.region_tool import RegionTool
from draxet.ui.stages.slip import Slip

__all__ = ["RegionSlip"]


class RegionSlip(Slip):
    """How many areas there are, and what is done with the chosen ones, or with all contours."""

    def __init__(self, session: Session, tool: RegionTool) -> None:
        super().__init__(
            session,
            "Regions",
            "Every area that the chosen contours, or all, bound between them. Curves stay true curves.",
        )
        self._tool = tool
        self.narrowed = NarrowedRow(session)
        self.add(self.narrowed)
        self.click = Choice(
            (("areas", "areas"), ("holes", "holes solid")),
            "A click chooses areas, or turns holes solid",
        )
        self.click.chosen.connect(tool.set_turns)
        self.add(label("A click chooses or turns"), self.click)
        self._add_areas()
        self._add_ways()
        self.refresh()

    def _add_areas(self) -> None:
        """How many there are, and what is done with the chosen ones."""
        tool = self._tool
        areas, self._areas = fact_row("Areas")
        chosen, self._chosen = fact_row("Chosen")
        slivers, self._slivers = fact_row("Too thin to offer")
        goes, self._goes = fact_row("Goes then, dotted")
        self.close_leak = button("Close the leak", "main", tool.close_leak)
        self.keep = button("Keep the chosen", "main", lambda: tool.keep("each"))
        self.join = button("Join into one", "plain", lambda: tool.keep("one"))
        self.drop = button("Drop them", "plain", lambda: tool.keep("but"))
        for part, how in ((self.keep, "each"), (self.join, "one"), (self.drop, "but")):
            when_meant(part, partial(tool.meant, how), partial(tool.meant, "each"))
        self.colour = ColourMenu(
            self.session, "Give a colour", tool.colour, lambda: tool.colour(""), none=False
        )
        self.fill = button("Fill all from the picture", "plain", tool.fill_all)
        self.add(
            areas,
            chosen,
            slivers,
            side_by_side(self.join, self.drop),
            goes,
            self.colour,
            self.fill,
        )

        self.foot.add(self.close_leak, self.keep)

    def _add_ways(self) -> None:
        """What all closed contours can be put together to."""
        words = {
            "unite": "Unite",
            "subtract": "Take from the first",
            "intersect": "What all cover",
            "exclude": "What one covers",
        }
        self.ways = ways = {
            how: button(text, "plain", partial(self._tool.combine, how))
            for how, text in words.items()
        }
        self.add(
            label("All closed contours", "section"),
            side_by_side(ways["unite"], ways["subtract"]),
            side_by_side(ways["intersect"], ways["exclude"]),
        )

    def refresh(self) -> None:
        tool = self._tool
        tool.look()
        self.narrowed.refresh()
        ground, thin = tool.ground, self.session.job.exactness.tolerance / 100
        slivers = sum(region.thin < thin for region in ground.regions) if ground else 0
        self._areas.setText("…" if ground is None else str(len(ground.regions) - slivers))
        self._slivers.setText(str(slivers))
        self._slivers.parentWidget().setVisible(slivers > 0)  # type: ignore[union-attr]
        self._chosen.setText(str(len(tool.chosen)) if tool.chosen else "none")
        going = tool.going
        self._goes.setText(
            "" if going is None else count_words(len(going), "contour") if going else "nothing"
        )
        self._goes.parentWidget().setVisible(going is not None)  # type: ignore[union-attr]
        self.click.set_value("holes" if tool.turns else "areas")
        self.close_leak.setVisible(tool.leak is not None)
        self.close_leak.setText(
            "Lead it on" if tool.leak is not None and tool.leak.parts else "Close the leak"
        )
        self.keep.setVisible(tool.leak is None)
        if tool.leak is not None:
            self.foot.offer(self.close_leak, "What leaks is shown; then there is an area")
        else:
            self.foot.offer(
                self.keep,
                f"Keeps {count_words(len(tool.chosen), 'area')} as contours",
                "" if tool.chosen else "Choose areas first: click into them",
            )
        for part in (self.join, self.drop, self.colour):
            allow(part, tool.chosen, "choose areas first: click into them")
        why_not = tool.colours.why_not_fill(ground)
        allow(self.fill, not why_not and not tool.colours.filling, why_not or "it is being done")
        for way in self.ways.values():
            allow(
                way,
                ground is not None and sum(contour.closed for contour in ground.contours) > 1,
                "at least two closed contours are wanted",
            )
