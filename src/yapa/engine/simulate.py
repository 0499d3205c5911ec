"""The façade: one case in, one motion out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Literal

import numpy as np

from yapa.case.model import Case
from yapa.engine.kernels import layout as L
from yapa.engine.program import STATUS, Program, RawRun
from yapa.motion import Array, Contact, Motion, Path, Phase

FELT = 1e-6
"""m/s: a slower approach is no contact of its own."""


@lru_cache(maxsize=16)
def _program_by_identity(key: int, holder: _Holder) -> Program:
    return Program(holder.case)


class _Holder:
    """Lets a case, which is not hashable by content, key the cache by identity and stay alive."""

    def __init__(self, case: Case) -> None:
        self.case = case

    def __hash__(self) -> int:
        return id(self.case)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Holder) and other.case is self.case


def program_for(case: Case) -> Program:
    """The compiled form of a case, kept while it is in use."""
    return _program_by_identity(id(case), _Holder(case))


def sample_times(duration: float, rate: float) -> Array:
    """0 … duration at the given rate, the end always included."""
    count = round(duration * rate)
    times = np.arange(count + 1) / rate
    times = times[times < duration - 1e-9]
    return np.append(times, duration)


def simulate(
    case: Case,
    values: Mapping[str, float] | None = None,
    *,
    times: Array | None = None,
    cancel: np.ndarray | None = None,
) -> Motion:
    """Simulate a case.

    Parameters
    ----------
    case : Case
    values : path → number, in place of the case's own numbers
    times : (T,) rising times [s] to sample at; by default the case's duration at its output rate
    cancel : (1,) int64 flag; the run stops soon after its element is set

    Returns
    -------
    Motion
        Whole, or up to where it was cancelled or could not go on (see its ``status``).

    Raises
    ------
    Unsupported
        If the case asks for a meeting of shapes this engine cannot do.
    """
    program = program_for(case)
    if times is None:
        times = sample_times(case.duration, case.output_rate)
    times = np.ascontiguousarray(times, dtype=float)
    end = max(case.duration, float(times[-1])) if len(times) else case.duration
    return motion_of(program, program.run(values, times, end, cancel))


def motion_of(program: Program, raw: RawRun) -> Motion:
    """Give a raw run its names."""
    accounts = raw.accounts()
    names = program.names
    phases = []
    for row, values in zip(raw.phases, raw.phases[:, : L.PH_NORMAL].tolist(), strict=True):
        mode: Literal["slides", "grips"] = "slides" if values[L.PH_MODE] == L.MODE_SLIP else "grips"
        phases.append(Phase(values[L.PH_T0], values[L.PH_T1], names[int(values[L.PH_A])], names[int(values[L.PH_B])], mode,
                            row[L.PH_NORMAL : L.PH_NORMAL + 3]))
    contacts = []
    for row, values in zip(raw.contacts, raw.contacts[:, : L.LOG_STATE].tolist(), strict=True):
        if values[L.LOG_APPROACH] <= FELT:  # only passes on an impact between bodies that already touched
            continue
        contacts.append(Contact(
            time=values[L.LOG_TIME], body=names[int(values[L.LOG_A])], partner=names[int(values[L.LOG_B])],
            point=row[L.LOG_POINT : L.LOG_POINT + 3], normal=row[L.LOG_NORMAL : L.LOG_NORMAL + 3],
            approach=values[L.LOG_APPROACH], rebound=values[L.LOG_REBOUND],
            slip_before=values[L.LOG_SLIP0], slip_after=values[L.LOG_SLIP1],
            normal_impulse=values[L.LOG_JN], friction_impulse=values[L.LOG_JT],
            place=row[L.LOG_STATE : L.LOG_STATE + 3],
            partner_place=row[L.LOG_STATE + 18 : L.LOG_STATE + 21],
        ))
    status = STATUS[raw.code]
    if raw.code not in (L.OK, L.CANCELLED):
        status += f", with {names[raw.culprit]}"
    if raw.code != L.OK and len(raw.times):
        status += f" at {raw.times[-1]:.4g} s"
    return Motion(
        times=raw.times, states=raw.states, bodies=accounts,
        gravity=np.array([0.0, 0.0, program.cfg[L.CFG_GX + 2]]), contacts=contacts, phases=phases, status=status,
        steps=raw.steps, crowded=raw.crowded, handovers=raw.handovers, overlap_at_start=raw.overlap,
        paths=_Paths([body.name for body in accounts if body.moves and len(raw.times) > 1], names, raw),
    )


class _Paths(Mapping[str, Path]):
    """The curves of the moving bodies, each made when it is asked for."""

    def __init__(self, moving: list[str], names: list[str], raw: RawRun) -> None:
        self._moving, self._names, self._raw = moving, names, raw
        self._made: dict[str, Path] = {}

    def __getitem__(self, name: str) -> Path:
        if name not in self._made:
            if name not in self._moving:
                raise KeyError(name)
            self._made[name] = _path(self._names.index(name), self._raw)
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._moving)

    def __len__(self) -> int:
        return len(self._moving)


def _path(i: int, raw: RawRun) -> Path:
    """Knots of body ``i``: samples, contacts with both velocities, ends of phases. One a time."""
    s = raw.states[:, i]
    hits = [(L.LOG_STATE + 18 * side, raw.contacts[mine]) for side, column in ((0, L.LOG_A), (1, L.LOG_B))
            if (mine := raw.contacts[:, column] == i).any()]
    held = [(L.PH_STATE + late + 12 * side, L.PH_T0 if late == 0 else L.PH_T1, raw.phases[mine]) for side in (0, 1)
            for late in (0, 24) if (mine := raw.phases[:, L.PH_A if side == 0 else L.PH_B] == i).any()]
    # columns: t, rank, x, turn, v-, v+, w-, w+
    table = np.empty((len(s) + sum(len(m) for _, m in hits) + sum(len(m) for _, _, m in held), 20))
    n = len(s)
    table[:n, 0], table[:n, 1], table[:n, 2:5], table[:n, 5:8] = raw.times, 1.0, s[:, 0:3], s[:, 13:16]
    table[:n, 8:11] = table[:n, 11:14] = s[:, 7:10]
    table[:n, 14:17] = table[:n, 17:20] = s[:, 10:13]
    for o, mine in hits:
        k = n + len(mine)
        table[n:k, 0], table[n:k, 1], table[n:k, 2:20] = mine[:, L.LOG_TIME], 0.0, mine[:, o : o + 18]
        n = k
    for o, column, mine in held:
        k = n + len(mine)
        table[n:k, 0], table[n:k, 1], table[n:k, 2:8] = mine[:, column], 2.0, mine[:, o : o + 6]
        table[n:k, 8:11] = table[n:k, 11:14] = mine[:, o + 6 : o + 9]
        table[n:k, 14:17] = table[n:k, 17:20] = mine[:, o + 9 : o + 12]
        n = k
    inside = np.flatnonzero((table[:, 0] >= raw.times[0]) & (table[:, 0] <= raw.times[-1]))
    table = table[inside[np.lexsort((table[inside, 1], table[inside, 0]))]]
    keep = _merge_equal_times(table)
    t = table[keep]
    return Path(t[:, 0], t[:, 2:5], t[:, 8:11], t[:, 11:14], t[:, 5:8], t[:, 14:17], t[:, 17:20])


def _merge_equal_times(table: Array) -> np.ndarray:
    """Indices to keep: of rows within 1e-12 s, contacts win; several contacts merge into one knot."""
    apart = np.diff(table[:, 0]) >= 1e-12
    if apart.all():
        return np.arange(len(table))
    group = np.concatenate([[0], np.cumsum(apart)])
    keep = np.searchsorted(group, np.arange(group[-1] + 1))  # a contact sorts first within exactly equal times
    for g in np.unique(group[np.flatnonzero(np.diff(group) == 0)]):
        rows = np.flatnonzero(group == g)
        hits = rows[table[rows, 1] == 0.0]
        if len(hits):
            keep[g] = hits[0]
            table[hits[0], 11:14], table[hits[0], 17:20] = table[hits[-1], 11:14], table[hits[-1], 17:20]
    return keep
