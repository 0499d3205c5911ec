"""Scenes put together by a person: from an empty scene, by X events alone, saved, undone, redone, opened and saved again.

Where to click is read (a control by its accessible name, a body by its projected place); nothing is set or called.
"""

from __future__ import annotations

import json
from math import pi, radians, tan

import numpy as np
import pytest
from click.testing import CliRunner
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QMenu, QPushButton, QWidget

from tests.desktop import xinput
from tests.desktop.conftest import laid_out, settled
from tests.desktop.xinput import NotOurDisplay, Person, check_display
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

    def put(self, thing, x=0.5, y=0.5, onto=None):
        """Drag a thing of the stock to a place of the stage, in parts of its width and height, or onto a body."""
        tile = self.named(f"stock {thing}")
        there = QPoint(round(x * self.stage.width()), round(y * self.stage.height()))
        if onto is not None:
            motion = self.window.session.preview.comparison.motion
            place = motion.states[0, motion.names.index(onto)][:3]
            there = QPoint(*(round(c) for c in self.stage.to_pixels(place[None])[0]))
        self.drag(tile, tile.rect().center(), there, onto=self.stage)
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

    def choose_skin(self, name):
        self.type_into(self.named("skin", QComboBox).lineEdit(), name)
        self.wait()

    def save(self):
        self.answer("Save the case", str(self.file))
        self.key("ctrl+s")
        self.qtbot.waitUntil(self.file.exists, timeout=5000)
        self.wait()


@pytest.fixture
def person(window, qtbot, tmp_path):
    return Builder(window, qtbot, tmp_path)


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


def test_x_events_go_only_to_a_display_of_the_test_run(monkeypatch):
    check_display()
    monkeypatch.setenv("DISPLAY", ":0")
    with pytest.raises(NotOurDisplay, match="tests' own"):
        Person().key("a")
    monkeypatch.undo()
    monkeypatch.setenv(xinput.PROPERTY, f"{xinput.os.environ['DISPLAY']} 00")
    with pytest.raises(NotOurDisplay, match="token"):
        check_display()


