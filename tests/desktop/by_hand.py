"""One who builds in a window: what they do is X events alone; where to click is read, nothing is set or called."""

from __future__ import annotations

import json

import numpy as np
from click.testing import CliRunner
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QLineEdit, QMenu, QPushButton, QWidget

from tests.desktop.conftest import laid_out, settled
from tests.desktop.xinput import Person
from yapa.cli import cli
from yapa.desktop.app.main_window import MainWindow
from yapa.formats.case_json import case_text
from yapa.session.recovery import Recovery


class Builder(Person):
    """One who builds in a window."""

    def __init__(self, window, qtbot, folder):
        super().__init__()
        self.window, self.qtbot, self.file = window, qtbot, folder / "by-hand.yapa"
        window.activateWindow()
        qtbot.waitUntil(window.isActiveWindow, timeout=5000)
        laid_out(qtbot, window)

    @property
    def stage(self):
        return self.window.bench.stage

    @property
    def case(self):
        return self.window.session.case

    def wait(self):
        settled(self.qtbot, self.window.session)
        laid_out(self.qtbot, self.window)
        self.qtbot.waitUntil(lambda: not self.stage._timer.isActive(), timeout=5000)

    def named(self, name, kind=QWidget):
        every = [w for top in QApplication.topLevelWidgets() for w in top.findChildren(kind)]
        found = [w for w in every if w.accessibleName() == name and w.isVisible()]
        assert found, f"nothing is called {name!r}"
        return found[0]

    def empty_scene(self):
        self.click(next(b for b in self.window.start.findChildren(QPushButton) if b.text() == "Empty scene"))
        self.qtbot.waitUntil(lambda: self.case is not None and self.window.session.preview.comparison is not None, timeout=20000)
        self.wait()
        return case_text(self.case)

    def put(self, thing, x=0.5, y=0.5, onto=None, at=None):
        """Drag a thing of the stock to a place of the stage, in parts of its width and height, onto a body, or to a place [m]."""
        tile = self.named(f"stock {thing}")
        there = QPoint(round(x * self.stage.width()), round(y * self.stage.height()))
        if at is not None:
            there = self.at(*at)
        if onto is not None:
            motion = self.window.session.preview.comparison.motion
            place = motion.states[0, motion.names.index(onto)][:3]
            there = QPoint(*(round(c) for c in self.stage.to_pixels(place[None])[0]))
        self.drag(tile, tile.rect().center(), there, onto=self.stage)
        self.wait()

    def want(self, *fields):
        """Say what should happen, in the fields of the form."""
        count = len(self.case.targets)
        self.answer("What should happen", *fields)
        self.key("t")
        self.qtbot.waitUntil(lambda: len(self.case.targets) > count, timeout=40000)
        self.wait()

    def find(self, words):
        """Find a thing or a field by its name, with the keys: two actions."""
        self.key("ctrl+space")
        self.qtbot.waitUntil(self.window.finder.hasFocus, timeout=5000)
        self.type_here(words)

    def type_here(self, text):
        """Type into the field that has the keys, and press Enter: a field typed."""
        self.actions += 1
        self._send("type", "--delay", "2", "--", text)
        self._send("key", "Return")
        self.wait()

    def fill(self, name, text):
        field = self.named(name, QLineEdit)
        card = self.window.bench.card
        if card.isAncestorOf(field):
            card.ensureWidgetVisible(field)
            laid_out(self.qtbot, self.window)
        self.type_into(field, text)
        self.wait()

    def press(self, name):
        """Click a button by its name."""
        b = self.named(name, QPushButton)
        card = self.window.bench.card
        if card.isAncestorOf(b):
            card.ensureWidgetVisible(b)
            laid_out(self.qtbot, self.window)
        self.click(b)
        self.wait()

    def at(self, *place):
        """The pixel of a place of the scene [m]."""
        return QPoint(*(round(c) for c in self.stage.to_pixels(np.array([place]))[0]))

    def on(self, body):
        """The pixel of a body's start."""
        return self.at(*self.case.bodies[body].position)

    def select(self, *names):
        for k, name in enumerate(names):
            self.click(self.named(f"in the scene: {name}"), keys=("shift",) if k else ())
        self.wait()

    def pull(self, grip, to):
        """Drag a grip of the selected body to a pixel."""
        tip = next(tip for g, tip, _ in self.stage.hand.grips() if g.name == grip)
        self.drag(self.stage, tip.toPoint(), to)
        self.wait()

    def box(self, body, low, high, top):
        """Right click, and the box that a body is to end in: drawn from above, lifted from the front."""
        self.key("3")
        self.wait()
        self.ask(self.at(*low), f"{body}: end inside a box")
        self.drag(self.stage, self.at(*low), self.at(*high))
        self.key("1")
        self.wait()
        self.click(self.stage, self.at(high[0], high[1], top))
        self.wait()

    def ask(self, at, words):
        """Right click on the stage, and the ask that begins with these words."""
        self.click(self.stage, at, button=3)
        self.qtbot.waitUntil(lambda: isinstance(QApplication.activePopupWidget(), QMenu), timeout=5000)
        menu = QApplication.activePopupWidget()
        action = next(a for a in menu.actions() if words in a.text())
        self.click(menu, menu.actionGeometry(action).center())
        self.wait()

    def nothing(self):
        """Select nothing: the card is the scene's."""
        self.click(self.stage, QPoint(30, 60))
        self.key("Escape")
        self.wait()

    def choose(self, name, item):
        """Choose in a box with the keys."""
        box = self.named(name, QComboBox)
        card = self.window.bench.card
        card.ensureWidgetVisible(box)
        laid_out(self.qtbot, self.window)
        self.click(box)
        self._send("type", "--delay", "2", "--", item)
        self._send("key", "Return")
        self.wait()

    def tick(self, name):
        """Click a box to tick by its name."""
        box = self.named(name, QCheckBox)
        self.window.bench.card.ensureWidgetVisible(box)
        laid_out(self.qtbot, self.window)
        self.click(box)
        self.wait()

    def choose_skin(self, name):
        self.type_into(self.named("skin", QComboBox).lineEdit(), name)
        self.wait()

    def save(self):
        self.answer("Save the case", str(self.file))
        self.key("ctrl+s")
        self.qtbot.waitUntil(self.file.exists, timeout=5000)
        self.wait()


