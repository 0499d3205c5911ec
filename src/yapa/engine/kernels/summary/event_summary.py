"""Event summary of a run: contacts, apexes, rest and states of one body, for batches without the interpreter.

The outcome functions read the same from the trajectory of a single motion; the tests compare the two bit for bit.
"""

from math import isnan, sqrt

from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout import (
    bare_hit,
    call_table,
    climb,
    config,
    contact_log,
    head,
    hit,
    hit_state,
    job_table,
    knot,
    limits,
    rise,
    sample,
)
from yapa.engine.kernels.layout.views import reals, states, wholes
from yapa.engine.kernels.math.vectors import aside, length, put, vector
from yapa.engine.kernels.summary.knots import write_knots


@far(WHOLE, WHOLE, REALS2, WHOLE, REALS2, REAL, REAL, REAL, REALS2)
def climb_after_hits(knots, curve, hits, bare, end, least, slope, out):
    """What follows every hit along a curve of heights.

    ``curve``: time, height, speed upward arriving and leaving; ``bare``: time, height, how far the normal points up, and rebound
    of each hit. Into ``out``: rise, the time of its top, speed upward after the hit, and whether it counts as a bounce.
    """
    cell = 0
    for i in range(hits):
        t, height, steep = bare[i, bare_hit.TIME], bare[i, bare_hit.HEIGHT], bare[i, bare_hit.STEEP]
        speed = bare[i, bare_hit.REBOUND] * max(0.0, steep)
        out[i, rise.HEIGHT], out[i, rise.TOP], out[i, rise.SPEED], out[i, rise.COUNTED] = 0.0, t, 0.0, 0.0
        if isnan(speed):  # a track does not tell what came after
            continue
        until = bare[i + 1, bare_hit.TIME] if i + 1 < hits else end
        while cell < knots - 2 and curve[cell + 1, climb.TIME] < t:
            cell += 1
        top, when, found = height, t, False
        c = cell
        while c < knots - 1 and curve[c, climb.TIME] < until:
            if curve[c, climb.LEAVING] > 0.0 and curve[c + 1, climb.ARRIVING] < 0.0:
                h = curve[c + 1, climb.TIME] - curve[c, climb.TIME]
                up, v0 = curve[c + 1, climb.HEIGHT] - curve[c, climb.HEIGHT], curve[c, climb.LEAVING] * h
                v1 = curve[c + 1, climb.ARRIVING] * h
                a, b = v0 + v1 - 2 * up, 3 * up - 2 * v0 - v1  # height + s (v0 + s (b + s a))
                s = v0 / (sqrt(max(b * b - 3 * a * v0, 0.0)) - b)
                at, high = curve[c, climb.TIME] + s * h, curve[c, climb.HEIGHT] + s * (v0 + s * (b + s * a))
                if t <= at < until and (not found or high > top):
                    top, when, found = high, at, True
            c += 1
        last = curve[knots - 1, climb.HEIGHT]
        if not found and i + 1 == hits and end > t and last > height:  # still rising as the clip ends
            top, when = last, end
        out[i, rise.HEIGHT], out[i, rise.TOP], out[i, rise.SPEED] = max(0.0, top - height), when, speed
        out[i, rise.COUNTED] = 1.0 if out[i, rise.HEIGHT] >= least and steep > slope else 0.0
    return 0


