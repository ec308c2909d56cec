"""The .draxet file: a zip with the job as readable JSON, the arrays of its contours, the pictures
as they came, and a checksum of every part.

``about.json`` names the format, its version and the checksums; ``job.json`` holds the job by the
``codec``, a field or one entry of a field in each line, with a checksum for each line;
``contours/…`` hold numbers one after the other, little-endian (nodes x, y and handles x, y, x, y
and bulges as 64-bit floats, kinds as bytes); ``desk.json`` holds how the desk was left: stage,
view, settings. Numbers read back to the last bit. Of a damaged file whatever is sound is read, and
what is not is named.
"""

from __future__ import annotations

import errno
import hashlib
import json
import re
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import field
from pathlib import Path
from typing import Any, BinaryIO, get_args

from draxet.files import reason, write_whole
from draxet.job.codec import fields_of, read_record, written
from draxet.job.codec_parts import CodecError, Parts
from draxet.job.container import FoundPart, parts_found
from draxet.job.file_limits import (
    LARGEST,
    LARGEST_WORDS,
    WANTED,
    JobFileError,
    look_at_sizes,
    too_large,
    words_fit,
)
from draxet.job.old_versions import VERSION, words_of_now
from draxet.job.ranges import Each
from draxet.job.records import Job
from draxet.job.sound import mended
from draxet.job.value_faults import fault_of
from draxet.record import record

__all__ = ["JobFileError", "OpenedJob", "VERSION", "job_of", "open_job", "read_job", "save_job"]

_AS_PAIRS = 4
"""The last version whose words the present one may be taken for, where nothing says which it is."""


_LISTS = frozenset(
    name
    for name, of, _ in fields_of(Job)
    if any(isinstance(note, Each) for note in get_args(of)[1:])
)
"""The fields of a job of which each entry stands for itself."""


@record(frozen=True)
class OpenedJob:
    """A job from a file, how its desk was left, and what was left out because it was unsound, in
    sentences."""

    job: Job
    desk: Mapping[str, Any] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()


def save_job(job: Job, path: Path, desk: Mapping[str, Any] | None = None) -> None:
    """Write a job, and how the desk was left (what JSON can hold).

    Raises
    ------
    JobFileError : where it cannot be saved, whatever the cause; what was at `path` before is still
    there.
    """
    try:
        parts = _parts_of(job, desk or {})
        write_whole(path, lambda file: _write(parts, file))
    except Exception as error:  # whatever it is, people hear of it and their job stays open
        raise JobFileError(
            f"{path.name} could not be saved: {reason(error)}; the file there before is untouched"
        ) from error


def _parts_of(job: Job, desk: Mapping[str, Any]) -> dict[str, bytes]:
    parts = Parts()
    words = written(Job, job, parts)
    lines = [_dumped(pair) for pair in _pairs(words)]
    whole = {
        "job.json": b"[\n" + b",\n".join(lines) + b"\n]\n",
        "desk.json": json.dumps(desk).encode("utf-8", "replace"),
        **parts.arrays(),
        **parts.files,
    }
    if too_large([(name, len(data), False) for name, data in whole.items()]) or not words_fit(
        whole["job.json"]
    ):
        raise ValueError(
            "it holds more than a job may (1.5 GB, or some 500,000 contours); make two jobs of it"
        )
    sums = {name: hashlib.sha256(data).hexdigest() for name, data in whole.items()}
    about = {
        "format": "draxet job",
        "version": VERSION,
        "sha256": sums,
        "lines": [zlib.crc32(line) for line in lines],
    }
    return {"about.json": json.dumps(about).encode(), **whole}


def _dumped(value: Any) -> bytes:
    return json.dumps(value, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "replace")


def _pairs(words: Mapping[str, Any]) -> list[tuple[str, Any]]:
    """A job's fields with their values, of lists with each of their entries."""
    return [
        (name, entry)
        for name, value in words.items()
        for entry in (value if name in _LISTS else [value])
    ]


def _grouped(pairs: Any) -> Any:
    """The other way round; what is no list of pairs is left as it is."""
    if not isinstance(pairs, list):
        return pairs
    words: dict[str, Any] = {}
    for pair in pairs:
        if not (isinstance(pair, list) and len(pair) == 2 and isinstance(pair[0], str)):
            raise CodecError("job must hold names and values, two and two")
        name, value = pair
        if name in _LISTS:
            words.setdefault(name, []).append(value)
        else:
            words[name] = value
    return words


