"""Where every string of the window is drawn: which are cut, and which lie over each other.

A process of its own, so that the type can be larger from its start: ``python -m tests.desktop.strings`` prints what it finds as
JSON. Asked are the pages, both works of the bench, the opened trials, and every dialog of the commands; with an empty scene, a
demo, and a fitted case of nine unknowns; in the sizes and themes that stand in the environment.
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, QRect, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QGuiApplication, QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QMenuBar,
    QTableWidget,
    QWidget,
)
from shiboken6 import isValid

from yapa.case import numbers
from yapa.demo import DATA
from yapa.desktop.app.app import make_application
from yapa.desktop.app.commands import COMMANDS
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.dialogs.bring_track import bring_track
from yapa.desktop.dialogs.new_from_track import new_from_track
from yapa.desktop.widgets.card import ElidedLabel
from yapa.session.edits import free
from yapa.session.recovery import Recovery

SLACK = 1
"""pixels that a string may be larger than its place: of rounding"""
OVER = 3
"""pixels that two strings may lie over each other: of their leading"""
DIALOGS = ("What", "Outcomes", "Every", "Contacts", "Show on", "Other ways", "Copies", "Say", "Note", "Copy physics",
           "Help")
"""commands whose dialogs are looked at: those that ask for a file are not"""
DRAWN: list[tuple[QWidget, QRect, str, bool]] = []


def painted(original):  # type: ignore[no-untyped-def]
    """Notes where ``drawText`` of a widget's painter draws."""
    def draw(p, *args):  # type: ignore[no-untyped-def]
        device = p.device()
        text = next((a for a in args if isinstance(a, str)), "")
        if isinstance(device, QWidget) and text:
            where, flags = args[0], next((a for a in args[1:] if isinstance(a, Qt.AlignmentFlag | int)), Qt.AlignmentFlag.AlignLeft)
            metrics = QFontMetrics(p.font())
            if isinstance(where, QRectF | QRect):
                place = QRectF(where)
                box = QRectF(metrics.boundingRect(place.toRect(), int(getattr(flags, "value", flags)), text))
                cut = box.width() > place.width() + 2 or box.height() > place.height() + 4
            else:
                box = QRectF(metrics.tightBoundingRect(text)).translated(where.x(), where.y())
                cut = False
            box = p.transform().mapRect(box)
            DRAWN.append((device, box.toRect(), text, cut))
        return original(p, *args)

    return draw


QPainter.drawText = painted(QPainter.drawText)  # type: ignore[method-assign]


def seen(widget: QWidget) -> QRect:
    """What of a widget is not covered by the edges of what holds it, in its window."""
    box = QRect(widget.mapTo(widget.window(), QPoint(0, 0)), widget.size())
    parent = widget.parentWidget()
    while parent is not None and not widget.isWindow():
        box &= QRect(parent.mapTo(widget.window(), QPoint(0, 0)), parent.size())
        if parent.isWindow():
            break
        parent = parent.parentWidget()
    return box


def text_of(widget: QWidget) -> str:
    if isinstance(widget, QComboBox):
        return widget.currentText()
    if isinstance(widget, QLineEdit | QLabel | QAbstractButton):
        return widget.text().replace("&", "")
    return ""


def room_of(widget: QWidget) -> int:
    """Pixels that a line of a widget may be wide."""
    less = {QLineEdit: 4, QComboBox: 20, QCheckBox: 16}
    return widget.contentsRect().width() - next((pixels for kind, pixels in less.items() if isinstance(widget, kind)), 0)


def may_scroll(widget: QWidget, text: str) -> bool:
    """Whether a string may be longer than its place: words that are typed, and what gives up its end with a tip."""
    typed = isinstance(widget, QLineEdit) and not text.replace(".", "").replace("-", "").replace("e", "").isdigit()
    return typed or isinstance(widget, ElidedLabel)


def faults_of(widget: QWidget, text: str) -> list[str]:
    """How a string is cut in its widget."""
    metrics, room = QFontMetrics(widget.font()), widget.contentsRect()
    if isinstance(widget, QLabel) and widget.wordWrap():
        flags = int(Qt.TextFlag.TextWordWrap.value)
        high = metrics.boundingRect(QRect(0, 0, max(room.width(), 1), 10_000), flags, text).height()
        return [f"{text[:60]!r}: {high} of {room.height()} px high"] if high > room.height() + 4 else []
    lines = text.split("\n")
    wide, high = max(metrics.horizontalAdvance(line) for line in lines), metrics.height() * len(lines)
    out = []
    if wide > room_of(widget) + SLACK and not may_scroll(widget, text):
        out.append(f"{type(widget).__name__} {text[:50]!r}: {wide} px in {room_of(widget)}")
    if high > room.height() + 4:
        out.append(f"{type(widget).__name__} {text[:50]!r}: {high} px high in {room.height()}")
    return out