@kernel
def _state(knots, n, t, row, out, first):
    """Place, velocity, turn and spin at a time into a row; held constant outside."""
    low, high = 0, n
    while low < high:  # the first knot after t
        middle = (low + high) // 2
        if row_after(knots, middle, t):
            high = middle
        else:
            low = middle + 1
    i = min(max(low - 1, 0), n - 2)
    h = knots[i + 1, knot.TIME] - knots[i, knot.TIME]
    s = min(max((t - knots[i, knot.TIME]) / h if h > 0.0 else 0.0, 0.0), 1.0)
    for part in range(2):
        x, v, w, place, speed = knot.POSITION, knot.VELOCITY_AFTER, knot.VELOCITY_BEFORE, sample.POSITION, sample.VELOCITY
        if part == 1:
            x, v, w, place, speed = knot.ROTATION, knot.OMEGA_AFTER, knot.OMEGA_BEFORE, sample.ROTATION, sample.OMEGA
        for c in range(3):
            x0, x1, v0, v1 = knots[i, x + c], knots[i + 1, x + c], knots[i, v + c], knots[i + 1, w + c]
            d = x1 - x0
            out[row, first + place + c] = x0 + s * (h * v0 + s * (3 * d - h * (2 * v0 + v1) + s * (h * (v0 + v1) - 2 * d)))
            rate = v0
            if h > 0.0:
                d /= h
                rate = v0 + s * (2 * (3 * d - 2 * v0 - v1) + s * 3 * (v0 + v1 - 2 * d))
            out[row, first + speed + c] = rate


@kernel
def row_after(knots, k, t):
    return knots[k, knot.TIME] > t


@kernel
def _collect_contacts(body, clog, count, hits, bare, row, up, slowest):
    """Contacts of the body into the row of the hits and the heights that a climb needs. Returns how many, -1 if too many."""
    n = 0
    for k in range(count):
        first = int(clog[k, contact_log.BODY_A]) == body
        if not (clog[k, contact_log.APPROACH] > slowest and (first or int(clog[k, contact_log.BODY_B]) == body)):
            continue
        if n == limits.MAX_HITS:
            return -1
        o = n * hit.COUNT
        side = 1.0 if first else -1.0
        hits[row, o + hit.TIME] = clog[k, contact_log.TIME]
        hits[row, o + hit.PARTNER] = clog[k, contact_log.BODY_B if first else contact_log.BODY_A]
        body_state = contact_log.STATE_A if first else contact_log.STATE_B
        put(hits, row, o + hit.POSITION, vector(clog, k, body_state + hit_state.POSITION))
        put(hits, row, o + hit.NORMAL, vector(clog, k, contact_log.NORMAL))
        hits[row, o + hit.APPROACH], hits[row, o + hit.REBOUND] = clog[k, contact_log.APPROACH], clog[k, contact_log.REBOUND]
        hits[row, o + hit.SLIP] = clog[k, contact_log.SLIP_BEFORE]
        hits[row, o + hit.STEEP] = side * up * clog[k, contact_log.NORMAL + 2]
        hits[row, o + hit.PULL] = clog[k, contact_log.NORMAL + 2]
        bare[n, bare_hit.TIME], bare[n, bare_hit.HEIGHT] = clog[k, contact_log.TIME], up * hits[row, o + hit.POSITION + 2]
        bare[n, bare_hit.STEEP], bare[n, bare_hit.REBOUND] = hits[row, o + hit.STEEP], clog[k, contact_log.REBOUND]
        n += 1
    return n


@kernel
def _left(knots, k, reach):
    """The larger of speed and r|ω| just after a knot."""
    return max(length(vector(knots, k, knot.VELOCITY_AFTER)), reach * length(vector(knots, k, knot.OMEGA_AFTER)))


