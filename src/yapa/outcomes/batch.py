"""Vectorised outcomes for batches: one value a run, NaN where the outcome does not occur.

The input is the summary of a batch of runs. Each function gives what the outcome of the same name gives for a single motion; the
tests compare the two bit for bit. An outcome that is not here is read from one motion after another.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yapa.case.evidence import Target
from yapa.motion import Array
from yapa.motion.batch_summary import HIT, BatchSummary
from yapa.motion.definitions import MIN_BOUNCE_SLOPE, MIN_IMPACT_SPEED, REST_SPEED
from yapa.outcomes.query import OutcomeQuery

BatchOutcome = Callable[[BatchSummary, OutcomeQuery], Array]


def _pick(batch: BatchSummary, which: np.ndarray, k: int) -> np.ndarray:
    """The k-th (from 1) of the hits marked in each row; a row of NaN where there are fewer."""
    place = (which.cumsum(axis=1) == k) & which
    out = np.full(len(which), np.nan, HIT)
    rows = place.any(axis=1)
    out[rows] = batch.hits[place]
    return out


def _counted(batch: BatchSummary) -> np.ndarray:
    return np.asarray(batch.has_hit & (batch.hits["is_bounce"] == 1.0))


def _is_felt(batch: BatchSummary, query: OutcomeQuery) -> np.ndarray:
    found = batch.has_hit & (batch.hits["approach_speed"] >= MIN_IMPACT_SPEED)
    if query.partner is not None and query.partner in batch.names:
        found &= batch.hits["partner"] == batch.names.index(query.partner)
    return np.asarray(found if query.partner is None or query.partner in batch.names else np.zeros_like(found))


def _apex(batch: BatchSummary, query: OutcomeQuery) -> Array:
    hit = _pick(batch, _counted(batch), query.k)
    times = np.where(batch.has_hit, batch.hits["time"], -np.inf)
    last = times.max(axis=1)
    rising = (hit["apex_time"] >= batch.runs["end"] - 1e-9) & ~(last > hit["time"])
    return np.where(rising, np.nan, hit["rise"])


def _apex_ratio(batch: BatchSummary, query: OutcomeQuery) -> Array:
    before = _apex(batch, OutcomeQuery(query.k - 1))
    return np.where(before == 0.0, np.nan, _apex(batch, query) / before)


def _bounces(batch: BatchSummary, query: OutcomeQuery) -> Array:
    return np.asarray(_counted(batch).sum(axis=1).astype(float))


def _bounce_time(batch: BatchSummary, query: OutcomeQuery) -> Array:
    return _pick(batch, _counted(batch), query.k)["time"]


def _landed(batch: BatchSummary, query: OutcomeQuery) -> np.ndarray:
    rises = batch.has_hit & (batch.hits["slope"] > MIN_BOUNCE_SLOPE)
    rank = rises.cumsum(axis=1)
    bounced = np.zeros((rises.shape[0], rises.shape[1] + 1), bool)
    bounced[:, 0] = True  # before the first
    row, at = np.nonzero(_counted(batch) & rises)
    bounced[row, rank[row, at]] = True
    flown = np.take_along_axis(bounced, np.maximum(rank - 1, 0), axis=1)
    return _pick(batch, rises & (flown | _counted(batch)), query.k)["position"]


def _landing(batch: BatchSummary, query: OutcomeQuery) -> Array:
    return _level(_landed(batch, query) - batch.runs["start"])


def _level(d: np.ndarray) -> Array:
    """Lengths of horizontal parts."""
    return np.asarray(np.linalg.norm(d * [1.0, 1.0, 0.0], axis=1))


def _of_hit(name: str) -> BatchOutcome:
    return lambda batch, query: _pick(batch, _is_felt(batch, query), query.k)[name]


def _kept(batch: BatchSummary, query: OutcomeQuery) -> Array:
    hit = _pick(batch, _is_felt(batch, query), query.k)
    return np.asarray(hit["rebound_speed"] / hit["approach_speed"])


def _impact_energy(batch: BatchSummary, query: OutcomeQuery) -> Array:
    mass = np.nan if batch.mass is None else batch.mass
    return np.asarray(0.5 * mass * _of_hit("approach_speed")(batch, query) ** 2)


def _flight_time(batch: BatchSummary, query: OutcomeQuery) -> Array:
    every = _is_felt(batch, OutcomeQuery())
    return np.asarray(_pick(batch, every, query.k + 1)["time"] - _pick(batch, every, query.k)["time"])


def _rest_time(batch: BatchSummary, query: OutcomeQuery) -> Array:
    end, still, series, left = (batch.runs[name] for name in ("end", "still_since", "series_end", "residual_speed"))
    alone = np.where(batch.runs["moves_on"] == 1.0, np.nan, still)
    return np.where(left < REST_SPEED, np.where(series <= end, series, np.nan), alone)


def _at(batch: BatchSummary, query: OutcomeQuery, first: int) -> np.ndarray:
    """Three numbers of the state at the time asked for; NaN after the end."""
    late = query.time is not None and query.time > batch.runs["end"] + 1e-9
    return np.where(np.atleast_1d(late)[:, None], np.nan, batch.states[:, 0, first : first + 3])


def _coordinate(axis: int) -> BatchOutcome:
    return lambda batch, query: _at(batch, query, 0)[:, axis]


def _travel(batch: BatchSummary, query: OutcomeQuery) -> Array:
    return _level(_at(batch, OutcomeQuery(), 0) - batch.runs["start"])


BATCH_OUTCOMES: dict[str, BatchOutcome] = {
    "apex": _apex, "apex ratio": _apex_ratio, "bounces": _bounces, "bounce time": _bounce_time, "landing": _landing,
    "landing x": lambda batch, query: _landed(batch, query)[:, 0], "landing y": lambda batch, query: _landed(batch, query)[:, 1],
    "contacts": lambda batch, query: _is_felt(batch, query).sum(axis=1).astype(float), "contact time": _of_hit("time"),
    "impact speed": _of_hit("approach_speed"), "rebound speed": _of_hit("rebound_speed"), "contact slip": _of_hit("slip_speed"),
    "kept restitution": _kept, "impact energy": _impact_energy, "flight time": _flight_time, "rest time": _rest_time,
    "peak speed": lambda batch, query: batch.runs["peak_speed"], "travel": _travel,
    "x": _coordinate(0), "y": _coordinate(1), "z": _coordinate(2),
    "speed": lambda batch, query: np.asarray(np.linalg.norm(_at(batch, query, 3), axis=1)),
    "spin": lambda batch, query: np.asarray(np.linalg.norm(_at(batch, query, 9), axis=1)),
    "turn": lambda batch, query: _at(batch, query, 6)[:, 1],
}


def has_batch_form(target: Target) -> bool:
    """Return whether an outcome can be read from the summary of a batch.

    Parameters
    ----------
    target : the wanted outcome
    """
    if target.each is not None:
        return False
    return target.outcome in BATCH_OUTCOMES and not (target.outcome == "apex ratio" and (target.index or 1) == 1)


def sample_times_of(target: Target) -> tuple[float, ...]:
    """Return times at which the outcome needs the state; 1e300 is the end.

    Parameters
    ----------
    target : the wanted outcome
    """
    if target.outcome in ("x", "y", "z", "speed", "spin", "turn", "travel"):
        return (1e300 if target.time is None else target.time,)
    return ()
