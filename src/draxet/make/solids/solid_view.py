"""Bodies as they are seen from afar: shaded in their colours, with their edges and a shadow on the
ground."""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np

from draxet.geometry.arrays import Floats, Ints, NDArray
from draxet.geometry.depth import nearest_at_pixels
from draxet.geometry.mesh import Mesh, box_of, joined

__all__ = ["VIEWS", "depths_of", "seen_from"]

VIEWS: dict[str, tuple[float, float]] = {
    "plan": (0.0, 90.0),
    "front": (0.0, 0.0),
    "side": (90.0, 0.0),
    "angled": (-28.0, 38.0),
}
"""From where bodies are seen: degrees that they are turned to the right, and that one stands above."""

_GROUND, _EDGE = (243, 240, 232), 0.45
"""The ground's colour, and what is left of a colour at an edge."""
_MARGIN, _FINER = 0.06, 2
"""Share of the picture that stays free on each side, and how many pixels there are to one of it."""
_LIGHT, _DARKEST = np.array([-0.4, -0.55, 0.85]), 0.42
"""From where the light comes as one stands in front, and what is left of a colour that is turned away from it."""
_SHADOW, _SOFT = 0.22, 0.012
"""How dark the ground is at the most, and over which share of the picture's width that fades."""
_BEND = math.cos(math.radians(25.0))
"""Neighbouring faces that bend by more have an edge between them."""


def seen_from(
    meshes: Sequence[Mesh], turned: float, above: float, width: int, height: int
) -> NDArray[np.uint8]:
    """A picture (height, width, 3) of bodies, not nearer or farther for lying so.

    Parameters
    ----------
    turned, above : in degrees, as in ``VIEWS``. width, height : in pixels.
    """
    wide, high = width * _FINER, height * _FINER
    to_view = _to_view(meshes, turned, above, wide, high)
    whole = joined(meshes)
    light, normals = _light(turned), _normals(whole)
    faces = _faces(meshes, whole, light)
    near, which = depths_of(meshes, turned, above, wide, high)
    picture = np.full((high, wide, 3), _GROUND, dtype=np.float64)
    picture *= 1.0 - _shadow(whole, to_view, light, wide, high)[..., None]
    there = which >= 0
    picture[there] = faces[which[there]]
    picture[_edges(near, which, normals, to_view)] *= _EDGE
    small = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA)
    found: NDArray[np.uint8] = np.clip(np.round(small), 0, 255).astype(np.uint8)
    return found


def depths_of(
    meshes: Sequence[Mesh], turned: float, above: float, width: int, height: int
) -> tuple[Floats, Ints]:
    """How near bodies are at each pixel, and the number of the triangle there in all of them
    together (see ``nearest_at_pixels``); arguments as ``seen_from`` has them."""
    whole, to_view = joined(meshes), _to_view(meshes, turned, above, width, height)
    ahead = np.flatnonzero(_normals(whole) @ to_view[2, :3] > 0)  # others are hidden by these
    near, which = nearest_at_pixels(_mapped(whole.corners[ahead], to_view), width, height)
    return near, np.where(which < 0, -1, ahead[which])


def _to_view(
    meshes: Sequence[Mesh], turned: float, above: float, width: int, height: int
) -> Floats:
    """A map (3, 4) to pixels to the right, pixels down and nearness in pixels, by which all of the
    bodies lie in the picture's middle."""
    a, e = math.radians(turned), math.radians(above)
    right = np.array([math.cos(a), math.sin(a), 0.0])
    up = np.array([-math.sin(a) * math.sin(e), math.cos(a) * math.sin(e), math.cos(e)])
    turn = np.stack([right, -up, np.cross(right, up)])
    low, high = (np.array(each) for each in box_of(meshes))
    corners = np.array(np.meshgrid(*zip(low, high, strict=True))).reshape(3, -1).T
    seen = corners @ turn.T
    least, most = seen.min(axis=0), seen.max(axis=0)
    room = 1.0 - 2 * _MARGIN
    size = np.maximum(most - least, 1e-9)
    scale = min(room * width / size[0], room * height / size[1])
    to = np.zeros((3, 4))
    to[:, :3] = scale * turn
    middle = scale * (least + most) / 2
    to[:, 3] = np.array([width / 2, height / 2, 0.0]) - np.append(middle[:2], 0.0)
    return to


def _mapped(corners: Floats, to: Floats) -> Floats:
    found: Floats = corners @ to[:, :3].T + to[:, 3]
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
    x, y, z = _LIGHT.tolist()
    return np.array([x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a), z])


def _faces(meshes: Sequence[Mesh], whole: Mesh, light: Floats) -> Floats:
    """The colours (m, 3) of triangles in the light."""
    light = light / np.sqrt((light**2).sum())
    lit = _DARKEST + (1 - _DARKEST) * np.clip(0.5 + 0.5 * (_normals(whole) @ light), 0, 1)
    colours = [
        np.tile([int(mesh.colour[k : k + 2] or "99", 16) for k in (1, 3, 5)], (n, 1))
        for mesh in meshes
        for n in (len(mesh.triangles),)
    ]
    found: Floats = np.vstack(colours) * lit[:, None]
    return found


def _shadow(mesh: Mesh, to: Floats, light: Floats, width: int, height: int) -> Floats:
    """How dark (height, width) the ground beneath the bodies is."""
    ground = box_of([mesh])[0][2]
    corners = mesh.corners.copy()
    corners[..., :2] -= (corners[..., 2:] - ground) * light[:2] / light[2]
    corners[..., 2] = ground
    _, which = nearest_at_pixels(_mapped(corners, to), width, height)
    soft = max(_SOFT * width, 1.0)
    found: Floats = cv2.GaussianBlur((which >= 0).astype(np.float64), (0, 0), soft) * _SHADOW
    return found


def _edges(
    near: Floats, which: NDArray[np.int64], normals: Floats, to: Floats
) -> NDArray[np.bool_]:
    """Pixels at which one body ends before another, or faces bend."""
    found = np.zeros(which.shape, dtype=bool)
    facing = np.vstack([normals, np.zeros(3)])[which]
    forward = to[2, :3] / np.sqrt((to[2, :3] ** 2).sum())
    steep = 1.0 / np.maximum(facing @ forward, 0.05)
    for axis in (0, 1):
        one, other = (
            tuple(part if k == axis else slice(None) for k in (0, 1))
            for part in (slice(1, None), slice(None, -1))
        )
        bends = (facing[one] * facing[other]).sum(axis=-1) < _BEND
        with np.errstate(invalid="ignore"):
            apart = np.abs(near[one] - near[other]) > 2.5 * np.maximum(steep[one], steep[other])
        ends = (which[one] < 0) != (which[other] < 0)
        either = (which[one] >= 0) | (which[other] >= 0)
        edge = either & (bends | apart | ends)
        found[one] |= edge & (which[one] >= 0)
        found[other] |= edge & (which[other] >= 0)
    return found
