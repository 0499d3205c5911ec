"""The fit as a function of a vector: unknowns in a unit box, residuals in σ.

Unknown j has u_j in [0, 1] over its range (over the logarithm of its range where it is
logarithmic). The residual vector holds (simulated - measured)/σ for every seen coordinate of
every track, then the angle tracks with a free offset each (where an angle's zero lies on a
sphere is nobody's knowledge), then sqrt(weight)·miss/tolerance and sqrt(weight)·shortfall for
every target. The fit minimises half its square.
"""

from __future__ import annotations

import threading
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from yapa.case.bounds import MAX_DURATION, MAX_SAMPLES, MAX_STEPS
from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.case.paths import get_number, with_ties
from yapa.case.quantities import AXES, NOISES, kind_of
from yapa.case.unknowns import from_unit, to_unit
from yapa.engine.kernels.layout import CANCELLED
from yapa.engine.program import RawRun
from yapa.engine.simulate import READ_RATE, Sampling, motion_of, program_for, sample_times
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled, LimitReached
from yapa.fitting.problem.identifiable import refuse_absent, refuse_nulls, target_body
from yapa.fitting.problem.residual_layout import ResidualLayout
from yapa.fitting.problem.target_residuals import room, target_residual, well_within
from yapa.motion import Array, Motion, rising
from yapa.outcomes.catalogue import read_target
from yapa.outcomes.value import OutcomeValue
from yapa.tracking.track_data import TrackData, track_data

MAX_SIMULATIONS = 20_000
"""Simulations that a fit or a search may take, unless it is told otherwise: a hundred times what hard ones need."""
SPEEDS, SPINS = 7, 10
"""First columns of velocity and spin in a sampled state."""
QUICK_STEPS = 4_000
"""Steps of bodies of a run that is short enough to be made once more after a stop."""


@dataclass(frozen=True)
class Evidence:
    """One track laid on the simulation's sample times."""

    data: TrackData
    body: int
    rows: np.ndarray
    columns: tuple[int, ...]
    offset: int | None
    """Index among the free angle offsets, or None where the angle has a known zero or there is none."""


