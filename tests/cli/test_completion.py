"""Completion of commands, options, numbers and outcomes; the files that are shipped; numbers set for every command that runs."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import pytest
from click.shell_completion import ShellComplete
from click.testing import CliRunner

from tests.cli.test_more import yapa
from yapa.cli import cli
from yapa.cli.completing import VARIABLE
from yapa.demo import DATA
from yapa.errors import InputError

ROOT = Path(__file__).parents[2]
LEMONS = str(DATA / "lemons-nudge.yapa")


def offered(words, begun):
    return [item.value for item in ShellComplete(cli, {}, "yapa", VARIABLE).get_completions(words, begun)]


def test_commands_options_numbers_and_outcomes_are_offered():
    assert offered([], "thre") == ["threshold"]
    assert offered([], "some-cas") == ["some-cas"]
    assert "--set" in offered(["check", LEMONS], "--s")
    assert offered(["simulate", LEMONS, "--set"], "surfaces.belt.fr") == ["surfaces.belt.friction"]
    assert "bodies.lemon a.mass" in offered(["fit", LEMONS, "--free"], "bodies.lemon a")
    assert offered(["best", LEMONS, "--outcome"], "rest t") == ["rest time"]


@pytest.mark.parametrize("words", [["simulate", "nothing.yapa", "--set"], ["simulate", "--set"]])
def test_without_a_case_no_number_is_offered(words):
    assert offered(words, "bodies") == []


def test_what_is_no_case_offers_nothing(tmp_path):
    (tmp_path / "bad.yapa").write_text("{")
    assert offered(["simulate", str(tmp_path / "bad.yapa"), "--set"], "bodies") == []


def test_bash_is_given_blanks_it_does_not_part_at(monkeypatch):
    monkeypatch.setenv(VARIABLE, "bash_complete")
    assert offered(["fit", LEMONS, "--free"], "bodies.lemon a.ma") == [r"bodies.lemon\ a.mass"]


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_the_script_of_a_shell_is_printed_and_shipped(shell):
    text = yapa("completion", shell)
    assert VARIABLE in text
    from yapa.cli.commands.completion import FILES

    assert (ROOT / "share" / FILES[shell]).read_text().rstrip() == text.rstrip()


def test_the_man_pages_are_those_of_the_commands(monkeypatch):
    monkeypatch.syspath_prepend(str(ROOT / "tools"))
    sys.modules.pop("manual", None)
    import manual

    pages = manual.pages()
    assert {f.relative_to(ROOT / "share").as_posix() for f in (ROOT / "share").rglob("*") if f.is_file()} == set(pages)
    for name, text in pages.items():
        assert (ROOT / "share" / name).read_text() == text, f"{name}: run tools/manual.py"
    assert r"\-\-strict" in pages["man/man1/yapa-check.1"]
    assert "yapa-threshold(1)" in pages["man/man1/yapa.1"]


def test_a_number_is_set_wherever_a_case_is_run(tmp_path):
    heavy = ["--set", "bodies.orange.gravity_multiplier=0"]
    assert "it does not fall" in yapa("check", DATA / "orange-drop.yapa", *heavy)
    yapa("measure", DATA / "orange-drop.yapa", *heavy, "--json", tmp_path / "out.json")
    told = json.loads((tmp_path / "out.json").read_text())["simulated"]
    assert told["outcomes"]["orange"]["bounces"]["value"] == 0
    yapa("export", DATA / "orange-drop.yapa", *heavy, "--to", "motion", "--out", tmp_path / "out.csv")
    rows = (tmp_path / "out.csv").read_text().splitlines()
    assert rows[1].split(",")[1:4] == rows[-1].split(",")[1:4]


@pytest.mark.parametrize(("args", "words"), [
    (["check", LEMONS, "--set", "gravity=1", "--dismiss", "x"], "what they save is the case"),
    (["measure", str(DATA / "orange-drop.csv"), "--sphere", "0.037", "--set", "gravity=1"], "a track has no numbers"),
])
def test_where_a_number_cannot_be_set_it_says_so(args, words):
    done = CliRunner().invoke(cli, args)
    assert isinstance(done.exception, InputError)
    assert words in str(done.exception)
