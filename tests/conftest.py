"""Shared by all tests: the engine's cache must be warm, and state goes to a folder of its own."""

from __future__ import annotations

import json
import logging
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from yapa.demo import DATA

settings.register_profile("yapa", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("yapa")
"""No test asserts a time: a busy machine is slow, not wrong."""


@pytest.fixture(scope="session", autouse=True)
def _hears_interrupts() -> None:
    """What is started in the background of a shell ignores SIGINT; the tests of stops send it."""
    if signal.getsignal(signal.SIGINT) is signal.SIG_IGN:
        signal.signal(signal.SIGINT, signal.default_int_handler)


@pytest.fixture(autouse=True)
def no_fault_is_logged(request: pytest.FixtureRequest) -> Iterator[None]:
    """What the program logs as an error is a fault of its own: the test fails, unless it is about faults."""
    logged: list[str] = []
    handler = logging.Handler(logging.ERROR)
    handler.emit = lambda record: logged.append(logging.Formatter().format(record))  # type: ignore[method-assign]
    logging.getLogger("yapa").addHandler(handler)
    yield
    logging.getLogger("yapa").removeHandler(handler)
    assert not logged or request.node.get_closest_marker("faults"), logged[0]


@pytest.fixture(scope="session")
def truth() -> dict:
    """What the demo tracks were made from."""
    return json.loads((DATA / "truth.json").read_text())


@pytest.fixture
def demo(tmp_path: Path):
    """Load a demo case by its short name."""
    from yapa import api

    return lambda name: api.load(DATA / f"{name}.yapa")
