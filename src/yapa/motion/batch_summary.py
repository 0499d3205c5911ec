"""What outcomes need of many runs at once: contacts, rest and states of one body, without a motion for each run."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.motion.arrays import Array

HIT = np.dtype([
    ("time", float), ("partner", float), ("position", float, 3), ("approach_speed", float), ("rebound_speed", float),
    ("slip_speed", float), ("slope", float), ("rise", float), ("apex_time", float), ("upward_speed", float), ("is_bounce", float),
    ("gravity_slope", float), ("normal", float, 3),
])
"""One contact of the body, SI units: ``slope`` is how far its normal points up; ``rise`` to ``is_bounce`` follow from what comes
after it. ``partner`` is a body's number in the order of ``names``."""
RUN = np.dtype([
    ("status", float), ("contacts", float), ("end", float), ("still_since", float), ("moves_on", float), ("series_end", float),
    ("residual_speed", float), ("peak_speed", float), ("start", float, 3),
])
"""One run, SI units: ``status`` 0 where it came to its end, ``contacts`` -1 where there were too many; ``series_end`` is the limit
of the last bounce series, ``residual_speed`` the speed that is left there."""


@dataclass(frozen=True)
class BatchSummary:
    """Contacts, rest and states of one body in N runs.

    Attributes
    ----------
    hits : (N, M) of :data:`HIT`, the first ``runs["contacts"]`` of each row
    runs : (N,) of :data:`RUN`
    states : (N, A, 12) position, velocity, rotation and angular velocity at A times
    names : of the bodies, in the order of ``partner``
    mass : of the body [kg], None where no force moves it
    """

    hits: np.ndarray
    runs: np.ndarray
    states: Array
    names: tuple[str, ...]
    mass: float | None

    @property
    def is_whole(self) -> np.ndarray:
        """(N,): whether a run came to its end and has all its contacts here; others are read off their motions."""
        return np.asarray((self.runs["status"] == 0) & (self.runs["contacts"] >= 0))

    @property
    def has_hit(self) -> np.ndarray:
        """(N, M): where there is a contact."""
        return np.asarray(np.arange(self.hits.shape[1]) < self.runs["contacts"][:, None])
