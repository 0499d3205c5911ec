"""Tuning: curves chosen and zoomed together, what the evidence says, trials compared, findings marked, the window remembered."""

from __future__ import annotations

import os

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtWidgets import QDialog

from tests.desktop.conftest import settled
from yapa.case import Samples, with_numbers
from yapa.demo import DATA
from yapa.desktop.app.main_window import MainWindow
from yapa.desktop.app.remembered import Remembered, take_type
from yapa.desktop.dialogs.bring_table import TableDialog
from yapa.desktop.dialogs.import_file import ImportDialog
from yapa.session.recovery import Recovery

E = "pairs.rind+pad.restitution"


@pytest.fixture
def drop(bench, qtbot):
    w = bench("orange-drop")
    qtbot.waitUntil(lambda: len(w.bench.traces.plots) >= 3, timeout=5000)
    return w


def wheel(widget, at, turns, keys=Qt.KeyboardModifier.NoModifier):
    widget.wheelEvent(QWheelEvent(QPointF(at), QPointF(widget.mapToGlobal(at)), QPoint(0, 0), QPoint(0, 120 * turns),
                                  Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False))


def test_curves_are_chosen_from_a_list(drop, qtbot):
    curves = drop.bench.curves
    menu = curves.menu()
    ticked = {a.text().split(" [")[0] for a in menu.actions() if a.isChecked()}
    assert "height" in ticked
    more = next(a.menu() for a in menu.actions() if a.text() == "Outcomes, if it ended there")
    next(a for a in more.actions() if a.text() == "contacts so far").trigger()
    qtbot.waitUntil(lambda: ("orange", "contacts so far") in curves.shown(), timeout=5000)
    named = "Trace of contacts so far, orange"
    qtbot.waitUntil(lambda: any(p.accessibleName() == named for p in drop.bench.traces.plots), timeout=5000)
    curves.toggle(("orange", "contacts so far"))
    qtbot.waitUntil(lambda: ("orange", "contacts so far") not in curves.shown(), timeout=5000)


