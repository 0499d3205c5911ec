"""Slide, roll, slide-to-roll and collision from closed forms; a box down a chute and off its end by the engine."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np

from benchmarks.fit.thrown import Outcome, judged
from yapa.case import Body, Box, Case, NaturalRoll, Pair, Plane, Samples, Sphere, Surface, Track, Unknown, with_numbers
from yapa.engine import simulate
from yapa.fitting import Setup, prepare

G, SIGMA, RATE = 9.80665, 1e-3, 120.0
KINDS = ("slide", "roll", "slide to roll", "collision", "chute and bounce")


def _noisy(rng, *columns):
    return [tuple((c + SIGMA * rng.normal(size=len(c))).tolist()) for c in columns]


def slide(rng):
    """A box along a slope: decelerates at g (μ cos θ + sin θ) uphill, g (μ cos θ - sin θ) downhill, and stays where it stops."""
    while True:
        angle, mu, v0 = radians(rng.uniform(0.0, 15.0)), rng.uniform(0.1, 0.6), rng.choice([-1, 1]) * rng.uniform(0.6, 2.5)
        slow = G * (mu * cos(angle) + np.sign(v0) * sin(angle))
        if slow > 0.3 and mu > np.tan(angle):
            break
    t = np.arange(0, 1.5, 1 / RATE)
    stop = abs(v0) / slow
    at = np.minimum(t, stop)
    s = np.sign(v0) * (abs(v0) * at - 0.5 * slow * at**2)
    x, z = _noisy(rng, s * cos(angle), 0.5 + s * sin(angle))
    made = prepare(
        Samples(t=tuple(t.tolist()), x=x, z=z),
        Setup(
            size=(0.3, 0.2, 0.15),
            mass=1.0,
            slope=float(np.degrees(angle)),
            unknown={"friction": None, "velocity": None},
            sigma=SIGMA,
        ),
    )
    names = {short: path for path, short in made.short.items()}
    start = {"position.x": 0.0, "position.z": 0.5, "position.y": 0.0}
    return made.case, {names["friction"]: mu, names["speed"]: v0} | {path: start[n] for n, path in names.items() if n in start}


def _lane(body: Body, free, duration, **pair) -> Case:
    floor = Body(motion="static", shapes=(Plane(kind="plane", surface="lane"),))
    law = Pair(surfaces=("peel", "lane"), **{"restitution": 0.3, "friction": 0.5, "rolling_resistance": 0.01, **pair})
    return Case(
        surfaces={"peel": Surface(), "lane": Surface()},
        pairs=(law,),
        bodies={"ball": body, "lane": floor},
        duration=duration,
        unknowns=tuple(Unknown(path=p, low=a, high=b) for p, a, b in free),
    )


MU, ROLL, VX = "pairs.peel+lane.friction", "pairs.peel+lane.rolling_resistance", "bodies.ball.velocity.x"


def roll(rng):
    """A sphere that rolls on the level: decelerates at (5/7) c g, and stays where it stops."""
    c, v0, radius = rng.uniform(0.01, 0.08), rng.uniform(0.3, 1.5), 0.05
    slow = 5 / 7 * c * G
    t = np.arange(0, min(3.0, 1.3 * v0 / slow), 1 / RATE)
    at = np.minimum(t, v0 / slow)
    x, z = _noisy(rng, v0 * at - 0.5 * slow * at**2, np.full(len(t), radius))
    ball = Body(
        shapes=(Sphere(kind="sphere", radius=radius, surface="peel"),),
        mass=0.3,
        position=(0, 0, radius),
        velocity=(0.5, 0, 0),
        angular_velocity=NaturalRoll(rolling_on="lane"),
    )
    case = _lane(ball, [(ROLL, 0.0, 0.1), (VX, -3.0, 3.0)], float(t[-1]))
    return _tracked(case, t, x, z), {ROLL: c, VX: v0}


def slide_to_roll(rng):
    """A sphere thrown along the level without spin: μ g until t = 2 v / ((7 μ - 5 c) g), then (5/7) c g."""
    mu, c, v0, radius = rng.uniform(0.1, 0.5), rng.uniform(0.005, 0.05), rng.uniform(1.0, 3.0), 0.05
    t = np.arange(0, 2.0, 1 / RATE)
    change = 2 * v0 / ((7 * mu - 5 * c) * G)
    v1, slow = v0 - mu * G * change, 5 / 7 * c * G
    first = np.minimum(t, change)
    then = np.clip(t - change, 0.0, v1 / slow)
    x, z = _noisy(rng, v0 * first - 0.5 * mu * G * first**2 + v1 * then - 0.5 * slow * then**2, np.full(len(t), radius))
    ball = Body(
        shapes=(Sphere(kind="sphere", radius=radius, surface="peel"),), mass=0.3, position=(0, 0, radius), velocity=(1.0, 0, 0)
    )
    case = _lane(ball, [(MU, 0.0, 1.0), (ROLL, 0.0, 0.1), (VX, -5.0, 5.0)], 2.0)
    return _tracked(case, t, x, z), {MU: mu, ROLL: c, VX: v0}


def _tracked(case, t, x, z):
    track = Track(name="camera", body="ball", sigma=SIGMA, samples=Samples(t=tuple(t.tolist()), x=x, z=z))
    return case.model_copy(update={"tracks": (track,)})


def collision(rng):
    """Two spheres on a line without friction: momentum and restitution."""
    e, ma, mb, va, vb = rng.uniform(0.2, 0.95), rng.uniform(0.05, 0.5), 0.2, rng.uniform(0.8, 2.5), rng.uniform(-0.8, 0.3)
    r, gap = 0.04, 0.5
    t = np.arange(0, 1.2, 1 / RATE)
    hit = (gap - 2 * r) / (va - vb)
    push = (1 + e) * (va - vb) * ma * mb / (ma + mb)
    xa = va * t - push / ma * np.maximum(t - hit, 0)
    xb = gap + vb * t + push / mb * np.maximum(t - hit, 0)
    tracks = []
    for name, x in (("a", xa), ("b", xb)):
        seen, z = _noisy(rng, x, np.full(len(t), r))
        tracks.append(Track(name=name, body=name, sigma=SIGMA, samples=Samples(t=tuple(t.tolist()), x=seen, z=z)))
    bodies = {
        n: Body(shapes=(Sphere(kind="sphere", radius=r, surface="peel"),), mass=m, position=(x, 0, r), velocity=(v, 0, 0))
        for n, m, x, v in (("a", 0.2, 0.0, 1.0), ("b", mb, gap, 0.0))
    }
    bodies["belt"] = Body(motion="static", shapes=(Plane(kind="plane", surface="belt"),))
    free = {
        "pairs.peel+peel.restitution": (0.0, 1.0, e),
        "bodies.a.mass": (0.01, 2.0, ma),
        "bodies.a.velocity.x": (-4.0, 4.0, va),
        "bodies.b.velocity.x": (-4.0, 4.0, vb),
    }
    case = Case(
        surfaces={"peel": Surface(), "belt": Surface()},
        bodies=bodies,
        duration=1.2,
        tracks=tuple(tracks),
        pairs=(
            Pair(surfaces=("peel", "peel"), restitution=0.5, friction=0.0),
            Pair(surfaces=("peel", "belt"), restitution=0.0, friction=0.0),
        ),
        unknowns=tuple(
            Unknown(path=p, low=a, high=b, transform="log" if p.endswith("mass") else "linear") for p, (a, b, _) in free.items()
        ),
    )
    return case, {p: v for p, (_, _, v) in free.items()}


CHUTE, FLOOR, SPEED = "pairs.wood+steel.friction", "pairs.wood+floor.restitution", "bodies.crate.speed"


def chute_and_bounce(rng):
    """A crate down a chute, off its end, and onto the floor; its place and angle are seen until a moment after it lands."""
    from yapa.case import Direction

    angle = radians(25.0)
    down = (-cos(angle), 0.0, -sin(angle))
    turned = (cos(angle / 2), 0.0, -sin(angle / 2), 0.0)
    up = np.array([-sin(angle), 0, cos(angle)])
    top = np.array([0.45 * cos(angle), 0, 1.0 + 0.45 * sin(angle)]) + up * (0.02 + 0.05)
    bodies = {
        "crate": Body(
            shapes=(Box(kind="box", size=(0.14, 0.2, 0.1), surface="wood"),),
            mass=1.0,
            position=tuple(top.tolist()),
            orientation=turned,
            velocity=Direction(direction=down, speed=0.6),
        ),
        "chute": Body(
            motion="static",
            shapes=(Box(kind="box", size=(1.2, 0.4, 0.04), surface="steel"),),
            position=(0, 0, 1.0),
            orientation=turned,
        ),
        "floor": Body(motion="static", shapes=(Plane(kind="plane", surface="floor"),)),
    }
    case = Case(
        surfaces={"wood": Surface(), "steel": Surface(), "floor": Surface()},
        bodies=bodies,
        duration=2.0,
        pairs=(
            Pair(surfaces=("wood", "steel"), restitution=0.0, friction=0.3),
            Pair(surfaces=("wood", "floor"), restitution=0.3, friction=0.5),
        ),
        unknowns=(
            Unknown(path=CHUTE, low=0.0, high=1.0),
            Unknown(path=FLOOR, low=0.0, high=0.9),
            Unknown(path=SPEED, low=-1.0, high=3.0),
        ),
    )
    while True:
        truth = {CHUTE: rng.uniform(0.05, 0.4), FLOOR: rng.uniform(0.1, 0.6), SPEED: rng.uniform(0.2, 1.5)}
        motion = simulate(with_numbers(case, truth))
        hits = [c.time for c in motion.contacts_of("crate") if "floor" in (c.body, c.partner)]
        if hits and hits[0] < 1.6:
            break
    t = np.arange(0, hits[0] + 0.25, 1 / RATE)
    path = motion.trajectory("crate")
    place, turn = path.position(t), path.rotation(t)[:, 1] - 2 * np.arctan2(sin(angle / 2), cos(angle / 2))
    x, z = _noisy(rng, place[:, 0], place[:, 2])
    a = tuple((turn + 0.01 * rng.normal(size=len(t))).tolist())
    track = Track(
        name="camera", body="crate", sigma=SIGMA, sigma_angle=0.01, samples=Samples(t=tuple(t.tolist()), x=x, z=z, angle=a)
    )
    return case.model_copy(update={"tracks": (track,), "duration": float(t[-1])}), truth


MAKE = dict(zip(KINDS, (slide, roll, slide_to_roll, collision, chute_and_bounce), strict=True))


def one(job: tuple[str, int]) -> Outcome:
    """Draw, record, fit, judge."""
    kind, seed = job
    case, truth = MAKE[kind](np.random.default_rng([seed, KINDS.index(kind)]))
    return judged(case, truth)
