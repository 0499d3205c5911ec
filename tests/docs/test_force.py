"""The page's force, added to a copy of the engine by one file and one line, and held to its closed form in every regime."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs/extending.md").read_text()
FORCES = "src/yapa/engine/kernels/dynamics/forces"
SCENE = """
import numpy as np
from yapa.case import Body, Box, Case, Plane, Stepped
from yapa.case.constants import Constant
from yapa.engine import simulate, simulate_many

crate = Body(shapes=(Box(kind="box", size=(0.2, 0.3, 0.4)),), mass=2.0, position=(0, 0, 5.0), angular_velocity=(0, 3.0, 0),
             gravity_multiplier=0.0)
flying = Case(bodies={"crate": crate}, constants={"thrust_crate": Constant(value=4.0)}, duration=1.0)
t = np.linspace(0.0, 1.0, 21)


def off(case, values=None, a=2.0, w=3.0):
    place = simulate(case, values, times=t).trajectory("crate").position(t)
    x, z = a / w * (t - np.sin(w * t) / w), 5.0 + a / w**2 * (1.0 - np.cos(w * t))
    return np.abs(place - np.column_stack([x, 0 * t, z])).max()


print("event-driven", off(flying) < 2e-5)
print("of another size", off(flying, {"constants.thrust_crate": 8.0}, a=4.0) < 4e-5)
print("fixed steps", off(flying.model_copy(update={"profile": Stepped(kind="stepped", step=0.001)})) < 5e-3)
many = simulate_many(flying, ["constants.thrust_crate"], [[0.0], [4.0]],
                     lambda m: m.trajectory("crate").position(np.array([1.0]))[0])
print("many", abs(many[0][2] - 5.0) < 1e-12, abs(many[1][2] - 5.0 - 2.0 / 9.0 * (1.0 - np.cos(3.0))) < 2e-5)
floor = Body(motion="static", shapes=(Plane(kind="plane"),))
held = crate.model_copy(update={"position": (0, 0, 0.2), "angular_velocity": (0, 0, 0), "gravity_multiplier": 1.0})
standing = flying.model_copy(update={"bodies": {"crate": held, "floor": floor}})
print("less than its weight", abs(simulate(standing).states[-1, 0, 2] - 0.2) < 1e-9)
lifted = simulate(standing, {"constants.thrust_crate": 2.0 * (9.80665 + 1.0)}, times=t).trajectory("crate").position(t)[:, 2]
print("more than its weight", np.abs(lifted - 0.2 - 0.5 * t**2).max() < 1e-6)
"""


@pytest.fixture(scope="module")
def copy(tmp_path_factory):
    """The sources with the page's force, and what was changed in them."""
    place = tmp_path_factory.mktemp("copy")
    shutil.copytree(ROOT / "src", place / "src", ignore=shutil.ignore_patterns("__pycache__"))
    section = PAGE[PAGE.index("\n# A force"):]
    force, entry = re.findall(r"```python\n(.*?)```", section, re.DOTALL)[:2]
    (place / FORCES / "thrust.py").write_text(force)
    registry = place / FORCES / "registry.py"
    before = registry.read_text()
    registry.write_text(re.sub(r"^NAMES: .*\n", entry, before, flags=re.MULTILINE))
    changed = [line for line in registry.read_text().splitlines() if line not in before.splitlines()]
    assert len(changed) == 1
    return place


def test_the_force_acts_in_every_regime(copy, tmp_path):
    env = os.environ | {"PYTHONPATH": str(copy / "src"), "XDG_CACHE_HOME": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", SCENE], env=env, capture_output=True, text=True, timeout=900, check=False)
    assert done.returncode == 0, done.stderr[-3000:]
    lines = [line for line in done.stdout.splitlines() if line]
    assert len(lines) == 6
    assert [line for line in lines if "False" in line] == []
