"""The session as a whole: everything public is used by a test here, and nothing of it needs Qt."""

from __future__ import annotations

import ast
import sys
from pathlib import Path

import yapa.session
from yapa.session.signals import Signals, names_of_signals

HERE = Path(__file__).parent
SOURCES = sorted(Path(yapa.session.__file__).parent.rglob("*.py"))


def public_names(source: str) -> set[str]:
    """Functions, classes, methods and properties that do not begin with an underscore."""
    out = set()
    for node in ast.parse(source).body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            out.add(node.name)
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_") and node.name != "Host":
            out |= {m.name for m in node.body if isinstance(m, ast.FunctionDef) and not m.name.startswith("_")}
    return out


def used_names() -> set[str]:
    """Names and attributes that the tests of the session use."""
    out = set()
    for file in HERE.glob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Attribute):
                out.add(node.attr)
            elif isinstance(node, ast.Name):
                out.add(node.id)
    return out


def test_everything_public_and_every_signal_has_a_test_that_uses_it():
    used = used_names()
    missing = {f"{file.stem}.{name}" for file in SOURCES for name in public_names(file.read_text()) if name not in used}
    missing |= {f"signals.{name}" for name in names_of_signals() if name not in used}
    assert missing == set()


def test_a_signal_is_of_one_desk_alone(desk, ear):
    assert "case_changed" in names_of_signals()
    heard, other = [], Signals()
    other.case_changed.connect(lambda: heard.append(1))
    desk.set_number("gravity", 5.0)
    assert heard == []


def test_no_qt_was_loaded():
    """Runs last; with the plugin that brings Qt it has nothing to say."""
    if "pytestqt" not in sys.modules:
        assert [name for name in sys.modules if name.startswith(("PySide6", "vtk", "pyqtgraph"))] == []
