"""Ctrl+C in Python: compiled runs hear it, and what was found so far is kept."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time

import numpy as np

from yapa.demo import DATA
from yapa.fitting import Cancel
from yapa.interrupt import stoppable, stopping

_FITS = """
import sys, yapa
from pathlib import Path
from yapa.case import Precise
case, fit, simulate = yapa.load(sys.argv[1]), yapa.fit, yapa.simulate  # imported now, so that a stop meets the run
slow = case.model_copy(update={"profile": Precise(step=4e-6)})
print("begins", flush=True)
result = fit(slow)
print(result.stopped, len(result.values), flush=True)
try:
    print("runs", flush=True)
    while True:
        simulate(slow)
except KeyboardInterrupt:
    print("interrupted", flush=True)
"""


def test_a_fit_in_python_ends_with_its_best_and_a_run_raises_as_usual():
    child = subprocess.Popen([sys.executable, "-c", _FITS, str(DATA / "orange-throw.yapa")], stdout=subprocess.PIPE,
                             stderr=subprocess.PIPE, text=True)
    try:
        assert child.stdout.readline().strip() == "begins"
        time.sleep(1.5)
        child.send_signal(signal.SIGINT)
        stopped, values = child.stdout.readline().split()
        assert stopped == "cancelled"
        assert int(values) > 2
        assert child.stdout.readline().strip() == "runs"
        time.sleep(0.5)
        child.send_signal(signal.SIGINT)
        out, err = child.communicate(timeout=30)
        assert out.strip() == "interrupted", err
    finally:
        child.kill()


def test_a_signal_sets_the_flag_while_the_main_thread_is_busy_elsewhere():
    flag, stop = np.zeros(1, np.int64), Cancel()
    with stopping(stop.flag, stop.set) as came, stoppable(flag):
        os.kill(os.getpid(), signal.SIGINT)
        end = time.monotonic() + 10
        while not flag[0] and time.monotonic() < end:
            pass
    assert flag[0] == 1
    assert stop.is_set()
    assert came == [signal.SIGINT]
    assert signal.getsignal(signal.SIGINT) is signal.default_int_handler


def test_handlers_of_ones_own_stay_and_other_threads_change_nothing():
    heard = []
    before = signal.signal(signal.SIGINT, lambda *_: heard.append("mine"))
    try:
        stop = Cancel()
        with stopping(stop.flag, stop.set):
            os.kill(os.getpid(), signal.SIGINT)
            time.sleep(0.05)
        assert heard == ["mine"]
    finally:
        signal.signal(signal.SIGINT, before)
    seen = []

    def work():
        with stopping(np.zeros(1, np.int64), lambda: None) as came:
            seen.append(came)

    thread = threading.Thread(target=work)
    thread.start()
    thread.join()
    assert seen == [[]]
