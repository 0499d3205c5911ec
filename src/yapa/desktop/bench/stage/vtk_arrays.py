"""NumPy arrays as VTK's and back, with types: VTK's own functions have none."""

from __future__ import annotations

from typing import Any

import numpy as np
from vtkmodules.util import numpy_support


def as_vtk(array: np.ndarray) -> Any:
    """Return a copy of an array as VTK keeps it."""
    return numpy_support.numpy_to_vtk(np.ascontiguousarray(array), deep=True)  # type: ignore[no-untyped-call]


def as_numpy(array: object) -> np.ndarray:
    """Return VTK's array without a copy."""
    return np.asarray(numpy_support.vtk_to_numpy(array))  # type: ignore[no-untyped-call]
