"""Commands that are stopped, and streams, homes and displays that are not as they should be: real processes."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time

import pytest

from yapa.case import Precise
from yapa.demo import DATA
from yapa.formats.case_file import load_case
from yapa.formats.case_json import case_text, read_case, write_case

CASE = DATA / "orange-drop.yapa"
THROW = DATA / "orange-throw.yapa"
COMMAND = [sys.executable, "-m", "yapa.cli"]
SLACK = 20.0
"""s after which a stop was not heard: this guards against a hang"""


def yapa(*args, **options):
    return subprocess.run([*COMMAND, *map(str, args)], capture_output=True, text=True, timeout=120, check=False, **options)


@pytest.fixture(scope="module")
def long_case(tmp_path_factory):
    """A legal case whose run takes many minutes."""
    case = load_case(DATA / "sweeper-bar.yapa")[0]
    slow = case.model_copy(update={"duration": 9.0, "profile": Precise(step=1e-6), "output_rate": 60.0})
    path = tmp_path_factory.mktemp("long") / "long.yapa"
    write_case(slow, path)
    return path


def stopped(signal_number, *args, after=5.0):
    """Run, stop it once it is under way, and give its code, its words and how long it took to hear."""
    child = subprocess.Popen([*COMMAND, *map(str, args)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        time.sleep(after)
        assert child.poll() is None, child.communicate()
        begun = time.monotonic()
        child.send_signal(signal_number)
        out, err = child.communicate(timeout=SLACK)
        return child.returncode, out, err, time.monotonic() - begun
    finally:
        child.kill()


def stopped_once_it_runs(number, out, *args):
    """The same, of a command that writes what it has: on a machine that is busy it is under way later."""
    for after in (4.0, 12.0, 24.0):
        code, words, err, took = stopped(number, *args, "--json", out, after=after)
        if out.exists():
            break
    return code, words, err, took


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_a_long_run_hears_a_stop_and_writes_the_motion_so_far(long_case, tmp_path, number):
    out = tmp_path / "motion.json"
    code, _, err, took = stopped_once_it_runs(number, out, "simulate", long_case)
    assert code == (130 if number == signal.SIGINT else 143), err
    assert took < SLACK
    assert "Traceback" not in err
    assert json.loads(out.read_text())["status"].startswith("cancelled")


@pytest.mark.parametrize("args", [
    ["check"], ["measure"], ["sweep", "--over", "bodies.crate.mass=0.8..1.2", "--outcome", "crate tilt", "--count", "3"]])
def test_every_command_that_runs_hears_a_stop(long_case, args):
    code, _, err, _ = stopped(signal.SIGINT, args[0], long_case, *args[1:])
    assert code == 130, err
    assert "Traceback" not in err


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
@pytest.mark.parametrize("command", ["fit", "trust"])
def test_a_fit_that_is_stopped_writes_the_best_so_far(command, number, tmp_path):
    case = load_case(THROW)[0]
    tracks = tuple(t.model_copy(update={"file": None}) for t in case.tracks)
    slow = case.model_copy(update={"profile": Precise(step=1e-6), "tracks": tracks})
    write_case(slow, tmp_path / "slow.yapa")
    out = tmp_path / "out.json"
    code, _, err, _ = stopped_once_it_runs(number, out, command, tmp_path / "slow.yapa")
    assert code == (130 if number == signal.SIGINT else 143), err
    assert "Traceback" not in err
    found = json.loads(out.read_text())
    assert (found if command == "fit" else found["fit"])["stopped"] == "cancelled"


def test_a_sweep_that_is_stopped_writes_its_rows_so_far(tmp_path):
    out = tmp_path / "rows.json"
    code, _, err, _ = stopped_once_it_runs(signal.SIGINT, out, "sweep", CASE, "--over", "bodies.orange.mass=0.1..0.2",
                                           "--outcome", "overlap", "--count", "100000")
    assert code == 130, err
    found = json.loads(out.read_text())
    assert found["stopped"] is True
    assert len(found["values"]) == len(found["found"]) > 0


def test_ctrl_c_before_anything_has_begun_leaves_without_a_word():
    for wait in (0.02, 0.05, 0.1, 0.15, 0.2):
        child = subprocess.Popen([*COMMAND, "simulate", str(CASE)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        time.sleep(wait + 0.05)  # the interpreter itself takes that long to begin
        child.send_signal(signal.SIGINT)
        _, err = child.communicate(timeout=60)
        if child.returncode == 130:
            assert "Traceback" not in err or "site" in err


def test_a_full_disk_behind_the_output_is_told_in_words():
    with open("/dev/full", "w") as full:
        done = subprocess.run([*COMMAND, "simulate", str(CASE)], stdout=full, stderr=subprocess.PIPE, text=True, timeout=120,
                              check=False)
    assert done.returncode == 2
    assert "Traceback" not in done.stderr
    assert "No space left" in done.stderr


def test_a_terminal_of_few_letters_gets_marks_for_the_others():
    done = yapa("fit", CASE, env={**os.environ, "PYTHONIOENCODING": "ascii", "LC_ALL": "C"})
    assert done.returncode == 0, done.stderr
    assert "restitution" in done.stdout


def test_names_in_brackets_are_printed_as_they_are(tmp_path):
    text = case_text(read_case(CASE).model_copy(update={"tracks": ()})).replace("orange", "[bold]orange[/bold]")
    (tmp_path / "case.yapa").write_text(text)
    done = yapa("simulate", tmp_path / "case.yapa")
    assert done.returncode == 0, done.stderr
    assert "[bold]orange[/bold]" in done.stdout


def test_without_a_home_to_write_to_it_says_what_to_set(tmp_path):
    (tmp_path / "file").write_text("not a folder")
    env = {**os.environ, "HOME": str(tmp_path / "file"), "XDG_CACHE_HOME": str(tmp_path / "file" / "cache")}
    done = yapa("simulate", CASE, env=env)
    assert done.returncode == 2
    assert "XDG_CACHE_HOME" in done.stderr
    assert "Traceback" not in done.stderr


@pytest.mark.parametrize("mode", [0o777, 0o770, 0o722])
def test_a_cache_that_others_may_write_to_is_refused(tmp_path, mode):
    (tmp_path / "yapa").mkdir()
    (tmp_path / "yapa").chmod(mode)
    done = yapa("simulate", CASE, env={**os.environ, "XDG_CACHE_HOME": str(tmp_path)})
    assert done.returncode == 2
    assert "others may write" in done.stderr


def test_without_a_display_the_window_says_so():
    env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    for more in ({}, {"DISPLAY": ":4711"}):
        done = yapa(env={**env, **more})
        assert done.returncode == 2
        assert "display" in done.stderr
        assert "Traceback" not in done.stderr


def test_a_dash_is_the_standard_input_and_output():
    text = case_text(read_case(CASE).model_copy(update={"tracks": ()}))
    done = yapa("simulate", "-", "--json", "-", input=text)
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["status"] == "complete"
    assert "contacts" in done.stderr  # words make room for data
    track = (DATA / "orange-drop.csv").read_text()
    done = yapa("calibrate", "-", "--sphere", "0.037", "--unknown", "restitution", "--sigma", "0.001", input=track)
    assert done.returncode == 0, done.stderr


def test_a_pipe_is_read_and_written(tmp_path):
    os.mkfifo(tmp_path / "in")
    os.mkfifo(tmp_path / "out")
    feeder = subprocess.Popen(["cp", str(DATA / "orange-drop.csv"), str(tmp_path / "in")])
    reader = subprocess.Popen(["cat", str(tmp_path / "out")], stdout=subprocess.PIPE, text=True)
    done = yapa("inspect", tmp_path / "in", "--csv", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    assert reader.communicate(timeout=20)[0].startswith("t,")
    feeder.wait(20)


def test_a_pipe_without_a_reader_is_waited_for_until_ctrl_c(tmp_path):
    os.mkfifo(tmp_path / "out")
    code, _, err, _ = stopped(signal.SIGINT, "inspect", DATA / "orange-drop.csv", "--csv", tmp_path / "out")
    assert code == 130
    assert "Traceback" not in err
