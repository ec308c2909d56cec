"""The .draxet file: a zip with the job as readable JSON, the pictures as they came, and a checksum of every part.

Numbers are written so that they read back to the last bit. Files are written beside their place and renamed into it,
so that a full disk or a crash never leaves half a file.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import os
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.records import ContourItem, CutThrough, HandedOff, Job, KnownLength, Picture, Sheet, Side, SquareStep, Tones

__all__ = ["JobFileError", "VERSION", "read_job", "save_job", "write_atomically"]

VERSION = 1
_LARGEST_PART = 2_000_000_000


class JobFileError(ValueError):
    """A job file that cannot be read or written; the message is one sentence for people."""


def save_job(job: Job, path: Path) -> None:
    """Write a job.

    Raises
    ------
    JobFileError : where the disk refuses; what was at `path` before is still there.
    """
    parts: dict[str, bytes] = {f"pictures/{picture.id}": picture.source for picture in job.pictures}
    parts["job.json"] = json.dumps(_job_words(job), indent=1, ensure_ascii=False).encode()
    sums = {name: hashlib.sha256(data).hexdigest() for name, data in parts.items()}
    about = {"format": "draxet job", "version": VERSION, "sha256": sums}
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in {"about.json": json.dumps(about, indent=1).encode(), **parts}.items():
            kind = zipfile.ZIP_STORED if name.startswith("pictures/") else zipfile.ZIP_DEFLATED
            archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data, kind)  # no date: the same job, the same file
    try:
        write_atomically(path, buffer.getvalue())
    except OSError as error:
        raise JobFileError(f"{path.name} could not be saved: {error.strerror or error}; the file there before is untouched") from error


def write_atomically(path: Path, data: bytes) -> None:
    """Write a file so that it is there whole or not at all; OSError where the disk refuses."""
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(name, 0o644)
        os.replace(name, path)
    except BaseException:
        with contextlib.suppress(OSError):
            os.unlink(name)
        raise


def read_job(path: Path) -> Job:
    """Read a job.

    Raises
    ------
    JobFileError : where the file is missing, no job, of a newer version or damaged.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            about = json.loads(_part(archive, "about.json", path))
            if about.get("format") != "draxet job":
                raise JobFileError(f"{path.name} is no Draxet job; open a .draxet file")
            if about["version"] > VERSION:
                raise JobFileError(f"{path.name} was saved by a newer Draxet (file version {about['version']}, this one reads {VERSION})")
            parts = {name: _part(archive, name, path) for name in about["sha256"]}
            for name, data in parts.items():
                if hashlib.sha256(data).hexdigest() != about["sha256"][name]:
                    raise JobFileError(f"{path.name} is damaged: its part {name} does not match its checksum")
            return _job(json.loads(parts["job.json"]), parts)
    except JobFileError:
        raise
    except OSError as error:
        raise JobFileError(f"{path.name} could not be opened: {error.strerror or error}") from error
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, AttributeError, NotImplementedError, EOFError) as error:
        raise JobFileError(f"{path.name} is no Draxet job or is damaged; open a .draxet file or a copy of this one") from error


def _part(archive: zipfile.ZipFile, name: str, path: Path) -> bytes:
    if archive.getinfo(name).file_size > _LARGEST_PART:
        raise JobFileError(f"{path.name} is damaged: its part {name} would be larger than 2 GB")
    return archive.read(name)


def _job_words(job: Job) -> dict[str, Any]:
    return {
        "name": job.name,
        "unit": job.unit,
        "sheet": vars(job.sheet),
        "pictures": [_picture_words(picture) for picture in job.pictures],
        "contours": [_contour_words(item) for item in job.contours],
        "operations": [vars(operation) for operation in job.operations],
        "handed_off": vars(job.handed_off) if job.handed_off else None,
        "next_id": job.next_id,
    }


def _picture_words(picture: Picture) -> dict[str, Any]:
    return {
        "id": picture.id, "name": picture.name, "width": picture.width, "height": picture.height, "dpi": picture.dpi,
        "visible": picture.visible, "to_job": picture.to_job.to_tuple(), "known_lengths": [vars(known) for known in picture.known_lengths], "unstretched": picture.unstretched,
        "square": vars(picture.square) if picture.square else None, "page": picture.page,
        "tones": vars(picture.tones), "locked": picture.locked, "came_from": picture.came_from, "may_be_used": picture.may_be_used,
    }  # fmt: skip


def _contour_words(item: ContourItem) -> dict[str, Any]:
    contour = item.contour
    return {
        "id": item.id, "picture": item.picture, "closed": contour.closed, "nodes": contour.nodes.tolist(),
        "kinds": contour.kinds.tolist(), "bulges": contour.bulges.tolist(), "handles": contour.handles.tolist(),
    }  # fmt: skip


def _job(words: dict[str, Any], parts: dict[str, bytes]) -> Job:
    return Job(
        words["name"],
        words["unit"],
        Sheet(**words["sheet"]),
        tuple(_picture(each, parts) for each in words["pictures"]),
        tuple(_contour_item(each) for each in words["contours"]),
        tuple(_operation(each) for each in words["operations"]),
        HandedOff(**words["handed_off"]) if words["handed_off"] else None,
        words["next_id"],
    )


def _picture(words: dict[str, Any], parts: dict[str, bytes]) -> Picture:
    known = tuple(
        KnownLength(tuple(each["first"]), tuple(each["second"]), each["length"], each["first_spread"], each["second_spread"])
        for each in words["known_lengths"]
    )
    return Picture(
        words["id"], words["name"], parts[f"pictures/{words['id']}"], words["width"], words["height"],
        Affine(*words["to_job"]), words["dpi"], words["visible"], known, words["unstretched"],
        _square(words["square"]), words["page"], Tones(**words["tones"]),
        words["locked"], words["came_from"], words["may_be_used"],
    )  # fmt: skip


def _square(words: dict[str, Any] | None) -> SquareStep | None:
    if words is None:
        return None
    pairs = {name: tuple(words[name]) for name in ("real", "matrix", "plan", "photo")}
    return SquareStep(**{**words, **pairs, "corners": tuple(tuple(corner) for corner in words["corners"])})


def _contour_item(words: dict[str, Any]) -> ContourItem:
    contour = Contour.make(words["nodes"], words["kinds"], words["bulges"], words["handles"], closed=words["closed"])
    return ContourItem(words["id"], contour, words["picture"])


def _operation(words: dict[str, Any]) -> CutThrough:
    return CutThrough(words["id"], words["name"], tuple(words["contours"]), Side(words["side"]), words["width"], words["feed"])
