"""From where bodies are seen, and a picture of them: shaded in their colours, with their edges, a
shadow on the ground, and what lies on them as a picture.

A *scene* is what is seen, made ready once; a *view* says from where. Nothing is nearer or farther for
lying so: lengths stay in proportion.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, Ints, NDArray
from draxet.geometry.depth import nearest_at_pixels
from draxet.geometry.mesh import Mesh, box_of, joined
from draxet.progress import Progress, Unwatched
from draxet.record import record

__all__ = [
    "VIEWS",
    "Laid",
    "Look",
    "Scene",
    "View",
    "fitted",
    "place_at",
    "scene_of",
    "seen",
    "seen_from",
]

VIEWS: dict[str, tuple[float, float]] = {
    "plan": (0.0, 90.0),
    "front": (0.0, 0.0),
    "side": (90.0, 0.0),
    "angled": (-28.0, 38.0),
}
"""From where bodies are seen: degrees that they are turned to the right, and that one stands above."""

_GROUND, _EDGE = (243, 240, 232), 0.45
"""The ground's colour, and what is left of a colour at an edge."""
_MARGIN, _FINER = 0.06, 2.0
"""Share of the picture that stays free on each side, and how many pixels there are to one of it."""
_LIGHT, _DARKEST = (-0.4, -0.55, 0.85), 0.42
"""From where the light comes as one stands in front, and what is left of a colour that is turned away from it."""
_SHADOW, _SOFT = 0.22, 0.012
"""How dark the ground is at the most, and over which share of the picture's width that fades."""
_BEND = math.cos(math.radians(25.0))
"""Neighbouring faces that bend by more have an edge between them."""
_CUT = 0.45
"""How much lighter a face is at which a body is cut open."""
_LEVEL = 1e-3


@record(frozen=True)
class View:
    """degrees `turned` and `above`, as in ``VIEWS``; pixels a mm; and the place (mm) in the middle."""

    turned: float
    above: float
    scale: float
    middle: tuple[float, float, float]

    @property
    def axes(self) -> Floats:
        """(3, 3): the ways right, down and nearer."""
        a, e = math.radians(self.turned), math.radians(self.above)
        right = np.array([math.cos(a), math.sin(a), 0.0])
        up = np.array([-math.sin(a) * math.sin(e), math.cos(a) * math.sin(e), math.cos(e)])
        found: Floats = np.stack([right, -up, np.cross(right, up)])
        return found

    def to_pixels(self, width: float, height: float, finer: float = 1.0) -> Floats:
        """The map (3, 4) to pixels to the right and down, and nearness in pixels, in a picture so
        large that has `finer` pixels to one of the view."""
        turn = self.scale * finer * self.axes
        off = np.array([width / 2, height / 2, 0.0]) - turn @ np.array(self.middle)
        return np.hstack([turn, off[:, None]])

    def panned(self, right: float, down: float) -> View:
        """What is seen moved by so many pixels."""
        x, y, z = (
            np.array(self.middle) - (right * self.axes[0] + down * self.axes[1]) / self.scale
        ).tolist()
        return replace(self, middle=(x, y, z))

    def nearer(self, factor: float, right: float, down: float) -> View:
        """Nearer by a factor, what is so far from the middle (pixels) staying there."""
        grown = replace(self, scale=self.scale * factor)
        return grown.panned(right * (1 - factor), down * (1 - factor))


@record(frozen=True, eq=False)
class Laid:
    """A picture (rows, columns, 3) that lies level at a height in mm: on the body of that name, or on
    the ground where that is empty. to_pixel : the map (2, 3) from x, y to column and row. strength :
    0..1."""

    pixels: NDArray[np.uint8]
    to_pixel: Floats
    height: float
    on: str = ""
    strength: float = 0.6


@record(frozen=True, eq=False)
class Scene:
    """Bodies made ready: all triangles, what they look at, their colours, and what each belongs to."""

    whole: Mesh
    normals: Floats
    colours: Floats
    body: Ints
    names: tuple[str, ...]
    sizes: tuple[tuple[float, ...], ...]
    box: tuple[tuple[float, ...], tuple[float, ...]]
    laid: Laid | None = None
    carries: NDArray[np.bool_] | None = None
    """Triangles on which the picture lies."""
    meshes: tuple[Mesh, ...] = ()
    cut: tuple[int, float] | None = None


@record(frozen=True, eq=False)
class Look:
    """What is seen: the picture (rows, columns, 3), and at each of its pixels how near it is and the
    number of the triangle, -1 where there is none; `to` maps places there."""

    pixels: NDArray[np.uint8]
    near: Floats
    which: Ints
    to: Floats
    finer: float


