"""Tries mutants in a process with a limit of memory: ``python -m tests.hard.trying FIRST COUNT FITS``; a line of JSON for each.

Each goes through load, check, simulate and, where a run takes at most 5 ms, a fit or a search. What a person is told is a
``YapaError``; anything else is a fault and is said with its traceback. How long each took, in processor time, is said too, and how
long a stop took to be heard where a run was too long to be waited for.
"""

from __future__ import annotations

import json
import resource
import sys
import tempfile
import threading
import time
import traceback
import warnings
from pathlib import Path
from typing import Any

from tests.hard.mutants import mutant
from yapa import api
from yapa.case import Case
from yapa.engine.jit.runtime import entries
from yapa.errors import Unsupported, YapaError
from yapa.fitting import Cancel
from yapa.fitting.problem.cancel import Cancelled
from yapa.formats.case_file import load_case

ROOM = 1_000_000_000
"""bytes a process may take beyond what it has after its imports"""
MOST_WORK = 1e5
"""Outer steps of moving bodies up to which check and simulate are waited for"""
QUICK = 5e-3
"""s a run takes at most that a fit is tried on"""
PATIENCE = 8.0
"""s of processor time after which a longer run is stopped"""


def work_of(case: Case) -> float:
    """Outer steps times moving bodies."""
    end = max([case.duration, *(t.samples.t[-1] for t in case.tracks if t.samples is not None)])
    return end / min(case.profile.step, 1 / 240) * max(len(case.dynamic_bodies()), 1)


def heard_in(cancel: Cancel, done: threading.Event) -> float:
    """Ask to stop, and wait until it is heard: how long that took, in seconds."""
    begun = time.monotonic()
    cancel.set()
    done.wait(120)
    return time.monotonic() - begun


def stoppable(run: Any, wait: float) -> tuple[Any, float, float | None]:
    """Run in a thread: its result, its processor time, and how long a stop took to be heard if it had to be asked to."""
    cancel, done, out = Cancel(), threading.Event(), {}

    def work() -> None:
        begun = time.thread_time()
        try:
            out["found"] = run(cancel)
        except Cancelled:
            out["found"] = None
        except BaseException as error:
            out["error"] = error
        out["seconds"] = time.thread_time() - begun
        done.set()

    threading.Thread(target=work, daemon=True).start()
    heard = None if done.wait(wait) else heard_in(cancel, done)
    if "error" in out:
        raise out["error"]
    return out.get("found"), out.get("seconds", 120.0), heard


def try_one(seed: int, folder: Path, fits: bool) -> dict[str, Any]:
    """What became of a mutant."""
    said: dict[str, Any] = {"seed": seed}
    path = folder / "mutant.yapa"
    path.write_text(mutant(seed), encoding="utf-8", errors="surrogatepass")
    try:
        begun = time.process_time()
        try:
            case = load_case(path)[0]
        finally:
            said["load"] = time.process_time() - begun
        said["work"] = work_of(case)
        short = said["work"] <= MOST_WORK
        wait = 600.0 if short else PATIENCE
        motion, said["simulate"], said["heard simulate"] = stoppable(lambda c: api.simulate(case, cancel=c.flag), wait)
        _, said["check"], said["heard check"] = stoppable(lambda c: api.check(case, True, c), wait)
        if motion is not None and said["heard simulate"] is None:
            api.measure_motion(motion, every=True)
            begun = time.perf_counter()
            motion = api.simulate(case)
            quick = time.perf_counter() - begun <= QUICK
            free = any(not u.fixed for u in case.unknowns)
            if fits and quick and free and (case.tracks or case.targets):
                end = 120.0 if seed % 3 else 0.4
                result, said["fit"], said["heard fit"] = stoppable(lambda c: api.fit(case, cancel=c), end)
                said["status"] = result.stopped
                json.dumps(result.as_dict(), allow_nan=False)
                if case.targets:
                    found, said["solve"], said["heard solve"] = stoppable(lambda c: api.solve(case, cancel=c), end)
                    json.dumps(found.as_dict(), allow_nan=False)
    except YapaError as error:
        said["told"] = len(str(error).encode("utf-8", "replace"))
        said["words"] = str(error)[:300]
        said["clear"] = isinstance(error, Unsupported) or "expected" in str(error)
    except BaseException:
        said["fault"] = traceback.format_exc()[-2500:]
    return said


def main() -> None:
    """Try some, one after the other."""
    first, count, fits = (int(a) for a in sys.argv[1:4])
    warnings.simplefilter("error", RuntimeWarning)
    entries()
    size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + ROOM, size + ROOM))
    with tempfile.TemporaryDirectory() as name:
        for seed in range(first, first + count):
            print(json.dumps({"begun": seed}), flush=True)
            print(json.dumps(try_one(seed, Path(name), bool(fits))), flush=True)


if __name__ == "__main__":
    main()
