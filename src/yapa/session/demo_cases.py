"""The demo cases, as the start page offers them."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from yapa.case import Case
from yapa.demo import DATA, demo_paths
from yapa.formats.case_file import load_case
from yapa.session.ledger import curve_of

__all__ = ["DATA", "DemoCase", "curve_of", "demo_cases", "demo_copy", "is_shipped"]


@dataclass(frozen=True)
class DemoCase:
    """A demo case and its file."""

    path: Path
    case: Case


def demo_cases() -> list[DemoCase]:
    """Return the demo cases that ship with the program."""
    return [DemoCase(path, load_case(path)[0]) for path in demo_paths()]


def is_shipped(path: Path) -> bool:
    """Return whether a file is one that ships with the program, which nobody's work is saved over.

    Parameters
    ----------
    path : the file
    """
    try:
        return path.resolve().is_relative_to(DATA.resolve())
    except (OSError, ValueError):
        return False


def demo_copy(path: Path) -> Case:
    """Return a demo case with its tracks inside, to be saved elsewhere, never over the one that ships.

    Parameters
    ----------
    path : the file
    """
    return load_case(path)[0].without_files()
