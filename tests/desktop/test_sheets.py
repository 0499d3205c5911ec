"""Drawn tables of one motion through the real window: taken as they mean, or asked about; never taken for something else."""

from __future__ import annotations

import random

from PySide6.QtCore import QTimer

from tests.desktop.conftest import settled
from tests.hard.levels import amount
from tests.hard.sheets import is_right, sheet
from yapa.desktop.dialogs.bring_track import bring_track
from yapa.desktop.dialogs.import_file import ImportDialog


def test_a_table_dropped_into_the_window_is_read_right_or_asked_about(bench, qtbot, tmp_path):
    w = bench("orange-drop")
    first = len(w.session.case.tracks)
    taken, asked, told = 0, 0, 0
    for seed in random.Random(5).sample(range(5_000, 8_000), amount(short=4, long=20)):
        row = sheet(seed, tmp_path)
        questions, wrong, pressed, timer = [], [], [], QTimer(singleShot=True)

        def close(questions=questions, wrong=wrong, pressed=pressed, timer=timer):
            dialog = next((d for d in w.findChildren(ImportDialog) if d.isVisible()), None)
            if dialog is None:
                timer.start(20)
            elif not pressed and not dialog.model.open_questions and dialog.done_button.isEnabled():
                pressed.append(dialog)
                dialog.done_button.click()
                timer.start(20)
            elif pressed and not dialog.done_button.isEnabled():  # it is being read
                timer.start(20)
            else:  # it asks, or says what is wrong
                if not pressed:
                    questions.append(dialog.model.open_questions)
                wrong.append(dialog.wrong.text())
                dialog.reject()

        timer.timeout.connect(close)
        timer.start(20)
        before, troubles = len(w.session.case.tracks), len(w.troubles)
        bring_track(w, row.path)
        settled(qtbot, w.session)
        qtbot.waitUntil(lambda: not w.findChildren(ImportDialog), timeout=5000)
        timer.stop()
        if len(w.session.case.tracks) > before:
            samples = w.session.case.tracks[-1].samples
            assert is_right(samples.t, samples.x, samples.z), row.words
            taken += 1
        elif questions:
            asked += 1
        else:
            assert len(w.troubles) > troubles or wrong[0], row.words
            told += 1
    assert taken == len(w.session.case.tracks) - first > 0
    assert taken + asked + told == amount(short=4, long=20)
