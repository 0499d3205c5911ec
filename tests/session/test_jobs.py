"""Lanes beside the interface."""

from __future__ import annotations

import threading
import time

from tests.session.conftest import Ear
from yapa.session.jobs import Jobs, Lane


def test_lanes_do_not_wait_for_each_other_and_one_lane_keeps_its_order():
    ear, gate, order = Ear(), threading.Event(), []
    jobs = Jobs(ear)
    slow = jobs.run(Lane.FIT, lambda _c: gate.wait(30), lambda _r: order.append("fit"), lambda _e: None)
    for k in range(3):
        jobs.run(Lane.FILES, lambda _c, k=k: k, order.append, lambda _e: None)
    ear.until(lambda: order == [0, 1, 2])
    assert not slow.over.is_set()
    gate.set()
    ear.until(lambda: jobs.idle)
    assert order == [0, 1, 2, "fit"]
    jobs.close()


def test_an_error_of_any_kind_is_heard_as_one():
    ear, heard = Ear(), []
    jobs = Jobs(ear)
    for error in (ValueError("a"), MemoryError(), KeyError("b")):
        def work(_cancel, error=error):
            raise error

        jobs.run(Lane.SIDE, work, lambda _r: heard.append("done"), lambda e: heard.append(type(e)))
    ear.until(lambda: jobs.idle)
    assert heard == [ValueError, MemoryError, KeyError]
    jobs.close()


def test_closing_asks_all_to_stop_and_leaves_what_does_not_hear():
    ear, gate, heard = Ear(), threading.Event(), []
    jobs = Jobs(ear)
    good = jobs.run(Lane.FIT, lambda cancel: [time.sleep(0.001) for _ in iter(cancel.is_set, True)], heard.append, heard.append)
    jobs.run(Lane.FILES, lambda _c: gate.wait(60), heard.append, heard.append)  # as one that reads a pipe nobody writes to
    jobs.run(Lane.FILES, lambda _c: "never begun", heard.append, heard.append)
    begun = time.monotonic()
    jobs.close(wait=0.2)
    assert time.monotonic() - begun < 2.0
    assert good.cancel.is_set()
    gate.set()
    late = jobs.run(Lane.FIT, lambda _c: "after the end", heard.append, heard.append)
    assert late.over.is_set()
    time.sleep(0.05)
    ear.hear()
    assert heard == []
