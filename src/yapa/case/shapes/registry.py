"""The kinds of shape. A kind is a module of this package, and one entry here."""

from __future__ import annotations

from importlib import import_module

from yapa.case.shapes.base import Posed

NAMES: tuple[str, ...] = ("sphere", "box", "plane", "capsule", "cylinder", "hull")
"""Modules of this package, in the order of their numbers in the engine."""


def _kind_in(name: str) -> type[Posed]:
    module = import_module(f"yapa.case.shapes.{name}")
    return next(value for value in vars(module).values()
                if isinstance(value, type) and issubclass(value, Posed) and value.__module__ == module.__name__)


KINDS: tuple[type[Posed], ...] = tuple(_kind_in(name) for name in NAMES)
"""The class of every kind, in the same order."""
