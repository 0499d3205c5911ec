"""Event summary of a run: contacts, apexes, rest and states of one body, for batches without the interpreter.

The outcome functions read the same from the trajectory of a single motion; the tests compare the two bit for bit.
"""

from math import isnan, sqrt

from yapa.engine.kernels.jit import REAL, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.knots import lay_knots
from yapa.engine.kernels.layout import (
    CALL_CFG,
    CALL_OUT,
    CALL_TIMES,
    CFG_MIN_CONTACT,
    CFG_MIN_RISE,
    CFG_MIN_SLOPE,
    CFG_REST,
    HEAD_END,
    HEAD_HITS,
    HEAD_LEFT,
    HEAD_MOVES_ON,
    HEAD_PEAK_SPEED,
    HEAD_SERIES,
    HEAD_START,
    HEAD_STILL,
    HIT_APPROACH,
    HIT_COLUMNS,
    HIT_COUNTED,
    HIT_NORMAL,
    HIT_PARTNER,
    HIT_PLACE,
    HIT_PULL,
    HIT_REBOUND,
    HIT_RISE,
    HIT_SLIP,
    HIT_SPEED,
    HIT_STEEP,
    HIT_TIME,
    HIT_TOP,
    JOB_AT,
    JOB_BARE,
    JOB_CALL,
    JOB_CLOG,
    JOB_CURVE,
    JOB_HEADS,
    JOB_HITS,
    JOB_KNOTS,
    JOB_ORDER,
    JOB_PLOG,
    JOB_RISES,
    JOB_SEEN,
    LOG_A,
    LOG_APPROACH,
    LOG_B,
    LOG_NORMAL,
    LOG_REBOUND,
    LOG_SLIP0,
    LOG_STATE,
    LOG_TIME,
    MOST_HITS,
)
from yapa.engine.kernels.views import reals, states, wholes


@far(WHOLE, WHOLE, REALS2, WHOLE, REALS2, REAL, REAL, REAL, REALS2)
def climb(knots, curve, hits, bare, end, least, slope, out):
    """What follows every hit along a curve of heights.

    ``curve``: time, height, speed upward arriving and leaving; ``bare``: time, height, how far the normal points up, and rebound
    of each hit. Into ``out``: rise, the time of its top, speed upward after the hit, and whether it counts as a bounce.
    """
    cell = 0
    for i in range(hits):
        t, height, steep = bare[i, 0], bare[i, 1], bare[i, 2]
        speed = bare[i, 3] * max(0.0, steep)
        out[i, 0], out[i, 1], out[i, 2], out[i, 3] = 0.0, t, 0.0, 0.0
        if isnan(speed):  # a track does not tell what came after
            continue
        until = bare[i + 1, 0] if i + 1 < hits else end
        while cell < knots - 2 and curve[cell + 1, 0] < t:
            cell += 1
        top, when, found = height, t, False
        c = cell
        while c < knots - 1 and curve[c, 0] < until:
            if curve[c, 3] > 0.0 and curve[c + 1, 2] < 0.0:
                h = curve[c + 1, 0] - curve[c, 0]
                up, v0, v1 = curve[c + 1, 1] - curve[c, 1], curve[c, 3] * h, curve[c + 1, 2] * h
                a, b = v0 + v1 - 2 * up, 3 * up - 2 * v0 - v1  # height + s (v0 + s (b + s a))
                s = v0 / (sqrt(max(b * b - 3 * a * v0, 0.0)) - b)
                at, high = curve[c, 0] + s * h, curve[c, 1] + s * (v0 + s * (b + s * a))
                if t <= at < until and (not found or high > top):
                    top, when, found = high, at, True
            c += 1
        last = curve[knots - 1, 1]
        if not found and i + 1 == hits and end > t and last > height:  # still rising as the clip ends
            top, when = last, end
        out[i, 0], out[i, 1], out[i, 2] = max(0.0, top - height), when, speed
        out[i, 3] = 1.0 if out[i, 0] >= least and steep > slope else 0.0
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
    h = knots[i + 1, 0] - knots[i, 0]
    s = min(max((t - knots[i, 0]) / h if h > 0.0 else 0.0, 0.0), 1.0)
    for part in range(2):
        x, v = 2 + 3 * part, 8 + 6 * part
        for c in range(3):
            x0, x1, v0, v1 = knots[i, x + c], knots[i + 1, x + c], knots[i, v + 3 + c], knots[i + 1, v + c]
            d = x1 - x0
            out[row, first + 6 * part + c] = x0 + s * (h * v0 + s * (3 * d - h * (2 * v0 + v1) + s * (h * (v0 + v1) - 2 * d)))
            rate = v0
            if h > 0.0:
                d /= h
                rate = v0 + s * (2 * (3 * d - 2 * v0 - v1) + s * 3 * (v0 + v1 - 2 * d))
            out[row, first + 6 * part + 3 + c] = rate


