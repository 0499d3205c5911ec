"""Batches: hundreds of parameter sets simulated and summarised for one body in one compiled call, without the interpreter lock.

Between two runs of a light scene the interpreter would take ten times as long as the run itself. Here it writes the start states
and materials of a block of runs; the kernel simulates each and stores contacts, apexes, rest and states (``kernels/telling.py``).
"""

from __future__ import annotations

from collections.abc import Sequence
from time import perf_counter
from typing import TYPE_CHECKING

import numpy as np

from yapa.engine.compile.updates import UpdatePlan, write_updates
from yapa.engine.jit.pointers import call_with_pointers
from yapa.engine.jit.runtime import entries
from yapa.engine.kernels import layout as L
from yapa.motion import Array
from yapa.motion.batch_summary import HIT, RUN, BatchSummary

if TYPE_CHECKING:
    from yapa.engine.compile.workspace import Workspace
    from yapa.engine.runner import Program


def supports_batch(program: Program, paths: Sequence[str]) -> bool:
    """Return whether batches over these paths are possible: a light scene whose shapes and fields do not depend on them.

    Parameters
    ----------
    program : the compiled case
    paths : paths of numbers
    """
    plan = program.plan(tuple(paths))
    return program.is_small and not (plan.bodies or plan.fields)


class _BatchBuffers:
    """Room for a block of runs of one program, for one thread."""

    def __init__(self, program: Program, space: Workspace, rows: int, samples: int, asked: int) -> None:
        self.fits = (rows, samples, asked, space.log_rows)
        events, bodies = 6 * space.log_rows, len(program.names)
        real, knots = np.zeros, samples + events + 1
        self.states, self.what = real((rows, 16 * bodies)), np.zeros((1, 3), np.int64)
        self.hits, self.heads = real((rows, L.MOST_HITS * L.HIT_COLUMNS)), real((rows, L.HEAD_COLUMNS))
        self.seen = real((rows, 12 * max(asked, 1)))
        self.scratch = (real((knots, L.KNOT_COLUMNS)), np.zeros((events + 1, 3), np.int64), real((knots, 4)),
                        real((L.MOST_HITS, 4)))
        self.rises = real((L.MOST_HITS, 12))


def summarise_batch(
    program: Program, paths: Sequence[str], values: Array, times: Array, end: float, body: str, at: Sequence[float] = (),
    cancel: np.ndarray | None = None,
) -> BatchSummary:
    """Simulate a case for every row of values (N, P) at these paths and summarise one body.

    ``at``: times [s] at which its state is stored. The summary is valid until this thread's next call.

    Parameters
    ----------
    program : the compiled case
    paths : paths of numbers
    values : (N, P) numbers in SI units, one row a run
    times : (T,) times [s]
    end : end of the run [s]
    body : name of the body
    at : times [s] at which states are stored
    cancel : stops the work where it is set

    Returns
    -------
    Contacts, rest and states of the body, valid until this thread's next call.
    """
    plan = program.plan(tuple(paths))
    space, count = program.workspace(), len(values)
    program.prepare_run(space, None, times, end, cancel)
    job: _BatchBuffers | None = getattr(program.local, "job", None)
    if job is None or job.fits != (count, len(times), len(at), space.log_rows):
        job = program.local.job = _BatchBuffers(program, space, count, len(times), len(at))
    props, laws = _write_rows(program, plan, paths, values, job.states)
    i = program.names.index(body)
    job.what[0] = i, len(program.materials.surfaces), program.uses_broad_phase
    job.heads[:, L.HEAD_HITS] = -1.0
    call, scene = space.call.copy(), space.scene.copy()
    call[3 * L.CALL_SCENE] = scene.ctypes.data
    knots, order, curve, bare = job.scratch
    asked = np.array([at], dtype=float)
    arrays = (call[None], scene[None], job.states, props, laws, space.status[None], space.clog, space.plog, knots, order, curve,
              bare, job.hits, job.rises, job.heads, asked, job.seen, job.what)
    begun = perf_counter()
    finished = call_with_pointers(entries().tell_rows, arrays, count)
    program.compiled_seconds += perf_counter() - begun
    job.heads[finished:, L.HEAD_CODE] = L.CANCELLED
    heavy = float(program.props[i, L.INV_MASS])
    most = max(1, int(job.heads[:, L.HEAD_HITS].max()))
    hits = job.hits.view(HIT)[:, :most]
    states = job.seen[:, : 12 * len(at)].reshape(count, -1, 12)
    return BatchSummary(hits, job.heads.view(RUN)[:, 0], states, tuple(program.names), 1.0 / heavy if heavy > 0 else None)


def _write_rows(program: Program, plan: UpdatePlan, paths: Sequence[str], values: Array, states: Array) -> tuple[Array, Array]:
    """Write the start states of every run; its properties and laws, or one row of them for all."""
    bodies, many, columns = len(program.names), len(values), dict(zip(paths, values.T, strict=True))
    states[:] = program.state.reshape(1, -1)
    for path, i, column in plan.scalar_entries:
        states[:, 16 * i + column] = columns[path]
    laws = np.tile(program.materials.rows, (many if plan.material_entries else 1, 1, 1))
    program.materials.write_batch(plan.material_entries, {**program.base, **columns}, laws)
    props = np.tile(program.props.reshape(1, -1), (many if plan.drag_terms else 1, 1))
    if plan.initial_velocities or plan.positions or plan.drag_terms:
        num: dict[str, float] = dict(program.base)
        for k, row in enumerate(values.tolist()):
            num.update(zip(paths, row, strict=True))
            S, P = states[k].reshape(bodies, 16), props[k if plan.drag_terms else 0].reshape(bodies, -1)
            write_updates(program, plan, num, S, P)
    return props, laws.reshape(len(laws), -1)
