"""Bodies as files: STL (binary), Wavefront OBJ, and 3MF with its units, names and colours; read back
by readers that share nothing with what wrote them."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from draxet.formats.layer import FormatError
from draxet.geometry.arrays import Floats, Ints
from draxet.geometry.mesh import Mesh

__all__ = ["ENDINGS", "TELL_APART", "mesh_bytes", "read_meshes"]

_STL = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_3MF = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"


def _stl(meshes: Sequence[Mesh]) -> bytes:
    corners = np.vstack([mesh.corners for mesh in meshes])
    found = np.zeros(len(corners), dtype=_STL)
    found["corners"] = corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    long = np.sqrt((normals**2).sum(axis=1, keepdims=True))
    found["normal"] = normals / np.maximum(long, 1e-300)
    head = b"Draxet: binary STL, mm".ljust(80, b" ")
    return head + len(found).to_bytes(4, "little") + found.tobytes()


def _read_stl(data: bytes) -> list[Mesh]:
    count = int.from_bytes(data[80:84], "little")
    if len(data) != 84 + count * _STL.itemsize:
        raise FormatError("the STL's length is not what it says")
    corners = np.frombuffer(data, dtype=_STL, offset=84)["corners"].reshape(-1, 3)
    places, which = np.unique(corners, axis=0, return_inverse=True)
    return [Mesh(places.astype(np.float64), which.reshape(-1, 3))]


def _obj(meshes: Sequence[Mesh]) -> bytes:
    lines, first = ["# Draxet, mm"], 1
    for mesh in meshes:
        lines.append(f"o {'_'.join(mesh.name.split()) or 'body'}")
        lines += [f"v {x:.9g} {y:.9g} {z:.9g}" for x, y, z in mesh.places.tolist()]
        lines += [f"f {a} {b} {c}" for a, b, c in (mesh.triangles + first).tolist()]
        first += len(mesh.places)
    return ("\n".join(lines) + "\n").encode()


def _read_obj(data: bytes) -> list[Mesh]:
    places, found = list[list[float]](), list[tuple[str, list[list[int]]]]()
    for line in data.decode().splitlines():
        word, _, rest = line.partition(" ")
        if word == "o":
            found.append((rest, []))
        elif word == "v":
            places.append([float(each) for each in rest.split()])
        elif word == "f":
            found[-1][1].append([int(each.split("/")[0]) - 1 for each in rest.split()])
    every = np.array(places)
    return [Mesh(*_used(every, np.array(triangles)), name) for name, triangles in found]


def _used(places: Floats, triangles: Ints) -> tuple[Floats, Ints]:
    kept, which = np.unique(triangles, return_inverse=True)
    return places[kept], which.reshape(-1, 3)


def _3mf(meshes: Sequence[Mesh]) -> bytes:
    try:
        import lib3mf  # not for every processor
    except ImportError as error:
        raise FormatError(
            "3MF cannot be written on this processor, as the library for it does not run here; take STL or OBJ"
        ) from error
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    for mesh in meshes:
        body = model.AddMeshObject()
        body.SetName(mesh.name)
        _fill(lib3mf, body, mesh)
        if mesh.colour:
            group = model.AddColorGroup()
            red, green, blue = (int(mesh.colour[k : k + 2], 16) for k in (1, 3, 5))
            property_id = group.AddColor(wrapper.RGBAToColor(red, green, blue, 255))
            body.SetObjectLevelProperty(group.GetResourceID(), property_id)
        model.AddBuildItem(body, wrapper.GetIdentityTransform())
    data: bytes = bytes(model.QueryWriter("3mf").WriteToBuffer())
    return data


def _fill(lib3mf: Any, body: Any, mesh: Mesh) -> None:
    places = (lib3mf.Position * len(mesh.places))()
    np.frombuffer(places, dtype=np.float32).reshape(-1, 3)[:] = mesh.places
    triangles = (lib3mf.Triangle * len(mesh.triangles))()
    np.frombuffer(triangles, dtype=np.uint32).reshape(-1, 3)[:] = mesh.triangles
    body.SetGeometry(places, triangles)


def _read_3mf(data: bytes) -> list[Mesh]:
    from defusedxml.ElementTree import fromstring  # slow to load

    with zipfile.ZipFile(io.BytesIO(data)) as parts:
        (name,) = [each for each in parts.namelist() if each.endswith(".model")]
        root = fromstring(parts.read(name))
    if root.get("unit", "millimeter") != "millimeter":
        raise FormatError(f"the 3MF counts in {root.get('unit')}, not in millimetres")
    colours = {
        group.get("id"): [each.get("color", "")[:7].lower() for each in group]
        for group in root.iter()
        if group.tag.endswith("}colorgroup")
    }
    found = list[Mesh]()
    for body in root.iter(f"{_3MF}object"):
        places = [[float(v.get(k)) for k in "xyz"] for v in body.iter(f"{_3MF}vertex")]
        triangles = [
            [int(t.get(k)) for k in ("v1", "v2", "v3")] for t in body.iter(f"{_3MF}triangle")
        ]
        some = colours.get(body.get("pid"), [])
        colour = some[int(body.get("pindex", 0))] if some else ""
        found.append(Mesh(np.array(places), np.array(triangles), body.get("name", ""), colour))
    return found


_WAYS: dict[str, tuple[Callable[[Sequence[Mesh]], bytes], Callable[[bytes], list[Mesh]]]] = {
    "stl": (_stl, _read_stl),
    "3mf": (_3mf, _read_3mf),
    "obj": (_obj, _read_obj),
}
ENDINGS = tuple(_WAYS)
TELL_APART = frozenset({"3mf", "obj"})
"""Those of which a file knows which triangles are of which body."""


def mesh_bytes(meshes: Sequence[Mesh], ending: str) -> bytes:
    """Bodies as a file of an ending, one of ``ENDINGS``.

    Raises
    ------
    FormatError : where the library for it does not run here.
    """
    return _WAYS[ending][0](meshes)


def read_meshes(data: bytes, ending: str) -> list[Mesh]:
    """The bodies of such a file: of an STL, which does not tell them apart, all as one.

    Raises
    ------
    FormatError : where it is not sound.
    """
    try:
        return _WAYS[ending][1](data)
    except (ValueError, KeyError, IndexError, zipfile.BadZipFile) as error:
        raise FormatError(f"the {ending} could not be read back: {error}") from error
