"""Cases that nobody would write go through load, check, simulate, fit and solve: what cannot be used is told in words.

Short here, 3,000 by ``make hard``, where the limits of time are asserted: load, check and simulate within 10 s of processor time
where outer steps times moving bodies are at most 1e5; a stop heard within 0.3 s; a fit over within 120 s. Memory is limited always.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from tests.hard.levels import amount, limit
from tests.hard.trying import MOST_WORK

ROOT = Path(__file__).parent.parent.parent
BATCH = 50
FIRST = 20_000
LONGEST = 3600.0
"""s after which a batch hangs"""


def run_batch(first: int, count: int, fits: bool) -> list[dict[str, Any]]:
    """What became of some mutants; a process that is lost is a fault of the one it was at."""
    command = [sys.executable, "-m", "tests.hard.trying", str(first), str(count), str(int(fits))]
    done = subprocess.run(command, capture_output=True, text=True, cwd=ROOT, timeout=LONGEST, check=False)
    lines = [json.loads(line) for line in done.stdout.splitlines()]
    rows = [line for line in lines if "begun" not in line]
    if done.returncode != 0:
        at = next(line["begun"] for line in reversed(lines) if "begun" in line)
        rows.append({"seed": at, "fault": f"the process ended with {done.returncode}: {done.stderr[-1500:]}"})
    return rows


def test_no_case_ends_in_a_traceback_a_hang_or_too_much_memory():
    rows = amount(short=60, long=3000)
    begins = range(FIRST, FIRST + rows, BATCH)
    with ThreadPoolExecutor(2) as pool:
        tried = [row for batch in pool.map(lambda k: run_batch(k, min(BATCH, FIRST + rows - k), True), begins) for row in batch]
    if "YAPA_HARD_LOG" in os.environ:
        Path(os.environ["YAPA_HARD_LOG"]).write_text("\n".join(json.dumps(row) for row in tried))
    faults = [row for row in tried if "fault" in row]
    listed = "\n\n".join(f"seed {row['seed']}: ...{row['fault'][-1200:]}" for row in faults[:12])
    assert not faults, f"{len(faults)} faults\n{listed}"
    assert len(tried) == rows
    told = [row for row in tried if "told" in row]
    assert 0.2 * rows < len(told) < 0.9 * rows  # the mutants are neither all broken nor all sound
    unclear = [row["words"] for row in told if row["told"] > 2048 or not row["clear"]]
    assert not unclear, unclear[:5]
    slow = [(row["load"], row["seed"]) for row in tried if row.get("load", 0) > limit(10)]
    for what in ("check", "simulate"):
        slow += [(row[what], row["seed"], what) for row in tried
                 if row.get("work", 1e9) <= MOST_WORK and row.get(what, 0) > limit(10)]
    slow += [(row[what], row["seed"], what) for row in tried for what in ("fit", "solve")
             if row.get(f"heard {what}") is None and row.get(what, 0) > limit(120)]
    assert not slow, sorted(slow)[-5:]
    deaf = [(row[what], row["seed"], what) for row in tried for what in row if what.startswith("heard") and row[what] is not None
            and row[what] > limit(0.3)]
    assert not deaf, sorted(deaf)[-5:]
    statuses = {row["status"] for row in tried if "status" in row}
    assert statuses <= {"converged", "not converged", "cancelled", "limit reached"}
    print(f"{rows} mutants: {len(told)} told, {sum('fit' in row for row in tried)} fitted, statuses {sorted(statuses)}")
