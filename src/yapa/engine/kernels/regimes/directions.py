"""Directions of slip and of rolling over a substep of the event-driven regime.

A contact that slips at the start slips over the whole substep, along the mean of its directions: with slip that changes evenly
from u0 to u1, the mean t of u/|u| at the two Gauss points. The friction -μ N t then takes energy whatever u1 is, since
t (u0 + u1) is the sum over both points of |u| times 1 + the cosine between them; and a slip that ends at zero has a mean. The same
goes for rolling. Where either comes to zero inside or turns too far, the substep is cut there, so the next one may grip or hold.
"""

from math import sqrt

from yapa.engine.kernels.contact.contact_rows import slipping, turning
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import (
    contact,
    contact_int,
    contact_mode,
    limits,
    material,
    slip_state,
)
from yapa.engine.kernels.math.vectors import (
    ZERO,
    ahead,
    aside,
    dot,
    length,
    minus,
    over,
    plus,
    put,
    times,
    vector,
)

GAUSS, LONGEST = 0.5 - 0.5 / sqrt(3.0), 2.0
"""The first of two Gauss points; the longest step to a mean direction."""
NO_ROLL = 1e-7
"""rad/s: rolling below this counts as none."""
SLIP_COLUMNS = (contact.SLIP_DIR, contact.SLIP_FROM, contact.SLIP_WAS)
ROLL_COLUMNS = (contact.ROLL_DIR, contact.ROLL_FROM, contact.ROLL_WAS)
"""Where a direction of a row stands: its mean, its start, and what was tried last."""
ASIDE = 0.5
"""A substep is cut where a slip or a rolling would turn by more: its share along the old direction over that across it."""


@kernel
def _start(i, size, u, columns, CF):
    """A direction at the start of a substep, which is its first mean as well. ``columns``: of the mean, of the start, of the last
    one tried."""
    mean, start, was = columns
    along = over(u, size)
    put(CF, i, mean, along)
    put(CF, i, start, along)
    put(CF, i, was, along)


@part
def start_directions(i, law, S, CI, CF):
    """Whether contact ``i`` slips and rolls at the start of a substep, how fast, and along what."""
    _, u = slipping(i, CI, CF, S)
    CF[i, contact.SLIP0] = length(u)
    if CF[i, contact.SLIP0] > limits.NO_SLIP:
        CI[i, contact_int.SLIPPING] = slip_state.SLIPS
        _start(i, CF[i, contact.SLIP0], u, SLIP_COLUMNS, CF)
    CF[i, contact.ROLL0] = 0.0
    if law[material.ROLLING] > 0.0 and CF[i, contact.REFF] > 0.0:
        rolling = turning(i, CI, CF, S)
        CF[i, contact.ROLL0] = length(rolling)
        if CF[i, contact.ROLL0] > NO_ROLL:
            CI[i, contact_int.ROLLING] = 1
            _start(i, CF[i, contact.ROLL0], rolling, ROLL_COLUMNS, CF)


@kernel
def _along_and_aside(u, start):
    """The share of a vector along the direction of a substep's start, and the size of the rest."""
    return dot(u, start), length(aside(u, start))


@part
def end_directions(i, E, CI, CF):
    """How fast contact ``i`` slips and rolls at the end of a substep, along its start and across it."""
    _, u = slipping(i, CI, CF, E)
    if CI[i, contact_int.SLIPPING] == slip_state.SLIPS:
        CF[i, contact.SLIP1], CF[i, contact.SLIP_ASIDE] = _along_and_aside(u, vector(CF, i, contact.SLIP_FROM))
    else:
        CF[i, contact.SLIP1] = length(u)
    CF[i, contact.ROLL1] = CF[i, contact.ROLL0]
    if CI[i, contact_int.ROLLING] == 1:
        rolling = turning(i, CI, CF, E)
        CF[i, contact.ROLL1], CF[i, contact.ROLL_ASIDE] = _along_and_aside(rolling, vector(CF, i, contact.ROLL_FROM))


