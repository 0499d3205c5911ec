"""A motion: samples, contacts, and a read-only account of who moved and on what.

Simulated and measured motions have the same shape, so every outcome reads both. Between its
samples and contacts a motion is a cubic Hermite curve (place and velocity at every knot; at a
contact the velocity before and after), which is exact in free flight without drag and within
1e-11 m of the simulation with it, at 240 samples a second.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal, cast

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def rising(*values: Array) -> Array:
    """The different ones of these (N,) finite numbers, rising: ``numpy.unique``, which imports NumPy's masked arrays to do it."""
    every = np.sort(np.concatenate(values))
    return every[np.concatenate([[True], every[1:] != every[:-1]])] if len(every) else every


@dataclass(frozen=True)
class ShapeAccount:
    """A shape as it collides: kind, sizes, pose about the centre of mass in the body's axes, clearance.

    ``size``: radius; full edges; radius and length; the unit normal. A hull has vertices and face loops.
    """

    kind: str
    size: tuple[float, ...]
    at: tuple[float, float, float]
    turned: tuple[float, float, float, float]
    clearance: float = 0.0
    vertices: Array | None = None
    loops: tuple[tuple[int, ...], ...] = ()


@dataclass(frozen=True)
class BodyAccount:
    """What is known of a body: its mass is None where nobody told, or where no force moves it.

    ``inertia`` [kg m²] are its principal moments, ``axes`` the principal axes as a quaternion in its own.
    """

    name: str
    moves: bool
    kind: str
    extent: tuple[float, float, float]
    reach: float
    mass: float | None = None
    place: tuple[float, float, float] = (0.0, 0.0, 0.0)
    orientation: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 0.0)
    driven: bool = False
    inertia: tuple[float, float, float] | None = None
    axes: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 0.0)
    gravity_multiplier: float = 1.0
    shapes: tuple[ShapeAccount, ...] = ()


@dataclass(slots=True)
class Contact:
    """An impact of ``body`` on ``partner``. Speeds in m/s; the normal points from partner to body. Not to be changed.

    ``time_std`` and ``speed_std`` are zero on a simulated motion; impulses are None on a measured one.
    """

    time: float
    body: str
    partner: str
    point: Array
    normal: Array
    approach: float
    rebound: float
    slip_before: float
    slip_after: float
    normal_impulse: float | None
    friction_impulse: float | None
    place: Array
    partner_place: Array | None = None
    time_std: float = 0.0
    speed_std: float = 0.0

    def seen_from(self, name: str) -> tuple[Array, Array]:
        """Centre of the named body at the contact, and the normal pointing towards it."""
        if name == self.body or self.partner_place is None:
            return self.place, self.normal
        return self.partner_place, -self.normal


@dataclass(frozen=True)
class Remark:
    """What a simulation could not do well, told wherever its motion is looked at.

    ``about`` the bodies, what is seen (``symptom``) and why (``cause``); a "trouble" may have changed outcomes, a "note" did not.
    """

    kind: str
    about: str
    symptom: str
    cause: str
    weight: Literal["trouble", "note"] = "trouble"

    def __str__(self) -> str:
        return f"{self.about}: {self.symptom}. {self.cause[:1].upper()}{self.cause[1:]}."


class Later(Sequence[Any]):
    """A list that is made when it is first asked for."""

    def __init__(self, make: Callable[[], list[Any]]) -> None:
        self._make: Callable[[], list[Any]] | None = make
        self._made: list[Any] = []

    @property
    def made(self) -> list[Any]:
        """The list itself."""
        if self._make is not None:
            self._made, self._make = self._make(), None
        return self._made

    def __getitem__(self, at: Any) -> Any:
        return self.made[at]

    def __len__(self) -> int:
        return len(self.made)

    def __iter__(self) -> Iterator[Any]:
        return iter(self.made)

    def __eq__(self, other: object) -> bool:
        return self.made == (other.made if isinstance(other, Later) else other)

    __hash__ = None  # type: ignore[assignment]

    def __repr__(self) -> str:
        return repr(self.made)

    def __reduce__(self) -> tuple[Any, ...]:
        return list, (self.made,)


@dataclass(frozen=True)
class Phase:
    """A time in which ``body`` stayed on ``partner``, sliding or gripping (rolling or resting)."""

    start: float
    end: float
    body: str
    partner: str
    mode: Literal["slides", "grips"]
    normal: Array


