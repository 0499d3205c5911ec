"""Hand over: what is written, and to which file."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QInputDialog

from yapa.session.exporting import exporters

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


def open_dialog(window: MainWindow) -> None:
    """Choose what is written and where."""
    case = window.session.case
    if case is None:
        return
    names = {f"{e.name}: {e.meaning}": e for e in exporters()}
    chosen, ok = QInputDialog.getItem(window, "Hand over", "What to write", list(names), 0, False)
    if not ok:
        return
    exporter = names[chosen]
    start = f"{case.title}-{exporter.name}{exporter.suffix}"
    name, _ = QFileDialog.getSaveFileName(window, "Hand over", start, f"*{exporter.suffix};;All files (*)")
    if name:
        window.session.saver.export(exporter, Path(name))
