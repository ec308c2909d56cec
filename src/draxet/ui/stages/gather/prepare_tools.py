"""Steps are added; a box to crop by, outlines that cover."""

from __future__ import annotations

import math
from dataclasses import replace

from draxet.geometry.affine import Affine
from draxet.geometry.catching import Caught
from draxet.geometry.contour import Contour
from draxet.job.picture_edits import set_steps
from draxet.job.picture_records import Picture
from draxet.job.steps import Cover, Crop, PrepareStep, StepKind
from draxet.ui.model.session import Session
from draxet.ui.model.tool import ContourMark, LineMark, Mark, Pointer, Prompt, SignMark
from draxet.ui.stages.areas import AreaTool, begun_on
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.want import Gesture, Place, Want

__all__ = ["CoverTool", "CropTool", "add_step"]

_NODE_PX = 9.0
_COVER_PX = 0.25
"""Of a pixel: so near a cover comes to the contour that it is taken from."""
_START = "start"


def add_step(session: Session, kind: StepKind) -> None:
    """One more step for the picture in hand."""
    picture = session.selection.picture
    if picture:
        words = kind.words("mm", 1.0).split(" to ")[0].lower()
        session.edit(words, set_steps(session.job, picture.id, (*picture.steps, PrepareStep(kind))))


def base_box(picture: Picture, a: Pointer, b: Pointer) -> tuple[float, float, float, float]:
    """A box of job space as the box of base pixels round it."""
    to_base = picture.to_job.inverse().then(picture.to_base)
    places = [to_base.point(x, y) for x in (a.x, b.x) for y in (a.y, b.y)]
    return (
        min(x for x, _ in places),
        min(y for _, y in places),
        max(x for x, _ in places),
        max(y for _, y in places),
    )


class CropTool(AreaTool):
    """Drag a box round what is to be kept of a picture."""

    title = "Crop"

    def prompt(self) -> Prompt:
        return Prompt(
            "Crop: drag a box round what is to be kept.",
            "nothing else moves; the step can be switched off",
        )

    def boxed(self, picture: Picture, a: Pointer, b: Pointer) -> None:
        kept = tuple(step for step in picture.steps if not isinstance(step.kind, Crop))
        step = PrepareStep(Crop(*base_box(picture, a, b)))
        self.session.edit("crop a picture", set_steps(self.session.job, picture.id, (step, *kept)))


