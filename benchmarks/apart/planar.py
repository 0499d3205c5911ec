"""A ball among flat faces, in the plane of x and z: flights by SciPy's ODE solver, impacts in closed form. Nothing of Yapa here.

State: x, z, vx, vz, spin about +y, turn about +y. The tangent of a face with normal (nx, nz) is (nz, -nx); the point of contact
moves along it at u = v·t - r w. A normal impulse J = (1 + e) m |v·n|; the tangential one brings u to zero where it can with μ J
(m |u| / (1 + 1/κ), κ = I / (m r²)), else it is μ J.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.integrate import solve_ivp

G, AIR = 9.80665, 1.2041
KAPPA = 0.4


@dataclass(frozen=True)
class Face:
    """Points with n·x = d, as far as ``low`` ≤ x ≤ ``high``; n points to where the ball is."""

    normal: tuple[float, float]
    d: float
    restitution: float
    friction: float
    low: float = -np.inf
    high: float = np.inf
    falloff: float = 0.0
    """Above 1 m/s restitution falls as speed ** -falloff."""


@dataclass
class Flown:
    """Exact states at the sample times, contacts as (time, face, approach, whether it slid), and how the run ended."""

    states: np.ndarray
    contacts: list[tuple[float, int, float, bool]]
    end: float
    closest: float = np.inf


def fly(start, radius, mass, drag, faces, times, slowest=0.05, corners=(), rtol=1e-11, longest=0.02) -> Flown:
    """The ball from a start (6,), until the last sample or the first approach slower than ``slowest`` [m/s]."""
    k = 0.5 * AIR * drag * np.pi * radius**2 / mass

    def rate(_t, y):
        speed = float(np.hypot(y[2], y[3]))
        return [y[2], y[3], -k * speed * y[2], -G - k * speed * y[3], 0.0, y[4]]

    def meeting(face):
        n = face.normal

        def gap(_t, y):
            if not face.low <= y[0] <= face.high:
                return 1.0
            return n[0] * y[0] + n[1] * y[1] - face.d - radius

        gap.terminal, gap.direction = True, -1
        return gap

    events = [meeting(f) for f in faces]
    states, contacts = np.full((len(times), 6), np.nan), []
    t, y, last = 0.0, np.array(start, dtype=float), float(times[-1])
    closest = np.inf
    while True:
        wanted = (times >= t) & (times <= last)
        way = solve_ivp(rate, (t, last + 1e-9), y, method="DOP853", events=events, rtol=rtol, atol=0.1 * rtol, dense_output=True,
                        max_step=longest)
        here = wanted & (times <= way.t[-1])
        if here.any():
            states[here] = way.sol(times[here]).T
        if corners:
            path = way.sol(np.linspace(t, way.t[-1], 60)).T
            closest = min(closest, min(float(np.hypot(path[:, 0] - cx, path[:, 1] - cz).min()) for cx, cz in corners))
        if way.status != 1:
            return Flown(states, contacts, last, closest)
        hit = int(np.argmax([len(e) > 0 for e in way.t_events]))
        t, y = float(way.t_events[hit][0]), way.y_events[hit][0].copy()
        n = np.array(faces[hit].normal)
        approach = -float(y[2:4] @ n)
        if approach < slowest:
            return Flown(states, contacts, t, closest)
        slid = bounce(y, radius, faces[hit], n, approach)
        contacts.append((t, hit, approach, slid))
        y[:2] += 1e-12 * n


def bounce(y, radius, face, n, approach) -> bool:
    """Change a state by an impact; whether it slid to its end. Impulses are per mass."""
    tangent = np.array([n[1], -n[0]])
    normal = (1 + face.restitution * max(approach, 1.0) ** -face.falloff) * approach
    slip = float(y[2:4] @ tangent) - radius * y[4]
    most, needed = face.friction * normal, abs(slip) / (1 + 1 / KAPPA)
    j = -np.sign(slip) * min(most, needed)
    y[2:4] += normal * n + j * tangent
    y[4] -= j / (KAPPA * radius)
    return most < needed


def lane(times, v, w, radius, friction, rolling, down=0.0):
    """Centre, speed, spin and turn of a sphere on a plane, without air: slides, then rolls, then stands.

    With ``down`` gravity along +x and g across, the speed changes, sliding, at down - s μ g and the spin at (s μ - ρ c) g / (κ r),
    s the sign of the slip and ρ that of the spin; rolling, the speed changes at (down - ρ c g) / (1 + κ).
    """
    g = np.sqrt(G * G - down * down)
    out = np.zeros((len(times), 4))
    t, x, turn = 0.0, 0.0, 0.0
    pieces = []
    for _ in range(6):
        slip = v - radius * w
        if abs(slip) > 1e-12:
            s, rho = np.sign(slip), np.sign(w) if w else np.sign(slip)
            a, alpha = down - s * friction * g, (s * friction - rho * rolling) * g / (KAPPA * radius)
            closing = radius * alpha - a
            until = slip / closing if slip * closing > 0 else np.inf
            turned = -w / alpha if w * alpha < 0 else np.inf
            h = min(until, turned)
            pieces.append((t, x, turn, v, w, a, alpha))
            v, w, x, turn = v + a * h, w + alpha * h, x + v * h + 0.5 * a * h * h, turn + w * h + 0.5 * alpha * h * h
            if h == turned:
                w = 0.0
            else:
                w = v / radius
            t += h
        elif abs(v) > 1e-12 and rolling * g > np.sign(v) * down:
            a = (down - np.sign(v) * rolling * g) / (1 + KAPPA)
            h = -v / a
            pieces.append((t, x, turn, v, w, a, a / radius))
            x, turn, t, v, w = x + 0.5 * v * h, turn + 0.5 * w * h, t + h, 0.0, 0.0
        else:
            a = 0.0
            if abs(v) > 1e-12 or abs(down) > rolling * g:
                a = (down - np.sign(v or down) * rolling * g) / (1 + KAPPA)
            pieces.append((t, x, turn, v, v / radius, a, a / radius))
            break
    for t0, x0, turn0, v0, w0, a, alpha in pieces:
        here = times >= t0
        h = times[here] - t0
        out[here] = np.column_stack([x0 + v0 * h + 0.5 * a * h * h, v0 + a * h, w0 + alpha * h,
                                     turn0 + w0 * h + 0.5 * alpha * h * h])
    return out
