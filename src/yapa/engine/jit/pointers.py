"""Many arrays behind one: the tables of addresses that kernels look through (``kernels/layout/views.py``)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np


def pointer_table(arrays: tuple[np.ndarray, ...]) -> np.ndarray:
    """Return addresses and shapes of C-contiguous arrays, 2-D or the samples of states; the caller keeps them alive.

    Parameters
    ----------
    arrays : arrays, alive for as long as the call
    """
    rows = []
    for a in arrays:
        assert a.ndim in (2, 3)
        assert a.flags.c_contiguous
        assert a.dtype in (np.float64, np.int64)
        rows += [a.ctypes.data, *a.shape[:2]]
    return np.array(rows, np.int64)


def call_with_pointers(entry: Callable[..., int], arrays: tuple[np.ndarray, ...], *numbers: int) -> int:
    """Call a compiled entry with the table of these arrays, which live for as long as it runs.

    Parameters
    ----------
    numbers : whole numbers of the entry
    entry : compiled entry
    arrays : arrays, alive for as long as the call

    Returns
    -------
    What the entry gives.
    """
    table = pointer_table(arrays)
    return entry(table.ctypes.data, *numbers)
