"""``draxet solid``: the areas of a drawing or a job become bodies, raised by heights on a base or sunk
into it, as a file of triangles."""

from __future__ import annotations

import argparse
import json
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

import cv2
import shapely

from draxet.cli.drawing_file import drawing_at
from draxet.files import reason, same_file, write_together
from draxet.formats.drawing import Drawing
from draxet.formats.layer import FormatError
from draxet.formats.meshes import ENDINGS, TELL_APART, mesh_bytes, read_meshes
from draxet.geometry.contour import Contour
from draxet.geometry.mesh import Mesh, box_of, is_closed, joined, piece_count, surface_of, volume_of
from draxet.geometry.nesting import polygons_of
from draxet.job.colour_words import colour_word, named_colour
from draxet.job.coloured_areas import outlines_with_holes
from draxet.job.file import read_job
from draxet.job.findings import count_words
from draxet.job.records import Job
from draxet.make.solids.solid_bodies import (
    Raised,
    as_one,
    base_under,
    bodies_of,
    near_places,
    thin_places,
    touching_places,
)
from draxet.make.solids.solid_view import VIEWS, seen_from
from draxet.units import parse_length

__all__ = ["add_solid", "run_solid"]

_BASE_COLOUR, _PLAIN = "#b7b2a7", "#6f7b8a"
_HEIGHT, _TOLERANCE = 2.0, 0.002
"""mm, where nothing is said."""
_LEAVING = (*ENDINGS, "png")
_SIZE, _MOST_PIXELS = (1280, 800), 16_000_000


class _Area(NamedTuple):
    layer: str
    colour: str
    shape: shapely.Geometry


class _Read(NamedTuple):
    """The areas of a file, the lowest first; what stops them from being bodies, and what does not."""

    areas: list[_Area]
    stops: list[str]
    remarks: list[str]
    smallest: float = 0.0
    """mm: what is narrower is told; 0 where that is not known."""


def add_solid(commands: Any) -> None:
    """Add the command and its options to a parser's commands."""
    parser = commands.add_parser(
        "solid", help="raise or sink the areas of a drawing or a job as bodies", description=__doc__
    )
    parser.add_argument("work", type=Path, metavar="IN.svg|IN.dxf|JOB.draxet")
    parser.add_argument(
        "-o", "--output", type=Path, metavar="|".join(f"OUT.{each}" for each in _LEAVING)
    )
    parser.add_argument("--height", metavar="LENGTH", help="of all areas (2 mm)")
    parser.add_argument(
        "--heights", metavar="NAME=LENGTH,…", help="of those of a layer or a colour, as red=3mm"
    )
    parser.add_argument("--base", metavar="LENGTH", help="a box beneath, so thick")
    parser.add_argument("--margin", metavar="LENGTH", help="of the base round the work (5 mm)")
    parser.add_argument("--corner", metavar="LENGTH", help="radius of the base's corners (0)")
    parser.add_argument(
        "--sink", action="store_true", help="sink the areas into the base by their heights"
    )
    parser.add_argument("--tolerance", metavar="LENGTH", help="of curves (0.002 mm)")
    parser.add_argument(
        "--view", choices=tuple(VIEWS), help="from where a picture shows them (angled)"
    )
    parser.add_argument("--size", metavar="WIDTHxHEIGHT", help="of a picture, in pixels (1280x800)")
    parser.add_argument("--json", action="store_true", help="print what was made as JSON")


def run_solid(options: argparse.Namespace) -> int:
    """Make bodies as the options say; 1 where a finding stops it. ValueError with one sentence where
    it cannot be done."""
    ending = _ending(options.output)
    if options.output is not None and same_file(options.output, options.work):
        raise ValueError(
            f"the output must be another file than the input, got {options.output} for both"
        )
    if ending != "png" and (options.view or options.size):
        raise ValueError("--view and --size are a picture's: let the output end in .png")
    size = _size(options.size)
    height = _length(options.height, "--height", _HEIGHT, least=0.01)
    told = _told_heights(options.heights or "")
    base = _length(options.base, "--base", 0.0, least=0.01)
    margin = _length(options.margin, "--margin", 5.0)
    corner = _length(options.corner, "--corner", 0.0)
    if not base and (options.sink or options.margin or options.corner):
        raise ValueError("--sink, --margin and --corner want a base: say how thick with --base")
    areas, stops, remarks, smallest = _read(options.work, options.tolerance)
    raised, deep = _raised(areas, height, told, base, sunk=options.sink)
    whole = shapely.union_all([each.shape for each in areas]) if areas else shapely.Polygon()
    if base and areas:
        raised.insert(0, Raised("base", _BASE_COLOUR, base_under(whole, margin, corner), 0.0, base))
    meshes = [] if stops else bodies_of(raised)
    if not meshes and not stops:
        raise ValueError(f"{options.work.name} leaves no body: all of it is sunk")
    findings = [
        *stops,
        *remarks,
        *deep,
        *_narrow(whole, smallest),
        *_touching(whole),
        *_loose(meshes),
    ]
    files = list[str]()
    if options.output and not stops:
        data = (
            _picture(meshes, options.view or "angled", size)
            if ending == "png"
            else _checked(meshes, ending)
        )
        files.append(_written(data, options.output))
    facts = _facts(meshes, findings)
    if options.json:
        print(json.dumps({**facts, "files": files}))
    else:
        _tell(facts, files)
    return int(bool(stops))


