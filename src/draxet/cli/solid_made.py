"""The bodies that ``draxet solid`` makes of a drawing or a job, as its options say."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence

import shapely

from draxet.cli.drawing_file import drawing_at
from draxet.cli.solid_areas import (
    Area,
    loose,
    narrow,
    of_drawing,
    of_job,
    profiles_of_drawing,
    profiles_of_job,
    raised_by,
    touching,
)
from draxet.geometry.contour import Contour
from draxet.geometry.exact_solids import ExactSolid
from draxet.geometry.mesh import Mesh
from draxet.job.colour_words import colour_word
from draxet.job.file import read_job
from draxet.job.findings import Gravity
from draxet.job.machine_kinds.printer import LAYER_PRINTER
from draxet.job.operations import Raise, Turn
from draxet.job.records import Job
from draxet.job.sides import runs_of, side_of
from draxet.make.solids.exact_cells import Standing
from draxet.make.solids.exact_sheet import exact_on, rounded_box
from draxet.make.solids.exact_turns import exact_profile, led_exactly, turned_exactly
from draxet.make.solids.exact_walls import walls_of
from draxet.make.solids.led_bodies import crosses_itself, led
from draxet.make.solids.solid_bodies import as_one, base_under, bodies_of, whole_of
from draxet.make.solids.solid_levels import BASE_COLOUR, Raised
from draxet.make.solids.solid_sheet import solid_sheet
from draxet.make.solids.turned_bodies import Axis, beyond_axis, profile_of, turned
from draxet.progress import Unwatched
from draxet.prove.run import findings_of_run
from draxet.record import record
from draxet.units import parse_angle, parse_length

__all__ = ["Made", "made"]

_HEIGHT, _TOLERANCE = 2.0, 0.002
"""mm, where nothing is said."""
_MOST_DRAFT = 60.0
_SHAPING = ("height", "heights", "base", "margin", "corner", "sink", "draft")
"""Options that say what becomes of a job's areas, whatever the job itself says."""


@record(frozen=True, eq=False)
class Made:
    """Bodies; all of them as one, and exactly, where that is asked for; what stops them from leaving,
    and all that was found."""

    meshes: list[Mesh]
    whole: Callable[[], Mesh]
    exact: Callable[[], list[ExactSolid]]
    stops: list[str]
    findings: list[str]


def made(options: argparse.Namespace) -> Made:
    """What the options say; ValueError with one sentence where it cannot be done."""
    if options.along:
        return _led(options)
    if options.turn:
        return _turned(options)
    if options.angle or options.sides:
        raise ValueError("--angle and --sides are of what is turned: say about what with --turn")
    shaped = any(getattr(options, name) for name in _SHAPING)
    if options.work.suffix.lower() == ".draxet":
        job = read_job(options.work)
        if not shaped and any(isinstance(each, (Raise, Turn)) for each in job.operations):
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

    def exact() -> list[ExactSolid]:
        contours = [each.contours for each in areas]
        if base and areas:
            contours.insert(0, (_exact_base(areas, margin, corner),))
        return walls_of([Standing(a, b) for a, b in zip(raised, contours, strict=True)])

    return Made(meshes, lambda: whole_of(raised), exact, stops, [*found, *loose(meshes)])


def _exact_base(areas: Sequence[Area], margin: float, corner: float) -> Contour:
    boxes = [each.contours[0].box for each in areas]
    left, low, right, high = zip(*boxes, strict=True)
    box = (min(left) - margin, min(low) - margin, max(right) + margin, max(high) + margin)
    return rounded_box(box, corner)


def _alone(options: argparse.Namespace, what: str) -> None:
    """What is turned or led is not raised as well."""
    for name in _SHAPING:
        if getattr(options, name):
            raise ValueError(f"--{what} goes without --{name}, which is of what is raised")


def _profiles(options: argparse.Namespace) -> list[tuple[str, str, list[Contour]]]:
    if options.work.suffix.lower() == ".draxet":
        return profiles_of_job(read_job(options.work))
    return profiles_of_drawing(drawing_at(options.work))


