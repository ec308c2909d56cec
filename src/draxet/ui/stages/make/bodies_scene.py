"""What the view of bodies shows, made ready by workers: the bodies of the sheet in hand, cut open or
whole, and the picture that lies on them."""

from __future__ import annotations

from typing import Annotated

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.mesh import Mesh, box_of
from draxet.job.asked import Asked
from draxet.job.picture_records import Picture
from draxet.job.ranges import OneOf, Within
from draxet.job.records import Job
from draxet.job.sheet_records import Sheet
from draxet.make.solids.solid_bodies import cut_open, lighter
from draxet.make.solids.solid_sheet import BASE, SolidSheet
from draxet.make.solids.solid_view import Laid, Scene, scene_of
from draxet.progress import Progress
from draxet.record import record
from draxet.ui.model.picture_store import PictureStore

__all__ = ["AXES", "BodiesSeen", "lighter_scene", "picture_on", "scene_for"]

AXES = ("x", "y", "level")
_COARSE = 1500.0
"""Of the extent of bodies: so far off they may be while they turn."""
_MOST = 1600.0
"""Pixels of a picture that lies on bodies, along its longer side."""


@record(frozen=True)
class BodiesSeen:
    """How bodies are looked at. turned, above : in degrees. cut : across which axis they are cut open,
    if they are; at : the share of their extent there. picture : whether it lies on them."""

    turned: Annotated[float, Within(-3600.0, 3600.0)] = -28.0
    above: Annotated[float, Within(-90.0, 90.0)] = 38.0
    cut: Annotated[
        str,
        OneOf(("", *AXES)),
        Asked(
            "",
            choices=(
                ("", "whole"),
                ("x", "cut across"),
                ("y", "cut along"),
                ("level", "cut level"),
            ),
        ),
    ] = ""
    at: Annotated[float, Within(0.0, 1.0)] = 0.5
    picture: Annotated[bool, Asked("Picture")] = False


def picture_on(job: Job, sheet: Sheet, chosen: Picture | None) -> Picture | None:
    """The picture that lies on the bodies of a sheet: that in hand, or the first that is there."""
    x0, y0, x1, y1 = sheet.box
    near = [
        each
        for each in job.pictures
        if each.box[0] < x1 and each.box[2] > x0 and each.box[1] < y1 and each.box[3] > y0
    ]
    return chosen if chosen in near else next(iter(near), None)


def scene_for(
    solid: SolidSheet,
    sheet: Sheet,
    asked: BodiesSeen,
    picture: Picture | None,
    store: PictureStore,
    report: Progress,
) -> Scene | None:
    """None where there is no body."""
    meshes = solid.meshes
    if not meshes:
        return None
    report(0.2, "looking at bodies")
    laid = None
    if picture is not None and asked.picture:
        laid = _laid(picture, solid, sheet, store, report)
    box = box_of(meshes)
    if not asked.cut:
        return scene_of(meshes, laid)
    axis = AXES.index(asked.cut)
    level = box[0][axis] + asked.at * (box[1][axis] - box[0][axis])
    cut = cut_open(meshes, axis, level)
    return scene_of(cut, laid, (axis, level), box) if cut else None


def lighter_scene(scene: Scene, report: Progress) -> Scene:
    """The same of fewer triangles, to be seen while it turns."""
    low, high = (np.array(each) for each in scene.box)
    off = float(np.sqrt(((high - low) ** 2).sum())) / _COARSE
    some = list[Mesh]()
    for number, mesh in enumerate(scene.meshes):
        report(number / len(scene.meshes), "making bodies light")
        some.append(lighter(mesh, off))
    return scene_of(some, scene.laid, scene.cut, scene.box)


def _laid(
    picture: Picture, solid: SolidSheet, sheet: Sheet, store: PictureStore, report: Progress
) -> Laid:
    pyramid = store.of(picture, report)
    _, pixels = pyramid.level(max(picture.width, picture.height) / _MOST)
    rows, columns = pixels.shape[:2]
    x, y = sheet.origin_place
    back = picture.to_job.then(Affine.moved(-x, -y)).inverse()
    to = np.array([[back.a, back.b, back.c], [back.d, back.e, back.f]])
    to *= np.array([[columns / picture.width], [rows / picture.height]])
    coloured = pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)
    on_base = solid.thickness > 0
    return Laid(
        np.ascontiguousarray(coloured[..., :3]),
        to,
        solid.thickness if on_base else 0.0,
        BASE if on_base else "",
    )