def _write(parts: Mapping[str, bytes], file: BinaryIO) -> None:
    """Nothing is packed: so one wrong byte costs one contour, one line or one picture, and not all
    that follows it."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        for name, data in parts.items():
            archive.writestr(
                zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data
            )  # no date: the same job, the same file


def read_job(path: Path) -> Job:
    """The job of a file all of which is sound, for work without people.

    Raises
    ------
    JobFileError : as ``open_job``, and where anything would be left out.
    """
    opened = open_job(path)
    if opened.remarks:
        raise JobFileError(
            f"{path.name} is not whole: {opened.remarks[-1]}; open it in the window, look at it and save it"
        )
    return opened.job


def open_job(path: Path) -> OpenedJob:
    """Read a job. Parts that are unsound are left out and said; a file that is unsound as a whole
    is refused.

    Raises
    ------
    JobFileError : where the file is missing, no job, of a newer version, too large or damaged.
    """
    try:
        return _opened(path)
    except JobFileError:
        raise
    except CodecError as error:
        raise JobFileError(f"{path.name} is damaged: {error}; open a copy of it") from error
    except OSError as error:
        raise JobFileError(f"{path.name} could not be opened: {reason(error)}") from error
    except MemoryError as error:
        raise JobFileError(f"{path.name} does not fit into the memory") from error
    except Exception as error:  # zip, zlib and JSON raise whatever their readers raise
        raise JobFileError(f"{path.name} {WANTED}") from error


def _opened(path: Path) -> OpenedJob:
    if path.exists() and not path.is_file():
        raise JobFileError(f"{path.name or path} is no file; open a .draxet file")
    try:
        about, parts = _sound_parts(path)
        words = _json(parts["job.json"], path)
    except (JobFileError, MemoryError):
        raise
    except Exception as damage:  # zip, zlib and JSON raise whatever their readers raise
        if (
            isinstance(damage, OSError) and damage.errno != errno.EINVAL
        ):  # which is what comes of places that lie before the file
            raise
        return _salvaged(path, damage)
    words = words_of_now(words, _version(about, path))
    return job_of(_grouped(words), Parts(parts), _desk(parts.get("desk.json", b"{}"), path))


class _Damaged(ValueError):
    """A part is not as it was written."""


def _sound_parts(path: Path) -> tuple[dict[str, Any], dict[str, bytes]]:
    """The parts of a file in which each is as it was written; what zip and JSON raise, or
    ``_Damaged``, where one is not."""
    with zipfile.ZipFile(path) as archive:
        look_at_sizes(archive, path)
        about = _json(archive.read("about.json"), path)
        _version(about, path)
        parts = {name: archive.read(name) for name in about["sha256"]}
    for name, data in parts.items():
        if hashlib.sha256(data).hexdigest() != about["sha256"][name]:
            raise _Damaged(name)
    return about, parts


def _version(about: Any, path: Path) -> int:
    if not isinstance(about, dict) or about.get("format") != "draxet job":
        raise JobFileError(f"{path.name} is no Draxet job; open a .draxet file")
    version = about.get("version")
    if type(version) is not int or version < 1 or not isinstance(about.get("sha256"), dict):
        raise _Damaged("about.json")
    if version > VERSION:
        raise JobFileError(
            f"{path.name} was saved by a newer Draxet (file version {version}, this one reads {VERSION})"
        )
    return version


def _salvaged(path: Path, damage: Exception) -> OpenedJob:
    """What can be had of a damaged file: every part, every line and every contour that is as it was
    written."""
    with path.open("rb") as file:
        found = parts_found(file.read(LARGEST), LARGEST)
    if "job.json" not in found:
        raise JobFileError(f"{path.name} {WANTED}") from damage
    about = _about(found.get("about.json"))
    version = _version(about, path) if "version" in about else _AS_PAIRS
    sums = about["sha256"]
    by_sums = (
        "about.json" in found and found["about.json"].is_whole
    )  # else what the zip says of each part counts
    sound = {
        name: part.data
        for name, part in found.items()
        if (hashlib.sha256(part.data).hexdigest() == sums.get(name) if by_sums else part.is_whole)
    }
    words, remarks = _words_found(found["job.json"], "job.json" in sound, about, path, version)
    words = words_of_now(words, version)
    arrays = {name: part.data for name, part in found.items() if name.startswith("contours/")}
    opened = job_of(
        _grouped(words),
        Parts({**sound, **arrays}, proved=all(name in sound for name in arrays)),
        _desk(sound.get("desk.json", b"{}"), path),
        lenient=True,
    )
    if "desk.json" not in sound:
        remarks.append("how the desk was left is not known any more")
    if not (opened.job.pictures or opened.job.contours) and any(
        name in sums for name in ("contours/nodes",)
    ):
        remarks.append("none of its contours could be read")
    return OpenedJob(
        opened.job,
        opened.desk,
        (f"{path.name} is damaged, and what is sound was opened", *remarks, *opened.remarks),
    )


def _about(part: FoundPart | None) -> dict[str, Any]:
    """What a file says of itself, as far as that can be believed."""
    try:
        about = (
            json.loads(part.data) if part is not None and len(part.data) <= LARGEST_WORDS else None
        )
    except (ValueError, RecursionError):
        about = None
    if not isinstance(about, dict) or "format" not in about:
        return {"format": "draxet job", "sha256": {}}
    lines = about.get("lines")
    return {
        **about,
        "sha256": about["sha256"] if isinstance(about.get("sha256"), dict) else {},
        "lines": lines if isinstance(lines, list) else [],
    }


def _words_found(
    part: FoundPart, is_sound: bool, about: Mapping[str, Any], path: Path, version: int
) -> tuple[Any, list[str]]:
    """The words of a job, of damaged ones the lines that are as they were written; and what is to
    be said of that."""
    if is_sound:
        return _json(part.data, path), []
    if not words_fit(part.data):
        raise JobFileError(
            f"{path.name} is damaged: its words would fill the memory; open a copy of it"
        )
    known = set(about.get("lines", ()))
    if not known:
        try:
            return json.loads(part.data), [
                "nothing says which of its words are damaged: look at every number"
            ]
        except (ValueError, RecursionError) as error:
            raise JobFileError(f"{path.name} {WANTED}") from error
    lines = [line.removesuffix(b",") for line in part.data.split(b"\n")]
    pairs = [json.loads(line) for line in lines if zlib.crc32(line) in known]
    if not pairs:
        raise JobFileError(f"{path.name} {WANTED}")
    lost = len(about["lines"]) - len(pairs)
    names = _names_of(line for line in lines if zlib.crc32(line) not in known)
    return pairs, [
        f"{lost} of the {len(about['lines'])} things that it tells could not be read{names}"
    ] if lost else []


def _names_of(lines: Iterable[bytes]) -> str:
    """Of which of a job's fields damaged lines are, as far as each still tells."""
    lists = {name: isinstance(getattr(Job(), name), tuple) for name, _, _ in fields_of(Job)}
    found = Counter(
        match[1].decode()
        for line in lines
        if (match := re.match(rb'\["([a-z_]+)",', line)) and match[1].decode() in lists
    )
    words = [
        f"{number} of its {name.replace('_', ' ')}"
        if lists[name]
        else f"its {name.replace('_', ' ')}"
        for name, number in found.items()
    ]
    return f": {', '.join(words)}" if words else ""


