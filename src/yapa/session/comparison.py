"""Simulated beside measured: traces, beats, gaps, targets, and the headline in words, from one run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from yapa.case import has_number, with_numbers
from yapa.case.ledger import present_values
from yapa.case.model import Case
from yapa.case.outcome_specs import outcome_and_index
from yapa.engine import sample_times, sampling
from yapa.fitting.initial.seen import ObservedTrack
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import TargetReport
from yapa.fitting.problem.target_residuals import evaluate_target
from yapa.fitting.problem.track_residuals import motion_and_columns
from yapa.fitting.tracks.takes import shown
from yapa.motion import Motion
from yapa.outcomes import CATALOGUE, measure, read_target
from yapa.outcomes.judging import deviation
from yapa.outcomes.kinds.travel import travel_until
from yapa.session.beats import Beat, beats_of
from yapa.session.closed_forms import may_hold
from yapa.session.handles import Handle, handles_of
from yapa.session.headline import headline_of
from yapa.session.ledger import misfit_of_columns, misfits_of
from yapa.session.measured_side import MeasuredSide
from yapa.session.traces import Choice, Trace, traces_of
from yapa.tracking.track_data import TrackData, track_data

__all__ = ["Beat", "Comparison", "ComparisonBuilder", "Gap", "TargetReport", "Trace", "TrackData", "deviation", "track_data"]


@dataclass(frozen=True)
class Gap:
    """An outcome measured | simulated | gap. ``grade`` is the gap in units of what would be noticed."""

    body: str
    name: str
    unit: str
    measured: float | None
    simulated: float | None
    grade: float

    @property
    def gap(self) -> float | None:
        """Simulated less measured."""
        if self.measured is None or self.simulated is None:
            return None
        return self.simulated - self.measured


@dataclass(frozen=True)
class Comparison:
    """Simulated beside measured at some values."""

    values: dict[str, float]
    motion: Motion
    misfit: float | None
    traces: list[Trace]
    beats: list[Beat]
    gaps: list[Gap]
    targets: list[TargetReport]
    headline: str
    detail: str
    handles: list[Handle] = field(default_factory=list)
    seen: dict[str, ObservedTrack] = field(default_factory=dict)
    misfits: dict[str, float] = field(default_factory=dict)
    """of each track, in standard deviations"""


class ComparisonBuilder:
    """Compares a case with its evidence at any values; what does not change with them is prepared once."""

    def __init__(self, case: Case) -> None:
        case = self.case = shown(case)
        self.cancel = Cancel()
        self.problem = FitProblem(case, self.cancel, evaluate_only=True)
        self.measured_side = MeasuredSide.of(self.problem)
        self.sampled = sampling(sample_times(case.duration, case.output_rate), case.duration, len(case.dynamic_bodies()))
        self._present = present_values(case)
        self._simple = may_hold(case)
        self.trace_choice: Sequence[Choice] | None = None

    @property
    def measured(self) -> dict[str, ObservedTrack]:
        """The track of every body that has one, as a motion."""
        return self.measured_side.seen

    def at(self, values: Mapping[str, float] | None = None, cancel: Cancel | None = None, budget: float | None = None,
           *, brief: bool = False) -> Comparison:
        """Simulate at these values, once, and put it beside the evidence.

        Parameters
        ----------
        values : path → value, SI units
        cancel : stops the work where it is set
        budget : seconds of computing that the run may take; it then ends where it is, and its motion is marked unfinished
        brief : whether traces and handles are left out, while a hand moves something and only its future is seen

        Returns
        -------
        The comparison.

        Raises
        ------
        Cancelled
            If stopping was asked for.
        """
        self.problem.cancel, self.problem.budget = cancel or self.cancel, budget
        full = {**self._present, **(values or {})}
        moved = {path: value for path, value in full.items() if value != self._present.get(path)}
        motion, columns = motion_and_columns(self.problem, moved, self.sampled, self.case.duration)
        misfit = misfit_of_columns(columns)
        residuals = {(data.body, name): (data.t, r) for data, name, r in columns}
        beats = beats_of(motion, self.measured)
        gaps = self._gaps(motion, beats)
        targets = [
            evaluate_target(t, body, read_target(motion, body, t)) for t, body in self.problem.targets
        ]
        headline, detail = headline_of(misfit, gaps, targets, motion)
        if motion.is_unfinished:
            detail = f"the run so far, to {motion.end:.3g} s" + (f"; {detail}" if detail else "")
        traces: list[Trace] = []
        handles: list[Handle] = []
        if not brief:
            present = None
            if self._simple:
                known = {path: v for path, v in moved.items() if has_number(self.case, path)}
                present = with_numbers(self.case, known) if known else self.case
            traces = traces_of(present, motion, self.measured_side, residuals, self.trace_choice)
            handles = handles_of(motion)
        return Comparison(full, motion, misfit, traces, beats, gaps, targets, headline, detail, handles, self.measured,
                          misfits_of(columns))

    def _gaps(self, motion: Motion, beats: list[Beat]) -> list[Gap]:
        out = []
        for body in motion.dynamic_bodies():
            seen = self.measured.get(body)
            outcomes = self.measured_side.outcomes.get(body, {})
            mine = [b for b in beats if b.body == body and b.number <= 8] if seen is not None else []
            for beat in sorted(mine, key=lambda b: b.number):
                if beat.measured is not None or beat.simulated is not None:
                    grade = abs((beat.simulated or 0) - (beat.measured or 0)) / 0.001 if beat.measured and beat.simulated else 0
                    out.append(Gap(body, f"contact {beat.number}", "s", beat.measured, beat.simulated, grade))
            for name, reading in measure(motion, body, ("apex", "rest time", "travel")).items():
                kind = CATALOGUE[outcome_and_index(name)[0]]
                other = outcomes.get(name)
                measured = other.value if other is not None else None
                if reading.value is None and measured is None:
                    continue
                value = reading.value
                if kind.name == "travel" and seen is not None:  # as far as the track goes
                    value = travel_until(motion, body, min(seen.motion.end, motion.end))
                noise = seen.data.sigma if seen is not None else 1e-3
                scale = max(0.02 if kind.unit == "s" else 2 * noise, 3 * (other.std or 0.0) if other else 0.0)
                grade = abs(value - measured) / scale if value is not None and measured is not None else 0.0
                out.append(Gap(body, name, kind.unit, measured, value, grade))
        return out
