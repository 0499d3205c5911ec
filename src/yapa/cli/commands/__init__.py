"""One file a command, named like it; each is imported when it is asked for. A further command is a file here."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

import click


def names() -> list[str]:
    """Every command's name."""
    return [module.name for module in iter_modules(__path__)]


def command_of(name: str) -> click.Command:
    """A command by its name."""
    found = getattr(import_module(f"{__name__}.{name}"), name)
    assert isinstance(found, click.Command)
    return found