@kernel
def row_after(knots, k, t):
    return knots[k, 0] > t


@kernel
def _tell_hits(body, clog, count, hits, bare, row, up, slowest):
    """Contacts of the body into the row of the hits and the heights that a climb needs. Returns how many, -1 if too many."""
    n = 0
    for k in range(count):
        first = int(clog[k, LOG_A]) == body
        if not (clog[k, LOG_APPROACH] > slowest and (first or int(clog[k, LOG_B]) == body)):
            continue
        if n == MOST_HITS:
            return -1
        o = n * HIT_COLUMNS
        side = 1.0 if first else -1.0
        hits[row, o + HIT_TIME], hits[row, o + HIT_PARTNER] = clog[k, LOG_TIME], clog[k, LOG_B if first else LOG_A]
        for c in range(3):
            hits[row, o + HIT_PLACE + c] = clog[k, LOG_STATE + (0 if first else 18) + c]
            hits[row, o + HIT_NORMAL + c] = clog[k, LOG_NORMAL + c]
        hits[row, o + HIT_APPROACH], hits[row, o + HIT_REBOUND] = clog[k, LOG_APPROACH], clog[k, LOG_REBOUND]
        hits[row, o + HIT_SLIP], hits[row, o + HIT_STEEP] = clog[k, LOG_SLIP0], side * up * clog[k, LOG_NORMAL + 2]
        hits[row, o + HIT_PULL] = clog[k, LOG_NORMAL + 2]
        bare[n, 0], bare[n, 1] = clog[k, LOG_TIME], up * hits[row, o + HIT_PLACE + 2]
        bare[n, 2], bare[n, 3] = hits[row, o + HIT_STEEP], clog[k, LOG_REBOUND]
        n += 1
    return n


@kernel
def _left(knots, k, reach):
    """The larger of speed and r|ω| just after a knot."""
    v = sqrt(knots[k, 11] ** 2 + knots[k, 12] ** 2 + knots[k, 13] ** 2)
    w = sqrt(knots[k, 17] ** 2 + knots[k, 18] ** 2 + knots[k, 19] ** 2)
    return max(v, reach * w)


