"""The window, driven with mouse and keys as a person drives it."""

from __future__ import annotations

import threading
import time

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QPushButton, QSlider

from tests.desktop.conftest import settled
from yapa.case import Estimate, Target, get_number
from yapa.demo import DATA
from yapa.desktop.app.theme import DARK, LIGHT, theme
from yapa.desktop.bench.stage.camera import View, whole_scene
from yapa.desktop.bench.timeline.axis import to_pixel
from yapa.desktop.dialogs.bring_track import bring_track
from yapa.desktop.dialogs.new_from_outcomes import NewFromOutcomes
from yapa.desktop.dialogs.new_from_outcomes import open_dialog as new_from_outcomes
from yapa.desktop.dialogs.new_from_track import NewFromTrack, new_from_track
from yapa.desktop.dialogs.numbers import NumbersDialog, prefixes_of_body
from yapa.desktop.dialogs.target import TargetDialog
from yapa.desktop.widgets.number_text import fitting
from yapa.fitting import FitResult, Progress
from yapa.session.edits import (
    add_target,
    set_range,
)

RESTITUTION = "pairs.rind+pad.restitution"


def press(qtbot, window, key, modifier=Qt.KeyboardModifier.NoModifier):
    window.bench.stage.setFocus()
    qtbot.keyClick(window.bench.stage, key, modifier)


