"""Cases as nobody would write them: the demo cases and random scenes with numbers, words and parts changed at random.

A mutant is text, whatever became of it. The same seed gives the same mutant.
"""

from __future__ import annotations

import json
import math
import random
from typing import Any

from yapa.demo import demo_paths
from yapa.formats.case_file import load_case
from yapa.formats.case_json import case_text

NUMBERS = (0, 1, -1, 0.5, 2, 3, 1e-300, 1e-12, 1e-9, 1e-7, 1e-6, 1e-3, 0.1, 10, 100, 1e3, 1e4, 1e5, 1e6, 1e9, 1e12, 1e300, -1e-9,
           -0.1, -10, -1e5, -1e300, 3600, 9.81, 1 / 3, 2**53, 2**63, 2**64, math.pi, 0.999999, 1.000001)
ODD = (None, True, False, "", "x", "0.1", "NaN", [], {}, [0, 0, 0], [1, 2], "\u0000", "a.b", "a+b", "[bold]x[/bold]", ":fire:",
       "orange " * 20, "\ud800", "Ω", {"x": 1}, [[]], float("nan"), float("inf"))
KINDS = ("sphere", "box", "capsule", "cylinder", "hull", "plane", "cone")
MOTIONS = ("dynamic", "static", "kinematic", "still")


def _cases() -> list[dict[str, Any]]:
    """The demo cases, small: short tracks, few samples."""
    out = []
    for path in demo_paths():
        case = load_case(path)[0]
        tracks = []
        for track in case.tracks:
            s = track.samples
            assert s is not None
            cut = {name: None if (c := getattr(s, name)) is None else c[:60] for name in ("x", "y", "z", "angle")}
            short = type(s)(t=s.t[:60], **cut)
            tracks.append(track.model_copy(update={"file": None, "samples": short}))
        out.append(json.loads(case_text(case.model_copy(update={"tracks": tuple(tracks), "trials": ()}))))
    return out


CASES = _cases()


def _nodes(tree: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """The paths of everything in a tree; of long lists the first and last few."""
    out = [at]
    if isinstance(tree, dict):
        for key in tree:
            out += _nodes(tree[key], (*at, key))
    elif isinstance(tree, list):
        for k in range(len(tree)) if len(tree) <= 12 else (0, 1, 2, len(tree) // 2, len(tree) - 1):
            out += _nodes(tree[k], (*at, k))
    return out


def _get(tree: Any, at: tuple[Any, ...]) -> Any:
    for key in at:
        tree = tree[key]
    return tree


def _set(tree: Any, at: tuple[Any, ...], value: Any) -> None:
    _get(tree, at[:-1])[at[-1]] = value


def _change(tree: dict[str, Any], chance: random.Random) -> None:
    """One change, somewhere."""
    places = [at for at in _nodes(tree) if at]
    numbers = [at for at in places if isinstance(_get(tree, at), int | float) and not isinstance(_get(tree, at), bool)]
    kind = chance.random()
    if kind < 0.55 and numbers:
        at = chance.choice(numbers)
        old = _get(tree, at)
        how = chance.random()
        if how < 0.45:
            new: Any = chance.choice(NUMBERS)
        elif how < 0.75:
            new = old * chance.choice((-1, 0.1, 0.5, 0.9, 1.1, 2, 10, 1000))
        else:
            new = old + chance.uniform(-1, 1) * max(abs(old), 0.1)
        _set(tree, at, new)
        return
    at = chance.choice(places)
    parent = _get(tree, at[:-1])
    if kind < 0.65:
        parent[at[-1]] = chance.choice(ODD)
    elif kind < 0.72:
        if isinstance(parent, dict):
            parent.pop(at[-1])
        else:
            del parent[at[-1]]
    elif kind < 0.78 and isinstance(parent, list):
        parent.insert(at[-1], json.loads(json.dumps(parent[at[-1]], allow_nan=True)))
    elif kind < 0.84 and isinstance(parent, dict):
        parent[chance.choice(("mass", "density", "frction", "spin", "path", "under", "locked", "belt", ""))] = chance.choice(
            (*ODD, *NUMBERS))
    elif kind < 0.9 and tree.get("bodies") and isinstance(tree["bodies"], dict):
        _add_body(tree, chance)
    elif kind < 0.94:
        tree["profile"] = chance.choice((
            {"kind": "stepped"}, {"kind": "stepped", "step": chance.choice((1e-6, 1e-3, 1 / 60, 0.1)), "substeps": chance.choice(
                (1, 4, 64))}, {"kind": "precise", "step": chance.choice((1e-6, 1e-4, 1e-3, 0.1))}, {"kind": "exact"}))
    else:
        wanted = {"outcome": chance.choice(("apex", "rest time", "landing", "travel", "overlap", "tilt", "hit", "spin", "no such")),
                  "index": chance.choice((None, 1, 2, 99)), "value": chance.choice(NUMBERS), "tolerance": chance.choice(NUMBERS)}
        if isinstance(tree.setdefault("targets", []), list):
            tree["targets"].append({k: v for k, v in wanted.items() if v is not None})


def _add_body(tree: dict[str, Any], chance: random.Random) -> None:
    """A body of a random shape at a random place, or many."""
    def length() -> float:
        return chance.choice((0.05, 0.1, 0.2, 1e-6, 1e-3, 1.0, 1e5))

    for _ in range(chance.choice((1, 1, 1, 2, 5, 30))):
        kind = chance.choice(KINDS)
        shape = {"sphere": {"radius": length()}, "box": {"size": [length(), length(), length()]},
                 "capsule": {"radius": length(), "length": length()}, "cylinder": {"radius": length(), "length": length()},
                 "hull": {"points": [[chance.uniform(-1, 1) * 0.1 for _ in range(3)] for _ in range(chance.choice((4, 8, 60)))]},
                 "plane": {"normal": [chance.uniform(-1, 1), 0, 1]}}.get(kind, {})
        body = {"motion": chance.choice(MOTIONS), "shapes": [{"kind": kind, **shape}],
                "position": [chance.uniform(-1, 1), chance.uniform(-1, 1), chance.uniform(0, 2)],
                "velocity": [chance.uniform(-5, 5) for _ in range(3)]}
        if body["motion"] == "kinematic":
            body["path"] = [{"time": t, "position": [chance.uniform(-1, 1), 0, 0.1]} for t in (0, 0.5, 1.0)]
        tree["bodies"][f"body {len(tree['bodies'])}"] = body


def mutant(seed: int) -> str:
    """The text of a case nobody would write."""
    chance = random.Random(seed)
    tree = json.loads(json.dumps(chance.choice(CASES)))
    for _ in range(chance.choice((1, 1, 1, 2, 3, 6))):
        try:
            _change(tree, chance)
        except (KeyError, IndexError, TypeError, AttributeError):
            continue  # the place is gone
    text = json.dumps(tree, allow_nan=True, ensure_ascii=chance.random() < 0.5)
    if chance.random() < 0.06:
        at = chance.randrange(len(text))
        text = chance.choice((text[:at], text[:at] + chance.choice("{}[],:\"\\0x\n") + text[at:],
                              text.replace(":", ": " + "9" * 5000, 1), "[" * 20000, text + text))
    return text
