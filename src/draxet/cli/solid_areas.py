"""The areas of a drawing or a job that ``draxet solid`` raises, and what is wrong with them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import shapely

from draxet.formats.drawing import Drawing
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, piece_count
from draxet.geometry.narrow_places import near_places, thin_places, touching_places
from draxet.geometry.nesting import polygons_of
from draxet.job.colour_words import colour_word, named_colour
from draxet.job.coloured_areas import outlines_with_holes
from draxet.job.findings import count_words
from draxet.job.records import Job
from draxet.make.solids.solid_levels import PLAIN, Raised

__all__ = [
    "Area",
    "Read",
    "loose",
    "narrow",
    "of_drawing",
    "of_job",
    "profiles_of_drawing",
    "profiles_of_job",
    "raised_by",
    "touching",
]


class Area(NamedTuple):
    layer: str
    colour: str
    shape: shapely.Geometry
    contours: tuple[Contour, ...]
    """The outline and its holes, exactly."""


class Read(NamedTuple):
    """The areas of a file, the lowest first; what stops them from being bodies, and what does not."""

    areas: list[Area]
    stops: list[str]
    remarks: list[str]
    smallest: float = 0.0
    """mm: what is narrower is told; 0 where that is not known."""


def of_job(job: Job, within: float) -> Read:
    items = [each for each in job.layout.contours if each.contour.closed]
    opened = [each for each in job.layout.contours if not each.contour.closed]
    stops = _open_ones([each.contour for each in opened if not each.slit])
    contours = [each.contour for each in items]
    shapes = _bounded(contours, within)
    found = list[Area]()
    for group in outlines_with_holes(contours, [each.colour for each in items]):
        item = items[group[0]]
        bounds = tuple(contours[k] for k in group)
        shape = _with_holes([shapes[k] for k in group])
        found.append(Area(item.layer, item.colour, shape, bounds))
    left = _lines_left(sum(each.slit for each in opened))
    return Read(found, [*stops, *_crossing(shapes)], left, job.smallest_feature)


def of_drawing(drawing: Drawing, within: float) -> Read:
    """Each filled shape by itself; what is not filled, or of which nothing is said, as outlines with
    their holes. Open lines among filled shapes are no areas."""
    contours = _in_mm(drawing)
    paints = drawing.paints or tuple((0, "", "", 0.0) for _ in contours)
    closed = [k for k, each in enumerate(contours) if each.closed]
    shapes = _bounded([contours[k] for k in closed], within)
    layers = drawing.layers or ("",) * len(contours)
    keys = [f"{paints[k][0]}" if paints[k][1] else f"{layers[k]}\n{paints[k][2]}" for k in closed]
    found = list[Area]()
    groups = outlines_with_holes([contours[k] for k in closed], keys)
    for group in sorted(groups, key=min):
        k = closed[group[0]]
        _, fill, line, _ = paints[k]
        bounds = tuple(contours[closed[j]] for j in group)
        shape = _with_holes([shapes[j] for j in group])
        found.append(Area(layers[k], fill or line, shape, bounds))
    filled = any(fill for _, fill, _, _ in paints)
    opened = [k for k, each in enumerate(contours) if not each.closed]
    lines = [k for k in opened if filled and not paints[k][1]]
    stops = _open_ones([contours[k] for k in opened if k not in lines])
    return Read(found, [*stops, *_crossing(shapes)], _lines_left(len(lines)))


Profile = tuple[str, str, list[Contour]]
"""A profile's name, its colour, and its outline with its openings, or an open line."""


def profiles_of_job(job: Job) -> list[Profile]:
    """Every contour of a job, openings with their outlines."""
    items = job.layout.contours
    return _profiles(
        [each.contour for each in items], [each.layer for each in items], [i.colour for i in items]
    )


def profiles_of_drawing(drawing: Drawing) -> list[Profile]:
    """The same of a drawing."""
    contours = _in_mm(drawing)
    paints = drawing.paints or tuple((0, "", "", 0.0) for _ in contours)
    layers = drawing.layers or ("",) * len(contours)
    return _profiles(contours, layers, [fill or line for _, fill, line, _ in paints])


def _in_mm(drawing: Drawing) -> list[Contour]:
    scale = drawing.unit_mm or 1.0
    return [
        Contour(each.nodes * scale, each.kinds, each.bulges, each.handles * scale, each.closed)
        for each in drawing.contours
    ]