@kernel
def _tell_rest(knots, n, reach, count, hits, row, pull, still, heads, seen):
    """When it is still, and where a bounce series would end: what rest time is made of."""
    last = n - 1
    while last >= 0 and not _left(knots, last, reach) >= still:
        last -= 1
    heads[row, HEAD_MOVES_ON] = 1.0 if last == n - 1 else 0.0
    heads[row, HEAD_STILL] = knots[0, 0]
    if 0 <= last < n - 1:
        a, b = _left(knots, last, reach), _left(knots, last + 1, reach)
        t0, t1 = knots[last, 0], knots[last + 1, 0]
        heads[row, HEAD_STILL] = t0 + (t1 - t0) * (a - still) / (a - b) if a > b else t1
    heads[row, HEAD_SERIES] = heads[row, HEAD_LEFT] = 1e300
    if last < 0:
        return
    for k in range(count - 1, -1, -1):
        o = k * HIT_COLUMNS
        if hits[row, o + HIT_COUNTED] == 0.0:
            continue
        approach, rebound = hits[row, o + HIT_APPROACH], hits[row, o + HIT_REBOUND]
        ratio = rebound / approach if approach > 0.0 else 0.0
        g = abs(pull * hits[row, o + HIT_PULL])
        if ratio < 1.0 and g != 0.0:
            series = hits[row, o + HIT_TIME] + 2 * rebound / (g * (1 - ratio))
            _state(knots, n, min(series + 1e-3, knots[n - 1, 0]), 0, seen, 0)
            along = 0.0
            for c in range(3):
                along += seen[0, 3 + c] * hits[row, o + HIT_NORMAL + c]
            across = turning = 0.0
            for c in range(3):
                across += (seen[0, 3 + c] - along * hits[row, o + HIT_NORMAL + c]) ** 2
                turning += seen[0, 9 + c] ** 2
            heads[row, HEAD_SERIES], heads[row, HEAD_LEFT] = series, max(sqrt(across), reach * sqrt(turning))
        return


@far(WHOLE, WHOLE, WHOLE, REAL, REAL, WHOLE, WHOLE, WHOLES1)
def tell(row, body, pull, reach, contacts, phases, job):
    """What one run tells of a body that reaches so far, from its samples and logs; ``pull`` is gravity along z."""
    up = 1.0 if pull <= 0.0 else -1.0
    call, knots, order = wholes(job, JOB_CALL)[0], reals(job, JOB_KNOTS), wholes(job, JOB_ORDER)
    cfg = reals(call, CALL_CFG)[0]
    clog, plog = reals(job, JOB_CLOG)[:contacts], reals(job, JOB_PLOG)[:phases]
    hits, heads, bare, rises = reals(job, JOB_HITS), reals(job, JOB_HEADS), reals(job, JOB_BARE), reals(job, JOB_RISES)
    n = lay_knots(body, reals(call, CALL_TIMES)[0], states(call, CALL_OUT), clog, plog, order, knots)
    count = _tell_hits(body, clog, contacts, hits, bare, row, up, cfg[CFG_MIN_CONTACT])
    heads[row, HEAD_HITS] = count
    if count < 0:
        return 0
    curve = reals(job, JOB_CURVE)
    fastest = 0.0
    for k in range(n):
        curve[k, 0], curve[k, 1], curve[k, 2], curve[k, 3] = knots[k, 0], up * knots[k, 4], up * knots[k, 10], up * knots[k, 13]
        for side in (8, 11):
            fastest = max(fastest, knots[k, side] ** 2 + knots[k, side + 1] ** 2 + knots[k, side + 2] ** 2)
    end = knots[n - 1, 0]
    climb(n, curve, count, bare, end, cfg[CFG_MIN_RISE], cfg[CFG_MIN_SLOPE], rises)
    for k in range(count):
        o = k * HIT_COLUMNS
        hits[row, o + HIT_RISE], hits[row, o + HIT_TOP], hits[row, o + HIT_SPEED], hits[row, o + HIT_COUNTED] = (
            rises[k, 0], rises[k, 1], rises[k, 2], rises[k, 3])
    heads[row, HEAD_END], heads[row, HEAD_PEAK_SPEED] = end, sqrt(fastest)
    for c in range(3):
        heads[row, HEAD_START + c] = knots[0, 2 + c]
    _tell_rest(knots, n, reach, count, hits, row, pull, cfg[CFG_REST], heads, rises)
    at, seen = reals(job, JOB_AT), reals(job, JOB_SEEN)
    for k in range(at.shape[1]):
        _state(knots, n, min(at[0, k], end), row, seen, 12 * k)
    return count
