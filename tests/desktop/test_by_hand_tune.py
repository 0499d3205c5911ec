"""Cases tuned by hand in the window, by X events alone: evidence brought in and made, outcomes pulled, fits looked at."""

from __future__ import annotations

import json

import numpy as np
import pytest
from benchmarks.apart.families import record
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication, QPushButton

from tests.desktop.by_hand import command, there_and_back
from tests.desktop.conftest import laid_out
from yapa.case import Body, Case, Plane, Sphere, get_number
from yapa.demo import DATA
from yapa.desktop.bench.timeline.axis import to_pixel
from yapa.engine import simulate
from yapa.formats.case_file import load_case
from yapa.formats.case_json import case_text


def dialog_of(person, title):
    """A dialog beside the window, once it is there."""
    def found():
        return [w for w in QApplication.topLevelWidgets() if w.windowTitle() == title and w.isVisible()]

    person.qtbot.waitUntil(lambda: bool(found()), timeout=10000)
    laid_out(person.qtbot, found()[0])
    return found()[0]


def fitted(person):
    """Press F and wait for the end."""
    before = sum(t.source == "fit" for t in person.case.trials)
    person.key("f")
    person.qtbot.waitUntil(lambda: sum(t.source == "fit" for t in person.case.trials) > before, timeout=60000)
    person.wait()


def handle_at(person, name):
    """The pixel of a handle on the stage."""
    stage = person.stage
    places = stage.handles.places(stage.view, stage.width(), stage.height())
    return next(at for h, at, _ in places if h.name == name).toPoint()


def at_place(picture, x, y):
    return picture.place_of(x, y).toPoint()


@pytest.fixture
def filmed(tmp_path):
    """A ball that falls and rebounds, filmed at 60 frames a second: 2 mm a pixel, rows from the top."""
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="rind"),), position=(0.4, 0.0, 0.85), mass=0.2)
    floor = Body(motion="static", shapes=(Plane(kind="plane", surface="lane"),))
    case = Case(title="filmed", bodies={"floor": floor, "ball": ball}, duration=1.6,
                surfaces={"rind": {"restitution": 0.72}, "lane": {"restitution": 0.72}})
    motion = simulate(case)
    t = np.arange(0.0, 1.6, 1 / 60)
    z = motion.trajectory("ball").position(t)[:, 2] + np.random.default_rng(3).normal(0, 5e-4, len(t))
    path = tmp_path / "filmed.csv"
    path.write_text("\n".join(["frame,x [px],y [px]", *(f"{k},{640 + 0.0:.1f},{700 - h / 0.002:.2f}" for k, h in enumerate(z))]))
    return path


def test_a_pixel_track_is_imported_scaled_laid_on_the_floor_and_fitted(person, qtbot, tmp_path, filmed):
    empty = person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    person.fill("radius", "5 cm")
    person.press("give the default skin numbers of its own")
    person.tick("find restitution")
    person.answer("Bring a track", str(filmed))
    person.key("ctrl+i")
    dialog = dialog_of(person, "Bring a track")
    person.type_into(dialog.rate, "60")
    person.type_into(dialog.apart, "0.8")
    person.click(dialog.set_scale)
    dots = dialog.picture._paths[0][1]
    low, high = dots[np.argmin(dots[:, 1])], dots[np.argmax(dots[:, 1])]
    person.click(dialog.picture, at_place(dialog.picture, *low))
    person.click(dialog.picture, at_place(dialog.picture, *high))
    qtbot.waitUntil(lambda: bool(dialog.scale.text()), timeout=5000)
    person.click(dialog.set_floor)
    person.click(dialog.picture, at_place(dialog.picture, *dialog.picture._paths[0][1][np.argmin(dots[:, 1])]))
    person.click(dialog.done_button)
    qtbot.waitUntil(lambda: len(person.case.tracks) == 1, timeout=5000)
    person.wait()
    off = person.window.bench.sentence.look
    qtbot.waitUntil(off.isVisible, timeout=10000)
    person.click(off)
    why = dialog_of(person, "What may be wrong")

    def mends():
        return [b for b in why.findChildren(QPushButton) if "to its track" in b.text() and b.isVisible()]

    qtbot.waitUntil(lambda: bool(mends()), timeout=10000)
    laid_out(qtbot, why)
    mend = mends()[0]
    person.click(mend)
    person.wait()
    person.click(why.close_button)
    person.tick("find at z")
    fitted(person)
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    track = person.case.tracks[0]
    assert track.import_settings.pixel_size == pytest.approx(0.002, rel=0.02)
    path = next(u.path for u in person.case.unknowns if u.path.endswith("restitution"))
    assert get_number(person.case, path) == pytest.approx(0.72, abs=0.02)
    command("fit", person.file, "--save", tmp_path / "again.yapa")
    again = load_case(tmp_path / "again.yapa")[0]
    assert get_number(again, path) == pytest.approx(0.72, abs=0.02)


