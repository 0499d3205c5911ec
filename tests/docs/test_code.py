"""Code and commands of the README and of docs/, run as they stand in a folder and a home of their own.

Not run: ``make``, lines that install, and lines that open a window (:data:`NOT_RUN`).
"""

from __future__ import annotations

import json
import re
import shlex
import shutil
from pathlib import Path

import click
import pytest
from click.testing import CliRunner

from yapa.case import Take, Track
from yapa.case.validation import validate_as
from yapa.cli import cli
from yapa.cli.commands import command_of, names
from yapa.demo import DATA
from yapa.formats.case_json import parse_case
from yapa.formats.target_text import parse_target

ROOT = Path(__file__).parents[2]
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
NOT_RUN = ("make ", "pip ", "sudo ", "yapa demo", "yapa [CASE]", "yapa CASE")
ELSEWHERE = {"docs/extending.md"}
"""Pages whose code has a test of its own."""


def blocks(kind):
    """(page, number, text) of every fenced block of a kind."""
    return [(page.relative_to(ROOT).as_posix(), k, text) for page in PAGES
            for k, text in enumerate(re.findall(rf"^```{kind}\n(.*?)^```", page.read_text(), re.DOTALL | re.MULTILINE))
            if page.relative_to(ROOT).as_posix() not in ELSEWHERE]


@pytest.fixture
def folder(tmp_path, monkeypatch):
    """The demo data in a folder, and a home beside it."""
    shutil.copytree(DATA, tmp_path / "data")
    monkeypatch.chdir(tmp_path / "data")
    monkeypatch.setenv("HOME", str(tmp_path))
    return tmp_path / "data"


@pytest.mark.parametrize(("page", "number", "text"), blocks("python"), ids=lambda v: str(v)[:20])
def test_python_runs(page, number, text, folder):
    exec(compile(text, f"{page} block {number}", "exec"), {"__name__": "docs"})


@pytest.mark.parametrize(("page", "number", "text"), blocks("json"), ids=lambda v: str(v)[:20])
def test_json_is_what_it_says(page, number, text, folder):
    if '"format"' in text:
        assert parse_case(text, page).bodies
    elif text.startswith('"takes"'):
        for take in json.loads("{" + text + "}")["takes"]:
            validate_as(Take, take, page)
    else:
        validate_as(Track, json.loads(text), page)


CALLS = [(page, line) for page, _, text in blocks("") for line in re.findall(r"^\$ (yapa (?:.*\\\n)*.*)", text, re.MULTILINE)]


@pytest.mark.parametrize(("page", "line"), CALLS)
def test_a_command_gives_what_stands_below_it(page, line, folder):
    words = shlex.split(line.replace("\\\n", " "))[1:]
    done = CliRunner().invoke(cli, words)
    assert done.exit_code == 0, done.output
    text = (ROOT / page).read_text()
    shown = text[text.index(line) + len(line) :].split("```")[0].strip().splitlines()
    said = {row.split()[0] for row in done.output.splitlines() if row.strip()}
    assert {row.split()[0] for row in shown} <= said
    assert len(shown) > 3


def mentions():
    """(page, command, text) of every command that a page mentions, with what follows it up to the end of its span."""
    for page in PAGES:
        text = page.read_text()
        spans = re.findall(r"`(yapa [^`]+)`", text) + re.findall(r"^(?:\$ )?(yapa .*(?:\\?\n +.*)*)", text, re.MULTILINE)
        for span in spans:
            if not span.startswith(NOT_RUN):
                yield page.relative_to(ROOT).as_posix(), span.split()[1], span


@pytest.mark.parametrize(("page", "name", "text"), list(mentions()))
def test_a_command_that_is_mentioned_is_there_with_its_options(page, name, text):
    if name.startswith("--"):
        return
    assert name in names() or name in cli.commands, f"{page}: {text}"
    command = command_of(name) if name in names() else cli.commands[name]
    known = {opt for p in command.params if isinstance(p, click.Option) for opt in (*p.opts, *p.secondary_opts)}
    assert set(re.findall(r"(?<![\w-])--[a-z][a-z-]*", text)) <= known | {"--help"}, f"{page}: {text}"


def test_targets_of_the_pages_can_be_read():
    paragraph = (ROOT / "docs/outcomes.md").read_text().split("pm     =")[1].split("```")[1].split("\n\n")[1]
    texts = [re.sub(r"\s+", " ", text) for text in re.findall(r"`([^`]+)`", paragraph)]
    assert len(texts) == 6
    assert [parse_target(text).condition for text in texts] == ["equal", "within", "happens", "at most", "at least", "at most"]


FILES = [p.relative_to(ROOT).as_posix() for p in ROOT.rglob("*.py") if not {".venv", "build"} & set(p.relative_to(ROOT).parts)]
WRITTEN_THERE = {"more.py", "src/yapa/engine/kernels/dynamics/forces/thrust.py", "shapes/disc.py", "pairs/sphere_disc.py"}
"""Files that a page has its reader write."""


@pytest.mark.parametrize("page", [*PAGES, ROOT / "CONTRIBUTING.md"], ids=lambda p: p.name)
def test_a_module_that_is_mentioned_is_there(page):
    named = set(re.findall(r"`([\w/.]+\.py)`", page.read_text())) - WRITTEN_THERE
    assert [name for name in named if not any(f"/{file}".endswith(f"/{name}") for file in FILES)] == []


def test_a_link_leads_somewhere():
    for page in PAGES:
        for link in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text()):
            assert (page.parent / link).exists(), f"{page.name}: {link}"
