"""When a quantity first passes a level, or from when on it stays beyond it.

The level is a number, or a share of the quantity's greatest value. Between the knots of the motion the quantity is a straight
line. Energy
is that of the motion and of the height above the lowest place of the body.
"""

from __future__ import annotations

import numpy as np

from yapa.case.arguments.crossing import Crossing, crossing_of
from yapa.motion import Array, Motion, rising
from yapa.outcomes.kinds.pose import tilt
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.value import OutcomeValue, missing_event

FINE = 4
"""places between two knots at which a quantity is looked at"""


@outcome("time until", "s", "when a quantity first passes a level, or from when on it stays beyond it", required=("crossing",))
def time_until(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Time of the crossing [s]."""
    wanted = crossing_of(str(query.argument("crossing")))
    t, y = history(motion, body, wanted.quantity)
    if y is None:
        return missing_event(f"the {wanted.quantity} of {body} is not known", motion.end, 0.0)
    level = wanted.level * float(np.abs(y).max()) if wanted.is_share else wanted.level
    over = y - level if wanted.above else level - y
    return _stays(t, over, motion, wanted, level) if wanted.stays else _first(t, over, motion, wanted, level)


def _first(t: Array, over: Array, motion: Motion, wanted: Crossing, level: float) -> OutcomeValue:
    reached = np.flatnonzero(over >= 0)
    if not len(reached):
        return _never(t, over, motion, wanted, level)
    k = int(reached[0])
    return OutcomeValue(float(t[0]) if k == 0 else _between(t, over, k), _std(motion))


def _stays(t: Array, over: Array, motion: Motion, wanted: Crossing, level: float) -> OutcomeValue:
    if over[-1] < 0:
        return _never(t, over[-1:], motion, wanted, level)
    outside = np.flatnonzero(over < 0)
    return OutcomeValue(float(t[0]) if not len(outside) else _between(t, over, int(outside[-1]) + 1), _std(motion))


def _never(t: Array, over: Array, motion: Motion, wanted: Crossing, level: float) -> OutcomeValue:
    side = "above" if wanted.above else "below"
    short = float(-over.max()) / max(abs(level), 1e-3)
    return missing_event(f"its {wanted.quantity} {'does not stay' if wanted.stays else 'never goes'} {side} {level:.4g}",
                         motion.end, short)


def _between(t: Array, over: Array, k: int) -> float:
    a, b = over[k - 1], over[k]
    return float(t[k] - (t[k] - t[k - 1]) * b / (b - a)) if b != a else float(t[k])


def _std(motion: Motion) -> float:
    return 2 * float(np.median(np.diff(motion.times))) if motion.measured else 0.0


def history(motion: Motion, body: str, quantity: str) -> tuple[Array, Array | None]:
    """Return times [s] and a quantity of a body there [SI]; None where it is not known.

    Parameters
    ----------
    motion : simulated or measured
    body : name of the body
    quantity : speed, height, x, y, z, spin, tilt or energy
    """
    path = motion.trajectory(body)
    knots = path.knots_between(float(motion.times[0]), motion.end)
    t = rising((knots[:-1, None] + np.diff(knots)[:, None] * np.linspace(0, 1, FINE + 1)).ravel())
    if quantity == "tilt":
        t = motion.outcome_samples[0]
        values = [tilt(motion, body, OutcomeQuery(time=float(at))) for at in t]
        return t, None if any(v.value is None for v in values) else np.array([v.value for v in values], dtype=float)
    x, v = path.position_and_velocity(t)
    if quantity in ("height", "x", "y", "z"):
        return t, x[:, "xyz".index("z" if quantity == "height" else quantity)]
    if quantity == "speed":
        return t, np.asarray(np.linalg.norm(v, axis=1))
    if quantity == "spin":
        return t, np.asarray(np.linalg.norm(path.angular_velocity(t), axis=1))
    about = motion.body(body)
    if about.mass is None:
        return t, None
    height = (x - x[np.argmin(x @ -motion.gravity)]) @ -motion.gravity
    energy = about.mass * (0.5 * (v**2).sum(axis=1) + about.gravity_multiplier * height)
    if about.inertia is not None:
        w = path.angular_velocity(t)
        energy = energy + 0.5 * float(np.mean(about.inertia)) * (w**2).sum(axis=1)
    return t, np.asarray(energy)