def drag_knob(qtbot, knob, shares, release=True):
    places = [QPoint(int(8 + (knob.width() - 16) * s), knob.height() // 2) for s in shares]
    qtbot.mousePress(knob, Qt.MouseButton.LeftButton, pos=places[0])
    for place in places[1:]:
        QApplication.sendEvent(knob, _move_event(place))
        qtbot.wait(15)
    if release:
        qtbot.mouseRelease(knob, Qt.MouseButton.LeftButton, pos=places[-1])


def _move_event(place):
    from PySide6.QtGui import QMouseEvent

    at = QPointF(place)
    return QMouseEvent(QEvent.Type.MouseMove, at, at, Qt.MouseButton.LeftButton, Qt.MouseButton.LeftButton,
                       Qt.KeyboardModifier.NoModifier)


def test_the_start_page_offers_the_demo_cases(window, qtbot):
    assert window.pages.currentWidget() is window.start
    assert len(window.start.cards) == 7
    qtbot.mouseClick(window.start.cards[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.session.preview.comparison is not None, timeout=20000)
    assert window.pages.currentWidget() is window.bench
    assert "Orange drop" in window.windowTitle()


def test_a_knob_held_moves_every_curve_and_let_go_makes_one_edit_and_one_trial(bench, qtbot):
    w = bench("orange-drop")
    session = w.session
    before = session.preview.comparison
    knob = w.bench.unknowns.rows[RESTITUTION].knob
    drag_knob(qtbot, knob, [0.55, 0.6, 0.65, 0.7], release=False)
    qtbot.waitUntil(lambda: session.preview.comparison is not before and bool(session.preview.values), timeout=5000)
    qtbot.wait(100)
    assert session.document.history.steps == 0
    assert session.preview.comparison.motion.states[-1, 0, 2] != before.motion.states[-1, 0, 2]
    line = w.bench.traces.plots[0].line.getData()[1]
    assert np.array_equal(line, session.preview.comparison.traces[0].y)
    place = QPoint(int(8 + (knob.width() - 16) * 0.7), knob.height() // 2)
    qtbot.mouseRelease(knob, Qt.MouseButton.LeftButton, pos=place)
    assert session.document.history.steps == 1
    assert get_number(session.case, RESTITUTION) == pytest.approx(0.3 + 0.7 * 0.65, abs=0.01)
    settled(qtbot, session)
    assert [t.name for t in session.case.trials] == ["as set up", "by hand"]
    drag_knob(qtbot, knob, [0.7, 0.5])
    settled(qtbot, session)
    assert [t.name for t in session.case.trials] == ["as set up", "by hand"]  # one trial until pinned or fitted


def test_fit_finds_the_numbers_and_says_so(bench, qtbot, truth):
    w = bench("orange-drop")
    press(qtbot, w, Qt.Key.Key_F)
    qtbot.waitUntil(lambda: not w.session.fits.running and w.session.fits.result is not None, timeout=30000)
    value = get_number(w.session.case, RESTITUTION)
    assert value == pytest.approx(truth["orange-drop"]["restitution"], abs=0.002)
    qtbot.waitUntil(lambda: "misfit 1.0" in w.bench.top.headline.text(), timeout=5000)
    assert w.bench.top.detail.text() == "as good as the noise"
    words = w.bench.sentence.words.text()
    assert "Restitution" in words
    assert "±" in words
    assert w.session.case.trials[-1].source == "fit"
    assert len(w.bench.filmstrip.cards) == 2
    qtbot.waitUntil(lambda: "±" in w.bench.unknowns.rows[RESTITUTION].note.text(), timeout=5000)  # in a turn to come


def test_what_explains_the_residuals_is_freed_by_one_click_and_one_undo(bench, qtbot):
    """The track's scale is 2% off: the fit says so and offers it."""
    w = bench("orange-drop")
    track = w.session.case.tracks[0]
    w.session.edit(w.session.case.model_copy(update={"tracks": (track.model_copy(update={"scale": 1.02}),)}), "another scale")
    press(qtbot, w, Qt.Key.Key_F)
    qtbot.waitUntil(lambda: not w.session.fits.running and w.session.fits.result is not None, timeout=30000)
    button, scale = w.bench.sentence.explain, f"tracks.{track.name}.scale"
    qtbot.waitUntil(button.isVisible, timeout=5000)
    assert button.text() == "Free the scale"
    assert "A scale of track of orange that is off by -2 ± " in w.bench.sentence.words.text()
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert scale in [u.path for u in w.session.case.unknowns]
    assert get_number(w.session.case, scale) == pytest.approx(1.0, abs=0.004)
    qtbot.waitUntil(lambda: scale in w.bench.unknowns.rows, timeout=5000)
    w.session.undo()
    assert scale not in [u.path for u in w.session.case.unknowns]


def test_keys_undo_and_redo(bench, qtbot):
    w = bench("orange-drop")
    cases = [w.session.case]
    for high in (0.98, 0.99):
        w.session.make(set_range(RESTITUTION, 0.1, high))
        cases.append(w.session.case)
    for want in reversed(cases[:-1]):
        press(qtbot, w, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert w.session.case is want
    for want in cases[1:]:
        press(qtbot, w, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        assert w.session.case is want


def test_the_fit_button_stops_a_fit_and_its_progress_is_told(bench, qtbot):
    told = threading.Event()

    def held(case, progress, cancel):
        progress(Progress("refining", 2.5, 17, {RESTITUTION: 0.71}, 0.3))
        told.set()
        while not cancel.is_set():
            time.sleep(0.001)
        return FitResult({RESTITUTION: Estimate(value=0.71, std=0.01)}, 1.5, 17, 0.1, "cancelled")

    w = bench("orange-drop")
    w.session.fits.fit = held
    qtbot.mouseClick(w.bench.top.fit, Qt.MouseButton.LeftButton)
    assert w.bench.top.fit.text() == "Stop"
    qtbot.waitUntil(lambda: told.is_set() and "refining" in w.bench.top.detail.text(), timeout=20000)
    qtbot.mouseClick(w.bench.top.fit, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not w.session.fits.running, timeout=20000)
    assert w.session.case.trials[-1].source == "stopped fit"
    assert w.bench.top.fit.text() == "Fit"


def test_a_trial_is_compared_with_a_click_and_restored_with_two(bench, qtbot):
    w = bench("orange-drop")
    w.session.set_number(RESTITUTION, 0.85)
    settled(qtbot, w.session)
    card = w.bench.filmstrip.cards[0]
    qtbot.mouseClick(card, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: w.session.preview.other is not None, timeout=10000)
    assert card.compared
    assert len(w.bench.traces.plots[0].compared.getData()[0]) > 10
    qtbot.mouseDClick(card, Qt.MouseButton.LeftButton)
    assert get_number(w.session.case, RESTITUTION) == pytest.approx(0.66)
    card.setFocus()
    qtbot.keyClick(card, Qt.Key.Key_P)
    assert w.session.case.trials[0].pinned


def test_play_pause_scrub_and_step(bench, qtbot):
    w = bench("orange-drop")
    press(qtbot, w, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: w.session.playback.time > 0.15, timeout=5000)
    press(qtbot, w, Qt.Key.Key_Space)
    here = w.session.playback.time
    qtbot.wait(150)
    assert w.session.playback.time == here
    w.bench.top.speed.setCurrentText("1/10×")
    press(qtbot, w, Qt.Key.Key_Space)
    qtbot.wait(300)
    press(qtbot, w, Qt.Key.Key_Space)
    assert 0 < w.session.playback.time - here < 0.1
    strip = w.bench.beats
    x = to_pixel(1.2, w.session.playback.span, strip.width())
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(x), 30))
    assert w.session.playback.time == pytest.approx(1.2, abs=0.01)
    assert w.bench.traces.plots[0].heads[0].value() == pytest.approx(w.session.playback.time)
    assert "1.2" in w.bench.top.clock.text()
    press(qtbot, w, Qt.Key.Key_Period)
    assert w.session.playback.time == pytest.approx(1.2 + 1 / 120, abs=0.01)
    press(qtbot, w, Qt.Key.Key_Home)
    assert w.session.playback.time == 0.0


def test_beats_and_traces_stand_on_one_time_axis(bench, qtbot):
    w = bench("orange-drop")
    plot = w.bench.traces.plots[0]
    for t in (0.0, 1.0, 2.4):
        scene = plot.main.getViewBox().mapViewToScene(QPointF(t, 0.5))
        there = plot.mapTo(w, plot.mapFromScene(scene)).x()
        here = w.bench.beats.mapTo(w, QPoint(round(to_pixel(t, (0.0, 2.4), w.bench.beats.width())), 0)).x()
        assert abs(there - here) <= 2


def test_a_broken_file_leaves_the_present_case_untouched(bench, qtbot, tmp_path):
    w = bench("orange-drop")
    case = w.session.case
    (tmp_path / "bad.yapa").write_text('{"format": "yapa", "version": 1, "bodies": {"b": 3}}')
    w.open_path(tmp_path / "bad.yapa")
    qtbot.waitUntil(lambda: bool(w.troubles), timeout=5000)
    assert "bodies.b" in w.message.text()
    (tmp_path / "bad.csv").write_bytes(bytes(range(256)))
    bring_track(w, tmp_path / "bad.csv")
    qtbot.waitUntil(lambda: len(w.troubles) == 2, timeout=5000)
    assert "bad.csv" in w.message.text()
    w.session.set_number("bodies.orange.mass", -1.0)
    assert len(w.troubles) == 3
    assert w.session.case is case


def test_what_was_said_of_a_case_goes_when_another_is_opened(bench, qtbot, tmp_path):
    w = bench("orange-drop")
    w.session.fits.start()
    qtbot.waitUntil(lambda: w.session.fits.result is not None, timeout=30000)
    qtbot.waitUntil(lambda: "simulations" in w.message.text(), timeout=5000)
    w.session.set_number("bodies.orange.mass", 0.3)
    assert "simulations" in w.message.text()  # an edit is no other case
    w.open_path(DATA / "crate-chute.yapa")
    qtbot.waitUntil(lambda: w.session.case.title != "" and "crate" in w.session.case.bodies, timeout=10000)
    assert "simulations" not in w.message.text()
    w.show_error("row 3: a number was expected\nsecond line")
    assert w.message.toolTip()
    w.open_path(DATA / "orange-drop.yapa")
    qtbot.waitUntil(lambda: "orange" in w.session.case.bodies, timeout=10000)
    assert "row 3" not in w.message.text()
    assert not w.message.toolTip()
    assert not w.message.styleSheet()


def test_a_new_case_from_a_track_is_ready_to_fit(window, qtbot):
    new_from_track(window, DATA / "orange-drop.csv")
    qtbot.waitUntil(lambda: bool(window.findChildren(NewFromTrack)), timeout=5000)
    (form,) = window.findChildren(NewFromTrack)
    assert window.session.case.bodies == {}
    assert window.bench.isVisible()
    qtbot.waitUntil(lambda: bool(window.session.tracks.shown), timeout=5000)  # on the stage, before anything is there
    assert len(window.session.tracks.shown[0].t) == 288
    assert form.finds["angular_velocity"].text() == "spin"  # the same plain word as on the bench
    form.thing.radius.setText("0.037")
    assert form.apart.text() == "0.074"
    form.thing.mass.setText("heavy")
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    assert form.isVisible()
    assert "mass" in form.wrong.text()
    form.thing.mass.setText("0.182")
    form.finds["drag_coefficient"].setChecked(True)
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.session.case.bodies != {}, timeout=5000)
    assert window.session.tracks.shown == []
    window.session.fits.start()
    qtbot.waitUntil(lambda: not window.session.fits.running, timeout=30000)
    assert 0.8 < window.session.fits.result.misfit < 1.2  # σ is estimated here


def test_a_broken_track_is_told_in_the_form(window, qtbot, tmp_path):
    (tmp_path / "bad.csv").write_text("t,x,y,z\n" + "".join(f"{k / 50},0,0,{'oops' if k == 7 else 1}\n" for k in range(20)))
    new_from_track(window, tmp_path / "bad.csv")
    qtbot.waitUntil(lambda: bool(window.findChildren(NewFromTrack)), timeout=5000)
    (form,) = window.findChildren(NewFromTrack)
    qtbot.waitUntil(lambda: "oops" in form.wrong.text(), timeout=5000)
    form.show_message("")
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "oops" in form.wrong.text(), timeout=5000)
    assert form.isVisible()
    assert window.session.case.bodies == {}
    form.reject()
    (tmp_path / "none.csv").write_bytes(b"\x00\x01\x02")
    new_from_track(window, tmp_path / "none.csv")
    qtbot.waitUntil(lambda: "none.csv" in window.message.text(), timeout=5000)


def test_a_new_case_from_outcomes_is_solved(window, qtbot):
    new_from_outcomes(window)
    (form,) = window.findChildren(NewFromOutcomes)
    form.value.setText("a lot")
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    assert "a number" in form.wrong.text()
    form.value.setText("50 cm")
    qtbot.mouseClick(form.another, Qt.MouseButton.LeftButton)
    form.value.setText("0.25")
    qtbot.mouseClick(form.another, Qt.MouseButton.LeftButton)
    assert [(t.index, t.value) for t in form.wanted] == [(1, 0.5), (2, 0.25)]
    qtbot.mouseClick(next(b for b in form.findChildren(QPushButton) if b.accessibleName() == "leave out apex 2"),
                     Qt.MouseButton.LeftButton)
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    assert [(t.index, t.value, t.tolerance) for t in window.session.case.targets] == [(1, 0.5, 0.01)]
    window.session.fits.start()
    qtbot.waitUntil(lambda: not window.session.fits.running, timeout=30000)
    qtbot.waitUntil(lambda: "1 of 1" in window.bench.top.headline.text(), timeout=5000)
    qtbot.waitUntil(lambda: "met" in window.bench.evidence.targets[0].now.text(), timeout=5000)


def test_a_new_case_that_is_called_off_goes_back_to_what_was_open(bench, qtbot):
    w = bench("orange-drop")
    w.show_work("build")
    before = w.session.document
    new_from_outcomes(w)
    (form,) = w.findChildren(NewFromOutcomes)
    assert w.session.case.bodies == {}
    form.reject()
    assert w.session.document is before
    assert (w.bench.work, w.pages.currentWidget()) == ("build", w.bench)
    settled(qtbot, w.session)
    new_from_outcomes(w)
    form = next(form for form in w.findChildren(NewFromOutcomes) if form.isVisible())
    w.session.edit(w.session.case.model_copy(update={"notes": "begun by hand meanwhile"}), "note")
    form.reject()
    assert w.session.case.notes == "begun by hand meanwhile"


def test_a_new_case_that_is_called_off_at_the_beginning_shows_the_start_page(window, qtbot):
    new_from_outcomes(window)
    (form,) = window.findChildren(NewFromOutcomes)
    assert window.pages.currentWidget() is window.bench
    qtbot.mouseClick(next(b for b in form.findChildren(QPushButton) if b.text() == "Cancel"), Qt.MouseButton.LeftButton)
    assert window.pages.currentWidget() is window.start


def test_a_target_is_asked_for_in_a_dialog(bench, qtbot):
    w = bench("orange-drop")
    form = TargetDialog(w, ["orange"])
    qtbot.addWidget(form)
    form.show()
    form.outcome.setCurrentText("apex")
    form.index.setValue(2)
    form.value.setText("0.42")
    form.tolerance.setText("0")
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    assert form.wrong.isVisible()
    form.tolerance.setText("0.01")
    qtbot.mouseClick(form.done_button, Qt.MouseButton.LeftButton)
    assert form.target == Target(outcome="apex", index=2, value=0.42, tolerance=0.01)
    w.session.make(add_target(form.target))
    qtbot.waitUntil(lambda: any("missed" in card.now.text() for card in w.bench.evidence.targets), timeout=5000)


def test_any_number_is_edited_with_its_unit_freed_and_locked(bench, qtbot):
    w = bench("orange-drop")
    form = NumbersDialog(w, w.session, "orange", prefixes_of_body(w.session, "orange"))
    qtbot.addWidget(form)
    form.show()
    edit = form.fields["bodies.orange.mass"]
    edit.setFocus()
    edit.selectAll()
    qtbot.keyClicks(edit, "0.25")
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    assert get_number(w.session.case, "bodies.orange.mass") == 0.25
    assert any(label.text() == "kg" for label in form.findChildren(QLabel))
    form.ticks["bodies.orange.velocity.x"].click()
    assert any(u.path == "bodies.orange.velocity.x" for u in w.session.case.unknowns)
    form.ticks["bodies.orange.velocity.x"].click()
    assert next(u for u in w.session.case.unknowns if u.path == "bodies.orange.velocity.x").fixed


def test_copy_values_gives_numbers_units_intervals_and_conditions(bench, qtbot):
    w = bench("orange-drop")
    w.session.fits.start()
    qtbot.waitUntil(lambda: not w.session.fits.running, timeout=30000)
    w.bench.unknowns.copy_values()
    text = QGuiApplication.clipboard().text()
    for piece in ("restitution · rind on pad", "±", "95%:", "gravity", "m/s²", "precise", "kg/m³"):
        assert piece in text


def test_measured_simulated_and_gap_stand_side_by_side(bench, qtbot):
    w = bench("orange-drop")
    table = w.bench.evidence.table
    rows = {table.item(r, 0).text(): [table.item(r, c).text() for c in (1, 2, 3)] for r in range(table.rowCount())}
    assert rows["apex 1"][0] == "0.751"
    assert float(rows["contact 1"][1]) == pytest.approx(0.53, abs=0.02)
    assert rows["apex 1"][2].startswith("−")
    assert "contact" in w.bench.top.detail.text()


def test_every_control_has_a_name_and_a_tooltip(bench, qtbot):
    w = bench("orange-throw")
    for kind in (QPushButton, QSlider, QComboBox):
        for control in w.bench.findChildren(kind):
            if control.isVisible():
                assert control.accessibleName() or control.text() if kind is QPushButton else control.accessibleName()
                assert control.toolTip(), control.accessibleName()
    for edit in w.bench.findChildren(QLineEdit):
        if edit.isVisible():
            assert edit.accessibleName()


def test_the_stage_shows_body_ghost_and_support(bench, qtbot):
    w = bench("orange-throw")
    w.session.playback.go_to(0.9)
    qtbot.wait(300)
    image = w.bench.stage.grab().toImage()
    seen = set()
    for x in range(0, image.width(), 1):
        for y in range(30, image.height(), 1):
            seen.add(image.pixelColor(x, y).name())
    t = theme()
    assert t.color("simulated").name() in seen
    assert t.color("measured").name() in seen
    x, y = w.bench.stage.view.project(w.session.preview.comparison.motion.trajectory("orange").position(np.array([0.9])),
                                      image.width(), image.height())[0]
    assert 0 < x < image.width()
    assert image.pixelColor(int(x), int(y)).name() != t.color("stage").name()


def test_the_view_turns_zooms_and_comes_home(bench, qtbot):
    w = bench("orange-throw")
    stage = w.bench.stage
    home = stage.view
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=QPoint(200, 150))
    QApplication.sendEvent(stage, _move_event(QPoint(260, 170)))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=QPoint(260, 170))
    assert stage.view.azimuth != 0
    qtbot.keyClick(stage, Qt.Key.Key_Plus)
    assert stage.view.half_height < home.half_height
    press(qtbot, w, Qt.Key.Key_W)
    qtbot.wait(200)
    assert stage.view.azimuth == pytest.approx(home.azimuth)