def there_and_back(person, empty, qtbot, tmp_path):
    """Undone to the empty scene, redone to what was saved, opened in another window and saved with the same bytes."""
    counted, saved, session = person.actions, person.file.read_bytes(), person.window.session
    history, steps = session.document.history, session.document.history.steps

    def walk(chord):
        for _ in range(steps):
            mark = history.mark
            person.key(chord)
            qtbot.waitUntil(lambda mark=mark: history.mark != mark, timeout=20000)
        person.wait()

    walk("ctrl+z")
    assert case_text(person.case) == empty
    walk("ctrl+shift+z")
    assert case_text(person.case).encode() == saved
    other = MainWindow(Recovery(tmp_path / "other"), person.file)
    qtbot.addWidget(other, before_close_func=lambda w: w.session.mark_clean())
    other.show()
    qtbot.waitUntil(lambda: other.session.case is not None and other.session.jobs.idle, timeout=20000)
    other.activateWindow()
    qtbot.waitUntil(other.isActiveWindow, timeout=5000)
    person.key("ctrl+s")
    settled(qtbot, other.session)
    assert person.file.read_bytes() == saved
    return counted


def command(*args):
    done = CliRunner().invoke(cli, [str(a) for a in args])
    assert done.exit_code == 0, done.output
    return done.output


def measured(person, tmp_path, *more):
    """Outcomes of the saved file, by the command line."""
    command("measure", person.file, "--all", "--json", tmp_path / "out.json", *more)
    return json.loads((tmp_path / "out.json").read_text())["outcomes"]
