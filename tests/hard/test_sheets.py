"""Thousands of tables of one motion, through every way in: none is misread, and what is documented is read without a question.

Short here, 3,000 by ``make hard``. A reading is right, or the file is refused by name; it is never taken for something else.
"""

from __future__ import annotations

import json
import random
import subprocess
import sys
from collections import Counter
from pathlib import Path

import pytest
from click.testing import CliRunner

from tests.hard.levels import amount, limit
from tests.hard.sheets import Sheet, is_right, sheet
from yapa import api
from yapa.cli import cli
from yapa.demo import DATA
from yapa.errors import InputError
from yapa.fitting import Setup
from yapa.formats.case_file import load_case
from yapa.formats.tracks.any_file import read_any
from yapa.formats.tracks.columns import Questions
from yapa.session.importing import ImportForm

FIRST = 5_000


def told(row: Sheet, error: Exception) -> str:
    """What a refusal says; it must be for the person."""
    assert isinstance(error, InputError), (row.words, error)
    assert "expected" in str(error)
    return "refused"


def by_inspect(row: Sheet, folder: Path) -> str:
    out = folder / "out.csv"
    out.unlink(missing_ok=True)
    done = CliRunner().invoke(cli, ["inspect", str(row.path), "--csv", str(out)])
    if done.exception is not None:
        return told(row, done.exception)
    samples = read_any(out).samples
    return "right" if is_right(samples.t, samples.x, samples.z) else "wrong"


def by_the_api(row: Sheet, folder: Path) -> str:
    try:
        samples = read_any(row.path).samples
    except InputError as error:
        return told(row, error)
    return "right" if is_right(samples.t, samples.x, samples.z) else "wrong"


def by_a_case(row: Sheet, folder: Path) -> str:
    tree = json.loads((DATA / "orange-drop.yapa").read_text())
    tree["tracks"] = [{"name": "track", "body": "orange", "file": row.path.name}]
    path = folder / "case.yapa"
    path.write_text(json.dumps(tree))
    try:
        samples = load_case(path)[0].tracks[0].samples
    except InputError as error:
        return told(row, error)
    return "right" if is_right(samples.t, samples.x, samples.z) else "wrong"


def by_the_form(row: Sheet, folder: Path) -> str:
    """The model of the import dialog: where it has a question, nothing is read before it is answered."""
    try:
        read_any(row.path)
    except Questions as questions:
        form = ImportForm(row.path, questions)
        assert form.open_questions
        if not form.open():  # everything was guessed, and the person only has to agree
            return "refused"
        with pytest.raises(InputError):
            form.tracks()
        return "refused"
    except InputError as error:
        return told(row, error)
    return "right"


def by_measure(row: Sheet, folder: Path) -> str:
    out = folder / "measured.json"
    out.unlink(missing_ok=True)
    done = CliRunner().invoke(cli, ["measure", str(row.path), "--sphere", "0.03", "--json", str(out)])
    if done.exception is not None:
        return told(row, done.exception)
    highest = 1.9 + 2.1**2 / (4 * 4.9)
    found = json.loads(out.read_text())["outcomes"]
    peak = next(iter(found.values())).get("peak height", {}).get("value")
    return "right" if peak is None or abs(peak - highest) < 0.05 else "wrong"


def by_calibrate(row: Sheet, folder: Path) -> str:
    try:
        done = api.calibrate(row.path, Setup(radius=0.03, unknown={"restitution": None}, floor=-5.0))
    except InputError as error:
        return told(row, error)
    samples = done.case.tracks[0].samples
    return "right" if is_right(samples.t, samples.x, samples.z) else "wrong"


EVERY = (by_inspect, by_the_api, by_a_case, by_the_form)
SOME = (by_measure, by_calibrate)


def test_no_table_is_misread_and_what_is_documented_needs_no_question(tmp_path):
    count = amount(short=120, long=3000)
    chance, tally, wrong, asked = random.Random(1), Counter(), [], []
    for seed in range(FIRST, FIRST + count):
        row = sheet(seed, tmp_path)
        ways = [*EVERY, *(way for way in SOME if chance.random() < 0.05)]
        answers = {way.__name__: way(row, tmp_path) for way in ways}
        assert len(set(answers.values()) - {"wrong"}) <= 1, (row.words, answers)  # every way in reads alike
        wrong += [(row.words, name) for name, answer in answers.items() if answer == "wrong"]
        tally[row.documented, answers["by_the_api"]] += 1
        if row.documented and answers["by_the_api"] == "refused":
            asked.append(row.words)
        row.path.unlink()
    print(dict(tally), *asked[:10], sep="\n")
    assert not wrong, wrong[:5]
    documented = tally[True, "right"] + tally[True, "refused"]
    assert tally[True, "right"] >= 0.95 * documented, asked[:10]
    assert tally[False, "refused"] > 0


def test_what_was_asked_is_answered_by_the_option_that_the_refusal_names(tmp_path):
    for seed in range(FIRST, FIRST + amount(short=80, long=600)):
        row = sheet(seed, tmp_path)
        if not row.options:
            continue
        out = tmp_path / "out.csv"
        done = CliRunner().invoke(cli, ["inspect", str(row.path), *row.options, "--csv", str(out)])
        if done.exception is not None:
            told(row, done.exception)
            continue
        samples = read_any(out).samples
        assert is_right(samples.t, samples.x, samples.z), row.words


def test_drawn_tables_go_through_real_processes(tmp_path):
    for seed in random.Random(2).sample(range(FIRST, FIRST + 3000), amount(short=3, long=60)):
        row = sheet(seed, tmp_path)
        out = tmp_path / "out.csv"
        out.unlink(missing_ok=True)
        done = subprocess.run([sys.executable, "-m", "yapa.cli", "inspect", str(row.path), "--csv", str(out)], capture_output=True,
                              text=True, timeout=limit(30), check=False)
        assert "Traceback" not in done.stderr
        assert done.returncode in (0, 2), done.stderr
        if done.returncode == 0:
            samples = read_any(out).samples
            assert is_right(samples.t, samples.x, samples.z), row.words
        else:
            assert "expected" in done.stderr
