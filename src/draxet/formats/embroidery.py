"""Embroidery files: needle points in tenths of a millimetre, thread changes and trims."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import numpy as np

from draxet.formats.layer import FormatError
from draxet.geometry.arrays import Points
from draxet.record import record

__all__ = [
    "ENDINGS",
    "HOLD_NO_COLOURS",
    "Embroidery",
    "embroidery_bytes",
    "read_embroidery",
    "same_needle_points",
    "words_of",
]

ENDINGS = ("dst", "exp", "pes", "jef", "vp3")
HOLD_NO_COLOURS = ("dst", "exp")
_HOLD_NO_JUMPS = ("vp3",)
"""A jump that is not trimmed is a stitch in these."""
_TENTHS = 10.0
_TRIM_OVER, _SAME = 2.0, 0.051
_DST_END, _DST_TAIL = b"\x00\x00\xf3", 8
"""The last record of a .dst file, and within so many bytes from its end it stands."""


@record(frozen=True, eq=False)
class Embroidery:
    """Runs of needle points (n, 2) in mm, y up, each with the number of its thread; the colours of
    the threads (#rrggbb, none where the file holds none), whether the file comes to its end, and whether
    it tells jumps that are not trimmed from stitches."""

    runs: tuple[tuple[int, Points], ...]
    colours: tuple[str, ...]
    has_end: bool
    has_jumps: bool = True


def embroidery_bytes(runs: Sequence[tuple[str, Points]], ending: str) -> bytes:
    """A file of that ending with runs of needle points (n, 2) in mm, y up, each in a colour; the
    thread changes where that does, and is trimmed over a longer jump.

    Raises
    ------
    FormatError : where it cannot be written.
    """
    import pyembroidery as emb

    pattern, thread = emb.EmbPattern(), ""
    before: Points | None = None
    for colour, points in runs:
        tenths = np.round(points * (_TENTHS, -_TENTHS)).astype(int)
        if colour != thread:
            if thread:
                pattern.add_command(emb.COLOR_CHANGE)
            pattern.add_thread(colour)
        elif before is not None and _is_trimmed(before, points):
            pattern.add_command(emb.TRIM)
        pattern.add_stitch_absolute(emb.JUMP, *tenths[0].tolist())
        for x, y in tenths.tolist():
            pattern.add_stitch_absolute(emb.STITCH, x, y)
        thread, before = colour, points
    pattern.add_command(emb.END)
    out = io.BytesIO()
    writers = {
        kind["extension"]: kind["writer"]
        for kind in pattern.supported_formats()
        if kind.get("writer")
    }
    settings: dict[str, Any] = {"full_jump": True, "pes version": 6}
    try:
        emb.EmbPattern.write_embroidery(writers[ending], pattern, out, settings)
    except Exception as error:  # the library raises whatever it meets
        raise FormatError(f"the .{ending} file could not be written: {error}") from error
    return out.getvalue()


def read_embroidery(data: bytes, ending: str, name: str = "the file") -> Embroidery:
    """An embroidery file of that ending.

    Raises
    ------
    FormatError : where it cannot be read.
    """
    import pyembroidery as emb

    readers = {
        kind["extension"]: kind["reader"]
        for kind in emb.EmbPattern.supported_formats()
        if kind.get("reader")
    }
    if ending not in readers:
        raise FormatError(f"{name} must end in one of {', '.join(ENDINGS)}, got .{ending}")
    try:
        pattern = emb.EmbPattern.read_embroidery(readers[ending], io.BytesIO(data))
    except Exception as error:  # the library raises whatever it meets
        raise FormatError(f"{name} is no sound .{ending} file, or damaged") from error
    if pattern is None:
        raise FormatError(f"{name} is no sound .{ending} file, or damaged")
    runs, now, thread, has_end = list[tuple[int, Points]](), list[tuple[float, float]](), 0, False
    for x, y, command in pattern.stitches:
        what = command & emb.COMMAND_MASK
        if what == emb.STITCH:
            now.append((x / _TENTHS, -y / _TENTHS))
            continue
        if now:
            runs.append((thread, np.array(now)))
            now = []
        thread += what in (emb.COLOR_CHANGE, emb.NEEDLE_SET)
        has_end |= what == emb.END
    if now:
        runs.append((thread, np.array(now)))
    if not runs:
        raise FormatError(f"{name} holds no stitches")
    if ending == "dst":  # the library ends it where it breaks off
        has_end = _DST_END in data[-_DST_TAIL:]
    colours = tuple(  # a damaged file may have threads that are none, or have no colour
        f"#{(getattr(each, 'color', None) or 0) & 0xFFFFFF:06x}" for each in pattern.threadlist
    )
    return Embroidery(tuple(runs), colours, has_end, ending not in _HOLD_NO_JUMPS)


def same_needle_points(runs: Sequence[tuple[str, Points]], found: Embroidery) -> bool:
    """Whether a file that was read holds runs (as ``embroidery_bytes`` takes them), wherever it counts
    from: each needle point, each change of thread, and its end."""
    if not found.has_jumps:
        runs = _without_jumps(runs)
    if len(found.runs) != len(runs) or not found.has_end:
        return False
    off = found.runs[0][1][0] - runs[0][1][0]
    thread, last = -1, ""
    for (number, points), (colour, wanted) in zip(found.runs, runs, strict=True):
        thread, last = thread + (colour != last), colour
        if number != thread or points.shape != wanted.shape:
            return False
        if np.abs(points - off - wanted).max() > _SAME:
            return False
    return True


def _without_jumps(runs: Sequence[tuple[str, Points]]) -> list[tuple[str, Points]]:
    """Runs of one thread as one where nothing is trimmed between them."""
    found = list[tuple[str, Points]]()
    for colour, points in runs:
        if found and found[-1][0] == colour and not _is_trimmed(found[-1][1], points):
            found[-1] = colour, np.vstack([found[-1][1], points])
        else:
            found.append((colour, points))
    return found


def _is_trimmed(before: Points, after: Points) -> bool:
    return float(np.hypot(*(after[0] - before[-1]))) > _TRIM_OVER


def words_of(found: Embroidery, a_minute: float) -> str:
    """What a file does, move by move in the words of numeric control: the needle is down from the
    first point of a run to its last one, each stitch takes as long as any, and it waits for somebody
    where the thread changes."""
    rows, thread = ["G21 G90"], 0
    for number, points in found.runs:
        if number != thread:
            name = found.colours[number] if number < len(found.colours) else ""
            rows.append(f"M0 (thread {number + 1}{f', {name}' if name else ''})")
            thread = number
        rows += [f"G0 X{points[0, 0]:.1f} Y{points[0, 1]:.1f}", "M3"]
        lengths = np.maximum(np.hypot(*np.diff(points, axis=0).T), 1 / _TENTHS)
        rows += [
            f"G1 X{x:.1f} Y{y:.1f} F{long * a_minute:.0f}"
            for (x, y), long in zip(points[1:].tolist(), lengths.tolist(), strict=True)
        ]
        rows.append("M5")
    return "\n".join([*rows, "M2"])
