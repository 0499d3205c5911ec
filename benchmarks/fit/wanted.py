"""Six families of wanted outcomes: a reachable wish, and present values somewhere else in the box."""

from __future__ import annotations

import numpy as np

from benchmarks.scenes import ball, floor, scene
from yapa.case import Body, Box, Case, Target, Unknown, with_numbers
from yapa.engine import simulate
from yapa.outcomes import read_target

E, MU = "surfaces.both.restitution", "surfaces.both.friction"
ROLL = "surfaces.both.rolling_resistance"
VX, VZ, SPIN, MASS = (f"bodies.orange.{k}" for k in ("velocity.x", "velocity.z", "angular_velocity.y", "mass"))
RANGES = {
    E: (0.1, 0.95),
    MU: (0.02, 0.8),
    VX: (0.2, 4.0),
    VZ: (-2.0, 3.0),
    SPIN: (-60.0, 60.0),
    MASS: (0.05, 1.0),
    ROLL: (0.005, 0.1),
}


def _thrown(duration: float = 4.0, **bodies: Body) -> Case:
    orange = ball(0.04, mass=0.2, position=(0, 0, 1.04), velocity=(1.0, 0, 0.0))
    return scene(
        {"orange": orange, "plate": floor(), **bodies}, duration=duration, restitution=0.6, friction=0.3, rolling_resistance=0.02
    )


def _t(outcome: str, tolerance: float, **told) -> Target:
    return Target(outcome=outcome, body=told.pop("body", "orange"), tolerance=tolerance, **told)


def bounces(_rng):
    return _thrown(), (E, MU, VX, VZ), [_t("apex", 0.005, index=2), _t("landing", 0.01, index=3), _t("rest time", 0.05)]


def landings(_rng):
    return _thrown(), (E, MU, VX, VZ), [_t("landing", 0.01, index=1), _t("landing", 0.01, index=2), _t("bounces", 0.4)]


def rest(_rng):
    low = ball(0.04, mass=0.2, position=(0, 0, 0.04), velocity=(1.0, 0, 0.0))
    case = scene({"orange": low, "plate": floor()}, duration=6.0, restitution=0.3, friction=0.3, rolling_resistance=0.05)
    return case, (MU, VX, ROLL, SPIN), [_t("rest time", 0.05), _t("travel", 0.01)]


def topple(_rng):
    crate = Body(shapes=(Box(kind="box", size=(0.1, 0.3, 0.4), surface="both"),), mass=0.5, position=(1.0, 0, 0.2))
    return (
        _thrown(2.5, crate=crate),
        (VX, VZ, MASS, E),
        [_t("hit", 0.02, partner="crate"), _t("topple", 0.05, body="crate", condition="at least", value=0.3)],
    )


def containment(rng):
    case = _thrown(3.0)
    return (
        case,
        (E, MU, VX, VZ),
        [
            _t("inside", 0.005, condition="at least", value=0.02, region=((0, 0, 0), (1, 1, 1))),
            _t("peak height", 0.02, condition="at most", value=1.5),
        ],
    )


def waypoints(_rng):
    near = _t("waypoints", 0.005, condition="at most", value=0.01, waypoints=((0, 0, 0), (1, 0, 1)))
    return _thrown(2.0), (E, MU, VX, VZ, SPIN), [near]


FAMILIES = {
    "bounces": bounces,
    "landings": landings,
    "rest": rest,
    "hit and topple": topple,
    "containment": containment,
    "waypoints": waypoints,
}


def drawn(name: str, rng: np.random.Generator) -> Case:
    """A case of this family: targets that some values meet, and other values at present."""
    while True:
        case, paths, targets = FAMILIES[name](rng)
        free = tuple(Unknown(path=p, low=RANGES[p][0], high=RANGES[p][1]) for p in paths)
        truth = {p: rng.uniform(*RANGES[p]) for p in paths}
        motion = simulate(with_numbers(case, truth))
        asked, good = [], True
        for target in targets:
            if target.outcome == "inside":
                end = motion.trajectory("orange").position(np.array([motion.end]))[0]
                corners = (tuple((end - [0.08, 0.2, 0.5]).tolist()), tuple((end + [0.08, 0.2, 0.5]).tolist()))
                target = target.model_copy(update={"region": corners})
            if target.outcome == "waypoints":
                at = motion.trajectory("orange").position(rng.uniform([0.3, 0.8], [0.6, 1.4]))
                target = target.model_copy(update={"waypoints": tuple(tuple(p) for p in at.tolist())})
            reading = read_target(motion, target.body, target)
            if target.condition == "equal":
                good &= reading.value is not None
                target = target.model_copy(update={"value": reading.value or 0.0})
            elif reading.value is None or (target.condition == "at least") == (reading.value < target.value):
                good = False
            asked.append(target)
        if not good or motion.status != "complete":
            continue
        present = {p: rng.uniform(*RANGES[p]) for p in paths}
        return with_numbers(case, present).model_copy(update={"targets": tuple(asked), "unknowns": free})


def shares(case: Case, rows: np.ndarray) -> np.ndarray:
    """Rows of the unit box as values."""
    low, high = (np.array([getattr(u, k) for u in case.unknowns]) for k in ("low", "high"))
    return low + rows * (high - low)


__all__ = ["FAMILIES", "drawn", "shares"]
