"""``python tools/same_results.py OLD NEW [SCENES]``: whether two checkouts give the same results.

OLD and NEW are folders, or commits of this repository. The demo cases of OLD, random scenes and every case that its tests of the
physics compile are given to both. Motions and contacts (from the API) must have the same bits. Of the demo cases, so must the JSON
of ``simulate``; outcomes (``measure --all``) agree to 1e-12; fits give the same verdict, tell the same numbers as determined,
values within 0.02 of a deviation, and take as many simulations to a tenth.
Cases are those of the older checkout, in its format; paths in the results
are compared in their present spelling. It leaves nothing behind that a later run reads. Ends with 1 where something differs.
"""

from __future__ import annotations

import json
import math
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any

from yapa.case.parameter_path import canonical_path

SCENES = 200
OUTCOME, IN_DEVIATIONS, SIMULATIONS = 1e-12, 0.02, 0.1
TIMES = ("seconds", "took")
"""Keys whose values are no results."""
RENAMED = {"weight": "severity"}
"""Key of a remark in older results → its name now."""
SCENE_MAKER = """
import sys
from pathlib import Path
try:
    from benchmarks.clusters import random_cluster, random_scene
except ImportError:  # an older checkout
    from tests.physics.test_random_scenes import random_cluster, random_scene
try:
    from yapa.formats.case_json import write_case
except ImportError:  # an older checkout
    from yapa.case import write_case
for k in range(int(sys.argv[2])):
    made = random_scene(k) if k % 2 else random_cluster(k)
    write_case(made[0] if isinstance(made, tuple) else made, Path(sys.argv[1]) / f"random-{k:03d}.yapa")
"""
TEST_SCENES = """
import hashlib, sys
from pathlib import Path
import pytest
from yapa.engine.runner import Program
from yapa.formats.case_json import case_text
folder, begin = Path(sys.argv[1]), Program.__init__
def noted(self, case):
    text = case_text(case)
    (folder / f"physics-{hashlib.sha256(text.encode()).hexdigest()[:12]}.yapa").write_text(text)
    begin(self, case)
Program.__init__ = noted
sys.exit(pytest.main(["-q", "-p", "no:pytest-qt", "-p", "no:cacheprovider", "tests/physics"]))
"""
"""Runs the tests of the physics and keeps every case that they compile."""
MOTION = """
import hashlib, sys
from dataclasses import fields
import numpy as np
from pathlib import Path
from yapa.api import load, simulate
from yapa.errors import YapaError
for path in map(Path, sys.argv[2:]):
    try:
        motion = simulate(load(path, allow_outside=True))
    except YapaError as error:
        print(path.stem, type(error).__name__, flush=True)
        continue
    rows = [[value.tolist() if isinstance(value, np.ndarray) else value for f in fields(c) for value in [getattr(c, f.name)]]
            for c in motion.contacts]
    told = motion.times.tobytes() + motion.states.tobytes() + repr((motion.status, rows)).encode()
    print(path.stem, hashlib.sha256(told).hexdigest(), len(rows), flush=True)
"""
"""Prints a line for each case: its name, and what stands for every bit of its motion and contacts."""


@contextmanager
def checkout(what: str) -> Iterator[Path]:
    """A folder as it is, or a commit in a folder of its own for as long as it is needed."""
    if Path(what).is_dir():
        yield Path(what).resolve()
        return
    with tempfile.TemporaryDirectory() as place:
        tree = Path(place) / "tree"
        subprocess.run(["git", "worktree", "add", "--detach", "-q", tree, what], check=True)
        try:
            yield tree
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", tree], check=True)


def run(tree: Path, *command: object) -> subprocess.CompletedProcess[str]:
    """Python in a checkout, its own code before any other."""
    env = os.environ | {"PYTHONPATH": f"{tree / 'src'}{os.pathsep}{tree}"}
    return subprocess.run([sys.executable, *map(str, command)], cwd=tree, env=env, capture_output=True, text=True, check=False)


def motions(tree: Path, cases: list[Path]) -> dict[str, str]:
    """Name of each case → what stands for its motion, from one process."""
    done = run(tree, "-c", MOTION, "-", *cases)
    if done.returncode:
        raise SystemExit(done.stderr)
    return dict(line.split(" ", 1) for line in done.stdout.splitlines() if line)


def results(tree: Path, case: Path) -> dict[str, Any]:
    """What a checkout says of a case: exit codes and JSON."""
    with tempfile.TemporaryDirectory() as out:
        return _results(tree, case, Path(out))


def _results(tree: Path, case: Path, out: Path) -> dict[str, Any]:
    told, outcomes, fit = (out / name for name in ("told.json", "outcomes.json", "fit.json"))
    found: dict[str, Any] = {}
    asked = {"simulate": ["--json", told], "measure": ["--all", "--json", outcomes], "fit": ["--json", fit, "--threads", "2"]}
    for command, options in asked.items():
        found[f"{command} ends with"] = run(tree, "-m", "yapa.cli", command, case, *options).returncode
    for path in (told, outcomes, fit):
        found[path.name] = in_present_spelling(without_times(json.loads(path.read_text()))) if path.exists() else None
    return found


