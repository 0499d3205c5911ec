"""Contact solver: the contact law of one island (``contact_law``) solved to rounding.

Chain: a few Gauss-Seidel sweeps where there is no guess; Newton on the law, with W + εD in place of W in its matrix
only, so that each step is a proximal one (what W cannot tell apart moves as little as it may, and stays evenly spread),
ten full steps and then damped ones, keeping the best. Where that fails: sweeps and ε from 1e-2 down, then a
few other starts, with other d and ε and always the same ones, then ε from 1e-1 in nine steps, friction grown from none,
and more other starts. The best of all is returned with its error. (Acary, Brémond, Huber, On solving contact problems
with Coulomb friction, 2018, compares such chains.)
"""

from math import sqrt

from yapa.engine.kernels.contact.contact_law import (
    LAW,
    Law,
    bound_of,
    clear_vector,
    copy_vector,
    keep_better,
    largest_term,
    set_block_scales,
    speeds_of,
    times_row,
)
from yapa.engine.kernels.contact.newton import newton
from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import row, row_int, row_kind, slip_state, unknowns

EPSILON = 1e-9
DONE, ENOUGH = 3e-15, 1e-11
"""Errors, as shares of the largest term: nothing left to gain; no need of a fallback."""
FAR = 1e-3
"""A guess that misses by more is swept first."""
QUICK, SHAKES, FRICTION_STEPS = 14, 140, 8
GOAL = 0.2 * DONE
"""What a step of the chain is to reach."""


@kernel
def _sweep(N, times, law):
    """Block Gauss-Seidel on the vector NOW: normals exactly, blocks by the scalar metric. Stops when nothing moves."""
    V, RI, RF = law.V, law.RI, law.RF
    for _ in range(times):
        moved, most = 0.0, 0.0
        for r in range(N):
            what = RI[r, row_int.KIND]
            if what == row_kind.MORE:
                continue
            count = RI[r, row_int.SIZE]
            for e in range(count):
                V[unknowns.SPEED, r + e] = V[unknowns.FREE, r + e] + times_row(r + e, N, unknowns.NOW, law)
            if what == row_kind.NORMAL:
                new = max(0.0, V[unknowns.NOW, r] - V[unknowns.SPEED, r] * V[unknowns.INV_SWEEP, r])
                moved = max(moved, abs(new - V[unknowns.NOW, r]))
                most = max(most, new)
                V[unknowns.NOW, r] = new
                continue
            slip, grip = bound_of(r, unknowns.NOW, law)
            size = 0.0
            for e in range(count):
                V[unknowns.STEP, e] = V[unknowns.NOW, r + e] - V[unknowns.SPEED, r + e] * V[unknowns.INV_SWEEP, r]
                size += V[unknowns.STEP, e] ** 2
            size = sqrt(size)
            for e in range(count):
                if RI[r, row_int.SLIPPING] == slip_state.SLIPS:
                    new = -slip * RF[r, row.GIVEN + e]
                elif size <= grip:
                    new = V[unknowns.STEP, e]
                else:
                    new = V[unknowns.STEP, e] * slip / size
                moved = max(moved, abs(new - V[unknowns.NOW, r + e]))
                V[unknowns.NOW, r + e] = new
        if moved <= 1e-16 * most:
            break


@kernel
def _polish(N, best, scale, most, law):
    """Steps on the law itself from the vector NOW. Returns the best error."""
    e = newton(N, law, EPSILON, 0.0, 0.0, most, GOAL * scale)
    if e < best:
        best = e
        copy_vector(N, unknowns.NOW, unknowns.BEST, law)
    return best


@kernel
def _even_out(N, best, scale, law):
    """Of the impulses that W cannot tell from the best, those nearest to the guess. Returns their error."""
    copy_vector(N, unknowns.START, unknowns.HELD, law)
    e = newton(N, law, EPSILON, EPSILON, 1e-3 * EPSILON * scale, 5, GOAL * scale)
    if e > max(best, 1e-13 * scale):
        return best
    copy_vector(N, unknowns.NOW, unknowns.BEST, law)
    return e