def _json(data: bytes, path: Path) -> Any:
    if not words_fit(data):
        raise JobFileError(
            f"{path.name} is damaged: its words would fill the memory; open a copy of it"
        )
    return json.loads(data)


def _desk(data: bytes, path: Path) -> dict[str, Any]:
    """How the desk was left; a damaged one is no reason to refuse a job."""
    try:
        desk = _json(data, path)
    except (ValueError, RecursionError):
        return {}
    return desk if isinstance(desk, dict) else {}


def job_of(
    words: Any, parts: Parts, desk: Mapping[str, Any] | None = None, *, lenient: bool = False
) -> OpenedJob:
    """A job from plain values; CodecError where they are unsound as a whole. `lenient` : whether a
    single field that is takes its default."""
    dropped: Counter[str] = Counter()
    first: dict[str, str] = {}

    def drop(what: str, why: str) -> None:
        dropped[what] += 1
        first.setdefault(what, why)

    job = read_record(Job, words, parts, "job", drop, fault_of, lenient=lenient)
    if fault := fault_of(Job, job, "job"):
        raise CodecError(fault)
    job = mended(job, drop)
    remarks = tuple(
        f"{count} {what}{'s were' if count > 1 else ' was'} damaged and left out ({first[what]})"
        for what, count in dropped.items()
    )
    return OpenedJob(job, desk or {}, remarks)
