"""Jobs of earlier versions brought to the present one, as plain values."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from draxet.job.codec_parts import CodecError

__all__ = ["from_version_1", "from_version_2", "from_version_4"]


def from_version_1(words: Any) -> Any:
    """Version 1 kept contours' arrays beside their other fields, maps as six numbers, steps' fields
    beside their switch, spreads as one number, and each picture's file under its id."""
    if not isinstance(words, dict):
        return words
    limit = words.get("limit")
    return {
        **words,
        "limit": {"name": limit.get("name"), "outline": limit}
        if isinstance(limit, dict)
        else limit,
        "handed_off": [{**off, "sheet": words.get("sheet_id")} if isinstance(off, dict) else off]
        if (off := words.get("handed_off")) is not None
        else [],
        "contours": [
            {**each, "contour": each} if isinstance(each, dict) else each
            for each in _list(words.get("contours"))
        ],
        "pictures": [
            _picture_from_1(each) if isinstance(each, dict) else each
            for each in _list(words.get("pictures"))
        ],
    }


def from_version_2(words: Any) -> Any:
    """Version 2 knew one kind of operation."""
    if not isinstance(words, dict):
        return words
    return {
        **words,
        "operations": [
            {**each, "kind": "CutThrough"} if isinstance(each, dict) else each
            for each in _list(words.get("operations", []))
        ],
    }


def from_version_4(words: Any) -> Any:
    """Version 4 knew drop-outs by their places alone; those of later ones stay as they are. From
    version 3 on a job is a list of names and values."""
    if isinstance(words, dict):
        return {**words, "drop_outs": _drop_outs(words.get("drop_outs", []))}
    if not isinstance(words, list):
        return words
    found: list[Any] = []
    for pair in words:
        if isinstance(pair, list) and pair[:1] == ["drop_outs"]:
            places = pair[1] if len(pair) == 2 and isinstance(pair[1], list) else pair[1:]
            found += [["drop_outs", each] for each in _drop_outs(places)]
        else:
            found.append(pair)
    return found


def _drop_outs(places: Any) -> list[Any]:
    return [
        {"id": f"drop-out-{k}", "x": place[0], "y": place[1]}
        if isinstance(place, list) and len(place) == 2
        else place
        for k, place in enumerate(_list(places))
    ]


def _picture_from_1(words: dict[str, Any]) -> dict[str, Any]:
    to_job, known, steps = (
        words.get("to_job"),
        _list(words.get("known_lengths")),
        _list(words.get("steps")),
    )
    return {
        **words,
        "source": f"pictures/{words.get('id')}",
        "to_job": dict(zip("abcdef", to_job, strict=True))
        if isinstance(to_job, list) and len(to_job) == 6
        else to_job,
        "known_lengths": [_with(each, first_spread=_round, second_spread=_round) for each in known],
        "steps": [
            {"kind": each, "on": each.get("on")} if isinstance(each, dict) else each
            for each in steps
        ],
    }


def _list(value: Any) -> list[Any]:
    if not isinstance(value, list):
        raise CodecError(f"job must hold lists, got {type(value).__name__}")
    return value


def _with(words: Any, **changes: Callable[[Any], Any]) -> Any:
    return (
        {**words, **{name: change(words.get(name)) for name, change in changes.items()}}
        if isinstance(words, dict)
        else words
    )


def _round(deviation: Any) -> Any:
    if type(deviation) not in (int, float) or not 0 < deviation < 1e6:
        return deviation
    return {"xx": deviation**2, "xy": 0.0, "yy": deviation**2}
