"""Ten everyday jobs from the start page to their end, by X events alone, with material of their own.

In the middle of each, what is kept safe for a window that is killed is the case as it stands.
"""

from __future__ import annotations

import subprocess
import sys
import textwrap

import numpy as np
import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton

from tests.desktop.by_hand import Builder
from tests.desktop.test_by_hand_tune import at_place, dialog_of, filled, fitted, new_from_track, write_track
from tests.hard.strange_tracks import bounces
from yapa.api import measure_motion
from yapa.case import Samples, Track, get_number
from yapa.desktop.app.main_window import MainWindow
from yapa.formats.case_json import case_text, parse_case
from yapa.session.recovery import Recovery

RADIUS = 0.03


def kept_safe(person):
    """A kill now would lose nothing: the file for it holds the case as it stands."""
    person.wait()
    recovery = person.window.recovery

    def same():
        if not recovery.file.exists():
            return False
        kept = Recovery.read(recovery.file).case
        return kept.model_copy(update={"trials": (), "scenes": {}}) == parse_case(case_text(
            person.case.without_files().model_copy(update={"trials": (), "scenes": {}})), "the case")

    person.qtbot.waitUntil(same, timeout=20000)


def value_of(case, quantity):
    return next(get_number(case, u.path) for u in case.unknowns if u.path.endswith(f".{quantity}"))


def choose(person, box, word):
    """Choose in a box of a dialog with the keys."""
    person.click(box)
    person._send("type", "--delay", "2", "--", word)
    person._send("key", "Return")
    assert box.currentText() == word


def drop(height, e, rate=60.0, seconds=1.5, seed=1, sigma=5e-4):
    """A ball that is dropped: times, and heights of its centre with noise."""
    t = np.arange(0.0, seconds, 1 / rate)
    return t, bounces(t, height, e) + RADIUS + np.random.default_rng(seed).normal(0, sigma, len(t))


