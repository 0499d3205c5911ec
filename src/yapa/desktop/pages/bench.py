"""The page on which a case is worked on: the bench."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


def build(window: MainWindow) -> QWidget:
    """The bench of a window; its widgets, and what draws the scene, are imported when it is first needed."""
    from yapa.desktop.bench.bench import Bench

    bench = Bench(window.session, window.run_command)
    split = window.remembered.split()
    if split is not None:
        bench.divide(split)
    return bench