def _led(options: argparse.Namespace) -> Made:
    """Profiles led along the contours of a layer: what stands at the axis goes along it, else the
    profile's left side; what is right of that lies outside."""
    _alone(options, "along")
    if options.angle or options.sides:
        raise ValueError("--along goes without --angle and --sides, which are of what is turned")
    every = _profiles(options)
    along = [each for each in every if options.along in (each[0], colour_word(each[1]))]
    if not along:
        names = dict.fromkeys(name for name, _, _ in every)
        raise ValueError(
            f"--along must name a layer or a colour that is there ({', '.join(names) or 'there is none'}), got {options.along!r}"
        )
    paths = [path for _, _, some in along for path in some]
    profiles = [each for each in every if each not in along]
    if not profiles:
        raise ValueError(f"{options.work.name} holds nothing that is led along {options.along}")
    meshes, stops = list[Mesh](), list[str]()
    told = list[tuple[str, str, list[Contour], Axis, Contour]]()
    for name, colour, contours in profiles:
        if any(not each.closed for each in contours):
            x, y = contours[0].nodes[-1].tolist()
            stops.append(f"a profile is open at ({x:.4g}, {y:.4g}) mm: close it first")
            continue
        left = min(each.box[0] for each in contours)
        axis = _axis(options.turn) if options.turn else Axis(left, 0.0, 90.0)
        profile = profile_of(contours, axis, crosses=True)
        for path in paths:
            if (place := crosses_itself(profile, path)) is not None:
                x, y = place
                stops.append(
                    f"a profile would run into itself in the bend at ({x:.4g}, {y:.4g}) mm"
                )
            else:
                meshes.append(led(profile, path, 0.0, name, colour))
                told.append((name, colour, contours, axis, path))

    def exact() -> list[ExactSolid]:
        return [
            led_exactly(exact_profile(some, axis, name, crosses=True), path, 0.0, name, colour)
            for name, colour, some, axis, path in told
        ]

    found = [*stops, *loose(meshes)]
    return Made([] if stops else meshes, lambda: as_one(meshes), exact, stops, found)


def _turned(options: argparse.Namespace) -> Made:
    """Profiles of a drawing or a job turned about an axis, standing on it."""
    _alone(options, "turn")
    axis = _axis(options.turn)
    angle = parse_angle(options.angle, what="--angle") if options.angle else 360.0
    if not 1 <= angle <= 360:
        raise ValueError(f"--angle must be from 1 to 360 degrees, got {angle:g}")
    sides = _sides(options.sides)
    profiles = _profiles(options)
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

    def exact() -> list[ExactSolid]:
        return [
            turned_exactly(
                exact_profile(contours, axis, name),
                angle,
                sides,
                standing=True,
                level=0.0,
                name=name,
                colour=colour,
            )
            for name, colour, contours in profiles
        ]

    found = [*stops, *loose(meshes)]
    return Made([] if stops else meshes, lambda: as_one(meshes), exact, stops, found)


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


def _as_the_job_says(job: Job) -> Made:
    """What a job's own operations raise, sink and turn, on the sheet in hand or the first that has some."""
    raising = [each for each in job.operations if isinstance(each, (Raise, Turn))]
    runs = [
        run
        for run in sorted(runs_of(job), key=lambda run: run.sheet.id != job.sheet.id)
        if any(job.has_work(each, run.sheet) for each in raising)
    ]
    if not runs:
        raise ValueError(f"{job.name} leaves no body: nothing in it is raised or turned")
    machine = job.machine_of(runs[0].sheet)
    able = machine if machine.can_do(raising[0]) else LAYER_PRINTER
    side, sheet = side_of(job.layout, runs[0]), runs[0].sheet
    found = solid_sheet(side, sheet, able)
    findings = findings_of_run(job, runs[0], found)
    stops = [each.words for each in findings if each.gravity is Gravity.STOPS]
    if not found.meshes and not stops:
        raise ValueError(f"{job.name} leaves no body: all of it is sunk, or waits for an axis")
    return Made(
        found.placed_meshes,
        lambda: found.placed_whole,
        lambda: exact_on(side, sheet, found, Unwatched()),
        stops,
        [each.words for each in findings],
    )


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
