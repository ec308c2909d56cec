"""Areas raised as bodies: how long a page of lettering on a base takes beside the library's bare
triangulation of the same outlines, and what memory; and how fast they are seen from another side."""

from __future__ import annotations

import random
import resource
import statistics
import time
from typing import Any

import manifold3d
import numpy as np
import shapely

from draxet.geometry.contour import Contour
from draxet.geometry.mesh import is_closed, joined
from draxet.geometry.nesting import polygons_of
from draxet.job.coloured_areas import outlines_with_holes
from draxet.lettering.faces import face_named
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.solids.solid_bodies import base_under, bodies_of
from draxet.make.solids.solid_levels import Raised
from draxet.make.solids.solid_view import fitted, scene_of, seen

__all__ = ["raised", "turning"]

_LETTERS = "ABDGOPQRegjabdopq&8%SCHKLMNTUVWXYZ0123456789"
_ROWS = 23


def _page(rows: int, columns: int) -> tuple[list[Contour], Any, list[Raised]]:
    """A page of letters: contours, what they bound, and that raised on a base."""
    draw = random.Random(1)
    words = "\n".join("".join(draw.choices(_LETTERS, k=columns)) for _ in range(rows))
    contours = set_straight(set_rows(face_named("Bitter Bold"), words, 7.0), 11.0)
    shapes = polygons_of(contours, 0.02)
    areas = [
        shapely.Polygon(shapes[some[0]].exterior, [shapes[k].exterior for k in some[1:]])
        for some in outlines_with_holes(contours, [""] * len(contours))
    ]
    whole = shapely.union_all(areas)
    work = [Raised("base", "#b7b2a7", base_under(whole, 5, 3), 0, 3)]
    return contours, whole, work + [Raised("letters", "#3c8259", each, 3, 5) for each in areas]


def turning() -> None:
    """Print how long some 20,000 triangles take to be seen at 1280 x 800 and at half of that, beside
    a plain sort of them by depth, from eight sides."""
    meshes = bodies_of(_page(6, 18)[2])
    scene, corners = scene_of(meshes), joined(meshes).corners
    for width, height in ((1280, 800), (640, 400)):
        taken, plain = list[float](), list[float]()
        for turned in range(-40, 40, 10):
            begin = time.process_time()
            view = fitted(scene.box, float(turned), 38.0, width, height)
            seen(scene, view, width, height, 1.0, shadow=False)
            taken.append(time.process_time() - begin)
            begin = time.process_time()
            np.argsort(corners.mean(axis=1) @ np.array([0.3, 0.5, 0.6]))
            plain.append(time.process_time() - begin)
        print(
            f"solids turning  {len(corners):,} triangles at {width} x {height}: {1000 * statistics.median(taken):.0f} ms of processor time; a sort by depth {1000 * statistics.median(plain):.1f} ms"
        )


def raised() -> None:
    """Print what a page of letters takes."""
    contours, whole, work = _page(_ROWS, 30)
    rings = [
        shapely.get_coordinates(ring)[:-1]
        for ring in shapely.get_rings(shapely.get_parts(shapely.orient_polygons(whole))).tolist()
    ]
    ours, bare = list[float](), list[float]()
    for _ in range(3):
        begin = time.process_time()
        meshes = bodies_of(work)
        ours.append(time.process_time() - begin)
        begin = time.process_time()
        manifold3d.triangulate(rings)
        bare.append(time.process_time() - begin)
    ratio = statistics.median(ours) / statistics.median(bare)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
    print(
        f"solids          {len(contours):,} contours raised on a base: {statistics.median(ours):.2f} s, {sum(len(each.triangles) for each in meshes):,} triangles, closed {all(map(is_closed, meshes))}; bare triangulation {statistics.median(bare):.2f} s, ratio {ratio:.1f} (wanted: 6 at the most); {memory:.0f} MB (wanted: under 500)"
    )
