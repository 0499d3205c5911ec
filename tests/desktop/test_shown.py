"""What the stage shows beside the picture, and how it plays."""

from __future__ import annotations

import warnings

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QInputDialog, QMenu

from tests.desktop.conftest import settled
from yapa.case import Body, Case, Keyframe, Plane, Track
from yapa.desktop.dialogs.shown import ShownDialog
from yapa.session.edits import free
from yapa.session.vectors import VECTORS


def pixels(stage):
    image = stage.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    return np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())[:, : 4 * image.width()].copy()


def differ(a, b):
    return int(np.count_nonzero((a != b).any(axis=1)))


def test_one_key_shows_pictures_what_collides_and_both(bench, qtbot):
    w = bench("orange-drop")
    stage = w.bench.stage
    stage.setFocus()
    seen = []
    for ways in ("pictures", "what collides", "both", "pictures"):
        assert stage.extras.bodies_as == ways
        seen.append(pixels(stage))
        qtbot.keyClick(w, Qt.Key.Key_V)
    assert differ(seen[0], seen[1])
    assert differ(seen[1], seen[2])
    assert differ(seen[0], seen[2])


@pytest.mark.parametrize("name", [v.name for v in VECTORS])
def test_everything_that_can_be_shown_is_drawn_when_ticked(bench, qtbot, name):
    w = bench("orange-drop")
    contact = w.session.preview.comparison.motion.contacts[0]
    w.session.playback.go_to(contact.time + 0.05)
    settled(qtbot, w.session)
    qtbot.wait(100)
    w.run_command("Show on the stage…")
    dialog = next(d for d in w.findChildren(ShownDialog) if d.isVisible())
    before = pixels(w.bench.stage)
    tick = dialog.ticks[name]
    qtbot.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    assert differ(before, pixels(w.bench.stage))
    qtbot.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    assert not w.bench.stage.extras.shown


def test_an_edit_while_it_plays_starts_anew(bench, qtbot):
    w = bench("orange-drop")
    w.run_command("Play or pause")
    qtbot.waitUntil(lambda: w.session.playback.time > 0.3, timeout=5000)
    w.session.set_number("gravity", 5.0)
    assert w.session.playback.time < 0.1
    qtbot.waitUntil(lambda: w.session.playback.time > 0.1, timeout=5000)  # and it goes on
    w.run_command("Play or pause")


def test_a_contact_flashes_when_the_play_head_passes_it(bench, qtbot):
    w = bench("orange-drop")
    contact = w.session.preview.comparison.motion.contacts[0]
    stage = w.bench.stage
    x, y = (int(v) for v in stage.to_pixels(contact.point[None])[0])

    def there(time):
        w.session.playback.go_to(time)
        qtbot.wait(120)
        return pixels(stage)[max(y - 12, 0) : y + 12, 4 * (x - 12) : 4 * (x + 12)].astype(int)

    flash, later = there(contact.time + 0.01), there(contact.time + 0.14)
    assert np.abs(flash - later).mean() > 1


def test_a_trial_of_another_scene_is_told_and_brings_its_scene_back(bench, qtbot):
    w = bench("orange-drop")
    gravity = w.session.case.fields.gravity
    card = w.bench.filmstrip.cards[0]
    assert not card.elsewhere
    w.session.set_number("gravity", 5.0)
    settled(qtbot, w.session)
    assert w.bench.filmstrip.cards[0].elsewhere
    assert "another scene" in w.bench.filmstrip.cards[0].toolTip()
    card = w.bench.filmstrip.cards[0]
    qtbot.mouseDClick(card, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: isinstance(QApplication.activePopupWidget(), QMenu), timeout=5000)
    menu = QApplication.activePopupWidget()
    action = next(a for a in menu.actions() if a.text() == "Scene and values")
    qtbot.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
    qtbot.waitUntil(lambda: w.session.case.fields.gravity == gravity, timeout=5000)
    assert not w.bench.filmstrip.cards[0].elsewhere
    w.session.undo()
    assert w.session.case.fields.gravity == 5.0


def test_an_angle_on_its_card_is_in_degrees(bench, qtbot):
    w = bench("orange-drop")
    path = "bodies.orange.tilt.y"
    assert w.session.make(free(path))
    qtbot.waitUntil(lambda: path in w.bench.unknowns.rows, timeout=5000)
    card = w.bench.unknowns.rows[path]
    assert [round(float(e.text())) for e in card._ends] == [round(np.degrees(end)) for end in (card.unknown.low, card.unknown.high)]
    card.value.setFocus()
    card.value.selectAll()
    qtbot.keyClicks(card.value, "30")
    qtbot.keyClick(card.value, Qt.Key.Key_Return)
    settled(qtbot, w.session)
    assert w.session.case[path] == pytest.approx(np.radians(30))
    w.bench.stage.setFocus()
    qtbot.waitUntil(lambda: w.bench.unknowns.rows[path].value.text().startswith("30"), timeout=5000)


def test_f2_renames_the_trial_that_has_the_keys(bench, qtbot):
    w = bench("orange-drop")
    card = w.bench.filmstrip.cards[0]
    card.setFocus()

    def answer():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, QInputDialog)
        dialog.setTextValue("first drop")
        dialog.accept()

    QTimer.singleShot(300, answer)
    qtbot.keyClick(card, Qt.Key.Key_F2)
    assert w.session.case.trials[0].name == "first drop"
    assert w.bench.work == "tune"
    qtbot.waitUntil(w.isActiveWindow, timeout=5000)
    w.bench.stage.setFocus()
    qtbot.keyClick(w, Qt.Key.Key_F2)
    qtbot.waitUntil(lambda: w.bench.work == "build", timeout=5000)
    assert QApplication.focusWidget().accessibleName() == "title"


def test_a_track_with_gaps_throughout_is_drawn(bench, qtbot):
    w = bench("orange-drop")
    track = w.session.case.tracks[0]
    rows = {"t": (0.0, 0.1, 0.2, 0.3, 0.4), "x": (0.0,) * 5, "z": (None,) * 5}
    w.session.edit(w.session.case.with_(tracks=(Track(name="gaps", body=track.body, samples=rows),)), "a track of gaps")
    with warnings.catch_warnings():
        warnings.simplefilter("error", RuntimeWarning)
        settled(qtbot, w.session)
        w.grab()


def test_a_driven_plane_alone_in_a_clip_of_no_length_is_drawn(bench, qtbot):
    w = bench("orange-drop")
    plane = Body(motion="kinematic", shapes=(Plane(kind="plane"),), keyframes=(Keyframe(time=0.0, position=(0.0, 0.0, 0.0)),))
    with warnings.catch_warnings():
        warnings.simplefilter("error", RuntimeWarning)
        w.session.edit(Case(bodies={"slab": plane}, duration=0.0), "a slab")
        settled(qtbot, w.session)
        w.grab()
