"""Nine set-ups with truths drawn at random, recorded with the flaws that recordings have. Nothing of Yapa is used."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from math import cos, radians, sin

import numpy as np

from benchmarks.apart.planar import Face, G, fly, lane

RATES = (30.0, 60.0, 240.0)
SIGMAS = (0.3e-3, 1e-3, 2e-3, 5e-3)
NOISES = ("white", "grid", "hanging together")
FLAWS = ("none", "outliers", "gaps", "first frames missing")
GRID, RHO, SIGMA_ANGLE = 1.5e-3, 0.6, 0.02


@dataclass
class Exact:
    """What a camera without noise would see: per body the places (T, 2) of x and z and, where it was seen, the angle (T,)."""

    scene: dict
    truth: dict[str, float]
    t: np.ndarray
    places: dict[str, np.ndarray]
    angle: np.ndarray | None = None
    at: Callable[[float], dict[str, float]] | None = None
    """Truth of the start, if the recording begins at this time."""


@dataclass
class Recorded:
    """An exact motion as a camera gives it. ``spoiled`` marks cells that the generator ruined; NaN where there is none."""

    family: str
    scene: dict
    truth: dict[str, float]
    t: np.ndarray
    places: dict[str, np.ndarray]
    spoiled: dict[str, np.ndarray]
    sigma: float
    told: bool
    drawn: dict = field(default_factory=dict)
    angle: np.ndarray | None = None


def _frames(rate: float, end: float) -> np.ndarray:
    return np.arange(int(end * rate) + 1) / rate


def _start(states: np.ndarray, t: np.ndarray) -> Callable[[float], dict[str, float]]:
    def at(time: float) -> dict[str, float]:
        x, z, vx, vz, w, _ = states[int(np.argmin(np.abs(t - time)))]
        return {"position.x": x, "position.z": z, "velocity.x": vx, "velocity.z": vz, "angular_velocity.y": w}
    return at


def drop(rng, rate):
    """A ball let go above a floor."""
    r, m = rng.uniform(0.02, 0.06), rng.uniform(0.05, 0.4)
    e, cd, z0 = rng.uniform(0.55, 0.9), rng.uniform(0.2, 0.9), rng.uniform(0.6, 2.0)
    t = _frames(rate, rng.uniform(1.2, 2.2))
    flown = fly((0, z0, 0, 0, 0, 0), r, m, cd, [Face((0, 1), 0.0, e, 0.3)], t)
    t, s = t[t <= flown.end], flown.states[t <= flown.end]
    return Exact({"radius": r, "mass": m}, {"restitution": e, "drag_coefficient": cd}, t, {"ball": s[:, :2]}, at=_start(s, t))


def _thrown(rng, rate, spin, friction, speed):
    r, m = rng.uniform(0.025, 0.05), rng.uniform(0.05, 0.4)
    e, cd = rng.uniform(0.5, 0.85), rng.uniform(0.2, 0.9)
    start = (0.0, rng.uniform(0.5, 1.3), speed, rng.uniform(-0.5, 2.0), spin, 0.0)
    t = _frames(rate, rng.uniform(1.3, 2.2))
    flown = fly(start, r, m, cd, [Face((0, 1), 0.0, e, friction)], t, slowest=0.3)
    t, s = t[t <= flown.end], flown.states[t <= flown.end]
    truth = {"restitution": e, "friction": friction, "drag_coefficient": cd}
    return Exact({"radius": r, "mass": m}, truth, t, {"ball": s[:, :2]}, s[:, 5], _start(s, t)), flown


def throw(rng, rate):
    """A ball thrown onto a floor, its turning seen."""
    return _thrown(rng, rate, rng.uniform(-60, 60), rng.uniform(0.1, 0.6), rng.uniform(0.5, 3.0))[0]


def skid(rng, rate):
    """A ball thrown with a spin that nobody sees; at least one bounce slides."""
    while True:
        exact, flown = _thrown(rng, rate, rng.uniform(-140, 140), rng.uniform(0.05, 0.35), rng.uniform(1.0, 4.5))
        if any(slid for *_, slid in flown.contacts) and len(flown.contacts) >= 2:
            exact.angle = None
            return exact


def on_lane(rng, rate):
    """A ball that is launched sliding on a level lane, rolls, and comes to rest."""
    r, mu, c, v = rng.uniform(0.03, 0.08), rng.uniform(0.08, 0.4), rng.uniform(0.008, 0.05), rng.uniform(0.8, 2.5)
    t = _frames(rate, min(1.1 * (v / (5 / 7 * c * G)) + 0.1, rng.uniform(2.0, 4.5)))
    s = lane(t, v, 0.0, r, mu, c)
    places = np.column_stack([s[:, 0], np.full(len(t), r)])

    def at(time):
        x, vx, w, _ = s[int(np.argmin(np.abs(t - time)))]
        return {"position.x": x, "velocity.x": vx, "angular_velocity.y": w}

    return Exact({"radius": r, "mass": 0.4}, {"friction": mu, "rolling_resistance": c}, t, {"ball": places}, at=at)


def chute(rng, rate):
    """A block that is pushed up a slope, slows, and slides back where friction lets it."""
    angle, mu, v0 = rng.uniform(8.0, 30.0), rng.uniform(0.08, 0.5), rng.uniform(1.0, 2.6)
    a = radians(angle)
    up, down = G * (sin(a) + mu * cos(a)), G * (sin(a) - mu * cos(a))
    t = _frames(rate, rng.uniform(1.0, 1.8))
    turn = v0 / up
    s = np.where(t < turn, v0 * t - 0.5 * up * t**2, v0 * turn / 2 - 0.5 * max(down, 0.0) * (t - turn) ** 2)
    v = np.where(t < turn, v0 - up * t, -max(down, 0.0) * (t - turn))
    places = np.column_stack([s * cos(a), 0.4 + s * sin(a)])

    def at(time):
        k = int(np.argmin(np.abs(t - time)))
        return {"position.x": places[k, 0], "position.z": places[k, 1], "speed": v[k]}

    return Exact({"size": (0.3, 0.2, 0.15), "mass": 2.0, "slope": angle}, {"friction": mu}, t, {"block": places}, at=at)


def nudge(rng, rate):
    """A rolling ball meets an equal-sized one at rest; the mass of the first is not known."""
    while True:
        r, ma, mb = 0.05, float(np.exp(rng.uniform(np.log(0.08), np.log(0.6)))), 0.2
        e, mu, v, gap = rng.uniform(0.3, 0.95), rng.uniform(0.1, 0.5), rng.uniform(0.6, 1.8), rng.uniform(0.15, 0.5)
        hit = gap / v
        t = _frames(rate, hit + rng.uniform(0.7, 1.2))
        va = v * (ma - e * mb) / (ma + mb)
        vb = v * ma * (1 + e) / (ma + mb)
        after = np.maximum(t - hit, 0.0)
        a, b = lane(after, va, v / r, r, mu, 0.0)[:, 0], lane(after, vb, 0.0, r, mu, 0.0)[:, 0]
        xa, xb = np.where(t < hit, v * t, gap + a), gap + 2 * r + b
        if (xb - xa - 2 * r)[t > hit + 1e-9].min(initial=1.0) > 1e-4:
            break
    level = np.full(len(t), r)
    return Exact({"radius": r, "gap": gap}, {"restitution": e, "friction": mu, "mass": ma, "velocity.x": v}, t,
                 {"one": np.column_stack([xa, level]), "other": np.column_stack([xb, level])})


def box_to_wall(rng, rate):
    """A box slides along a floor into a wall and back."""
    while True:
        mu, e, v, reach = rng.uniform(0.05, 0.35), rng.uniform(0.3, 0.8), rng.uniform(1.5, 3.0), rng.uniform(0.3, 0.9)
        slow = mu * G
        if v * v > 2 * slow * reach + 0.3:
            break
    t1 = (v - np.sqrt(v * v - 2 * slow * reach)) / slow
    back = e * (v - slow * t1)
    stop = back / slow
    t = _frames(rate, t1 + min(1.1 * stop, 1.6))
    h = np.clip(t - t1, 0.0, stop)
    x = np.where(t < t1, v * t - 0.5 * slow * t**2, reach - back * h + 0.5 * slow * h**2)
    return Exact({"size": (0.2, 0.2, 0.1), "wall": reach + 0.1}, {"friction": mu, "restitution": e, "velocity.x": v}, t,
                 {"box": np.column_stack([x, np.full(len(t), 0.05)])})


STEP, RISE = 0.5, 0.18


def steps(rng, rate):
    """A ball that jumps down three steps, with friction and without spin at its start."""
    while True:
        r, m, e, mu = 0.03, 0.15, rng.uniform(0.5, 0.8), rng.uniform(0.05, 0.5)
        v = rng.uniform(0.6, 1.6)
        tops = [Face((0, 1), -RISE * k, e, mu, STEP * (k - 1), STEP * k if k < 3 else 50.0) for k in range(4)]
        corners = [(STEP * k, -RISE * k) for k in range(3)]
        t = _frames(rate, rng.uniform(1.2, 2.0))
        start = (-0.35, rng.uniform(0.15, 0.4), v, rng.uniform(0.0, 0.6), 0.0, 0.0)
        flown = fly(start, r, m, 0.0, tops, t, slowest=0.3, corners=corners)
        faces = {face for _, face, *_ in flown.contacts}
        if flown.closest > r + 0.004 and len(faces) >= 3:
            break
    t, s = t[t <= flown.end], flown.states[t <= flown.end]
    truth = {"restitution": e, "friction": mu, "velocity.x": v, "velocity.z": start[3]}
    return Exact({"radius": r, "mass": m, "start": start[:2]}, truth, t, {"ball": s[:, :2]})


def wall_and_floor(rng, rate):
    """A ball thrown against a wall, from there onto the floor."""
    while True:
        r, m, far = 0.035, 0.2, rng.uniform(0.8, 1.8)
        wall, floor, mu = rng.uniform(0.4, 0.85), rng.uniform(0.4, 0.85), rng.uniform(0.05, 0.5)
        start = (0.0, rng.uniform(0.5, 1.2), rng.uniform(2.0, 5.0), rng.uniform(0.0, 2.0), 0.0, 0.0)
        t = _frames(rate, rng.uniform(1.0, 1.8))
        flown = fly(start, r, m, 0.0, [Face((0, 1), 0.0, floor, mu), Face((-1, 0), -far, wall, mu)], t, slowest=0.3)
        order = [face for _, face, *_ in flown.contacts]
        if order[:1] == [1] and 0 in order:
            break
    t, s = t[t <= flown.end], flown.states[t <= flown.end]
    truth = {"wall": wall, "floor": floor, "friction": mu, "velocity.x": start[2], "velocity.z": start[3]}
    return Exact({"radius": r, "mass": m, "wall": far, "start": start[:2]}, truth, t, {"ball": s[:, :2]})


FAMILIES = {"drop": drop, "throw, spin seen": throw, "skid, spin unseen": skid, "lane": on_lane, "chute": chute,
            "two balls, a mass unknown": nudge, "box to a wall": box_to_wall, "three steps down": steps,
            "wall then floor": wall_and_floor}


def draws(rng, count: int) -> list[dict]:
    """For every truth a rate, a noise, its kind, a flaw, and whether σ is told: each value as often as the others."""
    def even(values):
        return rng.permutation([values[k % len(values)] for k in range(count)]).tolist()

    rows = zip(even(RATES), even(SIGMAS), even(NOISES), even(FLAWS), even((True, False)), strict=True)
    return [dict(zip(("rate", "sigma", "noise", "flaw", "told"), row, strict=True)) for row in rows]


def record(name: str, seed: int, drawn: dict) -> Recorded:
    """One truth of a family, recorded."""
    rng = np.random.default_rng(seed)
    while True:
        exact = FAMILIES[name](rng, drawn["rate"])
        if len(exact.t) >= 20:
            break
    t, sigma, flaw = exact.t, drawn["sigma"], drawn["flaw"]
    keep = np.ones(len(t), bool)
    if flaw == "first frames missing":
        keep[: int(rng.integers(1, max(2, int(0.05 * len(t)) + 1)))] = False
    truth = dict(exact.truth)
    if exact.at is not None:
        truth |= exact.at(float(t[keep][0]))
    places, spoiled = {}, {}
    for body, x in exact.places.items():
        noisy, bad = _seen(rng, x, sigma, drawn)
        places[body], spoiled[body] = noisy[keep], bad[keep]
    angle = None if exact.angle is None else (exact.angle + SIGMA_ANGLE * rng.normal(size=len(t)))[keep]
    whole = float(np.hypot(sigma, GRID / np.sqrt(12.0))) if drawn["noise"] == "grid" else sigma
    return Recorded(name, exact.scene, truth, t[keep], places, spoiled, whole, drawn["told"], drawn, angle)


def _seen(rng, x, sigma, drawn):
    """Places with noise and flaws; a coordinate that stays the same carries none and is no evidence."""
    n = len(x)
    moves = np.ptp(x, axis=0) > 0
    noise = rng.normal(size=x.shape)
    if drawn["noise"] == "hanging together":
        for k in range(1, n):
            noise[k] = RHO * noise[k - 1] + np.sqrt(1 - RHO**2) * noise[k]
    seen = x + sigma * noise * moves
    bad = np.zeros(n, bool)
    if drawn["flaw"] == "outliers":
        bad[rng.choice(n, max(1, round(0.03 * n)), replace=False)] = True
        seen[bad] += (rng.uniform(0.03, 0.3, (int(bad.sum()), 2)) * rng.choice([-1, 1], (int(bad.sum()), 2))) * moves
    if drawn["noise"] == "grid":
        seen = np.where(moves, np.round(seen / GRID) * GRID, seen)
    if drawn["flaw"] == "gaps":
        gone = np.zeros(n, bool)
        while gone.sum() < 0.1 * n:
            at = int(rng.integers(3, max(4, n - 6)))
            gone[at : at + int(rng.integers(1, max(2, n // 25)))] = True
        seen[gone] = np.nan
    return seen, bad
