"""The array types every geometry module speaks in, sums over vectors, and how arrays inside records
are kept read-only.

NumPy's own ``hypot``, ``(a * b).sum(axis=1)``, ``stack``, ``points[index]`` and ``points[flags] =
…`` are several times slower on (n, 2) arrays than what stands here.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, TypeAlias

import numpy as np

__all__ = [
    "Bools",
    "Floats",
    "Ints",
    "NDArray",
    "Points",
    "columns",
    "crosses",
    "dots",
    "frozen",
    "kept",
    "norms",
    "put",
    "ranges",
    "rows",
]

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Floats: TypeAlias = NDArray[np.float64]
    Ints: TypeAlias = NDArray[np.int64]
    Bools: TypeAlias = NDArray[np.bool_]
    Points: TypeAlias = NDArray[np.float64]
    """Points are (n, 2) arrays of x, y."""
else:

    class NDArray:
        """Stands for the array types where the program runs: NumPy is loaded when it is first used,
        not to name its types."""

        def __class_getitem__(cls, of: object) -> type[NDArray]:
            return cls

    Floats = Ints = Bools = Points = NDArray


def frozen(values: Any, dtype: Any = float) -> NDArray[Any]:
    """`values` as a C-ordered array of `dtype` that nobody can write to; copied only where it must
    be."""
    array = np.ascontiguousarray(values, dtype=dtype)
    if array.flags.writeable:
        array = array.copy() if array is values or array.base is not None else array
        array.flags.writeable = False
    return array


def columns(x: Floats, y: Floats) -> Points:
    """Points (n, 2) of their coordinates (n,)."""
    points = np.empty((len(x), 2))
    points[:, 0], points[:, 1] = x, y
    return points


def dots(a: Floats, b: Floats) -> Floats:
    """Scalar products of vectors (..., 2)."""
    products: Floats = a * b
    return products[..., 0] + products[..., 1]


def crosses(a: Floats, b: Floats) -> Floats:
    """Cross products of vectors (..., 2): over 0 where `b` lies to the left of `a` (with y up)."""
    crossed: Floats = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    return crossed


def norms(vectors: Floats) -> Floats:
    """Lengths of vectors (..., 2)."""
    lengths: Floats = np.sqrt(dots(vectors, vectors))
    return lengths


def rows(values: NDArray[Any], index: Ints) -> NDArray[Any]:
    """``values[index]`` for whole numbers `index` of any shape that are not under 0."""
    picked: NDArray[Any] = values.take(index, axis=0)
    return picked


def kept(values: NDArray[Any], flags: Bools) -> NDArray[Any]:
    """``values[flags]``."""
    picked: NDArray[Any] = values.compress(flags, axis=0)
    return picked


def put(points: Points, flags: Bools, values: Points) -> None:
    """``points[flags] = values``, in place."""
    for k in (0, 1):
        points[:, k][flags] = values[:, k]


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
