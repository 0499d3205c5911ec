"""The commands that ask: what they print, write and end with."""

from __future__ import annotations

import json
import shutil

import pytest
from click.testing import CliRunner

from yapa import api
from yapa.cli import cli
from yapa.demo import DATA

WANTED = "orange-wanted.yapa"


@pytest.fixture
def folder(tmp_path, monkeypatch):
    for name in (WANTED, "orange-drop.yapa", "orange-drop.csv", "orange-heights.csv"):
        shutil.copy(DATA / name, tmp_path / name)
    monkeypatch.chdir(tmp_path)
    return tmp_path


def run(*words, code=0):
    done = CliRunner().invoke(cli, [str(w) for w in words])
    assert done.exit_code == code, done.output
    return done.output


TABLE = ("--free", "pairs.rind+pad.restitution", "--table", "orange-heights.csv", "--column",
         "bodies.orange.position.z=height + 3.7 cm",
         "--measured", "apex 1=rebound")


def test_fit_with_a_table_prints_levels_and_saves_them(folder):
    text = run("fit", WANTED, *TABLE, "--save", "fitted.yapa", "--json", "fit.json")
    assert "left out" in text
    assert "lack of fit" in text
    told = json.loads((folder / "fit.json").read_text())
    assert told["table"]["levels"] == 6
    assert told["values"]["pairs.rind+pad.restitution"]["value"] == pytest.approx(0.71, abs=4e-3)
    saved = api.load(folder / "fitted.yapa")
    assert saved.table.rows == 18
    assert "apex 1: scatter" in run("fit", "fitted.yapa")


def test_a_table_without_its_options_is_refused(folder):
    assert "--measured" in run("fit", WANTED, "--table", "orange-heights.csv", code=2)
    assert "--table" in run("fit", WANTED, "--measured", "apex 1=rebound", code=2)
    done = CliRunner().invoke(cli, ["fit", WANTED, "--table", "orange-heights.csv", "--measured", "apex 1=rebounds"])
    assert done.exception is not None


def test_best_saves_its_numbers(folder):
    text = run("best", WANTED, "--outcome", "landing 1", "--free", "bodies.orange.velocity.x=0.5..1.5", "--save", "best.yapa",
               "--json", "b.json")
    assert "the largest landing 1" in text
    told = json.loads((folder / "b.json").read_text())
    assert api.load(folder / "best.yapa").bodies["orange"].velocity[0] == pytest.approx(told["values"]["bodies.orange.velocity.x"])


def test_threshold_ends_with_3_where_targets_hold_nowhere(folder):
    words = ("threshold", WANTED, "--number", "bodies.orange.position.z=20..150 cm", "--points", "9")
    assert "0.508" in run(*words, "--target", "apex 1 at most 30 cm", "--json", "t.json")
    assert json.loads((folder / "t.json").read_text())["unit"] == "m"
    assert "nowhere" in run(*words, "--target", "apex 1 at least 9 m", code=3)
    assert "smallest" in run(*words, "--target", "apex 1 at least 30 cm", "--smallest")


def test_matters_robust_either_variants_more_and_pairs(folder):
    assert "█" in run("matters", WANTED, "--outcome", "landing 2", "--samples", "32", "--json", "m.json")
    assert json.loads((folder / "m.json").read_text())["ranking"][0]["path"] == "bodies.orange.velocity.x"
    text = run("robust", WANTED, "--jitter", "bodies.orange.velocity.x=2 mm/s", "--save", "r.yapa")
    assert "of 400 varied starts" in text
    assert (folder / "r.yapa").exists()
    run("either", WANTED, "--or", "apex 1 = 9 ± 0.01 m", "--or", "apex 1 = 10 ± 0.01 m", code=3)
    text = run("variants", WANTED, "--variant", "soft: pairs.rind+pad.restitution=0.4", "--outcome", "apex 1", "--json", "v.json")
    assert "soft" in text.splitlines()[0]
    assert "missed by" in text
    assert len(json.loads((folder / "v.json").read_text())["variants"]) == 2
    assert "would halve" in run("more", "orange-drop.yapa", "--count", "2", "--json", "more.json")
    assert json.loads((folder / "more.json").read_text())[0]["to_halve"] == 3
    assert "named pair rind+pad" in run("pairs", "orange-drop.yapa", "--json", "p.json")
    assert {row["quantity"] for row in json.loads((folder / "p.json").read_text())} >= {"restitution", "friction"}


@pytest.mark.parametrize(("words", "told"), [
    (("variants", WANTED, "--variant", "no colon"), "NAME: PATH=VALUE"), (("robust", WANTED, "--jitter", "x"), "PATH=NUMBER"),
    (("variants", WANTED, "--variant", "a: gravity=1", "--variant", "a: gravity=2"), "a name of its own"),
    (("threshold", WANTED, "--number", "bodies.orange.position.z=1..x"), "PATH=LOW..HIGH"),
    (("simulate", WANTED, "--set", "bodies.orange.position.z=80 kg"), "the unit 'kg'"), (("fti", ), "did you mean `yapa fit`"),
])
def test_what_cannot_be_read_is_refused(words, told, folder):
    done = CliRunner().invoke(cli, [str(w) for w in words])
    assert told in str(done.exception)


def test_targets_are_judged_by_simulate_measure_and_check(folder):
    text = run("simulate", WANTED, "--json", "s.json")
    assert "target apex 2: wanted 0.24 ± 0.01 m, now 0.402 m, missed by 0.162 m" in text.replace("0.4022", "0.402")
    assert [t["met"] for t in json.loads((folder / "s.json").read_text())["targets"]] == [False, False]
    assert "target landing 3" in run("measure", WANTED)
    assert "would meet it" in run("check", WANTED)
    assert "would meet it" in run("check", WANTED, "--strict", code=1)
    fitted = api.with_numbers(api.load(folder / WANTED), api.solve(api.load(folder / WANTED), most=1).found[0].values)
    api.save(fitted, folder / "met.yapa")
    assert "target missed" not in run("check", "met.yapa")
    assert run("simulate", "met.yapa").count(", met") == 2


def test_quiet_and_verbose(folder):
    loud = CliRunner().invoke(cli, ["fit", WANTED, *TABLE])
    still = CliRunner().invoke(cli, ["-q", "fit", WANTED, *TABLE])
    assert "18 rows" in loud.stderr
    assert "18 rows" not in still.stderr
    assert CliRunner().invoke(cli, ["fit", "-h"]).output.startswith("Usage")
