"""Samples of a run: read off the dense output, between the ends of a substep, or of bodies as they stand."""

from math import sqrt

from yapa.engine.kernels.dynamics.flight import place_at, spin_at, turn_at
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import (
    body,
    state,
)
from yapa.engine.kernels.math.simd import sample_fours


@part
def sample(t, h, BL, S, P, D, times, out, first, lean):
    """Write the samples of moving bodies that fall into (t, t + h]; those that rest were laid out by the host."""
    bodies, end = BL.shape[0], t + h
    while first < times.shape[0] and times[first] <= t and t > 0.0:
        first += 1
    if first == times.shape[0] or times[first] > end:
        return first
    last = first
    for n in range(bodies):
        b = BL[n]
        if P[b, body.MOTION] == 0.0:
            continue
        ball = lean and P[b, body.BALL] != 0.0
        if ball and P[b, body.ANG_DAMP] == 0.0:
            last = sample_fours(D, S, b, 1.0 / P[b, body.INERTIA], t, end, first, times, out)
            continue
        last = first
        while last < times.shape[0] and times[last] <= end:
            place_at(b, times[last] - t, D, out[last])
            if ball:
                spin_at(b, times[last] - t, S, P, D, out[last])
            else:
                turn_at(b, times[last] - t, S, P, D, out[last])
            last += 1
    while last < times.shape[0] and times[last] <= end:  # where nothing moves
        last += 1
    return last


@part
def sample_as_they_are(end, first, BL, S, P, times, out):
    """Write bodies as they are into the samples up to a time. Returns the next one."""
    while first < times.shape[0] and times[first] <= end:
        for k in range(BL.shape[0]):
            if P[BL[k], body.MOTION] != 0.0:
                for c in range(state.COUNT):
                    out[first, BL[k], c] = S[BL[k], c]
        first += 1
    return first


@kernel
def sample_between(row, share, bodies, BL, S, P, before, out):
    """States between the start and the end of a substep."""
    for k in range(bodies):
        b = BL[k]
        if P[b, body.MOTION] != 0.0:
            for c in range(state.COUNT):
                out[row, b, c] = before[b, c] + share * (S[b, c] - before[b, c])
            n = 1.0 / sqrt(out[row, b, state.QW] ** 2 + out[row, b, state.QX] ** 2 + out[row, b, state.QY] ** 2
                           + out[row, b, state.QZ] ** 2)
            for c in range(state.ORIENTATION, state.VELOCITY):
                out[row, b, c] *= n
