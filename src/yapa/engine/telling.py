"""What hundreds of runs tell of one body, run and read in one compiled call: no motion is made, and other threads go on meanwhile.

A map or a sweep asks the same of every run. Between runs of a light scene the interpreter would spend ten times as long as on the
run itself; here it lays out a block of runs, and is told hits, rises, rest and places of all of them (``kernels/telling.py``).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from time import perf_counter
from typing import TYPE_CHECKING

import numpy as np

from yapa.engine.compiled import entries
from yapa.engine.kernels import layout as L
from yapa.engine.plans import Plan, write_parts
from yapa.engine.tables import hand_over
from yapa.motion import Array

if TYPE_CHECKING:
    from yapa.engine.program import Program
    from yapa.engine.workspace import Workspace


@dataclass(frozen=True)
class Told:
    """What N runs tell of a body: its contacts, when it is still, and where it is at the times asked for.

    Attributes
    ----------
    hits : (N, M, columns ``HIT_…``), the first ``heads[:, HEAD_HITS]`` of each row
    heads : (N, columns ``HEAD_…``)
    seen : (N, A, 12) place, velocity, turn and spin at the A times asked for
    whole : (N,) whether a run was told; one that ended early, or has too many contacts, is read off its motion
    """

    hits: Array
    heads: Array
    seen: Array
    names: tuple[str, ...]
    mass: float | None

    @property
    def whole(self) -> np.ndarray:
        """Of every run, whether it came to its end and told its contacts."""
        return (self.heads[:, L.HEAD_CODE] == L.OK) & (self.heads[:, L.HEAD_HITS] >= 0)

    @property
    def there(self) -> np.ndarray:
        """(N, M): where there is a hit."""
        return np.arange(self.hits.shape[1]) < self.heads[:, L.HEAD_HITS, None]


def can_tell(program: Program, paths: Sequence[str]) -> bool:
    """Whether runs with other values at these paths can be told: a light scene, whose shapes and fields stay as they are."""
    plan = program.plan(tuple(paths))
    return program.light and not (plan.bodies or plan.fields)


class _Job:
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


def tell(
    program: Program, paths: Sequence[str], values: Array, times: Array, end: float, body: str, at: Sequence[float] = (),
    cancel: np.ndarray | None = None,
) -> Told:
    """Run a case for every row of values (N, P) at these paths and tell of a body.

    ``at``: times [s] at which its state is told. What is told is good until this thread's next call.
    """
    plan = program.plan(tuple(paths))
    space, count = program.workspace(), len(values)
    program.lay(space, None, times, end, cancel)
    job: _Job | None = getattr(program.local, "job", None)
    if job is None or job.fits != (count, len(times), len(at), space.log_rows):
        job = program.local.job = _Job(program, space, count, len(times), len(at))
    props, laws = _lay_rows(program, plan, paths, values, job.states)
    i = program.names.index(body)
    job.what[0] = i, len(program.book.surfaces), program.sweeping
    job.heads[:, L.HEAD_HITS] = -1.0
    call, scene = space.call.copy(), space.scene.copy()
    call[3 * L.CALL_SCENE] = scene.ctypes.data
    knots, order, curve, bare = job.scratch
    asked = np.array([at], dtype=float)
    arrays = (call[None], scene[None], job.states, props, laws, space.status[None], space.clog, space.plog, knots, order, curve,
              bare, job.hits, job.rises, job.heads, asked, job.seen, job.what)
    begun = perf_counter()
    told = hand_over(entries().tell_rows, arrays, count)
    program.spent += perf_counter() - begun
    job.heads[told:, L.HEAD_CODE] = L.CANCELLED
    heavy = float(program.props[i, L.INV_MASS])
    most = max(1, int(job.heads[:, L.HEAD_HITS].max()))
    hits = job.hits.reshape(count, L.MOST_HITS, L.HIT_COLUMNS)[:, :most]
    seen = job.seen[:, : 12 * len(at)].reshape(count, -1, 12)
    return Told(hits, job.heads, seen, tuple(program.names), 1.0 / heavy if heavy > 0 else None)


def _lay_rows(program: Program, plan: Plan, paths: Sequence[str], values: Array, states: Array) -> tuple[Array, Array]:
    """Write the start states of every run; its properties and laws, or one row of them for all."""
    bodies, many, columns = len(program.names), len(values), dict(zip(paths, values.T, strict=True))
    states[:] = program.state.reshape(1, -1)
    for path, i, column in plan.single:
        states[:, 16 * i + column] = columns[path]
    laws = np.tile(program.book.rows, (many if plan.cells else 1, 1, 1))
    program.book.fill_rows(plan.cells, {**program.base, **columns}, laws)
    props = np.tile(program.props.reshape(1, -1), (many if plan.braked else 1, 1))
    if plan.launched or plan.placed or plan.braked:
        num: dict[str, float] = dict(program.base)
        for k, row in enumerate(values.tolist()):
            num.update(zip(paths, row, strict=True))
            S, P = states[k].reshape(bodies, 16), props[k if plan.braked else 0].reshape(bodies, -1)
            write_parts(program, plan, num, S, P)
    return props, laws.reshape(len(laws), -1)
