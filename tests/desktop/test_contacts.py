"""Which contacts are shown on the time axis, and what is heard of them."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from yapa.desktop.app import sound
from yapa.desktop.app.sound import LOUDEST, RATE, Speaker, click_wave
from yapa.desktop.bench.timeline.axis import to_pixel
from yapa.desktop.dialogs import contacts


@pytest.fixture
def opened(bench, monkeypatch):
    """The choice of contacts over the drop; the sound device is there."""
    monkeypatch.setattr(contacts, "sound_works", lambda: True)
    w = bench("orange-drop")
    w.run_command("Contacts shown and heard…")
    return w, next(d for d in w.findChildren(contacts.ContactsDialog) if d.isVisible())


def click(qtbot, tick):
    qtbot.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))


def test_a_click_on_the_strip_goes_to_the_moment_of_a_contact(bench, qtbot):
    w = bench("orange-drop")
    beat = next(b for b in w.session.preview.beats if b.simulated is not None)
    strip = w.bench.beats
    x = round(to_pixel(beat.simulated, w.session.playback.span, strip.width())) + 4
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 20))
    assert w.session.playback.time in (beat.measured, beat.simulated)


def test_the_strip_shows_the_contacts_that_are_chosen(opened, qtbot):
    w, dialog = opened
    every = len(w.session.preview.beats)
    before = w.bench.beats.grab().toImage()
    dialog.least.selectAll()
    qtbot.keyClicks(dialog.least, "2,5")
    fewer = len(w.session.preview.beats)
    assert 0 < fewer < every
    assert w.bench.beats.grab().toImage() != before
    qtbot.keyClicks(dialog.least, "x")
    assert "expected a number" in dialog.wrong.text()
    assert len(w.session.preview.beats) == fewer
    for tick in dialog.ticks.values():
        click(qtbot, tick)
    dialog.least.setText("")
    qtbot.keyClicks(dialog.least, "0.08")
    assert w.session.preview.beats == []


def test_contacts_are_heard_while_it_plays(opened, qtbot):
    w, dialog = opened
    heard = []
    w.bench.clicks.speaker = Speaker([sound_backend()])
    w.bench.clicks.speaker.click = heard.append
    click(qtbot, dialog.heard)
    assert w.bench.clicks.on
    first = w.session.preview.comparison.motion.contacts[0]
    w.session.playback.go_to(first.time - 0.05)
    w.run_command("Play or pause")
    qtbot.waitUntil(lambda: w.session.playback.time > first.time + 0.1, timeout=5000)
    w.run_command("Play or pause")
    assert heard[:1] == [1.0]
    click(qtbot, dialog.heard)
    assert not w.bench.clicks.on


def test_a_device_that_cannot_be_had_is_told(opened, qtbot, monkeypatch):
    w, dialog = opened

    def refuse():
        raise OSError("sound: the device cannot be opened: busy")

    monkeypatch.setattr(w.bench.clicks.speaker, "open", refuse)
    click(qtbot, dialog.heard)
    assert "busy" in dialog.wrong.text()
    assert not dialog.heard.isChecked()


def test_sound_is_not_offered_where_there_is_none(bench, monkeypatch):
    sound.sound_works.cache_clear()
    monkeypatch.setitem(__import__("sys").modules, "miniaudio", None)
    w = bench("orange-drop")
    w.run_command("Contacts shown and heard…")
    dialog = next(d for d in w.findChildren(contacts.ContactsDialog) if d.isVisible())
    assert not dialog.heard.isVisible()
    sound.sound_works.cache_clear()


def sound_backend():
    return pytest.importorskip("miniaudio").Backend.NULL


def test_clicks_add_up_and_are_heard_once():
    speaker = Speaker()
    speaker.click(1.0)
    speaker.click(0.5)
    wave = LOUDEST * 1.5 * click_wave()
    out = np.concatenate([speaker.take(1000), speaker.take(len(wave))])
    assert out[: len(wave)] == pytest.approx(np.tanh(wave), abs=1e-6)
    assert not out[len(wave):].any()
    assert not speaker.take(500).any()


def test_the_device_takes_what_is_clicked(qtbot):
    speaker = Speaker([sound_backend()])
    speaker.open()
    speaker.click(1.0)
    qtbot.waitUntil(lambda: len(speaker._waiting) == 0, timeout=3000)
    speaker.close()
    assert not speaker.on
    assert len(click_wave()) == int(0.06 * RATE)
