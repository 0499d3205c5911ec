"""A real window on the display the tests were started on."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QMainWindow, QWidget

from yapa.demo import DATA
from yapa.desktop.app.app import Warming, make_application
from yapa.desktop.app.main_window import MainWindow
from yapa.session.recovery import Recovery

MEANT = (QMainWindow, QDialog, Warming)
"""What is a window of its own."""


def pytest_collection_modifyitems(items):
    """What takes minutes comes first, so that no process is left with it while the other has ended."""
    items.sort(key=lambda item: not item.name.startswith("test_no_string_is_cut"))


@pytest.fixture(scope="session")
def qapp_cls():
    make_application()
    return None


@pytest.fixture(scope="session")
def qapp():
    return make_application()


@pytest.fixture(autouse=True)
def no_dialog_stays_open(qapp):
    """A dialog that nobody answers is closed after a minute, and the test fails: it would wait for ever."""
    seen, left = [], []

    def look():
        dialog = QApplication.activeModalWidget()
        seen[:] = [*seen, dialog] if dialog is not None and dialog in seen[-1:] else [dialog]
        if dialog is not None and len(seen) > 60:
            left.append(f"{type(dialog).__name__} {dialog.windowTitle()!r}")
            dialog.close()

    timer = QTimer(interval=1000)
    timer.timeout.connect(look)
    timer.start()
    yield
    timer.stop()
    assert not left, f"nobody answered {left}"


@pytest.fixture(autouse=True)
def every_window_is_meant(qapp):
    """A widget that is shown before it has its place in the bench would be a window of its own, which keeps the program open."""
    stray = []

    def look(_now=None):
        stray.extend(type(w).__name__ for w in qapp.topLevelWidgets() if w.isVisible() and not isinstance(w, MEANT)
                     and w.windowType() == Qt.WindowType.Window)

    qapp.focusWindowChanged.connect(look)
    timer = QTimer(interval=5)
    timer.timeout.connect(look)
    timer.start()
    yield
    timer.stop()
    qapp.focusWindowChanged.disconnect(look)
    assert not stray, f"shown as windows of their own: {set(stray)}"


@pytest.fixture
def window(qtbot, tmp_path):
    """An empty window that is closed without questions."""
    w = MainWindow(Recovery(tmp_path / "state"))
    qtbot.addWidget(w, before_close_func=lambda w: w.session.mark_clean())
    w.show()
    qtbot.waitExposed(w)
    return w


def settled(qtbot, session):
    """Wait until nothing is under way for a session: looks, trials, fits, files; not for what is done while idle."""
    qtbot.waitUntil(lambda: all(job.text.startswith("looking") for job in session.jobs.under_way()), timeout=20000)


def laid_out(qtbot, window):
    """Wait until every widget has its place: between two rounds of the loop nothing moved."""
    def places():
        qtbot.wait(20)
        return [w.geometry().getRect() for w in window.findChildren(QWidget)]

    qtbot.waitUntil(lambda: places() == places(), timeout=20000)


@pytest.fixture
def bench(window, qtbot):
    """Open a demo case by its short name and wait until it is drawn."""

    def open_demo(name: str):
        window.session.mark_clean()
        window.files.open_demo(DATA / f"{name}.yapa")
        qtbot.waitUntil(lambda: window.session.preview.comparison is not None and window.session.case is not None, timeout=20000)
        qtbot.waitUntil(lambda: window.bench.stage._image is not None and bool(window.session.case.trials), timeout=20000)
        settled(qtbot, window.session)
        laid_out(qtbot, window)
        return window

    return open_demo


@pytest.fixture
def person(window, qtbot, tmp_path):
    """One who builds by hand in an empty window."""
    from tests.desktop.by_hand import Builder

    return Builder(window, qtbot, tmp_path)