def test_an_orange_on_a_tilted_floor_between_two_walls_that_do_not_bounce(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.fill("turned, y", "1.5")
    person.put("wall", 0.75)
    person.fill("at x", "0.6")
    person.choose_skin("foam")
    person.put("wall", 0.25)
    person.fill("at x", "-0.6")
    person.choose_skin("foam")
    person.put("ball")
    person.fill("name", "orange")
    person.fill("restitution on foam", "0")
    person.click(person.window.bench.stage, QPoint(30, 60))
    person.key("Escape")
    person.wait()
    person.fill("clip length [s]", "6")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    command("measure", person.file, "--all", "--json", tmp_path / "out.json")
    orange = json.loads((tmp_path / "out.json").read_text())["outcomes"]["orange"]
    # the wall stands flush on the floor, leaning by 1.5°: at the height of the orange it is that much nearer
    assert orange["x"]["value"] == pytest.approx(0.6 - 0.02 - 0.05 - 0.35 * tan(radians(1.5)), abs=0.002)
    assert orange["rest time"]["value"] is not None


def test_the_friction_at_which_a_crate_sticks_on_a_plank_at_25_degrees(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.key("4")  # at an angle
    person.wait()
    person.put("slope", 0.5, 0.6)
    person.fill("turned, y", "25")
    person.put("crate", onto="slope")
    person.choose_skin("wood")
    person.fill("restitution on default", "0")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    crate = person.case.bodies["crate"]
    assert crate.orientation == pytest.approx(person.case.bodies["slope"].orientation, abs=1e-6)
    command("threshold", person.file, "--number", "surfaces.wood.friction=0.05..0.9", "--target", "crate travel at most 1 mm",
            "--smallest", "--json", tmp_path / "out.json")
    found = json.loads((tmp_path / "out.json").read_text())["value"]
    assert 0.5 * (found + 0.5) == pytest.approx(0.4663, abs=0.003)  # the mean with the default skin's 0.5 is tan 25°


def measured(person, tmp_path, *more):
    """Outcomes of the saved file, by the command line."""
    command("measure", person.file, "--all", "--json", tmp_path / "out.json", *more)
    return json.loads((tmp_path / "out.json").read_text())["outcomes"]


def test_a_lemon_knocks_a_kumquat_off_a_post(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("can")
    person.press("fixed")
    person.fill("name", "post")
    person.put("ball", onto="post")
    person.fill("name", "kumquat")
    person.fill("radius", "2.5 cm")
    person.fill("at z", "0.145")
    person.put("ball", 0.25, 0.5)
    person.fill("name", "lemon")
    person.fill("at z", "0.15")
    person.fill("along x", "3")
    person.ask(person.on("kumquat"), "lemon: hit kumquat")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    out = measured(person, tmp_path)
    assert out["kumquat"]["z"]["value"] == pytest.approx(0.025, abs=0.003)  # on the floor
    assert [t.outcome for t in person.case.targets] == ["hit"]


def test_fifteen_fruit_of_random_size_in_a_closed_box_keep_their_energy(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("closed box")
    person.put("ball")
    person.fill("name", "fruit")
    person.fill("at y", "0")
    person.fill("at z", "0.5")
    person.press("give the default skin numbers of its own")
    person.fill("restitution", "1")
    person.fill("friction", "0")
    person.answer("Copies of fruit", "[Down]", "14", "-0.4, -0.4, 0.1", "0.4, 0.4, 0.9", "0.6, 1.4", "11")
    person.key("ctrl+alt+k")
    person.wait()
    person.nothing()
    person.fill("clip length [s]", "10")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    fruit = [name for name in person.case.bodies if name.startswith("fruit")]
    assert len(fruit) == 15
    assert len({person.case.bodies[name].shapes[0].radius for name in fruit}) == 15
    out = measured(person, tmp_path)
    for name in fruit:
        r = person.case.bodies[name].shapes[0].radius
        for axis, low, high in (("x", -0.5, 0.5), ("y", -0.5, 0.5), ("z", 0.02, 1.02)):
            assert low + r - 1e-3 <= out[name][axis]["value"] <= high - r + 1e-3
    command("measure", person.file, "--balance", "--json", tmp_path / "book.json")
    book = json.loads((tmp_path / "book.json").read_text())["book"]
    mass = {name: 950 * 4 / 3 * pi * person.case.bodies[name].shapes[0].radius ** 3 for name in fruit}
    start = sum(mass[name] * 9.80665 * person.case.bodies[name].position[2] for name in fruit)
    # every contact's book: what the two that meet have after it, less before
    lost = sum(contact["energy_change"] for name in fruit for contact in book[name]["contacts"] if contact["body"] == name)
    assert 1 + lost / start >= 0.999


def test_a_bar_of_limited_force_pushes_two_crates_into_a_corner(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("wall", 0.8)
    person.fill("at x", "1")
    person.put("wall", 0.6)
    person.fill("turned, z", "90")
    person.fill("at x", "0.5")
    person.fill("at y", "0.5")
    person.put("crate", 0.5)
    person.fill("at x", "0.3")
    person.fill("at y", "0.2")
    person.put("crate", 0.5)
    person.fill("at x", "0.65")
    person.fill("at y", "0.2")
    person.put("driven bar", 0.3)
    person.fill("name", "bar")
    person.fill("push limit", "60")
    person.fill("key 1 x", "-0.2")
    person.fill("key 1 y", "0.2")
    person.fill("key 2 x", "0.6")
    person.fill("key 2 y", "0.2")
    person.fill("key 2 t", "2")
    person.nothing()
    person.fill("clip length [s]", "3")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    assert person.case.bodies["bar"].max_force == 60.0
    out = measured(person, tmp_path)
    assert out["crate 2"]["x"]["value"] == pytest.approx(0.98 - 0.15, abs=0.01)  # against the wall
    assert out["crate"]["x"]["value"] == pytest.approx(0.98 - 0.45, abs=0.02)  # against the other crate
