"""A throw, a slide and a roll, and what a camera sees of them."""

from __future__ import annotations

import numpy as np

from benchmarks.scenes import ball, floor, scene
from yapa.case import Samples, Track
from yapa.outcomes import CATALOGUE, OutcomeQuery, read
from yapa.tracking.reconstruct import Support, measured_motion
from yapa.tracking.track_data import track_data

G = np.array([0.0, 0.0, -9.80665])
TOLD = {
    "x": OutcomeQuery(time=0.7), "y": OutcomeQuery(time=0.7), "z": OutcomeQuery(time=0.3), "speed": OutcomeQuery(time=0.25),
    "turn": OutcomeQuery(time=0.5),
    "spin": OutcomeQuery(time=0.5), "miss": OutcomeQuery(point=(0.8, 0.0, 0.6)),
    "passage time": OutcomeQuery(point=(0.8, 0.0, 0.6)),
    "passage speed": OutcomeQuery(point=(0.8, 0.0, 0.6)),
    "hit": OutcomeQuery(partner="f"), "inside": OutcomeQuery(region=((-1, -1, -1), (3, 1, 2))),
    "stays inside": OutcomeQuery(region=((-1, -1, -1), (3, 1, 2))),
    "wholly inside": OutcomeQuery(region=((-1, -1, -1), (3, 1, 2))),
    "stays wholly inside": OutcomeQuery(region=((-1, -1, -1), (3, 1, 2))),
    "height swing": OutcomeQuery(arguments=(("span", 0.3),)),
    "time until": OutcomeQuery(arguments=(("crossing", "x above 0.3 m"),)),
    "waypoints": OutcomeQuery(waypoints=((0.2, 0.0, 1.1), (1.0, 0.0, 0.3))),
}
SITUATIONS = {
    "throw": scene({"b": ball(0.05, mass=0.2, position=(0, 0, 1.05), velocity=(1.0, 0, 0.5)), "f": floor()}, duration=2.2,
                   restitution=0.6, friction=0.3),
    "slide": scene({"b": ball(0.05, mass=0.2, position=(0, 0, 0.05), velocity=(1.5, 0, 0)), "f": floor()}, duration=2.0,
                   friction=0.2),
    "roll": scene({"b": ball(0.05, mass=0.2, position=(0, 0, 0.05), velocity=(0.6, 0, 0), angular_velocity=(0, 12.0, 0)),
                   "f": floor()},
                  duration=2.4, friction=0.5, rolling_resistance=0.05),
}


NOT_OF_TRACKS = ("topple", "formula", "contact order", "lead", "side angle", "support overlap")
"""outcomes of several bodies, of the way a body stands, and of others"""


def asked_of(outcome):
    if outcome.indexed:
        return [OutcomeQuery(k) for k in (1, 2, 3)]
    return [TOLD.get(outcome.name, OutcomeQuery())]


def truths(motion):
    """Every outcome of a motion that a track may have too."""
    return {(o.name, asked): read(motion, o.name, "b", query=asked) for o in CATALOGUE.values() if o.name not in NOT_OF_TRACKS
            for asked in asked_of(o)}


def tracked(motion, rate, rng):
    """What a camera at this rate sees, with 1 mm and 0.01 rad of noise."""
    t = np.arange(0, motion.end + 1e-9, 1 / rate)
    path = motion.trajectory("b")
    x = path.position(t) + rng.normal(size=(len(t), 3)) * 1e-3
    angle = path.rotation(t)[:, 1] + rng.normal(size=len(t)) * 0.01
    samples = Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist()), angle=tuple(angle.tolist()))
    track = track_data(Track(name="b", body="b", sigma=1e-3, sigma_angle=0.01, samples=samples))
    return measured_motion(track, motion.body("b"), Support(np.array([0, 0, 1.0]), 0.05, "f"), G)
