"""What is unsound about a value: every number in its range, every record as a whole."""

from __future__ import annotations

import dataclasses
import functools
import math
import types
from collections.abc import Callable, Sequence
from typing import Annotated, Any, Union, get_args, get_origin

import numpy as np

from draxet.geometry.affine import Affine
from draxet.geometry.contour import Contour
from draxet.geometry.covariance import Covariance
from draxet.job.codec import fields_of
from draxet.job.picture_records import KnownLength, Picture, SquareStep
from draxet.job.sheet_records import Limit

__all__ = ["fault_now", "fault_of"]

_FARTHEST = 1e8
_MOST_PIXELS = 400_000_000
_MOST_PLAN = 60_000_000
_GREATEST_BULGE = 1e6


def fault_of(hint: Any, value: Any, where: str) -> str:
    """What is unsound about a value of the type `hint`, as a sentence that begins with `where`;
    empty where nothing is."""
    check = _check(hint)
    return check(value, where) if check else ""


@functools.cache
def _check(hint: Any) -> Callable[[Any, str], str] | None:
    """The look at values of a type; None where any value of it is sound."""
    origin, arguments = get_origin(hint), get_args(hint)
    if origin is Annotated:
        return _noted(
            _check(arguments[0]), [note for note in arguments[1:] if hasattr(note, "wants")]
        )
    if origin in (Union, types.UnionType):
        return lambda value, where: (
            "" if value is None else fault_of(_kind_among(arguments, value), value, where)
        )
    if origin in (tuple, list, set):
        return _of_entries(arguments if origin is tuple else (arguments[0], Ellipsis))
    if hint is float:
        return lambda value, where: (
            "" if math.isfinite(value) else f"{where} must be a finite number, got {value}"
        )
    if dataclasses.is_dataclass(hint):
        return _of_record(hint)
    return None


def _kind_among(kinds: Sequence[Any], value: Any) -> Any:
    real = [kind for kind in kinds if kind is not type(None)]
    return real[0] if len(real) == 1 else type(value)


def _noted(
    inner: Callable[[Any, str], str] | None, notes: Sequence[Any]
) -> Callable[[Any, str], str] | None:
    if not notes:
        return inner

    def look(value: Any, where: str) -> str:
        if inner and (fault := inner(value, where)):
            return fault
        wanted = next((words for note in notes if (words := note.wants(value))), "")
        return f"{where} must be {wanted}, got {_quoted(value)}" if wanted else ""

    return look


def _quoted(value: Any) -> str:
    text = (
        f"{value:g}"
        if isinstance(value, float)
        else f"{len(value)}"
        if isinstance(value, tuple)
        else repr(value)
    )
    return text if len(text) <= 40 else f"{text[:39]}…"


def _of_entries(arguments: Sequence[Any]) -> Callable[[Any, str], str] | None:
    alike = arguments[-1] is Ellipsis
    checks = [_check(each) for each in arguments if each is not Ellipsis]
    if not any(checks):
        return None

    def look(value: Any, where: str) -> str:
        for number, entry in enumerate(value):
            check = checks[0 if alike else number]
            if check and (fault := check(entry, f"{where}[{number}]")):
                return fault
        return ""

    return look


@functools.cache
def _checks_of(hint: Any) -> list[tuple[str, Callable[[Any, str], str], Any]]:
    """The fields of a record that are looked at, how, and a value of each that is sound, where one
    is known: what it is where nothing is said."""
    if hint is Contour:
        return []
    usual = {field.name: field.default for field in dataclasses.fields(hint)}
    return [
        (name, check, usual[name] if _is_sound(check, usual[name]) else dataclasses.MISSING)
        for name, of, _ in fields_of(hint)
        if (check := _check(of))
    ]


def _is_sound(check: Callable[[Any, str], str], value: Any) -> bool:
    return value is not dataclasses.MISSING and not check(value, "")


def _of_record(hint: Any) -> Callable[[Any, str], str]:
    fields = _checks_of(hint)
    own = _WHOLE.get(hint)

    def look(value: Any, where: str) -> str:
        for name, check, sound in fields:
            entry = getattr(value, name)
            if entry is not sound and (fault := check(entry, f"{where}.{name}")):
                return fault
        wanted = own(value) if own else ""
        return f"{where} must {wanted}" if wanted else ""

    return look


def _contour(contour: Contour) -> str:
    farthest, bulge = contour.extremes
    if not farthest <= _FARTHEST:
        return f"lie within {_FARTHEST / 1e6:g} km of the origin"
    if bulge > _GREATEST_BULGE:
        return "have arcs that are less than a whole turn"
    return ""


def _affine(m: Affine) -> str:
    values = m.to_tuple()
    if not all(math.isfinite(v) and abs(v) <= _FARTHEST for v in values):
        return "be a map of finite numbers"
    return (
        ""
        if abs(m.determinant) > 1e-16
        and m.determinant**2 > 1e-12 * (m.a**2 + m.d**2) * (m.b**2 + m.e**2)
        else "not lay everything flat on one line"
    )


def _picture(picture: Picture) -> str:
    width, height = picture.file_size
    return (
        ""
        if width * height <= _MOST_PIXELS
        else f"have at most {_MOST_PIXELS // 1_000_000} megapixels"
    )


def _square(step: SquareStep) -> str:
    if step.plan[0] * step.plan[1] > _MOST_PLAN:
        return f"have a plan of at most {_MOST_PLAN // 1_000_000} megapixels"
    matrix = np.array(step.matrix).reshape(3, 3)
    flat = (
        not np.isfinite(matrix).all()
        or abs(np.linalg.det(matrix / max(float(np.abs(matrix).max()), 1e-300))) < 1e-15
    )
    return "have a map from the plan to the photo that is not flat" if flat else ""


def _known(known: KnownLength) -> str:
    return "" if known.pixels >= 1e-3 and known.deviation > 0 else "lie between two places apart"


def _spread(spread: Covariance) -> str:
    good = (
        0 <= spread.xx <= 1e12
        and 0 <= spread.yy <= 1e12
        and spread.xy**2 <= spread.xx * spread.yy * (1 + 1e-6) + 1e-12
    )
    return "" if good else "be a covariance"


def _limit(limit: Limit) -> str:
    x0, y0, x1, y1 = limit.outline.box
    if not limit.outline.closed or abs(limit.outline.area) < 1e-6:
        return "have a closed outline round an area"
    return "" if x1 > x0 and y1 > y0 else "have a width and a height"


_WHOLE: dict[Any, Callable[[Any], str]] = {
    Contour: _contour,
    Affine: _affine,
    Picture: _picture,
    SquareStep: _square,
    KnownLength: _known,
    Covariance: _spread,
    Limit: _limit,
}


def fault_now(hint: Any, entry: Any, old: Any, where: str) -> str:
    """What is unsound about an entry that was sound as `old`: only what is another value is looked
    at, and the entry as a whole."""
    if type(entry) is not type(old) or not dataclasses.is_dataclass(entry):
        return fault_of(hint, entry, where)
    kind: Any = type(entry)
    own, values, olds = _WHOLE.get(kind), vars(entry), vars(old)
    for name, check, _ in _checks_of(kind):
        value = values[name]
        if value is not olds[name] and (fault := check(value, f"{where}.{name}")):
            return fault
    wanted = own(entry) if own else ""
    return f"{where} must {wanted}" if wanted else ""
