"""``python tools/surface.py``: what others may rely on, written to ``tests/golden/surface.json`` and ``docs/api.md``.

Names of ``yapa``, ``yapa.api`` and ``yapa.errors`` with their signatures, commands with their options, exit codes, and the keys of
every JSON that a command writes. A test says where the two files are not what this makes: a change of the surface is a change of
them, seen in a review. Additions are fine; what goes, or means something else, is a change for users.
"""

from __future__ import annotations

import inspect
import json
import tempfile
from pathlib import Path
from typing import Any

import click
from click.testing import CliRunner

import yapa
from yapa import api, errors, extend
from yapa.case.outcome_specs import OUTCOME_SPECS, outcome_and_index
from yapa.cli import cli
from yapa.cli import exit_codes as codes
from yapa.cli.commands import command_of, names
from yapa.demo import DATA

ROOT = Path(__file__).parents[1]
GOLDEN, PAGE = ROOT / "tests" / "golden" / "surface.json", ROOT / "docs" / "api.md"
DROP, WANTED = str(DATA / "orange-drop.yapa"), str(DATA / "orange-wanted.yapa")
WRITES = {
    "simulate": [DROP], "measure": [DROP], "fit": [DROP], "calibrate": [str(DATA / "orange-drop.csv"), "--sphere", "0.038"],
    "check": [DROP], "solve": [WANTED, "--seed", "1", "--threads", "1"],
    "compare": [DROP, "--profile", "60 Hz, 1 substep, 10 iterations"],
    "sweep": [DROP, "--over", "gravity", "--outcome", "orange apex 1", "--count", "3"],
    "trust": [DROP, "--count", "1", "--curve", "pairs.rind+pad.restitution", "--seed", "1"],
    "inspect": [str(DATA / "orange-drop.csv")],
}
"""A call of every command that writes JSON."""
HEAD = """# What you can rely on

The names, options, exit codes and keys on this page stay, or change with a line in the changelog. Everything else may move.
`python tools/surface.py` rewrites the page; a test holds it to the program.
"""


def names_of(module: Any, chosen: list[str]) -> dict[str, str]:
    """Name → signature, or the kind of thing it is."""
    out = {}
    for name in sorted(chosen):
        thing = getattr(module, name)
        out[name] = str(inspect.signature(thing)) if inspect.isfunction(thing) else type(thing).__name__
    return out


def options_of(command: click.Command) -> list[str]:
    """Arguments and options of a command, every spelling."""
    return sorted("/".join(p.opts) if isinstance(p, click.Option) else f"<{p.name}>" for p in command.params)


def keys_of(value: Any, at: str = "") -> set[str]:
    """Dotted keys of JSON; ``*`` for a key that is data, ``[]`` for the members of a list."""
    if isinstance(value, dict):
        return {key for name, inner in value.items() for key in keys_of(inner, f"{at}.{_general(name, at)}".lstrip("."))}
    if isinstance(value, list) and any(isinstance(inner, dict) for inner in value):
        return {key for inner in value for key in keys_of(inner, f"{at}[]")}
    return {at}


def _general(name: str, at: str) -> str:
    is_outcome = at.endswith("outcomes.*") and outcome_and_index(name)[0] in OUTCOME_SPECS
    return "*" if is_outcome or "." in name or name in ("orange", "simulated") or name.startswith(("track ", "orange ")) else name


def json_keys() -> dict[str, list[str]]:
    """Command → keys of what it writes with ``--json``."""
    out = {}
    with tempfile.TemporaryDirectory() as folder:
        for name, words in WRITES.items():
            file = Path(folder) / f"{name}.json"
            done = CliRunner().invoke(cli, [name, *words, "--json", str(file)])
            assert file.exists(), (name, done.output, done.exception)
            out[name] = sorted(keys_of(json.loads(file.read_text())))
    return out


def surface() -> dict[str, Any]:
    """All of it."""
    return {
        "yapa": names_of(yapa, yapa.__all__),
        "yapa.api": names_of(api, api.__all__),
        "yapa.extend": names_of(extend, extend.__all__),
        "yapa.errors": names_of(errors, [name for name, thing in vars(errors).items()
                                         if inspect.isclass(thing) and thing.__module__ == errors.__name__]),
        "commands": {name: options_of(command_of(name)) for name in names()},
        "exit codes": {name: value for name, value in vars(codes).items() if name.isupper()},
        "json": json_keys(),
    }


def page_of(found: dict[str, Any]) -> str:
    """The page of documentation."""
    parts = [HEAD]
    for module in ("yapa", "yapa.api", "yapa.extend", "yapa.errors"):
        rows = (f"- `{name}{told if told.startswith('(') else ''}`" for name, told in found[module].items())
        parts.append(f"## `{module}`\n\n" + "\n".join(rows) + "\n")
    rows = (f"| `{name}` | {', '.join(f'`{option}`' for option in options)} |" for name, options in found["commands"].items())
    parts.append("## Commands\n\n| command | arguments and options |\n| --- | --- |\n" + "\n".join(rows) + "\n")
    rows = (f"| {value} | {name.lower().replace('_', ' ')} |" for name, value in found["exit codes"].items())
    parts.append("## Exit codes\n\n| code | meaning |\n| --- | --- |\n" + "\n".join(rows) + "\n")
    parts.append("## Keys of JSON results\n\n`*` stands for a name or a path of the case, `[]` for every member of a list.\n")
    parts += [f"### `yapa {name} --json`\n\n" + ", ".join(f"`{key}`" for key in keys) + "\n"
              for name, keys in found["json"].items()]
    return "\n".join(parts)


def main() -> None:
    """Rewrite both files."""
    found = surface()
    GOLDEN.parent.mkdir(exist_ok=True)
    GOLDEN.write_text(json.dumps(found, indent=1, ensure_ascii=False) + "\n")
    PAGE.write_text(page_of(found))


if __name__ == "__main__":
    main()
