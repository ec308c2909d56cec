"""The faces that words can be set in: those that ship with Draxet, and those installed on the
machine."""

from __future__ import annotations

import os
from functools import lru_cache
from pathlib import Path

from draxet.record import record

__all__ = ["Face", "FaceError", "face_named", "installed_faces", "shipped_faces"]

_SHIPPED = Path(__file__).parent / "shipped"
_ENDINGS = (".ttf", ".otf", ".ttc", ".otc")
_MOST = 4000
_LARGEST = 64_000_000
"""Bytes of a file that is still looked at."""


class FaceError(ValueError):
    """A face that cannot be used; the message is one sentence for people."""


@record(frozen=True)
class Face:
    """A face by its `name`; its file, and its number in a file that holds several."""

    name: str
    path: str
    number: int = 0
    shipped: bool = False


@lru_cache(maxsize=1)
def shipped_faces() -> tuple[Face, ...]:
    """The faces that ship with Draxet, by name."""
    return tuple(
        sorted(
            (face for path in _SHIPPED.glob("*.ttf") for face in _faces_in(path, shipped=True)),
            key=lambda face: face.name,
        )
    )


@lru_cache(maxsize=1)
def installed_faces() -> tuple[Face, ...]:
    """The faces installed on the machine, by name; files that cannot be read are left out. Takes a
    moment the first time."""
    found: dict[str, Face] = {}
    for folder in _folders():
        for path in sorted(folder.rglob("*")):
            if path.suffix.lower() in _ENDINGS and len(found) < _MOST:
                for face in _faces_in(path):
                    found.setdefault(face.name, face)
    taken = {face.name for face in shipped_faces()}
    return tuple(
        sorted(
            (face for name, face in found.items() if name not in taken),
            key=lambda face: face.name.casefold(),
        )
    )


def face_named(name: str) -> Face:
    """The face of a name, a shipped one first.

    Raises
    ------
    FaceError : where there is none.
    """
    for faces in (shipped_faces, installed_faces):
        for face in faces():
            if face.name == name:
                return face
    raise FaceError(
        f"the face {name!r} is not on this machine; choose another one, or keep the contours as they are"
    )


def _folders() -> list[Path]:
    home = Path(os.environ.get("HOME", "/nonexistent"))
    data = [
        Path(part)
        for part in os.environ.get("XDG_DATA_DIRS", "/usr/local/share:/usr/share").split(":")
        if part
    ]
    own = Path(os.environ.get("XDG_DATA_HOME") or home / ".local/share")
    folders = [home / ".fonts", own / "fonts", *(part / "fonts" for part in data)]
    return [folder for folder in dict.fromkeys(folders) if folder.is_dir()]


def _faces_in(path: Path, *, shipped: bool = False) -> list[Face]:
    from fontTools.ttLib import TTCollection, TTFont  # slow to load

    try:
        if path.stat().st_size > _LARGEST:
            return []
        if path.suffix.lower() in (".ttc", ".otc"):
            with TTCollection(str(path), lazy=True) as several:
                fonts = [(number, _name_of(font)) for number, font in enumerate(several.fonts)]
        else:
            with TTFont(str(path), lazy=True) as font:
                fonts = [(0, _name_of(font))]
    except Exception:  # a damaged file may raise anything
        return []
    return [Face(name, str(path), number, shipped) for number, name in fonts if name]


def _name_of(font: object) -> str:
    names = font["name"]  # type: ignore[index]
    family, style = (
        names.getDebugName(better) or names.getDebugName(plain) or ""
        for better, plain in ((16, 1), (17, 2))
    )
    plain = style.strip().casefold() in ("", "regular", "roman", "book")
    return " ".join(
        " ".join(part.split()) for part in ((family,) if plain else (family, style)) if part
    )[:200]