def box_of(widget: QWidget, text: str, whole: QRect) -> QRect:
    """Where a string stands in its window."""
    box = QRect(whole)
    if isinstance(widget, QLabel) and not widget.wordWrap():
        metrics = QFontMetrics(widget.font())
        shown = min(max(metrics.horizontalAdvance(line) for line in text.split("\n")), whole.width())
        if widget.alignment() & Qt.AlignmentFlag.AlignRight:
            box.setLeft(whole.right() - shown)
        elif not widget.alignment() & Qt.AlignmentFlag.AlignHCenter:
            box.setWidth(shown)
    return box


def strings(window: QWidget) -> tuple[list[str], list[tuple[str, QRect, QWidget]]]:
    """What is cut, and where everything that is seen stands."""
    cut, boxes = [], []
    for widget in window.findChildren(QWidget):
        text = text_of(widget)
        if not text or not widget.isVisible() or widget.window() is not window or isinstance(widget.parent(), QComboBox):
            continue
        place, whole = seen(widget), QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())
        if place.height() < whole.height() or place.width() < min(whole.width(), 12):
            continue  # scrolled away
        cut += faults_of(widget, text)
        boxes.append((text, box_of(widget, text, whole), widget))
    for table in window.findChildren(QTableWidget):
        cut += cells_cut(table) if table.isVisible() else []
    return cut, boxes


def cells_cut(table: QTableWidget) -> list[str]:
    """Cells whose words have no room."""
    out = []
    metrics, heads = QFontMetrics(table.font()), QFontMetrics(table.horizontalHeader().font())
    for column in range(table.columnCount()):
        head = table.horizontalHeaderItem(column)
        if head is not None and heads.horizontalAdvance(head.text()) > table.columnWidth(column) - 4:
            out.append(f"head {head.text()!r}: {heads.horizontalAdvance(head.text())} px in {table.columnWidth(column) - 4}")
    for row in range(table.rowCount()):
        for column in range(table.columnCount()):
            item = table.item(row, column)
            if item is not None and item.text() and table.columnSpan(row, column) == 1:
                wide, room = metrics.horizontalAdvance(item.text()), table.columnWidth(column) - 14
                if wide > room + SLACK:
                    out.append(f"cell {item.text()!r}: {wide} px in {room}")
    return out


def drawn(window: QWidget) -> tuple[list[str], list[tuple[str, QRect, QWidget]]]:
    """The same of what is painted."""
    DRAWN.clear()
    for widget in window.findChildren(QWidget):
        if widget.isVisible() and widget.window() is window:
            widget.repaint()
    cut, boxes = [], []
    for widget, box, text, is_cut in DRAWN:
        if widget.window() is not window or isinstance(widget, QLabel | QAbstractButton | QLineEdit | QComboBox | QMenuBar):
            continue
        if is_cut or box.left() < -2 or box.right() > widget.width() + 2:
            cut.append(f"painted {text[:50]!r}: {box.getRect()} in {widget.width()} x {widget.height()}")
        boxes.append((text, box.translated(widget.mapTo(window, QPoint(0, 0))), widget))
    return cut, boxes


def overlaps(boxes: list[tuple[str, QRect, QWidget]]) -> list[str]:
    """Pairs of strings that lie over each other."""
    out = set()
    for k, (text, box, widget) in enumerate(boxes):
        for other, place, beside in boxes[k + 1 :]:
            if (text, box) == (other, place) or widget.isAncestorOf(beside) or beside.isAncestorOf(widget):
                continue
            both = box & place
            if both.width() > OVER and both.height() > OVER:
                out.add(f"{text[:40]!r} over {other[:40]!r}")
    return sorted(out)


def wrong(window: QWidget) -> list[str]:
    """What is cut or overlaps in a window, once everything has its place."""
    before = None
    while before != (before := [w.geometry().getRect() for w in window.findChildren(QWidget)]):
        for _ in range(5):
            QApplication.processEvents()
            time.sleep(0.01)
    (cut, boxes), (cut_too, painted_boxes) = strings(window), drawn(window)
    return [*dict.fromkeys([*cut, *cut_too]), *overlaps(boxes), *overlaps(painted_boxes)]


def live(app: QApplication, window: MainWindow, seconds: float = 0.3) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end or not window.session.jobs.idle:
        app.processEvents()
        time.sleep(0.005)


def nine(app: QApplication, window: MainWindow) -> None:
    """A demo, fitted, with nine unknowns."""
    window.session.mark_clean()
    window.files.open_demo(DATA / "orange-throw.yapa")
    live(app, window, 0.6)
    window.session.fits.start()
    live(app, window, 0.2)
    for path in numbers(window.session.case):
        if len(window.session.case.unknowns) >= 9:
            break
        if path not in [u.path for u in window.session.case.unknowns]:
            window.session.make(free(path))
    live(app, window, 0.8)


