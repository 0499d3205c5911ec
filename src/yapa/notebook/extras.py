"""Packages that are only there where they were asked for."""

from __future__ import annotations

from importlib import import_module
from typing import Any

from yapa.errors import bad_input


def needed(package: str) -> Any:
    """Return a package of the extra ``notebook``.

    Parameters
    ----------
    package : its name

    Raises
    ------
    InputError
        If it is not installed, with how to install it.
    """
    try:
        return import_module(package)
    except ImportError:
        raise bad_input(package, "not installed", "pip install 'yapa[notebook]'") from None
