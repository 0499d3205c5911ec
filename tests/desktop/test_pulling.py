"""Pulling on the stage, and the other ways to what should happen, with the mouse and with the keys."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QPushButton

from yapa.case import Target, get_number, label_of
from yapa.desktop.bench.timeline.axis import to_pixel
from yapa.outcomes import read
from yapa.session.drag import with_wish
from yapa.session.edits import add_target, free, lock
from yapa.session.pull_words import pull_words

E = "pairs.rind+pad.restitution"


def place_of(stage, name):
    return next(at for h, at, _ in stage.handles.places(stage.view, stage.width(), stage.height()) if h.name == name)


def pressed(qtbot, stage, name):
    at = place_of(stage, name)
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=at.toPoint())
    return at


def moved(qtbot, stage, at, up, steps=8):
    for k in range(1, steps + 1):
        to = QPointF(at.x(), at.y() - up * k / steps)
        stage.handles.drag(to, stage.view, stage.height())
        qtbot.wait(30)
    qtbot.waitUntil(lambda: stage.drag.frame is not None and stage.drag.frame.reached and not stage.drag._busy, timeout=5000)


@pytest.fixture
def drop(bench, qtbot):
    w = bench("orange-drop")
    qtbot.waitUntil(lambda: len(w.session.preview.comparison.handles) > 2, timeout=5000)
    return w


def test_an_apex_pulled_on_the_stage_takes_the_curve_with_it_and_letting_go_is_one_edit(drop, qtbot):
    session, stage = drop.session, drop.bench.stage
    before, steps = session.case, session.document.history.steps
    start = read(session.preview.comparison.motion, "apex", "orange", 2).value
    at = pressed(qtbot, stage, "orange apex 2")
    assert stage.drag.pulling
    moved(qtbot, stage, at, 40)
    now = read(session.preview.comparison.motion, "apex", "orange", 2).value
    assert now == pytest.approx(stage.drag.wanted, abs=1e-3)
    assert now > start + 0.02
    assert session.case is before  # nothing is kept while it is held
    assert place_of(stage, "orange apex 2").y() == pytest.approx(at.y() - 40, abs=3)
    wanted = stage.drag.wanted
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.case is not before, timeout=5000)
    assert session.document.history.steps == steps + 1
    wish = next(t for t in session.case.targets if t.outcome == "apex" and t.index == 2)
    assert wish.value == pytest.approx(wanted, abs=wish.tolerance / 10)
    assert len(repr(wish.value)) <= 7  # the digits its tolerance can tell, not seventeen
    assert get_number(session.case, E) > get_number(before, E)
    qtbot.waitUntil(lambda: session.case.trials[-1].source == "by hand", timeout=5000)
    session.undo()
    assert session.case is before


def test_esc_puts_back_what_was_pulled(drop, qtbot):
    session, stage = drop.session, drop.bench.stage
    before = session.case
    start = read(session.preview.comparison.motion, "apex", "orange", 1).value
    at = pressed(qtbot, stage, "orange apex 1")
    moved(qtbot, stage, at, 25)
    stage.setFocus()
    qtbot.keyClick(stage, Qt.Key.Key_Escape)
    assert not stage.drag.pulling
    now = lambda: read(session.preview.comparison.motion, "apex", "orange", 1).value  # noqa: E731
    qtbot.waitUntil(lambda: now() == pytest.approx(start, abs=1e-9), timeout=5000)
    assert session.case is before
    assert not session.preview.values


def test_the_keys_pull_as_the_mouse_does(drop, qtbot):
    session, stage = drop.session, drop.bench.stage
    before = session.case
    stage.next_handle()
    assert stage.handles.chosen == "orange apex 1"
    start = read(session.preview.comparison.motion, "apex", "orange", 1).value
    for _ in range(3):
        qtbot.keyClick(stage, Qt.Key.Key_Up)
    assert stage.drag.wanted == pytest.approx(start + 0.03, abs=1e-6)
    qtbot.keyClick(stage, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: session.case is not before, timeout=5000)
    assert next(t for t in session.case.targets if t.outcome == "apex").value == pytest.approx(start + 0.03, abs=5e-4)


def test_what_is_out_of_reach_is_said_on_the_stage_and_everything_locked_is_refused(drop, qtbot):
    session, stage = drop.session, drop.bench.stage
    for unknown in session.case.unknowns:
        session.make(lock(unknown.path, unknown.path != E))
    qtbot.waitUntil(lambda: session.preview.comparison is not None and len(session.preview.comparison.handles) > 2, timeout=5000)
    handle = next(h for h in session.preview.comparison.handles if h.name == "orange apex 1")
    assert stage.drag.begin(handle)
    stage.drag.to(9.0)
    qtbot.waitUntil(lambda: stage.drag.frame is not None and not stage.drag._busy, timeout=8000)
    assert not stage.drag.frame.reached
    assert stage.drag.frame.gap[0] < -1
    stage.drag.put_back()
    session.make(lock(E, True))
    told = []
    session.error.connect(told.append)
    assert not stage.drag.begin(handle)
    assert "every number is locked" in told[0]


@pytest.fixture
def held(drop, qtbot):
    """The first apex is asked for as it is; only the restitution is free."""
    session = drop.session
    value = next(h for h in session.preview.comparison.handles if h.name == "orange apex 1").target.value
    session.make(add_target(Target(outcome="apex", index=1, body="orange", value=value, tolerance=0.004)))
    for unknown in session.case.unknowns:
        session.make(lock(unknown.path, unknown.path != E))
    qtbot.waitUntil(lambda: session.jobs.idle and len(session.preview.comparison.targets) == 1, timeout=10000)
    return drop


def button_of(qtbot, window, name):
    def found():
        return [b for b in window.findChildren(QPushButton) if b.accessibleName() == name and b.isVisible()]

    qtbot.waitUntil(lambda: bool(found()), timeout=5000)
    return found()[0]


def test_what_was_met_holds_the_pull_is_named_and_let_go_by_a_click(held, qtbot):
    session, stage = held.session, held.bench.stage
    before = session.case
    at = pressed(qtbot, stage, "orange apex 2")
    for k in range(1, 7):
        stage.handles.drag(QPointF(at.x(), at.y() - 6 * k), stage.view, stage.height())
        qtbot.waitUntil(lambda: not stage.drag._busy, timeout=5000)
    assert any("held by orange apex 1" in line for line in pull_words(stage.drag, stage.drag.handle))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: stage.drag.stuck, timeout=5000)
    assert session.case is before
    qtbot.mouseClick(button_of(qtbot, held, "let go of orange apex 1"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: stage.drag.frame.reached and not stage.drag._busy, timeout=5000)
    stage.setFocus()
    qtbot.keyClick(stage, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: session.case is not before, timeout=5000)
    assert len(session.case.targets) == 2
    session.undo()
    assert session.case is before


def test_a_stuck_pull_is_kept_or_put_back_by_its_buttons(held, qtbot):
    session, stage = held.session, held.bench.stage
    before = session.case
    for name in ("put back", "keep it so"):
        at = pressed(qtbot, stage, "orange apex 2")
        stage.handles.drag(QPointF(at.x(), at.y() - 40), stage.view, stage.height())
        qtbot.waitUntil(lambda: stage.drag.frame is not None and not stage.drag._busy, timeout=5000)
        qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: stage.drag.stuck, timeout=5000)
        qtbot.mouseClick(button_of(qtbot, held, name), Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: not stage.drag.pulling, timeout=5000)
        assert (session.case is before) == (name == "put back")
    assert all(report.met for report in session.preview.comparison.targets)


def test_an_apex_is_pulled_on_its_curve_and_a_contact_along_the_time_axis(drop, qtbot):
    session = drop.session
    before = session.case
    plot = next(p for p in drop.bench.traces.plots if p._handles)
    handle = plot._handles[0]
    at = plot.mapFromScene(plot.main.getViewBox().mapViewToScene(QPointF(handle.time, handle.level)))
    view = plot.viewport()
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=at)
    assert session.drag.pulling
    qtbot.mouseMove(view, at - QPoint(0, 6))
    qtbot.waitUntil(lambda: session.drag.frame is not None and session.drag.wanted > handle.target.value, timeout=5000)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=at - QPoint(0, 6))
    qtbot.waitUntil(lambda: session.case is not before, timeout=5000)
    assert session.case.targets[-1].value > handle.target.value
    session.undo()
    qtbot.waitUntil(lambda: session.jobs.idle, timeout=10000)
    strip = drop.bench.beats
    time = next(h for h in session.preview.comparison.handles if h.in_time and h.target.index == 2)
    x = round(to_pixel(time.time, session.playback.span, strip.width()))
    qtbot.mousePress(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, 30))
    assert not session.drag.pulling  # a click goes to its moment
    qtbot.mouseMove(strip, QPoint(x + 8, 30))
    qtbot.waitUntil(lambda: session.drag.frame is not None and session.drag.wanted > time.target.value, timeout=5000)
    assert strip.grab().toImage() is not None
    qtbot.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=QPoint(x + 8, 30))
    qtbot.waitUntil(lambda: session.case is not before, timeout=5000)
    assert session.case.targets[-1].outcome == "bounce time"


def test_where_nothing_is_free_three_numbers_are_offered_on_the_stage(drop, qtbot):
    session, stage = drop.session, drop.bench.stage
    for unknown in session.case.unknowns:
        session.make(lock(unknown.path, True))
    qtbot.waitUntil(lambda: session.jobs.idle, timeout=10000)
    pressed(qtbot, stage, "orange apex 2")
    qtbot.waitUntil(lambda: len(session.drag.offers) == 3, timeout=10000)
    qtbot.mouseClick(button_of(qtbot, drop, f"free {label_of(E)}"), Qt.MouseButton.LeftButton)
    assert not next(u for u in session.case.unknowns if u.path == E).fixed
    assert session.drag.offers == []


def test_a_pull_replaces_the_wish_for_the_same_outcome_and_keeps_its_tolerance(drop):
    case = drop.session.case
    old = Target(outcome="apex", index=2, value=0.4, tolerance=0.02)
    other = Target(outcome="apex", index=1, value=0.7, tolerance=0.01)
    wished = with_wish(case.model_copy(update={"targets": (other, old)}), Target(outcome="apex", index=2, body="orange", value=0.4),
                       0.5012345678)
    assert wished[0] is other
    assert (wished[1].value, wished[1].tolerance) == (0.501, 0.02)


def test_other_ways_are_listed_looked_at_and_used(bench, qtbot):
    w = bench("orange-wanted")
    session = w.session
    session.make(free("bodies.orange.velocity.z"))
    before = session.case
    w.run_command("Other ways…")
    dialog = w.dialogs["solutions"]
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=60000)
    assert dialog.cards
    assert all(card.solution.met for card in dialog.cards)
    qtbot.mouseClick(dialog.cards[0].look, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: all(t.met for t in session.preview.comparison.targets), timeout=10000)
    assert session.case is before
    qtbot.mouseClick(dialog.cards[0].use, Qt.MouseButton.LeftButton)
    assert session.case is not before
    assert get_number(session.case, E) == pytest.approx(dialog.cards[0].solution.values[E])
    session.undo()
    assert session.case is before


def test_a_search_for_other_ways_can_be_stopped_and_closing_puts_back_what_was_looked_at(bench, qtbot):
    w = bench("orange-wanted")
    session = w.session
    w.run_command("Other ways…")
    dialog = w.dialogs["solutions"]
    qtbot.mouseClick(dialog.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=20000)
    assert dialog.found.stopped in ("cancelled", "converged")
    session.preview.values = {E: 0.9}
    dialog.close()
    assert not session.preview.values


def test_nothing_wanted_has_no_other_ways_and_says_so(drop):
    drop.run_command("Other ways…")
    assert "say what should happen first" in drop.message.text()


def test_a_case_with_takes_is_fitted_over_all_of_them(bench, qtbot):
    from yapa.case import Take, Track

    w = bench("orange-drop")
    session = w.session
    track = session.case.tracks[0]
    again = Track(name="again", body=track.body, sigma=track.sigma, samples=track.samples)
    takes = (Take(name="one", tracks=(track.name,), free_per_take=("bodies.orange.position.z",)),
             Take(name="two", tracks=("again",), free_per_take=("bodies.orange.position.z",)))
    session.edit(session.case.model_copy(update={"tracks": (track, again), "takes": takes}), "two takes")
    session.fits.start()
    qtbot.waitUntil(lambda: not session.fits.running, timeout=60000)
    assert set(session.fits.result.own) == {"one", "two"}
    assert "bodies.orange.position.z" in session.case.takes[1].values


def test_what_was_noted_by_hand_becomes_evidence_and_what_cannot_be_read_is_said(drop, qtbot):
    from yapa.desktop.dialogs.manual_evidence import NoteDialog
    from yapa.errors import InputError

    dialog = NoteDialog(drop, drop.session.case)
    qtbot.addWidget(dialog)
    assert dialog.trial.currentText() == "none"
    with pytest.raises(InputError, match="nothing"):
        dialog.take()
    dialog.apexes.setText("high")
    with pytest.raises(InputError, match="numbers with commas"):
        dialog.take()
    dialog.apexes.setText("0.74; 0.41")
    dialog.rest.setText("3.4")
    dialog.formulas["z"].setText("1.4 - g * t^2 / 2")
    dialog.take()
    assert len(dialog.after.targets) == len(drop.session.case.targets) + 3
    theory = dialog.after.tracks[-1]
    assert theory.name == "theory"
    assert theory.samples.x is None
    assert theory.samples.z[60] == pytest.approx(1.4 - 9.80665 / 8, abs=1e-6)
    dialog.formulas["z"].setText("height + 1")
    with pytest.raises(InputError, match="arithmetic of t and g"):
        dialog.take()
    dialog.formulas["z"].setText("")
    dialog.trial.setCurrentIndex(1)
    dialog.take()
    assert dialog.after.tracks[-1].name.startswith("as set up of orange")