@dataclass
class FitProblem:
    """A case seen by the fit.

    Raises
    ------
    InputError
        If nothing is free, or there is no evidence.
    """

    case: Case
    cancel: Cancel = field(default_factory=Cancel)
    simulations: int = 0
    look_only: bool = False
    """Nothing is to be moved: a case without free numbers or evidence will do."""
    limit: int | None = None
    """Simulations after which nothing more is run."""

    def __post_init__(self) -> None:
        self._counting = threading.Lock()
        self.program = program_for(self.case)
        self.jagged = self.case.profile.kind == "stepped"
        self.coarse = self.jagged
        """Whether slopes are taken across the teeth of a stepped profile's outcomes, or on one of them."""
        free = [u for u in self.case.unknowns if not u.locked]
        self.unknowns = [u for u in free if kind_of(u.path) not in NOISES]
        self._tied = any(u.tied for u in self.unknowns)
        self.noises = [u for u in free if kind_of(u.path) in NOISES]
        if not self.unknowns and not self.look_only:
            raise bad_input("unknowns", "no free number", "at least one unknown that is not locked")
        self.tracks = [track_data(t) for t in self.case.tracks]
        self._shifts = any(t.offset != 0.0 or t.scale != 1.0 or any(t.shift) for t in self.case.tracks) or any(
            u.path.startswith("tracks.") for u in self.unknowns)
        refuse_nulls(self.case, self.unknowns)
        refuse_absent(self.case)
        if not self.tracks and not self.case.targets and not self.look_only:
            raise bad_input("evidence", "no track and no target", "at least one track or one target")
        self.targets = [(t, self._target_body(t)) for t in self.case.targets]
        times = [t.t for t in self.tracks]
        self.times: Array = rising(*times) if times else np.zeros(0)
        self.evidence: list[Evidence] = []
        offsets = 0
        for data in self.tracks:
            body = self.program.names.index(data.body)
            kind = self.case.bodies[data.body].shapes[0].kind
            offset = None
            if data.angle is not None and kind == "sphere":
                offset, offsets = offsets, offsets + 1
            columns = tuple(i for i in range(3) if data.shown[i])
            self.evidence.append(Evidence(data, body, np.searchsorted(self.times, data.t), columns, offset))
        self.offsets = offsets
        self.layout = ResidualLayout.of((len(e.rows), len(e.columns), e.data.angle is not None) for e in self.evidence)
        self._template = self._weights_of_tracks()
        self.track_residuals = len(self._template)
        wanted = [t.upper or t.value for t, _ in self.targets if OUTCOME_SPECS[t.outcome].unit == "s"]
        wanted += [t.at for t, _ in self.targets if t.at is not None]
        samples = MAX_SAMPLES / max(len(self.case.movers()), 1)
        longest = min(MAX_DURATION, MAX_STEPS * self.case.profile.step, samples / READ_RATE)
        self.target_end = max(self.case.duration, min(1.5 * max(wanted, default=0.0), longest))
        self.target_times = sample_times(self.target_end, READ_RATE)
        self.robust_weights: Array | None = None

    def _target_body(self, target: Target) -> str:
        return target_body(self.case, target)

    def _weights_of_tracks(self) -> Array:
        """The time of every track residual."""
        out = []
        for e in self.evidence:
            for c in e.columns:
                out.append(np.where(np.isfinite(e.data.x[:, c]), e.data.t, np.nan))
            if e.data.angle is not None:
                out.append(np.where(np.isfinite(e.data.angle), e.data.t, np.nan))
        return np.concatenate(out) if out else np.zeros(0)

    @property
    def residual_times(self) -> Array:
        """Time [s] of every track residual; NaN in a gap."""
        return self._template

    # -- vectors and values --------------------------------------------------------------------

    @property
    def size(self) -> int:
        """Unknowns plus free angle offsets."""
        return len(self.unknowns) + self.offsets

    def values(self, p: Array) -> dict[str, float]:
        """Path → number at a vector."""
        values = {u.path: from_unit(u, p[j]) for j, u in enumerate(self.unknowns)}
        return with_ties(self.case, values) if self._tied else values

    def vector(self, values: Mapping[str, float] | None = None) -> Array:
        """The vector of these values, the case's own numbers elsewhere; offsets zero."""
        p = np.zeros(self.size)
        for j, u in enumerate(self.unknowns):
            value = values[u.path] if values is not None and u.path in values else get_number(self.case, u.path)
            p[j] = to_unit(u, value)
        return p

    # -- simulation ----------------------------------------------------------------------------

    def run(self, values: Mapping[str, float], times: Array, end: float, keep: bool = True) -> RawRun:
        """One simulation.

        Raises
        ------
        Cancelled
            If stopping was asked for, or the limit on simulations is reached.
        """
        self.heed()
        self.count(1)
        raw = self.program.run(values, times, end, self.cancel.flag, keep)
        if raw.code == CANCELLED:
            raise Cancelled
        return raw

    def heed(self) -> None:
        """Go on, unless stopping was asked for, or the limit on simulations is reached.

        Raises
        ------
        Cancelled
        """
        self.cancel.heed()
        if self.limit is not None and self.simulations >= self.limit:
            raise LimitReached

    @property
    def is_quick(self) -> bool:
        """Whether a run is short enough to be made once more after a stop."""
        steps = max(self.case.duration, self.target_end) / min(self.case.profile.step, 1 / 240)
        return steps * max(len(self.case.movers()), 1) <= QUICK_STEPS

    def count(self, runs: int) -> None:
        """Add to the simulations spent, from any thread."""
        with self._counting:
            self.simulations += runs

    def motion(self, values: Mapping[str, float], laid: Sampling | None = None, end: float | None = None) -> Motion:
        """A simulated motion with names, contacts and paths."""
        if laid is None:
            laid, end = Sampling(self.target_times), self.target_end
        return motion_of(self.program, self.run(values, laid.times, float(laid.times[-1]) if end is None else end), laid)

    def remarks(self, values: Mapping[str, float]) -> list[str]:
        """What a simulation with these values could not do well."""
        return [str(remark) for remark in self.motion(values).remarks]

    def residuals(self, p: Array, horizon: float | None = None) -> Array:
        """Residuals in σ and tolerances; those of gaps or beyond the horizon are zero."""
        values = self.values(p)
        parts = []
        if self.tracks:
            every, evidence = self.laid(values)
            times = every if horizon is None else every[every <= horizon]
            raw = self.run(values, times, float(times[-1]), keep=False)
            parts.append(self._track_residuals(raw, p, len(times), evidence))
        if self.targets:
            parts.append(self._target_residuals(values))
        r = np.concatenate(parts)
        if self.robust_weights is not None:
            r[: self.track_residuals] *= self.robust_weights
        return r

    def laid(self, values: Mapping[str, float]) -> tuple[Array, list[Evidence]]:
        """Sample times and evidence on them, tracks moved and scaled by their offsets, scales and shifts.

        Frames from before the start of the simulation see its start.
        """
        if not self._shifts:
            return self.times, self.evidence
        shifted, places = [], []
        for track in self.case.tracks:
            offset = values.get(f"tracks.{track.name}.offset", track.offset)
            scale = values.get(f"tracks.{track.name}.scale", track.scale)
            places.append((scale, np.array([values.get(f"tracks.{track.name}.shift.{axis}", track.shift[k])
                                            for k, axis in enumerate(AXES)])))
            shifted.append(np.maximum(np.array(track.samples.t if track.samples else ()) + offset, 0.0))
        times = rising(*shifted)
        laid = [replace(e, rows=np.searchsorted(times, t), data=replace(e.data, x=e.data.x * scale + shift))
                for e, t, (scale, shift) in zip(self.evidence, shifted, places, strict=True)]
        return times, laid

    def _track_residuals(self, raw: RawRun, p: Array, count: int, evidence: list[Evidence]) -> Array:
        out = []
        states = raw.states
        done = len(raw.times)
        for e in evidence:
            inside = e.rows < min(count, done)
            rows = e.rows[inside]
            for c in e.columns:
                r = np.zeros(len(e.rows))
                r[inside] = (states[rows, e.body, c] - e.data.x[inside, c]) / e.data.sigma
                out.append(r)
            if e.data.angle is not None:
                r = np.zeros(len(e.rows))
                zero = p[len(self.unknowns) + e.offset] if e.offset is not None else self._angle_zero(e)
                r[inside] = (states[rows, e.body, 14] + zero - e.data.angle[inside]) / e.data.sigma_angle
                out.append(r)
            if done < count:  # the run ended early: say so loudly, but finitely
                for r in out[-len(e.columns) :]:
                    r[~inside] = 1e3
        return np.nan_to_num(np.concatenate(out), nan=0.0, posinf=1e6, neginf=-1e6)

    def track_slopes(self, p: Array) -> dict[str, Array]:
        """Derivatives of the track residuals by the scale and by the offset of every track, path → (R,), from one run."""
        values = self.values(p)
        times, evidence = self.laid(values)
        states = self.run(values, times, float(times[-1]), keep=False).states
        out = {}
        for e, laid, place in zip(self.evidence, evidence, self.layout.tracks, strict=True):
            rows = np.minimum(laid.rows, len(states) - 1)
            scale, offset = np.zeros(self.track_residuals), np.zeros(self.track_residuals)
            for c, here in zip(e.columns, place.columns, strict=True):
                scale[here] = -e.data.x[:, c] / e.data.sigma
                offset[here] = states[rows, e.body, SPEEDS + c] / e.data.sigma
            if place.angle is not None:
                offset[place.angle] = states[rows, e.body, SPINS + 1] / e.data.sigma_angle
            for name, slope in (("scale", scale), ("offset", offset)):
                slope[~np.isfinite(self.residual_times)] = 0.0
                if self.robust_weights is not None:
                    slope *= self.robust_weights
                out[f"tracks.{e.data.name}.{name}"] = slope
        return out

    def _angle_zero(self, e: Evidence) -> float:
        w, _, y, _ = self.case.bodies[e.data.body].orientation
        return 2.0 * float(np.arctan2(y, w))

    def _target_residuals(self, values: Mapping[str, float]) -> Array:
        motion = self.motion(values)
        out = []
        for target, body in self.targets:
            out.append(np.sqrt(target.weight) * target_residual(motion, target, body))
        return np.concatenate(out)

    def room(self, p: Array) -> tuple[Array, Array]:
        """Misses of all targets that are to be zero, and the room that is to stay above zero (see goals)."""
        motion = self.motion(self.values(p))
        found = [room(motion, target, body) for target, body in self.targets]
        return np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found])

    @property
    def well(self) -> Array:
        """For every residual of targets, up to where its target is met well."""
        return np.concatenate([np.sqrt(t.weight) * well_within(t) for t, _ in self.targets])

    def residual_columns(self, values: Mapping[str, float]) -> list[tuple[TrackData, str, Array]]:
        """Residuals in σ by track and column ("x", "y", "z", "angle"), at any values; NaN in a gap.

        Angles whose zero is free are laid on the simulation: over the whole track where that makes them
        agree, at the start otherwise.
        """
        if not self.tracks:
            return []
        times, evidence = self.laid(values)
        return self._columns_of(self.run(values, times, float(times[-1]), keep=False), len(times), evidence)

    def motion_and_columns(self, values: Mapping[str, float], laid: Sampling, end: float
                           ) -> tuple[Motion, list[tuple[TrackData, str, Array]]]:
        """A simulated motion and its residual columns from one run, at the union of their times.

        Tracks that go on beyond ``end`` [s] need a run of their own, since the motion must not.
        """
        if not self.tracks:
            return self.motion(values, laid, end), []
        times, evidence = self.laid(values)
        if times[-1] > end:
            return self.motion(values, laid, end), self.residual_columns(values)
        every = rising(laid.times, times)
        shown, read = (laid.times if rows is None else laid.times[rows] for rows in (laid.shown, laid.read))
        raw = self.run(values, every, end)
        motion = motion_of(self.program, raw, Sampling(every, np.searchsorted(every, shown), np.searchsorted(every, read)))
        rows = np.searchsorted(every, times)
        rows = rows[rows < len(raw.times)]
        return motion, self._columns_of(replace(raw, times=raw.times[rows], states=raw.states[rows]), len(times), evidence)

    def _columns_of(self, raw: RawRun, count: int, evidence: list[Evidence]) -> list[tuple[TrackData, str, Array]]:
        """The residual columns of a run that was sampled at the times of the tracks."""
        r = self._track_residuals(raw, np.zeros(len(self.unknowns) + self.offsets), count, evidence)
        r = np.where(np.isfinite(self._template), r, np.nan)
        out = []
        for e, place in zip(self.evidence, self.layout.tracks, strict=True):
            for name, here in zip([*("xyz"[c] for c in e.columns), "angle"], place.every, strict=False):
                column = r[here]
                if name == "angle" and e.offset is not None:
                    column = column - _free_zero(column)
                out.append((e.data, name, column))
        return out

    # -- what a vector means -------------------------------------------------------------------

    def set_noise(self, name: str, places: float | None = None, angle: float | None = None) -> None:
        """Weigh a track by another σ."""
        def heard(data: TrackData) -> TrackData:
            return replace(data, sigma=places or data.sigma, sigma_angle=angle or data.sigma_angle)

        self.evidence = [replace(e, data=heard(e.data)) if e.data.name == name else e for e in self.evidence]

    def misfit_of(self, r: Array, keep: Array | None = None) -> float | None:
        """Root mean square of the track residuals over samples that are not gaps (nor outliers)."""
        if not self.tracks:
            return None
        use = np.isfinite(self._template)
        if keep is not None:
            use = use & keep
        return float(np.sqrt(np.mean(r[: self.track_residuals][use] ** 2)))

    def target_readings(self, values: Mapping[str, float]) -> list[tuple[Target, str, OutcomeValue]]:
        """What each target's outcome is at these values."""
        if not self.targets:
            return []
        motion = self.motion(values)
        return [(t, body, read_target(motion, body, t)) for t, body in self.targets]


def _free_zero(column: Array) -> float:
    """The zero of an angle's residuals [σ]: their mean once the curves agree, their start before."""
    mean = float(np.nanmean(column))
    if np.nanstd(column) < 3.0:
        return mean
    return float(np.nanmedian(column[: max(5, len(column) // 20)]))