@dataclass(frozen=True)
class Trajectory:
    """The knots of one body's motion: time, place, velocity arriving and leaving, turn and spin."""

    t: Array
    x: Array
    arriving: Array
    leaving: Array
    turn: Array
    spin_arriving: Array
    spin_leaving: Array

    def _cell(self, times: Array) -> tuple[NDArray[np.intp], Array, Array]:
        i = np.minimum(np.maximum(self.t.searchsorted(times, side="right") - 1, 0), len(self.t) - 2)
        start = self.t[i]
        h = self.t[i + 1] - start
        s = np.divide(times - start, h, out=np.zeros_like(h), where=h > 0)
        return i, np.minimum(np.maximum(s, 0.0), 1.0)[:, None], h[:, None]

    def place(self, times: Array) -> Array:
        """Places [m] at times [s], shape (T, 3); held constant outside."""
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite(self.x[i], self.leaving[i], self.x[i + 1], self.arriving[i + 1], s, h)

    def velocity(self, times: Array) -> Array:
        """Velocities [m/s] at times, shape (T, 3); just after a contact at its time."""
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite_rate(self.x[i], self.leaving[i], self.x[i + 1], self.arriving[i + 1], s, h)

    def turned(self, times: Array) -> Array:
        """Turn [rad], the time integral of the angular velocity, shape (T, 3)."""
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite(self.turn[i], self.spin_leaving[i], self.turn[i + 1], self.spin_arriving[i + 1], s, h)

    def spin(self, times: Array) -> Array:
        """Angular velocity [rad/s], shape (T, 3)."""
        i, s, h = self._cell(np.asarray(times, dtype=float))
        return _hermite_rate(self.turn[i], self.spin_leaving[i], self.turn[i + 1], self.spin_arriving[i + 1], s, h)

    def between(self, start: float, end: float) -> Array:
        """Knot times in [start, end], both ends included."""
        inner = self.t[(self.t > start) & (self.t < end)]
        return np.concatenate([[start], inner, [end]])

    def highest(self, along: Array, start: float, end: float) -> tuple[float, float]:
        """Greatest place along a direction in [start, end]: (value, time), exact between knots."""
        knots = self.between(start, end)
        heights = self.place(knots) @ along
        best = int(np.argmax(heights))
        value, when = float(heights[best]), float(knots[best])
        first = max(int(self.t.searchsorted(start, side="right")) - 1, 0)
        last = int(self.t.searchsorted(end))
        times, tops = self._tops(along, slice(first, max(last, first + 1)))
        inside = (times >= start) & (times <= end)
        if inside.any():
            k = int(np.argmax(np.where(inside, tops, -np.inf)))
            if tops[k] > value:
                value, when = float(tops[k]), float(times[k])
        return value, when

    def _tops(self, along: Array, cells: slice) -> tuple[Array, Array]:
        """Times and places along a direction of the tops inside cells (each between two knots), at most one in each."""
        t0, x0 = self.t[:-1][cells], self.x[:-1][cells] @ along
        h = self.t[1:][cells] - t0
        c, d = (self.leaving[:-1][cells] @ along) * h, (self.arriving[1:][cells] @ along) * h
        up = self.x[1:][cells] @ along - x0
        a, b = c + d - 2 * up, 3 * up - 2 * c - d  # x0 + s (c + s (b + s a)); its slope falls through zero at s
        root = np.sqrt(np.maximum(b * b - 3 * a * c, 0.0))
        with np.errstate(divide="ignore", invalid="ignore"):
            s = np.where(b <= 0, c / (root - b), -(b + root) / (3 * a))
        found = np.isfinite(s) & (s > 0) & (s < 1) & (root > 0)
        s = s[found]
        return t0[found] + s * h[found], x0[found] + s * (c[found] + s * (b[found] + s * a[found]))


def _hermite(x0: Array, v0: Array, x1: Array, v1: Array, s: Array, h: Array) -> Array:
    d = x1 - x0
    return x0 + s * (h * v0 + s * (3 * d - h * (2 * v0 + v1) + s * (h * (v0 + v1) - 2 * d)))


def _hermite_rate(x0: Array, v0: Array, x1: Array, v1: Array, s: Array, h: Array) -> Array:
    safe = np.where(h > 0, h, 1.0)
    d = (x1 - x0) / safe
    return np.where(h > 0, v0 + s * (2 * (3 * d - 2 * v0 - v1) + s * 3 * (v0 + v1 - 2 * d)), v0)


