"""The façade: one case in, one motion out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from yapa.by_identity import once_for_each
from yapa.case.bounds import MAX_DURATION, MAX_SAMPLES
from yapa.case.changed_numbers import with_links, with_numbers
from yapa.case.model import Case
from yapa.case.parameter_path import canonical_path
from yapa.case.parameters import check_values
from yapa.engine.compile.cameras import view_of
from yapa.engine.jit.pointers import call_with_pointers
from yapa.engine.jit.runtime import entries
from yapa.engine.kernels import layout as L
from yapa.engine.layout.schema import CONTACT_LOG, KNOT, PHASE_LOG
from yapa.engine.remarks import remarks_of
from yapa.engine.runner import STATUS, Program, RawRun
from yapa.errors import bad_input
from yapa.interrupt import stoppable
from yapa.motion import Array, Contact, ContactInterval, Later, Motion, Trajectory, rising
from yapa.motion.contacts import SlipState
from yapa.motion.definitions import MIN_CONTACT_SPEED

FLOAT = np.dtype(float)
READ_RATE = 240.0
"""1/s, samples that outcomes are read from"""


@once_for_each(most=16)
def program_for(case: Case) -> Program:
    """Return the compiled form of a case, kept while it is in use.

    Parameters
    ----------
    case : the case
    """
    return Program(case)


@lru_cache(maxsize=64)
def sample_times(duration: float, rate: float) -> Array:
    """Return 0 … duration at the given rate, the end always included. Not to be written to.

    Parameters
    ----------
    duration : length of the clip [s]
    rate : samples a second
    """
    count = round(duration * rate)
    times = np.arange(count + 1) / rate
    times = np.append(times[times < duration - 1e-9], duration)
    times.flags.writeable = False
    return times


@dataclass(frozen=True, slots=True, eq=False)
class Sampling:
    """The times a run is sampled at: those that are shown, and those that outcomes read, whatever is shown.

    ``shown`` and ``read`` are rows of ``times``; None where all are both."""

    times: Array
    shown: NDArray[np.intp] | None = None
    read: NDArray[np.intp] | None = None


def sampling(times: Array, end: float, movers: int) -> Sampling:
    """Return samples at these rising times, and at READ_RATE for the outcomes, if that is no more than a clip may have.

    Parameters
    ----------
    times : (T,) times [s]
    end : end of the run [s]
    movers : how many bodies move
    """
    if end * READ_RATE * movers > MAX_SAMPLES:
        return Sampling(times)
    grid = sample_times(end, READ_RATE)
    if grid is times or np.array_equal(grid, times):
        return Sampling(times)
    every = rising(times, grid)
    return Sampling(every, np.searchsorted(every, times), np.searchsorted(every, grid))


def simulate(
    case: Case,
    values: Mapping[str, float] | None = None,
    *,
    times: Array | None = None,
    cancel: np.ndarray | None = None,
    budget: float | None = None,
) -> Motion:
    """Simulate a case.

    Parameters
    ----------
    case : the case
    values : path → number in SI units, in place of the case's own numbers; what is linked to an unknown among them follows it
    times : (T,) rising sample times [s]; by default the case's duration at its output rate
    cancel : (1,) int64; set its element from another thread to stop the run
    budget : seconds of computing after which the motion so far is returned, its ``status`` "unfinished"; no ``cancel`` is heard

    Returns
    -------
    Motion
        Whole, or up to where it was cancelled, its budget was spent, or it could not go on (see its ``status``).

    Raises
    ------
    InputError
        If there is no such number, a value that a case file would refuse, or times that are none.
    Unsupported
        If the case asks for a meeting of shapes this engine cannot do.

    Notes
    -----
    Event-driven contact with an Alart-Curnier residual (Alart & Curnier, Computer Methods in Applied Mechanics and Engineering 92,
    1991),
    soft contacts in crowds, or the fixed steps of a profile. See ``docs/engine.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> motion = simulate(load(DATA / "orange-drop.yapa"), {"pairs.rind+pad.restitution": 0.8})
    >>> motion.status, motion.states.shape[1:]
    ('complete', (2, 16))
    >>> round(motion.contacts[0].rebound / motion.contacts[0].approach, 3)
    0.8
    """
    if values and any(path.startswith("profile.") for path in values):  # numbers of the solver make another compiled case
        own = {path: value for path, value in values.items() if path.startswith("profile.")}
        case, values = with_numbers(case, own), {path: value for path, value in values.items() if path not in own}
    program = program_for(case)
    if values:
        values = {canonical_path(path): value for path, value in values.items()}
        check_values(case, values, program.base)
        values = with_links(case, values)
    end, sampled = _sampling_of(case, times, len(program.force_driven))
    flag = cancel if cancel is not None else np.zeros(1, np.int64)
    with stoppable(flag):
        return motion_of(program, program.run(values, sampled.times, end, flag, budget=budget), sampled)


def _sampling_of(case: Case, times: Array | None, movers: int) -> tuple[float, Sampling]:
    """When a run ends, and the times it is sampled at; those most asked for are known without a look at each."""
    grid = sample_times(case.duration, READ_RATE)
    if times is None:
        times = sample_times(case.duration, case.output_rate)
    elif isinstance(times, np.ndarray) and times.dtype == FLOAT and times.data == grid.data:  # ufuncs are slower here
        times = grid
    else:
        times = _checked(times)
    if times is grid:
        return case.duration, Sampling(grid)
    end = max(case.duration, float(times[-1])) if len(times) else case.duration
    if end > MAX_DURATION:
        raise bad_input("times", f"{end:g} s", f"at most {MAX_DURATION:g} s")
    return end, sampling(times, end, movers)


def _checked(times: Array) -> Array:
    times = np.ascontiguousarray(times, dtype=float)
    rises = times.ndim == 1 and (not len(times) or (times[0] >= 0 and times[-1] < np.inf and bool((times[1:] > times[:-1]).all())))
    if not rises:  # nor do times that are no numbers
        raise bad_input("times", "times that do not rise from zero on", "finite times [s], each after the one before")
    return times


def motion_of(program: Program, raw: RawRun, sampled: Sampling | None = None) -> Motion:
    """Give a raw run its names; contacts, phases, curves and remarks are made when they are asked for.

    Parameters
    ----------
    program : the compiled case
    raw : what the kernel left
    sampled : times at which the run is sampled

    Returns
    -------
    The motion.
    """
    whole, grid = raw, None
    if sampled is not None and sampled.shown is not None and sampled.read is not None:
        read, shown = (rows[rows < len(raw.times)] for rows in (sampled.read, sampled.shown))
        whole = replace(raw, times=raw.times[read], states=raw.states[read])
        raw = replace(raw, times=raw.times[shown], states=raw.states[shown])
        grid = whole.times, program.as_filed(whole.states)
    accounts = raw.bodies()
    names = program.names
    status = "unfinished" if raw.unfinished else STATUS[raw.code]
    if raw.code not in (L.run_code.OK, L.run_code.CANCELLED):
        status += f", with {names[raw.failed_body]}"
    if raw.code != L.run_code.OK and len(raw.times):
        status += f" at {raw.times[-1]:.4g} s"
    return Motion(
        times=raw.times, states=program.as_filed(raw.states),
        bodies=accounts if program.filed is None else tuple(accounts[i] for i in program.filed),
        gravity=np.array([0.0, 0.0, raw.gravity]),
        contacts=Later(lambda: _contacts(raw.contacts, names)) if len(raw.contacts) else (),
        contact_intervals=Later(lambda: _phases(raw.phases, names)) if len(raw.phases) else (), status=status,
        steps=raw.steps, soft_steps=raw.soft_steps, regime_switches=raw.regime_switches, initial_overlap=raw.initial_overlap,
        trajectories=_Paths([body.name for body in accounts if body.is_movable], names, whole), grid=grid,
        remarks=Later(lambda: remarks_of(program, whole)) if raw.crowds is not None else (), constants=raw.constants,
        crowd_from={} if raw.crowds is None or raw.crowds.at < 0 else {names[i]: raw.crowds.at for i in raw.crowds.bodies},
        groups=program.case.groups, cameras={name: view_of(camera) for name, camera in program.case.cameras.items()},
    )


def _phases(log: Array, names: list[str]) -> list[ContactInterval]:
    rows = PHASE_LOG.records(log)
    columns = (rows[name].tolist() for name in ("begin", "end", "body_a", "body_b", "mode"))
    return [ContactInterval(begin, end, names[int(a)], names[int(b)],
                            SlipState.SLIP if mode == L.contact_mode.SLIP else SlipState.STICK, normal)
            for begin, end, a, b, mode, normal in zip(*columns, rows["normal"], strict=True)]


def _contacts(log: Array, names: list[str]) -> list[Contact]:
    rows = CONTACT_LOG.records(log)
    rows = rows[rows["approach"] > MIN_CONTACT_SPEED]  # less only passes on an impact between bodies that already touched
    numbers = (rows[name].tolist() for name in ("time", "body_a", "body_b", "approach", "rebound", "slip_before", "slip_after",
                                                "impulse_n", "impulse_t"))
    vectors = (rows["point"], rows["normal"], rows["state_a"]["position"], rows["state_b"]["position"])
    return [Contact(time=t, body=names[int(a)], partner=names[int(b)], approach=approach, rebound=rebound, slip_before=before,
                    slip_after=after, normal_impulse=jn, friction_impulse=jt, point=point, normal=normal, position=place,
                    partner_position=partner_place)
            for t, a, b, approach, rebound, before, after, jn, jt, point, normal, place, partner_place
            in zip(*numbers, *vectors, strict=True)]


class _Paths(Mapping[str, Trajectory]):
    """The curves of the moving bodies, each made when it is asked for."""

    def __init__(self, moving: list[str], names: list[str], raw: RawRun) -> None:
        self._moving, self._names, self._raw = moving, names, raw
        self._made: dict[str, Trajectory] = {}

    def __getitem__(self, name: str) -> Trajectory:
        if name not in self._made:
            if name not in self._moving:
                raise KeyError(name)
            self._made[name] = _path(self._names.index(name), self._raw)
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._moving)

    def __len__(self) -> int:
        return len(self._moving)


def _path(i: int, raw: RawRun) -> Trajectory:
    """The curve of body ``i``; of a run that stopped where it began, a point."""
    if len(raw.times) < 2:
        raw = replace(raw, times=np.repeat(raw.times, 2), states=np.repeat(raw.states, 2, axis=0))
    events = 2 * len(raw.contacts) + 4 * len(raw.phases)
    order, out = np.empty((events + 1, 3), np.int64), np.empty((len(raw.times) + events + 1, L.knot.COUNT))
    count = call_with_pointers(entries().knots_at, (raw.times[None], raw.states, raw.contacts, raw.phases, order, out), i)
    t = KNOT.records(out[:count])
    return Trajectory(t["time"], t["position"], t["velocity_before"], t["velocity_after"], t["rotation"], t["omega_before"],
                      t["omega_after"])
