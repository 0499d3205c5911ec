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
from yapa.case.changed_numbers import with_links
from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.parameter_path import AXES, parse_path
from yapa.case.parameters import get_number
from yapa.case.quantities import NOISES, kind_of
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.engine.kernels.layout import run_code
from yapa.engine.runner import RawRun
from yapa.engine.simulate import READ_RATE, Sampling, motion_of, program_for, sample_times
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel, Cancelled, LimitReached
from yapa.fitting.problem.identifiable import check_identifiable, refuse_absent
from yapa.fitting.problem.residual_layout import ResidualLayout
from yapa.fitting.problem.target_residuals import acceptance_band, constraint_slack, target_residual
from yapa.fitting.problem.track_residuals import Evidence
from yapa.motion import Array, Motion, rising
from yapa.outcomes import read_target
from yapa.outcomes.judging import target_body
from yapa.outcomes.value import OutcomeValue
from yapa.tracking.track_data import TrackData, track_data

MAX_SIMULATIONS = 20_000
"""Simulations that a fit or a search may take, unless it is told otherwise: a hundred times what hard ones need."""
MAX_BODY_STEPS = 8_000_000
"""Steps of bodies that a search may take: about a minute of a scene of a few bodies that are crowded."""
QUICK_STEPS = 4_000
"""Steps of bodies of a run that is short enough to be made once more after a stop."""


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
    evaluate_only: bool = False
    """Nothing is to be moved: a case without free numbers or evidence will do."""
    limit: int | None = None
    """Simulations after which nothing more is run."""
    max_body_steps: int | None = None
    """Steps times moving bodies after which nothing more is run; a number like the limit, no clock."""
    body_steps: int = 0
    budget: float | None = None
    """Seconds of computing after which a run ends where it is."""

    def __post_init__(self) -> None:
        self._counting = threading.Lock()
        self.program = program_for(self.case)
        self.jagged = self.case.profile.kind == "stepped"
        self.coarse = self.jagged
        """Whether slopes are taken across the teeth of a stepped profile's outcomes, or on one of them."""
        free = [u for u in self.case.unknowns if not u.fixed]
        self.unknowns = [u for u in free if kind_of(u.path) not in NOISES]
        self._tied = any(u.linked for u in self.unknowns)
        self.noises = [u for u in free if kind_of(u.path) in NOISES]
        if not self.unknowns and not self.evaluate_only:
            raise bad_input("unknowns", "no free number", "at least one unknown that is not locked")
        self.tracks = [track_data(t) for t in self.case.tracks]
        self._shifts = any(t.time_offset != 0.0 or t.scale != 1.0 or any(t.translation) for t in self.case.tracks) or any(
            parse_path(u.path).section == "tracks" for u in self.unknowns)
        check_identifiable(self.case, self.unknowns)
        refuse_absent(self.case)
        if not self.tracks and not self.case.targets and not self.evaluate_only:
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
        self.template = self._weights_of_tracks()
        self.track_residuals = len(self.template)
        wanted = [t.upper or t.value for t, _ in self.targets if t.unit == "s"]
        wanted += [t.time for t, _ in self.targets if t.time is not None]
        samples = MAX_SAMPLES / max(len(self.case.dynamic_bodies()), 1)
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
        return self.template

    # -- vectors and values --------------------------------------------------------------------

    @property
    def size(self) -> int:
        """Unknowns plus free angle offsets."""
        return len(self.unknowns) + self.offsets

    def values(self, p: Array) -> dict[str, float]:
        """Return path → number at a vector.

        Parameters
        ----------
        p : vector of unknowns, in their unit box, then angle offsets
        """
        values = {u.path: from_unit_box(u, p[j]) for j, u in enumerate(self.unknowns)}
        return with_links(self.case, values) if self._tied else values

    def vector(self, values: Mapping[str, float] | None = None) -> Array:
        """Return the vector of these values, the case's own numbers elsewhere; offsets zero.

        Parameters
        ----------
        values : path → value, SI units
        """
        p = np.zeros(self.size)
        for j, u in enumerate(self.unknowns):
            value = values[u.path] if values is not None and u.path in values else get_number(self.case, u.path)
            p[j] = to_unit_box(u, value)
        return p

    # -- simulation ----------------------------------------------------------------------------

    def run(self, values: Mapping[str, float], times: Array, end: float, keep: bool = True) -> RawRun:
        """Return one simulation.

        Parameters
        ----------
        values : path → value, SI units
        times : (T,) times [s]
        end : end of the run [s]
        keep : whether the motion is kept beyond the next run

        Raises
        ------
        Cancelled
            If stopping was asked for, or the limit on simulations is reached.
        """
        self.raise_if_cancelled()
        self.count(1)
        raw = self.program.run(values, times, end, self.cancel.flag, keep, budget=self.budget)
        with self._counting:
            self.body_steps += (raw.steps + raw.soft_steps) * max(len(self.case.dynamic_bodies()), 1)
        if raw.code == run_code.CANCELLED and not raw.unfinished:
            raise Cancelled
        return raw

    def raise_if_cancelled(self) -> None:
        """Go on, unless stopping was asked for, or the limit on simulations is reached.

        Raises
        ------
        LimitReached
            If it cannot be.
        Cancelled
        """
        self.cancel.raise_if_cancelled()
        if self.limit is not None and self.simulations >= self.limit:
            raise LimitReached
        if self.max_body_steps is not None and self.body_steps >= self.max_body_steps:
            raise LimitReached

    @property
    def is_quick(self) -> bool:
        """Whether a run is short enough to be made once more after a stop."""
        steps = max(self.case.duration, self.target_end) / min(self.case.profile.step, 1 / 240)
        return steps * max(len(self.case.dynamic_bodies()), 1) <= QUICK_STEPS

    def count(self, runs: int) -> None:
        """Add to the simulations spent, from any thread.

        Parameters
        ----------
        runs : simulations to add
        """
        with self._counting:
            self.simulations += runs

    def motion(self, values: Mapping[str, float], sampled: Sampling | None = None, end: float | None = None) -> Motion:
        """Return a simulated motion with names, contacts and paths.

        Parameters
        ----------
        values : path → value, SI units
        sampled : times at which the run is sampled
        end : end of the run [s]
        """
        if sampled is None:
            sampled, end = Sampling(self.target_times), self.target_end
        return motion_of(self.program, self.run(values, sampled.times, float(sampled.times[-1]) if end is None else end), sampled)

    def remarks(self, values: Mapping[str, float]) -> list[str]:
        """Return what a simulation with these values could not do well.

        Parameters
        ----------
        values : path → value, SI units
        """
        return [str(remark) for remark in self.motion(values).remarks]

    def residuals(self, p: Array, horizon: float | None = None) -> Array:
        """Return residuals in σ and tolerances; those of gaps or beyond the horizon are zero.

        Parameters
        ----------
        p : vector of unknowns, in their unit box, then angle offsets
        horizon : time [s] beyond which residuals are zero
        """
        values = self.values(p)
        parts = []
        if self.tracks:
            every, evidence = self.aligned_evidence(values)
            times = every if horizon is None else every[every <= horizon]
            raw = self.run(values, times, float(times[-1]), keep=False)
            parts.append(self.track_residuals_of(raw, p, len(times), evidence))
        if self.targets:
            parts.append(self._target_residuals(values))
        r = np.concatenate(parts)
        if self.robust_weights is not None:
            r[: self.track_residuals] *= self.robust_weights
        return r

    def aligned_evidence(self, values: Mapping[str, float]) -> tuple[Array, list[Evidence]]:
        """Return sample times and evidence on them, tracks moved and scaled by their offsets, scales and shifts.

        Frames from before the start of the simulation see its start.

        Parameters
        ----------
        values : path → value, SI units
        """
        if not self._shifts:
            return self.times, self.evidence
        shifted, places = [], []
        for track in self.case.tracks:
            offset = values.get(f"tracks.{track.name}.time_offset", track.time_offset)
            scale = values.get(f"tracks.{track.name}.scale", track.scale)
            places.append((scale, np.array([values.get(f"tracks.{track.name}.translation.{axis}", track.translation[k])
                                            for k, axis in enumerate(AXES)])))
            shifted.append(np.maximum(np.array(track.samples.t if track.samples else ()) + offset, 0.0))
        times = rising(*shifted)
        sampled = [replace(e, rows=np.searchsorted(times, t), data=replace(e.data, x=e.data.x * scale + shift))
                for e, t, (scale, shift) in zip(self.evidence, shifted, places, strict=True)]
        return times, sampled

    def track_residuals_of(self, raw: RawRun, p: Array, count: int, evidence: list[Evidence]) -> Array:
        """Return the residuals of all tracks in a run, (R,) in σ; 1e3 where the run ended before the track.

        Parameters
        ----------
        raw : a run sampled at the times of the evidence
        p : vector of unknowns, in their unit box, then angle offsets
        count : how many of the times count
        evidence : tracks on those times
        """
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

    def slopes_of_zeros(self, rows: int, horizon: float | None = None) -> Array:
        """Return the derivatives of the residuals by the free zeros of angles, (R, offsets).

        Parameters
        ----------
        rows : how many residuals there are
        horizon : time [s] beyond which residuals are zero
        """
        out = np.zeros((rows, self.offsets))
        for e, place in zip(self.evidence, self.layout.tracks, strict=True):
            if e.data.angle is None or e.offset is None:
                continue
            seen = np.isfinite(e.data.angle) if horizon is None else np.isfinite(e.data.angle) & (e.data.t <= horizon)
            weights = 1.0 if self.robust_weights is None else self.robust_weights[place.angle]
            out[place.angle, e.offset] = seen * weights / e.data.sigma_angle
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

    def constraint_slack(self, p: Array) -> tuple[Array, Array]:
        """Return misses of all targets that are to be zero, and the room that is to stay above zero (see goals).

        Parameters
        ----------
        p : vector of unknowns, in their unit box, then angle offsets
        """
        motion = self.motion(self.values(p))
        found = [constraint_slack(motion, target, body) for target, body in self.targets]
        return np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found])

    @property
    def acceptance_band(self) -> Array:
        """For every residual of targets, up to where its target is met well."""
        return np.concatenate([np.sqrt(t.weight) * acceptance_band(t) for t, _ in self.targets])

    # -- what a vector means -------------------------------------------------------------------

    def set_sigma(self, name: str, places: float | None = None, angle: float | None = None) -> None:
        """Weigh a track by another σ.

        Parameters
        ----------
        name : its name
        places : standard deviation of the places [m]
        angle : [rad]
        """
        def reweighted(data: TrackData) -> TrackData:
            return replace(data, sigma=places or data.sigma, sigma_angle=angle or data.sigma_angle)

        self.evidence = [replace(e, data=reweighted(e.data)) if e.data.name == name else e for e in self.evidence]

    def misfit_of(self, r: Array, keep: Array | None = None) -> float | None:
        """Return root mean square of the track residuals over samples that are not gaps (nor outliers).

        Parameters
        ----------
        r : residuals in standard deviations
        keep : (N,) samples that count
        """
        if not self.tracks:
            return None
        use = np.isfinite(self.template)
        if keep is not None:
            use = use & keep
        return float(np.sqrt(np.mean(r[: self.track_residuals][use] ** 2)))

    def target_readings(self, values: Mapping[str, float]) -> list[tuple[Target, str, OutcomeValue]]:
        """Return what each target's outcome is at these values.

        Parameters
        ----------
        values : path → value, SI units
        """
        if not self.targets:
            return []
        motion = self.motion(values)
        return [(t, body, read_target(motion, body, t)) for t, body in self.targets]