def scene_of(
    meshes: Sequence[Mesh],
    laid: Laid | None = None,
    cut: tuple[int, float] | None = None,
    box: tuple[tuple[float, ...], tuple[float, ...]] | None = None,
) -> Scene:
    """Bodies, not all of them empty, made ready to be seen. cut : the axis (0, 1, 2) and the level in
    mm at which they were cut open, if they were; box : of the whole bodies then."""
    whole = joined(meshes)
    body = np.repeat(np.arange(len(meshes)), [len(mesh.triangles) for mesh in meshes])
    normals = _normals(whole)
    plain = np.array(
        [[int(mesh.colour[k : k + 2] or "99", 16) for k in (1, 3, 5)] for mesh in meshes]
    )
    colours = plain[body].astype(np.float64)
    if cut is not None:
        opened = (np.abs(whole.corners[:, :, cut[0]] - cut[1]) < _LEVEL).all(axis=1)
        colours[opened] += _CUT * (255.0 - colours[opened])
    carries = None
    if laid is not None and laid.on:
        level = (np.abs(whole.corners[:, :, 2] - laid.height) < _LEVEL).all(axis=1)
        own = np.array([mesh.name == laid.on for mesh in meshes])[body]
        carries = level & own & (normals[:, 2] > 0.5)
    sizes = tuple(tuple(b - a for a, b in zip(*box_of([mesh]), strict=True)) for mesh in meshes)
    return Scene(
        whole,
        normals,
        colours,
        body,
        tuple(mesh.name for mesh in meshes),
        sizes,
        box or box_of(meshes),
        laid,
        carries,
        tuple(meshes),
        cut,
    )


def fitted(
    box: tuple[tuple[float, ...], tuple[float, ...]],
    turned: float,
    above: float,
    width: float,
    height: float,
) -> View:
    """A view in which a box (least, greatest x, y, z) is seen whole."""
    low, high = (np.array(each) for each in box)
    x, y, z = ((low + high) / 2).tolist()
    view = View(turned, above, 1.0, (x, y, z))
    corners = np.array(np.meshgrid(*zip(low, high, strict=True))).reshape(3, -1).T
    ends = np.ptp(corners @ view.axes.T, axis=0)
    room = 1.0 - 2 * _MARGIN
    scale = min(room * width / max(ends[0], 1e-9), room * height / max(ends[1], 1e-9))
    return replace(view, scale=float(scale))


def seen_from(
    meshes: Sequence[Mesh], turned: float, above: float, width: int, height: int
) -> NDArray[np.uint8]:
    """A picture (height, width, 3) of bodies from a side, whole."""
    scene = scene_of(meshes)
    look = seen(scene, fitted(scene.box, turned, above, width, height), width, height)
    found: NDArray[np.uint8] = cv2.resize(
        look.pixels, (width, height), interpolation=cv2.INTER_AREA
    )
    return found


def seen(
    scene: Scene,
    view: View,
    width: int,
    height: int,
    finer: float = _FINER,
    *,
    shadow: bool = True,
    report: Progress = Unwatched(),
) -> Look:
    """What is seen in a view of so many pixels, of which the picture has `finer` times as many each
    way.

    Raises
    ------
    Cancelled : where `report` says so.
    """
    wide, high = max(round(width * finer), 1), max(round(height * finer), 1)
    to = view.to_pixels(wide, high, finer)
    ahead = np.flatnonzero(scene.normals @ to[2, :3] > 0)  # others are hidden by these
    near, local = nearest_at_pixels(_mapped(scene.whole, to)[ahead], wide, high, report)
    which = np.where(local < 0, -1, ahead[local]) if len(ahead) else local
    light = _light(view.turned)
    faces = np.vstack([_lit(scene, light), _GROUND])
    pixels = np.clip(faces + 0.5, 0, 255).astype(np.uint8).take(which, axis=0, mode="wrap")
    if shadow and view.above > 0:  # from beneath the ground is seen through
        dark = 1.0 - _shadow(scene, to, light, wide, high, report)
        ground = (which < 0) & (dark < 1.0)
        pixels[ground] = (np.array(_GROUND) * dark[ground][:, None] + 0.5).astype(np.uint8)
    if scene.laid is not None:
        _lay(scene, scene.laid, pixels, near, which, to)
    edges = _edges(near, which, scene, to)
    pixels[edges] = (_EDGE * pixels[edges]).astype(np.uint8)
    return Look(pixels, near, which, to, finer)


def place_at(look: Look, column: int, row: int) -> tuple[float, float, float] | None:
    """The place (mm) of the body that is seen at a pixel; None where none is."""
    if look.which[row, column] < 0:
        return None
    there = np.array([column + 0.5, row + 0.5, look.near[row, column]])
    x, y, z = np.linalg.solve(look.to[:, :3], there - look.to[:, 3]).tolist()
    return x, y, z


