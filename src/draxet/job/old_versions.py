"""Jobs of earlier versions brought to the present one, as plain values."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from draxet.geometry.affine import Affine
from draxet.job.codec_parts import CodecError
from draxet.job.machine_kinds.earlier_machines import machine_from_6, renamed_machine

__all__ = ["VERSION", "words_of_now"]

VERSION = 7


def words_of_now(words: Any, version: int) -> Any:
    """A job's plain values as the present version would hold them; CodecError where they cannot be
    brought so far."""
    for older in range(version, VERSION):
        words = _MIGRATIONS[older](words)
    return words


def _from_version_1(words: Any) -> Any:
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


def _from_version_2(words: Any) -> Any:
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


def _from_version_4(words: Any) -> Any:
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


def _from_version_5(words: Any) -> Any:
    """Version 5 called parts groups, and knew contours that follow each other by a `link` and a map
    each: the first of them is a part from then on, and the others are placements of it, each worked
    by itself. Where one is otherwise than the first in more than its place it is its own."""
    if isinstance(words, list):
        pairs = [pair for pair in words if isinstance(pair, list) and len(pair) == 2]
        lists = {name: [v for k, v in pairs if k == name] for name in _OF_5}
        others = [p for p in words if not (isinstance(p, list) and len(p) == 2 and p[0] in _OF_5)]
        made = _laid_from_5(lists)
        return others + [[name, entry] for name, entries in made.items() for entry in entries]
    if isinstance(words, dict):
        lists = {name: _list(words.get(name, [])) for name in _OF_5}
        kept = {name: value for name, value in words.items() if name not in _OF_5}
        return {**kept, **_laid_from_5(lists)}
    return words


_OF_5 = (
    "groups",
    "contours",
    "helpers",
    "letterings",
    "operations",
    "orders",
    "fits",
    "bridges",
    "machines",
)
_ALIKE_IN_5 = ("fixed", "colour", "slit", "line", "layer")
_REFER_IN_5 = ("contours", "contour", "part", "opening", "along")


def _laid_from_5(lists: dict[str, list[Any]]) -> dict[str, list[Any]]:
    """The lists of version 5 as those of version 6."""
    contours = [_renamed_field(each, "group", "part") for each in lists["contours"]]
    parts = list(lists["groups"])
    placements = _placements_from_5(contours, parts)
    names = {name: f"{name}/{first}" for name, (first, _) in placements.items()}
    over = ""
    for item in reversed(contours):  # what stands before it, if that is there still
        name = str(item.get("id")) if isinstance(item, dict) else ""
        if name in placements:
            placements[name][1]["beneath"] = over
        else:
            over = name
    words = [_renamed_field(each, "group", "part") for each in lists["letterings"]]
    tied = ("operations", "orders", "fits", "bridges")
    return {
        "parts": parts,
        "contours": [
            each
            for each in contours
            if not (isinstance(each, dict) and str(each.get("id")) in placements)
        ],
        "placements": [placement for _, placement in placements.values()],
        "helpers": [_renamed_field(each, "group", "part") for each in lists["helpers"]],
        "machines": [renamed_machine(each) for each in lists["machines"]],
        "letterings": [_referring(each, names) for each in words],
        **{name: [_referring(each, names) for each in lists[name]] for name in tied},
    }


def _placements_from_5(
    contours: list[Any], parts: list[Any]
) -> dict[str, tuple[Any, dict[str, Any]]]:
    """Of contours that follow another one, by their ids, the id of that and the placement that they
    are from now on; those that are followed become parts."""
    linked: dict[str, list[dict[str, Any]]] = {}
    for item in contours:
        if isinstance(item, dict) and isinstance(item.get("link"), str) and item["link"]:
            linked.setdefault(item["link"], []).append(item)
    placements: dict[str, tuple[Any, dict[str, Any]]] = {}
    for first, *others in linked.values():
        back, part = _affine_of(first.get("placed")), f"part-of-{first.get('id')}"
        for other in others:
            to = _affine_of(other.get("placed"))
            if back is None or to is None or _unlike(first, other):
                continue
            placements[other["id"]] = (
                first.get("id"),
                {
                    "id": other["id"],
                    "part": part,
                    "placed": dict(zip("abcdef", back.inverse().then(to).to_tuple(), strict=True)),
                    "sheet": other.get("sheet", ""),
                    "within": other.get("part", ""),
                    "by_itself": True,
                    "symmetric": other.get("symmetric", False),
                },
            )
            if first.get("part") != part:
                name = f"Part {len(parts) + 1}"
                parts.append({"id": part, "name": name, "within": first.get("part", "")})
                first["part"] = part
    return placements


def _from_version_6(words: Any) -> Any:
    """Version 6 knew machines of one record, with all fields of all kinds, and sheets were of plywood
    where nobody had said so."""
    now = {"machines": machine_from_6, "sheets": _sheet_from_6}
    if isinstance(words, list):
        return [
            [pair[0], now[pair[0]](pair[1])]
            if isinstance(pair, list) and len(pair) == 2 and pair[0] in now
            else pair
            for pair in words
        ]
    if isinstance(words, dict):
        lists = {name: words[name] for name in now if isinstance(words.get(name), list)}
        return {**words, **{name: [now[name](each) for each in lists[name]] for name in lists}}
    return words


def _sheet_from_6(words: Any) -> Any:
    return {"material": "plywood", **words} if isinstance(words, dict) else words


def _unlike(one: dict[str, Any], other: dict[str, Any]) -> bool:
    return not isinstance(other.get("id"), str) or any(
        one.get(name) != other.get(name) for name in _ALIKE_IN_5
    )


def _affine_of(words: Any) -> Affine | None:
    """A map of plain values, where it is one that leads back."""
    values = {} if words is None else words
    if not isinstance(values, dict) or not all(type(v) in (int, float) for v in values.values()):
        return None
    usual = dict(zip("abcdef", Affine().to_tuple(), strict=True))
    found = Affine(*(float(values.get(name, value)) for name, value in usual.items()))
    return found if math.isfinite(found.determinant) and found.determinant else None


def _renamed_field(words: Any, name: str, now: str) -> Any:
    """A record with another name for one of its fields; one of its own, to be changed."""
    if not isinstance(words, dict):
        return words
    return {now if key == name else key: value for key, value in words.items()}


def _referring(words: Any, names: dict[str, str]) -> Any:
    """A record that refers to contours by their ids of today, and those that it holds."""
    if isinstance(words, list):
        return [_referring(each, names) for each in words]
    if not isinstance(words, dict):
        return words
    return {
        key: _named(value, names) if key in _REFER_IN_5 else _referring(value, names)
        for key, value in words.items()
    }


def _named(value: Any, names: dict[str, str]) -> Any:
    if isinstance(value, list):
        return [_named(each, names) for each in value]
    return names.get(value, value) if isinstance(value, str) else _referring(value, names)


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


_MIGRATIONS: dict[int, Callable[[Any], Any]] = {
    1: _from_version_1,
    2: _from_version_2,
    3: lambda words: words,
    4: _from_version_4,
    5: _from_version_5,
    6: _from_version_6,
}
