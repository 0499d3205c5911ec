"""Quantities of a body over time, a row of the registry each: which are usual, and what was measured of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yapa.case import Case
from yapa.fitting.initial.seen import ObservedTrack
from yapa.motion import Array, Motion
from yapa.session.closed_forms import closed_form
from yapa.session.measured_side import MeasuredSide
from yapa.session.outcome_curves import SO_FAR, outcome_so_far, outcomes_over_time

FLAT, NEARLY_FLAT = 1e-6, 1e-3
"""m: a coordinate that changes by less is no usual trace; where a track is, by less than the second"""
STILL = 1e-6
"""rad/s: slower spins are none"""


@dataclass(frozen=True)
class Trace:
    """One quantity of one body over time: simulated line, measured points, residuals in σ, closed form.

    Gaps are NaN, and so is the closed form where it says nothing.
    """

    body: str
    name: str
    unit: str
    t: Array
    y: Array
    measured_t: Array | None = None
    measured_y: Array | None = None
    residual: Array | None = None
    theory: Array | None = None


@dataclass(frozen=True)
class TraceKind:
    """One quantity that can be shown over time.

    Attributes
    ----------
    name, unit, meaning : how it is called, its SI unit, and what it is
    of : motion, body → its values at the samples, (T,)
    axis : column of a track that shows it ("x", "y", "z", "angle"); None: none does
    """

    name: str
    unit: str
    meaning: str
    of: Callable[[Motion, str], Array]
    axis: str | None = None


def _states(motion: Motion, body: str) -> Array:
    return np.asarray(motion.states[:, motion.names.index(body)])


def _column(k: int) -> Callable[[Motion, str], Array]:
    return lambda motion, body: _states(motion, body)[:, k]


def _speed(motion: Motion, body: str) -> Array:
    return np.asarray(np.linalg.norm(_states(motion, body)[:, 7:10], axis=1))


def _tilt(motion: Motion, body: str) -> Array:
    """Angle between where the body's upright axis was and where it is."""
    q = _states(motion, body)[:, 3:7]
    w, x, y, z = q.T
    up = np.column_stack([2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x**2 + y**2)])
    return np.asarray(np.arccos(np.clip(up @ up[0], -1.0, 1.0)))


def _away(motion: Motion, body: str) -> Array:
    x = _states(motion, body)[:, :3]
    return np.asarray(np.linalg.norm(x - x[0], axis=1))


def _energy(motion: Motion, body: str) -> Array:
    book = motion.energy()
    if body not in book.names:
        return np.full(len(motion.times), np.nan)
    k = book.names.index(body)
    return np.asarray(book.translational[:, k] + book.rotational[:, k] + book.potential[:, k])


def _kept(motion: Motion, _body: str) -> Array:
    total = motion.energy().total
    return np.asarray(total / total[0]) if total[0] else np.full(len(total), np.nan)


def _so_far(name: str) -> Callable[[Motion, str], Array]:
    return lambda motion, body: outcome_so_far(motion, body, name)


KINDS: tuple[TraceKind, ...] = (
    TraceKind("height", "m", "Height of its origin", _column(2), "z"),
    TraceKind("travel", "m", "Place along x", _column(0), "x"),
    TraceKind("sideways", "m", "Place along y", _column(1), "y"),
    TraceKind("angle", "rad", "How far it has turned about y", _column(14), "angle"),
    TraceKind("speed", "m/s", "How fast its centre of mass is", _speed),
    TraceKind("speed along x", "m/s", "Its velocity along x", _column(7)),
    TraceKind("speed along y", "m/s", "Its velocity along y", _column(8)),
    TraceKind("speed upwards", "m/s", "Its velocity along z", _column(9)),
    TraceKind("spin", "rad/s", "Its angular velocity about y", _column(11)),
    TraceKind("spin about x", "rad/s", "Its angular velocity about x", _column(10)),
    TraceKind("spin about z", "rad/s", "Its angular velocity about z", _column(12)),
    TraceKind("tilt", "rad", "How far its upright axis leans from where it began", _tilt),
    TraceKind("away from its start", "m", "Straight distance from where it began", _away),
    TraceKind("energy", "J", "Its energy of moving, turning and height", _energy),
    TraceKind("energy kept", "", "Energy of the whole scene, as a part of that at the start", _kept),
)
"""Every quantity that can be shown over time, in the order of the list."""
NAMED: Mapping[str, TraceKind] = {kind.name: kind for kind in KINDS}
COLUMNS = {"x": 0, "y": 1, "z": 2}
Choice = tuple[str, str]
"""a body, and the name of a quantity"""