def _mapped(mesh: Mesh, to: Floats) -> Floats:
    """The triangles' corners (m, 3, 3) where they are seen."""
    found: Floats = (mesh.places @ to[:, :3].T + to[:, 3])[mesh.triangles]
    return found


def _normals(mesh: Mesh) -> Floats:
    a, b, c = np.moveaxis(mesh.corners, 1, 0)
    across = np.cross(b - a, c - a)
    long = np.sqrt((across**2).sum(axis=1, keepdims=True))
    found: Floats = across / np.maximum(long, 1e-300)
    return found


def _light(turned: float) -> Floats:
    """From where the light comes, which turns with who looks."""
    a = math.radians(turned)
    x, y, z = _LIGHT
    return np.array([x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a), z])


def _lit(scene: Scene, light: Floats) -> Floats:
    """The colours (m, 3) of triangles in the light."""
    light = light / np.sqrt((light**2).sum())
    lit = _DARKEST + (1 - _DARKEST) * np.clip(0.5 + 0.5 * (scene.normals @ light), 0, 1)
    found: Floats = scene.colours * lit[:, None]
    return found


def _lay(
    scene: Scene, laid: Laid, pixels: NDArray[np.uint8], near: Floats, which: Ints, to: Floats
) -> None:
    """Paint the picture where it lies in the open: on the top of its body, or on the ground."""
    if scene.carries is None:
        rows, columns = np.nonzero(which < 0)
        back = np.linalg.inv(to[:, :3])
        if abs(back[2, 2]) < 1e-9 or to[2, 2] <= 0:
            return  # the ground is seen from its edge, or from beneath
        level = (
            np.column_stack([columns + 0.5, rows + 0.5, np.zeros(len(rows))]) - to[:, 3]
        ) @ back.T
        depth = (laid.height - level[:, 2]) / back[2, 2]
        places = level[:, :2] + depth[:, None] * back[:2, 2]
    else:
        carries = np.append(scene.carries, False)
        rows, columns = np.nonzero(carries[which])
        there = np.column_stack([columns + 0.5, rows + 0.5, near[rows, columns]])
        places = np.linalg.solve(to[:, :3], (there - to[:, 3]).T).T[:, :2]
    at = places @ laid.to_pixel[:, :2].T + laid.to_pixel[:, 2]
    column, row = np.floor(at).astype(np.int64).T
    high, wide = laid.pixels.shape[:2]
    inside = (column >= 0) & (column < wide) & (row >= 0) & (row < high)
    rows, columns = rows[inside], columns[inside]
    ink = laid.pixels[row[inside], column[inside]].astype(np.float32) / 255.0
    dyed = pixels[rows, columns] * (1.0 - laid.strength * (1.0 - ink))
    pixels[rows, columns] = dyed.astype(np.uint8)


def _shadow(
    scene: Scene, to: Floats, light: Floats, width: int, height: int, report: Progress
) -> Floats:
    """How dark (height, width) the ground beneath the bodies is."""
    ground = scene.box[0][2]
    places = scene.whole.places.copy()
    places[:, :2] -= (places[:, 2:] - ground) * light[:2] / light[2]
    places[:, 2] = ground
    thrown = Mesh(places, scene.whole.triangles)
    _, which = nearest_at_pixels(_mapped(thrown, to), width, height, report)
    soft = max(_SOFT * width, 1.0)
    found: Floats = cv2.GaussianBlur((which >= 0).astype(np.float32), (0, 0), soft) * _SHADOW
    return found


def _edges(near: Floats, which: Ints, scene: Scene, to: Floats) -> NDArray[np.bool_]:
    """Pixels at which one body ends, beside or before another, or faces bend."""
    found = np.zeros(which.shape, dtype=bool)
    facing = np.vstack([scene.normals, np.zeros(3)]).astype(np.float32)
    body = np.append(scene.body, -1)
    forward = (to[2, :3] / np.sqrt((to[2, :3] ** 2).sum())).astype(np.float32)
    steep = (2.5 / np.maximum(facing @ forward, 0.05)).astype(np.float32)
    for axis in (0, 1):
        one, other = (
            tuple(part if k == axis else slice(None) for k in (0, 1))
            for part in (slice(1, None), slice(None, -1))
        )
        rows, columns = np.nonzero(which[one] != which[other])  # within one there is none
        a, b = which[one][rows, columns], which[other][rows, columns]
        bends = (facing[a] * facing[b]).sum(axis=1) < _BEND
        with np.errstate(invalid="ignore"):
            away = np.abs(near[one][rows, columns] - near[other][rows, columns])
        edge = bends | (away > np.maximum(steep[a], steep[b])) | (body[a] != body[b])
        found[one][rows[edge & (a >= 0)], columns[edge & (a >= 0)]] = True
        found[other][rows[edge & (b >= 0)], columns[edge & (b >= 0)]] = True
    return found