def test_the_second_apex_is_pulled_to_42_cm_while_the_first_is_held(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    person.fill("at z", "1.05")
    person.press("give the default skin numbers of its own")
    person.fill("restitution", "0.8")
    person.tick("find restitution")
    person.tick("find at z")
    person.key("ctrl+2")
    person.wait()
    first = next(h for h in person.window.session.preview.comparison.handles if h.name == "ball apex 1").target.value
    at = handle_at(person, "ball apex 1")
    person.drag(person.stage, at, at, keys=("ctrl",))  # noted where it is
    qtbot.waitUntil(lambda: len(person.case.targets) == 1, timeout=5000)
    person.wait()
    at = handle_at(person, "ball apex 2")
    second = next(h for h in person.window.session.preview.comparison.handles if h.name == "ball apex 2").target.value
    up = round(person.stage.view.pixels(0.42 - second, person.stage.height()))
    person.drag(person.stage, at, at - QPoint(0, up))
    qtbot.waitUntil(lambda: len(person.case.targets) == 2, timeout=10000)
    person.wait()
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 15
    command("measure", person.file, "--all", "--json", tmp_path / "out.json")
    found = json.loads((tmp_path / "out.json").read_text())["outcomes"]["ball"]
    assert found["apex 2"]["value"] == pytest.approx(0.42, abs=0.005)
    assert found["apex 1"]["value"] == pytest.approx(first, abs=0.01)


def test_marks_and_a_stopwatch_by_hand_from_a_playing_demo_are_fitted(person, qtbot, tmp_path):
    person.click(person.window.start.cards[0])
    qtbot.waitUntil(lambda: person.case is not None and bool(person.case.trials), timeout=20000)
    person.wait()
    begun = case_text(person.case)
    person.press("remove track of orange")
    session = person.window.session
    motion = session.preview.comparison.motion
    times = [c.time for c in motion.contacts_of("orange")][:2]
    person.click(person.window.bench.top.play)
    for time in times:
        qtbot.waitUntil(lambda time=time: session.playback.time >= time, timeout=10000)
        person.key("b")
    person.click(person.window.bench.top.play)
    qtbot.waitUntil(lambda: len(session.notes.taps) == 2, timeout=5000)
    person.press("taps are contacts")
    person.key("m")
    for time, height in ((0.3, 0.98), (0.9, 0.75)):
        strip = person.window.bench.beats
        person.click(strip, QPoint(round(to_pixel(time, session.playback.span, strip.width())), 20))
        person.wait()
        person.click(person.stage, person.at(0.0, 0.0, height))
    person.key("Escape")
    person.wait()
    assert [t.outcome for t in person.case.targets] == ["bounce time", "bounce time", "z", "z"] or (
        [t.outcome for t in person.case.targets] == ["bounce time", "bounce time", "x", "z", "x", "z"])
    fitted(person)
    person.save()
    assert there_and_back(person, begun, qtbot, tmp_path) <= 25
    command("measure", person.file, "--all", "--json", tmp_path / "out.json")
    height = simulate(load_case(person.file)[0]).trajectory("orange").position(np.array([0.9]))[0, 2]
    assert height == pytest.approx(0.75, abs=0.06)


def test_a_table_of_twelve_rebounds_is_brought_in_and_fitted(person, qtbot, tmp_path):
    rows = [f"{h},{0.62**2 * h + d:.2f}" for h in (40, 60, 80, 100) for d in (-0.4, 0.1, 0.3)]
    path = tmp_path / "rebounds.csv"
    path.write_text("\n".join(["drop height (cm),rebound (cm)", *rows]))
    empty = person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    person.fill("radius", "5 cm")
    person.fill("at z", "1.05")
    person.press("give the default skin numbers of its own")
    person.tick("find restitution")
    person.answer("Bring a table of trials", str(path))
    person.key("ctrl+alt+i")
    dialog = dialog_of(person, "Bring a table of trials")
    person.type_into(dialog.arithmetic[0], '"drop height" + 5 cm')
    qtbot.waitUntil(lambda: person.case.table is not None, timeout=5000)
    person.wait()
    fitted(person)
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 20
    assert person.case.table.rows == 12
    path = next(u.path for u in person.case.unknowns if u.path.endswith("restitution"))
    command("fit", person.file, "--save", tmp_path / "again.yapa")
    assert get_number(load_case(tmp_path / "again.yapa")[0], path) == pytest.approx(0.62, abs=0.01)
    assert get_number(person.case, path) == pytest.approx(0.62, abs=0.01)


def test_the_third_bounce_is_made_30_cm_from_the_start_page(person, qtbot, tmp_path):
    person.click(next(b for b in person.window.start.findChildren(QPushButton) if b.text() == "New from outcomes"))
    dialog = dialog_of(person, "New from outcomes")
    begun = empty(person)
    person.click(dialog.index, QPoint(12, dialog.index.height() // 2))
    person._send("key", "ctrl+a")
    person._send("type", "3")
    person.type_into(dialog.value, "30 cm")
    filled(person)
    fitted(person)
    person.save()
    assert there_and_back(person, begun, qtbot, tmp_path) <= 12
    command("measure", person.file, "--all", "--json", tmp_path / "out.json")
    found = json.loads((tmp_path / "out.json").read_text())["outcomes"]["body"]
    assert found["apex 3"]["value"] == pytest.approx(0.30, abs=0.006)


def write_track(path, t, x, z):
    path.write_text("\n".join(["t,x,z", *(f"{a:.5f},{b:.6f},{c:.6f}" for a, b, c in zip(t, x, z, strict=True))]))
    return path


def new_from_track(person, path):
    """The form of a new case from a track, with its file."""
    person.answer("Choose a track", str(path))
    person.click(next(b for b in person.window.start.findChildren(QPushButton) if b.text() == "New from a track"))
    form = dialog_of(person, "New from a track")
    laid_out(person.qtbot, form)
    return form, empty(person)


def another_take(person, path, sigma=""):
    """Bring a file in as another take."""
    count = len(person.case.tracks)
    person.answer("Bring a track", str(path))
    person.key("ctrl+i")
    dialog = dialog_of(person, "Bring a track")
    person.click(dialog.as_take, QPoint(8, dialog.as_take.height() // 2))
    if sigma:
        person.click(dialog.sigma)
        person._send("type", sigma)
    person.click(dialog.done_button)
    person.qtbot.waitUntil(lambda: len(person.case.tracks) == count + 1, timeout=5000)
    person.wait()


def empty(person):
    """The empty scene under a form, once it is known."""
    person.qtbot.waitUntil(lambda: person.case is not None and bool(person.case.trials), timeout=20000)
    assert person.case.bodies == {}
    return case_text(person.case)


def filled(person):
    """Wait for what a form fills the empty scene with, until it is known."""
    person.qtbot.waitUntil(lambda: bool(person.case.bodies) and bool(person.case.trials), timeout=20000)
    person.wait()


def test_two_takes_are_fitted_and_the_wrong_scale_of_one_is_named_and_freed(person, qtbot, tmp_path):
    orange = load_case(DATA / "orange-drop.yapa")[0]
    motion = simulate(orange)
    t = np.arange(0.0, 2.0, 1 / 120)
    z = motion.trajectory("orange").position(t)[:, 2]
    noise = np.random.default_rng(5).normal(0, 1e-3, (2, len(t)))
    files = [write_track(tmp_path / f"take-{k}.csv", t, 0 * t, scale * (z + n)) for k, (scale, n) in
             enumerate(zip((1.0, 1.02), noise, strict=True), start=1)]
    form, begun = new_from_track(person, files[0])
    person.click(form.finds["friction"], QPoint(8, form.finds["friction"].height() // 2))
    person.click(form.finds["drag_coefficient"])
    person.type_into(form.thing.radius, "0.037")
    filled(person)
    another_take(person, files[1])
    fitted(person)
    free = person.window.bench.sentence.explain
    qtbot.waitUntil(free.isVisible, timeout=5000)
    assert "scale of" in person.window.bench.sentence.words.text()
    person.click(free)
    person.wait()
    fitted(person)
    person.save()
    assert there_and_back(person, begun, qtbot, tmp_path) <= 25
    scale = next(u.path for u in person.case.unknowns if u.path.endswith(".scale"))
    command("fit", person.file, "--save", tmp_path / "again.yapa")
    assert get_number(load_case(tmp_path / "again.yapa")[0], scale) == pytest.approx(1 / 1.02, abs=2e-3)
    assert "take 2" in person.window.bench.evidence._track_cards[person.case.tracks[1].name]._words.text()


def test_two_takes_are_fitted_and_the_runner_up_is_looked_at(person, qtbot, tmp_path):
    """A block that slides up a chute and stops: it stays, or creeps back."""
    recorded = record("chute", 4792, {"rate": 30.0, "sigma": 2e-3, "noise": "white", "flaw": "none", "told": True})
    x, z = recorded.places["block"].T
    path = write_track(tmp_path / "chute.csv", recorded.t, x, z)
    form, begun = new_from_track(person, path)
    person.click(form.thing.shape)
    person._send("type", "box")
    person._send("key", "Return")
    person.click(form.support)
    person._send("key", "Down")
    person._send("key", "Return")
    person.click(form.finds["restitution"])
    person.click(form.sigma)
    person._send("type", "0.002")
    person.type_into(form.angle, f"{recorded.scene['slope']:.6f}")
    filled(person)
    another_take(person, path, "0.002")
    fitted(person)
    session, sentence = person.window.session, person.window.bench.sentence
    qtbot.waitUntil(sentence.runner_up.isVisible, timeout=5000)
    found = dict(session.preview.comparison.values)
    person.click(sentence.runner_up)
    person.wait()
    assert sentence.words.text().startswith("runner-up: friction")
    assert session.preview.comparison.values != found
    person.click(sentence.runner_up)
    person.wait()
    assert session.preview.comparison.values == pytest.approx(found)
    person.save()
    assert there_and_back(person, begun, qtbot, tmp_path) <= 25
