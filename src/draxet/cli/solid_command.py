"""``draxet solid``: the areas of a drawing or a job become bodies, raised by heights on a base or sunk
into it, as a file of triangles."""

from __future__ import annotations

import argparse
import json
import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import cv2
import shapely

from draxet.cli.drawing_file import drawing_at
from draxet.cli.solid_areas import (
    loose,
    narrow,
    of_drawing,
    of_job,
    profiles_of_drawing,
    profiles_of_job,
    raised_by,
    touching,
)
from draxet.files import reason, same_file, write_together
from draxet.formats.layer import FormatError
from draxet.formats.meshes import ENDINGS, mesh_bytes, read_meshes
from draxet.geometry.mesh import Mesh, box_of, is_closed, piece_count, surface_of, volume_of
from draxet.job.file import read_job
from draxet.job.findings import Gravity, count_words
from draxet.job.machine_kinds.printer import LAYER_PRINTER
from draxet.job.operations import Raise
from draxet.job.records import Job
from draxet.job.sides import runs_of, side_of
from draxet.leaving.body_files import compared, leaves
from draxet.make.solids.solid_bodies import (
    as_one,
    base_under,
    bodies_of,
    whole_of,
)
from draxet.make.solids.solid_levels import BASE_COLOUR, Raised
from draxet.make.solids.solid_sheet import solid_sheet
from draxet.make.solids.solid_view import VIEWS, seen_from
from draxet.make.solids.turned_bodies import Axis, beyond_axis, profile_of, turned
from draxet.prove.run import findings_of_run
from draxet.units import parse_angle, parse_length

__all__ = ["add_solid", "run_solid"]

_HEIGHT, _TOLERANCE = 2.0, 0.002
"""mm, where nothing is said."""
_MOST_DRAFT = 60.0
_SHAPING = ("height", "heights", "base", "margin", "corner", "sink", "draft")
"""Options that say what becomes of a job's areas, whatever the job itself says."""
_LEAVING = (*ENDINGS, "png")
_SIZE, _MOST_PIXELS = (1280, 800), 16_000_000


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
    parser.add_argument("--draft", metavar="ANGLE", help="by which walls lean (0)")
    parser.add_argument(
        "--turn", metavar="X=LENGTH|Y=LENGTH", help="turn profiles about an axis up or level there"
    )
    parser.add_argument("--angle", metavar="ANGLE", help="by which profiles are turned (360)")
    parser.add_argument("--sides", metavar="N", help="of what is turned (as round as can be told)")
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
    meshes, whole, stops, findings = _made(options)
    files = list[str]()
    if options.output and not stops:
        data = (
            _picture(meshes, options.view or "angled", size)
            if ending == "png"
            else _checked(meshes, whole, ending)
        )
        files.append(_written(data, options.output))
    facts = _facts(meshes, findings)
    if options.json:
        print(json.dumps({**facts, "files": files}))
    else:
        _tell(facts, files)
    return int(bool(stops))


_Made = tuple[list[Mesh], Callable[[], Mesh], list[str], list[str]]


def _made(options: argparse.Namespace) -> _Made:
    """The bodies; all of them as one; what stops them from leaving, and all that was found."""
    if options.turn:
        return _turned(options)
    if options.angle or options.sides:
        raise ValueError("--angle and --sides are of what is turned: say about what with --turn")
    shaped = any(getattr(options, name) for name in _SHAPING)
    if options.work.suffix.lower() == ".draxet":
        job = read_job(options.work)
        if not shaped and any(isinstance(each, Raise) for each in job.operations):
            return _as_the_job_says(job)
        read = of_job(job, _within(options))
    else:
        read = of_drawing(drawing_at(options.work), _within(options))
    areas, stops, remarks, smallest = read
    height = _length(options.height, "--height", _HEIGHT, least=0.01)
    told = _told_heights(options.heights or "")
    base = _length(options.base, "--base", 0.0, least=0.01)
    margin = _length(options.margin, "--margin", 5.0)
    corner = _length(options.corner, "--corner", 0.0)
    if not base and (options.sink or options.margin or options.corner):
        raise ValueError("--sink, --margin and --corner want a base: say how thick with --base")
    draft = _draft(options.draft)
    raised, deep = raised_by(areas, height, told, base, draft, sunk=options.sink)
    whole = shapely.union_all([each.shape for each in areas]) if areas else shapely.Polygon()
    if base and areas:
        raised.insert(0, Raised("base", BASE_COLOUR, base_under(whole, margin, corner), 0.0, base))
    meshes = [] if stops else bodies_of(raised)
    if not meshes and not stops:
        raise ValueError(f"{options.work.name} leaves no body: all of it is sunk")
    found = [*stops, *remarks, *deep, *narrow(whole, smallest), *touching(whole)]
    return meshes, lambda: whole_of(raised), stops, [*found, *loose(meshes)]


