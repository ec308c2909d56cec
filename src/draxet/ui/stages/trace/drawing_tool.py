"""What all tools that draw share: their settings, and how what is drawn comes into the job."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.asked import Asked
from draxet.job.contour_edits import add_contours, remove_contours, replace_contours, set_ellipse
from draxet.job.copies import place_copies
from draxet.job.find import Items, contour_at
from draxet.job.layout_names import laid_name
from draxet.job.ranges import Colour, OneOf, Within
from draxet.record import record
from draxet.trace.inside import colour_inside
from draxet.ui.model.session import Session
from draxet.ui.model.tool import Mark
from draxet.ui.stages.caught import REACH
from draxet.ui.stages.gesture import GestureTool
from draxet.ui.stages.mirrored import symmetry
from draxet.units import format_length

__all__ = ["SHAPES", "DrawSettings", "DrawingTool", "draw_settings", "put_contour"]

_MEETS_PX = 2.0
"""Within so many pixels of the screen nobody sees that an end lies beside an edge of symmetry."""
SHAPES = (
    ("circle", "circle"),
    ("arc", "arc"),
    ("ellipse", "ellipse"),
    ("box", "box"),
    ("polygon", "polygon"),
    ("slot", "slot"),
)


@record
class DrawSettings:
    """How drawing goes on. by : what the next span is. Lengths in mm, smooth_px in pixels of the
    screen.
    colour : what is drawn has it, #rrggbb, or none; or, with colour_of_picture, the one that the
    picture has there."""

    by: Annotated[
        str,
        OneOf(("line", "curve", "arc", "through")),
        Asked(
            "",
            choices=(
                ("line", "straight"),
                ("curve", "curve"),
                ("arc", "arc"),
                ("through", "arc through"),
            ),
            tip="arc: goes on from what is drawn; through: an arc through a place, to its end",
        ),
    ] = "line"
    walk: Annotated[
        str,
        OneOf(("edges", "middles")),
        Asked("", choices=(("edges", "the edge"), ("middles", "the stroke's middle"))),
    ] = "edges"
    shape: Annotated[str, OneOf(tuple(shape for shape, _ in SHAPES)), Asked("", choices=SHAPES)] = (
        "circle"
    )
    circle: Annotated[
        str,
        OneOf(("middle", "two", "three")),
        Asked("", choices=(("middle", "its middle"), ("two", "two places"), ("three", "three"))),
    ] = "middle"
    ellipse: Annotated[
        str,
        OneOf(("middle", "box", "edge")),
        Asked(
            "",
            choices=(("middle", "its middle"), ("box", "its box"), ("edge", "its edge")),
            tip="its edge: five places or more along it; the nearest ellipse, and how far it is off",
        ),
    ] = "middle"
    box: Annotated[
        str,
        OneOf(("corner", "middle")),
        Asked("", choices=(("corner", "from a corner"), ("middle", "from its middle"))),
    ] = "corner"
    rounding: Annotated[float, Within(0.0, 1e6), Asked("Rounding", "mm")] = 0.0
    sides: Annotated[int, Within(3, 200), Asked("Sides", slider=(3, 24))] = 6
    smooth_px: Annotated[float, Within(0.5, 20.0), Asked("Smoothing", " px", slider=(1, 20))] = 2.0

    colour: Colour = ""
    colour_of_picture: bool = False

    def take_by(self, by: str) -> str:
        self.by = by
        return by


def draw_settings(session: Session) -> DrawSettings:
    """The session's settings for drawing."""
    return session.desk.settings("draw", DrawSettings)


def put_contour(
    session: Session,
    words: str,
    contour: Contour,
    *,
    instead: str = "",
    ellipse: Affine | None = None,
) -> str:
    """A drawn contour comes into the job, or takes another one's place; its id. An open one is no
    slit until that is said. Symmetry draws it again, or makes one closed contour of it and its
    copies. ellipse : where it is one, the unit circle's map to it."""
    mirrored = symmetry(session)
    pixel = 1 / session.desk.view[2] if session.desk.view else 0.0
    contour = mirrored.laid(contour, session.job.exactness.tolerance)
    whole = mirrored.joined(contour)
    job = remove_contours(session.job, _copies_of(session, instead)) if whole else session.job
    if instead:
        session.edit(words, replace_contours(job, {instead: whole or contour}))
        return instead
    colour = _colour_of(session, whole or contour)
    made = add_contours(job, [whole or contour], colours=[colour])
    new = made.contours[-1].id
    if ellipse is not None and not whole:
        made = set_ellipse(made, new, ellipse)
    off = mirrored.off_itself(contour, REACH * pixel) if contour.closed else 0.0
    places = [] if whole else mirrored.copies(contour, off)
    if places:
        made, _ = place_copies(made, [new], places, linked=True, symmetric=True)
    session.edit(words, made)
    if off:
        session.messages.offer(
            f"Drawn once: it lies on its own mirror but for {format_length(off, session.job.unit, places=2)}.",
            "Draw both",
            partial(_draw_both, session, new, mirrored.places()),
        )
    elif not whole and mirrored.joined(mirrored.laid(contour, _MEETS_PX * pixel)):
        session.messages.announced.emit(
            "Its ends lie beside the edge of symmetry: two open contours. Take it back to draw them onto it"
        )
    elif not (whole or contour).closed and _parts_a_piece(session, new):
        session.messages.offer(
            "It runs from edge to edge: something may fall.",
            "Falls or stays?",
            partial(session.messages.tool_asked.emit, "falls"),
        )
    return new if new in session.layout.contour_by_id else ""


def _draw_both(session: Session, name: str, places: list[Affine]) -> None:
    """What was drawn once for it lies nearly on its own mirror is drawn again all the same."""
    if name in session.job.contour_by_id:
        made, _ = place_copies(session.job, [name], places, linked=True, symmetric=True)
        session.edit("draw both", made)


def _parts_a_piece(session: Session, name: str) -> bool:
    """Whether both ends of an open contour lie on closed ones."""
    item = session.layout.contour_by_id.get(name)
    if item is None:
        return False
    others = Items(each for each in session.selection.shown if each.contour.closed)
    return all(
        contour_at(others, x, y, session.job.exactness.tolerance)
        for x, y in item.contour.nodes[[0, -1]].tolist()
    )


def _colour_of(session: Session, contour: Contour) -> str:
    """The colour that a drawn contour takes."""
    settings, picture = draw_settings(session), session.selection.picture
    if not settings.colour_of_picture or picture is None or not session.pictures.ready(picture):
        return settings.colour
    return colour_inside(
        contour.transformed(picture.to_job.inverse()), session.pictures.of(picture).levels[0]
    )


def _copies_of(session: Session, contour_id: str) -> list[str]:
    """What symmetry drew of a contour."""
    item = session.layout.contour_by_id.get(contour_id)
    return [
        laid_name(placement.id, contour_id)
        for placement in session.job.placements
        if item and placement.symmetric and placement.part == item.part
    ]


class DrawingTool(GestureTool):
    """A tool that draws by places: symmetry shows what it would draw in the other half or
    sectors."""

    def marks(self) -> list[Mark]:
        return symmetry(self.session).echoed(super().marks())
