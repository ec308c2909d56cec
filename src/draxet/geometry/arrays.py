"""The array types every geometry module speaks in, sums over vectors, and how arrays inside records are kept read-only.

NumPy's own ``hypot``, ``(a * b).sum(axis=1)`` and ``points[index]`` are several times slower on (n, 2) arrays than what
stands here.
"""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

__all__ = ["Bools", "Floats", "Ints", "Points", "crosses", "dots", "frozen", "norms", "ranges", "rows"]

Floats: TypeAlias = NDArray[np.float64]
Ints: TypeAlias = NDArray[np.int64]
Bools: TypeAlias = NDArray[np.bool_]
Points: TypeAlias = NDArray[np.float64]
"""Points are (n, 2) arrays of x, y."""


def frozen(values: Any, dtype: Any = np.float64) -> NDArray[Any]:
    """`values` as a C-ordered array of `dtype` that nobody can write to; copied only where it must be."""
    array = np.ascontiguousarray(values, dtype=dtype)
    if array.flags.writeable:
        array = array.copy() if array is values or array.base is not None else array
        array.flags.writeable = False
    return array


def dots(a: Floats, b: Floats) -> Floats:
    """Scalar products of vectors (..., 2)."""
    return np.asarray(a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1])


def crosses(a: Floats, b: Floats) -> Floats:
    """Cross products of vectors (..., 2): over 0 where `b` lies to the left of `a` (with y up)."""
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def norms(vectors: Floats) -> Floats:
    """Lengths of vectors (..., 2)."""
    return np.asarray(np.sqrt(dots(vectors, vectors)))


def rows(values: NDArray[Any], index: Ints) -> NDArray[Any]:
    """``values[index]`` for whole numbers `index` of any shape that are not under 0."""
    return np.asarray(values.take(index, axis=0))


def ranges(starts: Ints, counts: Ints) -> tuple[Ints, Ints]:
    """Many index ranges as one.

    Returns
    -------
    index : concatenated ``arange(starts[k], starts[k] + counts[k])``
    owner : (same length) the range each index belongs to
    """
    owner = np.repeat(np.arange(len(counts)), counts)
    first = np.cumsum(counts) - counts
    return np.arange(len(owner)) + np.repeat(starts - first, counts), owner
