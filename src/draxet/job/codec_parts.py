"""Where contours and pictures of a job are kept while it is written: in arrays of their own, or in words."""

from __future__ import annotations

import zlib
from collections.abc import Mapping
from typing import Any

import numpy as np

from draxet.geometry.contour import Contour

__all__ = ["CodecError", "Parts", "quoted"]

_MOST_NODES = 12_000_000

_ARRAYS: dict[str, tuple[str, int]] = {
    "nodes": ("<f8", 2),
    "kinds": ("u1", 1),
    "bulges": ("<f8", 1),
    "handles": ("<f8", 4),
}
"""Of each array of contours: the type of its numbers, and how many stand for one node or span."""


def quoted(value: Any) -> str:
    if isinstance(value, (list, dict)):
        return f"{'a list' if isinstance(value, list) else 'an object'} of {len(value)}"
    try:
        text = repr(value)
    except ValueError:  # a whole number of thousands of digits
        return "a number without end"
    return text if len(text) <= 40 else f"{text[:39]}…"


class CodecError(ValueError):
    """A value that is not what its field wants; says where it stands, what was wanted and what
    came."""


class Parts:
    """What does not go into JSON: files by their digest, and the arrays of all contours, one after
    the other."""

    def __init__(self, parts: Mapping[str, bytes] | None = None, *, proved: bool = True) -> None:
        """`proved` : whether the parts with contours are as they were written; else only those
        contours are read whose own sum says so."""
        self._proved = proved
        self.files: dict[str, bytes] = {}
        self._pieces: dict[str, list[bytes]] = {name: [] for name in _ARRAYS}
        self._nodes = self._spans = 0
        self._found = parts or {}
        self._read: dict[str, Any] = {}

    # --- out

    def put_file(self, data: bytes) -> str:
        import hashlib  # slow to load

        name = f"pictures/{hashlib.sha256(data).hexdigest()[:32]}"
        self.files[name] = data
        return name

    def put_contour(self, contour: Contour) -> dict[str, Any]:
        words = {
            "node": self._nodes,
            "nodes": len(contour.nodes),
            "span": self._spans,
            "closed": bool(contour.closed),
            "sum": 0,
        }
        self._nodes += len(contour.nodes)
        self._spans += len(contour.kinds)
        for name, (kind, _) in _ARRAYS.items():
            piece = np.ascontiguousarray(getattr(contour, name), dtype=kind).tobytes()
            self._pieces[name].append(piece)
            words["sum"] = zlib.crc32(piece, words["sum"])
        return words

    def arrays(self) -> dict[str, bytes]:
        """The parts that hold contours."""
        return {
            f"contours/{name}": b"".join(pieces)
            for name, pieces in self._pieces.items()
            if self._spans
        }

    # --- in

    def file(self, name: Any, where: str) -> bytes:
        if not isinstance(name, str) or name not in self._found:
            raise CodecError(f"{where} must name a file of the job, got {quoted(name)}")
        return self._found[name]

    def contour(self, words: Any, where: str) -> Contour:
        if not isinstance(words, dict):
            raise CodecError(f"{where} must be a contour, got {quoted(words)}")
        if isinstance(words.get("nodes"), list):
            return _listed(words, where)
        node, nodes, span, closed = (
            words.get(name) for name in ("node", "nodes", "span", "closed")
        )
        if (
            not all(type(v) is int and 0 <= v <= _MOST_NODES for v in (node, nodes, span))
            or type(closed) is not bool
        ):
            raise CodecError(f"{where} must say where its nodes and spans lie, got {quoted(words)}")
        spans = nodes if closed else nodes - 1  # type: ignore[operator]
        cut = {
            name: self._array(name, *((node, nodes) if name == "nodes" else (span, spans)), where)  # type: ignore[arg-type]
            for name in _ARRAYS
        }
        if not self._proved:
            total = 0
            for name in _ARRAYS:
                total = zlib.crc32(np.ascontiguousarray(cut[name]).tobytes(), total)
            if total != words.get("sum"):
                raise CodecError(f"{where} is not as it was written")
        return _made(where, cut["nodes"], cut["kinds"], cut["bulges"], cut["handles"], closed)

    def _array(self, name: str, start: int, count: int, where: str) -> Any:
        kind, each = _ARRAYS[name]
        if name not in self._read:
            data = self._found.get(f"contours/{name}", b"")
            self._read[name] = np.frombuffer(
                data[: len(data) - len(data) % (np.dtype(kind).itemsize * each)], dtype=kind
            ).reshape(-1, each)
        found = self._read[name]
        if count < 0 or start + count > len(found):
            raise CodecError(f"{where} names {name} that are not in the file")
        part = found[start : start + count]
        return part[:, 0] if each == 1 else part


class InWords(Parts):
    """Contours as lists of numbers in the JSON itself, for small files that people may read."""

    def put_contour(self, contour: Contour) -> dict[str, Any]:
        return {
            **{name: getattr(contour, name).tolist() for name in _ARRAYS},
            "closed": bool(contour.closed),
        }


def _listed(words: dict[str, Any], where: str) -> Contour:
    """A contour whose arrays stand in the JSON itself, as in the first version."""
    if type(words.get("closed")) is not bool:
        raise CodecError(f"{where}.closed must be true or false, got {quoted(words.get('closed'))}")
    arrays = {}
    for name, shape in (
        ("nodes", (-1, 2)),
        ("kinds", (-1,)),
        ("bulges", (-1,)),
        ("handles", (-1, 2, 2)),
    ):
        try:
            array = np.array(words[name])
            if array.dtype.kind not in "iuf":
                raise ValueError("no numbers")
            arrays[name] = array.astype(np.float64).reshape(shape)
        except (ValueError, TypeError, KeyError, OverflowError) as error:
            raise CodecError(
                f"{where}.{name} must be numbers, got {quoted(words.get(name))}"
            ) from error
    return _made(
        where,
        arrays["nodes"],
        arrays["kinds"],
        arrays["bulges"],
        arrays["handles"],
        words["closed"],
    )


def _made(where: str, nodes: Any, kinds: Any, bulges: Any, handles: Any, closed: Any) -> Contour:
    try:
        return Contour.make(nodes, kinds, bulges, handles, closed=closed)
    except ValueError as error:
        raise CodecError(f"{where}: {error}") from error