def _turned(options: argparse.Namespace) -> _Made:
    """Profiles of a drawing or a job turned about an axis, standing on it."""
    mixed = [f"--{name}" for name in _SHAPING if getattr(options, name)]
    if mixed:
        raise ValueError(f"--turn goes without {mixed[0]}, which is of what is raised")
    axis = _axis(options.turn)
    angle = parse_angle(options.angle, what="--angle") if options.angle else 360.0
    if not 1 <= angle <= 360:
        raise ValueError(f"--angle must be from 1 to 360 degrees, got {angle:g}")
    sides = _sides(options.sides)
    if options.work.suffix.lower() == ".draxet":
        profiles = profiles_of_job(read_job(options.work))
    else:
        profiles = profiles_of_drawing(drawing_at(options.work))
    meshes, stops = list[Mesh](), list[str]()
    for name, colour, contours in profiles:
        if (over := beyond_axis(contours, axis)) is not None:
            x, y = over
            stops.append(f"a profile reaches over the axis at ({x:.4g}, {y:.4g}) mm")
        else:
            profile = profile_of(contours, axis)
            meshes.append(turned(profile, angle, sides, name=name, colour=colour))
    if not meshes and not stops:
        raise ValueError(f"{options.work.name} holds no profile to turn")
    return ([] if stops else meshes), lambda: as_one(meshes), stops, [*stops, *loose(meshes)]


def _axis(text: str) -> Axis:
    name, is_told, length = text.partition("=")
    if not is_told or name.strip().upper() not in ("X", "Y"):
        raise ValueError(f"--turn must be like X=30mm or Y=0, got {text[:40]!r}")
    mm = parse_length(length, positive=False, what="--turn")
    return Axis(mm, 0.0, 90.0) if name.strip().upper() == "X" else Axis(0.0, mm, 0.0)


def _sides(text: str | None) -> int:
    if not text:
        return 0
    if not text.strip().isdecimal() or not 12 <= int(text) <= 360:
        raise ValueError(f"--sides must be a whole number from 12 to 360, got {text[:40]!r}")
    return int(text)


def _as_the_job_says(job: Job) -> _Made:
    """What a job's own operations raise and sink, on the sheet in hand or the first that has some."""
    raising = [each for each in job.operations if isinstance(each, Raise)]
    runs = [
        run
        for run in sorted(runs_of(job), key=lambda run: run.sheet.id != job.sheet.id)
        if any(job.has_work(each, run.sheet) for each in raising)
    ]
    if not runs:
        raise ValueError(f"{job.name} leaves no body: nothing in it is raised")
    machine = job.machine_of(runs[0].sheet)
    able = machine if machine.can_do(raising[0]) else LAYER_PRINTER
    made = solid_sheet(side_of(job.layout, runs[0]), runs[0].sheet, able)
    findings = findings_of_run(job, runs[0], made)
    stops = [each.words for each in findings if each.gravity is Gravity.STOPS]
    if not made.meshes and not stops:
        raise ValueError(f"{job.name} leaves no body: all of it is sunk")
    return made.placed_meshes, lambda: made.placed_whole, stops, [each.words for each in findings]


def _draft(text: str | None) -> float:
    if text is None:
        return 0.0
    found = parse_angle(text, what="--draft")
    if not 0 <= found <= _MOST_DRAFT:
        raise ValueError(f"--draft must be from 0 to {_MOST_DRAFT:g} degrees, got {found:g}")
    return found


def _within(options: argparse.Namespace) -> float:
    return _length(options.tolerance, "--tolerance", _TOLERANCE, least=1e-4)


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


def _checked(meshes: Sequence[Mesh], whole: Callable[[], Mesh], ending: str) -> bytes:
    """The file of bodies, read back."""
    leaving = leaves(meshes, whole, ending)
    try:
        data = mesh_bytes(leaving, ending)
        back = read_meshes(data, ending)
    except FormatError as error:
        raise ValueError(str(error)) from error
    if not compared(leaving, back):
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
