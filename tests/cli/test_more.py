"""Checking, measuring, listing: the commands that explain."""

import json

import pytest
from click.testing import CliRunner

from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.case.profiles import PRESETS
from yapa.cli import cli
from yapa.demo import DATA
from yapa.formats.case_json import read_case


def yapa(*args):
    done = CliRunner().invoke(cli, [str(a) for a in args])
    assert done.exit_code == 0, done.output
    return done.output


@pytest.fixture
def floating(tmp_path):
    """The orange drop with an orange that weighs nothing."""
    path = tmp_path / "case.yapa"
    tree = json.loads((DATA / "orange-drop.yapa").read_text())
    tree["bodies"]["orange"]["gravity_multiplier"] = 0.0
    tree["tracks"] = []
    path.write_text(json.dumps(tree))
    return path


def test_check_says_symptom_cause_and_mend(floating, tmp_path):
    text = yapa("check", floating, "--json", tmp_path / "found.json")
    assert "orange: it does not fall" in text
    assert "its gravity multiplier is 0" in text
    assert "mend: set the multiplier to 1" in text
    found = json.loads((tmp_path / "found.json").read_text())
    assert {"kind", "about", "symptom", "cause", "mend"} <= set(found[0])


def test_a_mend_is_applied_and_saved(floating):
    assert "mended" in yapa("check", floating, "--mend", "weightless: orange")
    assert read_case(floating).bodies["orange"].gravity_multiplier == 1.0
    assert "does not fall" not in yapa("check", floating)


def test_a_dismissed_finding_is_not_told_again(floating):
    yapa("check", floating, "--dismiss", "weightless: orange")
    assert read_case(floating).ignored_findings == ("weightless: orange",)
    assert "does not fall" not in yapa("check", floating, "--before")


def test_a_finding_that_is_not_there_cannot_be_mended(floating):
    done = CliRunner().invoke(cli, ["check", str(floating), "--fix", "nothing: here"])
    assert done.exit_code != 0
    assert "weightless: orange" in str(done.exception)


def test_every_demo_case_is_sound():
    for path in sorted(DATA.glob("*.yapa")):
        text = yapa("check", path, "--before")
        assert text.splitlines()[-1].startswith("0 troubles"), (path, text)


def test_outcomes_and_profiles_are_listed():
    text = yapa("outcomes")
    assert all(name in text for name in OUTCOME_SPECS)
    assert yapa("profiles").splitlines() == list(PRESETS)


def test_measure_puts_theory_beside_a_simulation(tmp_path):
    text = yapa("measure", DATA / "orange-drop.yapa")
    head = next(line for line in text.splitlines() if "theory" in line)
    assert "gap" in head
    assert "e^2k h" in text
    assert "\ntrack " in text
    assert "kept restitution" not in text
    assert "kept restitution 1" in yapa("measure", DATA / "orange-drop.yapa", "--all")


def test_measure_can_look_at_a_trial(tmp_path):
    path = tmp_path / "fitted.yapa"
    yapa("fit", DATA / "orange-drop.yapa", "--save", path)
    name = read_case(path).trials[-1].name
    there = yapa("measure", path, "--trial", name)
    assert "apex 1" in there
    done = CliRunner().invoke(cli, ["measure", str(path), "--trial", "Trial 99"])
    assert name in str(done.exception)


def test_simulate_takes_a_profile_by_name():
    name = "30 Hz, 1 substep, 10 iterations"
    precise, stepped = (yapa("simulate", DATA / "orange-drop.yapa", *more) for more in ((), ("--profile", name)))
    assert precise != stepped
    done = CliRunner().invoke(cli, ["simulate", str(DATA / "orange-drop.yapa"), "--profile", "31 Hz"])
    assert "30 Hz, 1 substep, 10 iterations" in str(done.exception)


@pytest.mark.parametrize(("target", "met"), [
    ("apex 2 within 0.1 to 2 m", True), ("bounces at least 2", True), ("hit with padded plate happens", True),
    ("hit with padded plate never", False),
])
def test_fit_takes_any_condition_as_a_target(target, met, tmp_path):
    path = tmp_path / "case.yapa"
    tree = json.loads((DATA / "orange-drop.yapa").read_text())
    tree["tracks"] = []
    path.write_text(json.dumps(tree))
    done = CliRunner().invoke(cli, ["fit", str(path), "--target", target, "--json", str(tmp_path / "fit.json")])
    report = json.loads((tmp_path / "fit.json").read_text())["targets"][0]
    assert report["met"] is met, done.output
    assert report["condition"] in ("within", "at least", "happens", "never")
