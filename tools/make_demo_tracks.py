"""Makes the demo tracks of the citrus packing house, and the truth beside them.

Shares no code with Yapa's engine: closed forms and SciPy's DOP853 only. Run it to make
``src/yapa/demo/data/*.csv`` and ``truth.json`` again, the same to the last digit.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
from scipy.integrate import solve_ivp

G, AIR = 9.80665, 1.2041
DATA = Path(__file__).parent.parent / "src" / "yapa" / "demo" / "data"


def flight(start, end_time, k, radius):
    """Fly (x, z, vx, vz) with drag k|v|v until the sphere touches z = radius; returns (duration, dense, state)."""

    def rate(_t, y):
        speed = np.hypot(y[2], y[3])
        return [y[2], y[3], -k * speed * y[2], -G - k * speed * y[3]]

    def touch(_t, y):
        return y[1] - radius

    touch.terminal, touch.direction = True, -1
    s = solve_ivp(rate, (0, end_time), start, method="DOP853", rtol=1e-11, atol=1e-12, events=touch, dense_output=True)
    return s.t[-1], s.sol, s.y[:, -1], len(s.t_events[0]) > 0


def thrown_sphere(t_end, start, spin, k, radius, e, mu):
    """Segments [(t0, t1, dense, spin, angle0)] of a bouncing solid sphere."""
    t, y, w, angle, segments, hits = 0.0, np.array(start, float), spin, 0.0, [], []
    while t < t_end and len(segments) < 60:
        span, dense, y, hit = flight(y, t_end - t, k, radius)
        segments.append((t, t + span, dense, w, angle))
        t, angle = t + span, angle + w * span
        if not hit:
            break
        hits.append(t)
        slip, jn = y[2] - radius * w, -(1 + e) * y[3]
        jt = -np.sign(slip) * min(2 / 7 * abs(slip), mu * jn)  # per unit mass
        w -= jt * 5 / (2 * radius)  # torque of the friction at the bottom, about +y
        y = np.array([y[0], radius, y[2] + jt, -e * y[3]])
    return segments, hits


def sample(segments, times):
    x, z, a = np.zeros_like(times), np.zeros_like(times), np.zeros_like(times)
    for t0, t1, dense, w, angle in segments:
        inside = (times >= t0 - 1e-12) & (times <= t1 + 1e-12)
        y = dense(np.clip(times[inside] - t0, 0, None))
        x[inside], z[inside], a[inside] = y[0], y[1], angle + w * (times[inside] - t0)
    return x, z, a


def write(name, times, columns):
    head = ["t", *columns]
    rows = np.column_stack([times, *columns.values()])
    lines = [",".join(head)] + [",".join(f"{v:.6f}" for v in row) for row in rows]
    (DATA / f"{name}.csv").write_text("\n".join(lines) + "\n")


def orange_drop(rng, truth):
    p = dict(mass=0.182, radius=0.037, restitution=0.742, drag_coefficient=0.47, height=1.42, sigma=0.001)
    k = 0.5 * AIR * p["drag_coefficient"] * np.pi * p["radius"] ** 2 / p["mass"]
    t = np.arange(0, 2.4, 1 / 120)
    segments, hits = thrown_sphere(2.4, [0, p["height"], 0, 0], 0.0, k, p["radius"], p["restitution"], 0.4)
    x, z, _ = sample(segments, t)
    write("orange-drop", t, {"x": x + rng.normal(0, 1e-3, t.shape), "y": 0 * t, "z": z + rng.normal(0, 1e-3, t.shape)})
    truth["orange-drop"] = {**p, "contact_times": hits}


def orange_throw(rng, truth):
    p = dict(mass=0.176, radius=0.0365, restitution=0.631, friction=0.214, drag_coefficient=0.52, z0=0.95, vx0=2.31,
             vz0=0.64, spin0=-97.0, sigma=0.001, angle_sigma=0.02)
    k = 0.5 * AIR * p["drag_coefficient"] * np.pi * p["radius"] ** 2 / p["mass"]
    t = np.arange(0, 1.9, 1 / 240)
    segments, hits = thrown_sphere(1.9, [0, p["z0"], p["vx0"], p["vz0"]], p["spin0"], k, p["radius"], p["restitution"],
                                   p["friction"])
    x, z, a = sample(segments, t)
    write("orange-throw", t, {"x": x + rng.normal(0, 1e-3, t.shape), "y": 0 * t,
                              "z": z + rng.normal(0, 1e-3, t.shape), "angle": a + rng.normal(0, 0.02, t.shape)})
    truth["orange-throw"] = {**p, "contact_times": hits}


def crate_chute(rng, truth):
    p = dict(slope=19.5, friction=0.176, speed=2.35, sigma=0.001)
    a = np.radians(p["slope"])
    up, down = G * (np.sin(a) + p["friction"] * np.cos(a)), G * (np.sin(a) - p["friction"] * np.cos(a))
    t = np.arange(0, 1.8, 0.01)
    turn = p["speed"] / up
    s = np.where(t < turn, p["speed"] * t - up * t**2 / 2, p["speed"] * turn / 2 - down * (t - turn) ** 2 / 2)
    write("crate-chute", t, {"x": s * np.cos(a) + rng.normal(0, 1e-3, t.shape), "y": 0 * t,
                             "z": s * np.sin(a) + rng.normal(0, 1e-3, t.shape)})
    truth["crate-chute"] = p


def grapefruit_lane(rng, truth):
    p = dict(radius=0.058, friction=0.236, rolling_resistance=0.0215, vx0=1.74, sigma=0.001, angle_sigma=0.02)
    mu, c, v, r = p["friction"], p["rolling_resistance"], p["vx0"], p["radius"]
    t = np.arange(0, 10.0, 1 / 60)
    roll = 2 * v / ((7 * mu - 5 * c) * G)
    v1, slow = v - mu * G * roll, 5 / 7 * c * G
    rest = roll + v1 / slow
    x1 = v * roll - mu * G * roll**2 / 2
    late = np.clip(t, roll, rest) - roll
    x = np.where(t < roll, v * t - mu * G * t**2 / 2, x1 + v1 * late - slow * late**2 / 2)
    turn = 5 / 2 * (mu - c) * G / r  # spin grows while it slides
    angle = np.where(t < roll, turn * t**2 / 2, turn * roll**2 / 2 + (v1 * late - slow * late**2 / 2) / r)
    write("grapefruit-lane", t, {"x": x + rng.normal(0, 1e-3, t.shape), "y": 0 * t, "z": np.full_like(t, r),
                                 "angle": angle + rng.normal(0, 0.02, t.shape)})
    truth["grapefruit-lane"] = {**p, "roll_from": roll, "rest_time": rest}


def lemons_nudge(rng, truth):
    p = dict(radius=0.034, mass_a=0.148, mass_b=0.125, restitution=0.46, friction=0.152, v0=1.12, gap=0.35, sigma=0.001)
    r, mu, v = p["radius"], p["friction"], p["v0"]
    t = np.arange(0, 1.5, 1 / 120)
    hit = p["gap"] / v
    total = p["mass_a"] + p["mass_b"]
    vb = (1 + p["restitution"]) * p["mass_a"] / total * v
    va = vb - p["restitution"] * v

    def slipping(v0, spin0):
        """Travel after the hit: friction until it rolls at (5 v0 + 2 r spin0)/7."""
        end = (5 * v0 + 2 * r * spin0) / 7
        sign = np.sign(end - v0)
        span = abs(end - v0) / (mu * G)
        return lambda tau: np.where(tau < span, v0 * tau + sign * mu * G * tau**2 / 2,
                                    v0 * span + sign * mu * G * span**2 / 2 + end * (tau - span))

    tau = np.clip(t - hit, 0, None)
    xa = np.where(t < hit, v * t, p["gap"] + slipping(va, v / r)(tau))
    xb = p["gap"] + 2 * r + np.where(t < hit, 0, slipping(vb, 0.0)(tau))
    for name, x in (("a", xa), ("b", xb)):
        write(f"lemon-{name}", t, {"x": x + rng.normal(0, 1e-3, t.shape), "y": 0 * t, "z": np.full_like(t, r)})
    truth["lemons-nudge"] = {**p, "hit_time": hit}


def main() -> None:
    DATA.mkdir(parents=True, exist_ok=True)
    truth: dict = {}
    for k, make in enumerate((orange_drop, orange_throw, crate_chute, grapefruit_lane, lemons_nudge)):
        make(np.random.default_rng(2611 + k), truth)
    (DATA / "truth.json").write_text(json.dumps(truth, indent=1, default=float) + "\n")


if __name__ == "__main__":
    main()
