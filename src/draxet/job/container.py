"""What a job's file consists of, in spite of damage: the parts of a zip by their own headers, as
far as each can be read.

The headers and methods are those of the zip format (APPNOTE 6.3, sections 4.3 and 4.4); nothing but
stored and deflated parts without encryption.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator

from draxet.record import record

__all__ = ["FoundPart", "parts_found"]

_HEADER = struct.Struct("<4sHHHHHIIIHH")
_MARK = b"PK\x03\x04"
_STORED, _DEFLATED = 0, 8
_STEP = 4096


@record(frozen=True)
class FoundPart:
    """What could be read of a part, and whether that is all of it, as it was written."""

    data: bytes
    is_whole: bool


def parts_found(data: bytes, most: int) -> dict[str, FoundPart]:
    """The parts of a file by their names; of two of one name the one that is whole. Nothing past
    `most` bytes in all."""
    found: dict[str, FoundPart] = {}
    for name, part in _walked(data, most):
        if name not in found or part.is_whole:
            found[name] = part
    return found


def _walked(data: bytes, most: int) -> Iterator[tuple[str, FoundPart]]:
    at, left = data.find(_MARK), most
    while at >= 0 and left > 0:
        if at + _HEADER.size > len(data):
            return
        _, _, flags, method, _, _, crc, packed, size, name_long, extra_long = _HEADER.unpack_from(
            data, at
        )
        begin = at + _HEADER.size + name_long + extra_long
        name = data[at + _HEADER.size : at + _HEADER.size + name_long].decode("utf-8", "replace")
        following = data.find(_MARK, begin)
        end = begin + packed if begin + packed <= len(data) else len(data)
        if following >= 0 and not data.startswith((_MARK, b"PK\x01\x02"), end):
            end = following  # the length that the header tells is not that of the part
        if not flags & 1 and method in (_STORED, _DEFLATED) and name_long:
            unpacked = (
                data[begin:end]
                if method == _STORED
                else _inflated(data[begin:end], min(size or left, left))
            )
            left -= len(unpacked)
            yield name, FoundPart(unpacked, zlib.crc32(unpacked) == crc and len(unpacked) == size)
        at = data.find(_MARK, max(end, at + 4))


def _inflated(data: bytes, most: int) -> bytes:
    """As much as can be unpacked."""
    unpack, out = zlib.decompressobj(-15), bytearray()
    try:
        for k in range(0, len(data), _STEP):
            out += unpack.decompress(data[k : k + _STEP], max(most - len(out), 1))
            if len(out) >= most or unpack.eof:
                break
        else:
            out += unpack.flush()
    except zlib.error:
        pass
    return bytes(out[:most])
