"""Random instances of the contact law, as they come from rigid bodies: W = J M⁻¹ Jᵀ, b = J v."""

from __future__ import annotations

import numpy as np

from yapa.engine.kernels.contact.contact_solver import solve_law
from yapa.engine.kernels.layout import row, row_int, row_kind, slip_state, unknowns


def _rotation(rng):
    q, r = np.linalg.qr(rng.normal(size=(3, 3)))
    return q * np.sign(np.diag(r))


def _stack(rng, masses):
    """Boxes one on the other, four corners each."""
    corners = [(sx, sy) for sx in (-1, 1) for sy in (-1, 1)]
    return [(k, k - 1, np.array([0, 0, 1.0]), np.array([0.05 * a, 0.05 * b, -0.05]), np.array([0.05 * a, 0.05 * b, 0.05]))
            for k in range(len(masses)) for a, b in corners]


def _tetrahedra(rng, count):
    """A few bodies touched from all around."""
    points = []
    for _ in range(count):
        n = rng.normal(size=3)
        n /= np.linalg.norm(n)
        points.append((0, -1, n, -0.05 * n + rng.normal(size=3) * 0.01, np.zeros(3)))
    return points


def instance(rng, family):
    """W, b, and the friction of each contact."""
    bodies = int(rng.integers(1, 4))
    if family == "stack":
        bodies = int(rng.integers(1, 3))
    masses = 10 ** rng.uniform(-2, 2, bodies)
    if bodies > 1:
        masses[-1] = masses[0] * 10 ** rng.uniform(-4, 4)
    contacts = int(rng.integers(1, 9))
    if family == "stack":
        points = _stack(rng, masses)
        friction = np.full(len(points), rng.uniform(0, 2))
    elif family == "tetrahedra":
        bodies, masses = 1, masses[:1]
        points = _tetrahedra(rng, contacts)
        friction = rng.uniform(0, 1.5, contacts)
    else:
        points = []
        for k in range(contacts):  # each contact between neighbours, or with what stands
            a = k % bodies
            b = a - 1
            n = rng.normal(size=3)
            n /= np.linalg.norm(n)
            points.append((a, b, n, rng.normal(size=3) * 0.05, rng.normal(size=3) * 0.05))
        friction = rng.uniform(0, 5, contacts) if rng.random() < 0.2 else rng.uniform(0, 1, contacts)
    inverse = np.zeros((6 * bodies, 6 * bodies))
    for k in range(bodies):
        R = _rotation(rng)
        inverse[6 * k : 6 * k + 3, 6 * k : 6 * k + 3] = np.eye(3) / masses[k]
        moments = masses[k] * 0.002 * rng.uniform(0.5, 2, 3)
        inverse[6 * k + 3 : 6 * k + 6, 6 * k + 3 : 6 * k + 6] = R @ np.diag(1 / moments) @ R.T
    rows = []
    for a, b, n, ra, rb in points:
        t = np.cross(n, [1, 0, 0] if abs(n[0]) < 0.6 else [0, 1, 0])
        t /= np.linalg.norm(t)
        for d in (n, t, np.cross(n, t)):
            row = np.zeros(6 * bodies)
            row[6 * a : 6 * a + 3], row[6 * a + 3 : 6 * a + 6] = d, np.cross(ra, d)
            if b >= 0:
                row[6 * b : 6 * b + 3], row[6 * b + 3 : 6 * b + 6] = -d, -np.cross(rb, d)
            rows.append(row)
    J = np.array(rows)
    v = rng.normal(size=6 * bodies)
    return J @ inverse @ J.T, J @ v, friction


def laid(W, b, friction):
    """The arrays of an instance, as the law takes them."""
    N = len(b)
    V = np.zeros((unknowns.COUNT, N))
    V[0] = b
    RI, RF = np.zeros((N, row_int.COUNT), np.int64), np.zeros((N, row.COUNT))
    for i, mu in enumerate(friction):
        RI[3 * i, :4] = (0, 3 * i, 1, 0)
        RI[3 * i + 1, :4] = (row_kind.FRICTION, 3 * i, 2, slip_state.HITS)
        RI[3 * i + 2, 0] = row_kind.MORE
        RF[3 * i + 1, :2] = mu
    return N, V, np.ascontiguousarray(W), np.zeros((N, N + 4)), RI, RF


def solve(W, b, friction):
    """Error, impulses and velocities."""
    arrays = laid(W, b, friction)
    error = solve_law.host(*arrays)
    return error, arrays[1][5].copy(), arrays[1][4].copy()
