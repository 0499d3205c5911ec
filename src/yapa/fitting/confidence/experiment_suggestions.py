"""What would tell an undetermined unknown: two motions that the evidence cannot tell apart, and where they differ.

The unknown is moved to both ends of what is still allowed, the others fitted again so that the evidence stays as well met; whatever
outcome then differs by more than it could be measured is worth measuring. Where nothing differs, the motion itself must change.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yapa.case.outcome_specs import spec_of
from yapa.case.quantities import kind_of, label_of
from yapa.case.unknowns import Estimate, to_unit_box
from yapa.fitting.optimise.jacobian import evaluate, with_best_offsets
from yapa.fitting.optimise.levenberg_marquardt import LevenbergMarquardt
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.tracks.slip_stick_modes import critical_frictions
from yapa.outcomes import measure

FINE = {"m": 2e-3, "s": 5e-3, "m/s": 0.02, "rad": 0.05, "rad/s": 0.5, "": 0.01, "J": 0.01}
"""What a measurement by hand or camera tells apart, by unit."""

UNSEEN = ("impact energy", "energy kept")
"""Nobody measures these but by way of others."""


@dataclass(frozen=True)
class ExperimentSuggestion:
    """What to measure or change so that an unknown can be told."""

    path: str
    words: str


def suggest_experiments(problem: FitProblem, estimates: dict[str, Estimate]) -> list[ExperimentSuggestion]:
    """Return, for every undetermined unknown, what would tell it.

    Parameters
    ----------
    problem : the least-squares problem
    estimates : path → estimate
    """
    out = []
    for j, unknown in enumerate(problem.unknowns):
        e = estimates.get(unknown.path)
        if e is None or e.determined:
            continue
        words = _differences(problem, estimates, j) or _change(problem, estimates, unknown.path)
        out.append(ExperimentSuggestion(unknown.path, words))
    return out


def _differences(problem: FitProblem, estimates: dict[str, Estimate], j: int) -> str:
    """Outcomes that differ between the two ends of what is allowed."""
    unknown = problem.unknowns[j]
    e = estimates[unknown.path]
    best = evaluate(problem, with_best_offsets(problem, problem.vector({p: v.value for p, v in estimates.items()})))
    low = to_unit_box(unknown, e.low) if e.low is not None else 0.0
    high = to_unit_box(unknown, e.high) if e.high is not None else 1.0
    ends = []
    for u in (low + 0.1 * (high - low), low + 0.9 * (high - low)):
        p = best.p.copy()
        p[j] = u
        hold = np.zeros(problem.size, bool)
        hold[j] = True
        ends.append(LevenbergMarquardt(most=8, fixed=hold).minimise(problem, p).point)
    motions = [problem.motion(problem.values(end.p)) for end in ends]
    differing: list[tuple[float, str]] = []
    for body in motions[0].dynamic_bodies():
        a, b = (measure(m, body, None) for m in motions)
        for name, one in a.items():
            two = b.get(name)
            if two is None or one.value is None or two.value is None or name.startswith(UNSEEN):
                continue
            unit = spec_of(name).unit
            size = abs(one.value - two.value) / max(FINE[unit], 0.01 * abs(one.value))
            if size > 3:
                differing.append((size, f"{body} {name} ({one.value:.4g} against {two.value:.4g} {unit})".replace(" )", ")")))
    if not differing:
        return ""
    differing.sort(reverse=True)
    return "measure " + ", or ".join(words for _, words in differing[:2])


def _change(problem: FitProblem, estimates: dict[str, Estimate], path: str) -> str:
    """What to change in the motion itself."""
    kind = kind_of(path)
    values = {p: v.value for p, v in estimates.items()}
    if kind in ("mass", "density"):
        return "weigh it, or let it hit a body of known mass"
    if kind in ("friction", "dynamic_friction"):
        critical = critical_frictions(problem, problem.motion(values), path)
        if critical:
            more = 0.4 / max(critical)
            return f"a launch that slips {more:.2g} times as fast at its first contact, so that one slides at a friction of 0.4"
        return "a run in which it slides: along the surface, or with spin into a bounce"
    if kind == "drag_coefficient":
        return "a longer or faster flight, or a still one beside it in thinner air"
    if kind in ("rolling_resistance", "spinning_resistance"):
        return "a run in which it rolls or spins on the surface until it slows"
    if kind == "restitution":
        return "a run in which it hits that surface"
    return f"evidence that depends on {label_of(path)}: none that this motion gives does"
