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
from dataclasses import fields
from pathlib import Path
from typing import Any

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.job.records import ContourItem, CutThrough, Exactness, HandedOff, Job, KnownLength, Limit, MeasureNote, Picture, Sheet, Side, SquareStep
from draxet.job.steps import STEP_KINDS, PrepareStep

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
        "sheets": [vars(sheet) for sheet in job.sheets],
        "sheet_id": job.sheet_id,
        "limit": {"name": job.limit.name, **_contour_words(job.limit.outline)} if job.limit else None,
        "exactness": job.exactness,
        "smallest_feature": job.smallest_feature,
        "pictures": [_picture_words(picture) for picture in job.pictures],
        "contours": [{**_plain(item, "contour"), **_contour_words(item.contour)} for item in job.contours],
        "notes": [vars(note) for note in job.notes],
        "operations": [vars(operation) for operation in job.operations],
        "handed_off": vars(job.handed_off) if job.handed_off else None,
        "next_id": job.next_id,
    }


def _plain(record: Any, *without: str) -> dict[str, Any]:
    """A record's own fields, without what it only keeps in mind."""
    return {f.name: getattr(record, f.name) for f in fields(record) if f.name not in without}


def _picture_words(picture: Picture) -> dict[str, Any]:
    return {
        **_plain(picture, "source"),
        "to_job": picture.to_job.to_tuple(),
        "known_lengths": [vars(known) for known in picture.known_lengths],
        "square": vars(picture.square) if picture.square else None,
        "steps": [{"kind": type(step.kind).__name__, "on": step.on, **vars(step.kind)} for step in picture.steps],
    }


def _contour_words(contour: Contour) -> dict[str, Any]:
    return {
        "closed": contour.closed, "nodes": contour.nodes.tolist(), "kinds": contour.kinds.tolist(),
        "bulges": contour.bulges.tolist(), "handles": contour.handles.tolist(),
    }  # fmt: skip


def _job(words: dict[str, Any], parts: dict[str, bytes]) -> Job:
    sheets = tuple(Sheet(**{**each, "origin": tuple(each["origin"])}) for each in words["sheets"])
    if not sheets:
        raise ValueError("no sheet")
    limit = words["limit"]
    return Job(
        words["name"],
        words["unit"],
        sheets,
        words["sheet_id"],
        Limit(limit["name"], _contour(limit)) if limit else None,
        Exactness(words["exactness"]),
        words["smallest_feature"],
        tuple(_picture(each, parts) for each in words["pictures"]),
        tuple(ContourItem(each["id"], _contour(each), each["picture"], each["fixed"], each["by_hand"], each["colour"], each["traced"]) for each in words["contours"]),
        tuple(_operation(each) for each in words["operations"]),
        tuple(MeasureNote(each["id"], each["kind"], _pairs(each["places"]), each["words"]) for each in words["notes"]),
        HandedOff(**words["handed_off"]) if words["handed_off"] else None,
        words["next_id"],
    )


def _pairs(places: Any) -> tuple[tuple[float, float], ...]:
    return tuple((x, y) for x, y in places)


def _picture(words: dict[str, Any], parts: dict[str, bytes]) -> Picture:
    known = tuple(
        KnownLength(tuple(each["first"]), tuple(each["second"]), each["length"], each["first_spread"], each["second_spread"])
        for each in words["known_lengths"]
    )
    return Picture(**{
        **words, "source": parts[f"pictures/{words['id']}"], "file_size": tuple(words["file_size"]), "to_job": Affine(*words["to_job"]),
        "known_lengths": known, "square": _square(words["square"]), "steps": tuple(_step(each) for each in words["steps"]),
    })  # fmt: skip


def _step(words: dict[str, Any]) -> PrepareStep:
    values = {name: value for name, value in words.items() if name not in ("kind", "on")}
    if "outline" in values:
        values["outline"] = _pairs(values["outline"])
    return PrepareStep(STEP_KINDS[words["kind"]](**values), words["on"])


def _square(words: dict[str, Any] | None) -> SquareStep | None:
    if words is None:
        return None
    pairs = {name: tuple(words[name]) for name in ("real", "matrix", "plan")}
    return SquareStep(**{**words, **pairs, "corners": _pairs(words["corners"])})


def _contour(words: dict[str, Any]) -> Contour:
    return Contour.make(words["nodes"], words["kinds"], words["bulges"], words["handles"], closed=words["closed"])


def _operation(words: dict[str, Any]) -> CutThrough:
    return CutThrough(words["id"], words["name"], tuple(words["contours"]), Side(words["side"]), words["width"], words["feed"])
