"""Batches: hundreds of parameter sets simulated and summarised for one body in one compiled call, without the interpreter lock.

Between two runs of a light scene the interpreter would take ten times as long as the run itself. Here it writes the start states
and materials of a block of runs; the kernel simulates each and stores contacts, apexes, rest and states
(``kernels/summary/event_summary.py``).
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
from yapa.engine.layout import schema
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
        self.states, self.what = real((rows, L.state.COUNT * bodies)), schema.WHAT.rows(1)
        self.hits, self.heads = real((rows, L.limits.MAX_HITS * L.hit.COUNT)), schema.HEAD.rows(rows)
        self.query_states = real((rows, L.sample.COUNT * max(asked, 1)))
        self.scratch = (schema.KNOT.rows(knots), schema.EVENT.rows(events + 1), schema.CLIMB.rows(knots),
                        schema.BARE_HIT.rows(L.limits.MAX_HITS))
        self.rises = real((L.limits.MAX_HITS, L.sample.COUNT))  # the first row holds a sample afterwards


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
    job.heads[:, L.head.HITS] = -1.0
    call, scene = space.call.copy(), space.scene.copy()
    call[L.limits.ENTRY * L.call_table.SCENE] = scene.ctypes.data
    knots, order, curve, bare = job.scratch
    asked = np.array([at], dtype=float)
    arrays = (call[None], scene[None], job.states, props, laws, space.status[None], space.clog, space.plog, knots, order, curve,
              bare, job.hits, job.rises, job.heads, asked, job.query_states, job.what)
    begun = perf_counter()
    finished = call_with_pointers(entries().tell_rows, arrays, count)
    program.compiled_seconds += perf_counter() - begun
    job.heads[finished:, L.head.CODE] = L.run_code.CANCELLED
    heavy = float(program.props[i, L.body.INV_MASS])
    most = max(1, int(job.heads[:, L.head.HITS].max()))
    hits = job.hits.view(HIT)[:, :most]
    states = job.query_states[:, : L.sample.COUNT * len(at)].reshape(count, -1, L.sample.COUNT)
    return BatchSummary(hits, job.heads.view(RUN)[:, 0], states, tuple(program.names), 1.0 / heavy if heavy > 0 else None)


def _write_rows(program: Program, plan: UpdatePlan, paths: Sequence[str], values: Array, states: Array) -> tuple[Array, Array]:
    """Write the start states of every run; its properties and laws, or one row of them for all."""
    bodies, many, columns = len(program.names), len(values), dict(zip(paths, values.T, strict=True))
    states[:] = program.state.reshape(1, -1)
    for path, i, column in plan.scalar_entries:
        states[:, L.state.COUNT * i + column] = columns[path]
    laws = np.tile(program.materials.rows, (many if plan.material_entries else 1, 1, 1))
    program.materials.write_batch(plan.material_entries, {**program.base, **columns}, laws)
    props = np.tile(program.props.reshape(1, -1), (many if plan.drag_terms else 1, 1))
    if plan.initial_velocities or plan.positions or plan.drag_terms:
        num: dict[str, float] = dict(program.base)
        for k, row in enumerate(values.tolist()):
            num.update(zip(paths, row, strict=True))
            S, P = states[k].reshape(bodies, L.state.COUNT), props[k if plan.drag_terms else 0].reshape(bodies, -1)
            write_updates(program, plan, num, S, P)
    return props, laws.reshape(len(laws), -1)
