"""Memory after eight minutes of use is that after two, but for a twentieth. Only in ``make hard``: it takes eight minutes."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from tests.hard.levels import HARD

ROUNDS, SECONDS = 54, 480.0
MOST_GROWTH = 0.05


@pytest.mark.skipif(not HARD, reason="eight minutes; run by make hard")
def test_memory_does_not_grow_in_use():
    done = subprocess.run([sys.executable, "-m", "tests.hard.using", str(ROUNDS), str(SECONDS)], capture_output=True, text=True,
                          cwd=Path(__file__).parent.parent.parent, timeout=3600, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    rows = [tuple(map(float, line.split())) for line in done.stdout.splitlines()]
    early = max(megabytes for _, seconds, megabytes in rows if seconds <= SECONDS / 4 + SECONDS / ROUNDS)
    last = rows[-1][2]
    print(f"{early:.0f} MB after two minutes, {last:.0f} MB after {rows[-1][1] / 60:.1f} minutes")
    assert last <= (1 + MOST_GROWTH) * early
