"""Seven set-ups whose model is wrong in one number, and what the generator's own model says of that. Nothing of Yapa here.

A person tells a floor that is level, a scale, a radius, a clock, a restitution that is the same at any speed; the truth is
another. ``gains`` fits the unknowns of the set-up at what was told, then with each candidate freed: by how much half the squared
misfit falls.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import cos, radians, sin

import numpy as np
from scipy.optimize import least_squares

from benchmarks.apart.families import RATES, SIGMA_ANGLE, SIGMAS, Recorded
from benchmarks.apart.planar import Face, G, fly, lane

UNITS = {"restitution": 0.01, "friction": 0.01, "drag_coefficient": 0.02, "rolling_resistance": 1e-3, "velocity.x": 0.01,
         "velocity.z": 0.01, "speed": 0.01, "position.x": 1e-3, "position.z": 1e-3, "angular_velocity.y": 0.5, "zero": 0.01,
         "wall": 0.01,
         "floor": 0.01, "tilt": 1e-3, "scale": 1e-3, "radius": 1e-3, "clock": 1e-3, "restitution by speed": 0.01}
"""A small change of each number, in its unit; of a scale and a radius as a share."""
SIZES = {"tilt": (radians(0.2), radians(2.0)), "scale": (3e-3, 0.02), "radius": (0.01, 0.06), "clock": (2e-3, 0.02),
         "restitution by speed": (0.02, 0.2)}
"""How large an error is drawn, evenly in its logarithm."""


@dataclass
class SetUp:
    """A scene as told, its unknowns at their truth, the errors that its model may have, and how it is seen.

    ``seen`` gives, for values of unknowns and errors, the places (T, 2) at the times and the turn (T,) or None.
    """

    family: str
    body: str
    scene: dict
    truth: dict[str, float]
    errors: tuple[str, ...]
    seen: Callable[[dict[str, float], np.ndarray], tuple[np.ndarray, np.ndarray | None]]
    end: Callable[[dict[str, float]], float]
    """Until when it is recorded [s]."""
    still: tuple[int, ...] = ()
    """The coordinates (0 for x, 1 for z) that stay the same, and carry no noise."""
    turning: bool = False


def _at(end: float):
    return lambda _values: end


def _pick(v: dict[str, float], name: str) -> float:
    return v.get(name, 0.0)


def _flight(v, t, scene, face_of, longest=np.inf):
    radius = scene["radius"] * (1 + _pick(v, "radius"))
    x, z = v.get("position.x", scene.get("start", (0.0, 0.0))[0]), v.get("position.z", scene.get("start", (0.0, 0.0))[1])
    start = (x, z, _pick(v, "velocity.x"), _pick(v, "velocity.z"), _pick(v, "angular_velocity.y"), 0.0)
    times = np.maximum(t + _pick(v, "clock"), 0.0)
    flown = fly(start, radius, scene["mass"], v.get("drag_coefficient", 0.0), face_of(v, x, z), times, slowest=0.02, rtol=1e-9,
                longest=longest)
    s = flown.states
    for k in np.flatnonzero(np.isnan(s[:, 0])):
        s[k] = s[k - 1]
    return s[:, :2] * (1 + _pick(v, "scale")), s[:, 5] + _pick(v, "zero")


def _ground(restitution: str, friction: str | float):
    """A floor that may be tilted about the point under the start, its restitution falling with speed."""
    def faces(v, x, _z):
        n = (sin(_pick(v, "tilt support")), cos(_pick(v, "tilt support")))
        mu = v[friction] if isinstance(friction, str) else friction
        return [Face(n, n[0] * x, v[restitution], mu, falloff=_pick(v, "restitution by speed"))]
    return faces


def _before_it_is_slow(face_of, scene, last):
    """The end of a flight: the first approach below 0.5 m/s, or the last frame."""
    def end(v):
        x, z = scene.get("start", (v.get("position.x"), v.get("position.z")))
        start = (x or 0.0, z, _pick(v, "velocity.x"), _pick(v, "velocity.z"), _pick(v, "angular_velocity.y"), 0.0)
        radius = scene["radius"] * (1 + _pick(v, "radius"))
        return fly(start, radius, scene["mass"], v.get("drag_coefficient", 0.0), face_of(v, x or 0.0, z), np.array([0.0, last]),
                   slowest=0.5, rtol=1e-9).end
    return end


def drop(rng) -> SetUp:
    """A ball let go above a floor."""
    scene = {"radius": rng.uniform(0.02, 0.06), "mass": rng.uniform(0.05, 0.4)}
    truth = {"restitution": rng.uniform(0.6, 0.9), "drag_coefficient": rng.uniform(0.2, 0.9), "velocity.z": 0.0,
             "position.z": rng.uniform(0.6, 2.0)}
    faces = _ground("restitution", 0.3)
    end = _before_it_is_slow(faces, scene, rng.uniform(1.4, 2.4))
    return SetUp("drop", "ball", scene, truth, ("scale", "radius", "restitution by speed"),
                 lambda v, t: (_flight(v, t, scene, faces)[0], None), end, still=(0,))


def _thrown(rng, family: str, spin: float, friction: float, turning: bool) -> SetUp:
    scene = {"radius": rng.uniform(0.025, 0.05), "mass": rng.uniform(0.05, 0.4)}
    truth = {"restitution": rng.uniform(0.5, 0.85), "friction": friction, "drag_coefficient": rng.uniform(0.2, 0.9),
             "velocity.x": rng.uniform(1.0, 3.5), "velocity.z": rng.uniform(-0.5, 2.0), "position.x": 0.0,
             "position.z": rng.uniform(0.5, 1.3), "angular_velocity.y": spin}
    faces = _ground("restitution", "friction")
    end = _before_it_is_slow(faces, scene, rng.uniform(1.3, 2.2))
    if turning:
        truth["zero"] = 0.0

    def seen(v, t):
        places, turn = _flight(v, t, scene, faces)
        return places, turn if turning else None

    return SetUp(family, "ball", scene, truth, ("tilt support", "scale", "radius", "restitution by speed"), seen, end,
                 turning=turning)


def throw(rng) -> SetUp:
    """A ball thrown onto a floor, its turning seen."""
    return _thrown(rng, "throw, spin seen", rng.uniform(-60, 60), rng.uniform(0.1, 0.6), True)


def skid(rng) -> SetUp:
    """A ball thrown with a spin that nobody sees."""
    return _thrown(rng, "skid, spin unseen", rng.uniform(-140, 140), rng.uniform(0.05, 0.3), False)


def on_lane(rng) -> SetUp:
    """A ball that is launched sliding on a lane and rolls; the camera looks along the lane's own level."""
    r = rng.uniform(0.03, 0.08)
    truth = {"friction": rng.uniform(0.08, 0.4), "rolling_resistance": rng.uniform(0.01, 0.05), "velocity.x": rng.uniform(0.8, 2.5),
             "position.x": 0.0}

    def seen(v, t):
        tilt = _pick(v, "tilt support")
        s = lane(t, v["velocity.x"], 0.0, r, v["friction"], v["rolling_resistance"], G * sin(tilt))[:, 0]
        return np.column_stack([(v["position.x"] + s) * (1 + _pick(v, "scale")), np.full(len(t), r)]), None

    return SetUp("lane", "ball", {"radius": r, "mass": 0.4}, truth, ("tilt support", "scale"), seen, _at(rng.uniform(2.0, 4.5)),
                 still=(1,))