def so_far_kinds() -> dict[str, TraceKind]:
    """Return every outcome as it is known at each time, by name; those of an extension as well."""
    return {outcome.name + SO_FAR: TraceKind(outcome.name + SO_FAR, outcome.unit, f"If it ended there: {outcome.meaning}",
                                             _so_far(outcome.name)) for outcome in outcomes_over_time()}


def usual_traces(motion: Motion, seen: Mapping[str, ObservedTrack]) -> list[Choice]:
    """Return what is shown where nothing was chosen: coordinates that change, the angle that was measured, speed, and spin.

    Parameters
    ----------
    motion : simulated motion
    seen : body → its track as a motion
    """
    out: list[Choice] = []
    for body in motion.dynamic_bodies():
        s, track = _states(motion, body), seen.get(body)
        for name in ("height", "travel", "sideways"):
            column = COLUMNS[NAMED[name].axis or ""]
            measured = track is not None and bool(track.data.shown[column])
            if measured or np.ptp(s[:, column]) >= (FLAT if track is None else NEARLY_FLAT):
                out.append((body, name))
        if track is not None and track.data.angle is not None:
            out.append((body, "angle"))
        out.append((body, "speed"))
        if np.abs(s[:, 10:13]).max() > STILL:
            out.append((body, "spin"))
    return out


def traces_of(case: Case | None, motion: Motion, side: MeasuredSide, residuals: Mapping[Choice, tuple[Array, Array]],
              choice: Sequence[Choice] | None = None) -> list[Trace]:
    """Return curves over time.

    Parameters
    ----------
    case : the case, with the values of the motion; None: no closed form holds
    motion : simulated motion
    side : the tracks as motions
    residuals : (body, axis) → times and residuals [standard deviations] of a track's column
    choice : what is shown; None: what is usual. Bodies that are gone are left out
    """
    forms = {} if case is None else {body: closed_form(case, motion, body) for body in motion.dynamic_bodies()}
    places = {body: form.place(motion.times) for body, form in forms.items() if form is not None}
    out, known = [], {**NAMED, **so_far_kinds()}
    for body, name in usual_traces(motion, side.seen) if choice is None else choice:
        kind, track = known.get(name), side.seen.get(body)
        if kind is None or body not in motion.dynamic_bodies():
            continue
        y = kind.of(motion, body)
        t, r = residuals.get((body, kind.axis or ""), (None, None))
        measured: Array | None = None
        if track is not None and kind.name == "speed":
            t, measured = track.data.t, side.speeds[body]
        elif track is not None and kind.axis == "angle" and track.data.angle is not None:
            measured = track.data.angle - np.nanmedian(track.data.angle[:5]) + float(np.interp(track.data.t[2], motion.times, y))
        elif track is not None and kind.axis in COLUMNS and track.data.shown[COLUMNS[kind.axis]]:
            measured = side.columns[body][COLUMNS[kind.axis]]
        elif track is not None and name not in NAMED:
            t, measured = track.motion.times, kind.of(track.motion, body)
        theory = places[body][:, COLUMNS[kind.axis]] if kind.axis in COLUMNS and body in places else None
        out.append(Trace(body, name, kind.unit, motion.times, y, t if measured is not None else None, measured,
                         r if measured is not None else None, theory))
    return out