def test_a_view_projects_and_fits_what_it_must_show():
    view = View((0, 0, 0), 1.0)
    assert np.allclose(view.project(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1]]), 400, 200),
                       [[200, 100], [300, 100], [200, 0]])
    points = np.random.default_rng(0).uniform(-3, 5, (50, 3))
    whole = whole_scene(points, 0.1, 600, 300)
    pixels = whole.project(points, 600, 300)
    assert pixels[:, 0].min() > 0
    assert pixels[:, 0].max() < 600
    assert pixels[:, 1].min() > 0
    assert pixels[:, 1].max() < 300


def test_both_themes_have_readable_ink():
    def light(c):
        parts = [int(c[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        return sum(w * (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4)
                   for w, p in zip((0.2126, 0.7152, 0.0722), parts, strict=True))

    for t in (LIGHT, DARK):
        for role, least in (("ink", 7), ("soft", 4.5), ("simulated", 4.5), ("trouble", 4.5), ("measured", 3.2)):
            a, b = sorted((light(getattr(t, role)), light(t.card)))
            assert (b + 0.05) / (a + 0.05) >= least, (role, t)


def test_a_look_that_ends_after_closing_is_not_heard(bench, qtbot):
    w = bench("orange-drop")
    before = w.session.preview.comparison
    for k in range(4):
        w.session.preview.preview_value(RESTITUTION, 0.5 + 0.01 * k)  # one is under way, the newest waits
    w.session.mark_clean()
    w.close()
    qtbot.wait(300)  # an exception in the event loop would fail here
    assert not w.isVisible()
    assert w.session.preview.comparison is before


def test_a_scene_spread_in_depth_is_seen_from_above_and_a_planar_one_from_the_side(bench, qtbot):
    w = bench("sweeper-bar")
    qtbot.waitUntil(lambda: w.bench.stage.view.elevation > 0.1, timeout=20000)
    first = w.session.preview.comparison
    w.session.mark_clean()
    w.files.open_demo(DATA / "orange-drop.yapa")
    qtbot.waitUntil(lambda: w.session.preview.comparison is not first and w.bench.stage.view.elevation == 0.0, timeout=20000)


def test_every_kind_of_shape_is_drawn_as_it_collides(bench, qtbot):
    w = bench("sweeper-bar")
    picture = w.session.preview.comparison
    kinds = {shape.kind for body in picture.motion.bodies for shape in body.shapes}
    assert {"box", "cylinder", "hull", "plane"} <= kinds
    lemon = picture.motion.body("cut lemon").shapes[0]
    assert len(lemon.vertices) >= 20
    assert len(lemon.loops) >= 14
    image = w.bench.stage.grab().toImage()
    colors = {image.pixelColor(x, y).name() for x in range(0, image.width(), 4) for y in range(0, image.height(), 4)}
    assert len(colors) > 20  # shaded solids, not an empty sheet


@pytest.mark.parametrize(("value", "text"), [
    (-3.4921e-05, "-0.00003"), (123.456789, "123.4568"), (0.0, "0.000000"), (-96.99912345, "-96.9991"), (1234567890.0, "1.2e+09"),
    (1e-9, "1.0e-09"), (-0.5, "-0.50000"),
])
def test_a_number_fits_its_field(value, text):
    assert fitting(value) == text
    assert len(text) <= 8
    assert float(text) == pytest.approx(value, rel=0.2, abs=1e-12)
