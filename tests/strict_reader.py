"""A strict reader of numeric-control programs, written from the language's published grammar
(NIST's RS274/NGC, section 3 and appendix E) and sharing nothing with the project: one line is an
optional number and then words and comments; of each modal group at most one word stands in a line;
of other letters each stands once."""

from __future__ import annotations

import math
import re

__all__ = ["Strict", "strict_moves"]

_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)"
_GROUPS = {
    0: "motion",
    1: "motion",
    2: "motion",
    3: "motion",
    80: "motion",
    17: "plane",
    18: "plane",
    19: "plane",
    90: "distance",
    91: "distance",
    20: "units",
    21: "units",
    4: "one line",
}
_M_GROUPS = {
    2: "stop",
    30: "stop",
    0: "stop",
    1: "stop",
    6: "tool",
    3: "spindle",
    4: "spindle",
    5: "spindle",
    7: "coolant",
    8: "coolant",
    9: "coolant",
}


class Strict(ValueError):
    """A line that the grammar does not allow."""


def _words(line: str) -> list[tuple[str, float]]:
    """The words of a line, its comments taken out."""
    if len(line) > 256:
        raise Strict(f"longer than 256 characters: {line!r}")
    rest, words, numbered = (
        line.replace(" ", "").replace("\t", ""),
        list[tuple[str, float]](),
        False,
    )
    while rest:
        if rest[0] == "(":
            end = rest.find(")")
            if end < 0 or "(" in rest[1:end]:
                raise Strict(f"a comment is not closed, or stands in another: {line!r}")
            rest = rest[end + 1 :]
            continue
        if rest[0] == ";":
            break
        found = re.match(rf"([A-Za-z])({_NUMBER})", rest)
        if not found:
            raise Strict(f"no word: {rest!r} in {line!r}")
        letter, value = found[1].upper(), float(found[2])
        if letter == "N":
            if numbered or words or value != int(value) or not 0 <= value <= 99999:
                raise Strict(f"a line number stands first, once and whole: {line!r}")
            numbered = True
        else:
            words.append((letter, value))
        rest = rest[found.end() :]
    return words


def strict_moves(text: str) -> list[tuple[float, float, float, float, bool, bool]]:
    """All moves in mm, as short straight steps: x, y, z at their end, the feed, whether at feed,
    and whether the spindle, beam or torch is on.

    Raises
    ------
    Strict : where a line is not allowed, or a move wants what was never said.
    """
    at, scale, motion, feed, on, ended = [0.0, 0.0, 0.0], None, None, 0.0, False, False
    found = []
    for line in text.splitlines():
        words = _words(line)
        if not words:
            continue
        if ended:
            raise Strict(f"after the end: {line!r}")
        groups = [
            _GROUPS.get(int(value)) if letter == "G" else _M_GROUPS.get(int(value))
            for letter, value in words
            if letter in "GM"
        ]
        if None in groups:
            raise Strict(f"a code that the language does not have: {line!r}")
        singles = [letter for letter, _ in words if letter not in "GM"]
        if len(set(groups)) < len(groups) or len(set(singles)) < len(singles):
            raise Strict(f"two words of one group: {line!r}")
        values = {letter: value for letter, value in words if letter not in "GM"}
        codes = {int(value) for letter, value in words if letter == "G"}
        for code in codes:
            scale = {20: 25.4, 21: 1.0}.get(code, scale)
            motion = code if code in (0, 1, 2, 3) else motion
            if code in (91, 18, 19):
                raise Strict("only absolute moves in the level plane are wanted here")
        feed = values["F"] * (scale or 1.0) if "F" in values else feed
        for letter, value in words:
            if letter == "M":
                on = True if value in (3, 4) else False if value in (5, 2, 30) else on
                ended |= value in (2, 30)
        if 4 in codes:
            if values.get("P", -1) < 0:
                raise Strict(f"a dwell without its seconds: {line!r}")
            continue
        if not any(axis in values for axis in "XYZ"):
            if any(axis in values for axis in "IJR"):
                raise Strict(f"an arc without an end: {line!r}")
            continue
        if scale is None or motion is None or (motion and feed <= 0):
            raise Strict(f"a move before units, motion or feed were said: {line!r}")
        to = [values[axis] * scale if axis in values else at[k] for k, axis in enumerate("XYZ")]
        if motion < 2:
            found.append((*to, feed, motion == 1, on))
        else:
            found += [
                (*place, feed, True, on) for place in _arc(at, to, values, motion, scale, line)
            ]
        at = to
    if not ended:
        raise Strict("no end")
    return found


def _arc(
    at: list[float], to: list[float], values: dict[str, float], motion: int, scale: float, line: str
) -> list[tuple[float, float, float]]:
    if "I" not in values and "J" not in values:
        raise Strict(f"an arc without its centre: {line!r}")
    cx, cy = at[0] + values.get("I", 0.0) * scale, at[1] + values.get("J", 0.0) * scale
    radius, last = math.dist((cx, cy), at[:2]), math.dist((cx, cy), to[:2])
    if abs(radius - last) > (0.0002 if scale == 25.4 else 0.002) * scale * 3:
        raise Strict(f"radii differ by {abs(radius - last):g}: {line!r}")
    begin, end = math.atan2(at[1] - cy, at[0] - cx), math.atan2(to[1] - cy, to[0] - cx)
    sweep = (end - begin) % (2 * math.pi) if motion == 3 else -((begin - end) % (2 * math.pi))
    sweep = sweep or (2 * math.pi if motion == 3 else -2 * math.pi)
    count = max(int(abs(sweep) * math.sqrt(radius / 0.008)) + 2, 4)
    return [
        (
            cx + radius * math.cos(begin + sweep * k / count),
            cy + radius * math.sin(begin + sweep * k / count),
            at[2] + (to[2] - at[2]) * k / count,
        )
        for k in range(1, count)
    ] + [(to[0], to[1], to[2])]