def _turned_back(q: Array, v: Array) -> Array:
    """Vectors (T, 3) turned by the inverse of unit quaternions (T or 1, 4)."""
    u = -q[:, 1:]
    t = 2 * np.cross(u, v)
    return v + q[:, :1] * t + np.cross(u, t)


@dataclass(frozen=True)
class Energy:
    """Energies [J], shape (T, bodies): of moving, of turning, and of height (0 at the origin)."""

    names: tuple[str, ...]
    moving: Array
    turning: Array
    height: Array

    @property
    def total(self) -> Array:
        """Of the whole scene, shape (T,)."""
        return (self.moving + self.turning + self.height).sum(axis=1)


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
    status : "complete", "cancelled", or why the run ended early and at what time
    steps : substeps taken
    crowded, handovers : steps taken as a crowd, and how often an island changed from exact to crowd
    remarks : what the simulation could not do well
    unresolved : stretches of a track in which contacts come too fast for its frames
    noise, noise_angle : σ of places [m] and of angles [rad] for a measured motion, 0 for a simulated one
    """

    times: Array
    states: Array
    bodies: tuple[BodyAccount, ...]
    gravity: Array
    contacts: Sequence[Contact] = ()
    phases: Sequence[Phase] = ()
    status: str = "complete"
    steps: int = 0
    crowded: int = 0
    handovers: int = 0
    overlap_at_start: float = 0.0
    noise: float = 0.0
    noise_angle: float = 0.0
    measured: bool = False
    paths: Mapping[str, Trajectory] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    unresolved: tuple[tuple[float, float], ...] = ()
    remarks: Sequence[Remark] = ()
    grid: tuple[Array, Array] | None = None
    """Times and states that outcomes read, where those above are others."""
    memo: dict[tuple[str, str], object] = field(default_factory=dict)
    """What outcome functions keep, so that several of them do not work it out twice."""

    def __getstate__(self) -> dict[str, object]:
        """What is pickled: curves are made now, what outcome functions keep is left out."""
        return {**self.__dict__, "paths": dict(self.paths), "memo": {}}

    @property
    def read(self) -> tuple[Array, Array]:
        """Times and states that outcomes read: the same however often a simulated motion is sampled."""
        return self.grid or (self.times, self.states)

    @cached_property
    def names(self) -> list[str]:
        """Body names in order."""
        return [body.name for body in self.bodies]

    def account(self, name: str) -> BodyAccount:
        """What is known of a body."""
        return self.bodies[self.names.index(name)]

    def movers(self) -> list[str]:
        """Names of the bodies that move by forces (not those that follow a path)."""
        return [body.name for body in self.bodies if body.moves and not body.driven]

    def path(self, name: str) -> Trajectory:
        """The body's curve through samples and contacts."""
        return self.paths[name]

    def contacts_of(self, name: str) -> list[Contact]:
        """Contacts the body takes part in, in time order."""
        key = ("contacts", name)
        if key not in self.memo:
            self.memo[key] = [c for c in self.contacts if name in (c.body, c.partner)]
        return list(cast("list[Contact]", self.memo[key]))

    def start_of(self, name: str) -> Array:
        """Where the body is at the first sample [m], (3,). Not to be written to."""
        key = ("start", name)
        if key not in self.memo:
            self.memo[key] = self.paths[name].place(self.times[:1])[0]
        return cast("Array", self.memo[key])

    def phases_of(self, name: str) -> list[Phase]:
        """Times in which the body stayed on something."""
        return [p for p in self.phases if name in (p.body, p.partner)]

    def energy(self) -> Energy:
        """The energy book at every sample, of every body whose mass is known."""
        heavy = [i for i, b in enumerate(self.bodies) if b.mass is not None and b.inertia is not None and b.moves]
        moving, turning, height = (np.zeros((len(self.times), len(heavy))) for _ in range(3))
        for k, i in enumerate(heavy):
            body, s = self.bodies[i], self.states[:, i]
            mass = float(body.mass or 0.0)
            moving[:, k] = 0.5 * mass * (s[:, 7:10] ** 2).sum(axis=1)
            q, axes = s[:, 3:7], np.array(body.axes)
            w = _turned_back(axes[None], _turned_back(q, s[:, 10:13]))
            turning[:, k] = 0.5 * (np.array(body.inertia) * w**2).sum(axis=1)
            height[:, k] = -mass * body.gravity_multiplier * (s[:, :3] @ self.gravity)
        return Energy(tuple(self.bodies[i].name for i in heavy), moving, turning, height)

    @property
    def end(self) -> float:
        """The last time [s]."""
        return float(self.times[-1])
