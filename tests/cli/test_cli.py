"""The command line as a person meets it: real processes, real files, real exit codes."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

import pytest

from yapa.demo import DATA
from yapa.formats.case_json import case_text, read_case

DROP = str(DATA / "orange-drop.csv")
CASE = str(DATA / "orange-drop.yapa")


def yapa(*args: str, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "yapa.cli", *args], capture_output=True, text=True, cwd=cwd, timeout=120)


def strict_json(path: Path):
    def refuse(token):
        raise AssertionError(f"{token} is not JSON")

    return json.loads(path.read_text(), parse_constant=refuse)


def test_calibrate_prints_a_table_and_writes_json_and_a_case(tmp_path, truth):
    out, saved = tmp_path / "out.json", tmp_path / "out.yapa"
    done = yapa("calibrate", DROP, "--sphere", "0.037", "--mass", "0.182", "--unknown", "restitution", "--unknown",
                "drag_coefficient=0..1.5", "--fixed", "friction=0.4", "--sigma", "0.001", "--json", str(out), "--save",
                str(saved))
    assert done.returncode == 0, done.stderr
    assert "restitution" in done.stdout
    assert "assumed:" in done.stdout
    data = strict_json(out)
    assert data["stopped"] == "converged"
    assert 0.9 < data["misfit"] < 1.1
    e = data["values"]["restitution"]
    assert set(e) == {"value", "std", "low", "high", "determined"}
    assert abs(e["value"] - truth["orange-drop"]["restitution"]) < 4 * e["std"]
    assert data["assumed"]["rolling_resistance"] == 0.0
    assert "friction" not in data["assumed"]
    assert read_case(saved).trials[-1].source == "fit"
    again = yapa("fit", str(saved))
    assert again.returncode == 0


def test_an_undetermined_friction_is_null_in_json(tmp_path):
    out = tmp_path / "out.json"
    done = yapa("calibrate", DROP, "--sphere", "0.037", "--unknown", "friction", "--unknown", "restitution", "--fixed",
                "velocity.x=0", "--json", str(out))
    assert done.returncode == 0, done.stderr
    e = strict_json(out)["values"]["friction"]
    assert e["determined"] is False
    assert e["std"] is None
    assert e["high"] is None
    assert e["reason"]


def test_fit_takes_targets_and_saves_beside_another_folder(tmp_path):
    (tmp_path / "deep").mkdir()
    saved = tmp_path / "deep" / "fitted.yapa"
    out = tmp_path / "fit.json"
    done = yapa("fit", CASE, "--target", "apex 1 = 0.75 ± 0.02", "--save", str(saved), "--json", str(out))
    assert done.returncode == 0, done.stderr
    assert "target apex 1" in done.stdout
    data = strict_json(out)
    assert data["targets"][0]["met"] is True
    again = yapa("simulate", str(saved))
    assert again.returncode == 0, again.stderr


def test_simulate_writes_samples_contacts_and_outcomes(tmp_path):
    files = [tmp_path / n for n in ("m.csv", "c.csv", "o.json")]
    done = yapa("simulate", CASE, "--csv", str(files[0]), "--contacts", str(files[1]), "--json", str(files[2]))
    assert done.returncode == 0, done.stderr
    samples = files[0].read_text().splitlines()
    assert samples[0].startswith("t,orange.x,orange.y,orange.z")
    assert len(samples) == 2 + round(2.4 * 240)
    assert files[1].read_text().splitlines()[0].startswith("t,body,partner")
    data = strict_json(files[2])
    assert data["status"] == "complete"
    assert data["outcomes"]["orange"]["apex 1"]["value"] > 0.3


def test_measure_reads_a_track_and_a_case(tmp_path, truth):
    out = tmp_path / "m.json"
    done = yapa("measure", DROP, "--sphere", "0.037", "--json", str(out))
    assert done.returncode == 0, done.stderr
    times = [c["time"] for c in strict_json(out)["contacts"]]
    assert times == pytest.approx(truth["orange-drop"]["contact_times"], abs=1e-3)
    done = yapa("measure", CASE, "--json", str(out))
    assert set(strict_json(out)) == {"simulated", "track track of orange"}


def test_schema_is_printed():
    assert json.loads(yapa("schema").stdout)["title"] == "Case"


def test_no_progress_bar_in_a_pipe():
    done = yapa("fit", CASE)
    assert "simulations" not in done.stderr


def test_an_interrupt_writes_the_best_so_far(tmp_path):
    out = tmp_path / "best.json"
    code = (
        "import os, signal, sys, yapa.fitting.problem.problem as p\n"
        "real, count = p.FitProblem.run, [0]\n"
        "def interrupted(self, *a, **k):\n"
        "    count[0] += 1\n"
        "    if count[0] == 30:\n        os.kill(os.getpid(), signal.SIGINT)\n"
        "    return real(self, *a, **k)\n"
        "p.FitProblem.run = interrupted\nfrom yapa.cli import main\n"
        f"sys.argv = ['yapa', 'fit', {str(DATA / 'orange-throw.yapa')!r}, '--json', {str(out)!r}]\nmain()\n")
    child = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=120)
    assert child.returncode == 130
    data = strict_json(out)
    assert data["stopped"] == "cancelled"
    assert data["misfit"] is not None


GOOD = "t,x,y,z\n" + "".join(f"{k / 100:.2f},0,0,{1 - 0.01 * k:.3f}\n" for k in range(12))
BAD_TRACKS = {
    "empty": b"",
    "blank lines": b"\n\n\n",
    "binary": bytes(range(256)) * 20,
    "not utf-8": b"t,x,y,z\n0,\xff\xfe,0,1\n",
    "only a header": b"t,x,y,z\n",
    "four samples": b"t,x,y,z\n0,0,0,1\n1,0,0,2\n2,0,0,3\n3,0,0,4\n",
    "no time": b"x,y,z\n0,0,1\n",
    "no coordinate": b"t,q\n0,1\n",
    "column twice": GOOD.replace("t,x,y,z", "t,x,x,z").encode(),
    "text in a number": GOOD.replace("0.03,0,", "0.03,zero,").encode(),
    "infinity": GOOD.replace("0.05,0,", "0.05,inf,").encode(),
    "nan": GOOD.replace("0.05,0,", "0.05,nan,").encode(),
    "decreasing time": GOOD.replace("0.06,", "0.01,").encode(),
    "repeated time": GOOD.replace("0.06,", "0.05,").encode(),
    "negative time": GOOD.replace("0.00,", "-1.00,").encode(),
    "missing cell": GOOD.replace("0.04,0,0,", "0.04,0,").encode(),
    "extra cell": GOOD.replace("0.04,0,0,", "0.04,0,0,0,").encode(),
    "empty time": GOOD.replace("0.04,0,", ",0,").encode(),
    "all gaps": ("t,x\n" + "".join(f"{k},\n" for k in range(9))).encode(),
    "nothing moves": ("t,x,y,z\n" + "".join(f"{k},0,0,1\n" for k in range(9))).encode(),
    "an open quote": b't,x\n0,"1\n1,2\n',
}


@pytest.mark.parametrize("kind", BAD_TRACKS)
def test_a_broken_track_gets_one_clear_sentence(kind, tmp_path, capsys):
    path = tmp_path / "bad.csv"
    path.write_bytes(BAD_TRACKS[kind])
    text = in_process(capsys, "calibrate", str(path), "--sphere", "0.05", "--unknown", "restitution")
    assert "bad.csv" in text or "track" in text
    assert "expected" in text


@pytest.mark.parametrize(("text", "said"), [
    (GOOD.replace("t,x,y,z", "t,x,y,height"), "z is column 4"), (GOOD.removeprefix("t,x,y,z\n"), "no header"),
    (GOOD.replace(",", ";").replace(".", ","), "decimal commas"),
])
def test_a_track_in_another_layout_is_read_and_it_says_how(text, said, tmp_path, capsys):
    path = tmp_path / "other.csv"
    path.write_text(text)
    from unittest.mock import patch

    from yapa.cli import main

    with patch.object(sys, "argv", ["yapa", "measure", str(path), "--sphere", "0.05"]):
        main()
    assert said in capsys.readouterr().err


def _broken_cases() -> dict[str, str]:
    good = case_text(read_case(Path(CASE)).model_copy(update={"tracks": ()}))
    return {
        "not json": "{ this is not",
        "a list": "[1, 2, 3]",
        "another format": good.replace('"yapa"', '"other"'),
        "from the future": good.replace('"version": 2', '"version": 99'),
        "wrong type": good.replace('"duration": 2.4', '"duration": "long"'),
        "negative mass": good.replace('"mass": 0.182', '"mass": -0.182'),
        "infinity": good.replace('"mass": 0.182', '"mass": Infinity'),
        "nan": good.replace('"mass": 0.182', '"mass": NaN'),
        "misspelt key": good.replace('"duration"', '"durration"'),
        "missing key": re.sub(r',\s*"radius": 0.037', "", good),
        "unknown surface": good.replace('"surface": "pad"', '"surface": "felt"'),
        "unknown path": good.replace("bodies.orange.mass", "bodies.apple.mass"),
        "falling range": good.replace('"low": 0.3', '"low": 3.3'),
        "a key twice": good.replace('"title"', '"notes"', 1),
        "track file missing": good.replace('"unknowns"', '"tracks": [{"name": "t", "body": "orange", "file": "gone.csv"}],'
                                           ' "unknowns"', 1),
        "unknown body of a track": good.replace('"unknowns"', '"tracks": [{"name": "t", "body": "apple", "file": "a.csv"}],'
                                                ' "unknowns"', 1),
        "moving plane": good.replace('"motion": "static"', '"motion": "dynamic"'),
        "deep nesting": "[" * 100_000,
    }


@pytest.mark.parametrize("kind", _broken_cases())
def test_a_broken_case_gets_clear_sentences(kind, tmp_path, capsys):
    path = tmp_path / "bad.yapa"
    path.write_text(_broken_cases()[kind])
    text = in_process(capsys, "simulate", str(path))
    assert "bad.yapa" in text
    assert "expected" in text


@pytest.mark.parametrize("args", [
    ["calibrate", "gone.csv", "--sphere", "0.1"], ["calibrate", DROP], ["calibrate", DROP, "--sphere", "0.1", "--box", "1x1x1"],
    ["calibrate", DROP, "--box", "1x1"], ["calibrate", DROP, "--sphere", "-1"],
    ["calibrate", DROP, "--sphere", "0.1", "--floor", "0", "--slope", "5"],
    ["calibrate", DROP, "--sphere", "0.1", "--unknown", "bounce"],
    ["calibrate", DROP, "--sphere", "0.1", "--fixed", "friction"], ["calibrate", DROP, "--sphere", "0.1", "--sigma", "tiny"],
    ["calibrate", CASE, "--sphere", "0.1"], ["fit", DROP], ["fit", CASE, "--target", "high bounce"],
    ["simulate", "gone.yapa"], ["simulate", "."], ["measure", "gone.csv"], ["nonsense"],
    ["calibrate", DROP, "--sphere", "0.1", "--unknown", "restitution", "--json", "/no/such/folder/x.json"],
    *(["calibrate", DROP, "--unknown", "restitution", *more.split()] for more in (
        "--sphere 1e9", "--sphere nan", "--box 0x1x1", "--sphere 0.1 --mass 1e300", "--sphere 0.1 --floor 1e300",
        "--sphere 0.1 --fixed friction=1e300", "--sphere 0.1 --unknown friction=0..1e300", "--sphere 0.1 --fixed position.z=1e7",
        "--sphere 0.1 --scale nan", "--sphere 0.1 --shift 1e300", "--sphere 0.1 --column x", "--sphere 0.1 --unit x=furlong",
        "--sphere 0.1 --delimiter ab", "--sphere 0.1 --sigma 0")),
    ["fit", CASE, "--target", "apex 2 = 0.4 ± 0"], ["fit", CASE, "--target", "apex 2 = 1e300 ± 1"], ["fit", CASE, "--save", CASE],
    ["fit", CASE, "--json", "/tmp"], ["note", CASE, "--apexes", "1e300", "--save", "/tmp/never.yapa"],
    ["sweep", CASE, "--over", "bodies.orange.mass=-1..1", "--outcome", "tilt"],
])
def test_a_wrong_command_is_answered_in_words(args, capsys):
    text = in_process(capsys, *args)
    assert text
    assert "pydantic" not in text
    assert "Input should" not in text


def in_process(capsys, *args: str) -> str:
    """Run the command line here (it is quicker); it must end with code 2 and no traceback."""
    from unittest.mock import patch

    from yapa.cli import main

    with patch.object(sys, "argv", ["yapa", *args]), pytest.raises(SystemExit) as stop:
        main()
    text = capsys.readouterr().err
    assert stop.value.code == 2, text
    assert "Traceback" not in text
    return text


def test_a_million_rows_are_thinned_within_memory(tmp_path):
    path = tmp_path / "long.csv"
    with path.open("w") as file:
        file.write("t,x,y,z\n")
        file.writelines(f"{k * 1e-6:.6f},0,0,{1 - k * 1e-7:.7f}\n" for k in range(1_000_000))
    code = (
        "from pathlib import Path\nfrom yapa.formats.tracks.plain_csv import read_track\n"
        f"found = read_track(Path({str(path)!r}))\n"
        "peak = next(x for x in open('/proc/self/status') if x.startswith('VmHWM'))\n"  # ru_maxrss would be the parent's
        "print(len(found.samples.t), int(peak.split()[1]) // 1024)\nprint(found.notices[0])\n")
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    count, megabytes = map(int, done.stdout.splitlines()[0].split())
    assert count == 20_000
    assert megabytes < 512
    assert "thinned" in done.stdout


def test_a_fault_is_one_sentence_with_the_place_of_its_details(monkeypatch, capsys):
    from yapa import cli

    def broken(*_args, **_more):
        raise ZeroDivisionError("by nothing")

    monkeypatch.setattr("yapa.cli.app.cli", broken)
    with pytest.raises(SystemExit) as end:
        cli.main(["check"])
    assert end.value.code == 70
    words = capsys.readouterr().err
    assert "Traceback" not in words
    details = Path(words.strip().rpartition(" ")[2])
    assert "by nothing" in details.read_text()
    details.unlink()
