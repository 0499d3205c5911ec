"""Names of a package that are imported when they are first used, so that what is light stays light to import."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from importlib import import_module
from typing import Any


def importer(package: str, where: Mapping[str, str]) -> Callable[[str], Any]:
    """Return the ``__getattr__`` of a package (PEP 562).

    Parameters
    ----------
    package : its ``__name__``
    where : module → the names that stand in it, with blanks between; ``ours=theirs`` where one is called otherwise there
    """
    places = {ours: (module, theirs or ours) for module, names in where.items()
              for ours, _, theirs in (name.partition("=") for name in names.split())}

    def find(name: str) -> Any:
        if name not in places:
            raise AttributeError(f"module {package!r} has no attribute {name!r}")
        module, theirs = places[name]
        found = getattr(import_module(module), theirs)
        setattr(sys.modules[package], name, found)
        return found

    return find
