"""The page on adding to Yapa, run word for word in processes of its own."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs/extending.md").read_text()
PROGRAM = re.search(r"```python\n(.*?)```", PAGE, re.DOTALL)[1]
COMMANDS = re.findall(r"^\| `python more\.py ([^`]+)` \|", PAGE, re.MULTILINE)


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """A folder with the page's program."""
    place = tmp_path_factory.mktemp("more")
    (place / "more.py").write_text(PROGRAM)
    run(place, "outcomes")  # the program writes its track and its case
    return place


def run(folder, *arguments):
    """The program with these arguments, in the folder."""
    env = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    done = subprocess.run([sys.executable, "more.py", *arguments], cwd=folder, env=env, capture_output=True, text=True, timeout=300,
                          check=False)
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_every_command_of_the_page_but_the_window_is_run_below():
    assert [command.split()[0] for command in COMMANDS] == ["check", "outcomes", "fit", "fit", "export", "drop.yapa"]


def test_its_finding_is_shown(folder):
    assert "scales end at 60 kg" in run(folder, "check", "drop.yapa")


def test_its_outcome_is_listed_with_its_argument(folder):
    assert re.search(r"time aloft\s+s\s+level", run(folder, "outcomes"))


def test_its_reader_and_its_outcome_take_part_in_a_fit(folder):
    run(folder, "fit", "drop.yapa", "--json", "fit.json")
    result = json.loads((folder / "fit.json").read_text())
    assert result["values"]["surfaces.rind.restitution"]["value"] == pytest.approx(0.7, abs=0.01)
    assert "time aloft above 0.3 m" in json.dumps(result["targets"])


def test_its_argument_can_be_typed_and_comes_back_from_the_file(folder):
    run(folder, "fit", "drop.yapa", "--target", "ball time aloft above 0.25 m at least 0.3 ± 0.01 s", "--save", "typed.yapa")
    targets = json.loads((folder / "typed.yapa").read_text())["targets"]
    assert [t["level"] for t in targets] == [0.3, 0.25]
    assert "time aloft above 0.25 m" in run(folder, "fit", "typed.yapa")


def test_its_exporter_writes(folder):
    assert json.loads(run(folder, "export", "drop.yapa", "--to", "values-json")) == {"surfaces.rind.restitution": 0.5}


def test_without_it_the_case_is_refused_in_words(folder):
    """What a program registered is not there in another one."""
    done = subprocess.run([sys.executable, "-m", "yapa.cli", "check", "drop.yapa"], cwd=folder, capture_output=True, text=True,
                          env=os.environ | {"PYTHONPATH": str(ROOT / "src")}, check=False)
    assert done.returncode == 2
    assert "no outcome of that name" in done.stderr
    assert "Traceback" not in done.stderr
