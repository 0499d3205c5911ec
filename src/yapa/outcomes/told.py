"""Outcomes of many runs at once, from what the runs told: values only, NaN where an outcome did not occur.

Each says what the function of the same name in the catalogue says of a single motion; the tests hold them to it, bit for bit. An
outcome that is not here is read off one motion after another.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yapa.case.evidence import Target
from yapa.engine.kernels import layout as L
from yapa.engine.telling import Told
from yapa.motion import Array
from yapa.outcomes.asked import Asked
from yapa.outcomes.contacts import HEARD

Tell = Callable[[Told, Asked], Array]


def _pick(told: Told, which: np.ndarray, k: int) -> np.ndarray:
    """The k-th (from 1) of the hits marked in each row; a row of NaN where there are fewer."""
    place = (which.cumsum(axis=1) == k) & which
    out = np.full((len(which), told.hits.shape[2]), np.nan)
    rows = place.any(axis=1)
    out[rows] = told.hits[place]
    return out


def _counted(told: Told) -> np.ndarray:
    return np.asarray(told.there & (told.hits[:, :, L.HIT_COUNTED] == 1.0))


def _heard(told: Told, asked: Asked) -> np.ndarray:
    found = told.there & (told.hits[:, :, L.HIT_APPROACH] >= HEARD)
    if asked.partner is not None and asked.partner in told.names:
        found &= told.hits[:, :, L.HIT_PARTNER] == told.names.index(asked.partner)
    return np.asarray(found if asked.partner is None or asked.partner in told.names else np.zeros_like(found))


def _apex(told: Told, asked: Asked) -> Array:
    hit = _pick(told, _counted(told), asked.k)
    times = np.where(told.there, told.hits[:, :, L.HIT_TIME], -np.inf)
    last = times.max(axis=1)
    rising = (hit[:, L.HIT_TOP] >= told.heads[:, L.HEAD_END] - 1e-9) & ~(last > hit[:, L.HIT_TIME])
    return np.where(rising, np.nan, hit[:, L.HIT_RISE])


def _apex_ratio(told: Told, asked: Asked) -> Array:
    before = _apex(told, Asked(asked.k - 1))
    return np.where(before == 0.0, np.nan, _apex(told, asked) / before)


def _bounces(told: Told, asked: Asked) -> Array:
    return _counted(told).sum(axis=1).astype(float)


def _bounce_time(told: Told, asked: Asked) -> Array:
    return _pick(told, _counted(told), asked.k)[:, L.HIT_TIME]


def _landed(told: Told, asked: Asked) -> np.ndarray:
    rises = told.there & (told.hits[:, :, L.HIT_STEEP] > 0.1)
    rank = rises.cumsum(axis=1)
    bounced = np.zeros((rises.shape[0], rises.shape[1] + 1), bool)
    bounced[:, 0] = True  # before the first
    row, at = np.nonzero(_counted(told) & rises)
    bounced[row, rank[row, at]] = True
    flown = np.take_along_axis(bounced, np.maximum(rank - 1, 0), axis=1)
    return _pick(told, rises & (flown | _counted(told)), asked.k)[:, L.HIT_PLACE : L.HIT_PLACE + 3]


def _landing(told: Told, asked: Asked) -> Array:
    return _level(_landed(told, asked) - told.heads[:, L.HEAD_START : L.HEAD_START + 3])


def _level(d: np.ndarray) -> Array:
    """Lengths of horizontal parts."""
    return np.asarray(np.linalg.norm(d * [1.0, 1.0, 0.0], axis=1))


def _of_hit(column: int) -> Tell:
    return lambda told, asked: _pick(told, _heard(told, asked), asked.k)[:, column]


def _kept(told: Told, asked: Asked) -> Array:
    hit = _pick(told, _heard(told, asked), asked.k)
    return np.asarray(hit[:, L.HIT_REBOUND] / hit[:, L.HIT_APPROACH])


def _impact_energy(told: Told, asked: Asked) -> Array:
    mass = np.nan if told.mass is None else told.mass
    return np.asarray(0.5 * mass * _of_hit(L.HIT_APPROACH)(told, asked) ** 2)


def _flight_time(told: Told, asked: Asked) -> Array:
    every = _heard(told, Asked())
    return np.asarray(_pick(told, every, asked.k + 1)[:, L.HIT_TIME] - _pick(told, every, asked.k)[:, L.HIT_TIME])


def _rest_time(told: Told, asked: Asked) -> Array:
    end, still, series, left = (told.heads[:, c] for c in (L.HEAD_END, L.HEAD_STILL, L.HEAD_SERIES, L.HEAD_LEFT))
    alone = np.where(told.heads[:, L.HEAD_MOVES_ON] == 1.0, np.nan, still)
    return np.where(left < L.STILL_SPEED, np.where(series <= end, series, np.nan), alone)


def _at(told: Told, asked: Asked, first: int) -> np.ndarray:
    """Three numbers of the state at the time asked for; NaN after the end."""
    late = asked.at is not None and asked.at > told.heads[:, L.HEAD_END] + 1e-9
    return np.where(np.atleast_1d(late)[:, None], np.nan, told.seen[:, 0, first : first + 3])


def _coordinate(axis: int) -> Tell:
    return lambda told, asked: _at(told, asked, 0)[:, axis]


def _travel(told: Told, asked: Asked) -> Array:
    return _level(_at(told, Asked(), 0) - told.heads[:, L.HEAD_START : L.HEAD_START + 3])


TOLD: dict[str, Tell] = {
    "apex": _apex, "apex ratio": _apex_ratio, "bounces": _bounces, "bounce time": _bounce_time, "landing": _landing,
    "landing x": lambda told, asked: _landed(told, asked)[:, 0], "landing y": lambda told, asked: _landed(told, asked)[:, 1],
    "contacts": lambda told, asked: _heard(told, asked).sum(axis=1).astype(float), "contact time": _of_hit(L.HIT_TIME),
    "impact speed": _of_hit(L.HIT_APPROACH), "rebound speed": _of_hit(L.HIT_REBOUND), "contact slip": _of_hit(L.HIT_SLIP),
    "kept restitution": _kept, "impact energy": _impact_energy, "flight time": _flight_time, "rest time": _rest_time,
    "peak speed": lambda told, asked: told.heads[:, L.HEAD_PEAK_SPEED], "travel": _travel,
    "x": _coordinate(0), "y": _coordinate(1), "z": _coordinate(2),
    "speed": lambda told, asked: np.asarray(np.linalg.norm(_at(told, asked, 3), axis=1)),
    "spin": lambda told, asked: np.asarray(np.linalg.norm(_at(told, asked, 9), axis=1)),
    "turn": lambda told, asked: _at(told, asked, 6)[:, 1],
}


def is_told(target: Target) -> bool:
    """Whether an outcome can be read off what a block of runs tells."""
    return target.outcome in TOLD and not (target.outcome == "apex ratio" and (target.index or 1) == 1)


def times_of(target: Target) -> tuple[float, ...]:
    """Times at which the outcome wants to know the state; 1e300 is the end."""
    if target.outcome in ("x", "y", "z", "speed", "spin", "turn", "travel"):
        return (1e300 if target.at is None else target.at,)
    return ()