@part
def _mean_direction(start, size, u):
    """That of the straight way from ``size`` times a direction to ``u``: of its two Gauss points; of what turns back, its start."""
    if not dot(u, start) > 0.0:
        return start
    total = ZERO
    for k in range(2):
        late = GAUSS if k == 0 else 1.0 - GAUSS
        between = ahead(times((1.0 - late) * size, start), late, u)
        total = plus(total, over(between, length(between)))
    return over(total, length(total))


@kernel
def _toward_mean(i, size, u, columns, CF):
    """Turn a direction of row ``i`` to the mean of the directions on the straight way from its start to ``u``.

    The mean is that of the two Gauss points: a way that ends at zero has one too. What gives way to it within the
    substep is so never driven by it. Where the mean depends on the direction used, secants find it. What turns back
    keeps the direction of its start: the substep is cut there. Returns how far the direction was off.
    ``columns``: of the mean, of the start, of the last one tried.
    """
    mean, start, was = columns
    now = vector(CF, i, mean)
    off = minus(_mean_direction(vector(CF, i, start), size, u), now)
    moved = minus(now, vector(CF, i, was))
    share = 1.0
    if dot(moved, moved) > 0.0:
        change = dot(minus(off, vector(CF, i, was + 3)), moved)
        share = min(max(-dot(moved, moved) / change if change < 0.0 else LONGEST, 0.0), LONGEST)
    put(CF, i, was, now)
    put(CF, i, was + 3, off)
    new = ahead(now, share, off)
    if length(new) > 0.0:
        put(CF, i, mean, over(new, length(new)))
    return length(off)


@kernel
def turn_directions(m, E, CI, CF):
    """Directions of slip and of rolling as means over the substep, as the last pass predicts them. Returns the largest change."""
    most = 0.0
    for i in range(m):
        if CI[i, contact_int.PAIR] == limits.MOTOR or CI[i, contact_int.MODE] == contact_mode.NONE:
            continue
        if CI[i, contact_int.SLIPPING] == slip_state.SLIPS:
            _, u = slipping(i, CI, CF, E)
            most = max(most, _toward_mean(i, CF[i, contact.SLIP0], u, SLIP_COLUMNS, CF))
        if CI[i, contact_int.ROLLING] == 1:
            most = max(most, _toward_mean(i, CF[i, contact.ROLL0], turning(i, CI, CF, E), ROLL_COLUMNS, CF))
    return most


@kernel
def _turned_at(size, along, aside, little, least):
    """The share of a straight way at which a vector has turned by 45°, if at its end it turned too far or back, or 1.

    Without anything aside that is where it comes to zero."""
    if along < -little or (aside > least and along < ASIDE * aside):
        return size / (size - along + aside)
    return 1.0


@kernel
def crossing(m, h, CI, CF):
    """The earliest time in the substep at which slip or rolling of a contact comes to zero or turns too far, or h."""
    first = h
    for i in range(m):
        if CI[i, contact_int.MODE] == contact_mode.NONE:
            continue
        if CI[i, contact_int.SLIPPING] == slip_state.SLIPS:
            first = min(first, h * _turned_at(CF[i, contact.SLIP0], CF[i, contact.SLIP1], CF[i, contact.SLIP_ASIDE], 1e-13,
                                              limits.NO_SLIP))
        if CI[i, contact_int.ROLLING] == 1:
            first = min(first, h * _turned_at(CF[i, contact.ROLL0], CF[i, contact.ROLL1], CF[i, contact.ROLL_ASIDE], 1e-12,
                                              NO_ROLL))
    return first


@kernel
def bends(m, most, CI, CF):
    """Whether a slip or a rolling turns by more than this in the substep [rad]."""
    for i in range(m):
        if CI[i, contact_int.MODE] != contact_mode.NONE:
            if CI[i, contact_int.SLIPPING] == slip_state.SLIPS and CF[i, contact.SLIP_ASIDE] > most * CF[i, contact.SLIP0]:
                return True
            if CI[i, contact_int.ROLLING] == 1 and CF[i, contact.ROLL_ASIDE] > most * CF[i, contact.ROLL0]:
                return True
    return False