@far(REAL, WHOLE, WHOLE, WHOLE, LAW, REAL, REAL)
def _shake(first, last, N, law, best, scale):
    """From other starts around the best and elsewhere, always the same ones. Returns the best error."""
    V, RI = law.V, law.RI
    typical = 0.0
    for a in range(N):
        V[unknowns.START, a] = V[unknowns.BEST, a]
        typical = max(typical, abs(V[unknowns.BEST, a]))
    seed = 1 + first
    for k in range(first, last):
        for a in range(N):
            seed = (1103515245 * seed + 12345) % 2147483648
            share = seed / 2147483648.0
            if k % 2 == 0:
                V[unknowns.NOW, a] = V[unknowns.START, a] * 2.0 * share
            else:
                V[unknowns.NOW, a] = typical * (share if RI[a, row_int.KIND] == row_kind.NORMAL else 2.0 * share - 1.0)
        _sweep(N, 2 + 5 * (k % 4), law)
        set_block_scales(N, 1.0 if k % 3 == 0 else (0.1 if k % 3 == 1 else 10.0), law)
        newton(N, law, 1e-5 if k % 2 == 0 else EPSILON, 0.0, 0.0, 20, GOAL * scale)
        set_block_scales(N, 1.0, law)
        best = keep_better(N, best, law)
        if best <= ENOUGH * scale:
            break
    return best


@part
def _from_a_strong_start(N, epsilon, share, stages, steps, goal, law):
    """Through problems ever less regularised."""
    for _ in range(stages):
        newton(N, law, epsilon, epsilon, 0.0, steps, goal)
        epsilon *= share


@part
def _from_the_guess(N, best, scale, law):
    """Newton from the guess, after some sweeps where it is none; then through regularised problems. The best error, its scale."""
    for attempt in range(2):
        swept = attempt == 1 or best > FAR * scale
        if swept:  # the guess led nowhere, or is none: sweep from it first
            copy_vector(N, unknowns.START, unknowns.NOW, law)
            _sweep(N, 12 if attempt == 0 else 40, law)  # a sweep costs a seventh of a step
            best = keep_better(N, best, law)
            scale = largest_term(N, law)
        if attempt == 1:
            clear_vector(N, unknowns.HELD, law)
            _from_a_strong_start(N, 1e-2, 1e-2, 4, 14, 1e-5 * scale, law)
        best = _polish(N, best, scale, 12 if attempt == 0 else 22, law)
        scale = largest_term(N, law)
        if best <= ENOUGH * scale:
            if swept and law.V[unknowns.FULL_RANK, 0] == 0.0:
                best = _even_out(N, best, scale, law)
            break
    return best, scale


@part
def _by_growing_friction(N, best, scale, law):
    """Friction grown from none. Returns the best error."""
    RI, RF = law.RI, law.RF
    clear_vector(N, unknowns.NOW, law)
    clear_vector(N, unknowns.HELD, law)
    share = 0.0
    for step in range(FRICTION_STEPS + 1):
        grown = (step + 1e-6) / (FRICTION_STEPS + 1e-6)
        factor = grown if step == 0 else grown / share
        share = grown
        for r in range(N):
            if RI[r, row_int.KIND] != row_kind.BOUNDED:
                RF[r, row.DYNAMIC] *= factor
                RF[r, row.STATIC] *= factor
        newton(N, law, 1e-6, 1e-6, 0.0, 18, GOAL * scale)
    return _polish(N, best, scale, 22, law)


@far(REAL, WHOLE, REALS2, REALS2, REALS2, WHOLES2, REALS2)
def solve_law(N, V, W, A, RI, RF):
    """Solve the law; impulses in the vector BEST, velocities in SPEED.

    On entry FREE holds b and NOW a guess. Returns the error relative to the largest term.
    """
    law = Law(V, W, A, RI, RF)
    copy_vector(N, unknowns.NOW, unknowns.START, law)
    copy_vector(N, unknowns.NOW, unknowns.BEST, law)
    set_block_scales(N, 1.0, law)
    V[unknowns.FULL_RANK, 0] = 0.0
    best = keep_better(N, 1e300, law)
    scale = largest_term(N, law)
    if best <= DONE * scale:
        return best / scale
    best, scale = _from_the_guess(N, best, scale, law)
    if best > ENOUGH * scale:
        best = _shake(0, QUICK, N, law, best, scale)
    if best > ENOUGH * scale:  # from far: a strongly regularised problem first
        clear_vector(N, unknowns.NOW, law)
        clear_vector(N, unknowns.HELD, law)
        _from_a_strong_start(N, 1e-1, 0.1, 9, 18, GOAL * scale, law)
        best = _polish(N, best, scale, 22, law)
    if best > ENOUGH * scale:
        best = _by_growing_friction(N, best, scale, law)
    if best > ENOUGH * scale:
        best = _shake(QUICK, SHAKES, N, law, best, scale)
    speeds_of(N, unknowns.BEST, 0.0, law)
    return best / largest_term(N, law)