def without_times(told: Any) -> Any:
    """JSON without how long something took."""
    if isinstance(told, dict):
        return {key: without_times(value) for key, value in told.items() if key not in TIMES}
    return [without_times(value) for value in told] if isinstance(told, list) else told


def in_present_spelling(told: Any) -> Any:
    """JSON with the paths of case format 1 as they are spelt now, by the table of the upgrade."""
    if isinstance(told, dict):
        return {RENAMED.get(key, canonical_path(key)): in_present_spelling(value) for key, value in told.items()}
    if isinstance(told, list):
        return [in_present_spelling(value) for value in told]
    return canonical_path(told) if isinstance(told, str) else told


def differences(old: dict[str, Any], new: dict[str, Any]) -> Iterator[str]:
    """What is not as it was."""
    for key in old:
        if key == "fit.json" and old[key] and new[key]:
            yield from fit_differences(old[key], new[key])
        elif key == "outcomes.json":
            yield from (f"outcomes{where}: {a!r} before, {b!r} now" for where, a, b in unlike(old[key], new[key], OUTCOME))
        elif key == "told.json":
            yield from (f"simulate{where}: {a!r} before, {b!r} now" for where, a, b in unlike(old[key], new[key], 0.0))
        elif old[key] != new[key]:
            yield f"{key}: {'other bytes' if isinstance(old[key], bytes) else f'{old[key]!r} before, {new[key]!r} now'}"


def unlike(a: Any, b: Any, share: float, where: str = "") -> Iterator[tuple[str, Any, Any]]:
    """Where two pieces of JSON differ, numbers by more than a share."""
    if isinstance(a, dict) and isinstance(b, dict) and a.keys() == b.keys():
        for key in a:
            yield from unlike(a[key], b[key], share, f"{where}.{key}")
    elif isinstance(a, list) and isinstance(b, list) and len(a) == len(b):
        for k, (one, two) in enumerate(zip(a, b, strict=True)):
            yield from unlike(one, two, share, f"{where}[{k}]")
    elif isinstance(a, int | float) and isinstance(b, int | float) and not isinstance(a, bool):
        if not math.isclose(a, b, rel_tol=share, abs_tol=0.0):
            yield where, a, b
    elif a != b:
        yield where, a, b


def fit_differences(old: dict[str, Any], new: dict[str, Any]) -> Iterator[str]:
    """What two fits do not have in common."""
    if old["stopped"] != new["stopped"]:
        yield f"fit: {old['stopped']} before, {new['stopped']} now"
    if abs(new["simulations"] - old["simulations"]) > SIMULATIONS * old["simulations"]:
        yield f"fit: {old['simulations']} simulations before, {new['simulations']} now"
    if old["values"].keys() != new["values"].keys():
        yield f"fit: {', '.join(old['values'])} before, {', '.join(new['values'])} now"
        return
    for path, before in old["values"].items():
        now = new["values"][path]
        if before["determined"] != now["determined"]:
            yield f"fit: {path} {'determined' if before['determined'] else 'not determined'} before"
        elif before["determined"] and before["std"] and abs(now["value"] - before["value"]) > IN_DEVIATIONS * before["std"]:
            yield f"fit: {path} {before['value']} ± {before['std']} before, {now['value']} now"


def main() -> int:
    old, new = sys.argv[1:3]
    count = int(sys.argv[3]) if len(sys.argv) > 3 else SCENES
    with ExitStack() as stack:
        trees = [stack.enter_context(checkout(what)) for what in (old, new)]
        place = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        for maker in ((SCENE_MAKER, place, str(count)), (TEST_SCENES, place)):
            made = run(trees[0], "-c", *maker)
            if made.returncode:
                print(made.stdout, made.stderr)
                return 2
        both = stack.enter_context(ThreadPoolExecutor(len(trees)))
        demos = sorted((trees[0] / "src/yapa/demo/data").glob("*.yapa"))
        cases = [*demos, *sorted(place.glob("*.yapa"))]
        before, now = both.map(motions, trees, [cases, cases])
        other = [name for name in before if before[name] != now.get(name)]
        print(*(f"{name}: {before[name]} before, {now.get(name)} now" for name in other), sep="\n")
        print(f"motions and contacts: {len(before) - len(other)} of {len(cases)} cases have the same bits", flush=True)
        off = 0
        for case in demos:
            told = list(differences(*both.map(results, trees, [case, case])))
            off += bool(told)
            print(f"{case.stem}: {'the same' if not told else ''}", *(f"\n  {line}" for line in told[:20]), flush=True)
    print(f"outcomes and fits: {len(demos) - off} of {len(demos)} cases the same")
    return 1 if off or other else 0


if __name__ == "__main__":
    sys.exit(main())