class CoverTool(GestureTool):
    """Blank out part of a picture: an outline by clicks, or a dragged box; outlines that are there
    can be changed."""

    title = "Cover"

    def __init__(self, session: Session) -> None:
        self.places: list[Place] = []
        self._node: tuple[int, int] | None = None
        super().__init__(session)

    def gesture(self) -> Gesture:
        self.places = []
        first = yield Want(
            "click the corners of what is to go, or drag a box",
            drag="box",
            catches=False,
            hint="it takes the paper's own colour · drag a corner to change a cover",
        )
        (x, y), pull = first.place, first.pull
        if pull:
            self.places = [(x, y), (x + pull[0], y), (x + pull[0], y + pull[1]), (x, y + pull[1])]
        else:
            yield from self._corners(first.place)
        picture = self.session.selection.picture
        if picture:
            to_base = _to_base(picture)
            add_step(self.session, Cover(tuple(to_base.point(*place) for place in self.places)))

    def cover_chosen(self) -> None:
        """Blank out the areas of the chosen closed contours."""
        picture, session = self.session.selection.picture, self.session
        areas = [item.contour for item in session.selection.items if item.contour.closed]
        if picture is None or not areas:
            session.messages.refused.emit(
                "Choose closed contours in Mend first; what lies in them is covered."
            )
            return
        to_base = _to_base(picture)
        within = _COVER_PX * picture.pixel_size
        steps = [
            PrepareStep(Cover(tuple(to_base.point(*at) for at in area.flattened(within).tolist())))
            for area in areas
        ]
        session.edit("cover", set_steps(session.job, picture.id, (*picture.steps, *steps)))

    def _corners(self, first: Place) -> Gesture:
        self.places = [first]
        while True:
            closes = len(self.places) > 2
            words = (
                "click the next corner, or the first one to close it"
                if closes
                else "click the next corner"
            )
            answer = yield Want(
                words,
                drag="",
                catches=False,
                ends="close it" if closes else "",
                keeps=False,
                marks=self._row,
            )
            if answer.key or answer.caught.word == _START:
                return
            self.places = [*self.places, answer.place]

    def _row(self, at: Place) -> list[Mark]:
        ahead = [*self.places, at]
        marks: list[Mark] = [LineMark(*a, *b) for a, b in zip(ahead, ahead[1:], strict=False)]
        return marks + [
            SignMark(x, y, "corner", k == 0 and len(self.places) > 2)
            for k, (x, y) in enumerate(self.places)
        ]

    def _catch(self, at: Pointer, *, at_once: bool = False) -> Caught:
        closes = (
            len(self.places) > 2
            and math.hypot(at.x - self.places[0][0], at.y - self.places[0][1]) < _NODE_PX * at.pixel
        )
        return Caught(*self.places[0], _START) if closes else super()._catch(at, at_once=at_once)

    # --- a corner of a cover that is there is dragged

    def press(self, at: Pointer) -> None:
        self._node = None if self.places else self._node_at(at)
        if self._node is None and (self.places or begun_on(self.session, at)):
            super().press(at)

    def release(self, at: Pointer) -> None:
        node, self._node = self._node, None
        picture = self.session.selection.picture
        if node is None:
            super().release(at)
        elif picture:
            self._move_corner(picture, *node, at)

    def prompt(self) -> Prompt:
        return (
            Prompt(
                "Cover: let the corner go where it belongs.",
                keys=(("Esc", "leave it where it was"),),
            )
            if self._node
            else super().prompt()
        )

    def cancel(self) -> bool:
        held, self._node = self._node is not None, None
        return super().cancel() or held

    def forget(self) -> None:
        self._node = None
        super().forget()

    def marks(self) -> list[Mark]:
        marks: list[Mark] = []
        for k, places in self._covers():
            if self._node and self._node[0] == k:
                places[self._node[1]] = self._at.place
            marks.append(ContourMark((Contour.make(places),)))
            marks += [
                SignMark(x, y, "corner", self._node == (k, n)) for n, (x, y) in enumerate(places)
            ]
        return marks + super().marks()

    def _covers(self) -> list[tuple[int, list[tuple[float, float]]]]:
        """Covers of the picture in hand that are on: their step and their corners in job space."""
        picture = self.session.selection.picture
        if picture is None:
            return []
        from_base = _to_base(picture).inverse()
        steps = enumerate(picture.steps)
        return [
            (k, [from_base.point(*place) for place in step.kind.outline])
            for k, step in steps
            if step.on and isinstance(step.kind, Cover)
        ]

    def _node_at(self, at: Pointer) -> tuple[int, int] | None:
        near = [
            (math.hypot(x - at.x, y - at.y), k, n)
            for k, places in self._covers()
            for n, (x, y) in enumerate(places)
        ]
        away, k, n = min(near, default=(math.inf, 0, 0))
        return (k, n) if away < _NODE_PX * at.pixel else None

    def _move_corner(self, picture: Picture, k: int, n: int, at: Pointer) -> None:
        cover = picture.steps[k].kind
        assert isinstance(cover, Cover)
        outline = (*cover.outline[:n], _to_base(picture).point(at.x, at.y), *cover.outline[n + 1 :])
        steps = (
            *picture.steps[:k],
            replace(picture.steps[k], kind=Cover(outline)),
            *picture.steps[k + 1 :],
        )
        self.session.edit("change a cover", set_steps(self.session.job, picture.id, steps))


def _to_base(picture: Picture) -> Affine:
    return picture.to_job.inverse().then(picture.to_base)
