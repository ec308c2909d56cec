"""``draxet solid``: the areas of a drawing or a job become bodies, raised by heights on a base or sunk
into it; or its profiles, turned about an axis or led along a path; as a file of triangles or of exact
solids."""

from __future__ import annotations

import argparse
import json
import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import cv2

from draxet.cli.solid_made import Made, made
from draxet.files import reason, same_file, write_together
from draxet.formats.layer import FormatError
from draxet.formats.meshes import ENDINGS, mesh_bytes, read_meshes
from draxet.formats.step import step_bytes
from draxet.formats.step_in import read_step
from draxet.geometry.mesh import Mesh, box_of, is_closed, piece_count, surface_of, volume_of
from draxet.job.findings import count_words
from draxet.leaving.body_files import compared, leaves, same_solids
from draxet.make.solids.exact_cells import NotExact
from draxet.make.solids.solid_view import VIEWS, seen_from

__all__ = ["add_solid", "run_solid"]

_LEAVING = (*ENDINGS, "step", "png")
_NOT_AS_IT_WAS = (
    "the {} was not written: read back it is not as it was; please tell the makers of Draxet"
)
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
    parser.add_argument(
        "--along",
        metavar="LAYER",
        help="lead profiles along the contours of a layer or a colour, what stands at --turn (their left side) on it",
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
    found = made(options)
    files = list[str]()
    if options.output and not found.stops:
        files.append(_written(_data(found, ending, options.view or "angled", size), options.output))
    facts = _facts(found.meshes, found.findings)
    if options.json:
        print(json.dumps({**facts, "files": files}))
    else:
        _tell(facts, files)
    return int(bool(found.stops))


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


def _data(found: Made, ending: str, view: str, size: tuple[int, int]) -> bytes:
    if ending == "png":
        return _picture(found.meshes, view, size)
    if ending == "step":
        return _checked_exactly(found)
    return _checked(found.meshes, found.whole, ending)


def _checked_exactly(found: Made) -> bytes:
    """The file of exact solids, read back."""
    try:
        solids = found.exact()
        data = step_bytes(solids)
        back = read_step(data)
    except NotExact as error:
        raise ValueError(f"STEP cannot be written: {error}") from error
    except FormatError as error:
        raise ValueError(str(error)) from error
    if not same_solids(solids, back):
        raise ValueError(_NOT_AS_IT_WAS.format("step"))
    return data


def _checked(meshes: Sequence[Mesh], whole: Callable[[], Mesh], ending: str) -> bytes:
    """The file of bodies, read back."""
    leaving = leaves(meshes, whole, ending)
    try:
        data = mesh_bytes(leaving, ending)
        back = read_meshes(data, ending)
    except FormatError as error:
        raise ValueError(str(error)) from error
    if not compared(leaving, back):
        raise ValueError(_NOT_AS_IT_WAS.format(ending))
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
