"""Case files of format 1: read, upgraded, the same motions, and never rewritten by opening them."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner

from yapa.api import calibrate, load, simulate
from yapa.case import Case, get_number, has_number, with_numbers
from yapa.case.parameter_path import canonical_path, parse_path
from yapa.cli import cli
from yapa.demo import demo_paths
from yapa.errors import InputError
from yapa.fitting import Setup
from yapa.fitting.explore.sweep import axis_of
from yapa.formats.case_json import case_text, parse_case
from yapa.formats.case_json.version_1 import KEYED_BY_PATH, KEYS, PATHS, VALUES, upgrade, upgrade_finding

OLD = sorted((Path(__file__).parents[1] / "data/version_1").glob("*.yapa"))
EVERYTHING = {
    "format": "yapa", "version": 1, "title": "everything that was renamed", "duration": 0.4,
    "surfaces": {"rind": {}, "wood": {}},
    "pairs": [{"between": ["rind", "wood"], "friction": 0.3}],
    "apart": [["all", "other"]],
    "dismissed": ["no effect: bodies.orange.spin.y", "weightless: orange"],
    "profile": {"kind": "stepped", "cutoff_speed": 0.1, "cutoff": "smooth", "touch": 1e-4, "damping": "factor per step",
                "damping_acts": "before forces", "contacts_found": "after the move", "impacts": "timed",
                "repair": {"share": 0.3, "allowed": 0.002, "speed": 2.0}, "rest": {"speed": 0.01, "spin": 0.2, "after": 0.3}},
    "bodies": {
        "orange": {"shapes": [{"kind": "sphere", "radius": 0.04, "surface": "rind", "at": [0.0, 0.0, 0.01],
                               "turned": [1.0, 0.0, 0.0, 0.0], "clearance": 0.001, "belt": [0.1, 0.0, 0.0]}],
                   "spin": [0.0, 3.0, 0.0], "shell": True, "locked": ["turn x", "y"], "position": [0.0, 0.0, 0.5]},
        "can": {"shapes": [{"kind": "cylinder", "radius": 0.03, "length": 0.1}], "spin": {"rolls_on": "floor"}, "group": "other",
                "position": [2.0, 0.0, 0.5]},
        "bar": {"motion": "kinematic", "shapes": [{"kind": "box", "size": [0.1, 0.1, 0.1]}], "push_limit": 5.0,
                "path": [{"time": 0.0, "position": [4.0, 0.0, 0.5]}]},
        "floor": {"motion": "static", "shapes": [{"kind": "plane", "sides": "one side", "surface": "wood"}], "under": "can"},
    },
    "tracks": [{"name": "video", "body": "orange", "samples": {"t": [0.0, 0.1, 0.2, 0.3, 0.4], "x": [0.0, None, 0.0, 0.0, 0.0]},
                "reading": {"scale": 0.002, "shift": 0.1}, "offset": 0.01, "shift": [0.0, 0.0, 0.01]}],
    "targets": [{"outcome": "x", "body": "orange", "at": 0.2}, {"outcome": "inside", "body": "orange",
                "zone": [[0.0, 0.0, 0.0], [1.0, 1.0, 1.0]]},
                {"outcome": "waypoints", "body": "orange", "points": [[0.0, 0.0, 0.2]]}],
    "takes": [{"name": "one", "tracks": ["video"], "values": {"tracks.video.shift.x": 0.02}, "own": ["bodies.orange.spin.y"]}],
    "unknowns": [{"path": "bodies.orange.spin.y", "low": -5.0, "high": 5.0, "scale": "linear", "locked": True,
                  "tied": ["tracks.video.offset"]}],
    "trials": [{"name": "first", "origin": "by hand", "changed": "spin", "engine": "12", "made": "2026-11-01",
                "values": {"bodies.orange.spin.y": 2.0}, "estimates": {"bodies.orange.spin.y": {"value": 2.0}}}],
}


def nodes(tree, place):
    """Every node at a place of a document."""
    found = [tree]
    for key in place.split("/") if place else []:
        found = [n for node in found for n in ((node.values() if isinstance(node, dict) else node) if key == "*"
                                               else [node[key]] if isinstance(node, dict) and key in node else [])]
    return found


@pytest.mark.parametrize("path", OLD, ids=lambda p: p.stem)
def test_a_demo_case_of_format_1_moves_as_the_one_of_today(path, tmp_path):
    shipped = next(p for p in demo_paths() if p.name == path.name)
    for file in shipped.parent.glob("*.csv"):
        shutil.copy(file, tmp_path)
    old = tmp_path / path.name
    shutil.copy(path, old)
    before = old.read_bytes()
    case = load(old)
    assert case == load(shipped)
    assert np.array_equal(simulate(case).states, simulate(load(shipped)).states)
    assert parse_case(case_text(case), "x") == parse_case(before.decode(), "x")
    assert old.read_bytes() == before


def test_every_demo_case_has_its_ancestor_here():
    assert {p.name for p in OLD} == {p.name for p in demo_paths()}


def test_every_key_value_and_path_that_was_renamed_is_upgraded():
    tree = upgrade(EVERYTHING)
    for place, names in KEYS.items():
        for new in names.values():
            if (place, new) != ("profile", "soft_contact_substeps"):  # of the precise profile
                assert any(new in node for node in nodes(tree, place)), (place, new)
    for place, values in VALUES.items():
        assert set(nodes(tree, place)) & set(values.values()), place
        assert not set(nodes(tree, place)) & set(values), place
    for place in PATHS:
        assert nodes(tree, place)
        assert all(canonical_path(path) == path for path in nodes(tree, place))
    for place in KEYED_BY_PATH:
        assert nodes(tree, place)
        assert all(canonical_path(path) == path for node in nodes(tree, place) for path in node)
    assert tree["ignored_findings"] == ["no effect: bodies.orange.angular_velocity.y", "weightless: orange"]
    assert EVERYTHING["version"] == 1  # the input stays as it is
    assert "apart" in EVERYTHING


def test_a_case_with_everything_is_read_and_what_is_written_is_format_2_alone():
    case = parse_case(json.dumps(EVERYTHING), "old.yapa")
    text = case_text(case)
    assert json.loads(text)["version"] == 2
    assert parse_case(text, "new.yapa") == case
    assert upgrade(json.loads(text)) == json.loads(text)  # nothing of format 1 is left in it
    assert case.bodies["orange"].angular_velocity == (0.0, 3.0, 0.0)
    assert case.bodies["floor"].placed_under == "can"
    assert case.unknowns[0].linked == ("tracks.video.time_offset",)
    assert case.trials[0].values == {"bodies.orange.angular_velocity.y": 2.0}


def test_without_a_version_it_is_read_as_format_1_and_a_mistake_says_in_which_words_it_is_told():
    tree = {key: value for key, value in EVERYTHING.items() if key != "version"}
    assert parse_case(json.dumps(tree), "x") == parse_case(json.dumps(EVERYTHING), "x")
    wrong = json.loads(json.dumps(EVERYTHING))
    wrong["bodies"]["orange"]["spin"] = "fast"
    with pytest.raises(InputError, match=r"old.yapa, read as format 2(.|\n)*bodies.orange.angular_velocity"):
        parse_case(json.dumps(wrong), "old.yapa")


def test_a_key_in_both_spellings_is_refused():
    tree = json.loads(json.dumps(EVERYTHING))
    tree["bodies"]["orange"]["angular_velocity"] = [0.0, 1.0, 0.0]
    with pytest.raises(InputError, match="unknown key 'spin'"):
        parse_case(json.dumps(tree), "x")


@pytest.mark.parametrize("tree", [{"format": "yapa", "version": 1}, {"format": "yapa", "version": 1, "bodies": 3},
                                  {"format": "yapa", "version": 1, "bodies": {"a": []}, "unknowns": {"path": 3}, "trials": [3]}])
def test_nonsense_in_format_1_is_refused_in_words(tree):
    with pytest.raises(InputError):
        parse_case(json.dumps(tree), "x")


@pytest.mark.parametrize(("old", "new"), [
    ("bodies.orange.spin.y", "bodies.orange.angular_velocity.y"), ("tracks.a b.offset", "tracks.a b.time_offset"),
    ("tracks.video.shift.z", "tracks.video.translation.z"), ("bodies.spin.mass", "bodies.spin.mass"), ("gravity", "gravity"),
    ("air.wind.x", "air.wind.x"), ("pairs.a+b.friction", "pairs.a+b.friction"), ("no path", "no path"), ("", ""),
    ("bodies.x.size.x", "bodies.x.size.x"),
])
def test_a_path_has_one_spelling(old, new):
    assert canonical_path(old) == new
    assert canonical_path(new) == new
    assert str(parse_path(new)) == new


def test_paths_that_people_type_are_understood_in_both_spellings(tmp_path):
    case = parse_case(json.dumps({**EVERYTHING, "profile": {"kind": "precise"}}), "x")
    old, new = "bodies.orange.spin.y", "bodies.orange.angular_velocity.y"
    assert has_number(case, old)
    assert get_number(case, old) == get_number(case, new) == 3.0
    assert with_numbers(case, {old: 4.0}) == with_numbers(case, {new: 4.0}) != case
    free = case.model_copy(update={"unknowns": ()})
    assert np.array_equal(simulate(free, {old: 4.0}).states, simulate(free, {new: 4.0}).states)
    assert axis_of(case, old, 0.0, 1.0).path == new
    assert Setup(unknown={"spin.y": None}, fixed={"spin.x": 1.0}).unknown == {"angular_velocity.y": None}


def test_a_calibration_takes_the_old_name_of_a_spin_and_prints_the_new_one():
    track = demo_paths()[0].parent / "orange-throw.csv"
    done = calibrate(track, Setup(radius=0.037, unknown={"restitution": None, "velocity": None}, fixed={"spin.y": -80.0}), limit=60)
    assert done.case.bodies["body"].angular_velocity[1] == -80.0
    assert "spin" not in done.as_dict()["assumed"]


def test_saving_over_a_file_of_format_1_says_so_once(tmp_path):
    folder = demo_paths()[0].parent
    shutil.copy(folder / "orange-drop.csv", tmp_path)
    path = tmp_path / "orange-drop.yapa"
    shutil.copy(OLD[0].parent / "orange-drop.yapa", path)
    run = CliRunner()
    said = run.invoke(cli, ["note", str(path), "--body", "orange", "--rest", "2.5", "--overwrite"])
    assert said.exit_code == 0, said.output
    assert "format 2 now" in said.output
    assert json.loads(path.read_text())["version"] == 2
    again = run.invoke(cli, ["note", str(path), "--body", "orange", "--rest", "2.6", "--overwrite"])
    assert "format" not in again.output


def test_a_finding_that_names_no_path_keeps_its_key():
    assert upgrade_finding("weightless: orange") == "weightless: orange"
    assert upgrade_finding("no colon") == "no colon"
    assert isinstance(parse_case(json.dumps(EVERYTHING), "x"), Case)
