"""The pages of the window: one file and one line each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from yapa.desktop.pages import bench, start

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow


@dataclass(frozen=True)
class Page:
    """A page: its name, and how it is made for a window, once it is first shown."""

    name: str
    build: Callable[[MainWindow], QWidget]


PAGES: tuple[Page, ...] = (
    Page("start", start.build),
    Page("bench", bench.build),
)
