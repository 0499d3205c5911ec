"""A motion: samples, contacts, and what is known of who moved and on what.

Simulated and measured motions have the same shape, so every outcome reads both.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import cast

import numpy as np

from yapa.motion.arrays import Array
from yapa.motion.contacts import Contact, ContactInterval
from yapa.motion.energy import Energy, rotate_to_body
from yapa.motion.info import BodyInfo, CameraView, Remark
from yapa.motion.trajectory import Trajectory


@dataclass(frozen=True, eq=False)
class Motion:
    """Samples and contacts of all bodies.

    Attributes
    ----------
    times : (T,) s
    states : (T, n, 16)
        Place, orientation quaternion (w, x, y, z), velocity, angular velocity, turn; world axes.
    bodies : what is known of each of the n bodies
    gravity : (3,) m/s²
    status : "complete", "cancelled", "unfinished", or why the run ended early and at what time
    steps : substeps taken
    soft_steps : steps taken with soft contacts
    regime_switches : how often an island changed from the event-driven regime to soft contacts
    remarks : what the simulation could not do well
    unresolved_intervals : stretches of a track in which contacts come too fast for its frames
    noise, noise_angle : σ of places [m] and of angles [rad] for a measured motion, 0 for a simulated one
    """

    times: Array
    states: Array
    bodies: tuple[BodyInfo, ...]
    gravity: Array
    contacts: Sequence[Contact] = ()
    contact_intervals: Sequence[ContactInterval] = ()
    status: str = "complete"
    steps: int = 0
    soft_steps: int = 0
    regime_switches: int = 0
    initial_overlap: float = 0.0
    noise: float = 0.0
    noise_angle: float = 0.0
    measured: bool = False
    trajectories: Mapping[str, Trajectory] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    unresolved_intervals: tuple[tuple[float, float], ...] = ()
    remarks: Sequence[Remark] = ()
    constants: Mapping[str, float] = field(default_factory=dict)
    """Constants of the case [SI units] that outcomes may be combined with."""
    crowd_from: Mapping[str, float] = field(default_factory=dict)
    """Bodies that were in a crowd, and from when on the first of them was [s]."""
    groups: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    """Groups of bodies by name."""
    cameras: Mapping[str, CameraView] = field(default_factory=dict)
    """What the cameras of the case see, by name."""
    grid: tuple[Array, Array] | None = None
    """Times and states that outcomes read, where those above are others."""
    cache: dict[tuple[str, str], object] = field(default_factory=dict)
    """What outcome functions keep, so that several of them do not work it out twice."""

    def __getstate__(self) -> dict[str, object]:
        """What is pickled: curves are made now, what outcome functions keep is left out."""
        return {**self.__dict__, "trajectories": dict(self.trajectories), "cache": {}}

    @property
    def outcome_samples(self) -> tuple[Array, Array]:
        """Times and states that outcomes read: the same however often a simulated motion is sampled."""
        return self.grid or (self.times, self.states)

    @property
    def is_unfinished(self) -> bool:
        """Whether the run ended because its budget of time was spent."""
        return self.status.startswith("unfinished")

    @cached_property
    def names(self) -> list[str]:
        """Body names in order."""
        return [body.name for body in self.bodies]

    def body(self, name: str) -> BodyInfo:
        """Return what is known of a body.

        Parameters
        ----------
        name : its name
        """
        return self.bodies[self.names.index(name)]

    def dynamic_bodies(self) -> list[str]:
        """Return names of the bodies that move by forces (not those that follow a path)."""
        return [body.name for body in self.bodies if body.is_movable and not body.is_kinematic]

    def trajectory(self, name: str) -> Trajectory:
        """Return the body's curve through samples and contacts.

        Parameters
        ----------
        name : its name; of a body that never moves the curve is a point
        """
        if name not in self.trajectories and name in self.names:
            state = self.states[0, self.names.index(name)]
            place, still = np.tile(state[:3], (2, 1)), np.zeros((2, 3))
            ends = np.array([self.times[0], max(self.end, self.times[0] + 1e-9)])
            return Trajectory(ends, place, still, still, still, still, still)
        return self.trajectories[name]

    def contacts_of(self, name: str) -> list[Contact]:
        """Return contacts the body takes part in, in time order.

        Parameters
        ----------
        name : its name
        """
        key = ("contacts", name)
        if key not in self.cache:
            self.cache[key] = [c for c in self.contacts if name in (c.body, c.partner)]
        return list(cast("list[Contact]", self.cache[key]))

    def start_of(self, name: str) -> Array:
        """Return where the body is at the first sample [m], (3,). Not to be written to.

        Parameters
        ----------
        name : its name
        """
        key = ("start", name)
        if key not in self.cache:
            self.cache[key] = self.trajectories[name].position(self.times[:1])[0]
        return cast("Array", self.cache[key])

    def contact_intervals_of(self, name: str) -> list[ContactInterval]:
        """Return times in which the body stayed on something.

        Parameters
        ----------
        name : its name
        """
        return [p for p in self.contact_intervals if name in (p.body, p.partner)]

    def energy(self) -> Energy:
        """Return the energy book at every sample, of every body whose mass is known."""
        heavy = [i for i, b in enumerate(self.bodies) if b.mass is not None and b.inertia is not None and b.is_movable]
        moving, turning, height = (np.zeros((len(self.times), len(heavy))) for _ in range(3))
        for k, i in enumerate(heavy):
            body, s = self.bodies[i], self.states[:, i]
            mass = float(body.mass or 0.0)
            moving[:, k] = 0.5 * mass * (s[:, 7:10] ** 2).sum(axis=1)
            q, axes = s[:, 3:7], np.array(body.axes)
            w = rotate_to_body(axes[None], rotate_to_body(q, s[:, 10:13]))
            turning[:, k] = 0.5 * (np.array(body.inertia) * w**2).sum(axis=1)
            height[:, k] = -mass * body.gravity_multiplier * (s[:, :3] @ self.gravity)
        return Energy(tuple(self.bodies[i].name for i in heavy), moving, turning, height)

    def until(self, end: float) -> Motion:
        """Return the motion as it was known at a time: its samples, contacts and curves up to there.

        Parameters
        ----------
        end : a time after its first sample [s]; one after its last gives all of it
        """
        times, grid = self.times <= end, self.grid
        if times.all():
            return self
        read = grid[0] <= end if grid is not None else None
        return replace(
            self, times=self.times[times], states=self.states[times], cache={},
            contacts=[c for c in self.contacts if c.time <= end],
            contact_intervals=[replace(p, end=min(p.end, end)) for p in self.contact_intervals if p.start < end],
            trajectories={name: curve.until(end) for name, curve in self.trajectories.items()},
            grid=(grid[0][read], grid[1][read]) if grid is not None else None)

    @property
    def end(self) -> float:
        """The last time [s]."""
        return float(self.times[-1])
