"""Damaged files: bytes flipped, cut, doubled and replaced by what breaks readers; and job files
with unsound words."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

__all__ = ["mutated", "unsound_words"]

_NASTY = (
    b"\x00" * 8,
    b"\xff" * 8,
    b"\x7f\xff\xff\xff",
    b"nan",
    b"1e999",
    b"-1",
    b"99999999999999999999",
    b"<!ENTITY",
    b"[[[[",
    b"%n",
    b"\xed\xa0\x80",
)


def mutated(data: bytes, seed: int) -> bytes:
    """Another damaged copy for each seed."""
    rng = random.Random(seed)
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 5, 30))):
        at = rng.randrange(len(out)) if out else 0
        kind = rng.randrange(6)
        if kind == 0 and out:
            out[at] ^= 1 << rng.randrange(8)
        elif kind == 1 and out:
            out[at] = rng.randrange(256)
        elif kind == 2:
            del out[at : at + rng.choice((1, 4, 100, len(out) // 3 + 1))]
        elif kind == 3:
            out[at:at] = out[at : at + rng.choice((1, 16, 300))]
        elif kind == 4:
            nasty = rng.choice(_NASTY)
            out[at : at + len(nasty)] = nasty
        else:
            out = out[: max(at, 1)]
    return bytes(out)


def _set(*way: Any, to: Any) -> Callable[[dict[str, Any]], None]:
    def change(words: dict[str, Any]) -> None:
        place: Any = words
        for step in way[:-1]:
            place = place[step]
        place[way[-1]] = to

    return change


def unsound_words(version: int) -> list[tuple[str, Callable[[dict[str, Any]], None]]]:
    """What may be unsound in a job's words of a version, by name."""
    nan, far = float("nan"), 1e300
    cases: list[tuple[tuple[Any, ...], tuple[Any, ...]]] = [
        (("unit",), ("furlong", 3, None, ["mm"])),
        (("exactness",), ("sloppy", 0, None)),
        (("smallest_feature",), (nan, -1, 0, far, "1", True)),
        (("next_id",), (-1, 1.5, 10**30, None, "7")),
        (("sheets",), ([], None, {}, 3)),
        (("name",), (3, None, "n" * 100_000)),
        (("sheets", 0, "width"), (nan, 0, -5, far, None, "9")),
        (("sheets", 0, "origin"), ([0, 0.3], [0], None, [nan, 0])),
        (("sheets", 0, "zero"), ("middle", 1)),
        (("sheets", 0, "colour"), ("red", "#12", 7)),
        (("sheets", 0, "x"), (nan, far)),
        (("limit", "name"), (7, None)),
        (("contours",), (None, {}, "x")),
        (("contours", 0, "id"), ("", None, 7, "x" * 1000)),
        (("contours", 0, "colour"), ("blue", 4)),
        (("contours", 0, "traced"), ("by luck",)),
        (("contours", 0, "fixed"), (1, "no", None)),
        (("operations", 0, "side"), ("above", None)),
        (("operations", 0, "width"), (nan, 0, -2, far)),
        (("operations", 0, "feed"), (nan, 0, -1)),
        (("operations", 0, "contours"), (None, [3], "contour-1")),
        (("notes", 0, "kind"), ("smell",)),
        (("notes", 0, "places"), ([], [[nan, 0]], [[1]], None)),
        (("pictures", 0, "file_size"), ([0, 5], [10**9, 10**9], [1.5, 2], [3], None)),
        (("pictures", 0, "dpi"), (nan, -1, "300")),
        (("pictures", 0, "strength"), (2, -1, nan)),
        (("pictures", 0, "page"), (-1, 1.5)),
        (("pictures", 0, "visible"), (None, "yes")),
        (("pictures", 0, "known_lengths", 0, "length"), (nan, 0, -3, far)),
        (("pictures", 0, "known_lengths", 0, "second"), ([1.5, 2], [nan, 1], None)),
        (("pictures", 0, "known_lengths", 0, "first_spread"), (nan, -1, None, "wide")),
        (("pictures", 2, "square", "plan"), ([0, 4], [10**6, 10**6], [3.5, 2])),
        (("pictures", 2, "square", "real"), ([0, 5], [nan, 1], [-1, 2])),
        (("pictures", 2, "square", "matrix"), ([0] * 9, [1] * 9, [1, 0, 0], [nan] * 9)),
        (("pictures", 2, "square", "corners"), ([[0, 0]], None)),
        (("pictures", 2, "square", "curve"), (nan, 50)),
        (("handed_off",), (7, {"file": 3, "work": 5})),
    ]
    if version == 1:
        cases += [
            (("limit", "nodes"), ([[0, 0], [0, 0]], [[nan, 0], [1, 0], [1, 1]], [])),
            (("limit", "closed"), (False, None)),
            (
                ("contours", 0, "nodes"),
                (
                    [],
                    None,
                    [[nan, 0]],
                    [["a", 0]],
                    [[1e200, 0], [0, 0], [5, 5], [1, 1], [2, 2], [3, 3]],
                ),
            ),
            (("contours", 0, "kinds"), ([7], None, [0.5])),
            (("contours", 0, "bulges"), ([nan], [1e300])),
            (("contours", 0, "handles"), ([1], None)),
            (("contours", 0, "closed"), (None, 1)),
            (("pictures", 0, "to_job"), ([0] * 6, [nan] * 6, [1, 2], [1e300] * 6, None)),
            (("pictures", 1, "steps", 0, "x0"), (nan, "1", far)),
            (("pictures", 1, "steps", 0, "kind"), ("Explode", None)),
            (("pictures", 1, "steps", 9, "factor"), (0, -2, nan, far)),
            (("pictures", 1, "steps", 11, "outline"), ([], [[1, 1]], None)),
            (("pictures", 1, "steps", 3, "channel"), ("infrared",)),
        ]
    else:
        cases += [
            (
                ("limit", "outline"),
                (None, {}, {"node": 10**6, "nodes": 4, "span": 0, "closed": True}),
            ),
            (
                ("contours", 0, "contour"),
                (
                    None,
                    {"node": -1, "nodes": 4, "span": 0, "closed": True},
                    {"node": 0, "nodes": 0, "span": 0, "closed": False},
                ),
            ),
            (("contours", 0, "contour", "closed"), (None, 1)),
            (("contours", 0, "contour", "nodes"), (10**12, True, 1.0)),
            (("pictures", 0, "to_job"), ({"a": 0, "e": 0}, {"a": nan}, {"a": 1e300}, None)),
            (("pictures", 0, "source"), ("elsewhere", None, 3)),
            (("pictures", 1, "steps", 0, "kind", "x0"), (nan, "1", far)),
            (("pictures", 1, "steps", 0, "kind", "kind"), ("Explode", None)),
            (("pictures", 1, "steps", 9, "kind", "factor"), (0, -2, nan)),
            (("pictures", 1, "steps", 11, "kind", "outline"), ([], [[1, 1]], None)),
        ]
    return [
        (f"{'.'.join(map(str, way))} = {str(value)[:40]}", _set(*way, to=value))
        for way, values in cases
        for value in values
    ]
