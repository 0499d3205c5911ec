"""False certainty, coverage, known nulls, and errors of the model."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from benchmarks.fit.flights import R, drawn, fly
from benchmarks.fit.thrown import PATHS, Nuisance, case_of, judged, recorded, wanted
from yapa.case import Fields, Unknown
from yapa.case.scene import Air
from yapa.fitting import fit

MU = PATHS["friction"]
NOISES = {"plain": Nuisance(), "outliers": Nuisance(outliers=0.03), "hanging together": Nuisance(correlation=0.8)}


def gripping(seed: int) -> tuple[bool, bool]:
    """An all-grip track: whether friction is left open, and whether its lower bound holds."""
    rng = np.random.default_rng([seed, 31])
    while True:
        throw, end = drawn(rng, False)
        if not any(fly(throw, np.array([0.0, end])).slides):
            break
    samples, _ = recorded(rng, throw, end, 240.0, Nuisance())
    e = fit(case_of(samples, False, end)).estimates[MU]
    return not e.determined and (e.low is None or e.high is None), e.low is None or e.low <= throw.friction


def covered(job: tuple[str, int]) -> list[tuple[str, bool]]:
    """Of every unknown told two-sided, whether its 95% interval holds the truth."""
    name, seed = job
    rng = np.random.default_rng([seed, 41, len(name)])
    throw, end = drawn(rng, bool(rng.random() < 0.6))
    samples, late = recorded(rng, throw, end, 120.0, NOISES[name])
    case = case_of(samples, False, end)
    truth = wanted(throw, late, case)
    told = fit(case).estimates
    return [
        (p, bool(e.low <= truth[p] <= e.high)) for p, e in told.items() if e.determined and e.low is not None and e.high is not None
    ]


NULLS = (
    "mass beside drag",
    "mass without air",
    "drag without air",
    "friction in grip",
    "rolling resistance in the air",
    "a spin that nothing feels",
)


def null(job: tuple[str, int]) -> bool:
    """Whether an unknown that the evidence cannot tell is flagged."""
    name, seed = job
    rng = np.random.default_rng([seed, 51, NULLS.index(name)])
    while True:
        throw, end = drawn(rng, False)
        slides = fly(throw, np.array([0.0, end])).slides
        if name != "friction in grip" or not any(slides):
            break
    vacuum = name.endswith("without air")
    samples, _ = recorded(rng, replace(throw, drag=0.0) if vacuum else throw, end, 240.0, Nuisance())
    case = case_of(samples, False, end)
    free = list(case.unknowns)
    add = {
        "mass beside drag": ("bodies.ball.mass", 0.02, 2.0),
        "mass without air": ("bodies.ball.mass", 0.02, 2.0),
        "rolling resistance in the air": ("bodies.ball.angular_damping", 0.0, 2.0),
        "a spin that nothing feels": ("bodies.ball.angular_velocity.z", -50.0, 50.0),
    }
    flagged = {"friction in grip": MU, "drag without air": PATHS["drag"]}.get(name) or add[name][0]
    if name in add:
        path, low, high = add[name]
        free = [u for u in free if u.path not in ((PATHS["drag"],) if name == "mass without air" else ())]
        free.append(Unknown(path=path, low=low, high=high, transform="log" if path.endswith("mass") else "linear"))
    if vacuum:
        case = case.model_copy(update={"fields": Fields(air=Air(density=0.0))})
    if name == "rolling resistance in the air":  # of a clip that ends before the first contact
        first = fly(throw, np.array([0.0, end])).hits[0][0]
        keep = [k for k, t in enumerate(samples.t) if t < first - 0.02]
        samples = samples.model_copy(update={c: tuple(getattr(samples, c)[k] for k in keep) for c in ("t", "x", "z")})
        track = case.tracks[0].model_copy(update={"samples": samples})
        case = case.model_copy(update={"tracks": (track,), "duration": samples.t[-1]})
        free = [u for u in free if u.path in (PATHS["vx"], PATHS["vz"])] + free[-1:]
    told = fit(case.model_copy(update={"unknowns": tuple(free)})).estimates
    return not told[flagged].determined


def falsely_flagged(seed: int) -> tuple[int, int]:
    """Of a throw that tells all six, how many are flagged as not told."""
    rng = np.random.default_rng([seed, 61])
    throw, end = drawn(rng, True)
    samples, late = recorded(rng, throw, end, 240.0, Nuisance())
    case = case_of(samples, False, end)
    outcome = judged(case, wanted(throw, late, case))
    return sum(not e.determined for e in outcome.estimates.values()), len(outcome.estimates)


ERRORS = {
    "none": {},
    "radius 2% larger": {"radius": 1.02 * R},
    "plate 1 cm lower": {"floor": -0.01},
    "restitution falls with speed": {"growth": 0.02},
}


def model_error(job: tuple[str, int]) -> tuple[bool, float]:
    """Whether a finding speaks of the model, and the misfit."""
    name, seed = job
    rng = np.random.default_rng([seed, 71])
    while True:
        throw, end = drawn(rng, True)
        throw = replace(throw, **ERRORS[name])
        if len(fly(throw, np.array([0.0, end])).hits) < 12:
            break
    samples, _ = recorded(rng, throw, end, 240.0, Nuisance())
    result = fit(case_of(samples, False, end))
    words = ("misses the track", "hangs together", "turns round", "restitution depends on speed")
    return any(w in f for f in result.findings for w in words), float(result.misfit or 0.0)
