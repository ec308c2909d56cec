"""Areas get colours: the chosen ones a colour, or all of them what the picture has there."""

from __future__ import annotations

from collections.abc import Callable, Collection

from draxet.geometry.arrangement import Arrangement
from draxet.geometry.contour import Contour
from draxet.job.findings import count_words
from draxet.job.records import Job
from draxet.mend.colouring import give_colours
from draxet.progress import Progress
from draxet.trace.inside import colour_inside
from draxet.ui.model.session import Session

__all__ = ["RegionColours"]

_LANE = "fill areas"


class RegionColours:
    """Gives them, and says what came of it. `told` hears when filling begins and ends."""

    def __init__(
        self,
        session: Session,
        told: Callable[[], object],
        failed: Callable[[Exception], object],
    ) -> None:
        self.session, self._told, self._failed = session, told, failed
        self.filling = False

    def give(self, ground: Arrangement, chosen: Collection[int], colour: str) -> None:
        """Some areas in a colour (#rrggbb; empty: the one that the picture has there)."""
        session, there = self.session, self._there()
        areas = [ground.outline_of([k]) for k in sorted(chosen)]
        colours = [colour or (there(outline[0]) if there else "") for outline in areas]
        session.edit("give areas a colour", give_colours(session.job, areas, colours))
        session.messages.announced.emit(f"{count_words(len(areas), 'area')} with a colour")

    def why_not_fill(self, ground: Arrangement | None) -> str:
        """Why not all areas can take the picture's colours; empty where they can."""
        if self.session.selection.picture is None:
            return "there is no picture"
        if self._there() is None:
            return "the picture is being read"
        return "" if ground is not None and ground.regions else "there is no area"

    def fill(self, ground: Arrangement | None) -> None:
        """Every area takes the colour that the picture has there, by a worker; areas beside the
        picture stay as they are."""
        session, there, why_not = self.session, self._there(), self.why_not_fill(ground)
        if why_not or ground is None or there is None:
            session.messages.refused.emit(f"Regions: nothing to fill from, {why_not}.")
            return
        job, thin = session.job, session.job.exactness.tolerance / 100

        def work(report: Progress) -> tuple[Job, int]:
            found = list[tuple[list[Contour], str]]()
            for k, region in enumerate(ground.regions):
                report(k / len(ground.regions) / 2, "taking colours")
                outline = ground.outline_of([k]) if region.thin >= thin else []
                if outline and (colour := there(outline[0])):
                    found.append((outline, colour))
            areas, colours = [area for area, _ in found], [colour for _, colour in found]
            return give_colours(job, areas, colours, report), len(areas)

        self._begun(True)
        session.workers.run(_LANE, work, lambda found: self._filled(job, *found), self._gone_wrong)

    def stop(self) -> bool:
        """Stop filling; whether it was under way."""
        was = self.filling
        self.session.workers.cancel(_LANE)
        if was:
            self._begun(False)
        return was

    def _filled(self, before: Job, job: Job, count: int) -> None:
        self._begun(False)
        messages = self.session.messages
        if self.session.job is not before:
            messages.refused.emit("Regions: the job has changed meanwhile; fill once more.")
            return
        self.session.edit("fill all areas from the picture", job)
        messages.announced.emit(f"{count_words(count, 'area')} with the picture's colours")

    def _gone_wrong(self, error: Exception) -> None:
        self._begun(False)
        self._failed(error)

    def _begun(self, filling: bool) -> None:
        self.filling = filling
        self._told()

    def _there(self) -> Callable[[Contour], str] | None:
        """Which colour the picture in hand has inside a contour; None where it is not there yet."""
        picture, store = self.session.selection.picture, self.session.pictures
        if picture is None or not store.ready(picture):
            return None
        pixels, back = store.of(picture).levels[0], picture.to_job.inverse()
        return lambda contour: colour_inside(contour.transformed(back), pixels)
