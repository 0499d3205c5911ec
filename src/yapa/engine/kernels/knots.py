"""The knots of a body's curve: its samples, its contacts and the ends of its phases, one a time.

A contact carries the velocities before and after it, so it wins over what else stands at its time; several contacts at one time
are one knot, from before the first to after the last.
"""

from yapa.engine.kernels.jit import REALS1, REALS2, REALS3, WHOLE, WHOLES2, far, kernel
from yapa.engine.kernels.layout import LOG_A, LOG_B, LOG_STATE, LOG_TIME, PH_A, PH_B, PH_STATE, PH_T0, PH_T1

SAME = 1e-12
"""s: knots nearer than this are one."""


@kernel
def _event(k, order, contacts, phases, row):
    """Write the knot of an event: a row of a log and the column at which the body's state stands in it."""
    what, at, o = order[k, 0], order[k, 1], order[k, 2]
    if what < 0:
        row[0], row[1] = contacts[at, LOG_TIME], 0.0
        for c in range(18):
            row[2 + c] = contacts[at, o + c]
        return
    row[0], row[1] = phases[at, what], 2.0
    for c in range(6):
        row[2 + c] = phases[at, o + c]
    for c in range(3):
        row[8 + c] = row[11 + c] = phases[at, o + 6 + c]
        row[14 + c] = row[17 + c] = phases[at, o + 9 + c]


@kernel
def _when(k, order, contacts, phases):
    what = order[k, 0]
    return contacts[order[k, 1], LOG_TIME] if what < 0 else phases[order[k, 1], what]


@far(WHOLE, WHOLE, REALS1, REALS3, REALS2, REALS2, WHOLES2, REALS2)
def lay_knots(i, times, states, contacts, phases, order, out):
    """Knots of body ``i`` into ``out``; ``order`` (events + 1, 3) is scratch, its last row too. Returns how many."""
    count = 0
    for c in range(contacts.shape[0]):
        for side in range(2):
            if int(contacts[c, LOG_A if side == 0 else LOG_B]) == i:
                order[count, 0], order[count, 1], order[count, 2] = -1, c, LOG_STATE + 18 * side
                count += 1
    for side in range(2):
        for late in range(2):
            for c in range(phases.shape[0]):
                if int(phases[c, PH_A if side == 0 else PH_B]) == i:
                    order[count, 0], order[count, 1] = (PH_T0 if late == 0 else PH_T1), c
                    order[count, 2] = PH_STATE + 24 * late + 12 * side
                    count += 1
    spare = order.shape[0] - 1
    for k in range(1, count):  # contacts first within a time, else as they came
        for c in range(3):
            order[spare, c] = order[k, c]
        t = _when(k, order, contacts, phases)
        hit = order[k, 0] < 0
        j = k
        while j > 0:
            before = _when(j - 1, order, contacts, phases)
            if before < t or (before == t and (order[j - 1, 0] < 0 or not hit)):
                break
            for c in range(3):
                order[j, c] = order[j - 1, c]
            j -= 1
        for c in range(3):
            order[j, c] = order[spare, c]
    n, k, e, last, has_hit = 0, 0, 0, -1e300, False
    first, end = times[0], times[times.shape[0] - 1]
    while k < times.shape[0] or e < count:
        t = _when(e, order, contacts, phases) if e < count else 1e300
        take = e < count and (k >= times.shape[0] or t < times[k] or (t == times[k] and order[e, 0] < 0))
        if take:
            hit = order[e, 0] < 0
            e += 1
            if not first <= t <= end:
                continue
        else:
            hit, t = False, times[k]
            k += 1
        apart = t - last >= SAME
        last = t
        if not apart and (not hit or has_hit):
            if hit:
                _event(e - 1, order, contacts, phases, out[n])  # the row after the last is free for this
                for c in range(11, 14):
                    out[n - 1, c], out[n - 1, c + 6] = out[n, c], out[n, c + 6]
            continue
        at = n if apart else n - 1
        has_hit = hit
        if take:
            _event(e - 1, order, contacts, phases, out[at])
        else:
            s = states[k - 1, i]
            out[at, 0], out[at, 1] = t, 1.0
            for c in range(3):
                out[at, 2 + c], out[at, 5 + c] = s[c], s[13 + c]
                out[at, 8 + c] = out[at, 11 + c] = s[7 + c]
                out[at, 14 + c] = out[at, 17 + c] = s[10 + c]
        n = at + 1
    return n
