"""A desk without a window: what its lanes deliver waits until a test hears it."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from queue import Empty, SimpleQueue

import pytest

from yapa.case import Case, Estimate
from yapa.demo import DATA
from yapa.fitting import FitResult
from yapa.formats.case_file import load_case
from yapa.session.desk import Desk
from yapa.session.recovery import Recovery

E = "pairs.rind+pad.restitution"


class Ear:
    """Stands for the loop of an interface: hears what is delivered when it is told to."""

    def __init__(self) -> None:
        self.waiting: SimpleQueue[Callable[[], None]] = SimpleQueue()

    def __call__(self, act: Callable[[], None]) -> None:
        self.waiting.put(act)

    def hear(self) -> int:
        """Hear everything that waits; how many things that were."""
        heard = 0
        while True:
            try:
                act = self.waiting.get_nowait()
            except Empty:
                return heard
            act()
            heard += 1

    def until(self, done: Callable[[], bool], seconds: float = 60.0) -> None:
        """Hear until something is so; a hang ends the test."""
        end = time.monotonic() + seconds
        while not done():
            assert time.monotonic() < end, "it never came to be"
            self.hear()
            time.sleep(0.001)


class HeldFit:
    """A fit that ends when it is let go, or asked to stop: its values are those it is told."""

    def __init__(self) -> None:
        self.gate = threading.Event()
        self.running = threading.Event()
        self.value = 0.5
        self.error: Exception | None = None

    def __call__(self, case: Case, progress, cancel) -> FitResult:
        self.running.set()
        while not self.gate.wait(0.001) and not cancel.is_set():
            pass
        self.running.clear()
        if self.error is not None:
            raise self.error
        stopped = "cancelled" if cancel.is_set() else "converged"
        free = [u.path for u in case.unknowns if not u.fixed]
        return FitResult({path: Estimate(value=self.value, std=0.01) for path in free}, 1.0, 1, 0.0, stopped)


@lru_cache
def bouncing(title: str = "Orange drop") -> Case:
    """The orange drop with restitution alone free, and its track in the case."""
    case = load_case(DATA / "orange-drop.yapa")[0]
    unknowns = tuple(u.model_copy(update={"fixed": u.path != E}) for u in case.unknowns)
    tracks = tuple(t.model_copy(update={"file": None}) for t in case.tracks)
    return case.model_copy(update={"title": title, "unknowns": unknowns, "tracks": tracks, "trials": ()})


def saved(desk: Desk, ear: Ear, path: Path, overwrite: bool = False) -> bool:
    """Save and hear the end of it; whether nothing is left unsaved."""
    desk.saver.save(path, overwrite)
    ear.until(lambda: not desk.saver.busy)
    return desk.is_clean


@pytest.fixture
def ear():
    return Ear()


@pytest.fixture
def held():
    return HeldFit()


@pytest.fixture
def desk(ear, held, tmp_path):
    """A desk with the orange drop open and settled; its fits end when they are let go."""
    made = Desk(ear, Recovery(tmp_path / "state"), held, pause=0.02)
    made.troubles, made.words = [], []
    made.error.connect(made.troubles.append)
    made.fault.connect(lambda fault: made.troubles.append(str(fault)))
    made.message.connect(made.words.append)
    made.open_case(bouncing())
    ear.until(lambda: made.jobs.idle)
    yield made
    held.gate.set()
    made.close()


def pytest_collection_modifyitems(items):
    """What is asked of all tests together comes after them."""
    items.sort(key=lambda item: item.name == "test_no_qt_was_loaded")
