"""What goes wrong on a first day, from the start page: found with the hints of the window alone, in a dozen actions."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QPushButton

MAX_ACTIONS = 12


def mend(person, qtbot, kind):
    """Ask what may be wrong, and press the mend of a finding of this kind; its words are returned."""
    person.key("y")
    window = person.window

    def cards():
        return [c for c in getattr(window.dialogs.get("findings"), "cards", []) if c.finding.kind == kind]

    qtbot.waitUntil(lambda: bool(cards()), timeout=20000)
    dialog, card = window.dialogs["findings"], cards()[0]
    qtbot.waitUntil(lambda: dialog.isActiveWindow() and card.mend.isVisible(), timeout=5000)
    words = card.finding.symptom
    assert isinstance(card.mend, QPushButton)
    person.click(card.mend)
    qtbot.waitUntil(lambda: not cards(), timeout=20000)
    person.wait()
    return words


def path_of(person, name):
    motion = person.window.session.preview.comparison.motion
    return motion.states[:, motion.names.index(name), :3]


def test_nothing_happens(person, qtbot):
    person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    person.fill("at z", "0.5")
    person.press("fixed")
    assert np.ptp(path_of(person, "ball"), axis=0).max() == 0
    assert "move" in mend(person, qtbot, "nothing moves")
    assert np.ptp(path_of(person, "ball"), axis=0).max() > 0.4
    assert person.actions <= MAX_ACTIONS


def test_it_falls_through(person, qtbot):
    person.empty_scene()
    person.put("plank")
    person.press("fixed")
    person.put("ball", 0.5, 0.3)
    person.fill("at z", "1")
    person.fill("along z", "-20")
    person.nothing()
    person.choose("profile", "30 Hz")
    assert path_of(person, "ball")[:, 2].min() < -0.5
    words = mend(person, qtbot, "step too long")
    assert "pass through" in words
    assert path_of(person, "ball")[:, 2].min() > 0
    assert person.actions <= MAX_ACTIONS


def test_it_rolls_for_ever(person, qtbot):
    person.empty_scene()
    person.put("floor")
    person.put("ball")
    person.fill("along x", "0.5")
    assert "roll" in mend(person, qtbot, "rolls for ever")
    assert person.window.session.case.surfaces["default"].rolling_resistance > 0
    assert person.actions <= MAX_ACTIONS
