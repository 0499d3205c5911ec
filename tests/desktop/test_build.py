"""Building in the real window: from an empty scene by the mouse and the keys, each gesture one step."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QMenu, QPushButton, QWidget

from tests.desktop.conftest import laid_out, settled
from yapa.case import NaturalRoll, Target
from yapa.desktop.bench.builder.sketches import FILLED, LINES
from yapa.desktop.bench.stage.remedies import RemedyCard
from yapa.desktop.bench.stage.typed import TypedField
from yapa.desktop.dialogs.copies import Copies
from yapa.desktop.dialogs.copy_physics import CopyPhysics, open_dialog
from yapa.errors import InputError
from yapa.formats.case_json import case_text
from yapa.session.building import arranging
from yapa.session.building.scene_edits import launch, move_body, put_in
from yapa.session.building.stock import STOCK, thing_named

LEFT, RIGHT, MIDDLE = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton


@pytest.fixture
def build(window, qtbot):
    """A window with an empty scene, opened by its button on the start page."""
    button = next(b for b in window.start.findChildren(QPushButton) if b.text() == "Empty scene")
    qtbot.mouseClick(button, LEFT)
    qtbot.waitUntil(lambda: window.session.preview.comparison is not None, timeout=20000)
    ready(qtbot, window)
    assert window.bench.work == "build"
    return window


def ready(qtbot, window):
    settled(qtbot, window.session)
    laid_out(qtbot, window)
    qtbot.waitUntil(lambda: not window.bench.stage._timer.isActive(), timeout=5000)


def tile(window, name):
    return next(t for t in window.bench.stock.tiles if t.thing.name == name)


def pixel_of(window, name):
    """Where a body is on the stage."""
    stage, motion = window.bench.stage, window.session.preview.comparison.motion
    x, y = stage.to_pixels(stage.states(motion)[motion.names.index(name)][:3][None])[0]
    return QPoint(round(x), round(y))


def drag(widget, start, end, button=LEFT, keys=Qt.KeyboardModifier.NoModifier):
    QTest.mousePress(widget, button, keys, start)
    for k in range(1, 9):
        at = start + (end - start) * (k / 8)
        QTest.mouseMove(widget, at)
        move = QPointF(at)
        event = QMouseEvent(QMouseEvent.Type.MouseMove, move, widget.mapToGlobal(move), button, button, keys)
        QApplication.sendEvent(widget, event)
    QTest.mouseRelease(widget, button, keys, end)


def put(qtbot, window, name):
    """By the keys: Enter on its tile."""
    tile(window, name).setFocus()
    qtbot.keyClick(tile(window, name), Qt.Key.Key_Return)
    ready(qtbot, window)


def field(window, name):
    return next(f for f in window.bench.card.findChildren(QLineEdit) if f.accessibleName() == name and f.isVisible())


def type_into(qtbot, window, name, text):
    edit = field(window, name)
    qtbot.mouseClick(edit, LEFT)
    edit.selectAll()
    qtbot.keyClicks(edit, text)
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    ready(qtbot, window)


def test_every_thing_of_the_stock_has_a_sketch_and_can_be_put_in_by_enter(build, qtbot):
    assert {thing.name for thing in STOCK} == {"ball", "can", "capsule"} | set(FILLED) | set(LINES)
    for thing in STOCK:
        put(qtbot, build, thing.name)
    assert len(build.session.case.bodies) == len(STOCK)
    assert list(build.bench.scene.rows) == list(build.session.case.bodies)
    assert build.bench.stage.hasFocus()


def test_a_thing_is_dragged_onto_the_stage_and_stands_there(build, qtbot):
    put(qtbot, build, "floor")
    crate, stage = tile(build, "crate"), build.bench.stage
    stage.look_from(-0.5, 0.5)
    ready(qtbot, build)
    middle = QPoint(stage.width() // 2 + 60, stage.height() // 2 + 80)
    there = crate.mapFromGlobal(stage.mapToGlobal(middle))
    drag(crate, crate.rect().center(), there)
    ready(qtbot, build)
    body = build.session.case.bodies["crate"]
    assert body.position[2] == pytest.approx(0.1, abs=1e-9)
    ray = stage.hand.ray(QPointF(middle))
    aimed = ray.at_plane(np.zeros(3), np.array([0.0, 0, 1.0]))
    assert body.position[:2] == pytest.approx(aimed[:2], abs=stage.hand.step)
    drag(crate, crate.rect().center(), QPoint(-40, 500))  # let go beside the stage
    ready(qtbot, build)
    assert list(build.session.case.bodies) == ["floor", "crate"]


def test_a_body_is_selected_dragged_thrown_and_every_gesture_is_one_step(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    stage.show_whole_scene()
    ready(qtbot, build)
    session.builder.select([])
    at, pixel = pixel_of(build, "ball"), stage.hand.pixel
    qtbot.mouseClick(stage, LEFT, pos=at)
    assert session.builder.selected == ["ball"]
    steps = session.document.history.steps
    drag(stage, at, at + QPoint(90, -120), keys=Qt.KeyboardModifier.AltModifier)
    ready(qtbot, build)
    assert session.document.history.steps == steps + 1
    place = session.case.bodies["ball"].position
    assert place[2] == pytest.approx(0.05 + 120 * pixel, abs=stage.hand.step)
    assert (pixel_of(build, "ball") - (at + QPoint(90, -120))).manhattanLength() < 30
    tip = next(tip for grip, tip, _ in stage.hand.grips() if grip.name == "launch")
    drag(stage, tip.toPoint(), tip.toPoint() + QPoint(80, -40))
    ready(qtbot, build)
    v = session.case.bodies["ball"].velocity
    assert v[0] > 0.0
    assert v[2] > 0.0
    assert session.document.history.steps == steps + 2
    session.undo()
    session.undo()
    ready(qtbot, build)
    assert session.case.bodies["ball"].position[2] == pytest.approx(0.05)


def test_the_empty_stage_turns_selects_by_rectangle_shifts_and_zooms_at_the_pointer(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    corner = QPoint(20, 60)
    before = stage.view
    drag(stage, corner, corner + QPoint(60, 0))
    assert stage.view.azimuth != before.azimuth
    stage.show_whole_scene()
    ready(qtbot, build)
    drag(stage, corner, QPoint(stage.width() - 10, stage.height() - 10), keys=Qt.KeyboardModifier.ShiftModifier)
    assert session.builder.selected == ["ball", "ball 2"]
    before = stage.view
    drag(stage, corner, corner + QPoint(50, 20), MIDDLE)
    assert stage.view.centre != before.centre
    assert stage.view.azimuth == before.azimuth
    at = QPointF(200.0, 150.0)
    fixed = stage.hand.ray(at).origin
    near = stage.view.zoomed_at(0.5, at.x(), at.y(), stage.width(), stage.height())
    stage._view = near
    right, up, _ = near.axes()
    moved = stage.hand.ray(at).origin - fixed
    assert abs(moved @ right) < 1e-9
    assert abs(moved @ up) < 1e-9


def test_without_a_mouse_bodies_are_walked_moved_and_taken_out(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    session.builder.select([])
    stage.setFocus()
    qtbot.keyClick(stage, Qt.Key.Key_Tab)
    first = session.builder.body
    for _ in stage.hand.grips():
        qtbot.keyClick(stage, Qt.Key.Key_Tab)
        assert session.builder.body == first
        assert session.builder.grip is not None
    qtbot.keyClick(stage, Qt.Key.Key_Tab)
    assert {first, session.builder.body} == {"floor", "ball"}
    session.builder.select(["ball"])
    x = session.case.bodies["ball"].position[0]
    for _ in range(3):
        qtbot.keyClick(stage, Qt.Key.Key_Right)
    ready(qtbot, build)
    assert session.case.bodies["ball"].position[0] == pytest.approx(x + 3 * stage.hand.step)
    qtbot.keyClick(stage, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(stage, Qt.Key.Key_Delete)
    ready(qtbot, build)
    assert list(session.case.bodies) == ["floor"]


def test_the_card_edits_names_kinds_units_and_skins(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    session = build.session
    type_into(qtbot, build, "at z", "80 cm")
    assert session.case["bodies.ball.position.z"] == 0.8
    type_into(qtbot, build, "at z", "+5 cm")
    assert session.case["bodies.ball.position.z"] == pytest.approx(0.85)
    type_into(qtbot, build, "name", "orange")
    assert session.builder.body == "orange"
    for text, way in (("angles", "angles"), ("own angles", "angles"), ("x, y, z", "parts")):
        qtbot.mouseClick(next(b for b in build.bench.card.findChildren(QPushButton) if b.accessibleName() == text), LEFT)
        ready(qtbot, build)
        assert (type(session.case.bodies["orange"].velocity).__name__ == "LaunchAngles") == (way == "angles")
    type_into(qtbot, build, "friction on default", "0.8")
    assert session.case.pairs[0].friction == 0.8
    skin = next(b for b in build.bench.card.findChildren(QComboBox) if b.accessibleName() == "skin" and b.isVisible())
    skin.lineEdit().selectAll()
    qtbot.keyClicks(skin.lineEdit(), "rind")
    qtbot.keyClick(skin.lineEdit(), Qt.Key.Key_Return)
    ready(qtbot, build)
    assert session.case.bodies["orange"].shapes[0].surface == "rind"
    qtbot.mouseClick(next(b for b in build.bench.card.findChildren(QPushButton) if b.accessibleName() == "fixed"), LEFT)
    ready(qtbot, build)
    assert session.case.bodies["orange"].motion == "static"


def test_whatever_rolls_is_set_to_roll_on_whatever_is_flat(build, qtbot):
    for name in ("floor", "crate", "capsule"):
        put(qtbot, build, name)
    rolls = next(box for box in build.bench.card.findChildren(QComboBox) if box.accessibleName() == "rolls on")
    assert [rolls.itemText(k) for k in range(rolls.count())] == ["free spin", "floor", "crate"]
    rolls.setFocus()
    qtbot.keyClick(rolls, Qt.Key.Key_Down)
    ready(qtbot, build)
    assert build.session.case.bodies["capsule"].angular_velocity == NaturalRoll(rolling_on="floor")


def test_nonsense_in_a_field_is_said_and_changes_nothing(build, qtbot):
    put(qtbot, build, "ball")
    before = case_text(build.session.case)
    type_into(qtbot, build, "at z", "3 kg")
    assert "the unit 'kg'" in build.message.text()
    assert case_text(build.session.case) == before
    assert field(build, "at z").text() == "0.05"


def test_an_ask_on_the_stage_writes_a_target(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage = build.bench.stage
    stage.look_from(-0.5, 0.6)
    ready(qtbot, build)
    qtbot.mouseClick(stage, RIGHT, pos=pixel_of(build, "ball") + QPoint(90, 30))
    menu = next(m for m in build.findChildren(QMenu) if m.isVisible())
    lands = next(a for a in menu.actions() if "land here" in a.text())
    qtbot.mouseClick(menu, LEFT, pos=menu.actionGeometry(lands).center())
    ready(qtbot, build)
    assert [t.outcome for t in build.session.case.targets] == ["landing x", "landing y"]


def test_build_and_tune_share_the_stage_the_time_axis_and_the_trials(bench, qtbot):
    w = bench("sweeper-bar")
    stage = w.bench.stage
    assert w.bench.work == "tune"
    qtbot.mouseClick(w.bench.top.pages["build"], LEFT)
    laid_out(qtbot, w)
    assert (w.bench.stage is stage, w.bench.work) == (True, "build")
    assert not w.bench.traces.isVisible()
    assert w.bench.beats.isVisible()
    assert stage.width() >= 720
    assert stage.height() >= 600
    qtbot.keyClick(w, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    laid_out(qtbot, w)
    assert w.bench.work == "tune"
    assert w.bench.traces.isVisible()


def test_everything_on_the_build_page_has_a_name_and_a_tooltip(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    kinds = (QPushButton, QLineEdit, QComboBox)
    told = [w for w in build.bench.findChildren(QWidget) if isinstance(w, kinds) and w.isVisible()]
    nameless = [w for w in told if not w.accessibleName() and not isinstance(w.parentWidget(), QComboBox)]
    assert [w.objectName() or type(w).__name__ for w in nameless if w is not build.bench.top.fit] == []
    assert [w.accessibleName() for w in told if not w.toolTip() and not isinstance(w.parentWidget(), QComboBox)] == []


def test_a_file_that_was_saved_is_opened_again_from_the_start_page(build, qtbot, tmp_path):
    put(qtbot, build, "ball")
    build.session.saver.save(tmp_path / "one ball.yapa")
    settled(qtbot, build.session)
    build.show_page("start")

    def again():
        return [b for b in build.start.findChildren(QPushButton) if b.accessibleName() == "recent one ball"]

    qtbot.waitUntil(lambda: bool(again()), timeout=5000)
    before = build.session.opened
    qtbot.mouseClick(again()[0], LEFT)
    qtbot.waitUntil(lambda: build.session.opened != before, timeout=5000)
    ready(qtbot, build)
    assert list(build.session.case.bodies) == ["ball"]


def test_copies_are_put_in_by_a_form(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    form = Copies(build, "ball", 0)
    form.counts.setText("3, 1, 1")
    form.steps.setText("15 cm, 0, 0")
    form.take()
    build.session.builder.edit(form.edit)
    ready(qtbot, build)
    assert [b.position[0] for n, b in build.session.case.bodies.items() if n != "floor"] == pytest.approx([0.0, 0.15, 0.3])
    form.way.setCurrentText("scattered")
    assert form.count.isVisibleTo(form)
    assert not form.counts.isVisibleTo(form)
    form.low.setText("0, 0")
    form.done_button.click()
    assert "three numbers" in form.wrong.text()
    form.deleteLater()


def test_the_card_follows_the_case_and_a_button_edits_what_stands_there_now(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    ball = build.session.case.bodies["ball"]

    def weight():
        return next(w.text() for w in build.bench.card.findChildren(QLabel) if w.text().startswith("comes to") and w.isVisible())

    first = weight()
    type_into(qtbot, build, "radius", "10 cm")
    assert weight() != first
    type_into(qtbot, build, "at x", "0.4")
    button = next(b for b in build.bench.card.findChildren(QPushButton) if b.accessibleName() == "give its mass instead")
    qtbot.mouseClick(button, LEFT)
    ready(qtbot, build)
    now = build.session.case.bodies["ball"]
    assert (now.position[0], now.shapes[0].radius, now.density) == (0.4, 0.1, None)
    assert now.mass == pytest.approx(950 * 4 / 3 * np.pi * 0.1**3, rel=1e-5)
    assert ball.density == 950.0


def test_alt_puts_a_thing_upright_onto_a_slope(build, qtbot):
    stage = build.bench.stage
    stage.look_from(-0.5, 0.6)
    put(qtbot, build, "slope")
    place = stage.mapToGlobal(QPointF(pixel_of(build, "slope")))
    build.bench.stock.dropped.emit("crate", place, True)
    build.bench.stock.dropped.emit("can", place, False)
    ready(qtbot, build)
    assert build.session.case.bodies["crate"].orientation == (1.0, 0.0, 0.0, 0.0)
    assert build.session.case.bodies["can"].orientation != (1.0, 0.0, 0.0, 0.0)


def grip(stage, name):
    """Where a grip is on the stage."""
    return next(tip.toPoint() for grip, tip, _ in stage.hand.grips() if grip.name == name)


def test_grips_size_turn_and_lift_and_the_number_of_one_is_typed(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "crate")
    stage, session = build.bench.stage, build.session
    stage.show_whole_scene()
    ready(qtbot, build)
    stage.hand.hover(QPointF(grip(stage, "lift")))
    assert stage.hand.hovered_grip == "lift"
    drag(stage, grip(stage, "length"), grip(stage, "length") + QPoint(60, 0))
    ready(qtbot, build)
    crate = session.case.bodies["crate"]
    assert crate.shapes[0].size[0] > 0.3
    assert crate.position[0] - crate.shapes[0].size[0] / 2 == pytest.approx(-0.15, abs=1e-9)
    drag(stage, grip(stage, "lift"), grip(stage, "lift") - QPoint(0, 90))
    ready(qtbot, build)
    assert session.case.bodies["crate"].position[2] > 0.2
    drag(stage, grip(stage, "turn"), grip(stage, "turn") - QPoint(0, 60))
    ready(qtbot, build)
    assert session.case["bodies.crate.tilt.y"] > 0.05
    session.builder.grip = "length"
    qtbot.keyClick(stage, Qt.Key.Key_Return)
    field = stage.findChild(TypedField)
    assert field.accessibleName() == "length [m]"
    qtbot.keyClicks(field, "25 cm")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    ready(qtbot, build)
    assert session.case.bodies["crate"].shapes[0].size[0] == pytest.approx(0.25)
    qtbot.keyClick(stage, Qt.Key.Key_Return)
    qtbot.keyClick(stage.findChildren(TypedField)[-1], Qt.Key.Key_Escape)
    assert session.case.bodies["crate"].shapes[0].size[0] == pytest.approx(0.25)


def test_later_the_start_is_an_outline_and_a_drag_wants_a_passage(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    stage.show_whole_scene()
    session.playback.go_to(0.5)
    ready(qtbot, build)
    at = pixel_of(build, "ball")
    drag(stage, at, at + QPoint(70, -60))
    ready(qtbot, build)
    assert [(t.outcome, t.time) for t in session.case.targets] == [("x", 0.5), ("y", 0.5), ("z", 0.5)]
    assert session.case.bodies["ball"].position[0] == pytest.approx(0.0)


def test_a_trail_is_hidden_behind_a_body_and_what_still_moves_lengthens_the_clip(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    session.builder.edit(launch("ball", (0.6, 0.0, 0.0)))
    session.builder.edit(put_in(thing_named("crate"), "crate", np.array([0.3, -0.4, 0.0]), np.array([0.0, 0.0, 1.0])))
    ready(qtbot, build)
    stage.show_whole_scene()
    ready(qtbot, build)
    stage.look_from(0.0, 0.0)
    ready(qtbot, build)
    qtbot.wait(300)
    behind, beside = np.array([[0.3, 0.0, 0.05]]), np.array([[0.75, 0.0, 0.05]])
    assert not stage.sees(behind)[0]
    assert stage.sees(beside)[0]
    session.builder.select(["crate"])
    session.builder.hide(True)
    ready(qtbot, build)
    qtbot.wait(300)
    assert stage.sees(behind)[0]
    motion = session.preview.comparison.motion
    (_, _, tip), = [end for end in stage.trails.going_on(motion) if end[0] == "ball"]
    was = session.case.duration
    stage.hand.hover(tip)
    assert stage.hand.over_end
    stage.grab()
    qtbot.mouseClick(stage, LEFT, pos=tip.toPoint())
    ready(qtbot, build)
    assert session.case.duration == 2 * was


def test_where_chance_decides_is_said_and_many_bodies_show_the_trails_of_those_selected(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    session.builder.edit(move_body("ball", np.array([0.0, 0.0, 0.6])))
    ready(qtbot, build)
    assert stage.trails.names(session.preview.comparison.motion) == ["ball"]
    qtbot.waitUntil(lambda: session.preview.chance is not None, timeout=20000)
    session.preview.chance = {"ball": 0.2}
    stage.update()
    before = stage.grab().toImage()
    session.preview.chance = {}
    assert stage.grab().toImage() != before
    session.edit(session.case.model_copy(update={"duration": 0.2}), "a short clip")
    session.builder.edit(arranging.scatter("ball", 31, (-4, -4, 0.1), (4, 4, 2.0), 3))
    ready(qtbot, build)
    session.builder.select(["ball 3"])
    assert stage.trails.names(session.preview.comparison.motion) == ["ball 3"]


def test_the_scene_is_seen_through_its_camera_and_the_card_has_its_numbers(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    stage.look_through_camera()  # there is none: said, nothing else
    stage.look_from(-0.5, 0.4)
    ready(qtbot, build)
    stage.shot.put()
    stage.look_through_camera()
    ready(qtbot, build)
    assert stage.shot.seen() == session.case.cameras["shot"]
    qtbot.wait(300)
    stage.grab()
    place = np.array([[0.1, 0.2, 0.05]])
    x, y = stage.to_pixels(place)[0]
    ray = stage.hand.ray(QPointF(x, y))
    off = place[0] - ray.origin
    assert np.linalg.norm(off - (off @ ray.direction) * ray.direction) < 1e-9
    assert stage.sees(np.array([[0.0, 0.0, 0.11]]))[0]
    assert not stage.sees(np.array([[0.0, 0.0, 0.0]]) - 0.04 * stage.view.axes()[2])[0]
    session.builder.select([])
    laid_out(qtbot, build)
    field = next(f for f in build.bench.findChildren(QLineEdit) if f.accessibleName() == "lens [mm] of shot")
    qtbot.mouseClick(field, LEFT)
    field.selectAll()
    qtbot.keyClicks(field, "50")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.case.cameras["shot"].focal_length == pytest.approx(0.05)
    stage.look_from(0.0, 0.0)
    assert stage.shot.seen() is None


def test_what_would_do_it_stands_on_the_stage_is_seen_under_the_pointer_and_set_by_a_click(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    session.builder.edit(move_body("ball", np.array([0.0, 0.0, 0.5])))
    session.builder.edit(launch("ball", (1.0, 0.0, 0.0)))
    session.builder.ask([Target(outcome="landing", index=1, body="ball", value=0.5, tolerance=0.005)])
    qtbot.waitUntil(lambda: bool(session.remedies.found), timeout=20000)
    card = stage.findChild(RemedyCard)
    qtbot.waitUntil(card.isVisible, timeout=5000)
    line = card.findChildren(QPushButton)[0]
    line.setFocus()
    qtbot.waitUntil(lambda: session.preview.values != {}, timeout=5000)
    qtbot.mouseClick(line, LEFT)
    ready(qtbot, build)
    assert session.preview.comparison.targets[0].met
    qtbot.waitUntil(lambda: not card.isVisible(), timeout=5000)


def test_physics_are_copied_as_ticked(build, qtbot):
    put(qtbot, build, "crate")
    put(qtbot, build, "ball")
    session = build.session
    session.builder.edit(launch("crate", (1.0, 0.0, 0.0)))
    dialog = CopyPhysics(build, "crate", ["ball"])
    dialog.take()
    assert dialog.what == ["mass", "surface", "damping"]
    for tick in dialog.ticks.values():
        tick.setChecked(False)
    with pytest.raises(InputError, match="one part or more"):
        dialog.take()
    session.builder.select(["crate"])
    open_dialog(build)  # one body: said, nothing else
    session.builder.select(["crate", "ball"])
    QTimer.singleShot(200, lambda: QApplication.activeModalWidget().done_button.click())
    open_dialog(build)
    assert session.case.bodies["ball"].density == 300.0
    assert session.case.bodies["ball"].velocity == (0.0, 0.0, 0.0)


def test_groups_stand_in_the_list_and_select_their_bodies(build, qtbot):
    put(qtbot, build, "crate")
    put(qtbot, build, "ball")
    session = build.session
    session.builder.select(["crate", "ball"])
    session.builder.group()
    laid_out(qtbot, build)
    session.builder.select([])
    select = next(b for b in build.bench.findChildren(QPushButton) if b.accessibleName() == "select group group")
    qtbot.mouseClick(select, LEFT)
    assert session.builder.selected == ["crate", "ball"]
    name = next(f for f in build.bench.findChildren(QLineEdit) if f.accessibleName() == "name of group group")
    name.setFocus()
    name.selectAll()
    qtbot.keyClicks(name, "load")
    qtbot.keyClick(name, Qt.Key.Key_Return)
    assert list(session.case.groups) == ["load"]


def test_a_ring_is_pulled_and_a_box_to_end_in_is_drawn_and_lifted(build, qtbot):
    put(qtbot, build, "floor")
    put(qtbot, build, "ball")
    stage, session = build.bench.stage, build.session
    session.builder.edit(move_body("ball", np.array([0.0, 0.0, 0.6])))
    ready(qtbot, build)
    stage.look_from(-0.5, 0.5)
    stage.show_whole_scene()
    ready(qtbot, build)
    point = (0.3, 0.0, 0.3)
    session.builder.ask([Target(outcome="miss", body="ball", point=point, condition="at most", value=0.08, tolerance=0.02)])
    ready(qtbot, build)
    session.builder.select([])
    x, y = stage.to_pixels(np.array([point]))[0]
    edge = QPoint(round(x + 0.08 / stage.hand.pixel), round(y))
    drag(stage, edge, edge + QPoint(40, 0))
    assert session.case.targets[0].value == pytest.approx(0.08 + 40 * stage.hand.pixel, abs=4 * stage.hand.pixel)
    stage.hand.wishes.draw_box("ball")
    qtbot.keyClick(stage, Qt.Key.Key_Escape)
    assert not stage.hand.wishes.held
    stage.hand.wishes.draw_box("ball")
    a, b = (QPoint(*(round(c) for c in stage.to_pixels(np.array([p]))[0])) for p in ((-0.3, -0.3, 0.0), (0.3, 0.3, 0.0)))
    drag(stage, a, b)
    assert stage.hand.wishes.held
    top = b - QPoint(0, 130)
    move = QMouseEvent(QMouseEvent.Type.MouseMove, QPointF(top), QPointF(stage.mapToGlobal(top)), Qt.MouseButton.NoButton,
                       Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(stage, move)
    stage.grab()
    qtbot.mouseClick(stage, LEFT, pos=top)
    ready(qtbot, build)
    target = session.case.targets[-1]
    assert target.outcome == "wholly inside"
    assert target.region[0] == pytest.approx((-0.3, -0.3, 0.0), abs=2 * stage.hand.step)
    assert target.region[1][:2] == pytest.approx((0.3, 0.3), abs=2 * stage.hand.step)
    assert target.region[1][2] > 0.02
    assert session.preview.comparison.targets[-1].met
