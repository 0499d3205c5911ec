"""Case files."""

from __future__ import annotations

from pathlib import Path

from yapa.case.model import Case
from yapa.formats.case_file import load_case, save_case


def load(path: str | Path, allow_outside: bool = False) -> Case:
    """Read a case file and the tracks it names.

    Parameters
    ----------
    allow_outside : whether files outside the case's folder may be read, as tracks that the case names

    Raises
    ------
    InputError
        With everything wrong in it.
    """
    return load_case(Path(path), allow_outside)[0]


def save(case: Case, path: str | Path) -> None:
    """Save a case atomically."""
    save_case(case, Path(path))