def _profiles(
    contours: Sequence[Contour], layers: Sequence[str], colours: Sequence[str]
) -> list[Profile]:
    closed = [k for k, each in enumerate(contours) if each.closed]
    groups = outlines_with_holes([contours[k] for k in closed], [colours[k] for k in closed])
    some = [[closed[k] for k in group] for group in groups]
    some += [[k] for k, each in enumerate(contours) if not each.closed and len(each.nodes) > 1]
    return [
        (
            layers[group[0]] or colour_word(colours[group[0]]) or "turned",
            colours[group[0]] or PLAIN,
            [contours[k] for k in group],
        )
        for group in some
    ]


def _bounded(contours: Sequence[Contour], within: float) -> list[Any]:
    return list(polygons_of(contours, within))


def _with_holes(shapes: Sequence[Any]) -> shapely.Geometry:
    """What an outline bounds without its holes."""
    outline, *holes = (each.exterior for each in shapes)
    found: shapely.Geometry = shapely.make_valid(shapely.Polygon(outline, holes))
    return found


def _lines_left(count: int) -> list[str]:
    return [f"{count_words(count, 'open line')} left out: lines are no areas"] if count else []


def _open_ones(contours: Sequence[Contour]) -> list[str]:
    """Each open contour is told with the place where it is open."""
    found = []
    for contour in contours[:10]:
        x, y = contour.nodes[-1].tolist()
        gap = float(((contour.nodes[0] - contour.nodes[-1]) ** 2).sum() ** 0.5)
        found.append(f"a contour is open at ({x:.4g}, {y:.4g}) mm, by {gap:.3g} mm: close it first")
    return found


def _crossing(shapes: Sequence[shapely.Geometry]) -> list[str]:
    found = []
    for shape in shapes:
        why = shapely.is_valid_reason(shape)
        if why.startswith("Self-intersection"):
            x, y = (float(each) for each in why[why.index("[") + 1 : -1].split())
            found.append(f"a contour crosses itself at ({x:.4g}, {y:.4g}) mm: mend it first")
    return found[:10]


def raised_by(
    areas: Sequence[Area],
    height: float,
    told: dict[str, float],
    base: float,
    draft: float,
    *,
    sunk: bool,
) -> tuple[list[Raised], list[str]]:
    """The areas with their heights, and what is sunk deeper than the base is thick."""
    left, found, deep = dict(told), list[Raised](), list[str]()
    for area in areas:
        name = area.layer or colour_word(area.colour) or "area"
        keys = [key for key in told if _is_called(area, key)]
        high = told[keys[0]] if keys else height
        left = {key: value for key, value in left.items() if key not in keys}
        if sunk and high > base:
            deep.append(
                f"{name} is sunk by {high:g} mm, deeper than the base of {base:g} mm: it goes through"
            )
        low, top = (max(base - high, 0.0), base) if sunk else (base, base + high)
        found.append(Raised(name, area.colour or PLAIN, area.shape, low, top, sunk, draft=draft))
    if left:
        names = dict.fromkeys(
            each for area in areas for each in (area.layer, colour_word(area.colour)) if each
        )
        raise ValueError(
            f"--heights must name layers or colours that are there ({', '.join(names) or 'there are none'}), got {next(iter(left))!r}"
        )
    return found, list(dict.fromkeys(deep))


def _is_called(area: Area, name: str) -> bool:
    """Whether a layer's name or a colour is that of an area."""
    if name == area.layer:
        return True
    if not area.colour:
        return False
    if name.lower() == colour_word(area.colour):
        return True
    try:
        return named_colour(name) == area.colour.lower()
    except ValueError:
        return False


def narrow(whole: shapely.Geometry, smallest: float) -> list[str]:
    """Walls and gaps that are narrower than the smallest feature."""
    if not smallest:
        return []
    return [
        f"{what} under {smallest:g} mm at ({x:.4g}, {y:.4g}) mm"
        for what, places in (
            ("a wall is", thin_places(whole, smallest)),
            ("a gap is", near_places(whole, smallest)),
        )
        for x, y in places[:10]
    ]


def touching(whole: shapely.Geometry) -> list[str]:
    return [
        f"areas meet in a point alone at ({x:.4g}, {y:.4g}) mm: they hang together by an edge that nothing holds"
        for x, y in touching_places(whole)[:10]
    ]


def loose(meshes: Sequence[Mesh]) -> list[str]:
    """How many pieces bodies without a base fall into."""
    if any(mesh.name == "base" for mesh in meshes):
        return []
    count = sum(piece_count(mesh) for mesh in meshes)
    return [f"they are {count_words(count, 'piece')} that nothing joins"] if count > 1 else []
