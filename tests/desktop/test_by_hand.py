"""Scenes put together by a person: from an empty scene, by X events alone, saved, undone, redone, opened and saved again."""

from __future__ import annotations

import json
from math import pi, radians, tan

import pytest
from PySide6.QtCore import QPoint

from tests.desktop import xinput
from tests.desktop.by_hand import command, measured, there_and_back
from tests.desktop.xinput import NotOurDisplay, Person, check_display
from yapa.formats.case_json import case_text


def test_x_events_go_only_to_a_display_of_the_test_run(monkeypatch):
    check_display()
    monkeypatch.setenv("DISPLAY", ":0")
    with pytest.raises(NotOurDisplay, match="tests' own"):
        Person().key("a")
    monkeypatch.undo()
    monkeypatch.setenv(xinput.PROPERTY, f"{xinput.os.environ['DISPLAY']} 00")
    with pytest.raises(NotOurDisplay, match="token"):
        check_display()


def test_an_orange_on_a_tilted_floor_between_two_walls_that_do_not_bounce(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.fill("turned, y", "1.5")
    person.put("wall", 0.75)
    person.fill("at x", "0.6")
    person.choose_skin("foam")
    person.put("wall", 0.25)
    person.fill("at x", "-0.6")
    person.choose_skin("foam")
    person.put("ball")
    person.fill("name", "orange")
    person.fill("restitution on foam", "0")
    person.click(person.window.bench.stage, QPoint(30, 60))
    person.key("Escape")
    person.wait()
    person.fill("clip length [s]", "6")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    command("measure", person.file, "--all", "--json", tmp_path / "out.json")
    orange = json.loads((tmp_path / "out.json").read_text())["outcomes"]["orange"]
    # the wall stands flush on the floor, leaning by 1.5°: at the height of the orange it is that much nearer
    assert orange["x"]["value"] == pytest.approx(0.6 - 0.02 - 0.05 - 0.35 * tan(radians(1.5)), abs=0.002)
    assert orange["rest time"]["value"] is not None


def test_the_same_without_a_mouse(person, qtbot, tmp_path):
    person.key("ctrl+alt+n")
    qtbot.waitUntil(lambda: person.case is not None and person.window.session.preview.comparison is not None, timeout=20000)
    person.wait()
    empty = case_text(person.case)
    person.find("floor")
    person.find("turned, y")
    person.type_here("1.5")
    person.find("ball")
    person.key("F2")
    person.type_here("orange")
    person.find("wall")  # it stands to the right of the orange
    person.find("skin")
    person.type_here("foam")
    person.find("restitution on default")
    person.type_here("0")
    person.key("ctrl+k")
    person.wait()
    person.key("Return")  # the place of the copy
    person.type_here("-0.3, 0, 0.4")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    right = person.case.bodies["wall"].position[0]
    assert right > person.case.bodies["orange"].position[0] > -0.3
    orange = measured(person, tmp_path)["orange"]
    assert orange["x"]["value"] == pytest.approx(right - 0.02 - 0.05, abs=0.003)
    assert sorted(person.case.bodies) == ["floor", "orange", "wall", "wall 2"]
    assert {person.case.bodies[name].shapes[0].surface for name in ("wall", "wall 2")} == {"foam"}


def test_the_friction_at_which_a_crate_sticks_on_a_plank_at_25_degrees(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.key("4")  # at an angle
    person.wait()
    person.put("slope", 0.5, 0.6)
    person.fill("turned, y", "25")
    person.put("crate", onto="slope")
    person.choose_skin("wood")
    person.fill("restitution on default", "0")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    crate = person.case.bodies["crate"]
    assert crate.orientation == pytest.approx(person.case.bodies["slope"].orientation, abs=1e-6)
    command("threshold", person.file, "--number", "surfaces.wood.friction=0.05..0.9", "--target", "crate travel at most 1 mm",
            "--smallest", "--json", tmp_path / "out.json")
    found = json.loads((tmp_path / "out.json").read_text())["value"]
    assert 0.5 * (found + 0.5) == pytest.approx(0.4663, abs=0.003)  # the mean with the default skin's 0.5 is tan 25°


def test_a_lemon_knocks_a_kumquat_off_a_post(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("can")
    person.press("fixed")
    person.fill("name", "post")
    person.put("ball", onto="post")
    person.fill("name", "kumquat")
    person.fill("radius", "2.5 cm")
    person.fill("at z", "0.145")
    person.put("ball", 0.25, 0.5)
    person.fill("name", "lemon")
    person.fill("at z", "0.15")
    person.fill("along x", "3")
    person.ask(person.on("kumquat"), "lemon: hit kumquat")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    out = measured(person, tmp_path)
    assert out["kumquat"]["z"]["value"] == pytest.approx(0.025, abs=0.003)  # on the floor
    assert [t.outcome for t in person.case.targets] == ["hit"]


def test_fifteen_fruit_of_random_size_in_a_closed_box_keep_their_energy(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("closed box")
    person.put("ball")
    person.fill("name", "fruit")
    person.fill("at y", "0")
    person.fill("at z", "0.5")
    person.press("give the default skin numbers of its own")
    person.fill("restitution", "1")
    person.fill("friction", "0")
    person.answer("Copies of fruit", "[Down]", "14", "-0.4, -0.4, 0.1", "0.4, 0.4, 0.9", "0.6, 1.4", "11")
    person.key("ctrl+alt+k")
    person.wait()
    person.nothing()
    person.fill("clip length [s]", "10")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    fruit = [name for name in person.case.bodies if name.startswith("fruit")]
    assert len(fruit) == 15
    assert len({person.case.bodies[name].shapes[0].radius for name in fruit}) == 15
    out = measured(person, tmp_path)
    for name in fruit:
        r = person.case.bodies[name].shapes[0].radius
        for axis, low, high in (("x", -0.5, 0.5), ("y", -0.5, 0.5), ("z", 0.02, 1.02)):
            assert low + r - 1e-3 <= out[name][axis]["value"] <= high - r + 1e-3
    command("measure", person.file, "--balance", "--json", tmp_path / "book.json")
    book = json.loads((tmp_path / "book.json").read_text())["book"]
    mass = {name: 950 * 4 / 3 * pi * person.case.bodies[name].shapes[0].radius ** 3 for name in fruit}
    start = sum(mass[name] * 9.80665 * person.case.bodies[name].position[2] for name in fruit)
    # every contact's book: what the two that meet have after it, less before
    lost = sum(contact["energy_change"] for name in fruit for contact in book[name]["contacts"] if contact["body"] == name)
    assert 1 + lost / start >= 0.999


def test_a_bar_of_limited_force_pushes_two_crates_into_a_corner(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("wall", 0.8)
    person.fill("at x", "1")
    person.put("wall", 0.6)
    person.fill("turned, z", "90")
    person.fill("at x", "0.5")
    person.fill("at y", "0.5")
    person.put("crate", 0.5)
    person.fill("at x", "0.3")
    person.fill("at y", "0.2")
    person.put("crate", 0.5)
    person.fill("at x", "0.65")
    person.fill("at y", "0.2")
    person.put("driven bar", 0.3)
    person.fill("name", "bar")
    person.fill("push limit", "60")
    person.fill("key 1 x", "-0.2")
    person.fill("key 1 y", "0.2")
    person.fill("key 2 x", "0.6")
    person.fill("key 2 y", "0.2")
    person.fill("key 2 t", "2")
    person.nothing()
    person.fill("clip length [s]", "3")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    assert person.case.bodies["bar"].max_force == 60.0
    out = measured(person, tmp_path)
    assert out["crate 2"]["x"]["value"] == pytest.approx(0.98 - 0.15, abs=0.01)  # against the wall
    assert out["crate"]["x"]["value"] == pytest.approx(0.98 - 0.45, abs=0.02)  # against the other crate
