"""The measured side of a comparison: every track as a motion, with its outcomes. It is read again only where it has changed."""

from __future__ import annotations

import threading

import numpy as np

from yapa.case.model import Case
from yapa.case.scene import Body, Plane, Sphere
from yapa.fitting.initial.seen import reconstruct_tracks
from yapa.fitting.problem.problem import FitProblem
from yapa.motion import Array
from yapa.outcomes import measure

KEPT = 8
"""Measured sides that are kept: of the cases that a person goes back and forth between"""
_PLACE = {"position": (0.0, 0.0, 0.0), "orientation": (1.0, 0.0, 0.0, 0.0)}
_LAUNCH = {"velocity": (0.0, 0.0, 0.0), "angular_velocity": (0.0, 0.0, 0.0), "linear_damping": 0.0, "angular_damping": 0.0,
           "drag_coefficient": 0.0, "gravity_multiplier": 1.0}
"""Numbers of a body that its track is not read by."""


class MeasuredSide:
    """Tracks as motions by body, the outcomes read off them, and their columns.

    Attributes
    ----------
    seen : body → its track as a motion
    outcomes : body → outcome → value
    columns : body → x, y, z [m], (N,) each
    speeds : body → speed [m/s], (N,)
    """

    def __init__(self, problem: FitProblem) -> None:
        found = reconstruct_tracks(problem) if problem.case.tracks else []
        self._read_by = _read_by(problem.case)
        self.seen = {s.body: s for s in found}
        self.outcomes = {s.body: measure(s.motion, s.body) for s in found}
        self.columns: dict[str, list[Array]] = {s.body: [s.data.x[:, c].copy() for c in range(3)] for s in found}
        self.speeds: dict[str, Array] = {
            s.body: np.linalg.norm(s.motion.trajectory(s.body).velocity(s.data.t), axis=1) for s in found}

    @classmethod
    def of(cls, problem: FitProblem) -> MeasuredSide:
        """Return the measured side of a problem's case: one that was read before, where one of the newest still holds.

        Parameters
        ----------
        problem : the least-squares problem
        """
        with _LOCK:
            side = next((side for side in _NEWEST if side.holds_for(problem.case)), None)
        if side is None:
            side = cls(problem)
        with _LOCK:
            _NEWEST[:] = [side, *(other for other in _NEWEST if other is not side)][:KEPT]
        return side

    def holds_for(self, case: Case) -> bool:
        """Return whether reading the tracks of another state of the case would give the same: tracks and what they lie on are the
        same.

        Parameters
        ----------
        case : the case
        """
        return self._read_by == _read_by(case)


_LOCK = threading.Lock()
_NEWEST: list[MeasuredSide] = []


def _read_by(case: Case) -> tuple[object, ...]:
    """What the tracks of a case are read by: themselves, the bodies they show, planes that may be under them, gravity."""
    if not case.tracks:
        return ()
    tracked = {track.body for track in case.tracks}
    read = {name: _as_seen(body) for name, body in case.bodies.items() if name in tracked or isinstance(body.shapes[0], Plane)}
    return case.tracks, case.fields.gravity, read


def _as_seen(body: Body) -> Body:
    """A body as its track is read by: a ball's start is not, that of another tells how it lies on what is under it."""
    ball = body.motion == "dynamic" and len(body.shapes) == 1 and isinstance(body.shapes[0], Sphere)
    return body.model_copy(update={**_LAUNCH, **(_PLACE if ball else {})})