def _length(text: str | None, what: str, default: float, least: float = 0.0) -> float:
    if text is None:
        return default
    mm = parse_length(text, what=what)
    if not least <= mm <= 10_000:
        raise ValueError(f"{what} must be from {least:g} to 10000 mm, got {mm:g} mm")
    return mm


def _told_heights(text: str) -> dict[str, float]:
    """Heights by the names of layers and colours."""
    found = dict[str, float]()
    for pair in filter(None, (each.strip() for each in text.split(","))):
        name, is_told, height = pair.rpartition("=")
        if not is_told or not name.strip():
            raise ValueError(f"--heights must be like red=3mm,Layer 2=5mm, got {pair[:40]!r}")
        found[name.strip()] = _length(height, f"--heights {name.strip()}", 0.0, least=0.01)
    return found


def _ending(path: Path | None) -> str:
    ending = path.suffix.lower().removeprefix(".") if path else _LEAVING[0]
    if ending not in _LEAVING:
        raise ValueError(f"the output must end in one of {', '.join(_LEAVING)}, got {str(path)!r}")
    return ending


def _read(path: Path, told: str | None) -> _Read:
    within = _length(told, "--tolerance", _TOLERANCE, least=1e-4)
    if path.suffix.lower() == ".draxet":
        return _of_job(read_job(path), within)
    return _of_drawing(drawing_at(path), within)


def _of_job(job: Job, within: float) -> _Read:
    items = [each for each in job.layout.contours if each.contour.closed]
    opened = [each for each in job.layout.contours if not each.contour.closed]
    stops = _open_ones([each.contour for each in opened if not each.slit])
    contours = [each.contour for each in items]
    shapes = _bounded(contours, within)
    found = list[_Area]()
    for group in outlines_with_holes(contours, [each.colour for each in items]):
        item = items[group[0]]
        found.append(_Area(item.layer, item.colour, _with_holes([shapes[k] for k in group])))
    left = _lines_left(sum(each.slit for each in opened))
    return _Read(found, [*stops, *_crossing(shapes)], left, job.smallest_feature)


def _of_drawing(drawing: Drawing, within: float) -> _Read:
    """Each filled shape by itself; what is not filled, or of which nothing is said, as outlines with
    their holes. Open lines among filled shapes are no areas."""
    scale = drawing.unit_mm or 1.0
    contours = [
        Contour(each.nodes * scale, each.kinds, each.bulges, each.handles * scale, each.closed)
        for each in drawing.contours
    ]
    paints = drawing.paints or tuple((0, "", "", 0.0) for _ in contours)
    closed = [k for k, each in enumerate(contours) if each.closed]
    shapes = _bounded([contours[k] for k in closed], within)
    layers = drawing.layers or ("",) * len(contours)
    keys = [f"{paints[k][0]}" if paints[k][1] else f"{layers[k]}\n{paints[k][2]}" for k in closed]
    found = list[_Area]()
    groups = outlines_with_holes([contours[k] for k in closed], keys)
    for group in sorted(groups, key=min):
        k = closed[group[0]]
        _, fill, line, _ = paints[k]
        found.append(_Area(layers[k], fill or line, _with_holes([shapes[j] for j in group])))
    filled = any(fill for _, fill, _, _ in paints)
    opened = [k for k, each in enumerate(contours) if not each.closed]
    lines = [k for k in opened if filled and not paints[k][1]]
    stops = _open_ones([contours[k] for k in opened if k not in lines])
    return _Read(found, [*stops, *_crossing(shapes)], _lines_left(len(lines)))


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


