"""The page's shape and how a sphere meets it, added to a copy by two files and two lines, and held to what is known of them."""

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
SHAPES, PAIRS = "src/yapa/case/shapes", "src/yapa/engine/kernels/geometry/pairs"
SCENE = """
import numpy as np
from yapa.case import Body, Box, Case, Plane, Sphere, Stepped, Surface, get_number, numbers
from yapa.case.shapes.disc import Disc
from yapa.engine import simulate
from yapa.errors import YapaError
from yapa.formats.case_json import case_text, parse_case

R, r, e = 0.3, 0.04, 0.6
skin = {"default": Surface(restitution=e, friction=0.0)}


def drop(x, shape=None, duration=0.7, **how):
    plate = Body(motion="static", shapes=(shape or Disc(kind="disc", radius=R),), **how)
    ball = Body(shapes=(Sphere(kind="sphere", radius=r),), mass=0.2, position=(x, 0, 0.5))
    return Case(bodies={"ball": ball, "plate": plate}, surfaces=skin, duration=duration)


def apex(case):
    motion = simulate(case)
    after = motion.times > motion.contacts[0].time
    return motion.states[after, motion.names.index("ball"), 2].max()


fall = 0.5 - r
top = r + e**2 * fall
print("as from a plane", abs(apex(drop(0.1)) - top) < 5e-5, abs(apex(drop(0.1)) - apex(drop(0.1, Plane(kind="plane")))) < 1e-6)
print("fixed steps", abs(apex(drop(0.1).model_copy(update={"profile": Stepped(kind="stepped", step=2e-4)})) - top) < 2e-3)
print("beside it", len(simulate(drop(R + r + 1e-3)).contacts) == 0)
rim = simulate(drop(R + 0.5 * r)).contacts[0]
print("on its rim", np.allclose(rim.point, (R, 0, 0), atol=1e-6), np.allclose(rim.normal, (0.5, 0, np.sqrt(0.75)), atol=1e-6))
turned = simulate(drop(0.1, orientation=(np.cos(0.2), 0, np.sin(0.2), 0))).contacts[0]
print("turned", np.allclose(turned.normal, (np.sin(0.4), 0, np.cos(0.4)), atol=1e-9))
print("from below", simulate(drop(0.1, position=(0, 0, 1.0)).model_copy(update={"bodies": {
    **drop(0.1, position=(0, 0, 1.0)).bodies, "ball": drop(0.1).bodies["ball"].model_copy(update={"velocity": (0, 0, 5.0)})}})
    ).contacts[0].normal[2] < -0.999999)
case = drop(0.35)
print("a number of the case", get_number(case, "bodies.plate.radius") == R, "bodies.plate.radius" in numbers(case),
      len(simulate(case).contacts) == 0, len(simulate(case, {"bodies.plate.radius": 0.36}).contacts) > 0)
print("in a file", parse_case(case_text(case), "case") == case)
print("drawn", len(simulate(case).body("plate").shapes[0].vertices) == 48)
for wrong, words in ((lambda: Body(shapes=(Disc(kind="disc", radius=R),)), "no volume"),
                     (lambda: simulate(case.model_copy(update={"bodies": {**case.bodies, "crate": Body(
                         shapes=(Box(kind="box", size=(0.1, 0.1, 0.1)),), position=(0, 0, 1))}})), "no contact with each other")):
    try:
        wrong()
        print("refused", False)
    except (YapaError, ValueError) as error:
        print("refused", words in str(error))
"""


@pytest.fixture(scope="module")
def copy(tmp_path_factory):
    """The sources with the page's shape and pair: two new files, a line each in two others."""
    place = tmp_path_factory.mktemp("copy")
    shutil.copytree(ROOT / "src", place / "src", ignore=shutil.ignore_patterns("__pycache__"))
    section = PAGE[PAGE.index("\n# A shape"):]
    shape, shape_entry, pair, pair_entry = re.findall(r"```python\n(.*?)```", section, re.DOTALL)
    kinds, pairs = r"^NAMES: [^)]*\)\n", r"^PAIRS: .*\n"
    for folder, name, text, at, entry in ((SHAPES, "disc", shape, kinds, shape_entry),
                                          (PAIRS, "sphere_disc", pair, pairs, "PAIRS: tuple[Pair, ...] = (\n" + pair_entry)):
        (place / folder / f"{name}.py").write_text(text)
        registry = place / folder / "registry.py"
        before = registry.read_text()
        registry.write_text(re.sub(at, entry, before, flags=re.MULTILINE))
        changed = [line for line in registry.read_text().splitlines() if line not in before.splitlines()]
        assert len(changed) == 1
        assert name in changed[0]
    return place


def test_a_ball_meets_the_plate_as_the_page_says(copy, tmp_path):
    env = os.environ | {"PYTHONPATH": str(copy / "src"), "XDG_CACHE_HOME": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", SCENE], env=env, capture_output=True, text=True, timeout=900, check=False)
    assert done.returncode == 0, done.stderr[-3000:]
    lines = [line for line in done.stdout.splitlines() if line]
    assert len(lines) == 11
    assert [line for line in lines if "False" in line] == []
