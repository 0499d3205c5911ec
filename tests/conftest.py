"""Shared by all tests: the engine's cache must be warm, and state goes to a folder of its own."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from yapa.demo import DATA


@pytest.fixture(scope="session")
def truth() -> dict:
    """What the demo tracks were made from."""
    return json.loads((DATA / "truth.json").read_text())


@pytest.fixture
def demo(tmp_path: Path):
    """Load a demo case by its short name."""
    from yapa import api

    return lambda name: api.load(DATA / f"{name}.yapa")
