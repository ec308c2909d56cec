"""The array types every geometry module speaks in, and how arrays inside records are kept read-only."""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

__all__ = ["Bools", "Floats", "Ints", "Points", "frozen", "ranges"]

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


def ranges(starts: Ints, counts: Ints) -> tuple[Ints, Ints]:
    """Many index ranges as one.

    Returns
    -------
    index : concatenated ``arange(starts[k], starts[k] + counts[k])``
    owner : (same length) the range each index belongs to
    """
    owner = np.repeat(np.arange(len(counts)), counts)
    first = np.cumsum(counts) - counts
    return starts[owner] + np.arange(len(owner)) - first[owner], owner
