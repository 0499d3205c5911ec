"""Searching, doubting, comparing and noting by hand on the command line."""

import json
import shutil

import pytest
from click.testing import CliRunner

from yapa.cli import cli
from yapa.demo import DATA
from yapa.errors import InputError
from yapa.formats.case_file import load_case
from yapa.formats.case_json import read_case

WANTED = DATA / "orange-wanted.yapa"


def yapa(*args, code=0):
    done = CliRunner().invoke(cli, [str(a) for a in args])
    assert done.exit_code == code, (done.output, done.exception)
    return done.output


def refused(*args):
    done = CliRunner().invoke(cli, [str(a) for a in args])
    assert isinstance(done.exception, InputError)
    return str(done.exception)


def test_solve_lists_the_nearest_first_and_saves_the_one_that_is_taken(tmp_path):
    text = yapa("solve", WANTED, "--json", tmp_path / "found.json", "--save", tmp_path / "case.yapa", "--seed", 5, "--threads", 2)
    assert "2 of 2 met" in text
    assert "solutions;" in text
    found = json.loads((tmp_path / "found.json").read_text())
    assert found["stopped"] == "converged"
    assert found["simulations_to_first"] < 100
    values = found["solutions"][0]["values"]
    saved = read_case(tmp_path / "case.yapa")
    assert saved.pairs[0].restitution == pytest.approx(values["pairs.rind+pad.restitution"])


def test_solve_says_why_nothing_is_found_and_ends_with_three():
    text = yapa("solve", WANTED, "--target", "orange apex 1 = 9 ± 0.01 m", code=3)
    assert "not reachable: this is the closest" in text
    assert "in conflict" in text


def test_what_is_not_there_cannot_be_taken(tmp_path):
    assert "from 1 to" in refused("solve", WANTED, "--save", tmp_path / "x.yapa", "--take", 40)


def test_trust_tells_the_fit_the_starts_and_a_curve(tmp_path):
    text = yapa("trust", DATA / "orange-drop.yapa", "--count", 8, "--seed", 1, "--curve", "pairs.rind+pad.restitution", "--json",
                tmp_path / "trust.json")
    assert "converged" in text
    assert "over slightly varied starts" in text
    told = json.loads((tmp_path / "trust.json").read_text())
    assert len(told["curves"][0]["values"]) >= 15
    assert told["fit"]["stopped"] == "converged"


def test_trust_of_wishes_counts_the_starts_that_meet_them():
    assert "of 10 slightly varied starts still meet every target" in yapa("trust", WANTED, "--count", 10)


def test_compare_shows_the_error_of_the_step_and_corrects_it(tmp_path):
    text = yapa("compare", WANTED, "--profile", "60 Hz, 4 substeps, 10 iterations", "--correct", "--json", tmp_path / "both.json")
    assert "error of the step" in text
    both = json.loads((tmp_path / "both.json").read_text())
    assert both["moved"] > 0
    assert all(t["met"] for t in both["corrected"]["solutions"][0]["targets"])
    assert "stepped profile" in refused("compare", WANTED)


def test_fit_is_the_same_with_the_same_seed_at_any_number_of_threads(tmp_path):
    for k, threads in enumerate((1, 2)):
        yapa("fit", DATA / "orange-drop.yapa", "--seed", 3, "--threads", threads, "--json", tmp_path / f"{k}.json")
    one, two = (json.loads((tmp_path / f"{k}.json").read_text()) for k in (0, 1))
    assert one["values"] == two["values"]
    assert one["simulations"] == two["simulations"]


@pytest.fixture
def drop(tmp_path):
    for name in ("orange-drop.yapa", "orange-drop.csv"):
        shutil.copy(DATA / name, tmp_path / name)
    return tmp_path / "orange-drop.yapa"


def test_what_was_noted_by_hand_becomes_evidence(drop):
    text = yapa("note", drop, "--apexes", "0.74,0.41", "--ratios", "0.55", "--rest", 3.4, "--mark", "0.53:0,-,0.037")
    assert text.count("noted:") == 2 + 1 + 1 + 2
    labels = [t.label for t in read_case(drop).targets]
    assert {"orange apex 1", "orange apex 2", "orange apex ratio 2", "orange rest time"} <= set(labels)
    yapa("note", drop, "--path", "0:0,0,1.4 0.3:0,0,1.0 0.5:0,0,0.1", "--tolerance", 0.02)
    case, _ = load_case(drop)
    track = next(t for t in case.tracks if t.name == "drawn")
    assert track.sigma == 0.02
    assert track.samples.z[0] == 1.4


@pytest.mark.parametrize(("args", "words"), [
    ((), "apexes"), (("--apexes", "high"), "numbers with commas"), (("--mark", "0.5"), "a time and a place"),
    (("--body", "pear", "--rest", "2"), "one of orange"), (("--like", "the best one"), "one of"),
])
def test_a_note_that_cannot_be_read_says_how(drop, args, words):
    assert words in refused("note", drop, *args)
