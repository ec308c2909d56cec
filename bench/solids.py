"""Areas raised as bodies: how long a page of lettering on a base takes beside the library's bare
triangulation of the same outlines, and what memory."""

from __future__ import annotations

import random
import resource
import statistics
import time

import manifold3d
import shapely

from draxet.geometry.mesh import is_closed
from draxet.geometry.nesting import polygons_of
from draxet.job.coloured_areas import outlines_with_holes
from draxet.lettering.faces import face_named
from draxet.lettering.setting import set_rows, set_straight
from draxet.make.solids.solid_bodies import Raised, base_under, bodies_of

__all__ = ["raised"]

_LETTERS = "ABDGOPQRegjabdopq&8%SCHKLMNTUVWXYZ0123456789"
_ROWS = 23


def raised() -> None:
    """Print what a page of letters takes."""
    draw = random.Random(1)
    words = "\n".join("".join(draw.choices(_LETTERS, k=30)) for _ in range(_ROWS))
    contours = set_straight(set_rows(face_named("Bitter Bold"), words, 7.0), 11.0)
    shapes = polygons_of(contours, 0.02)
    areas = [
        shapely.Polygon(shapes[some[0]].exterior, [shapes[k].exterior for k in some[1:]])
        for some in outlines_with_holes(contours, [""] * len(contours))
    ]
    whole = shapely.union_all(areas)
    work = [Raised("base", "", base_under(whole, 5, 3), 0, 3)]
    work += [Raised("letters", "", area, 3, 5) for area in areas]
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