def test_a_recording_of_a_phone_in_pixels_is_scaled_by_its_fall_laid_on_the_floor_fitted_and_its_values_copied(person, tmp_path):
    _, z = drop(0.8, 0.66)
    path = tmp_path / "phone.csv"
    rows = (f"{k + 31};{412 + 0.02 * k:.1f};{1040 - 600 * h:.1f}".replace(".", ",") for k, h in enumerate(z))
    path.write_text("\n".join(["frame;x [px];y [px]", *rows]) + "\n")
    form, _ = new_from_track(person, path)
    person.click(form.finds["friction"], QPoint(8, form.finds["friction"].height() // 2))
    person.click(form.thing.radius)
    person._send("key", "ctrl+a")
    person._send("type", str(RADIUS))
    person.type_into(form.rate, "60")
    assert form.isVisible()
    person.click(form.apart)
    person._send("key", "ctrl+a")
    person._send("type", "0.8")
    person.click(form.set_scale)
    dots = form.picture._paths[0][1]
    for place in (dots[np.argmin(dots[:, 1])], dots[np.argmax(dots[:, 1])]):
        person.click(form.picture, at_place(form.picture, *place))
    person.qtbot.waitUntil(lambda: bool(form.scale.text()), timeout=5000)
    person.click(form.set_floor)
    dots = form.picture._paths[0][1]
    person.click(form.picture, at_place(form.picture, *dots[np.argmin(dots[:, 1])]))
    person.click(form.done_button)
    filled(person)
    kept_safe(person)
    fitted(person)
    person.key("ctrl+shift+c")
    assert value_of(person.case, "restitution") == pytest.approx(0.66, abs=0.02)
    assert "restitution" in QApplication.clipboard().text()


def test_a_spreadsheet_of_bounces_is_fitted_and_says_how_high_the_next_one_goes(person, tmp_path):
    path = tmp_path / "bounces.csv"
    path.write_text("drop height [cm],rebound [cm]\n" + "".join(f"{h},{0.58**2 * h + d:.1f}\n" for h, d in (
        (40, 0.2), (60, -0.1), (80, 0.3), (100, -0.2), (120, 0.1))))
    person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    person.fill("at z", "1.05")
    person.press("give the default skin numbers of its own")
    person.tick("find restitution")
    person.answer("Bring a table of trials", str(path))
    person.key("ctrl+alt+i")
    dialog = dialog_of(person, "Bring a table of trials")
    person.type_into(dialog.arithmetic[0], '"drop height" + 5 cm')
    person.qtbot.waitUntil(lambda: person.case.table is not None, timeout=5000)
    kept_safe(person)
    fitted(person)
    assert value_of(person.case, "restitution") == pytest.approx(0.58, abs=0.01)
    person.fill("at z", "1.45")  # what no row was tried at
    found = measure_motion(person.window.session.preview.comparison.motion)["ball"]["apex 1"]
    assert found.value == pytest.approx(0.58**2 * 1.40, abs=0.02)


def test_three_tops_and_a_stopwatch_are_enough(person):
    person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    person.fill("at z", "1.05")
    person.press("give the default skin numbers of its own")
    person.tick("find restitution")
    person.answer("Noted by hand", "[Up]", "0.36, 0.13, 0.047", "", "1.8")
    person.key("n")
    person.qtbot.waitUntil(lambda: len(person.case.targets) == 4, timeout=20000)
    kept_safe(person)
    fitted(person)
    assert value_of(person.case, "restitution") == pytest.approx(0.6, abs=0.01)


def test_outcomes_alone_are_met(person):
    person.click(next(b for b in person.window.start.findChildren(QPushButton) if b.text() == "New from outcomes"))
    dialog = dialog_of(person, "New from outcomes")
    person.click(dialog.value)
    person._send("type", "45 cm")
    person.click(dialog.another)
    person.type_into(dialog.value, "0.2025")
    filled(person)
    kept_safe(person)
    fitted(person)
    assert len(person.case.targets) == 2
    assert all(report.met for report in person.window.session.preview.comparison.targets)


def test_a_scene_of_ten_pieces_is_put_together_saved_and_comes_back(person, qtbot, tmp_path):
    person.empty_scene()
    pieces = ("floor", "crate", "wall", "lane", "open bin", "ball", "can", "capsule", "plank", "wedge")
    for k, thing in enumerate(pieces):
        person.put(thing, 0.12 + 0.08 * k, 0.6)
    kept_safe(person)
    assert len(person.case.bodies) == len(pieces)
    person.save()
    other = MainWindow(Recovery(tmp_path / "other"), person.file)
    qtbot.addWidget(other, before_close_func=lambda w: w.session.mark_clean())
    other.show()
    qtbot.waitUntil(lambda: other.session.case is not None and other.session.jobs.idle, timeout=20000)
    assert case_text(other.session.case) == case_text(person.case)


def test_two_bodies_of_one_recording_are_two_things(person, tmp_path):
    t, a = drop(0.9, 0.7, seed=2)
    _, b = drop(0.6, 0.7, seed=3)
    path = tmp_path / "two.csv"
    rows = (f"{s:.4f},{name},{x:.3f},{h:.5f}" for s, p, q in zip(t, a, b, strict=True)
            for name, x, h in (("plum", 0.0, p), ("fig", 0.5, q)))
    path.write_text("\n".join(["t,body,x,z", *rows]) + "\n")
    form, _ = new_from_track(person, path)
    person.click(form.finds["friction"], QPoint(8, form.finds["friction"].height() // 2))
    person.type_into(form.thing.radius, str(RADIUS))
    filled(person)
    kept_safe(person)
    assert {"plum", "fig"} < set(person.case.bodies)
    fitted(person)
    assert value_of(person.case, "restitution") == pytest.approx(0.7, abs=0.01)


def test_a_wrong_unit_is_noticed_and_mended_before_there_is_a_case(person, tmp_path):
    t, z = drop(0.7, 0.6)
    path = write_track(tmp_path / "millimetres.csv", t, 0 * t, 1000 * z)
    form, _ = new_from_track(person, path)
    person.qtbot.waitUntil(lambda: "millimetres?" in form.wrong.text(), timeout=10000)
    choose(person, form.units[2], "mm")
    person.qtbot.waitUntil(lambda: not form.wrong.isVisible(), timeout=10000)
    person.click(form.finds["friction"], QPoint(8, form.finds["friction"].height() // 2))
    person.type_into(form.thing.radius, str(RADIUS))
    filled(person)
    kept_safe(person)
    fitted(person)
    assert value_of(person.case, "restitution") == pytest.approx(0.6, abs=0.01)


def test_a_fit_that_is_stopped_keeps_its_numbers(person, tmp_path):
    t, z = drop(1.0, 0.8, rate=480.0, seconds=6.0)
    form, _ = new_from_track(person, write_track(tmp_path / "long.csv", t, 0.3 * t, z))
    for name in ("drag_coefficient", "linear_damping", "rolling_resistance"):
        person.click(form.finds[name], QPoint(8, form.finds[name].height() // 2))
    person.type_into(form.thing.radius, str(RADIUS))
    filled(person)
    person.key("f")
    person.key("Escape")
    person.qtbot.waitUntil(lambda: not person.window.session.fits.running, timeout=60000)
    person.wait()
    kept_safe(person)
    assert person.case.trials[-1].source in ("stopped fit", "fit")
    kept = person.case.trials[-1].values
    assert all(get_number(person.case, path) == value for path, value in kept.items())


def test_a_case_of_a_colleague_with_a_missing_file_says_which_and_opens_once_it_is_there(person, tmp_path):
    t, z = drop(0.5, 0.5)
    track = write_track(tmp_path / "measured.csv", t, 0 * t, z)
    person.empty_scene()
    person.put("floor")
    person.put("ball", 0.5, 0.3)
    kept_safe(person)
    samples = Samples(t=tuple(t.tolist()), z=tuple(z.tolist()))
    case = person.case.model_copy(update={"title": "from a colleague", "trials": (), "scenes": {},
                                          "tracks": (Track(name="drop", body="ball", file="measured.csv", samples=samples),)})
    (tmp_path / "colleague.yapa").write_text(case_text(case))
    gone = track.rename(tmp_path / "elsewhere.csv")
    person.save()
    before = case_text(person.case)
    person.answer("Open a case", str(tmp_path / "colleague.yapa"))
    person.key("ctrl+o")
    person.qtbot.waitUntil(lambda: any("measured.csv" in words for words in person.window.troubles), timeout=10000)
    assert "no such file" in person.window.troubles[-1]
    assert case_text(person.case) == before
    gone.rename(tmp_path / "measured.csv")
    person.answer("Open a case", str(tmp_path / "colleague.yapa"))
    person.key("ctrl+o")
    person.qtbot.waitUntil(lambda: person.case.title == "from a colleague", timeout=20000)
    assert len(person.case.tracks[0].samples.t) == len(t)


KILLED = """
    import os, sys, time
    from pathlib import Path
    from tests.session.conftest import Ear, bouncing
    from yapa.session.desk import Desk
    from yapa.session.recovery import Recovery
    ear = Ear()
    desk = Desk(ear, Recovery(Path(sys.argv[1])), pause=0.02)
    desk.open_case(bouncing("half done"))
    ear.until(lambda: desk.jobs.idle)
    assert desk.set_number("gravity", 3.7)
    ear.until(lambda: desk.jobs.idle and desk.autosave.recovery.file.exists())
    time.sleep(0.5)
    os.kill(os.getpid(), 9)
"""


def test_work_of_a_window_that_was_killed_is_taken_up_on_the_start_page(qtbot, tmp_path):
    done = subprocess.run([sys.executable, "-c", textwrap.dedent(KILLED), str(tmp_path / "state")], capture_output=True, text=True,
                          check=False)
    assert done.returncode == -9, done.stderr
    window = MainWindow(Recovery(tmp_path / "state"))
    qtbot.addWidget(window, before_close_func=lambda w: w.session.mark_clean())
    window.show()
    qtbot.waitExposed(window)
    person = Builder(window, qtbot, tmp_path)
    person.click(next(b for b in window.start.findChildren(QPushButton) if b.text().startswith("Recover work")))
    qtbot.waitUntil(lambda: person.case is not None, timeout=20000)
    person.wait()
    assert person.case.title == "half done"
    assert get_number(person.case, "gravity") == 3.7
    assert not window.session.is_clean
    assert not [edit for edit in window.findChildren(QLineEdit) if edit.text() in ("nan", "inf")]