def chute(rng) -> SetUp:
    """A block that is pushed up a slope and slides back where friction lets it."""
    angle = rng.uniform(8.0, 30.0)
    truth = {"friction": rng.uniform(0.08, 0.5), "speed": rng.uniform(1.0, 2.6), "position.x": 0.0, "position.z": 0.4}

    def seen(v, t):
        a = radians(angle) - _pick(v, "tilt support")
        up, down = G * (sin(a) + v["friction"] * cos(a)), max(G * (sin(a) - v["friction"] * cos(a)), 0.0)
        turn = v["speed"] / up
        s = np.where(t < turn, v["speed"] * t - 0.5 * up * t**2, v["speed"] * turn / 2 - 0.5 * down * (t - turn) ** 2)
        places = np.array([v["position.x"], v["position.z"]]) + np.outer(s, [cos(a), sin(a)])
        return places * (1 + _pick(v, "scale")), None

    return SetUp("chute", "block", {"size": (0.3, 0.2, 0.15), "mass": 2.0, "slope": angle}, truth, ("tilt support", "scale"), seen,
                 _at(rng.uniform(1.0, 1.8)))


def box_to_wall(rng) -> SetUp:
    """A box slides along a floor into a wall and back; where it stands at t = 0 is known."""
    while True:
        mu, e, v0, reach = rng.uniform(0.05, 0.35), rng.uniform(0.3, 0.8), rng.uniform(1.5, 3.0), rng.uniform(0.3, 0.9)
        if v0 * v0 > 2 * mu * G * reach + 0.3:
            break

    def seen(v, t):
        slow, v0 = v["friction"] * G, v["velocity.x"]
        t = np.maximum(t + _pick(v, "clock"), 0.0)
        t1 = (v0 - np.sqrt(max(v0 * v0 - 2 * slow * reach, 1e-9))) / slow
        hit = v0 - slow * t1
        back = v["restitution"] * max(hit, 1.0) ** -_pick(v, "restitution by speed") * hit
        h = np.clip(t - t1, 0.0, back / slow)
        x = np.where(t < t1, v0 * t - 0.5 * slow * t**2, reach - back * h + 0.5 * slow * h**2)
        return np.column_stack([x, np.full(len(t), 0.05)]) * (1 + _pick(v, "scale")), None

    truth = {"friction": mu, "restitution": e, "velocity.x": v0}
    return SetUp("box to a wall", "box", {"size": (0.2, 0.2, 0.1), "wall": reach + 0.1}, truth, ("scale", "clock"), seen,
                 _at(rng.uniform(0.8, 1.6)))


