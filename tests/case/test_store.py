"""Case files: whole or not at all, and every fault named."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from benchmarks.scenes import ball, crate_on_slope, floor, scene
from hypothesis import given
from hypothesis import strategies as st

from yapa.case import Case, Target
from yapa.demo import demo_paths
from yapa.errors import InputError
from yapa.formats.case_json import case_text, parse_case, read_case, schema_text, write_case
from yapa.formats.target_text import parse_target, target_text


def a_case() -> Case:
    return scene({"b": ball(position=(0, 0, 1.0)), "f": floor()})


@pytest.mark.parametrize("path", demo_paths(), ids=lambda p: p.stem)
def test_a_case_comes_back_as_it_was_saved(path, tmp_path):
    case = read_case(path)
    write_case(case, tmp_path / "copy.yapa")
    assert read_case(tmp_path / "copy.yapa") == case


def test_a_direction_and_an_under_survive_the_file():
    case = crate_on_slope(20.0, 1.5, 1.0)
    assert parse_case(case_text(case), "x") == case


def test_every_problem_is_told_at_once():
    tree = json.loads(case_text(a_case()))
    tree["bodies"]["b"]["mass"] = -1
    tree["bodies"]["b"]["frction"] = 2
    tree["duration"] = "long"
    with pytest.raises(InputError) as caught:
        parse_case(json.dumps(tree), "bad.yapa")
    text = str(caught.value)
    assert "bodies.b.mass: found -1" in text
    assert "frction" in text
    assert "friction" in text  # the key that was meant
    assert 'duration: found "long"; expected a number' in text
    assert len(caught.value.problems) == 3


def test_the_schema_is_json_schema_and_knows_the_bodies():
    schema = json.loads(schema_text())
    assert schema["type"] == "object"
    assert "bodies" in schema["required"]
    assert "Sphere" in schema["$defs"]


_KILLED_WRITER = """
import sys, os, time
from pathlib import Path
import yapa.formats.case_json.writer as store
real = os.replace
def slow(a, b):
    Path(sys.argv[2]).write_text("now")
    time.sleep(30)
    real(a, b)
os.replace = slow
store.write_atomically(Path(sys.argv[1]), "new content")
"""


def test_a_kill_between_write_and_rename_leaves_the_old_file_whole(tmp_path):
    target, flag = tmp_path / "case.yapa", tmp_path / "flag"
    write_case(a_case(), target)
    before = target.read_bytes()
    child = subprocess.Popen([sys.executable, "-c", _KILLED_WRITER, str(target), str(flag)])
    for _ in range(200):
        if flag.exists():
            break
        time.sleep(0.05)
    assert flag.exists()
    os.kill(child.pid, signal.SIGKILL)
    child.wait()
    assert target.read_bytes() == before
    assert read_case(target) == a_case()
    write_case(a_case(), target)  # and the next save works
    assert read_case(target) == a_case()


def test_saving_where_nobody_may_write_says_so(tmp_path):
    with pytest.raises(InputError, match="no/such"):
        write_case(a_case(), tmp_path / "no" / "such" / "case.yapa")


@pytest.mark.parametrize(("text", "label", "value", "tolerance"), [
    ("apex 2 = 0.42 ± 0.01", "apex 2", 0.42, 0.01),
    ("orange apex 2 = 42 +- 0.5 cm", "orange apex 2", 0.42, 0.005),
    ("rest time = 2.5 +/- 0.1 s", "rest time", 2.5, 0.1),
    ("lemon a travel=1±0.02m", "lemon a travel", 1.0, 0.02),
    ("bounces = 5 ± 0.4", "bounces", 5.0, 0.4),
])
def test_targets_are_read_from_words(text, label, value, tolerance):
    target = parse_target(text)
    assert target.label == label
    assert target.value == pytest.approx(value)
    assert target.tolerance == pytest.approx(tolerance)


@given(st.sampled_from(["apex", "landing"]), st.integers(1, 99), st.floats(0.001, 100), st.floats(0.001, 10))
def test_a_targets_text_form_reads_back(outcome, index, value, tolerance):
    target = Target(outcome=outcome, index=index, value=float(f"{value:g}"), tolerance=float(f"{tolerance:g}"))
    assert parse_target(target_text(target)) == target


@pytest.mark.parametrize("text", ["", "apex = 1 ± 0.1", "apex 2 = high ± 0.1", "apex 2 = 1", "apex 2 = 1 ± 0",
                                  "rest time = 2 ± 0.1 m", "wobble = 1 ± 0.1", "rest time 3 = 1 ± 0.1"])
def test_a_target_that_cannot_be_read_is_refused_with_an_example(text):
    with pytest.raises(InputError):
        parse_target(text)


@given(st.binary(max_size=200))
def test_no_bytes_crash_the_reader(data):
    from tempfile import TemporaryDirectory

    with TemporaryDirectory() as folder:
        path = Path(folder) / "x.yapa"
        path.write_bytes(data)
        with pytest.raises(InputError):
            read_case(path)