def test_the_wheel_zooms_every_curve_and_the_strip_together(drop, qtbot):
    session, strip, plot = drop.session, drop.bench.beats, drop.bench.traces.plots[0]
    wheel(strip, QPoint(strip.width() // 2, 20), 4)
    start, end = session.playback.span
    assert 0 < start < end < session.case.duration
    qtbot.waitUntil(lambda: plot.main.getViewBox().viewRange()[0] == pytest.approx([start, end]), timeout=5000)
    wheel(plot, QPoint(plot.width() // 2, 40), 1, Qt.KeyboardModifier.ShiftModifier)
    assert session.playback.span[0] < start
    plot.mouseDoubleClickEvent(None)
    assert session.playback.span == (0.0, session.case.duration)


def test_cards_show_what_the_evidence_says_and_one_step_aside_while_pressed(drop, qtbot):
    qtbot.waitUntil(lambda: bool(drop.session.leverage.found.pieces), timeout=20000)
    card = drop.bench.unknowns.rows[E]
    assert "track of orange" in card.bars.toolTip()
    knob = card.knob
    qtbot.mousePress(knob, Qt.MouseButton.LeftButton, pos=QPoint(knob.width() // 2, knob.height() // 2))
    qtbot.waitUntil(lambda: len(drop.session.preview.steps) == 2, timeout=5000)
    assert len(drop.bench.traces.plots[0].aside[0].getData()[0]) > 10
    qtbot.mouseRelease(knob, Qt.MouseButton.LeftButton, pos=QPoint(knob.width() // 2, knob.height() // 2))
    assert drop.session.preview.steps == []
    knob.setValue(knob.maximum())
    assert not knob.grab().isNull()  # with the arrow at its bound


def test_the_strip_of_trials_opens_and_tells_what_differs(drop, qtbot):
    before = drop.bench.trials.height()
    drop.session.set_number(E, 0.85)
    settled(qtbot, drop.session)
    qtbot.mouseClick(drop.bench.trials.opener, Qt.MouseButton.LeftButton)
    assert drop.bench.trials.is_open
    assert drop.bench.trials.height() > before + 50
    drop.session.preview.lay_beside(0)
    qtbot.waitUntil(lambda: "restitution" in drop.bench.trials.differs.text(), timeout=5000)
    assert "as set up beside now: restitution" in drop.bench.sentence.words.text()
    drop.session.preview.lay_beside(None)
    assert not drop.bench.trials.differs.isVisible()


def test_findings_are_told_on_both_pages_and_marked_on_the_stage(drop, qtbot):
    session = drop.session
    session.edit(with_numbers(session.case, {"bodies.orange.gravity_multiplier": 0.0}), "weightless")
    qtbot.waitUntil(lambda: any(f.about == "orange" for f in session.findings.found), timeout=20000)
    for work in ("tune", "build"):
        drop.show_work(work)
        qtbot.waitUntil(drop.bench.sentence.look.isVisible, timeout=5000)
        assert "to look at" in drop.bench.sentence.look.text()
    marked = drop.bench.stage.grab().toImage()
    session.findings.found = []
    drop.bench.stage.repaint()
    assert drop.bench.stage.grab().toImage() != marked


def test_an_outlier_is_crossed_on_its_curve(drop, qtbot):
    session = drop.session
    session.fits.start()
    qtbot.waitUntil(lambda: not session.fits.running, timeout=60000)
    track = session.case.tracks[0]
    z = list(track.samples.z)
    z[40] += 0.05
    samples = Samples(t=track.samples.t, x=track.samples.x, y=track.samples.y, z=tuple(z))
    session.edit(session.case.model_copy(update={"tracks": (track.model_copy(update={"samples": samples}),)}), "an outlier")
    plot = drop.bench.traces.plots[0]
    qtbot.waitUntil(lambda: plot.outliers.getData()[0] is not None and len(plot.outliers.getData()[0]) == 1, timeout=10000)
    assert plot.outliers.getData()[0][0] == pytest.approx(track.samples.t[40])


def test_the_sentence_tells_what_was_learned_and_the_fit_is_seen_to_fall(drop, qtbot):
    sentence = drop.bench.sentence
    falling = []
    drop.session.fit_progressed.connect(lambda _p: falling.append(list(sentence.curve.scores)))
    drop.session.fits.start()
    qtbot.waitUntil(lambda: not drop.session.fits.running, timeout=60000)
    assert falling
    assert all(np.all(np.diff(scores) <= 0) for scores in falling)
    qtbot.waitUntil(lambda: "are known" in sentence.words.text() or "is known" in sentence.words.text(), timeout=5000)
    assert sentence.copy.isVisible()


def dropped(window, path):
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton,
                                Qt.KeyboardModifier.NoModifier))


@pytest.mark.parametrize(("text", "kind"), [
    ("t,z\n" + "\n".join(f"{k / 50},{1 - 0.01 * k}" for k in range(20)), ImportDialog),
    ("drop height (cm),rebound (cm)\n" + "\n".join(f"{h},{0.4 * h}" for h in (40, 60, 80)), TableDialog)])
def test_a_file_that_is_dropped_is_brought_in_as_what_it_is(drop, qtbot, tmp_path, text, kind):
    path = tmp_path / "dropped.csv"
    path.write_text(text)
    dropped(drop, path)
    qtbot.waitUntil(lambda: any(d.isVisible() for d in drop.findChildren(kind)), timeout=10000)
    for dialog in drop.findChildren(QDialog):
        dialog.close()


def test_a_case_that_is_dropped_is_opened(window, qtbot, tmp_path):
    path = tmp_path / "one.yapa"
    path.write_bytes((DATA / "orange-wanted.yapa").read_bytes())
    dropped(window, path)
    qtbot.waitUntil(lambda: window.session.path == path, timeout=10000)


def test_the_window_is_as_it_was_left(qtbot, tmp_path):
    recovery = Recovery(tmp_path / "state")
    first = MainWindow(recovery)
    qtbot.addWidget(first)
    first.resize(1180, 760)
    first.show()
    qtbot.waitExposed(first)
    first.session.mark_clean()
    first.close()
    other = MainWindow(Recovery(tmp_path / "state"))
    qtbot.addWidget(other)
    other.show()
    qtbot.waitExposed(other)
    assert abs(other.width() - 1180) < 4
    Remembered(other, tmp_path / "state").keep([400, 200])
    assert Remembered(other, tmp_path / "state").split() == [400, 200]


def test_type_is_chosen_for_the_next_start(window, tmp_path, monkeypatch):
    for _ in range(2):
        window.run_command("Larger type")
    assert "1.3 times" in window.message.text()
    window.run_command("Smaller type")
    monkeypatch.delenv("YAPA_TYPE", raising=False)
    take_type(tmp_path / "state")
    assert os.environ["YAPA_TYPE"] == "1.15"
    monkeypatch.setenv("YAPA_TYPE", "2")
    take_type(tmp_path / "state")
    assert os.environ["YAPA_TYPE"] == "2"
