"""Bodies as files: meshes that other programs build of, and a picture of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Annotated, Any

import cv2
import numpy as np
import scipy

from draxet.formats.layer import FormatError
from draxet.formats.meshes import ENDINGS, TELL_APART, mesh_bytes, read_meshes
from draxet.formats.step import step_bytes
from draxet.formats.step_in import StepSolid, read_step
from draxet.geometry.arrays import NDArray
from draxet.geometry.exact_solids import ExactSolid
from draxet.geometry.mesh import Mesh, box_of, joined, volume_of, welded
from draxet.job.asked import Asked
from draxet.job.findings import count_words
from draxet.job.ranges import OneOf, Within
from draxet.leaving.leaving_kind import Leaving, LeavingKind, ReadBack
from draxet.make.solids.exact_cells import NotExact
from draxet.make.solids.solid_sheet import SolidSheet
from draxet.make.solids.solid_view import VIEWS, seen_from
from draxet.progress import Progress
from draxet.record import record

__all__ = ["BODY_KINDS", "BodyPicture", "compared", "leaves", "same_solids"]

_COARSE = 1e-4
"""mm: what is nearer in a file of small numbers is one place."""
_WITHIN, _OF_VOLUME = 1e-5, 1e-4
"""Of a length and of a volume: so far what is read back may be off, as files hold few digits."""


def _solid(leaving: Leaving) -> SolidSheet:
    product = leaving.product
    if not isinstance(product, SolidSheet):
        raise FormatError(
            f"the {leaving.machine.name.lower()} makes no bodies; choose a layer printer in Make, Machine"
        )
    if not product.meshes:
        raise FormatError(
            "nothing would leave: nothing on this sheet is raised yet; raise an area in Make"
        )
    return product


def compared(wanted: Sequence[Mesh], found: Sequence[Mesh]) -> bool:
    """Whether meshes that were read back are those that were written."""
    one, other = joined(wanted), joined(found)
    same = len(one.triangles) == len(other.triangles) and all(
        abs(a - b) <= _WITHIN * max(abs(a), 1.0)
        for ends in zip(box_of([one]), box_of([other]), strict=True)
        for a, b in zip(*ends, strict=True)
    )
    return same and abs(volume_of(one) - volume_of(other)) <= _OF_VOLUME * abs(volume_of(one))


def same_solids(wanted: Sequence[ExactSolid], found: Sequence[StepSolid]) -> bool:
    """Whether exact solids that were read back are those that were written."""
    return len(wanted) == len(found) and all(map(_is_same_solid, wanted, found))


def _is_same_solid(one: ExactSolid, other: StepSolid) -> bool:
    used = sorted({edge for face in one.faces for loop in face.loops for edge, _ in loop})
    ends = sorted({end for k in used for end in (one.edges[k].begin, one.edges[k].end)})
    places = one.vertices[ends]
    if (
        (one.name, one.colour.lower()) != (other.name, other.colour)
        or len(used) != other.edges
        or len(one.shells) - 1 != other.hollows
        or len(one.faces) != sum(other.faces.values())
        or places.shape != other.vertices.shape
    ):
        return False
    apart, _ = scipy.spatial.cKDTree(other.vertices).query(places)
    return bool(apart.max() <= _COARSE)


def leaves(meshes: Sequence[Mesh], whole: Callable[[], Mesh], ending: str) -> list[Mesh]:
    """What a kind of file holds: bodies by themselves where it tells them apart, else as one."""
    return list(meshes) if ending in TELL_APART else [welded(whole(), _COARSE)]


def _read_back(ending: str) -> Callable[[list[Mesh], Path, Progress], ReadBack]:
    def read_back(meshes: list[Mesh], path: Path, report: Progress) -> ReadBack:
        found = read_meshes(path.read_bytes(), ending)
        if not compared(meshes, found):
            return ReadBack(False, "it did not read back as it was written")
        count = sum(len(mesh.triangles) for mesh in found)
        said = "1 body" if len(found) == 1 else f"{len(found)} bodies"
        volume = sum(map(volume_of, found)) / 1000
        return ReadBack(True, f"{said}, {count_words(count, 'triangle')}, {volume:.4g} cm³")

    return read_back


def _wanted(ending: str, leaving: Leaving, path: Path) -> list[Mesh]:
    solid = _solid(leaving)
    return leaves(solid.placed_meshes, lambda: solid.placed_whole, ending)


def _kind(ending: str) -> LeavingKind[list[Mesh]]:
    return LeavingKind(
        f"bodies-{ending}",
        f"Bodies ({ending.upper()})",
        f".{ending}",
        partial(_wanted, ending),
        lambda meshes, report: mesh_bytes(meshes, ending),
        _read_back(ending),
        signs=True,
        of="bodies",
    )


def _exact(leaving: Leaving, path: Path) -> list[ExactSolid]:
    from draxet.make.solids.exact_sheet import exact_on  # not needed to offer it

    solid = _solid(leaving)
    try:
        return exact_on(leaving.side, leaving.run.sheet, solid, leaving.report)
    except NotExact as error:
        raise FormatError(f"STEP cannot be written: {error}") from error


def _exact_back(solids: list[ExactSolid], path: Path, report: Progress) -> ReadBack:
    found = read_step(path.read_bytes())
    if not same_solids(solids, found):
        return ReadBack(False, "it did not read back as it was written")
    said = "1 exact solid" if len(found) == 1 else f"{len(found)} exact solids"
    return ReadBack(True, f"{said}, {count_words(sum(len(each.faces) for each in solids), 'face')}")


_STEP = LeavingKind(
    "bodies-step",
    "Bodies (STEP)",
    ".step",
    _exact,
    lambda solids, report: step_bytes(solids),
    _exact_back,
    signs=True,
    of="bodies",
)


@record
class BodyPicture:
    """From where a picture shows bodies: a side by name, or as they are looked at ``now``: turned and
    from above by degrees; and how large it is, in pixels."""

    seen: Annotated[
        str,
        OneOf(("now", *VIEWS)),
        Asked(
            "Bodies seen",
            choices=(("now", "as looked at"), *((name, name) for name in VIEWS)),
        ),
    ] = "now"
    wide: Annotated[int, Within(16, 8000), Asked("Picture wide", " px")] = 1600
    high: Annotated[int, Within(16, 8000), Asked("Picture high", " px")] = 1000
    turned: Annotated[float, Within(-3600.0, 3600.0)] = VIEWS["angled"][0]
    above: Annotated[float, Within(-90.0, 90.0)] = VIEWS["angled"][1]

    @property
    def way(self) -> tuple[float, float]:
        """Degrees turned, and from above."""
        return VIEWS.get(self.seen, (self.turned, self.above))


def _picture(leaving: Leaving, path: Path) -> NDArray[np.uint8]:
    asked = leaving.set(BodyPicture)
    return seen_from(_solid(leaving).placed_meshes, *asked.way, asked.wide, asked.high)


def _picture_back(picture: NDArray[np.uint8], path: Path, report: Progress) -> ReadBack:
    from PIL import Image  # not needed to offer it

    found = np.asarray(Image.open(path).convert("RGB"))
    good = found.shape == picture.shape and bool((found == picture).all())
    words = f"{picture.shape[1]} × {picture.shape[0]} pixels"
    return ReadBack(good, words if good else "it did not read back as it was written")


_PICTURE = LeavingKind(
    "bodies-png",
    "Picture of bodies",
    " - bodies.png",
    _picture,
    lambda picture, report: bytes(cv2.imencode(".png", picture[..., ::-1])[1].tobytes()),
    _picture_back,
    (BodyPicture,),
    of="bodies",
)
BODY_KINDS: tuple[LeavingKind[Any], ...] = (
    *(_kind(ending) for ending in ENDINGS),
    _STEP,
    _PICTURE,
)