def wall_and_floor(rng) -> SetUp:
    """A ball thrown against a wall, from there onto the floor; where it is at t = 0 is known."""
    while True:
        far, mu = rng.uniform(0.8, 1.8), rng.uniform(0.05, 0.5)
        scene = {"radius": 0.035, "mass": 0.2, "wall": far, "start": (0.0, rng.uniform(0.5, 1.2))}
        truth = {"wall": rng.uniform(0.4, 0.85), "floor": rng.uniform(0.4, 0.85), "velocity.x": rng.uniform(2.0, 5.0),
                 "velocity.z": rng.uniform(0.0, 2.0)}

        def faces(v, x, z, far=far, mu=mu):
            a, b = _pick(v, "tilt floor"), _pick(v, "tilt wall")
            n, m = (sin(a), cos(a)), (-cos(b), sin(b))
            return [Face(n, n[0] * x, v["floor"], mu, falloff=_pick(v, "restitution by speed floor")),
                    Face(m, m[0] * far + m[1] * z, v["wall"], mu, falloff=_pick(v, "restitution by speed wall"))]

        start = (*scene["start"], truth["velocity.x"], truth["velocity.z"], 0.0, 0.0)
        last = rng.uniform(1.0, 1.8)
        flown = fly(start, 0.035, 0.2, 0.0, faces(truth, *scene["start"]), np.array([0.0, last]), slowest=0.5)
        order = [face for _, face, *_ in flown.contacts]
        if order[:1] == [1] and 0 in order:
            break
    errors = ("tilt floor", "tilt wall", "scale", "clock", "restitution by speed floor", "restitution by speed wall")
    return SetUp("wall then floor", "ball", scene, truth | {"friction": mu}, errors,
                 lambda v, t: (_flight(v, t, scene, faces)[0], None), _before_it_is_slow(faces, scene, last))


SETUPS = {"tilt": (throw, skid, on_lane, chute, wall_and_floor), "scale": (drop, throw, skid, chute, box_to_wall, wall_and_floor),
          "radius": (drop, throw, skid), "clock": (box_to_wall, wall_and_floor),
          "restitution by speed": (drop, throw, skid, wall_and_floor)}
"""For each kind of error the set-ups that can have it."""


