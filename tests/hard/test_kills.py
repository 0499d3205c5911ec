"""kill -9 while a person works: at most three seconds of edits are lost, and every file opens.

Short here, 200 kills by ``make hard``. A test ends only children of its own.
"""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from tests.hard.levels import amount
from tests.hard.working import number_of
from yapa.formats.case_json import read_case
from yapa.session.recovery import Recovery

MOST_LOST = 3.0
"""s of edits"""
ROOT = Path(__file__).parent.parent.parent


def kept_in(folder: Path) -> int:
    """The newest edit that the files of a folder keep; every one of them must open."""
    newest = 0
    for file in folder.glob("*.yapa"):
        newest = max(newest, number_of(read_case(file)))
    for file in (folder / "state").glob("recovery-*.json"):
        newest = max(newest, number_of(Recovery.read(file).case))
    return newest


def kill_again_and_again(seed: int, kills: int) -> list[float]:
    """How many seconds of edits every kill lost, in one folder of work that goes on."""
    chance, lost = random.Random(seed), []
    with tempfile.TemporaryDirectory() as name:
        folder, first = Path(name), 0
        for k in range(kills):
            child = subprocess.Popen([sys.executable, "-m", "tests.hard.working", name, str(1000 * seed + k), str(first)],
                                     stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, cwd=ROOT)
            try:
                early = chance.random() < 0.3  # while it recovers what the last one left
                words = ("recovering", "ready") if early else ("ready",)
                lines = []
                for line in child.stdout:
                    lines.append(line)
                    if line.split()[0] in words:
                        break
                time.sleep(chance.uniform(0.0, 0.3 if early else 4.0))
            finally:
                child.kill()
                killed = time.time()
                rest, errors = child.communicate()
            assert not errors, errors
            made = {int(n): float(t) for word, n, t in map(str.split, "".join([*lines, rest]).splitlines()) if word == "edit"}
            newest = kept_in(folder)
            assert newest >= first, "work that was kept before is gone"
            gone = [t for number, t in made.items() if number > newest]
            lost.append(max((killed - t for t in gone), default=0.0))
            first = max(newest, first)
    return lost


def test_a_kill_loses_at_most_three_seconds_and_every_file_opens():
    rows = amount(short=6, long=200)
    with ThreadPoolExecutor(2) as pool:
        found = list(pool.map(lambda seed: kill_again_and_again(seed, rows // 2), (1, 2)))
    lost = sorted(found[0] + found[1])
    print(f"{len(lost)} kills: median {lost[len(lost) // 2]:.2f} s lost, worst {lost[-1]:.2f} s")
    assert lost[-1] <= MOST_LOST
