"""Queues beside the interface."""

from __future__ import annotations

import threading
import time

import pytest

from tests.session.conftest import Ear
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancelled
from yapa.session.jobs import Jobs, Queue, in_words


def test_queues_do_not_wait_for_each_other_and_one_queue_keeps_its_order():
    ear, gate, order = Ear(), threading.Event(), []
    jobs = Jobs(ear)
    slow = jobs.run(Queue.FIT, "fitting", lambda _j: gate.wait(30), lambda _r: order.append("fit"), lambda _e: None)
    for k in range(3):
        jobs.run(Queue.FILES, "reading", lambda _j, k=k: k, order.append, lambda _e: None)
    ear.until(lambda: order == [0, 1, 2])
    assert not slow.over.is_set()
    gate.set()
    ear.until(lambda: jobs.idle)
    assert order == [0, 1, 2, "fit"]
    jobs.close()


@pytest.mark.faults
def test_an_error_of_any_kind_is_heard_as_one():
    ear, heard = Ear(), []
    jobs = Jobs(ear)
    for error in (ValueError("a"), MemoryError(), KeyError("b")):
        def work(_job, error=error):
            raise error

        jobs.run(Queue.SIDE, "failing", work, lambda _r: heard.append("done"), lambda e: heard.append(type(e)))
    ear.until(lambda: jobs.idle)
    assert heard == [ValueError, MemoryError, KeyError]
    jobs.close()


def test_a_job_says_what_it_does_and_how_far_it_is():
    ear, gate, told = Ear(), threading.Event(), []
    jobs = Jobs(ear, lambda: told.append([(j.text, j.fraction) for j in jobs.under_way()]))
    reached = threading.Event()

    def work(job):
        job.report_progress(0.5, "half way")
        reached.set()
        gate.wait(30)

    jobs.run(Queue.SEARCH, "searching", work, lambda _r: None, lambda _e: None)
    assert told[0] == [("searching", None)]
    reached.wait(30)
    ear.hear()
    assert told[-1] == [("half way", 0.5)]
    assert [job.text for job in jobs.under_way(Queue.SEARCH)] == ["half way"]
    assert jobs.under_way(Queue.FILES) == []
    gate.set()
    ear.until(lambda: jobs.idle)
    assert told[-1] == []
    jobs.close()


def test_a_job_that_waits_is_cancelled_as_one_that_is_under_way():
    ear, gate, heard = Ear(), threading.Event(), []
    jobs = Jobs(ear)

    def heedful(job):
        while not gate.wait(0.001):
            job.cancel.raise_if_cancelled()
        job.cancel.raise_if_cancelled()

    for queue in (Queue.FILES, Queue.FILES, Queue.FIT):
        jobs.run(queue, str(queue), heedful, lambda _r, q=queue: heard.append(q), lambda e: heard.append(type(e)))
    jobs.cancel(Queue.FILES)
    ear.until(lambda: len(heard) == 2)
    assert heard == [Cancelled, Cancelled]
    gate.set()
    ear.until(lambda: jobs.idle)
    assert heard[-1] == Queue.FIT
    jobs.close()


def test_closing_asks_all_to_stop_and_leaves_what_does_not_hear():
    ear, gate, heard = Ear(), threading.Event(), []
    jobs = Jobs(ear)
    good = jobs.run(Queue.FIT, "fitting", lambda job: [time.sleep(0.001) for _ in iter(job.cancel.is_set, True)], heard.append,
                    heard.append)
    pipe = jobs.run(Queue.FILES, "a pipe", lambda _j: gate.wait(60), heard.append, heard.append)  # that nobody writes to
    jobs.run(Queue.FILES, "waiting", lambda _j: "never begun", heard.append, heard.append)
    jobs.close(wait=0.2)
    assert not pipe.over.is_set()  # it was not waited for
    assert good.cancel.is_set()
    gate.set()
    late = jobs.run(Queue.FIT, "late", lambda _j: "after the end", heard.append, heard.append)
    assert late.over.is_set()
    for thread in threading.enumerate():
        if thread.name == "yapa files":
            thread.join(5)
    ear.hear()
    assert heard == []


def test_every_error_is_a_sentence_for_the_person():
    assert "not enough memory" in in_words(MemoryError())
    assert in_words(bad_input("mass", "-1", "a number above zero")).startswith("mass")
    assert "KeyError" in in_words(KeyError("x"))