def _raised(
    areas: Sequence[_Area], height: float, told: dict[str, float], base: float, *, sunk: bool
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
        found.append(Raised(name, area.colour or _PLAIN, area.shape, low, top, sunk))
    if left:
        names = dict.fromkeys(
            each for area in areas for each in (area.layer, colour_word(area.colour)) if each
        )
        raise ValueError(
            f"--heights must name layers or colours that are there ({', '.join(names) or 'there are none'}), got {next(iter(left))!r}"
        )
    return found, list(dict.fromkeys(deep))


def _is_called(area: _Area, name: str) -> bool:
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


def _narrow(whole: shapely.Geometry, smallest: float) -> list[str]:
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


def _touching(whole: shapely.Geometry) -> list[str]:
    return [
        f"areas meet in a point alone at ({x:.4g}, {y:.4g}) mm: they hang together by an edge that nothing holds"
        for x, y in touching_places(whole)[:10]
    ]


def _loose(meshes: Sequence[Mesh]) -> list[str]:
    """How many pieces bodies without a base fall into."""
    if any(mesh.name == "base" for mesh in meshes):
        return []
    count = sum(piece_count(mesh) for mesh in meshes)
    return [f"they are {count_words(count, 'piece')} that nothing joins"] if count > 1 else []


def _size(text: str | None) -> tuple[int, int]:
    match = re.fullmatch(r"\s*(\d{1,5})\s*[x×]\s*(\d{1,5})\s*", text) if text else None
    if text and match is None:
        raise ValueError(f"--size must be like 1280x800, in pixels, got {text[:40]!r}")
    wide, high = (int(match[1]), int(match[2])) if match else _SIZE
    if not (wide >= 16 <= high and wide * high <= _MOST_PIXELS):
        raise ValueError(
            f"--size must be from 16x16 to {_MOST_PIXELS // 1_000_000} megapixels, got {wide}x{high}"
        )
    return wide, high


def _picture(meshes: Sequence[Mesh], view: str, size: tuple[int, int]) -> bytes:
    seen = seen_from(meshes, *VIEWS[view], *size)
    return bytes(cv2.imencode(".png", seen[..., ::-1])[1].tobytes())


def _checked(meshes: Sequence[Mesh], ending: str) -> bytes:
    """The file of bodies, read back."""
    leaving = meshes if ending in TELL_APART else [as_one(meshes)]
    try:
        data = mesh_bytes(leaving, ending)
        back = joined(read_meshes(data, ending))
    except FormatError as error:
        raise ValueError(str(error)) from error
    wanted = joined(leaving)
    same = len(back.triangles) == len(wanted.triangles) and all(
        abs(a - b) <= 1e-5 * max(abs(a), 1.0)
        for ends in zip(box_of([back]), box_of([wanted]), strict=True)
        for a, b in zip(*ends, strict=True)
    )
    if not same or abs(volume_of(back) - volume_of(wanted)) > 1e-4 * abs(volume_of(wanted)):
        raise ValueError(
            f"the {ending} was not written: read back it is not as it was; please tell the makers of Draxet"
        )
    return data


def _written(data: bytes, path: Path) -> str:
    try:
        write_together([(path, data, lambda written: None)])
    except OSError as error:
        raise ValueError(f"{path} could not be written: {reason(error)}") from error
    return path.name


def _facts(meshes: Sequence[Mesh], findings: Sequence[str]) -> dict[str, Any]:
    low, high = box_of(meshes) if meshes else ((0.0,) * 3, (0.0,) * 3)
    return {
        "bodies": [
            {
                "name": mesh.name,
                "colour": mesh.colour,
                "volume_mm3": round(volume_of(mesh), 4),
                "pieces": piece_count(mesh),
            }
            for mesh in meshes
        ],
        "triangles": sum(len(mesh.triangles) for mesh in meshes),
        "volume_mm3": round(sum(map(volume_of, meshes)), 4),
        "area_mm2": round(sum(map(surface_of, meshes)), 4),
        "box_mm": [round(b - a, 4) for a, b in zip(low, high, strict=True)],
        "closed": bool(meshes) and all(map(is_closed, meshes)),
        "findings": list(findings),
    }


def _tell(facts: dict[str, Any], files: Sequence[str]) -> None:
    for body in facts["bodies"]:
        print(
            f"{body['name']}: {body['volume_mm3']:.1f} mm³ in {count_words(body['pieces'], 'piece')}"
        )
    for words in facts["findings"]:
        print(words)
    wide, deep, high = facts["box_mm"]
    print(f"{wide:g} × {deep:g} × {high:g} mm, {facts['triangles']} triangles")
    for name in files:
        print(f"{name}: written")
