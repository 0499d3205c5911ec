"""Where numba keeps the engine's kernels: by their sources alone, so that two checkouts of the same sources share one compilation.

numba names the folder of a cached function by the path of its file and distrusts what is older than the file. The folder of the
engine is named by the sources themselves, which says more than either. Functions of other files are kept where numba keeps them.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from numba.core.caching import UserProvidedCacheLocator

from yapa.engine.jit.cache_key import KERNELS, cache_folder

folder = cache(cache_folder)
"""The folder for the sources of this process: numba asks for it three times a kernel, and all sources are read to name it."""


class SourcesLocator(UserProvidedCacheLocator):
    """The folder of the present sources, for kernels of the engine."""

    def get_cache_path(self) -> str:
        """Return the folder of the cached kernels."""
        return str(folder() / "kernels")

    def get_source_stamp(self) -> str:
        """Return what a kept kernel must have been made from: the folder's name."""
        return folder().name

    @classmethod
    def from_function(cls, py_func: Any, py_file: str) -> Any:
        """Return a locator for a kernel of the engine; None for any other function.

        Parameters
        ----------
        py_func : the function
        py_file : its file
        """
        if KERNELS not in Path(py_file).parents:
            return None
        return super().from_function(py_func, py_file)  # type: ignore[no-untyped-call]
