"""Starting the application: theme, engine warmed in a child process, main window."""

from __future__ import annotations

import logging
import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QProgressBar, QVBoxLayout, QWidget

from yapa.desktop.app.remembered import take_type
from yapa.desktop.app.theme import choose_theme, font, style_sheet
from yapa.desktop.widgets.card import label
from yapa.session.engine_ready import compiled_share, is_warm, warm_in_child
from yapa.session.recovery import state_folder


def make_application() -> QApplication:
    """The application object, dressed. Made once a process."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        QApplication.setApplicationName("Yapa")
        QApplication.setDesktopFileName("yapa")
        app = QApplication(sys.argv[:1])
    sys.setswitchinterval(0.0005)  # a look in its thread must not wait long for the painting one
    app.setStyle("Fusion")
    app.setFont(font(10.5))
    apply_theme(app)
    return app


def apply_theme(app: QApplication) -> None:
    """Follow the desktop's light or dark setting."""
    app.setStyleSheet(style_sheet(choose_theme()))


class Warming(QWidget):
    """Shown while the engine is compiled, once after an installation."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Yapa")
        self.setFixedSize(440, 120)
        column = QVBoxLayout(self)
        column.addWidget(label("Preparing the engine", 13, True))
        column.addWidget(label("It is compiled for this machine, once. It takes about a minute.", 10, role="soft"))
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        column.addWidget(self.bar)


def run_window(path: Path | None) -> int:
    """Open the window and stay until it is closed."""
    words = "%(asctime)s %(name)s %(levelname)s %(message)s"
    try:
        state_folder().mkdir(parents=True, exist_ok=True, mode=0o700)
        logging.basicConfig(filename=state_folder() / "yapa.log", level=logging.INFO, format=words)
    except OSError:  # a home that cannot be written: the log goes to the terminal, and the window says that work is not kept safe
        logging.basicConfig(level=logging.WARNING, format=words)
    take_type(state_folder())
    app = make_application()
    keep: list[QWidget] = []

    def begin() -> None:
        from yapa.desktop.app.main_window import MainWindow

        window = MainWindow(path=path)
        keep.append(window)
        window.show()

        def follow(_scheme: object) -> None:
            apply_theme(app)
            window.apply_theme()

        app.styleHints().colorSchemeChanged.connect(follow)

    if is_warm():
        begin()
        return app.exec()
    warming = Warming()
    keep.append(warming)
    warming.show()
    child = warm_in_child()
    timer = QTimer(interval=500)

    def tick() -> None:
        warming.bar.setValue(int(1000 * compiled_share()))
        if child.poll() is not None:
            timer.stop()
            begin()
            warming.close()

    timer.timeout.connect(tick)
    timer.start()
    return app.exec()