@kernel
def _summarise_rest(knots, n, reach, count, hits, row, pull, still, heads, seen):
    """When it is still, and where a bounce series would end: what rest time is made of."""
    last = n - 1
    while last >= 0 and not _left(knots, last, reach) >= still:
        last -= 1
    heads[row, head.MOVES_ON] = 1.0 if last == n - 1 else 0.0
    heads[row, head.STILL] = knots[0, knot.TIME]
    if 0 <= last < n - 1:
        a, b = _left(knots, last, reach), _left(knots, last + 1, reach)
        t0, t1 = knots[last, knot.TIME], knots[last + 1, knot.TIME]
        heads[row, head.STILL] = t0 + (t1 - t0) * (a - still) / (a - b) if a > b else t1
    heads[row, head.SERIES] = heads[row, head.LEFT] = 1e300
    if last < 0:
        return
    for k in range(count - 1, -1, -1):
        o = k * hit.COUNT
        if hits[row, o + hit.COUNTED] == 0.0:
            continue
        approach, rebound = hits[row, o + hit.APPROACH], hits[row, o + hit.REBOUND]
        ratio = rebound / approach if approach > 0.0 else 0.0
        g = abs(pull * hits[row, o + hit.PULL])
        if ratio < 1.0 and g != 0.0:
            series = hits[row, o + hit.TIME] + 2 * rebound / (g * (1 - ratio))
            _state(knots, n, min(series + 1e-3, knots[n - 1, knot.TIME]), 0, seen, 0)
            sliding = length(aside(vector(seen, 0, sample.VELOCITY), vector(hits, row, o + hit.NORMAL)))
            turning = length(vector(seen, 0, sample.OMEGA))
            heads[row, head.SERIES], heads[row, head.LEFT] = series, max(sliding, reach * turning)
        return


@far(WHOLE, WHOLE, WHOLE, REAL, REAL, WHOLE, WHOLE, WHOLES1)
def summarise_run(row, body, pull, reach, contacts, phases, job):
    """What one run tells of a body that reaches so far, from its samples and logs; ``pull`` is gravity along z."""
    up = 1.0 if pull <= 0.0 else -1.0
    call, knots, order = wholes(job, job_table.CALL)[0], reals(job, job_table.KNOTS), wholes(job, job_table.EVENTS)
    cfg = reals(call, call_table.CONFIG)[0]
    clog, plog = reals(job, job_table.CONTACT_LOG)[:contacts], reals(job, job_table.PHASE_LOG)[:phases]
    hits, heads, bare = reals(job, job_table.HITS), reals(job, job_table.HEADS), reals(job, job_table.BARE_HITS)
    rises = reals(job, job_table.RISES)
    n = write_knots(body, reals(call, call_table.TIMES)[0], states(call, call_table.OUT), clog, plog, order, knots)
    count = _collect_contacts(body, clog, contacts, hits, bare, row, up, cfg[config.MIN_CONTACT])
    heads[row, head.HITS] = count
    if count < 0:
        return 0
    curve = reals(job, job_table.CLIMB)
    fastest = 0.0
    for k in range(n):
        curve[k, climb.TIME], curve[k, climb.HEIGHT] = knots[k, knot.TIME], up * knots[k, knot.Z]
        curve[k, climb.ARRIVING] = up * knots[k, knot.VELOCITY_BEFORE + 2]
        curve[k, climb.LEAVING] = up * knots[k, knot.VELOCITY_AFTER + 2]
        fastest = max(fastest, length(vector(knots, k, knot.VELOCITY_BEFORE)), length(vector(knots, k, knot.VELOCITY_AFTER)))
    end = knots[n - 1, knot.TIME]
    climb_after_hits(n, curve, count, bare, end, cfg[config.MIN_RISE], cfg[config.MIN_SLOPE], rises)
    for k in range(count):
        o = k * hit.COUNT
        hits[row, o + hit.RISE], hits[row, o + hit.TOP] = rises[k, rise.HEIGHT], rises[k, rise.TOP]
        hits[row, o + hit.SPEED], hits[row, o + hit.COUNTED] = rises[k, rise.SPEED], rises[k, rise.COUNTED]
    heads[row, head.END], heads[row, head.PEAK_SPEED] = end, fastest
    put(heads, row, head.START, vector(knots, 0, knot.POSITION))
    _summarise_rest(knots, n, reach, count, hits, row, pull, cfg[config.REST], heads, rises)
    at, seen = reals(job, job_table.QUERY_TIMES), reals(job, job_table.QUERY_STATES)
    for k in range(at.shape[1]):
        _state(knots, n, min(at[0, k], end), row, seen, sample.COUNT * k)
    return count
