"""Scenes put together by a person whose answer is a target: found by a fit, or met by what was built."""

from __future__ import annotations

import json
from math import log

import pytest

from tests.desktop.by_hand import command, measured, there_and_back


def all_met(person, tmp_path, *words):
    """Whether the saved file asks for just these outcomes, and each is met, by the command line."""
    command("measure", person.file, "--json", tmp_path / "out.json")
    targets = json.loads((tmp_path / "out.json").read_text())["targets"]
    return len(targets) == len(words) and all(t["met"] and w in t["target"] for t, w in zip(targets, words, strict=True))


def contacts_of(person, tmp_path, body):
    command("measure", person.file, "--json", tmp_path / "out.json")
    return [c for c in json.loads((tmp_path / "out.json").read_text())["contacts"] if c["body"] == body]


def test_a_paddle_free_along_one_axis_is_at_rest_at_three_tenths_of_a_second(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("crate")
    person.fill("name", "paddle")
    for lock in ("y", "z", "turn x", "turn y", "turn z"):
        person.press(lock)
    person.fill("along x", "1")
    person.fill("damping", "10")  # held up by nothing, it rubs on nothing
    person.tick("find damping")
    person.nothing()
    person.want("rest", "[Home]", "0.3", "0.02")
    person.key("f")
    qtbot.waitUntil(lambda: person.window.session.newest_fit() is not None, timeout=60000)
    person.wait()
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 25
    assert measured(person, tmp_path)["paddle"]["rest time"]["value"] == pytest.approx(0.3, abs=0.02)
    assert person.case.bodies["paddle"].locked_axes == ("y", "z", "rotation_x", "rotation_y", "rotation_z")
    assert person.case.bodies["paddle"].linear_damping == pytest.approx(log(1 / 0.005) / 0.3, rel=0.1)  # rest is 5 mm/s


def test_a_chute_and_a_deflector_end_a_ball_in_a_bin(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("slope")
    person.fill("name", "chute")
    person.fill("at x", "0")
    person.fill("at z", "1")
    person.put("wall", 0.8)
    person.fill("name", "deflector")
    person.fill("at x", "1.3")
    person.put("open bin", 0.7)
    person.fill("at x", "1")
    person.put("ball", at=(-0.5, 0, 1.2))
    person.fill("at y", "0")
    person.key("w")
    person.wait()
    person.box("ball", (0.8, -0.15, 0.02), (1.2, 0.15, 0.02), top=0.35)
    person.nothing()
    person.fill("clip length [s]", "5")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    assert all_met(person, tmp_path, "ball wholly inside")
    met = [contact["partner"] for contact in contacts_of(person, tmp_path, "ball")]
    assert sorted(set(met), key=met.index)[-2:] == ["deflector", "open bin"]


def test_a_plank_on_a_fulcrum_is_levelled_with_two_crates(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("wall")
    person.fill("name", "fulcrum")
    person.fill("depth", "0.2")
    person.fill("height", "0.2")
    person.fill("at x", "0")
    person.fill("at z", "0.1")
    person.key("4")
    person.wait()
    person.put("plank", at=(0, 0, 0.2))
    person.fill("at x", "0")
    person.put("crate", at=(-0.3, 0, 0.22))
    for field, text in (("length", "0.1"), ("depth", "0.1"), ("height", "0.1"), ("at x", "-0.3"), ("at y", "0"), ("at z", "0.27")):
        person.fill(field, text)
    person.key("ctrl+k")
    person.wait()
    person.fill("name", "heavy")
    person.fill("density", "600")
    person.fill("at x", "0.15")  # twice as heavy, half as far
    person.want("tilt", "plank", "", "at most", "0.01", "0.005")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    assert all_met(person, tmp_path, "plank tilt")
    assert measured(person, tmp_path, "--set", "bodies.heavy.position.x=0.3")["plank"]["tilt"]["value"] > 0.1  # as far: it tips


def test_a_light_and_a_heavy_crate_meet_as_often_as_their_masses_say(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("wall", 0.2)
    person.fill("at x", "-1")
    person.put("crate", 0.5)
    person.fill("name", "light")
    person.press("give its mass instead")
    person.fill("mass", "1")
    person.fill("at x", "-0.2")
    person.fill("at z", "0.1")
    person.press("give the default skin numbers of its own")
    person.fill("restitution", "1")
    person.fill("friction", "0")
    person.key("ctrl+k")
    person.wait()
    person.fill("name", "heavy")
    person.fill("mass", "100")
    person.fill("at x", "0.5")
    person.fill("along x", "-0.5")
    person.nothing()
    person.fill("gravity", "0")
    person.fill("clip length [s]", "5")
    person.save()

    def contacts():
        return measured(person, tmp_path)["light"]["contacts"]["value"]

    assert contacts() == 31
    person.choose("profile", "50 Hz")
    person.fill("bounce cut-off", "1")
    person.key("ctrl+s")
    person.wait()
    assert contacts() == 2
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45


def test_a_ball_hits_ground_wall_and_post_in_this_order_and_is_seen_throughout(person, qtbot, tmp_path):
    empty = person.empty_scene()
    person.put("floor")
    person.put("wall", 0.9)
    person.fill("at x", "1")
    person.put("can", 0.7)
    person.press("fixed")
    person.fill("name", "post")
    person.fill("at x", "0.5")
    person.put("ball", 0.3)
    for field, text in (("at x", "-0.3"), ("at y", "0"), ("at z", "0.6"), ("along x", "3")):
        person.fill(field, text)
    person.press("give the default skin numbers of its own")
    for field, text in (("restitution", "0.6"), ("friction", "0.4"), ("rolling resist.", "0.02")):
        person.fill(field, text)
    person.nothing()
    person.fill("clip length [s]", "5")
    person.key("w")
    person.wait()
    person.key("ctrl+5")
    person.wait()
    person.select("ball")
    person.ask(person.at(0.3, 0, 0.5), "ball: stay in")
    person.box("ball", (0.52, -0.4, 0), (0.96, 0.4, 0), top=0.2)
    person.want("contact order", "through floor, wall, post", "at least", "0.01", "0.005")
    person.save()
    assert there_and_back(person, empty, qtbot, tmp_path) <= 45
    assert all_met(person, tmp_path, "ball stays wholly inside", "ball wholly inside", "contact order through floor, wall, post")
    assert measured(person, tmp_path)["ball"]["rest time"]["value"] < 5