def kind_of(error: str) -> str:
    """The kind of an error that may name what has it."""
    return next(kind for kind in SIZES if error.startswith(kind))


def wrong(kind: str, seed: int) -> tuple[SetUp, str, float, Recorded]:
    """A set-up that has an error of this kind, the error's name and size, and what a camera saw."""
    rng = np.random.default_rng([seed, *kind.encode()])
    made = SETUPS[kind][seed % len(SETUPS[kind])](rng)
    error = str(rng.choice([e for e in made.errors if kind_of(e) == kind]))
    low, high = SIZES[kind]
    size = float(np.exp(rng.uniform(np.log(low), np.log(high)))) * (1.0 if kind == "restitution by speed" else rng.choice([-1, 1]))
    if kind == "clock":
        size = abs(size)  # a clock that runs early would show what was before the start
    rate, sigma, told = float(rng.choice(RATES)), float(rng.choice(SIGMAS[:3])), bool(rng.choice([True, False]))
    t = np.arange(int(made.end({**made.truth, error: size}) * rate)) / rate
    places, turn = made.seen({**made.truth, error: size}, t)
    moves = np.array([k not in made.still for k in range(2)])
    places = places + sigma * rng.normal(size=places.shape) * moves
    angle = None if turn is None else turn + SIGMA_ANGLE * rng.normal(size=len(t))
    truth = {"angular_velocity.y": 0.0, **{k: v for k, v in made.truth.items() if k != "zero"}}
    recorded = Recorded(made.family, made.scene, truth, t, {made.body: places}, {made.body: np.zeros(len(t), bool)}, sigma, told,
                        {"rate": rate, "sigma": sigma, "told": told, error: size}, angle)
    return made, error, size, recorded


def gains(made: SetUp, error: str, size: float, r: Recorded) -> dict[str, float]:
    """By how much freeing each error lowers half the squared misfit of the generator's own model."""
    places = r.places[made.body]
    names = [n for n in made.truth if not (made.family == "wall then floor" and n == "friction")]
    truth = np.array([made.truth[n] for n in names])
    units = np.array([UNITS[n] for n in names])
    moves = [k for k in range(2) if k not in made.still]

    def fitted(freed: str | None, start: np.ndarray, value: float) -> tuple[float, np.ndarray]:
        scale = np.r_[units, UNITS[kind_of(freed)]] if freed else units
        at = np.r_[start, value] if freed else start
        least = np.full(len(at), -np.inf)
        if freed and kind_of(freed) == "restitution by speed":
            least[-1] = 0.0

        def residuals(z):
            x = at + z * scale
            values = dict(zip([*names, freed] if freed else names, x, strict=True))
            seen, turn = made.seen({**made.truth, **values}, r.t)
            out = [((seen - places) / r.sigma)[:, moves]]
            if turn is not None:
                out.append(((turn - r.angle) / SIGMA_ANGLE)[:, None])
            return np.concatenate([o.ravel() for o in out])

        def jacobian(z):
            base = residuals(z)
            return np.column_stack([(residuals(z + 1e-3 * e) - base) / 1e-3 for e in np.eye(len(z))])

        found = least_squares(residuals, np.where(np.isfinite(least), 1e-9, 0.0), jacobian, x_scale="jac", ftol=1e-5, max_nfev=25,
                              bounds=((least - at) / scale, np.full(len(at), np.inf)))
        return float(found.cost), at + found.x * scale

    rubs = np.array(["friction" in name for name in names])
    begins = [truth] + [np.where(rubs, share * truth, truth) for share in (0.9, 0.95, 1.05) if rubs.any()]
    base, at = min((fitted(None, start, 0.0) for start in begins), key=lambda found: found[0])  # a block may stay, or creep back
    out = {}
    for freed in made.errors:
        starts = [(at[: len(names)], 0.0)] + ([(truth, size)] if freed == error else [])
        out[freed] = base - min(fitted(freed, *start)[0] for start in starts)
    return out


def shown(error: str, found: dict[str, float]) -> bool:
    """Whether what was seen shows this error, and no other as well."""
    others = [g for name, g in found.items() if name != error]
    return found[error] >= 12.5 and all(found[error] >= g + 4.5 for g in others)