def all_of(app: QApplication, window: MainWindow, note) -> None:  # type: ignore[no-untyped-def]
    """Every page, work, panel and dialog, with the case that is open."""
    for work in ("build", "tune"):
        window.show_work(work)
        for name in (window.session.case.dynamic_bodies()[:1], []):
            window.session.builder.select(name)
            live(app, window, 0.1)
            note(f"{work}{' · ' + name[0] if name else ''}", wrong(window))
    window.bench.trials.opener.setChecked(True)
    if window.session.case.trials:
        window.session.preview.lay_beside(0)
    live(app, window, 0.15)
    note("trials opened", wrong(window))
    window.session.preview.lay_beside(None)
    window.bench.trials.opener.setChecked(False)
    window.run_command("Find a command")
    live(app, window, 0.1)
    note("finder", wrong(window))
    window.finder.close_list()
    for command in COMMANDS:
        if command.text.startswith(DIALOGS):
            note(command.text, dialog_of(app, window, lambda text=command.text: window.run_command(text)))


def files_of(app: QApplication, window: MainWindow, note) -> None:  # type: ignore[no-untyped-def]
    """The dialogs that follow a file, over the case that is open, and those over an empty scene, which take its place."""
    for name in ("orange-throw.csv", "orange-drop.csv"):
        note(f"bring {name}", dialog_of(app, window, lambda name=name: bring_track(window, DATA / name), 10.0))
    window.session.mark_clean()
    note("new from a track", dialog_of(app, window, lambda: new_from_track(window, DATA / "orange-throw.csv"), 10.0))
    note("new from outcomes", dialog_of(app, window, lambda: window.run_command("New from outcomes…"), 10.0))


def dialog_of(app: QApplication, window: MainWindow, ask: Callable[[], None], wait: float = 0.0) -> list[str]:
    """What is wrong in a dialog, modal or not; ``wait`` [s]: for one that must come."""
    from PySide6.QtCore import QTimer

    found: list[str] = []
    seen: list[QDialog] = []
    timer = QTimer(singleShot=True, interval=150)

    def look() -> None:
        for dialog in window.findChildren(QDialog):
            if isValid(dialog) and dialog.isVisible():
                app.processEvents()
                seen.append(dialog)
                found.extend(wrong(dialog))
                dialog.reject()
        if not seen and wait:
            timer.start()

    timer.timeout.connect(look)
    timer.start()
    ask()
    live(app, window, 0.2)
    end = time.monotonic() + wait
    while not seen and time.monotonic() < end:
        live(app, window, 0.05)
    timer.stop()
    if not seen and wait:
        found.append("no dialog was shown")
    live(app, window, 0.2)
    return found


def main() -> None:
    """Print what is cut and what overlaps, by size, theme, case and place."""
    sizes = [tuple(map(int, size.split("x"))) for size in os.environ.get("YAPA_SIZES", "1280x800").split()]
    themes = os.environ.get("YAPA_THEMES", "light").split()
    hints = type(QGuiApplication.styleHints())
    scheme = {"dark": Qt.ColorScheme.Dark, "light": Qt.ColorScheme.Light}
    chosen = ["light"]
    hints.colorScheme = lambda _self: scheme[chosen[0]]  # type: ignore[method-assign]
    app = make_application()
    out: dict[str, list[str]] = {}
    with tempfile.TemporaryDirectory() as folder:
        window = MainWindow(Recovery(Path(folder)))
        for size in sizes:
            for name in themes:
                from yapa.desktop.app.app import apply_theme

                chosen[0] = name
                window.resize(*size)
                window.show()
                apply_theme(app)
                window.apply_theme()

                def note(where: str, found: list[str], at=f"{size[0]}x{size[1]} {name}") -> None:  # type: ignore[no-untyped-def]
                    if found:
                        out[f"{at} · {window.windowTitle()} · {where}"] = found

                window.show_page("start")
                live(app, window, 0.5)
                note("start", wrong(window))
                for case in ("empty", "sweeper-bar", "nine"):
                    window.session.mark_clean()
                    if case == "empty":
                        window.files.new_scene()
                    elif case == "nine":
                        nine(app, window)
                    else:
                        window.files.open_demo(DATA / f"{case}.yapa")
                    live(app, window, 0.4)
                    all_of(app, window, note)
                files_of(app, window, note)
        window.session.mark_clean()
        window.close()
    json.dump(out, sys.stdout, indent=1, ensure_ascii=False)


if __name__ == "__main__":
    main()
