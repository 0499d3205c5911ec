"""Aiming: the launch with which the centre of a body passes a point at its present speed, over the lower arc or the higher.

Without air the angle follows from  g d²/(2 v²) tan²e − d tan e + h + g d²/(2 v²) = 0  for a point d away on the level and h up
(the parabola of a throw). With air or damping the aim is moved by what a run misses, a few times.
"""

from __future__ import annotations

import numpy as np

from yapa.case import Case
from yapa.engine import simulate
from yapa.motion import Array
from yapa.session.building import scene_edits
from yapa.session.building.gestures.base import Held
from yapa.session.building.gestures.launch import launched
from yapa.session.edits import Edit

MAX_SHOTS = 8
"""runs that an aim is mended by"""
GOOD_MISS = 1e-4
"""m: nearer is a hit"""
USUAL_SPEED = 3.0
"""m/s, of a body that was at rest"""


def aimed(speed: float, away: Array, gravity: float, *, high: bool = False) -> tuple[Array, bool]:
    """Return the velocity that brings a body from the origin through a point, and whether it can be reached.

    Out of reach it is the one that comes nearest in elevation: the angle at which the arcs meet.

    Parameters
    ----------
    speed : [m/s]
    away : (3,) the point [m]
    gravity : along z [m/s²]
    high : whether over the higher arc
    """
    flat = np.array([away[0], away[1], 0.0])
    d, h, g = float(np.linalg.norm(flat)), float(away[2]), -gravity
    level = flat / d if d > 1e-12 else np.array([1.0, 0.0, 0.0])
    if abs(g) < 1e-12 or d <= 1e-12:
        straight = float(np.linalg.norm(away))
        return speed * (away / straight if straight > 0 else level), g <= 0 or h <= speed**2 / (2 * g)
    k = g * d**2 / (2 * speed**2)
    inside = d**2 - 4 * k * (h + k)
    tangent = (d + (1.0 if high == (k > 0) else -1.0) * np.sqrt(max(inside, 0.0))) / (2 * k)
    e = float(np.arctan(tangent))
    return speed * (np.cos(e) * level + np.array([0.0, 0.0, np.sin(e)])), inside >= 0


def nearest_pass(case: Case, name: str, point: Array) -> Array:
    """Return from where a body is nearest to a point, as the vector to the point [m], before its first contact.

    Parameters
    ----------
    case : the case
    name : name of the body
    point : (3,) [m]
    """
    motion = simulate(case)
    path = motion.trajectory(name)
    end = min((c.time for c in motion.contacts_of(name) if c.time > 1e-6), default=motion.end)
    times = np.linspace(0.0, max(end, 1e-6), 600)
    away = point - path.position(times)
    return np.asarray(away[int(np.argmin(np.linalg.norm(away, axis=1)))])


def throw_at(case: Case, name: str, point: Array, *, high: bool = False) -> tuple[Edit, float]:
    """Return the launch with which the centre of a body passes a point, and by how much it still misses it [m].

    Parameters
    ----------
    case : the case
    name : name of the body
    point : (3,) [m]
    high : whether over the higher arc
    """
    held = Held(case, name, np.array(point))
    speed = float(np.linalg.norm(scene_edits.start_velocity(held.body))) or USUAL_SPEED
    gravity = -case.fields.gravity * held.body.gravity_multiplier
    aim, best, least = np.array(point), launched(held, np.zeros(3)), np.inf
    for _ in range(MAX_SHOTS):
        velocity, _ = aimed(speed, aim - held.place, gravity, high=high)
        edit = launched(held, velocity)
        off = nearest_pass(edit.change(case), name, point)
        miss = float(np.linalg.norm(off))
        if miss < least:
            best, least = edit, miss
        if miss < GOOD_MISS or miss > 2 * least:
            break
        aim = aim + off
    return Edit(f"aim {name}", best.change), least
