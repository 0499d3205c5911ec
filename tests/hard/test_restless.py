"""A restless hand finds no fault: half a minute of one seed, or, with ``YAPA_HARD``, an hour of many, two at a time.

Where it finds one, seed and last acts are printed, and the acts are made fewer as long as the fault stays.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
HARD = bool(os.environ.get("YAPA_HARD"))
SECONDS = 180.0 if HARD else 30.0
FIRST = int(os.environ.get("YAPA_SEED", "1"))
COUNT = int(os.environ.get("YAPA_SEEDS", "20" if HARD else "1"))
SHRINKING = 300.0 if HARD else 60.0
"""s that acts are made fewer"""
SILENT = 180.0 if HARD else 600.0
"""s that a process may take beyond its time"""


def restless(folder: Path, seed: int, seconds: float, acts: list[dict] | None = None) -> dict:
    """Let the hand at the window in a process of its own: its faults, its acts."""
    folder.mkdir(parents=True, exist_ok=True)
    words = [sys.executable, "-X", "faulthandler", "-m", "tests.hard.restless", str(seed), str(seconds), str(folder / "hand")]
    if acts is not None:
        (folder / "acts.json").write_text(json.dumps(acts))
        words.append(str(folder / "acts.json"))
    held = {} if HARD else {"YAPA_HELD": "60"}  # beside other tests the machine is slow, not the program
    lost = {"acts": acts or [], "last": [], "count": 0}
    try:
        done = subprocess.run(words, capture_output=True, text=True, timeout=seconds + SILENT, cwd=ROOT, check=False,
                              env={**os.environ, **held})
    except subprocess.TimeoutExpired as late:
        return {"faults": [f"hangs: {str(late.stderr)[-1500:]}"], **lost}
    lines = [line for line in done.stdout.splitlines() if line.startswith("{")]
    if not lines:
        at = max(done.stderr.find("Current thread"), 0)
        words_of_it = f"{done.stdout[-3000:]} {done.stderr[:200]} {done.stderr[at : at + 2000]}"
        return {"faults": [f"dies with {done.returncode}: {words_of_it}"], **lost}
    return json.loads(lines[-1])


def kind_of(faults: list[str]) -> str:
    """What the first fault is, whatever its numbers."""
    lines = faults[0].strip().splitlines()
    return f"{faults[0].split(':')[0]} {lines[-1][:60]}"


def shrunk(folder: Path, seed: int, acts: list[dict], kind: str) -> list[dict]:
    """Fewer acts that end in a fault of the same kind: pieces are left out, ever smaller ones, while there is time."""
    end, piece = time.monotonic() + SHRINKING, max(len(acts) // 2, 1)
    while piece and time.monotonic() < end:
        k = 0
        while k < len(acts) and time.monotonic() < end:
            fewer = acts[:k] + acts[k + piece :]
            found = restless(folder / "shrink", seed, 120.0, fewer)
            if found["faults"] and kind_of(found["faults"]) == kind:
                acts = fewer
            else:
                k += piece
        piece //= 2
    return acts


@pytest.mark.parametrize("seed", range(FIRST, FIRST + COUNT))
@pytest.mark.timeout(SECONDS + SILENT + SHRINKING + 600)
def test_a_restless_hand_finds_no_fault(tmp_path, seed):
    found = restless(tmp_path, seed, SECONDS)
    if found["faults"]:
        kind = kind_of(found["faults"])
        print(f"seed {seed}, {found['count']} acts; the last:", *found["last"], sep="\n  ")
        print("fewest acts:", json.dumps(shrunk(tmp_path, seed, found["acts"], kind), ensure_ascii=False))
    assert not found["faults"], f"seed {seed}: " + "\n".join(found["faults"][:3])
    assert found["count"] > SECONDS / 4
