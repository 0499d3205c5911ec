"""A throw, a slide and a roll, and what a camera sees of them."""

from __future__ import annotations

import numpy as np

from benchmarks.scenes import ball, floor, scene
from yapa.case import Samples, Track
from yapa.outcomes import CATALOGUE, Asked, Support, measured_motion, read, track_data

G = np.array([0.0, 0.0, -9.80665])
TOLD = {
    "x": Asked(at=0.7), "y": Asked(at=0.7), "z": Asked(at=0.3), "speed": Asked(at=0.25), "turn": Asked(at=0.5),
    "spin": Asked(at=0.5), "miss": Asked(point=(0.8, 0.0, 0.6)), "passage time": Asked(point=(0.8, 0.0, 0.6)),
    "passage speed": Asked(point=(0.8, 0.0, 0.6)),
    "hit": Asked(partner="f"), "inside": Asked(zone=((-1, -1, -1), (3, 1, 2))),
    "stays inside": Asked(zone=((-1, -1, -1), (3, 1, 2))),
    "waypoints": Asked(points=((0.2, 0.0, 1.1), (1.0, 0.0, 0.3))),
}
SITUATIONS = {
    "throw": scene({"b": ball(0.05, mass=0.2, position=(0, 0, 1.05), velocity=(1.0, 0, 0.5)), "f": floor()}, duration=2.2,
                   restitution=0.6, friction=0.3),
    "slide": scene({"b": ball(0.05, mass=0.2, position=(0, 0, 0.05), velocity=(1.5, 0, 0)), "f": floor()}, duration=2.0,
                   friction=0.2),
    "roll": scene({"b": ball(0.05, mass=0.2, position=(0, 0, 0.05), velocity=(0.6, 0, 0), spin=(0, 12.0, 0)), "f": floor()},
                  duration=2.4, friction=0.5, rolling_resistance=0.05),
}


def asked_of(outcome):
    if outcome.indexed:
        return [Asked(k) for k in (1, 2, 3)]
    return [TOLD.get(outcome.name, Asked())]


def truths(motion):
    """Every outcome of a motion that a track may have too."""
    return {(o.name, asked): read(motion, o.name, "b", asked=asked) for o in CATALOGUE.values() if o.name != "topple"
            for asked in asked_of(o)}


def tracked(motion, rate, rng):
    """What a camera at this rate sees, with 1 mm and 0.01 rad of noise."""
    t = np.arange(0, motion.end + 1e-9, 1 / rate)
    path = motion.path("b")
    x = path.place(t) + rng.normal(size=(len(t), 3)) * 1e-3
    angle = path.turned(t)[:, 1] + rng.normal(size=len(t)) * 0.01
    samples = Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist()), angle=tuple(angle.tolist()))
    track = track_data(Track(name="b", body="b", sigma=1e-3, sigma_angle=0.01, samples=samples))
    return measured_motion(track, motion.account("b"), Support(np.array([0, 0, 1.0]), 0.05, "f"), G)
