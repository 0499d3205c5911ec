"""Every registered member has a test row, and adding one touches two files: its own and one line."""

from __future__ import annotations

import ast
import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.case.test_target_text import DRAWN_ARGUMENTS
from tests.findings.test_findings import AFTER_CASES, BEFORE_CASES
from tests.hard.sheets import _xlsx
from tests.physics.test_remarks import light_under_heavy
from yapa.case.arguments import ARGUMENTS
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.findings import AFTER, BEFORE
from yapa.formats.case_file import load_case
from yapa.formats.exports.registry import EXPORTERS, Exported
from yapa.formats.tracks.registry import READERS, read_table
from yapa.outcomes import CATALOGUE

HERE = Path(__file__).parent


@pytest.mark.parametrize("check", BEFORE, ids=lambda c: c.__module__.rpartition(".")[2])
def test_every_check_before_a_run_has_a_case_that_shows_it(check):
    assert any(list(check(shows)) for _, shows, _, _ in BEFORE_CASES)


@pytest.fixture(scope="module")
def motions():
    """Cases of findings after a run, with their motions."""
    cases = [shows for _, shows, _, _ in AFTER_CASES] + [light_under_heavy()]
    return [(case, simulate(case)) for case in cases]


@pytest.mark.parametrize("check", AFTER, ids=lambda c: c.__module__.rpartition(".")[2])
def test_every_check_after_a_run_has_a_case_that_shows_it(check, motions):
    assert any(list(check(case, motion)) for case, motion in motions)


def test_every_outcome_is_compared_with_a_known_value():
    named = {node.value for path in (HERE / "outcomes").glob("test_*.py") for node in ast.walk(ast.parse(path.read_text()))
             if isinstance(node, ast.Constant) and isinstance(node.value, str)}
    whole = {text.rstrip(" 0123456789") for text in named}
    assert {name for name in CATALOGUE if name not in whole and not any(name + " " in text for text in named)} == set()


def test_every_argument_is_drawn_at_random_and_read_back():
    assert set(ARGUMENTS) == set(DRAWN_ARGUMENTS)


def _spreadsheet(path):
    _xlsx(path, [["time", "z"], ["0.0", "1.0"], ["0.1", "0.5"]])


def _parquet(path):
    import pyarrow as pa
    import pyarrow.parquet as pq

    pq.write_table(pa.table({"time": [0.0, 0.1], "z": [1.0, 0.5]}), path)


FILES = {"text": lambda path: path.write_text("time;z\n0.0;1.0\n0.1;0.5\n"), "Parquet": _parquet, "spreadsheet": _spreadsheet}


@pytest.mark.parametrize("reader", READERS, ids=lambda r: r.name)
def test_every_reader_reads_the_same_table_with_every_ending(reader, tmp_path):
    for suffix in reader.suffixes if reader.name != "spreadsheet" else (".xlsx",):
        path = tmp_path / f"track{suffix}"
        FILES[reader.name](path)
        rows = read_table(path).rows
        assert rows[0] == ["time", "z"]
        assert [[float(cell) for cell in row] for row in rows[1:]] == [[0.0, 1.0], [0.1, 0.5]]


FIRST_LINES = {"motion": "t,orange.x,orange.y,orange.z", "contacts": "t,body,partner", "values": "Orange drop"}


@pytest.mark.parametrize("name", EXPORTERS)
def test_every_exporter_writes_what_it_says(name):
    text = EXPORTERS[name].write(Exported(load_case(DATA / "orange-drop.yapa")[0]))
    assert text.startswith(FIRST_LINES[name])
    assert text.endswith("\n")
    assert text.count("\n") > 3


DUMMIES = {
    "findings/before": ("dummy", """
from yapa.findings.base import Finding
from yapa.findings.registry import case_check


@case_check
def check(case):
    yield Finding("dummy", "everything", "it is there", "it always is", "note")
"""),
    "findings/after": ("dummy", """
from yapa.findings.base import Finding
from yapa.findings.registry import motion_check


@motion_check
def check(case, motion):
    yield Finding("dummy after", "everything", "it moved", "it always does", "note")
"""),
    "outcomes/kinds": ("dummy", """
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue


@outcome("dummy", "m", "always four", first_look=True)
def read(motion, body, query):
    return OutcomeValue(4.0)
"""),
    "case/arguments": ("dummy", """
from yapa.case.arguments.registry import NUMBER, Argument, argument


@argument
class Dummy(Argument):
    name, words, placeholder, keyword, pattern, kind = "dummy", "a dummy", "dummy N", "dummy", rf"dummy\\s+{NUMBER}", float
"""),
    "formats/tracks/readers": ("dummy", """
from yapa.formats.tracks.registry import track_reader
from yapa.formats.tracks.table import Table


@track_reader("dummy", (".dummy",), lambda path, head: path.suffix == ".dummy")
def read(path, head, options):
    return Table([["t", "z"]], [1])
"""),
    "formats/exports": ("dummy", """
from yapa.formats.exports.registry import exporter


@exporter("dummy", ".dummy", "always the same")
def write(exported):
    return "dummy\\n"
"""),
}
SEEN = """
import json
from yapa.case.arguments import ARGUMENTS
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.findings import check
from yapa.formats.case_file import load_case
from yapa.formats.tracks import readers
from yapa.formats.tracks.registry import file_patterns
from yapa.formats import exports
from yapa.formats.exports.registry import EXPORTERS
from yapa.outcomes import measure
case = load_case(DATA / "orange-drop.yapa")[0]
motion = simulate(case)
kinds = {f.kind for f in check(case, motion)}
print(json.dumps(["dummy" in kinds, "dummy after" in kinds, "dummy" in measure(motion, "orange"), "dummy" in ARGUMENTS,
                  "*.dummy" in file_patterns(), "dummy" in EXPORTERS]))
"""


def test_a_member_more_is_a_file_and_a_line(tmp_path):
    tree = tmp_path / "src"
    shutil.copytree(HERE.parent / "src/yapa", tree / "yapa", ignore=shutil.ignore_patterns("__pycache__"))
    git = ["git", "-C", str(tree), "-c", "user.name=t", "-c", "user.email=t@example.org"]
    for command in (["init", "-q"], ["add", "-A"], ["commit", "-qm", "as it is"]):
        subprocess.run([*git, *command], check=True)
    for folder, (name, code) in DUMMIES.items():
        (tree / "yapa" / folder / f"{name}.py").write_text(code)
        init = tree / "yapa" / folder / "__init__.py"
        package = "yapa." + folder.replace("/", ".")
        text, line = init.read_text(), f"from {package} import {name} as {name}\n"
        last = text.rindex(f"from {package} import")
        end = text.index("\n", last) + 1
        init.write_text(text[:end] + line + text[end:])
    changed = subprocess.run([*git, "status", "--porcelain", "-uall"], capture_output=True, text=True,
                             check=True).stdout.splitlines()
    assert len(changed) == 2 * len(DUMMIES)
    lines = subprocess.run([*git, "diff", "--numstat"], capture_output=True, text=True, check=True).stdout.splitlines()
    assert all(line.split()[:2] == ["1", "0"] for line in lines)
    done = subprocess.run([sys.executable, "-c", SEEN], env=os.environ | {"PYTHONPATH": str(tree)}, capture_output=True, text=True,
                          check=False)
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == [True] * len(DUMMIES)
