"""What bridges hold, kept up to the job."""

from __future__ import annotations

from collections.abc import Sequence

from draxet.job.bridge_cuts import Cut, Effect, HeldCuts
from draxet.job.bridges import cuts_held, cuts_of
from draxet.job.contour_records import Bridge, ContourItem
from draxet.ui.model.derived import Derived
from draxet.ui.model.falling import Falling
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Pointer, Tool
from draxet.ui.stages.mend.bridge_settings import BridgeSettings

__all__ = ["ISLAND_LANE", "HeldByBridges"]

ISLAND_LANE = "islands"
_AT_ONCE = 40
"""So many bridges are worked out within a few milliseconds."""


class HeldByBridges(Tool):
    """A tool that knows the cuts as bridges hold them."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.chosen = ""
        self._hot = ""
        self._offered: Effect | None = None
        self._pressed: Pointer | None = None
        self._dragged: Bridge | None = None
        self._held = Derived[HeldCuts](
            session,
            "bridges",
            HeldCuts((), ()),
            "What the bridges hold could not be worked out",
            tool=self,
        )
        self._parted: tuple[object, object, list[Cut]] = (None, None, [])

    @property
    def settings(self) -> BridgeSettings:
        return self.session.desk.settings("bridges", BridgeSettings)

    def cuts(self, items: Sequence[ContourItem] | None = None) -> list[Cut]:
        return cuts_of(
            self.session.layout,
            self.session.layout.contours if items is None else items,
            self.session.single(Falling).settings.width,
        )

    def held_cuts(self) -> HeldCuts:
        """The cuts as they run, and what each bridge does; of many bridges off the window's thread,
        with what was known shown until then."""
        job, dragged = self.session.layout, self._dragged
        state = (
            job.contours,
            job.operations,
            job.bridges,
            job.fits,
            dragged,
            self.session.single(Falling).settings.width,
        )
        if not self._held.known(state):
            bridges = [
                dragged if dragged and each.id == dragged.id else each for each in job.bridges
            ]
            cuts = self.cuts() if bridges else []
            if len(bridges) <= _AT_ONCE:
                self._held.know(state, cuts_held(cuts, bridges) if bridges else HeldCuts((), ()))
            else:
                self._held.ask(state, lambda report: cuts_held(cuts, bridges))
        return self._held.value

    def put_away(self) -> None:
        self.session.workers.cancel(ISLAND_LANE)

    def _touched(self) -> list[Cut]:
        """The cuts that bridges change; worked out once for each answer."""
        held, contours = self.held_cuts(), self.session.layout.contours
        if self._parted[0] is not held or self._parted[1] is not contours:
            whole = {item.id: item.contour for item in contours}
            self._parted = (
                held,
                contours,
                [
                    cut
                    for cut in held.cuts
                    if len(cut.ids) > 1 or cut.contour is not whole.get(cut.ids[0])
                ],
            )
        return self._parted[2]
