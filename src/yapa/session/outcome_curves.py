"""Any outcome over time: what it would be if the motion ended there."""

from __future__ import annotations

from collections.abc import Iterable
from typing import cast

import numpy as np

from yapa.motion import Array, Motion
from yapa.outcomes import CATALOGUE, OutcomeValue, measure
from yapa.outcomes.registry import Outcome

SO_FAR = " so far"
"""stands behind the name of an outcome that is read up to each time"""
PLACES = 40
"""times an outcome is read at, besides the contacts"""
MAX_CONTACTS_READ = 60
"""contacts it is read after"""


def outcomes_over_time() -> Iterable[Outcome]:
    """Return the outcomes that can be read without being told more than a number."""
    return (outcome for outcome in CATALOGUE.values() if outcome.needs_no_argument)


def outcome_so_far(motion: Motion, body: str, name: str) -> Array:
    """Return an outcome as it is known at every sample, (T,); NaN while there is none. Of a numbered one the last that occurred.

    Parameters
    ----------
    motion : simulated or measured
    body : name of the body
    name : of the outcome
    """
    key = (name + SO_FAR, body)
    if key not in motion.cache:
        motion.cache[key] = _read(motion, body, name)
    return cast("Array", motion.cache[key])


def _read(motion: Motion, body: str, name: str) -> Array:
    t = motion.times
    if len(t) < 3:
        return np.full(len(t), np.nan)
    touched = [c.time + 1e-9 for c in motion.contacts_of(body)][:MAX_CONTACTS_READ]
    ends = np.unique(np.clip([*np.linspace(t[1], t[-1], PLACES), *touched], t[1], t[-1]))
    values = np.array([_last(measure(motion.until(end), body, (name,))) for end in ends])
    known = np.concatenate([[np.nan], values])
    return np.asarray(known[np.searchsorted(ends, t, side="right")])


def _last(found: dict[str, OutcomeValue]) -> float:
    values = [v.value for v in found.values() if v.value is not None]
    return values[-1] if values else float("nan")
