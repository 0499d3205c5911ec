"""The demo cases of the citrus packing house, shipped with the program."""

from __future__ import annotations

from pathlib import Path

DATA = Path(__file__).parent / "data"
ORDER = ("orange-drop", "orange-throw", "crate-chute", "grapefruit-lane", "lemons-nudge", "orange-wanted", "sweeper-bar")


def demo_paths() -> list[Path]:
    """Return the case files, in the order they are offered."""
    return [DATA / f"{name}.yapa" for name in ORDER]
