"""Everything one look at a case needs: traces, beats, gaps, targets, and the headline in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from yapa.case.model import Case
from yapa.engine import sample_times, sampling
from yapa.fitting.goals import judge, outside
from yapa.fitting.guess.seen import look
from yapa.fitting.problem import Cancel, Problem
from yapa.fitting.result import TargetReport
from yapa.fitting.takes import shown
from yapa.motion import Array, Motion
from yapa.outcomes import measure
from yapa.outcomes.catalogue import CATALOGUE, read_target
from yapa.outcomes.travel import travel_until
from yapa.report.handles import Handle, handles_of
from yapa.trials import misfit_of_columns, present_values

BEAT_SPEED = 0.08
"""m/s of approach: softer contacts are logged, but no beat."""


@dataclass(frozen=True)
class Trace:
    """One quantity of one body over time: simulated line, measured points, residuals in σ."""

    body: str
    name: str
    unit: str
    t: Array
    y: Array
    measured_t: Array | None = None
    measured_y: Array | None = None
    residual: Array | None = None


@dataclass(frozen=True)
class Beat:
    """A contact seen as an event: measured and simulated, matched in order. Speeds of approach in m/s."""

    body: str
    number: int
    measured: float | None
    simulated: float | None
    measured_speed: float
    simulated_speed: float


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
class Picture:
    """One look at a case at some values."""

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


class Looker:
    """Prepares what does not change with the values (the measured side) once; then looks many times."""

    def __init__(self, case: Case) -> None:
        case = self.case = shown(case)
        self.cancel = Cancel()
        self.problem = Problem(case, self.cancel, look_only=True)
        self.seen = look(self.problem) if case.tracks else []
        self.measured = {s.body: s for s in self.seen}
        self.measured_outcomes = {s.body: measure(s.motion, s.body) for s in self.seen}
        self.laid = sampling(sample_times(case.duration, case.output_rate), case.duration, len(case.movers()))
        self._columns = {s.body: [s.data.x[:, c].copy() for c in range(3)] for s in self.seen}
        self._speeds = {
            s.body: np.linalg.norm(s.motion.path(s.body).velocity(s.data.t), axis=1) for s in self.seen
        }

    def look(self, values: Mapping[str, float] | None = None, cancel: Cancel | None = None) -> Picture:
        """Simulate at these values and put it beside the evidence.

        Raises
        ------
        Cancelled
            If stopping was asked for.
        """
        self.problem.cancel = cancel or self.cancel
        full = {**present_values(self.case), **(values or {})}
        motion = self.problem.motion(full, self.laid, self.case.duration)
        columns = self.problem.residual_columns(full)
        misfit = misfit_of_columns(columns)
        residuals = {(data.body, name): (data.t, r) for data, name, r in columns}
        beats = self._beats(motion)
        gaps = self._gaps(motion, beats)
        targets = [
            judge(t, body, read_target(motion, body, t)) for t, body in self.problem.targets
        ]
        headline, detail = _words(misfit, gaps, targets, motion)
        return Picture(full, motion, misfit, self._traces(motion, residuals), beats, gaps, targets, headline, detail,
                       handles_of(motion))

    def _traces(self, motion: Motion, residuals: dict[tuple[str, str], tuple[Array, Array]]) -> list[Trace]:
        out = []
        for body in motion.movers():
            i = motion.names.index(body)
            s = motion.states[:, i]
            seen = self.measured.get(body)
            columns = [("height", "m", 2, "z"), ("travel", "m", 0, "x"), ("sideways", "m", 1, "y")]
            for name, unit, column, axis in columns:
                shown = seen is not None and seen.data.shown[column]
                if np.ptp(s[:, column]) < 1e-6 and not shown:
                    continue
                if seen is not None and not shown and np.ptp(s[:, column]) < 1e-3:
                    continue
                t, r = residuals.get((body, axis), (None, None))
                y = self._columns[body][column] if seen is not None and shown else None
                out.append(Trace(body, name, unit, motion.times, s[:, column], t, y, r))
            out += self._turning(motion, body, s, residuals)
        return out

    def _turning(self, motion: Motion, body: str, s: Array, residuals: dict[tuple[str, str], tuple[Array, Array]]
                 ) -> list[Trace]:
        seen = self.measured.get(body)
        out = []
        if seen is not None and seen.data.angle is not None:
            t, r = residuals[(body, "angle")]
            y = seen.data.angle - np.nanmedian(seen.data.angle[:5]) + float(np.interp(seen.data.t[2], motion.times, s[:, 14]))
            out.append(Trace(body, "angle", "rad", motion.times, s[:, 14], t, y, r))
        speed = np.linalg.norm(s[:, 7:10], axis=1)
        measured = None
        if seen is not None:
            measured = self._speeds[body]
        out.append(Trace(body, "speed", "m/s", motion.times, speed, None if seen is None else seen.data.t, measured))
        if np.abs(s[:, 10:13]).max() > 1e-6:
            out.append(Trace(body, "spin", "rad/s", motion.times, s[:, 11]))
        return out

    def _beats(self, motion: Motion) -> list[Beat]:
        out = []
        for body in motion.movers():
            mine = [c for c in motion.contacts_of(body) if c.approach > BEAT_SPEED]
            seen = self.measured.get(body)
            theirs = [c for c in seen.motion.contacts if c.approach > BEAT_SPEED] if seen is not None else []
            end = seen.motion.end if seen is not None else 0.0
            for k in range(max(len(mine), len(theirs))):
                a = theirs[k] if k < len(theirs) else None
                b = mine[k] if k < len(mine) else None
                if a is None and seen is not None and b is not None and b.time > end:
                    continue
                out.append(Beat(body, k + 1, a.time if a else None, b.time if b else None, a.approach if a else 0.0,
                                b.approach if b else 0.0))
        return sorted(out, key=lambda x: x.measured if x.measured is not None else x.simulated or 0.0)

    def _gaps(self, motion: Motion, beats: list[Beat]) -> list[Gap]:
        out = []
        for body in motion.movers():
            seen = self.measured.get(body)
            told = self.measured_outcomes.get(body, {})
            mine = [b for b in beats if b.body == body and b.number <= 8] if seen is not None else []
            for beat in sorted(mine, key=lambda b: b.number):
                if beat.measured is not None or beat.simulated is not None:
                    grade = abs((beat.simulated or 0) - (beat.measured or 0)) / 0.001 if beat.measured and beat.simulated else 0
                    out.append(Gap(body, f"contact {beat.number}", "s", beat.measured, beat.simulated, grade))
            for name, reading in measure(motion, body, ("apex", "rest time", "travel")).items():
                kind = CATALOGUE[name.rstrip("0123456789 ")]
                other = told.get(name)
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


def amount(value: float, unit: str) -> str:
    """A length or a time in the unit people would say it in."""
    size = abs(value)
    if unit == "m" and size < 1:
        return f"{size * 1000:.1f} mm" if size < 0.01 else f"{size * 100:.1f} cm"
    if unit == "s" and size < 0.1:
        return f"{size * 1000:.1f} ms" if size < 0.01 else f"{size * 1000:.0f} ms"
    if unit in ("m", "s"):
        return f"{size:.2f} {unit}"
    return f"{size:.3g} {unit}".strip()


def _ordinal(name: str) -> str:
    kind, _, k = name.partition(" ")
    words = {"1": "first", "2": "second", "3": "third", "4": "fourth", "5": "fifth", "6": "sixth"}
    return f"{words.get(k, k + 'th')} {kind}" if kind in ("contact", "apex") else name


def _in_words(gap: Gap, many: bool) -> str:
    d = gap.gap or 0.0
    whose = f"{gap.body}: " if many else ""
    if gap.name.startswith("contact"):
        return f"{whose}{_ordinal(gap.name)} {amount(d, 's')} {'late' if d > 0 else 'early'}"
    if gap.name.startswith("apex"):
        return f"{whose}{_ordinal(gap.name)} {amount(d, 'm')} too {'high' if d > 0 else 'low'}"
    if gap.name == "rest time":
        return f"{whose}comes to rest {amount(d, 's')} {'late' if d > 0 else 'early'}"
    return f"{whose}travels {amount(d, 'm')} too {'far' if d > 0 else 'short'}"


def _words(misfit: float | None, gaps: list[Gap], targets: list[TargetReport], motion: Motion) -> tuple[str, str]:
    """Headline and its worst piece."""
    if motion.status != "complete":
        return "the run stopped", motion.status
    many = len({g.body for g in gaps}) > 1
    missed = [t for t in targets if not t.met]
    parts = []
    if misfit is not None:
        worst = max((g for g in gaps if g.gap is not None), key=lambda g: g.grade, default=None)
        if misfit < 1.1:
            detail = "as good as the noise"
        elif worst is not None and worst.grade > 1:
            detail = _in_words(worst, many)
        else:
            detail = "no single contact stands out"
        parts.append(f"misfit {misfit:.2f}")
        if not missed:
            return " · ".join([*parts, *([f"{len(targets)} of {len(targets)} targets met"] if targets else [])]), detail
    if not targets:
        return (parts[0], detail) if parts else ("no evidence yet", "bring a track or say what should happen")
    parts.append(f"{len(targets) - len(missed)} of {len(targets)} targets met")
    if not missed:
        return " · ".join(parts), "everything asked for happens"
    worst_target = max(missed, key=lambda t: abs(t.miss) if t.miss is not None else 1e9)
    unit = CATALOGUE[worst_target.target.outcome].unit
    if worst_target.now is None:
        return " · ".join(parts), worst_target.missing or "it does not happen"
    if worst_target.miss is None:
        return " · ".join(parts), f"{worst_target.target.label} happens, and should not"
    d = outside(worst_target.target, worst_target.now)
    return " · ".join(parts), f"{worst_target.target.label} {amount(d, unit)} too {'much' if d > 0 else 'little'}"
