"""What the first guess has before it: the measured motions, and which unknown stands for what."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.case.parameter_path import parse_path
from yapa.case.parameters import combine
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.engine.kernels import layout as L
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array, Motion
from yapa.tracking.reconstruct import Support, measured_motion
from yapa.tracking.track_data import TrackData


@dataclass(frozen=True)
class ObservedTrack:
    """One track as a motion, with its support."""

    data: TrackData
    motion: Motion
    support: Support | None
    support_body: str | None

    @property
    def body(self) -> str:
        """The body it shows."""
        return self.data.body

    @property
    def first_contact(self) -> float:
        """Time of the first contact, or the end."""
        return self.motion.contacts[0].time if self.motion.contacts else self.motion.end


class Guess:
    """Values guessed so far, offered by path or by what pair they belong to."""

    def __init__(self, problem: FitProblem) -> None:
        self.problem = problem
        self.values: dict[str, float] = {}
        self._paths = {u.path for u in problem.unknowns}

    def offer(self, path: str, value: float) -> None:
        """Take a value for a path, if it is unknown and the value is finite.

        Parameters
        ----------
        path : path of the number
        value : its value
        """
        if path in self._paths and np.isfinite(value):
            self.values[path] = float(value)

    def offer_pair(self, one: str, two: str, quantity: str, value: float) -> None:
        """Take a value for what two bodies have together, whichever unknown stands for it.

        Parameters
        ----------
        one : one body
        two : the other
        quantity : kind of number
        value : its value
        """
        if not np.isfinite(value):
            return
        case, program = self.problem.case, self.problem.program
        surfaces = (case.bodies[one].shapes[0].surface, case.bodies[two].shapes[0].surface)
        for path in self._paths:
            parts = parse_path(path)
            if parts.quantity != quantity:
                continue
            if parts.section == "pairs" and set(parts.owner.split("+")) == set(surfaces):
                self.values[path] = float(value)
            elif parts.section == "surfaces" and parts.owner in surfaces:
                self.values[path] = self._own_share(path, parts.owner, surfaces, quantity, value, program.base)

    def pair_range(self, one: str, two: str, quantity: str) -> tuple[float, float] | None:
        """Return the range of what two bodies have together, whichever unknown stands for it; None where it is known.

        Parameters
        ----------
        one : one body
        two : the other
        quantity : kind of number
        """
        case = self.problem.case
        surfaces = {case.bodies[one].shapes[0].surface, case.bodies[two].shapes[0].surface}
        for unknown in self.problem.unknowns:
            parts = parse_path(unknown.path)
            if parts.quantity == quantity and ((parts.section == "pairs" and set(parts.owner.split("+")) == surfaces)
                                          or (parts.section == "surfaces" and parts.owner in surfaces)):
                return unknown.low, unknown.high
        return None

    def _own_share(
        self, path: str, own: str, surfaces: tuple[str, str], quantity: str, value: float, base: dict[str, float]
    ) -> float:
        """The surface's own number that makes the pair's value, by bisection on the pairing rule."""
        other = surfaces[1] if own == surfaces[0] else surfaces[0]
        if other == own:
            return float(value)
        rule = getattr(self.problem.case.pairing, quantity)
        theirs = base.get(f"surfaces.{other}.{quantity}", 0.5)
        low, high = next((u.low, u.high) for u in self.problem.unknowns if u.path == path)
        for _ in range(60):
            middle = 0.5 * (low + high)
            if combine(rule, middle, theirs) < value:
                low = middle
            else:
                high = middle
        return 0.5 * (low + high)


def gravity_of(problem: FitProblem) -> Array:
    """Return gravity of the case [m/s²], (3,).

    Parameters
    ----------
    problem : the least-squares problem
    """
    return np.array([0.0, 0.0, -problem.case.fields.gravity])


def reconstruct_tracks(problem: FitProblem, tracks: list[TrackData] | None = None) -> list[ObservedTrack]:
    """Return turn every track into a motion: the problem's own as recorded, or these in their place.

    Parameters
    ----------
    problem : the least-squares problem
    tracks : measured tracks
    """
    out = []
    for data in problem.tracks if tracks is None else tracks:
        support, name = support_of(problem, data)
        account = problem.program.accounts(problem.program.state, problem.program.props)[
            problem.program.names.index(data.body)
        ]
        others = {
            o.body: np.column_stack([np.interp(data.t, o.t, np.nan_to_num(o.x[:, c])) for c in range(3)])
            for o in problem.tracks if o.body != data.body
        }
        out.append(ObservedTrack(data, measured_motion(data, account, support, gravity_of(problem), others,
                                                       problem.raise_if_cancelled), support, name))
    return out


def support_of(problem: FitProblem, data: TrackData) -> tuple[Support | None, str | None]:
    """Return the static plane nearest under the track.

    Parameters
    ----------
    problem : the least-squares problem
    data : the track as read
    """
    case, program = problem.case, problem.program
    i = program.names.index(data.body)
    best: tuple[float, Support, str] | None = None
    for name, body in case.bodies.items():
        shape = body.shapes[0]
        if not shape.is_endless:
            continue
        k = program.names.index(name)
        n = rotation_matrix(program.state[k, 3:7]) @ program.props[k, L.body.EXTENT : L.body.EXTENT + 3]
        if n[2] < 0.3:
            continue
        if case.bodies[data.body].shapes[0].is_ball:
            reach = float(program.props[i, L.body.EXTENT])
        else:
            # the centre of a box resting flat: where the case puts it over its plane
            reach = float(abs((program.state[i, :3] - program.state[k, :3]) @ n)) if body.placed_under == data.body else (
                float(program.props[i, L.body.EXTENT + 2]))
        level = float(program.state[k, :3] @ n) + reach
        if body.placed_under == data.body:
            level = float(np.nanmedian(data.x @ n))
        near = float(np.nanmin(data.x @ n)) - level
        if best is None or abs(near) < best[0]:
            best = (abs(near), Support(n, level, name), name)
    return (best[1], best[2]) if best else (None, None)
