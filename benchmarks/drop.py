"""One drop against SciPy's general solver: 2 s, 240 Hz output, drag and spin, exact contacts.

Both are the call a fit makes on an already compiled case: values in, 480 samples and the contacts
out. Times are taken interleaved in one run and only their ratio means anything.
"""

from __future__ import annotations

import statistics
import time

import numpy as np
from scipy.integrate import solve_ivp

from benchmarks.pages import put
from yapa.case import Body, Case, Plane, Sphere, Surface
from yapa.engine import simulate
from yapa.engine.runner import Program

G, AIR = 9.80665, 1.2041
R, MASS, CD, E, MU = 0.038, 0.18, 0.5, 0.75, 0.3
START, SPIN = (0.0, 1.4, 0.6, 0.0), -40.0
TIMES = np.arange(481) / 240
K = 0.5 * AIR * CD * np.pi * R * R / MASS


def by_solve_ivp(rtol: float, atol: float) -> tuple[np.ndarray, list[float]]:
    """The same motion piece by piece, with terminal events at the contacts."""

    def rate(_t, y):
        speed = np.hypot(y[2], y[3])
        return [y[2], y[3], -K * speed * y[2], -G - K * speed * y[3]]

    def touch(_t, y):
        return y[1] - R

    touch.terminal, touch.direction = True, -1
    t, y, w, out, hits = 0.0, np.array(START), SPIN, np.zeros((len(TIMES), 2)), []
    while t < 2.0:
        s = solve_ivp(rate, (t, 2.0), y, method="DOP853", rtol=rtol, atol=atol, events=touch, dense_output=True)
        inside = (t <= TIMES) & (s.t[-1] >= TIMES)
        out[inside] = s.sol(TIMES[inside])[:2].T
        t, y = float(s.t[-1]), s.y[:, -1].copy()
        if not len(s.t_events[0]):
            break
        hits.append(t)
        slip, jn = y[2] - R * w, -(1 + E) * y[3]
        jt = -np.sign(slip) * min(2 / 7 * abs(slip), MU * jn)
        w -= jt * 5 / (2 * R)
        y = np.array([y[0], R, y[2] + jt, -E * y[3]])
    return out, hits


def the_case() -> Case:
    ball = Body(shapes=(Sphere(kind="sphere", radius=R, surface="s"),), mass=MASS, drag_coefficient=CD,
                position=(START[0], 0.0, START[1]), velocity=(START[2], 0.0, START[3]), angular_velocity=(0.0, SPIN, 0.0))
    floor = Body(motion="static", shapes=(Plane(kind="plane", surface="s"),))
    return Case(surfaces={"s": Surface(restitution=E, friction=MU)}, bodies={"ball": ball, "floor": floor}, duration=2.0)


def timed(call, repeats: int) -> float:
    begun = time.perf_counter()
    for _ in range(repeats):
        call()
    return (time.perf_counter() - begun) / repeats


def main() -> None:
    case = the_case()
    program = Program(case)
    values = {"surfaces.s.restitution": E, "bodies.ball.velocity.x": START[2]}
    raw = program.run(values, TIMES, 2.0)
    exact, hits = by_solve_ivp(1e-10, 1e-10)
    error = np.abs(raw.states[:, 0, [0, 2]] - exact).max()
    contact_error = max(abs(a - b) for a, b in zip(raw.contacts[:, 0], hits, strict=True))
    rows = []
    for _ in range(7):
        ours = timed(lambda: program.run(values, TIMES, 2.0, keep=False), 300)
        whole = timed(lambda: program.run(values, TIMES, 2.0), 300)
        facade = timed(lambda: simulate(case, values, times=TIMES), 300)
        theirs = timed(lambda: by_solve_ivp(1e-9, 1e-9), 3)
        rows.append((ours, whole, facade, theirs))
    ours, whole, facade, theirs = (statistics.median(column) for column in zip(*rows, strict=True))
    told = [
        ("position error against DOP853 at 1e-10", f"{error:.1e} m"),
        ("contact time error", f"{contact_error:.1e} s over {len(hits)} contacts"),
        ("compiled call: values in, 480 samples and contacts out", f"{ours * 1e6:.0f} µs"),
        ("`solve_ivp` DOP853, events, rtol 1e-9", f"{theirs * 1e6:.0f} µs"),
        ("ratio", f"{theirs / ours:.0f}×"),
        ("the same, orientations too, in memory of its own", f"{whole * 1e6:.0f} µs"),
        ("façade's own overhead beside that (checks, names)", f"{(facade - whole) * 1e6:.0f} µs a call"),
    ]
    print("\n".join(f"{name}: {value}" for name, value in told))
    put("One drop (2 s, drag, spin, exact contacts)", told)


if __name__ == "__main__":
    main()
